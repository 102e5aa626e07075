"""What of the building is not seen, and why: hidden, before a cut, or left out where a cut meets it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut
from anatome.cuts.dissection import CutBuilding, shown_elements
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


@dataclass(frozen=True)
class Counts:
    """How many elements are hidden, lie before cuts, or are left out where a cut meets them."""

    aside: int = 0
    before_cuts: int = 0
    left_out: int = 0


def counts(building: Building, state: StageState, kept: CutBuilding) -> Counts:
    """Return how much is not seen of a state, ``kept`` as its cuts leave it, those passed over that only part. Quick to ask."""
    shown = shown_elements(building, state.hidden)
    gone = np.zeros(len(shown), bool)
    for _, taken in _taken(building, state, kept):
        gone |= taken
    return Counts(int((~shown).sum()), int(gone.sum()), int((shown & ~kept.shown & ~gone).sum()))


def _taken(building: Building, state: StageState, kept: CutBuilding) -> list[tuple[AnyCut, NDArray[np.bool_]]]:
    """For each cut that takes away, the (E,) mask of what of the shown elements it takes wholly."""
    shown = shown_elements(building, state.hidden)
    low, high = building.element_bounds[:, 0], building.element_bounds[:, 1]
    found, number = [], 0
    for cut in state.active_cuts:
        if parts(cut):
            continue  # it takes nothing away
        taken = np.zeros(len(shown), bool)
        for cell in cut.cells():
            # For a moment what is kept may be that of the state before.
            acting = kept.acting[:, number] if number < kept.acting.shape[1] else shown
            taken |= acting & cell.holds_boxes(low, high, building.tolerance)
            number += 1
        found.append((cut, taken & shown))
    return found


def unseen(building: Building, state: StageState, kept: CutBuilding) -> tuple[Unseen, ...]:
    """Return everything that is not seen of a state, one by one; what is hidden by layer, or type without one."""
    shown = shown_elements(building, state.hidden)
    groups: dict[str, list[str]] = {}
    for number in np.flatnonzero(~shown).tolist():
        element = building.elements[number]
        groups.setdefault(element.layer or element.type, []).append(element.id)
    found = [Unseen("aside", name, frozenset(ids)) for name, ids in sorted(groups.items(), key=lambda g: -len(g[1]))]
    gone = np.zeros(len(shown), bool)
    for cut, taken in _taken(building, state, kept):
        gone |= taken
        if taken.any():
            found.append(Unseen("cut", cut.name, _ids(building, taken), cut.id))
    out = shown & ~kept.shown & ~gone
    if out.any():
        found.append(Unseen("left out", "left out where a cut meets them", _ids(building, out)))
    return tuple(found)


def _ids(building: Building, mask: NDArray[np.bool_]) -> frozenset[str]:
    return frozenset(building.elements[i].id for i in np.flatnonzero(mask).tolist())
