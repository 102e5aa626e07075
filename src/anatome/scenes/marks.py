"""The marks of cuts: letters that a project gives once, whichever scene a cut is in."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Literal

from anatome.cuts.cut import AnyCut, next_mark
from anatome.scenes.project import Project, Scene, StageState

Order = Literal["scenes", "place"]


def states_in(project: Project) -> tuple[StageState, ...]:
    """Return every state that holds cuts: of the scenes in their order, then of the stage."""
    return (*(scene.state for scene in project.scenes), project.stage)


def marks_in(project: Project) -> set[str]:
    """Return every mark that is taken, of cuts and of serial sections."""
    return {thing.mark for state in states_in(project) for thing in (*state.cuts, *state.series)}


def free_mark(project: Project) -> str:
    """Return the first letter that no cut of the project has, in any of its scenes, alone or before a number."""
    return next(free_marks(project))


def free_marks(project: Project) -> Iterator[str]:
    """Yield such letters, one after the other."""
    taken = {mark.rstrip("0123456789") for mark in marks_in(project)}
    while True:
        taken.add(mark := next_mark(taken))
        yield mark


def named_anew(cut: AnyCut, mark: str) -> AnyCut:
    """Return a cut with another mark; a name made of what it is and its mark (“Section A”) says the new one."""
    name = re.sub(rf"^(\w+) {re.escape(cut.mark)}\b", lambda found: f"{found[1]} {mark}", cut.name) if cut.mark else cut.name
    return cut.model_copy(update={"mark": mark, "name": name})


def with_cuts(state: StageState, change: Callable[[AnyCut], AnyCut]) -> StageState:
    """Return a state with each of its cuts changed; the same state where none is."""
    cuts = tuple(change(cut) for cut in state.cuts)
    return state if all(a is b for a, b in zip(cuts, state.cuts)) else state.model_copy(update={"cuts": cuts})


def renumbered(project: Project, order: Order) -> Project:
    """Return the project with the marks of its cuts in order, from A: that of its ``scenes``, or that of their ``place`` in the
    building.

    By place sections across the building come first, from south to north, then those along it, from west to east, then boxes,
    then what is level, from below. Cuts of locked scenes keep their marks, and nothing else gets those.
    """
    held = {cut.id: cut.mark for scene in project.scenes if scene.locked for cut in scene.state.cuts}
    free: dict[str, AnyCut] = {}
    for state in states_in(project):
        for cut in state.cuts:
            if cut.id not in held:
                free.setdefault(cut.id, cut)
    cuts = sorted(free.values(), key=_place) if order == "place" else list(free.values())
    taken = set(held.values()) | {series.mark for state in states_in(project) for series in state.series}
    marks: dict[str, str] = {}
    for cut in cuts:
        marks[cut.id] = next_mark(taken)
        taken.add(marks[cut.id])

    def marked(cut: AnyCut) -> AnyCut:
        mark = marks.get(cut.id, cut.mark)
        return cut if mark == cut.mark else named_anew(cut, mark)

    scenes = (_with_state(scene, with_cuts(scene.state, marked)) for scene in project.scenes)
    return project.model_copy(
        update={
            "scenes": tuple(scenes),
            "stage": with_cuts(project.stage, marked),
            "scene_as_shown": None if project.scene_as_shown is None else with_cuts(project.scene_as_shown, marked),
        }
    )


def _with_state(scene: Scene, state: StageState) -> Scene:
    return scene if state is scene.state else scene.model_copy(update={"state": state})


def _place(cut: AnyCut) -> tuple[int, float]:
    """What order by place goes by: the kind of its direction, and how far along it lies."""
    if cut.encloses:
        centre = cut.centre
        return 2, 0.0 if centre is None else float(centre[0])
    normal, offset = cut.axis.n, cut.axis.offset
    if cut.axis.is_level:
        return 3, float(offset * normal[2])
    along = 1 if abs(normal[1]) >= abs(normal[0]) else 0
    return 1 - along, float(offset / normal[along])
