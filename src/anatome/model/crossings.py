"""Where parts run through one another: the lines in which their surfaces cross, which no model has as edges."""

from __future__ import annotations

import weakref

import numpy as np
from numpy.typing import NDArray

from anatome.compiled import INTEGER_ROWS, INTEGERS, REAL, REAL_ROWS, compiled
from anatome.model.building import Building

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]
TOUCHING = 1e-6
"""Metres within which surfaces touch and do not cross, in large models a share of their size."""
SHARE = 2e-8
TOGETHER = 1024
"""Pairs of clusters whose triangles are compared in one go: what that takes is some 60 MB at the most."""

_found: weakref.WeakKeyDictionary[Building, tuple[Array, Numbers]] = weakref.WeakKeyDictionary()


def known(building: Building) -> bool:
    """Return whether :func:`crossings` answers at once."""
    return building in _found


def crossings(building: Building) -> tuple[Array, Numbers]:
    """Return ((n, 2, 3) metres, (n, 2) the elements whose surfaces cross there), of all parts of a building as they stand;
    worked out once. Surfaces that only touch, or lie in one another, have their own edges there."""
    kept = _found.get(building)
    if kept is None:
        kept = _found[building] = _crossings(building, _margin(building))
    return kept


def crossing_themselves(building: Building) -> NDArray[np.bool_]:
    """Return (E,) True for elements whose own surfaces run through one another, be it of one body or of several."""
    clusters = building.clusters
    low, high = clusters.centre - clusters.half, clusters.centre + clusters.half
    # Every cluster is a thing of its own here; those that meet and belong together are left, and each with itself.
    each = np.arange(len(low))
    pairs = _boxes_that_meet(low, high, each)
    pairs = pairs[clusters.element[pairs[:, 0]] == clusters.element[pairs[:, 1]]]
    _, owners = _crossed(building, np.concatenate([pairs, np.column_stack([each, each])]), _margin(building))
    found = np.zeros(len(building.elements), bool)
    found[owners[:, 0]] = True
    return found


def boxes_in_boxes(low: Array, high: Array, margin: float) -> Numbers:
    """Return (n, 2) pairs of boxes (m, 3), (m, 3), of which the first lies in the second, a ``margin`` within all its sides."""
    pairs = _boxes_that_meet(low, high, np.arange(len(low)))
    pairs = np.concatenate([pairs, pairs[:, ::-1]])
    inner, outer = pairs[:, 0], pairs[:, 1]
    within = (low[inner] > low[outer] + margin).all(axis=1) & (high[inner] < high[outer] - margin).all(axis=1)
    return pairs[within]


def _margin(building: Building) -> float:
    return max(TOUCHING, SHARE * building.size)


def _crossings(building: Building, margin: float) -> tuple[Array, Numbers]:
    clusters = building.clusters
    low, high = clusters.centre - clusters.half, clusters.centre + clusters.half
    return _crossed(building, _boxes_that_meet(low, high, clusters.element), margin)


def _boxes_that_meet(low: Array, high: Array, element: Numbers) -> Numbers:
    """(n, 2) pairs of boxes of two elements that overlap."""
    order = np.argsort(low[:, 0], kind="stable")
    return np.asarray(order[_near(low[order], high[order], element[order])])


def _crossed(building: Building, pairs: Numbers, margin: float) -> tuple[Array, Numbers]:
    """The lines in which triangles of pairs of clusters cross."""
    clusters = building.clusters
    corners = building.vertices[building.triangles[clusters.order]]
    low, high = corners.min(axis=1), corners.max(axis=1)
    element = np.repeat(clusters.element, np.diff(clusters.start))
    found = [(np.empty((0, 2, 3)), np.empty((0, 2), np.int64))]
    for first in range(0, len(pairs), TOGETHER):
        meeting = _triangles_that_meet(pairs[first : first + TOGETHER], clusters.start, low, high)
        found.append(_cross(meeting, corners.reshape(-1, 9), element, margin))
    ends, owners = zip(*found)
    return np.concatenate(ends), np.concatenate(owners)


@compiled(REAL_ROWS, REAL_ROWS, INTEGERS)
def _near(low: Array, high: Array, element: Numbers) -> Numbers:
    """(n, 2) boxes of two elements that overlap, of boxes in the order of their lower x."""
    found, made = np.empty((1024, 2), np.int64), 0
    for i in range(len(low)):
        for j in range(i + 1, len(low)):
            if low[j, 0] > high[i, 0]:
                break
            if element[i] == element[j] or low[j, 1] > high[i, 1] or high[j, 1] < low[i, 1]:
                continue
            if low[j, 2] > high[i, 2] or high[j, 2] < low[i, 2]:
                continue
            if made == len(found):
                found = np.concatenate((found, found))
            found[made, 0], found[made, 1] = i, j
            made += 1
    return found[:made]


