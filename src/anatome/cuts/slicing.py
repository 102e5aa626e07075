"""From triangles to outlines: the part of the cutter that works on bare arrays.

Every triangle crossed by the plane gives one directed segment between two of its edges. Segments are linked through
the mesh itself, never by comparing coordinates: in a closed element from each triangle to the one across its edge, in
any other through the names of the edges. So the outline of a closed mesh always closes.

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
ROUNDING = 1e-14
"""Share of a coordinate by which distances worked out from it may be off."""
_LONE_IS_ABOVE = np.array([False, True, True, False, True, False, False, False])


@dataclass(frozen=True, eq=False)
class Crossed:
    """The triangles a plane crosses: ``triangle`` (M,) and ``element`` (M,) numbers, ``corners`` (M, 3) vertex numbers and
    their ``distance`` (M, 3) from the plane in metres, the corner (M,) that is ``lone`` on its side, and whether (M,) it
    lies ``above``.
    """

    triangle: NDArray[np.int64]
    element: NDArray[np.int64]
    corners: NDArray[np.int64]
    distance: NDArray[np.float64]
    lone: NDArray[np.int64]
    above: NDArray[np.bool_]

    def chosen(self, rows: NDArray[np.bool_]) -> Crossed:
        """Some of them, by an (M,) mask."""
        return Crossed(
            self.triangle[rows], self.element[rows], self.corners[rows], self.distance[rows], self.lone[rows], self.above[rows]
        )


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


def outlines_of(building: Building, plane: Plane, elements: NDArray[np.bool_] | None = None) -> Outlines:
    """The outlines that a plane makes of the elements in the (E,) mask (None: of all)."""
    crossed = crossed_triangles(building, plane, elements)
    closed = building.links.closed[crossed.element]
    rows = crossed if closed.all() else crossed.chosen(closed)
    following = _next_rows(building, rows)
    torn = (following < 0) | (np.bincount(following[following >= 0], minlength=len(following)) != 1)
    if torn.any():
        # Rounding put a vertex on one side for one triangle and on the other for the next.
        closed &= ~np.isin(crossed.element, rows.element[torn])
        rows = crossed.chosen(closed)
        following = _next_rows(building, rows)
    linked = _follow_twins(building, rows, following)
    if closed.all():
        return linked
    others = trace_outlines(_segments_by_edges(building, crossed.chosen(~closed)))
    return Outlines(
        nodes=np.concatenate([linked.nodes, others.nodes]),
        path=np.concatenate([linked.path, others.path + len(linked.nodes)]),
        first=np.concatenate([linked.first, others.first[1:] + linked.first[-1]]),
        element=np.concatenate([linked.element, others.element]),
        closed=np.concatenate([linked.closed, others.closed]),
        directed=np.concatenate([linked.directed, others.directed]),
    )


def crossed_triangles(building: Building, plane: Plane, elements: NDArray[np.bool_] | None = None) -> Crossed:
    """The triangles of the elements in the (E,) mask (None: of all) with corners on both sides of a plane."""
    tolerance = building.tolerance
    # Wide enough for rounding too: a triangle left out would tear the outline it belongs to.
    margin = 2 * tolerance + ROUNDING * float(np.abs(building.bounds).max())
    near = building.clusters.near_plane(plane.n, plane.offset, margin)
    if elements is not None:
        near &= elements[building.clusters.element]
    numbers = building.clusters.triangles_in(near)
    corners = building.triangles.take(numbers, axis=0)
    # One flat product over all corners is several times faster than one for each triangle.
    distance = (building.vertices.take(corners.ravel(), axis=0) @ plane.n - plane.offset).reshape(-1, 3)
    above = distance >= -tolerance
    pattern = above[:, 0] + 2 * above[:, 1] + 4 * above[:, 2]
    rows = np.flatnonzero((pattern != 0) & (pattern != 7))
    pattern = pattern[rows]
    triangle = numbers[rows]
    return Crossed(
        triangle=triangle,
        element=building.element_of_triangle[triangle],
        corners=corners.take(rows, axis=0),
        distance=distance.take(rows, axis=0),
        lone=_LONE[pattern],
        above=_LONE_IS_ABOVE[pattern],
    )


def _points_on(
    building: Building,
    a: NDArray[np.int64],
    b: NDArray[np.int64],
    da: NDArray[np.float64],
    db: NDArray[np.float64],
) -> NDArray[np.float64]:
    """(n, 3) where edges between vertices (n,) at distances (n,) meet the plane, the same whichever end is named first."""
    swap = a > b
    low, high = np.where(swap, b, a), np.where(swap, a, b)
    d_low, d_high = np.where(swap, db, da), np.where(swap, da, db)
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.clip(np.nan_to_num(d_low / (d_low - d_high)), 0.0, 1.0)
    p = building.vertices.take(low, axis=0)
    return np.asarray(p + t[:, None] * (building.vertices.take(high, axis=0) - p))


def _next_rows(building: Building, crossed: Crossed) -> NDArray[np.int64]:
    """(M,) the row of the triangle over the edge at which each segment ends; −1 where that is not crossed."""
    # A segment runs from the edge after the lone corner to the edge before it, or the other way where that lies below.
    end = np.where(crossed.above, (crossed.lone + 2) % 3, crossed.lone)
    across = building.links.twin[3 * crossed.triangle + end] // 3
    row_of = np.empty(len(building.triangles), np.int64)
    row_of[across] = -1
    row_of[crossed.triangle] = np.arange(len(crossed.triangle))
    return row_of[across]


def _follow_twins(building: Building, crossed: Crossed, following: NDArray[np.int64]) -> Outlines:
    """Loops through closed elements, from each triangle to the row that follows; its node lies where its segment starts."""
    row = np.arange(len(crossed.triangle))
    begin = np.where(crossed.above, (crossed.lone + 1) % 3, (crossed.lone + 2) % 3)
    a, b = crossed.corners[row, crossed.lone], crossed.corners[row, begin]
    nodes = _points_on(building, a, b, crossed.distance[row, crossed.lone], crossed.distance[row, begin])
    path, first, element = _cycles(following, crossed.element)
    plain = np.ones(len(element), bool)
    return Outlines(nodes, path, first, element, plain, plain)


def _segments_by_edges(building: Building, crossed: Crossed) -> Segments:
    """Segments whose nodes are named by the edges they lie on."""
    row = np.arange(len(crossed.triangle))
    ends = []
    for step in (1, 2):
        other = (crossed.lone + step) % 3
        ends.append(
            (
                crossed.corners[row, crossed.lone],
                crossed.corners[row, other],
                crossed.distance[row, crossed.lone],
                crossed.distance[row, other],
            )
        )
    a, b, da, db = (np.concatenate(column) for column in zip(*ends))
    key = np.minimum(a, b) * len(building.vertices) + np.maximum(a, b)
    _, sample, node = np.unique(key, return_index=True, return_inverse=True)
    first, second = node[: len(row)], node[len(row) :]
    return Segments(
        nodes=_points_on(building, a[sample], b[sample], da[sample], db[sample]),
        start=np.where(crossed.above, first, second),
        end=np.where(crossed.above, second, first),
        element=crossed.element,
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
    start, order = np.unique(segments.start[regular], return_index=True)
    path, first, element = _cycles(np.searchsorted(start, segments.end[regular][order]), segments.element[regular][order])
    path = start[path]
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
    following: NDArray[np.int64], element: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """The cycles of a permutation (n,): (n,) its members cycle by cycle, (c + 1,) where each begins, (c,) its element.

    Pointer jumping (Wyllie, 1979): in every round each member learns from one twice as far away, first which is the
    least of its cycle, then how far it is from there. No loop over segments in Python.
    """
    count = len(following)
    if not count:
        return np.empty(0, np.int64), np.zeros(1, np.int64), np.empty(0, np.int64)
    row = np.arange(count)
    least, ahead = row, following
    while True:
        better = np.minimum(least, least[ahead])
        if (better == least).all():
            break
        least, ahead = better, ahead[ahead]
    leads = least == row
    away = np.where(leads, 0, 1)
    ahead = np.where(leads, row, following)
    while True:
        further = away[ahead]
        if not further.any():
            break
        away, ahead = away + further, ahead[ahead]
    # From its leader on, a member that is further from coming back to it comes sooner.
    length = np.bincount(least, minlength=count)
    place = np.where(leads, 0, length[least] - away)
    leaders = np.flatnonzero(leads)
    begins = np.zeros(count, np.int64)
    begins[leaders] = np.concatenate([[0], np.cumsum(length[leaders])[:-1]])
    path = np.empty(count, np.int64)
    path[begins[least] + place] = row
    return path, np.concatenate([begins[leaders], [count]]), element[leaders]


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
