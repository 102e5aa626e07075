"""Polygons with holes into triangles: convex ones as fans, all at once; the others one by one by ear cutting."""

from __future__ import annotations

import mapbox_earcut
import numpy as np
from numpy.typing import NDArray


def triangulated(
    points: NDArray[np.float64], ring_first: NDArray[np.int64], polygon_first: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """(m, 3) anticlockwise triangles of (n, 2) ``points``, and (m,) the polygon each belongs to, ascending.

    Ring ``i`` is ``points[ring_first[i]:ring_first[i + 1]]`` and repeats its first point; polygon ``i`` consists of the
    rings ``polygon_first[i]:polygon_first[i + 1]``, the outer one first.
    """
    ring_first, polygon_first = np.asarray(ring_first, np.int64), np.asarray(polygon_first, np.int64)
    alone = np.diff(polygon_first) == 1
    fan = alone & _convex(points, ring_first)[polygon_first[:-1]]
    begin, size = ring_first[polygon_first[:-1]], np.diff(ring_first)[polygon_first[:-1]] - 1
    # A fan from the first corner: (0, 1, 2), (0, 2, 3) … of each.
    count = np.where(fan, size - 2, 0)
    owner = np.repeat(np.arange(len(fan)), count)
    step = np.arange(len(owner)) - np.repeat(np.cumsum(count) - count, count)
    corner = begin[owner]
    found = [np.stack([corner, corner + step + 1, corner + step + 2], axis=1)]
    owners = [owner]
    others = np.flatnonzero(~fan)
    # What every call needs is prepared at once; there are as many calls as polygons.
    starts = ring_first[polygon_first[:-1]]
    ring_owner = np.repeat(np.arange(len(fan)), np.diff(polygon_first))
    ends = (ring_first[1:] - starts[ring_owner]).astype(np.uint32)
    ears: list[NDArray[np.uint32]] = []
    rings = polygon_first.tolist()
    begins, finishes = starts.tolist(), ring_first[polygon_first[1:]].tolist()
    cut_ears = mapbox_earcut.triangulate_float64
    for i in others.tolist():
        ears.append(cut_ears(points[begins[i] : finishes[i]], ends[rings[i] : rings[i + 1]]))
    if ears:
        sizes = np.array([len(e) for e in ears])
        found.append((np.concatenate(ears).astype(np.int64) + np.repeat(starts[others], sizes)).reshape(-1, 3))
        owners.append(np.repeat(others, sizes // 3))
    triangles, owner = np.concatenate(found), np.concatenate(owners).astype(np.int64)
    a, b, c = points[triangles[:, 0]], points[triangles[:, 1]], points[triangles[:, 2]]
    clockwise = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) < (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    triangles[clockwise] = triangles[clockwise][:, ::-1]
    by_polygon = np.argsort(owner, kind="stable")
    return triangles[by_polygon], owner[by_polygon]


def _convex(points: NDArray[np.float64], first: NDArray[np.int64]) -> NDArray[np.bool_]:
    """(R,) whether a ring only ever turns to one side, and only once round."""
    edges = np.diff(points, axis=0)
    last = first[1:] - 1
    following = np.roll(edges, -1, axis=0)
    # The edge after a ring's last is its first; what lies between two rings is no edge.
    following[last - 1] = edges[first[:-1]]
    turn = edges[:, 0] * following[:, 1] - edges[:, 1] * following[:, 0]
    inside = np.ones(len(edges), bool)
    inside[last[:-1]] = False
    ring = np.repeat(np.arange(len(first) - 1), np.diff(first))[: len(edges)]
    one_way = (np.bincount(ring, weights=inside & (turn < 0)) == 0) | (np.bincount(ring, weights=inside & (turn > 0)) == 0)
    # Once round: the direction in x changes its sign twice at the most.
    ahead, then = edges[:, 0] > 0, following[:, 0] > 0
    changes = np.bincount(ring, weights=inside & (ahead != then))
    return np.asarray(one_way & (changes <= 2))
