"""What the cuts leave of lines."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.dissection import CutBuilding
from anatome.model.crossings import crossings

Segments = NDArray[np.float64]
Numbers = NDArray[np.int64]


def kept_crossings(cut_open: CutBuilding, wanted: NDArray[np.bool_]) -> tuple[Segments, Numbers]:
    """Return ((n, 2, 3) metres, (n,) one of the two elements) of the lines in which the surfaces of elements of an (E,) mask
    cross, as far as both are left: what takes one of them away takes the line."""
    ends, owners = crossings(cut_open.building)
    there = (cut_open.shown & wanted)[owners].all(axis=1)
    ends, owners = ends[there], owners[there]
    for number, cell in enumerate(cut_open.cells):
        acts = cut_open.acting[owners, number].any(axis=1)
        left, of = lines_outside(cell, ends[acts])
        ends, owners = np.concatenate([ends[~acts], left]), np.concatenate([owners[~acts], owners[acts][of]])
    return ends, owners[:, 0]


def lines_outside(cell: Cell, ends: Segments) -> tuple[Segments, Numbers]:
    """Return ((m, 2, 3) what of segments (n, 2, 3) does not lie in a cell, (m,) which of them each is part of)."""
    low, high = np.zeros(len(ends)), np.ones(len(ends))
    for plane in cell.planes:
        a, b = plane.distance(ends[:, 0]), plane.distance(ends[:, 1])
        with np.errstate(divide="ignore", invalid="ignore"):
            at = a / (a - b)
        low = np.where((a <= 0) & (b > 0), np.maximum(low, at), low)
        high = np.where((a > 0) & (b <= 0), np.minimum(high, at), high)
        high = np.where((a <= 0) & (b <= 0), -1.0, high)
    taken = high > low
    numbers = np.arange(len(ends))
    before, behind = taken & (low > 0), taken & (high < 1)
    whole = ends[~taken]

    def part(chosen: NDArray[np.bool_], start: NDArray[np.float64], end: NDArray[np.float64]) -> Segments:
        a, arm = ends[chosen, 0], ends[chosen, 1] - ends[chosen, 0]
        return np.stack([a + arm * start[chosen, None], a + arm * end[chosen, None]], axis=1)

    nothing, all_of_it = np.zeros(len(ends)), np.ones(len(ends))
    found = [whole, part(before, nothing, low), part(behind, high, all_of_it)]
    return np.concatenate(found), np.concatenate([numbers[~taken], numbers[before], numbers[behind]])
