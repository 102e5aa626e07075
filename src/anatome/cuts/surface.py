"""What the cuts leave of surfaces, triangle by triangle, without caps."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.dissection import CutBuilding

Corners = NDArray[np.float64]
Numbers = NDArray[np.int64]


def kept_surface(cut_open: CutBuilding) -> tuple[Corners, Numbers]:
    """Return ((n, 3, 3) metres, the corners of all triangles that are left or of what is left of them, (n,) the triangle of the
    building that each was)."""
    building = cut_open.building
    element = building.element_of_triangle
    of = np.flatnonzero(cut_open.shown[element])
    corners = building.vertices[building.triangles[of]]
    for number, cell in enumerate(cut_open.cells):
        acts = cut_open.acting[element[of], number]
        acts[acts] = cell.may_touch_boxes(corners[acts].min(axis=1), corners[acts].max(axis=1), building.tolerance)
        left, parents = outside(cell, corners[acts])
        corners, of = np.concatenate([corners[~acts], left]), np.concatenate([of[~acts], of[acts][parents]])
    return corners, of


def outside(cell: Cell, corners: Corners) -> tuple[Corners, Numbers]:
    """Return ((m, 3, 3) what of triangles (n, 3, 3) does not lie in a cell, (m,) which of them each was part of)."""
    found, rest, parents = [], corners, np.arange(len(corners))
    numbers = []
    for plane in cell.planes:
        before, behind = split(rest, plane.n, plane.offset)
        found.append(behind[0])
        numbers.append(parents[behind[1]])
        rest, parents = before[0], parents[before[1]]
    return np.concatenate(found), np.concatenate(numbers)


def split(
    corners: Corners, normal: NDArray[np.float64], offset: float
) -> tuple[tuple[Corners, Numbers], tuple[Corners, Numbers]]:
    """Triangles (n, 3, 3) parted by a plane: those before it (on its normal's side), and those behind it; each with (m,) which
    of the triangles it is of."""
    distance = corners @ normal - offset
    above = distance > 0
    count = above.sum(axis=1)
    before: list[tuple[Corners, Numbers]] = [(corners[count == 3], np.flatnonzero(count == 3))]
    behind: list[tuple[Corners, Numbers]] = [(corners[count == 0], np.flatnonzero(count == 0))]
    for lone_above in (True, False):
        mixed = np.flatnonzero(count == (1 if lone_above else 2))
        t, d = corners[mixed], distance[mixed]
        if not len(t):
            continue
        lone = np.argmax(above[mixed] == lone_above, axis=1)
        row = np.arange(len(t))
        order = (lone[:, None] + np.arange(3)) % 3
        t, d = t[row[:, None], order], d[row[:, None], order]
        p = t[:, 0] + (t[:, 1] - t[:, 0]) * (d[:, 0] / (d[:, 0] - d[:, 1]))[:, None]
        q = t[:, 0] + (t[:, 2] - t[:, 0]) * (d[:, 0] / (d[:, 0] - d[:, 2]))[:, None]
        tip = np.stack([t[:, 0], p, q], axis=1)
        base = np.concatenate([np.stack([p, t[:, 1], t[:, 2]], axis=1), np.stack([p, t[:, 2], q], axis=1)])
        (before if lone_above else behind).append((tip, mixed))
        (behind if lone_above else before).append((base, np.concatenate([mixed, mixed])))
    return _joined(before), _joined(behind)


def _joined(parts: list[tuple[Corners, Numbers]]) -> tuple[Corners, Numbers]:
    return np.concatenate([c for c, _ in parts]), np.concatenate([n for _, n in parts])
