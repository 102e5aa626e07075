"""Scenes on sheets: how large they are there, where places of the building lie on the paper, what title blocks say."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from anatome.lengths import scale_words
from anatome.look.look import Look, Rgb
from anatome.look.shipped import shipped_looks
from anatome.notes.facts import SectionPlace
from anatome.notes.furniture import BAR, bar_length
from anatome.scenes.project import Project, Scene
from anatome.sheets.paper import Box, text_lines
from anatome.sheets.sheet import (
    AnyBlock,
    ContentsBlock,
    KeyPlanBlock,
    LegendBlock,
    NorthBlock,
    PictureBlock,
    ScaleBarBlock,
    SceneFrame,
    Sheet,
    TextBlock,
)
from anatome.view.crop import INCH_PAPERS, PAPERS, height_at
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
WHITE = (1.0, 1.0, 1.0)
CAPTION = 2.5
"""Mm of the capitals of the words under a scene."""
UNDER = 3.2
"""Mm from a scene down to the base line of its caption, less its capitals."""
STRAIGHT_DOWN = 0.99
"""Cosine between sight and vertical from which a picture is a plan."""
KEY_ASPECT = 1.25
"""Width over height of the place of a key plan; the plan itself stands in the middle of it."""
LEGEND_ROW = 2.6
"""From row to row of a legend, in heights of a capital."""
CONTENTS_ROW = 2.4
"""From row to row of a list of sheets, in heights of a capital."""
LEGEND_WIDE = 22.0
"""Width of a column of a legend, in heights of a capital."""


def metres_high(scene: Scene) -> float:
    """Return what of the plane a scene's picture shows true its picture is high."""
    _, low, _, high = scene.frame.crop
    return height_at(scene.state.camera, scene.state.true_plane()) * (high - low)


def picture_height(frame: SceneFrame, scene: Scene) -> float:
    """Mm the whole picture of a scene is high on its sheet."""
    return frame.height if frame.scale is None else metres_high(scene) * 1000.0 / frame.scale


def scale_of(frame: SceneFrame, scene: Scene) -> float:
    """Return the 50 of 1:50 it has there."""
    return metres_high(scene) * 1000.0 / picture_height(frame, scene)


def frame_box(frame: SceneFrame, scene: Scene) -> Box:
    """Return where what is shown of it lies."""
    high = picture_height(frame, scene)
    left, bottom, right, top = frame.crop
    x, y = frame.at
    return (x, y, x + high * scene.aspect * (right - left), y + high * (top - bottom))


