"""Edits of what is drawn apart: groups, partings, and how far they are opened. Functions from a project to the next."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut
from anatome.cuts.exploding import ApartGroup, Exploded, path_length
from anatome.cuts.parting import Parting, Turned, Way
from anatome.cuts.plane import Vector
from anatome.model.selection import Selection
from anatome.scenes.edits import change_cut, put_cut
from anatome.scenes.project import Project

ROOM = 0.35
"""Room between parts, in shares of the size of what is parted, where they are first drawn apart."""


def set_opening(project: Project, opening: float) -> Project:
    """Open or close all that is drawn apart, to a share of its distances."""
    stage = project.stage.model_copy(update={"opening": min(max(opening, 0.0), 1.0)})
    return project.model_copy(update={"stage": stage})


def set_exploded(project: Project, exploded: Exploded | None) -> Project:
    """Draw these groups apart, wide open if there were none, or none at all; one without groups is none."""
    kept = exploded if exploded is not None and exploded.groups else None
    changes: dict[str, object] = {"exploded": kept}
    if kept is not None and not project.stage.is_apart:
        changes["opening"] = 1.0
    return project.model_copy(update={"stage": project.stage.model_copy(update=changes)})


def add_group(project: Project, name: str, what: Selection, distance: float) -> Project:
    """Return one more group, before the others, so that it takes what it names out of them; of the same name it takes the
    place."""
    before = project.stage.exploded or Exploded()
    own = next((g.path for g in before.groups if g.name == name), ())
    others = tuple(g for g in before.groups if g.name != name)
    groups = (ApartGroup(name=name, what=what, distance=distance, path=own), *others)
    return set_exploded(project, before.model_copy(update={"groups": groups}))


def change_group(project: Project, name: str, distance: float | None) -> Project:
    """Another distance for a group, or without one the group taken out."""
    before = project.stage.exploded
    if before is None:
        return project
    moved = tuple(g if g.name != name else g.model_copy(update={"distance": distance}) for g in before.groups)
    groups = tuple(g for g in moved if g.distance is not None)
    return set_exploded(project, before.model_copy(update={"groups": groups}))


def set_way(project: Project, name: str, path: tuple[Vector, ...], distance: float | None = None) -> Project:
    """A way of its own for a group, perhaps with a distance along it; an empty one gives it the way of all."""
    before = project.stage.exploded
    if before is None:
        return project
    changes: dict[str, object] = {"path": path} | ({} if distance is None else {"distance": distance})
    groups = tuple(g if g.name != name else g.model_copy(update=changes) for g in before.groups)
    return set_exploded(project, before.model_copy(update={"groups": groups}))


def set_in_order(project: Project, name: str, by: int) -> Project:
    """Have a group so many places later among its neighbours, or earlier."""
    before = project.stage.exploded
    if before is None or name not in before.in_order():
        return project
    names = list(before.in_order())
    at = names.index(name)
    names.insert(min(max(at + by, 0), len(names) - 1), names.pop(at))
    return set_exploded(project, before.model_copy(update={"order": tuple(names)}))


def set_out_along(project: Project, path: tuple[Vector, ...]) -> Project:
    """Set all groups out along a path, evenly spaced in their order; the last stands at its end."""
    before = project.stage.exploded
    if before is None:
        return project
    length, names = path_length(path), before.in_order()
    far = {name: length * (step + 1) / len(names) for step, name in enumerate(names)}
    groups = tuple(g.model_copy(update={"distance": far[g.name], "path": ()}) for g in before.groups)
    return set_exploded(project, before.model_copy(update={"groups": groups, "path": path, "order": names}))


def part_at(project: Project, cut: AnyCut, bounds: NDArray[np.float64]) -> Project:
    """Let a cut part the building, of (2, 3) bounds in metres, instead of taking away; wide open if nothing was apart."""
    parting = Parting(distance=clear_distance(cut, bounds, "apart", "as it is"))
    changed = change_cut(project, cut.id, parting=parting, on=True)
    return changed if project.stage.is_apart else set_opening(changed, 1.0)


def turn_part(project: Project, cut: AnyCut, turned: Turned, bounds: NDArray[np.float64]) -> Project:
    """Show the part before a cut as it is, mirrored or turned over, moved to where it covers nothing."""
    if cut.parting is None:
        return project
    # Mirrored or turned over it lies on the other side of the cut, so it is moved along the cut to stand beside the rest.
    way: Way = "apart" if turned == "as it is" else "sideways"
    distance = clear_distance(cut, bounds, way, turned)
    return put_cut(
        project,
        cut.model_copy(update={"parting": cut.parting.model_copy(update={"turned": turned, "way": way, "distance": distance})}),
    )


def clear_distance(cut: AnyCut, bounds: NDArray[np.float64], way: Way, turned: Turned) -> float:
    """Metres by which a part is moved so that it stands clear of the rest: apart by some room, along the cut by all its size.

    What is drawn out of a box is moved by all its size whichever way.
    """
    right, up = cut.axis.axes
    axis = {"apart": cut.axis.n, "sideways": right, "up": up, "along": cut.axis.n}[way]
    size = float(np.abs(axis) @ (bounds[1] - bounds[0]))
    if way == "apart" and not cut.encloses:
        return round(max(ROOM * max(size, 0.5 * float((bounds[1] - bounds[0]).max())), 0.5), 1)
    return round(size * (1.12 if turned != "as it is" or cut.encloses else ROOM), 1)


def whole_again(project: Project) -> Project:
    """Nothing drawn apart, and every cut that parted off: the building is as it stands."""
    for cut in project.stage.cuts:
        if cut.parting is not None:
            project = change_cut(project, cut.id, parting=None, on=False)
    return set_opening(set_exploded(project, None), 1.0)
