"""What of the building is not seen, and why: set aside, before a cut, or left out where a cut meets it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import Dissection, shown_elements
from anatome.cuts.pieces import parts
from anatome.model.building import Building
from anatome.scenes.project import StageState


@dataclass(frozen=True)
class Unseen:
    """``ids`` of elements not seen. ``why`` is "aside", "cut" or "left out"; ``what`` is the layer, the type, or the cut."""

    why: str
    what: str
    ids: frozenset[str]
    cut: str = ""


def unseen(building: Building, state: StageState, left: Dissection) -> tuple[Unseen, ...]:
    """Everything that is not seen of a state, ``left`` as its cuts leave it; what was set aside by layer, or type without one."""
    shown = shown_elements(building, state.hidden)
    found: list[Unseen] = []
    groups: dict[str, list[str]] = {}
    for number in np.flatnonzero(~shown).tolist():
        element = building.elements[number]
        groups.setdefault(element.layer or element.type, []).append(element.id)
    found += [Unseen("aside", name, frozenset(ids)) for name, ids in sorted(groups.items(), key=lambda g: -len(g[1]))]
    gone = np.zeros(len(shown), bool)
    low, high = building.element_bounds[:, 0], building.element_bounds[:, 1]
    for cut in state.active_cuts:
        if parts(cut):
            continue  # it takes nothing away
        taken = np.zeros(len(shown), bool)
        for cell in cut.cells():
            taken |= cell.holds_boxes(low, high, building.tolerance)
        taken &= shown & cut.reach.mask(building)
        gone |= taken
        if taken.any():
            found.append(Unseen("cut", cut.name, _ids(building, taken), cut.id))
    out = shown & ~left.shown & ~gone
    if out.any():
        found.append(Unseen("left out", "left out where a cut meets them", _ids(building, out)))
    return tuple(found)


def _ids(building: Building, mask: NDArray[np.bool_]) -> frozenset[str]:
    return frozenset(building.elements[i].id for i in np.flatnonzero(mask).tolist())