@compiled(INTEGER_ROWS, INTEGERS, REAL_ROWS, REAL_ROWS)
def _triangles_that_meet(pairs: Numbers, start: Numbers, low: Array, high: Array) -> Numbers:
    """(n, 2) triangles of pairs of clusters whose boxes, from ``low`` to ``high`` (T, 3), overlap."""
    found, made = np.empty((1024, 2), np.int64), 0
    least, most, meeting = np.empty(3), np.empty(3), np.empty(64, np.int64)
    for p in range(len(pairs)):
        a, b = pairs[p, 0], pairs[p, 1]
        # What crosses lies in the box that both clusters share: of either that is little.
        for k in range(3):
            below_a, above_a, below_b, above_b = np.inf, -np.inf, np.inf, -np.inf
            for i in range(start[a], start[a + 1]):
                below_a, above_a = min(below_a, low[i, k]), max(above_a, high[i, k])
            for j in range(start[b], start[b + 1]):
                below_b, above_b = min(below_b, low[j, k]), max(above_b, high[j, k])
            least[k], most[k] = max(below_a, below_b), min(above_a, above_b)
        if start[b + 1] - start[b] > len(meeting):
            meeting = np.empty(2 * (start[b + 1] - start[b]), np.int64)
        met = 0
        for j in range(start[b], start[b + 1]):
            apart = False
            for k in range(3):
                apart = apart or low[j, k] > most[k] or high[j, k] < least[k]
            if not apart:
                meeting[met] = j
                met += 1
        for i in range(start[a], start[a + 1]):
            apart = met == 0
            for k in range(3):
                apart = apart or low[i, k] > most[k] or high[i, k] < least[k]
            if apart:
                continue
            for n in range(met):
                j = meeting[n]
                apart = False
                for k in range(3):
                    apart = apart or low[i, k] > high[j, k] or high[i, k] < low[j, k]
                if apart:
                    continue
                if made == len(found):
                    found = np.concatenate((found, found))
                found[made, 0], found[made, 1] = i, j
                made += 1
    return found[:made]


@compiled(INTEGER_ROWS, REAL_ROWS, INTEGERS, REAL)
def _cross(meeting: Numbers, corners: Array, element: Numbers, margin: float) -> tuple[Array, Numbers]:
    """The lines in which pairs of triangles, of all (T, 9), cross; whose each triangle is, is its ``element``.

    Each has corners on both sides of the other, and what they have of the line that both planes share overlaps (Möller, “A Fast
    Triangle-Triangle Intersection Test”, 1997).
    """
    ends, owners, made = np.empty((1024, 2, 3)), np.empty((1024, 2), np.int64), 0
    both = np.empty((2, 3, 3))
    normal, distance = np.empty((2, 3)), np.empty((2, 3))
    u, v, way = np.empty(3), np.empty(3), np.empty(3)
    spots, along = np.empty((2, 2, 3)), np.empty((2, 2))
    for n in range(len(meeting)):
        i, j = meeting[n, 0], meeting[n, 1]
        for c in range(3):
            for k in range(3):
                both[0, c, k], both[1, c, k] = corners[i, 3 * c + k], corners[j, 3 * c + k]
        whole = True
        for t in range(2):
            for k in range(3):
                u[k], v[k] = both[t, 1, k] - both[t, 0, k], both[t, 2, k] - both[t, 0, k]
            normal[t, 0] = u[1] * v[2] - u[2] * v[1]
            normal[t, 1] = u[2] * v[0] - u[0] * v[2]
            normal[t, 2] = u[0] * v[1] - u[1] * v[0]
            length = np.sqrt(normal[t, 0] ** 2 + normal[t, 1] ** 2 + normal[t, 2] ** 2)
            if length < 1e-18:
                whole = False
            else:
                for k in range(3):
                    normal[t, k] /= length
        if not whole:
            continue
        crosses = True
        for t in range(2):  # corners of t from the plane of the other
            before, behind = False, False
            for c in range(3):
                d = 0.0
                for k in range(3):
                    d += (both[t, c, k] - both[1 - t, 0, k]) * normal[1 - t, k]
                distance[t, c] = d
                before, behind = before or d > margin, behind or d < -margin
            crosses = crosses and before and behind
        if not crosses:
            continue
        way[0] = normal[0, 1] * normal[1, 2] - normal[0, 2] * normal[1, 1]
        way[1] = normal[0, 2] * normal[1, 0] - normal[0, 0] * normal[1, 2]
        way[2] = normal[0, 0] * normal[1, 1] - normal[0, 1] * normal[1, 0]
        for t in range(2):
            found = 0
            for c in range(3):
                d, e = distance[t, c], distance[t, (c + 1) % 3]
                if (d > 0) != (e > 0) and found < 2:
                    along[t, found] = 0.0
                    for k in range(3):
                        spots[t, found, k] = both[t, c, k] + (both[t, (c + 1) % 3, k] - both[t, c, k]) * (d / (d - e))
                        along[t, found] += spots[t, found, k] * way[k]
                    found += 1
            if found < 2:
                along[t, 1] = along[t, 0]
            elif along[t, 0] > along[t, 1]:
                along[t, 0], along[t, 1] = along[t, 1], along[t, 0]
                for k in range(3):
                    spots[t, 0, k], spots[t, 1, k] = spots[t, 1, k], spots[t, 0, k]
        first = 0 if along[0, 0] >= along[1, 0] else 1
        last = 0 if along[0, 1] <= along[1, 1] else 1
        if along[last, 1] - along[first, 0] <= margin * np.sqrt(way[0] ** 2 + way[1] ** 2 + way[2] ** 2):
            continue
        if made == len(ends):
            ends, owners = np.concatenate((ends, ends)), np.concatenate((owners, owners))
        for k in range(3):
            ends[made, 0, k], ends[made, 1, k] = spots[first, 0, k], spots[last, 1, k]
        owners[made, 0], owners[made, 1] = element[i], element[j]
        made += 1
    return ends[:made], owners[:made]
