"""Storeys opened from above, one after the other: edits from a project to the next."""

from __future__ import annotations

import numpy as np

from anatome.cuts.cut import AnyCut
from anatome.cuts.fitting import storey_plane
from anatome.model.building import Building
from anatome.scenes import edits
from anatome.scenes.marks import free_mark
from anatome.scenes.project import Project, StageState
from anatome.scenes.shared_cuts import scenes_with

OPENED_AT = 1.5
"""Metres over its floor at which a storey is opened: over the sills, under the lintels of most doors."""
MOST_OF_IT = 0.6
"""Share of a low storey's height at which it is opened at the most."""


def lived_in(building: Building) -> list[int]:
    """Return the numbers of the storeys something is built in, the lowest first."""
    own = {e.storey for e, context in zip(building.elements, building.context.tolist()) if e.storey is not None and not context}
    return sorted(own, key=lambda number: building.storeys[number].elevation)


def opened_at(building: Building, number: int) -> float:
    """Return how many metres over its floor a storey is opened."""
    floor = building.storeys[number].elevation
    above = [s.elevation - floor for s in building.storeys if s.elevation - floor > 0.5]
    return min(OPENED_AT, MOST_OF_IT * min(above)) if above else OPENED_AT


def opening_cut(state: StageState, building: Building) -> tuple[AnyCut, int] | None:
    """Return the cut that opens a storey from above, and the number of that storey; None where none does."""
    for cut in state.active_cuts:
        planes = [plane for cell in cut.cells() for plane in cell.planes]
        if planes == [cut.axis] and cut.axis.normal[2] > 0.999:
            for number in lived_in(building):
                if np.isclose(cut.axis.offset, building.storeys[number].elevation + opened_at(building, number), atol=0.05):
                    return cut, number
    return None


def open_storey(project: Project, building: Building, number: int, new_id: str) -> Project:
    """Return a storey opened from above, all other cuts off; a cut that opens another one is moved."""
    plane, name = storey_plane(building, number, opened_at(building, number)), building.storeys[number].name
    found = opening_cut(project.stage, building)
    if found is not None:
        cut, before = found
        called = name if cut.name == building.storeys[before].name else cut.name
        moved = cut.moved(np.array([0.0, 0.0, plane.offset - cut.axis.offset])).model_copy(update={"name": called})
        if scenes_with(project, cut.id):  # another storey is another cut: scenes of this one do not follow
            moved = moved.model_copy(update={"id": new_id, "mark": free_mark(project)})
        return project.with_stage(cuts=tuple(moved if c.id == cut.id else c for c in project.stage.cuts))
    project = edits.switch_cuts(project, ())
    return edits.change_cut(edits.add_plane(project, plane, new_id), new_id, name=name, graphic=False)
