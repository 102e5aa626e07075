"""Edits: functions from a project to the next. None of them changes its argument."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Iterable, Sequence
from dataclasses import replace
from typing import Any, Literal

from anatome.cuts.cut import AnyCut, SectionBox, SectionPlane, SteppedSection
from anatome.cuts.kinds.box import Box
from anatome.cuts.kinds.stepped_line import SteppedLine
from anatome.cuts.peel import BuildUpLayer, peel_planes, planes_of
from anatome.cuts.plane import Plane
from anatome.cuts.poche_rules import PocheRules
from anatome.cuts.reach import EVERYTHING, Reach
from anatome.cuts.series import SerialSections
from anatome.cuts.treatment import Treatments
from anatome.look.line_layers import LineLayers
from anatome.look.look import Look
from anatome.problems import Problem
from anatome.scenes.marks import free_mark, marks_in
from anatome.scenes.note_edits import without_notes
from anatome.scenes.project import ModelReference, Project, Scene, StageState, Units
from anatome.scenes.scene_parts import PARTS, Part, as_saved, with_parts
from anatome.scenes.shared_cuts import Keeping, followed
from anatome.scenes.variants import let_go, spread
from anatome.view.camera import Camera, Projection
from anatome.view.crop import Crop
from anatome.view.viewport import Frame


def new_id() -> str:
    """Return a fresh id for a cut or a scene."""
    return uuid.uuid4().hex[:12]


# The stage ----------------------------------------------------------------------------------------------------


def set_camera(project: Project, camera: Camera) -> Project:
    return project.with_stage(camera=camera)


def set_look(project: Project, look: Look) -> Project:
    return project.with_stage(look=look)


def set_treatments(project: Project, treatments: Treatments) -> Project:
    return project.with_stage(treatments=treatments)


def set_poche(project: Project, rules: PocheRules) -> Project:
    return project.with_stage(poche=rules)


def set_outlines(project: Project, ids: Iterable[str], how: Literal["filled", "open", "as they are"]) -> Project:
    """Have the outlines of some elements closed where they are cut, or left open, or as they are: on the stage and in all scenes
    that are not locked."""
    own = frozenset(ids)

    def told(state: StageState) -> StageState:
        rules = state.poche
        filled = rules.filled | own if how == "filled" else rules.filled - own
        left = rules.left_open | own if how == "open" else rules.left_open - own
        return state.model_copy(update={"poche": rules.model_copy(update={"filled": filled, "left_open": left})})

    scenes = tuple(s if s.locked else s.model_copy(update={"state": told(s.state)}) for s in project.scenes)
    current, shown = project.scene(project.current_scene), project.scene_as_shown
    if shown is not None and current is not None and not current.locked:
        shown = told(shown)
    return project.model_copy(update={"scenes": scenes, "stage": told(project.stage), "scene_as_shown": shown})


def set_projection(project: Project, projection: Projection) -> Project:
    return set_camera(project, project.stage.camera.model_copy(update={"projection": projection}))


def hide(project: Project, ids: Iterable[str]) -> Project:
    return project.with_stage(hidden=project.stage.hidden | frozenset(ids))


def show(project: Project, ids: Iterable[str]) -> Project:
    own = frozenset(ids)
    return project.with_stage(hidden=project.stage.hidden - own, faded=project.stage.faded - own)


def show_all(project: Project) -> Project:
    return project.with_stage(hidden=frozenset(), faded=frozenset(), hidden_before=None)


def fade(project: Project, ids: Iterable[str]) -> Project:
    """Hide parts and go on drawing them faintly."""
    own = frozenset(ids)
    return project.with_stage(hidden=project.stage.hidden | own, faded=project.stage.faded | own)


def set_ghosts(project: Project, on: bool) -> Project:
    """Draw all that is hidden faintly, or not."""
    return project.with_stage(ghosts=on)


def show_only(project: Project, ids: Iterable[str], everything: Iterable[str]) -> Project:
    """Hide all but these."""
    return project.with_stage(hidden=frozenset(everything) - frozenset(ids))


def isolate(project: Project, ids: Iterable[str], everything: Iterable[str]) -> Project:
    """Hide all but these for a while; what was hidden before is remembered, and is given back by :func:`end_isolation`."""
    before = project.stage.hidden_before
    return show_only(project, ids, everything).with_stage(hidden_before=project.stage.hidden if before is None else before)


def end_isolation(project: Project) -> Project:
    """Return exactly what was hidden before parts were isolated; what was hidden meanwhile is shown again."""
    before = project.stage.hidden_before
    return project if before is None else project.with_stage(hidden=before, hidden_before=None)


# Cuts ---------------------------------------------------------------------------------------------------------


def add_cut(project: Project, cut: AnyCut, noun: str | None = None) -> Project:
    """Add a cut, named by what it is and the first mark letter no cut of the project has."""
    mark = free_mark(project)
    return _added(project, cut.model_copy(update={"mark": mark, "name": f"{noun or cut.noun} {mark}"}))


def add_plane(project: Project, plane: Plane, cut_id: str, depth: float | None = None, reach: Reach = EVERYTHING) -> Project:
    """Add a section plane."""
    return add_cut(project, SectionPlane(id=cut_id, name="", mark="", plane=plane, depth=depth, reach=reach))


def add_box(project: Project, box: Box, cut_id: str, carve: bool = False) -> Project:
    """Add a section box."""
    return add_cut(project, SectionBox(id=cut_id, name="", mark="", box=box, carve=carve), "Cutaway" if carve else None)


def add_stepped(project: Project, line: SteppedLine, cut_id: str) -> Project:
    """Add a stepped section; one without jogs is a section plane."""
    if not line.jogs:
        return add_plane(project, line.planes[0], cut_id)
    return add_cut(project, SteppedSection(id=cut_id, name="", mark="", line=line))


def _added(project: Project, cut: AnyCut) -> Project:
    return project.with_stage(cuts=(*project.stage.cuts, cut))


def change_cut(project: Project, cut_id: str, **changes: Any) -> Project:
    """Replace fields of one cut; a cut that is not there changes nothing."""
    cuts = tuple(type(c).model_validate(dict(c) | changes) if c.id == cut_id else c for c in project.stage.cuts)
    return project.with_stage(cuts=cuts)


def switch_cuts(project: Project, on: Iterable[str]) -> Project:
    """Return the cuts with these ids on, and all others off."""
    ids = frozenset(on)
    return project.with_stage(cuts=tuple(cut.model_copy(update={"on": cut.id in ids}) for cut in project.stage.cuts))


def put_cut(project: Project, cut: AnyCut) -> Project:
    """Let a cut take the place of the one with the same id; the planes of a peel that are not locked go with it."""
    before = project.stage.cut(cut.id)
    together = project
    for other in peel_of(project, cut.peel) if cut.peel else ():
        if other.id == cut.id or other.locked or before is None:
            continue
        # Where the other lies, seen from the one that is held, stays the same.
        ahead = other.plane.offset - before.axis.offset
        together = _put(together, other.model_copy(update={"plane": cut.axis.moved(ahead)}))
    return _put(together, cut)


def _put(project: Project, cut: AnyCut) -> Project:
    return project.with_stage(cuts=tuple(cut if c.id == cut.id else c for c in project.stage.cuts))


def peel_of(project: Project, peel: str) -> list[SectionPlane]:
    """Return the planes of a peel, that of the outermost layer first."""
    return planes_of(project.stage.cuts, peel)


def add_peel(project: Project, layers: Sequence[BuildUpLayer], plane: Plane, spacing: float, peel: str) -> Project:
    """Return a section plane for each layer of a build-up, named after it. Raises Problem when there is nothing to peel."""
    letter = free_mark(project)
    for number, (own, reach) in enumerate(peel_planes(list(layers), plane, spacing)):
        mark = f"{letter}{number + 1}"
        name = f"Peel {mark}, {layers[number].name}"
        project = _added(
            project,
            SectionPlane(id=f"{peel}{number}", name=name, mark=mark, plane=own, reach=reach, peel=peel, graphic=number == 0),
        )
    return project


def space_peel(project: Project, peel: str, spacing: float) -> Project:
    """Another spacing for a peel; the plane of the innermost layer stays. Raises Problem unless it is above 0."""
    if not spacing > 0:
        raise Problem("The spacing of a peel is a length above 0, for example 0.60 m.")
    own = peel_of(project, peel)
    for steps, cut in enumerate(reversed(own)):
        project = _put(project, cut.model_copy(update={"plane": own[-1].plane.moved(-spacing * steps)}))
    return project


def delete_peel(project: Project, peel: str) -> Project:
    """Without the planes of a peel."""
    return project.with_stage(cuts=tuple(c for c in project.stage.cuts if c.peel != peel))


def copy_cut(project: Project, cut_id: str, copy_id: str, distance: float) -> Project:
    """Return a parallel copy, ``distance`` metres further to where the cut looks, which is switched off in its favour.

    Two parallel planes that look the same way leave what the deeper one leaves; so one of them is on.
    """
    cut = project.stage.cut(cut_id)
    if cut is None:
        return project
    mark = free_mark(project)
    name = f"{cut.noun} {mark}"
    copy = cut.moved(-cut.axis.n * distance)
    changes = {"id": copy_id, "mark": mark, "name": name, "on": True, "locked": False, "peel": ""}
    return _added(change_cut(project, cut_id, on=False), copy.model_copy(update=changes))


# Serial sections ----------------------------------------------------------------------------------------------


def add_series(project: Project, series: SerialSections) -> Project:
    return project.with_stage(series=(*project.stage.series, series))


def put_series(project: Project, series: SerialSections) -> Project:
    """Let a series take the place of the one with the same id."""
    return project.with_stage(series=tuple(series if s.id == series.id else s for s in project.stage.series))


def delete_series(project: Project, series_id: str) -> Project:
    return project.with_stage(series=tuple(s for s in project.stage.series if s.id != series_id))


def next_series_mark(project: Project) -> str:
    """Return the first free mark letter from S on: “S”, “T” …"""
    taken = marks_in(project)
    return next((letter for letter in "STUVWXYZ" if letter not in taken), "S")


def delete_cut(project: Project, cut_id: str) -> Project:
    return project.with_stage(cuts=tuple(c for c in project.stage.cuts if c.id != cut_id))


# The model ----------------------------------------------------------------------------------------------------


def set_embedded(project: Project, embedded: bool) -> Project:
    """Let the model travel inside the project file or lie outside it."""
    return project.model_copy(update={"model": project.model.model_copy(update={"embedded": embedded})})


def without_model(name: str) -> Project:
    """Return a project into which a model is put later."""
    somewhere = Camera(eye=(-20.0, -30.0, 15.0), target=(0.0, 0.0, 0.0))
    return Project(name=name, model=ModelReference(path=""), stage=StageState(camera=somewhere))


def with_model(project: Project, model: ModelReference, camera: Camera) -> Project:
    """Put the first model into a project. What the stage shows of it is seen through ``camera``, unless there are scenes."""
    stage = project.stage if project.scenes else project.stage.model_copy(update={"camera": camera})
    return project.model_copy(update={"model": model, "stage": stage})


# Scenes -------------------------------------------------------------------------------------------------------


def next_scene_name(project: Project) -> str:
    """“Scene N” with the first number not in use."""
    taken = {s.name for s in project.scenes}
    n = len(project.scenes) + 1
    while f"Scene {n}" in taken:
        n += 1
    return f"Scene {n}"


def picture_frame(state: StageState, stage: Frame) -> Frame:
    """Return the frame of the picture of a state: its crop, or else all of the ``stage``."""
    return stage if state.crop is None else state.crop.frame()


def set_crop(project: Project, crop: Crop | None) -> Project:
    return project.with_stage(crop=crop)


def keep_scene(project: Project, scene_id: str, frame: Frame, name: str | None = None) -> Keeping:
    """Keep what the stage shows as a scene and go on showing it: a new one at the end, or that of this id. Other scenes follow
    with the cuts they share, and its variants with all they have in common. Raises Problem when the scene is locked."""
    state = as_saved(project.stage)
    before, seen = unlocked(project, scene_id), picture_frame(state, frame)
    if before is None:
        new = Scene(id=scene_id, name=name or next_scene_name(project), state=state, frame=seen)
        scenes = (*project.scenes, new)
    else:
        kept = before.model_copy(update={"state": state, "frame": seen, "touched": ()})
        scenes = tuple(kept if s.id == scene_id else s for s in project.scenes)
    changed = project.model_copy(update={"scenes": scenes, **_showing(scene_id, state)})
    return spread(followed(project, changed, scene_id), scene_id)


def set_units(project: Project, units: Units) -> Project:
    """Return what a project tells lengths, areas, papers and scales in, whoever opens it; the notes of the stage with them."""
    changed = project.model_copy(update={"units": units})
    if not units:
        return changed
    unit = "ft" if units == "imperial" else "m"
    style = project.stage.note_style
    style = style if (style.unit == "ft") == (unit == "ft") else style.model_copy(update={"unit": unit})
    return changed.model_copy(update={"stage": project.stage.model_copy(update={"note_style": style})})


def set_line_layers(project: Project, scene_id: str, layers: LineLayers | None) -> Project:
    """Return how the linework of a scene is put on layers; None: by kind."""
    scenes = (s.model_copy(update={"line_layers": layers}) if s.id == scene_id else s for s in project.scenes)
    return _with_scenes(project, scenes)


def keep_beside(project: Project, scene_id: str, camera: Camera, crop: Crop | None, frame: Frame, name: str) -> Keeping:
    """Keep what the stage shows, seen by another camera, as a new scene at the end; the stage goes on showing what it does."""
    seen = project.model_copy(update={"stage": project.stage.model_copy(update={"camera": camera, "crop": crop})})
    keeping = keep_scene(seen, scene_id, frame, name)
    stays = {field: getattr(project, field) for field in ("stage", "current_scene", "scene_as_shown")}
    return replace(keeping, project=keeping.project.model_copy(update=stays))


def save_scene(project: Project, scene_id: str, frame: Frame, name: str | None = None) -> Project:
    """Keep what the stage shows as a new scene at the end, and go on showing it."""
    return keep_scene(project, scene_id, frame, name).project


def _showing(scene_id: str, state: StageState) -> dict[str, Any]:
    return {"current_scene": scene_id, "stage": state, "scene_as_shown": state}


def recall_scene(project: Project, scene_id: str, aspect: float) -> Project:
    """Show a scene exactly as it was saved; on a stage narrower than then, from as far as shows all of it. Parts it does not
    remember stay as they are."""
    scene = project.scene(scene_id)
    if scene is None:
        return project
    state = scene.on_stage(aspect)
    if scene.forgets:
        state = with_parts(project.stage, state, frozenset(PARTS) - scene.forgets)
    return project.model_copy(update=_showing(scene_id, state))


def _with_scenes(project: Project, scenes: Iterable[Scene]) -> Project:
    return project.model_copy(update={"scenes": tuple(scenes)})


def remember(project: Project, scene_id: str, parts: Collection[Part]) -> Project:
    """Have a scene remember some parts alone of what it shows; the rest stays on the stage when it is recalled."""
    forgets = frozenset(PARTS) - frozenset(parts)
    scenes = (s.model_copy(update={"forgets": forgets}) if s.id == scene_id else s for s in project.scenes)
    return _with_scenes(project, scenes)


def replace_scene(project: Project, scene_id: str, frame: Frame) -> Project:
    """Let a scene keep what the stage shows now. Raises Problem when it is locked."""
    return keep_scene(project, scene_id, frame).project if project.scene(scene_id) is not None else project


# Locks --------------------------------------------------------------------------------------------------------


def lock_scene(project: Project, scene_id: str, locked: bool) -> Project:
    """Lock a scene, or unlock it; a stage that shows something else than the locked scene is free."""
    scenes = (s.model_copy(update={"locked": locked}) if s.id == scene_id else s for s in project.scenes)
    return freed(_with_scenes(project, scenes))


def unlocked(project: Project, scene_id: str) -> Scene | None:
    """Return a scene to be changed, None if there is none of this id. Raises Problem when it is locked."""
    scene = project.scene(scene_id)
    if scene is not None and scene.locked:
        raise Problem(f"“{scene.name}” is locked, and stays as it is. Unlock it first, or save the stage as a new scene.")
    return scene


def freed(project: Project) -> Project:
    """Return the same with its stage free, no scene's own, where it no longer shows the locked scene that was on it."""
    scene = project.scene(project.current_scene)
    if scene is None or not scene.locked or not project.differs_from_scene:
        return project
    return project.model_copy(update={"current_scene": None})


