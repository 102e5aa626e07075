"""Edits of sheets: functions from a project to the next; and sheets that are laid out in one step."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from itertools import count

import numpy as np

from anatome.look.look import Look
from anatome.problems import Problem
from anatome.scenes.project import Project, Scene
from anatome.scenes.sheet_frames import CAPTION, UNDER, box_of, in_true_plane, level_on_sheet, on_sheet, picture_height
from anatome.sheets.layout import grown, rows
from anatome.sheets.paper import Box, free_area
from anatome.sheets.sheet import AnyBlock, PictureBlock, SceneFrame, Sheet, TextBlock, Titles
from anatome.values import put_among

GAP = 10.0
"""Mm between scenes that are laid out."""
BELOW = UNDER + CAPTION + 2.0
"""Mm under a scene for its caption."""
SCALES = (10.0, 20.0, 25.0, 50.0, 75.0, 100.0, 125.0, 150.0, 200.0, 250.0, 500.0, 1000.0)
SLACK = 1.001
READABLE = 90.0
"""Mm a picture is high, at least, for notes on it to have room."""
NewId = Callable[[], str]


def put_sheet(project: Project, sheet: Sheet) -> Project:
    """Return a sheet changed, or a new one behind those there are."""
    return project.model_copy(update={"sheets": put_among(project.sheets, sheet)})


def take_sheet(project: Project, sheet_id: str) -> Project:
    """Without it."""
    return project.model_copy(update={"sheets": tuple(s for s in project.sheets if s.id != sheet_id)})


def move_sheet(project: Project, sheet_id: str, position: int) -> Project:
    """Put a sheet at another place in the order (0 is first)."""
    moving = project.sheet(sheet_id)
    if moving is None:
        return project
    others = [s for s in project.sheets if s.id != sheet_id]
    position = max(0, min(len(others), position))
    return project.model_copy(update={"sheets": (*others[:position], moving, *others[position:])})


def duplicate_sheet(project: Project, sheet_id: str, new_id: NewId) -> Project:
    """Return a copy right after it: the template of the next."""
    sheets: list[Sheet] = []
    for sheet in project.sheets:
        sheets.append(sheet)
        if sheet.id == sheet_id:
            blocks = tuple(b.model_copy(update={"id": new_id()}) for b in sheet.blocks)
            sheets.append(sheet.model_copy(update={"id": new_id(), "name": f"{sheet.name} copy", "number": "", "blocks": blocks}))
    return project.model_copy(update={"sheets": tuple(sheets)})


def as_template(sheet: Sheet, project: Project) -> Sheet:
    """Return a sheet with the places of its scenes and none in them."""
    blocks: list[AnyBlock] = []
    for block in sheet.blocks:
        if isinstance(block, SceneFrame):
            left, bottom, right, top = box_of(block, project, sheet)
            empty = {"scene": "", "look": "", "crop": (0.0, 0.0, 1.0, 1.0), "room": (right - left, top - bottom)}
            block = block.model_copy(update=empty)
        blocks.append(block)
    return sheet.model_copy(update={"number": "", "blocks": tuple(blocks)})


def filled_with(frame: SceneFrame, scene: Scene) -> SceneFrame:
    """Return an empty frame with a scene in the middle of its room: at its scale if that fits, else as large as it can be."""
    wide, high = frame.room or (1.5 * frame.height, frame.height)
    found = frame.model_copy(update={"scene": scene.id, "room": None})
    if frame.scale is None or picture_height(found, scene) > SLACK * min(high, wide / scene.aspect):
        found = found.model_copy(update={"scale": None, "height": min(high, wide / scene.aspect)})
    own = picture_height(found, scene)
    spare = (wide - own * scene.aspect) / 2, (high - own) / 2
    return _moved(found, spare)


def from_template(template: Sheet, project: Project, new_id: NewId) -> Sheet:
    """Return a new sheet like a template; its empty frames get the scenes that are on no sheet yet, in their order."""
    used = {frame.scene for sheet in project.sheets for frame in sheet.frames}
    left = [scene for scene in project.scenes if scene.id not in used]
    blocks: list[AnyBlock] = []
    for block in template.blocks:
        if isinstance(block, SceneFrame) and left:
            block = filled_with(block, left.pop(0))
        blocks.append(block.model_copy(update={"id": new_id()}))
    return template.model_copy(update={"id": new_id(), "blocks": tuple(blocks)})


def sheets_from_template(template: Sheet, project: Project, new_id: NewId) -> Project:
    """Return the project with as many sheets like a template as it takes for every scene to be on one; one where its scenes all
    are already, or the template has no frames."""
    while True:
        sheet = from_template(template, project, new_id)
        if project.sheet(template.id) is None and any(own.name == sheet.name for own in project.sheets):
            sheet = sheet.model_copy(update={"name": _another(sheet.name, {own.name for own in project.sheets})})
        project = put_sheet(project, sheet)
        used = {frame.scene for own in project.sheets for frame in own.frames}
        if not template.frames or all(scene.id in used for scene in project.scenes):
            return project


def _another(name: str, taken: Collection[str]) -> str:
    """A name like one that is taken."""
    return next(made for n in count(2) if (made := f"{name} {n}") not in taken)


def set_titles(project: Project, titles: Titles) -> Project:
    """Return what all title blocks say."""
    return project.model_copy(update={"titles": titles})


def put_blocks(sheet: Sheet, blocks: Iterable[AnyBlock]) -> Sheet:
    """Blocks changed, or new ones over those there are."""
    changed = {b.id: b for b in blocks}
    kept = tuple(changed.pop(b.id, b) for b in sheet.blocks)
    return sheet.model_copy(update={"blocks": (*kept, *changed.values())})


def take_blocks(sheet: Sheet, ids: Iterable[str]) -> Sheet:
    """Without these."""
    gone = frozenset(ids)
    return sheet.model_copy(update={"blocks": tuple(b for b in sheet.blocks if b.id not in gone)})


def moved(block: AnyBlock, by: tuple[float, float]) -> AnyBlock:
    """Return a block moved by mm."""
    return block.model_copy(update={"at": (block.at[0] + by[0], block.at[1] + by[1])})


# On the building ----------------------------------------------------------------------------------------------


def on_one_level(project: Project, frames: Sequence[SceneFrame], centre: np.ndarray, level: float) -> list[SceneFrame]:
    """Frames moved up or down so that a level lies in one line with that in the first. Raises Problem where one shows none."""
    heights = []
    for frame in frames:
        scene = _scene(project, frame)
        height = level_on_sheet(frame, scene, centre, level)
        if height is None:
            raise Problem(
                f"“{scene.name}” shows no level lines, so it cannot be lined up on a storey. Line up its edges instead."
            )
        heights.append(height)
    return [_moved(f, (0.0, heights[0] - y)) for f, y in zip(frames, heights)]


def on_one_axis(project: Project, frames: Sequence[SceneFrame], centre: np.ndarray) -> list[SceneFrame]:
    """Frames moved sideways so that the middle of the building lies over that in the first."""
    across = [on_sheet(f, (s := _scene(project, f)), in_true_plane(s, centre))[0] for f in frames]
    return [_moved(f, (float(across[0] - x), 0.0)) for f, x in zip(frames, across)]


def on_one_place(project: Project, frames: Sequence[SceneFrame], place: np.ndarray) -> list[SceneFrame]:
    """Frames moved so that a place of the building lies where it lies in the first: one look over another, to the hair."""
    spots = [on_sheet(f, _scene(project, f), place) for f in frames]
    return [_moved(f, (float(spots[0][0] - s[0]), float(spots[0][1] - s[1]))) for f, s in zip(frames, spots)]


def _scene(project: Project, frame: SceneFrame) -> Scene:
    scene = project.scene(frame.scene)
    if scene is None:
        raise Problem("One of the picked frames has lost its scene. Take it away, or choose another scene for it.")
    return scene


def _moved(frame: SceneFrame, by: tuple[float, float]) -> SceneFrame:
    return frame.model_copy(update={"at": (frame.at[0] + by[0], frame.at[1] + by[1])})


# In one step --------------------------------------------------------------------------------------------------


def scenes_in_rows(sheet: Sheet, scenes: Sequence[Scene], new_id: NewId, content: str = "picture") -> Sheet:
    """Return all of some scenes on one sheet, as large as they can be. Raises Problem where there are none."""
    if not scenes:
        raise Problem("There are no scenes to lay out. Save some first.")
    height, places = grown([s.aspect for s in scenes], inset(free_area(sheet)), GAP, BELOW)
    frames = [
        SceneFrame.model_validate(
            {"id": new_id(), "scene": s.id, "at": at, "height": height, "content": content, "notes": height >= READABLE}
        )
        for s, at in zip(scenes, places)
    ]
    return put_blocks(sheet, frames)


def at_one_scale(
    sheet: Sheet,
    scenes: Sequence[Scene],
    new_id: NewId,
    project: Project,
    content: str = "both",
    scales: Sequence[float] = SCALES,
) -> Sheet:
    """Scenes side by side at the largest of the usual ``scales`` at which all of them fit. Raises Problem where none does."""
    if not scenes:
        raise Problem("There are no scenes to lay out. Save some first.")
    room = inset(free_area(sheet))
    for scale in scales:
        frames = [SceneFrame.model_validate({"id": "x", "scene": s.id, "scale": scale, "content": content}) for s in scenes]
        boxes = [box_of(f, project, sheet) for f in frames]
        places = rows([(b[2] - b[0], b[3] - b[1]) for b in boxes], room, GAP, BELOW)
        if places is not None:
            # In the middle of what room there is.
            spare = (min(y for _, y in places) - BELOW - room[1]) / 2
            places = [(x, y - spare) for x, y in places]
            laid = [f.model_copy(update={"id": new_id(), "at": at}) for f, at in zip(frames, places)]
            return put_blocks(sheet, _levelled(project, sheet, laid))
    raise Problem("At no usual scale do these scenes fit on this paper. Choose a larger paper, or fewer scenes.")


def laid_out(project: Project, sheet: Sheet, one_scale: bool, scales: Sequence[float] = SCALES) -> Sheet:
    """Return the scenes on a sheet side by side in the order they lie there, storeys in one line where they can: as large as they
    are, or those that have a scale at the largest of the usual ``scales`` at which all fit. Raises Problem where they do
    not fit."""
    frames = sorted((f for f in sheet.frames if project.scene(f.scene) is not None), key=lambda f: f.at[0])
    if len(frames) < 2:
        raise Problem("There is only one scene on this sheet. Drag another one on to it.")
    room = inset(free_area(sheet))
    for scale in scales if one_scale else (None,):
        sized = [f.model_copy(update={"scale": scale}) if scale and _has_scale(_scene(project, f)) else f for f in frames]
        boxes = [box_of(f, project, sheet) for f in sized]
        places = rows([(b[2] - b[0], b[3] - b[1]) for b in boxes], room, GAP, BELOW)
        if places is not None:
            return put_blocks(sheet, _levelled(project, sheet, [f.model_copy(update={"at": at}) for f, at in zip(sized, places)]))
    raise Problem("They do not fit on this paper side by side. Choose a larger paper, or make them smaller.")


def _has_scale(scene: Scene) -> bool:
    """Whether a scale holds in a scene's picture: in a plane it shows true, or all over a parallel one."""
    return scene.state.true_plane() is not None or not scene.state.camera.is_perspective


