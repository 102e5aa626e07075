"""Lines on paper that coincide become one, and pieces that go on from one another are joined."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

APART = 0.004
"""Millimetres across by which lines may differ and still be the same one."""
GAP = 0.01
"""Millimetres along between pieces that go on from one another."""
SHORTEST = 0.1
"""Millimetres on paper under which a line is dropped."""
TURN = 0.0005
"""Radians by which their directions may differ."""


def joined(ends: Array, group: Numbers) -> tuple[Array, Numbers]:
    """Return ((m, 2, 2) millimetres, (m,) the first line each was made of) of lines (n, 2, 2), those of one ``group`` (n,)
    together."""
    if not len(ends):
        return ends, np.empty(0, np.int64)
    arm = ends[:, 1] - ends[:, 0]
    length = np.hypot(*arm.T)
    kept = np.flatnonzero(length > 1e-9)
    ends, arm, length, group = ends[kept], arm[kept], length[kept], group[kept]
    turned = (arm[:, 0] < 0) | ((arm[:, 0] == 0) & (arm[:, 1] < 0))
    ends = np.where(turned[:, None, None], ends[:, ::-1], ends)
    way = (ends[:, 1] - ends[:, 0]) / length[:, None]
    # Lines in the same direction through the same foot, from the middle of the paper so that little turns move the foot little.
    middle = ends.reshape(-1, 2).mean(axis=0)
    from_middle = ends[:, 0] - middle
    across = way[:, 0] * from_middle[:, 1] - way[:, 1] * from_middle[:, 0]
    start = np.einsum("ij,ij->i", from_middle, way)
    angle = np.round(np.arctan2(way[:, 1], way[:, 0]) / TURN).astype(np.int64) % round(np.pi / TURN)
    order = np.lexsort((start, np.round(across / APART).astype(np.int64), angle, group))
    keys = np.stack([group, angle, np.round(across / APART).astype(np.int64)])[:, order]
    new = np.concatenate([[True], (keys[:, 1:] != keys[:, :-1]).any(axis=0)])
    begin, end = start[order], (start + length)[order]
    # How far lines of the same key reach so far: a running maximum that begins anew with each key.
    number = np.cumsum(new) - 1
    span = float(end.max() - begin.min()) + 1.0
    reached = np.maximum.accumulate(end + number * span) - number * span
    apart = new | np.concatenate([[False], begin[1:] > reached[:-1] + GAP])
    first = np.flatnonzero(apart)
    last = np.append(first[1:], len(begin)) - 1
    whole = ends[order[first]].copy()
    # Each goes on along its first piece as far as the last reaches.
    whole[:, 1] = whole[:, 0] + way[order[first]] * (reached[last] - begin[first])[:, None]
    enough = reached[last] - begin[first] >= SHORTEST
    return whole[enough], kept[order[first[enough]]]
