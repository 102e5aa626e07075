"""A scene for another storey: its level cuts, boxes, camera and levels moved by what lies between the two floors."""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass

import numpy as np

from anatome.cuts.cut import AnyCut
from anatome.model.building import Building
from anatome.notes.anchors import Anchor, box_of
from anatome.notes.note import AnyNote, Level, anchors_of
from anatome.problems import Problem
from anatome.scenes.marks import free_marks, named_anew
from anatome.scenes.plans import plan_storeys
from anatome.scenes.project import Project, Scene, StageState
from anatome.scenes.scene_sets import together
from anatome.scenes.storey_edits import lived_in
from anatome.words import unlike

STOREYS = "Storeys"
"""The set in which a scene for all storeys arrives, if it is in none."""
UNDER_FLOOR = 0.6
"""Metres under a floor at which the lower end of a box still belongs to its storey."""


@dataclass(frozen=True)
class Rise:
    """From the storey ``before`` to the storey ``after``, numbers; ``floor`` and ``ceiling`` in metres, how much higher the floor
    lies, and the floor above it."""

    before: int
    after: int
    floor: float
    ceiling: float


def storey_of(state: StageState, building: Building) -> int | None:
    """Return the number of the storey a state is of: that its level cut or its box stands on. None where it has neither, or the
    model no storeys."""
    moving = [cut for cut in state.active_cuts if _goes_along(cut)]
    if not moving or not building.storeys:
        return None
    first = moving[0]
    corners = first.corners
    level = first.axis.offset * first.axis.normal[2] if corners is None else float(corners[:, 2].min()) + UNDER_FLOOR
    under = [i for i, s in enumerate(building.storeys) if s.elevation <= level + building.tolerance]
    by_height = sorted(range(len(building.storeys)), key=lambda i: building.storeys[i].elevation)
    return max(under, key=lambda i: building.storeys[i].elevation) if under else by_height[0]


def rise(building: Building, before: int, after: int) -> Rise:
    """Return what lies between two storeys, by their real levels."""
    storeys = building.storeys

    def above(number: int) -> float | None:
        higher = [s.elevation for s in storeys if s.elevation > storeys[number].elevation + 0.5]
        return min(higher) if higher else None

    floor = storeys[after].elevation - storeys[before].elevation
    over, under = above(after), above(before)
    return Rise(before, after, floor, floor if over is None or under is None else over - under)


def _goes_along(cut: AnyCut) -> bool:
    return cut.axis.is_level or cut.encloses


def for_storey(
    project: Project, scene: Scene, building: Building, after: int, new_id: Callable[[], str]
) -> tuple[Project, Scene, int]:
    """Return (the project with a scene for another storey behind this one, that scene, how many notes were left out because what
    they are about is on the storey before). Raises Problem where the scene has neither a level cut nor a box."""
    before = storey_of(scene.state, building)
    if before is None:
        raise Problem(
            f"{scene.name} has neither a level cut nor a box, so it is of no storey. Cut it level, or put a box round it."
        )
    by, state = rise(building, before, after), scene.state
    renamed: dict[str, str] = {}
    cuts, marks = [], free_marks(project)
    for cut in state.cuts:
        if not _goes_along(cut):
            cuts.append(cut)
            continue
        moved = named_anew(_lifted(cut, building, by), next(marks))
        renamed[cut.id] = new_id()
        moved = moved.model_copy(update={"id": renamed[cut.id], "name": _called(moved.name, building, by)})
        cuts.append(moved)
    up = np.array([0.0, 0.0, by.floor])
    notes = tuple(note for old in state.notes if (note := _moved_note(old, building, by, renamed)) is not None)
    own = frozenset(e.id for e in building.elements if e.storey == after)
    changes: dict[str, object] = {
        "cuts": tuple(cuts),
        "camera": state.camera.placed(np.array(state.camera.eye) + up, np.array(state.camera.target) + up),
        "notes": notes,
    }
    if own <= state.hidden:  # the storey it is for now is to be seen
        changes["hidden"] = state.hidden - own
    taken = {s.name for s in project.scenes}
    name = unlike(_called(scene.name, building, by, always=True), taken)
    made = scene.model_copy(update={"id": new_id(), "name": name, "locked": False, "state": state.model_copy(update=changes)})
    scenes = [kept for s in project.scenes for kept in ((s, made) if s.id == scene.id else (s,))]
    return project.model_copy(update={"scenes": tuple(scenes)}), made, len(state.notes) - len(notes)


