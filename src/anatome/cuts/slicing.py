"""From triangles to outlines: the part of the cutter that works on bare arrays.

Every triangle crossed by the plane gives one directed segment between two mesh edges. Segments are linked through
the identity of those edges, never by comparing coordinates, so the outline of a closed mesh always closes.

A vertex lying in the plane (within the tolerance) is counted with the side that is cut away. So a plane lying exactly
in a face cuts the material directly behind it: the answer is the same on every machine and does not flicker.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.model.building import Building

# For each of the 8 patterns of "corner above" bits: the corner that is alone on its side (−1: not crossed).
_LONE = np.array([-1, 0, 1, 2, 2, 1, 0, -1])
_LONE_IS_ABOVE = np.array([False, True, True, False, True, False, False, False])


@dataclass(frozen=True, eq=False)
class Segments:
    """Directed segments with the material on their left, seen against the plane's normal.

    ``nodes`` (N, 3) float64 points on the plane, one for each mesh edge crossed; ``start``, ``end`` (M,) node
    numbers; ``element`` (M,) the element of each segment.
    """

    nodes: NDArray[np.float64]
    start: NDArray[np.int64]
    end: NDArray[np.int64]
    element: NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Outlines:
    """Closed loops and open chains, laid end to end.

    Line ``i`` runs through ``nodes[path[first[i]:first[i + 1]]]`` (a closed one does not repeat its first node).
    ``element``, ``closed`` (L,); ``directed`` (L,) False where faces disagree about which side is the inside.
    """

    nodes: NDArray[np.float64]
    path: NDArray[np.int64]
    first: NDArray[np.int64]
    element: NDArray[np.int64]
    closed: NDArray[np.bool_]
    directed: NDArray[np.bool_]


def slice_triangles(building: Building, plane: Plane, elements: NDArray[np.bool_] | None = None) -> Segments:
    """Cut the triangles of the elements in the (E,) mask (None: all) by the plane."""
    tolerance = building.tolerance
    near = building.clusters.near_plane(plane.n, plane.offset, tolerance)
    if elements is not None:
        near &= elements[building.clusters.element]
    numbers = building.clusters.triangles_in(near)
    triangles = building.triangles.take(numbers, axis=0)
    # One flat product over all corners is several times faster than one for each triangle.
    distance = (building.vertices.take(triangles.ravel(), axis=0) @ plane.n - plane.offset).reshape(-1, 3)
    above = distance >= -tolerance
    pattern = above[:, 0] + 2 * above[:, 1] + 4 * above[:, 2]
    crossed = np.flatnonzero((pattern != 0) & (pattern != 7))

    triangles, distance = triangles[crossed], distance[crossed]
    pattern = pattern[crossed]
    row = np.arange(len(crossed))
    lone = _LONE[pattern]
    following, previous = (lone + 1) % 3, (lone + 2) % 3
    ends = []
    for other in (following, previous):
        a, b = triangles[row, lone], triangles[row, other]
        da, db = distance[row, lone], distance[row, other]
        swap = a > b
        ends.append((np.where(swap, b, a), np.where(swap, a, b), np.where(swap, db, da), np.where(swap, da, db)))
    low, high, d_low, d_high = (np.concatenate(column) for column in zip(*ends))

    key = low * len(building.vertices) + high
    _, sample, node = np.unique(key, return_index=True, return_inverse=True)
    low, high, d_low, d_high = low[sample], high[sample], d_low[sample], d_high[sample]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.clip(np.nan_to_num(d_low / (d_low - d_high)), 0.0, 1.0)
    p, q = building.vertices[low], building.vertices[high]
    nodes = p + t[:, None] * (q - p)

    flip = ~_LONE_IS_ABOVE[pattern]
    first, second = node[: len(row)], node[len(row) :]
    return Segments(
        nodes=nodes,
        start=np.where(flip, second, first),
        end=np.where(flip, first, second),
        element=building.element_of_triangle[numbers[crossed]],
    )


def trace_outlines(segments: Segments) -> Outlines:
    """Link segments into closed loops and open chains."""
    count = len(segments.nodes)
    outgoing = np.bincount(segments.start, minlength=count)
    incoming = np.bincount(segments.end, minlength=count)
    irregular_node = (outgoing != 1) | (incoming != 1)
    irregular_element = np.zeros(int(segments.element.max(initial=-1)) + 1, bool)
    irregular_element[segments.element[irregular_node[segments.start] | irregular_node[segments.end]]] = True
    irregular = irregular_element[segments.element]

    regular = np.flatnonzero(~irregular)
    # Where every node has one way in and one way out, the segments are a permutation and its cycles the loops.
    path, first, element = _cycles(segments.start[regular], segments.end[regular], segments.element[regular])
    lines = _trace_irregular(segments, np.flatnonzero(irregular)) if irregular.any() else []
    lengths = [len(line[0]) for line in lines]
    plain = np.ones(len(element), bool)
    return Outlines(
        nodes=segments.nodes,
        path=np.concatenate([path, np.array([n for line in lines for n in line[0]], np.int64)]),
        first=np.concatenate([first, first[-1] + np.cumsum(lengths)]).astype(np.int64),
        element=np.concatenate([element, np.array([line[1] for line in lines], np.int64)]),
        closed=np.concatenate([plain, np.array([line[2] for line in lines], bool)]),
        directed=np.concatenate([plain, np.array([line[3] for line in lines], bool)]),
    )


def _cycles(
    start: NDArray[np.int64], end: NDArray[np.int64], element: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """The cycles of a permutation of nodes: (n,) nodes cycle by cycle, (c + 1,) where each begins, (c,) its element.

    Pointer jumping (Wyllie, 1979): in every round each node learns from one twice as far away, first which is the least
    node of its cycle, then how far it is from there. No loop over segments in Python.
    """
    if not len(start):
        return np.empty(0, np.int64), np.zeros(1, np.int64), np.empty(0, np.int64)
    order = np.argsort(start)
    nodes, owner = start[order], element[order]
    count = len(nodes)
    following = np.searchsorted(nodes, end[order])
    least, ahead = np.arange(count), following
    while True:
        better = np.minimum(least, least[ahead])
        if (better == least).all():
            break
        least, ahead = better, ahead[ahead]
    leads = least == np.arange(count)
    away = np.where(leads, 0, 1)
    ahead = np.where(leads, np.arange(count), following)
    while True:
        further = away[ahead]
        if not further.any():
            break
        away, ahead = away + further, ahead[ahead]
    # From its leader on, a node that is further from coming back to it comes sooner.
    length = np.bincount(least, minlength=count)
    place = np.where(leads, 0, length[least] - away)
    leaders = np.flatnonzero(leads)
    begins = np.zeros(count, np.int64)
    begins[leaders] = np.concatenate([[0], np.cumsum(length[leaders])[:-1]])
    path = np.empty(count, np.int64)
    path[begins[least] + place] = nodes
    return path, np.concatenate([begins[leaders], [count]]), owner[leaders]


def _trace_irregular(segments: Segments, numbers: NDArray[np.int64]) -> list[tuple[list[int], int, bool, bool]]:
    """Walk the segments of meshes that are open, branch, or disagree about their outside; each segment once.

    Open ends are walked first so that what is left consists of closed loops only. At a branch the walk goes on along
    a segment that keeps the direction, if there is one.
    """
    start, end = segments.start.tolist(), segments.end.tolist()
    at_node: dict[int, list[int]] = {}
    for s in numbers.tolist():
        at_node.setdefault(start[s], []).append(s)
        at_node.setdefault(end[s], []).append(s)
    unused = set(numbers.tolist())
    lines = []

    def walk(node: int) -> tuple[list[int], int, bool, bool]:
        path, directed, element = [node], True, -1
        while True:
            choices = [s for s in at_node[node] if s in unused]
            if not choices:
                break
            s = next((c for c in choices if start[c] == node), choices[0])
            unused.discard(s)
            directed &= start[s] == node
            element = int(segments.element[s])
            node = end[s] if start[s] == node else start[s]
            path.append(node)
            if node == path[0]:
                return path[:-1], element, True, directed
        return path, element, False, directed

    for node, touching in at_node.items():
        for _ in range(len(touching) % 2):
            if any(s in unused for s in touching):
                lines.append(walk(node))
    for s in numbers.tolist():
        while s in unused:
            lines.append(walk(start[s]))
    return lines