def rename_scene(project: Project, scene_id: str, name: str) -> Project:
    """Give a scene another name; an empty one changes nothing. Raises Problem when it is locked."""
    name = name.strip()
    scene = project.scene(scene_id)
    if not name or scene is None or scene.name == name:
        return project
    unlocked(project, scene_id)
    return _with_scenes(project, (s.model_copy(update={"name": name}) if s.id == scene_id else s for s in project.scenes))


def keep_lines(project: Project, scene_id: str, keep: bool) -> Project:
    """Have a scene keep its linework in the project, or not."""
    return _with_scenes(project, (s.model_copy(update={"lines_kept": keep}) if s.id == scene_id else s for s in project.scenes))


def duplicate_scene(project: Project, scene_id: str, copy_id: str, notes: bool = True) -> Project:
    """Return a copy right after the scene, not locked, with what is written on it or without."""
    scenes = []
    for scene in project.scenes:
        scenes.append(scene)
        if scene.id == scene_id:
            copy = scene if notes else without_notes(scene)
            scenes.append(
                copy.model_copy(
                    update={"id": copy_id, "name": f"{scene.name} copy", "locked": False, "stack": "", "own_parts": frozenset()}
                )
            )
    return _with_scenes(project, scenes)


def delete_scene(project: Project, scene_id: str) -> Project:
    """Without a scene. Raises Problem when it is locked."""
    unlocked(project, scene_id)
    changed = _with_scenes(project, (s for s in project.scenes if s.id != scene_id))
    changed = let_go(changed, ())  # a variant that is left alone is none
    gone = project.current_scene == scene_id
    return changed.model_copy(update={"current_scene": None}) if gone else changed