def next_storey(
    project: Project, scene: Scene, building: Building, up: bool, new_id: Callable[[], str]
) -> tuple[Project, Scene, int]:
    """Return the same for the storey above or below. Raises Problem where there is none."""
    before, order = storey_of(scene.state, building), lived_in(building)
    if before is None:
        return for_storey(project, scene, building, 0, new_id)  # says why
    level = building.storeys[before].elevation
    further = [i for i in order if (building.storeys[i].elevation > level if up else building.storeys[i].elevation < level)]
    if not further:
        raise Problem(f"{building.storeys[before].name} is the {'highest' if up else 'lowest'} storey.")
    return for_storey(project, scene, building, further[0 if up else -1], new_id)


def all_storeys(
    project: Project, scene: Scene, building: Building, new_id: Callable[[], str]
) -> tuple[Project, tuple[Scene, ...]]:
    """Return (the project with the scene for every other storey that is lived in, from below, all of them in a set; those
    scenes)."""
    before = storey_of(scene.state, building)
    numbers = [building.storeys.index(storey) for storey in plan_storeys(building)]
    made: list[Scene] = []
    for number in reversed([n for n in numbers if n != before]):
        project, one, _ = for_storey(project, scene, building, number, new_id)
        made.insert(0, one)
    if not made:
        raise Problem("The model has no other storey that is lived in.")
    wanted = {scene.id, *(one.id for one in made)}
    name = scene.set or STOREYS
    scenes = (s.model_copy(update={"set": name}) if s.id in wanted and not s.locked else s for s in project.scenes)
    return together(project.model_copy(update={"scenes": tuple(scenes)})), tuple(made)


def _lifted(cut: AnyCut, building: Building, by: Rise) -> AnyCut:
    """A cut moved from storey to storey; the upper end of a box goes with the floor above if it is nearer to that."""
    corners = cut.corners
    top = by.floor
    if corners is not None:
        floor = building.storeys[by.before].elevation
        above = [s.elevation for s in building.storeys if s.elevation > floor + 0.5]
        high = float(corners[:, 2].max())
        if above and abs(high - min(above)) < abs(high - floor):
            top = by.ceiling
    return cut.stretched(by.floor, top)


def _called(name: str, building: Building, by: Rise, always: bool = False) -> str:
    """A name with that of the other storey in it: in the place of the one before, or, if ``always``, behind it."""
    before, after = building.storeys[by.before].name, building.storeys[by.after].name
    if before and before in name:
        return name.replace(before, after)
    return f"{name}, {after}" if always else name


def _moved_note(note: AnyNote, building: Building, by: Rise, renamed: dict[str, str]) -> AnyNote | None:
    """A note for the other storey: levels go along, what belongs to the picture stays, and what is about the storey before is
    left out."""
    anchors = anchors_of(note)
    if isinstance(note, Level):
        return note.model_copy(update={"anchors": tuple(_moved_anchor(a, building, by, renamed) for a in anchors)})
    return None if _of_storey(anchors, building, by.before) or any(a.cut in renamed for a in anchors) else note


def _moved_anchor(anchor: Anchor, building: Building, by: Rise, renamed: dict[str, str]) -> Anchor:
    x, y, z = anchor.place
    storeys = building.storeys
    on = storeys[by.after].id if anchor.on == storeys[by.before].id else ""
    return anchor.model_copy(
        update={
            "place": (x, y, z + by.floor),
            "on": on,
            "box": box_of(building, on) if on else None,
            "cut": renamed.get(anchor.cut, anchor.cut),
        }
    )


def _of_storey(anchors: Collection[Anchor], building: Building, storey: int) -> bool:
    own = {space.id for space in building.spaces if space.storey == storey}
    numbers = [building.index_of.get(anchor.on) for anchor in anchors]
    return any(a.on in own for a in anchors) or any(n is not None and building.elements[n].storey == storey for n in numbers)