def box_of(block: AnyBlock, project: Project, sheet: Sheet) -> Box:
    """Return where a block lies; a scene that is gone keeps a place of its own size."""
    x, y = block.at
    if isinstance(block, SceneFrame):
        scene = project.scene(block.scene)
        wide, high = block.room or (1.5 * block.height, block.height)
        return (x, y, x + wide, y + high) if scene is None else frame_box(block, scene)
    if isinstance(block, TextBlock):
        return text_lines(filled(block.text, fields_of(sheet, project)), block.at, block.height, block.strong)[1]
    if isinstance(block, PictureBlock):
        return (x, y, x + block.width, y + block.width / block.aspect)
    if isinstance(block, KeyPlanBlock):
        return (x, y, x + block.height * KEY_ASPECT, y + block.height)
    if isinstance(block, ScaleBarBlock):
        scale = bar_scale(block, sheet)
        return (x, y, x + bar_length(scale, block.unit) + 3 * block.height, y + BAR + 1.0 + 1.3 * block.height)
    if isinstance(block, NorthBlock):
        return (x, y, x + block.height, y + block.height)
    if isinstance(block, ContentsBlock):
        return (x, y, x + block.width, y + CONTENTS_ROW * block.height * (len(project.sheets) + 1))
    assert isinstance(block, LegendBlock)
    count = 6  # until it is known what is cut
    return (x, y, x + block.columns * LEGEND_WIDE * block.height, y + -(-count // block.columns) * LEGEND_ROW * block.height)


def bar_scale(block: ScaleBarBlock, sheet: Sheet) -> float:
    """Return the 50 of 1:50 of a scale bar; 100 where nothing says another."""
    held = (f.scale for f in sheet.frames if f.scale is not None)
    return block.scale or next(held, 100.0)


def north_turn(block: NorthBlock, project: Project, sheet: Sheet, north: float) -> float:
    """Degrees clockwise on the paper to north, which lies ``north`` degrees clockwise of the model's Y."""
    if block.turn is not None:
        return block.turn
    for frame in sheet.frames:
        scene = project.scene(frame.scene)
        if scene is None or scene.state.camera.axes[2][2] < STRAIGHT_DOWN:
            continue
        right, up, _ = scene.state.camera.axes
        way = np.array([np.sin(np.radians(north)), np.cos(np.radians(north)), 0.0])
        return float(np.degrees(np.arctan2(way @ right, way @ up)))
    return north


def on_sheet(frame: SceneFrame, scene: Scene, place: Array) -> Array:
    """Return (2,) mm on the sheet of (3,) a place of the building."""
    high = picture_height(frame, scene)
    viewport = Viewport(scene.state.camera, scene.frame.sized(high * scene.aspect, high))
    x, y = viewport.pixels(place) * [1, -1] + [0, high]
    left, bottom, _, _ = frame.crop
    return np.array([frame.at[0] + x - left * high * scene.aspect, frame.at[1] + y - bottom * high])


def level_on_sheet(frame: SceneFrame, scene: Scene, centre: Array, level: float) -> float | None:
    """Mm up the sheet at which a level lies; None where it is no line across it: in all but sections that are seen square on, and
    elevations."""
    camera, plane = scene.state.camera, scene.state.true_plane()
    place = in_true_plane(scene, np.array([centre[0], centre[1], level]))
    sight = camera.axes[2]
    upright = abs(plane.normal[2]) < 1e-6 if plane is not None else not camera.is_perspective and abs(float(sight[2])) < 1e-6
    if not upright or abs(float(camera.axes[0][2])) > 1e-6 or any(camera.shear):
        return None
    return float(on_sheet(frame, scene, place)[1])


def in_true_plane(scene: Scene, place: Array) -> Array:
    """Return (3,) the foot of a place in the plane a scene shows true, or the place."""
    plane = scene.state.true_plane()
    return place if plane is None else place - plane.n * float(plane.distance(place))


def look_of(frame: SceneFrame, scene: Scene, project: Project) -> Look:
    """Return the look a frame is drawn in."""
    if not frame.look:
        return scene.state.look
    own = [*project.looks, *(s.state.look for s in project.scenes)]
    found = next((look for look in own if look.name == frame.look), None)
    return found or shipped_looks().get(frame.look, scene.state.look)


def shown_in(frame: SceneFrame, scene: Scene, project: Project, ground: Rgb = WHITE) -> Scene:
    """Return the scene as a frame shows it: in its look, with its notes or without, on the sheet's own ground if it can be."""
    state = scene.state
    look, divide = look_of(frame, scene, project), state.divide
    changes: dict[str, object] = {"look": look if frame.papered else on_ground(look, ground)}
    if divide is not None and not frame.papered:
        changes["divide"] = divide.model_copy(update={"other": on_ground(divide.other, ground)})
    if not frame.notes:
        changes["notes_shown"] = False
    return scene.model_copy(update={"state": state.model_copy(update=changes), "locked": False})


def on_ground(look: Look, ground: Rgb = WHITE) -> Look:
    """Return a look on paper of a colour; one that is drawn light on dark where that is light, or dark on light where it is dark,
    or has a sky, needs its own and is left as it is."""
    dark = sum(look.paper) <= sum(look.ink)
    if look.sky is not None or dark != (sum(ground) <= sum(look.ink)) or look.paper == ground:
        return look
    # What is left as the paper is, goes along with it.
    fills = {name: ground for name in ("poche", "poche_earth", "poche_beside") if getattr(look, name) == look.paper}
    return look.model_copy(update={"paper": ground, **fills})


# What it says -------------------------------------------------------------------------------------------------


def drawing_number(frame: SceneFrame, project: Project, sheet: Sheet) -> str:
    """Return the number a scene has on its sheet, by the order of the scenes of those that are numbered; nothing where it has
    none."""
    if not frame.numbered:
        return ""
    order = {scene.id: place for place, scene in enumerate(project.scenes)}
    there = sorted((f for f in sheet.frames if f.numbered and f.scene in order), key=lambda f: order[f.scene])
    return next((str(place) for place, f in enumerate(there, 1) if f.id == frame.id), "")


def section_places(project: Project) -> dict[str, SectionPlace]:
    """Return, by the id of each cut a scene on a sheet shows square on, what its mark says: the number of that drawing, or the
    letter of the cut, over the number of the sheet."""
    found: dict[str, SectionPlace] = {}
    for sheet in project.sheets:
        for frame in sheet.frames:
            scene = project.scene(frame.scene)
            for cut in () if scene is None else scene.state.cuts_seen_true:
                over = drawing_number(frame, project, sheet) or cut.mark
                found.setdefault(cut.id, SectionPlace(over, number_of(sheet, project)))
    return found


def number_of(sheet: Sheet, project: Project) -> str:
    """Its number, its own or by its place among the sheets."""
    if sheet.number:
        return sheet.number
    place = next((i for i, s in enumerate(project.sheets, 1) if s.id == sheet.id), 1)
    return f"{place:02d}"


def paper_words(paper: tuple[float, float]) -> str:
    """“A3”, or its size."""
    long, short = max(paper), min(paper)
    for name, size in (PAPERS | INCH_PAPERS).items():
        if abs(size[0] - long) < 0.5 and abs(size[1] - short) < 0.5:
            return name
    return f"{paper[0]:.0f} × {paper[1]:.0f}"


def fields_of(sheet: Sheet, project: Project) -> dict[str, str]:
    """Return what the title block of a sheet says."""
    scenes = {s.id: s for s in project.scenes}
    scales = sorted({scale_of(f, scenes[f.scene]) for f in sheet.frames if f.scene in scenes and f.scale is not None})
    titles = project.titles
    return {
        "organisation": titles.organisation,
        "project": titles.project or project.name,
        "name": sheet.name,
        "number": number_of(sheet, project),
        "count": f"{len(project.sheets)}",
        "scale": ", ".join(dict.fromkeys(map(scale_words, scales))) or "–",
        "revision": sheet.revision,
        "date": sheet.date or titles.date,
        "drawn": titles.drawn,
        "paper": paper_words(sheet.paper),
        "logo": titles.logo,
    }


def filled(text: str, fields: Mapping[str, str]) -> str:
    """Return a text with its fields in braces filled; what is no field stays as it is."""
    for name, value in fields.items():
        text = text.replace("{" + name + "}", value)
    return text