def _levelled(project: Project, sheet: Sheet, frames: list[SceneFrame]) -> list[SceneFrame]:
    """Sections in one row with their storeys in one line, if all of them still have room; else as they are."""
    tops = {round(box_of(f, project, sheet)[3], 3) for f in frames}
    if len(tops) > 1:
        return frames
    try:
        found = on_one_level(project, frames, np.zeros(3), 0.0)
    except Problem:
        return frames
    boxes = [box_of(f, project, sheet) for f in found]
    low, high = min(b[1] for b in boxes) - BELOW, max(b[3] for b in boxes)
    _, bottom, _, top = inset(free_area(sheet))
    if high - low > top - bottom:
        return frames
    # Together in the middle of what room there is.
    return [_moved(f, (0.0, (bottom + top - low - high) / 2)) for f in found]


def in_looks(sheet: Sheet, scene: Scene, looks: Sequence[Look], new_id: NewId) -> Sheet:
    """Return one scene in several looks edge to edge: each frame shows its own strip of the same picture, exactly fitted."""
    if not looks:
        raise Problem("Choose at least one look.")
    left, bottom, right, top = inset(free_area(sheet))
    height = min(top - bottom - BELOW, (right - left) / scene.aspect)
    wide = height * scene.aspect
    x, y = left + (right - left - wide) / 2, top - height
    frames = []
    for number, look in enumerate(looks):
        a, b = number / len(looks), (number + 1) / len(looks)
        frames.append(
            SceneFrame(
                id=new_id(),
                scene=scene.id,
                at=(x + a * wide, y),
                height=height,
                crop=(a, 0.0, b, 1.0),
                look=look.name,
                caption=number == 0,
            )
        )
    return put_blocks(sheet, frames)


def side_by_side(sheet: Sheet, pictures: Sequence[str], aspect: float, captions: Sequence[str], new_id: NewId) -> Sheet:
    """Return a sheet with pictures (base64) of one proportion, as large as they can be, each with words under it."""
    height, places = grown([aspect] * len(pictures), inset(free_area(sheet)), GAP, BELOW)
    blocks: list[AnyBlock] = []
    for data, words, (x, y) in zip(pictures, captions, places, strict=True):
        blocks.append(PictureBlock(id=new_id(), at=(x, y), data=data, width=aspect * height, aspect=aspect))
        blocks.append(TextBlock(id=new_id(), at=(x, y - BELOW + 2.0), text=words, height=2.5))
    return put_blocks(sheet, blocks)


def inset(box: Box, by: float = GAP) -> Box:
    """Return a box without its rim."""
    return (box[0] + by, box[1] + by, box[2] - by, box[3] - by)
