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

from anatome.cuts.following import follow, points_along
from anatome.cuts.plane import Plane
from anatome.model.building import Building

ROUNDING = 1e-14
"""Share of a coordinate by which distances worked out from it may be off."""


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
    """Return the outlines that a plane makes of the elements in the (E,) mask (None: of all)."""
    clusters, links = building.clusters, building.links
    # Wide enough for rounding too: a triangle left out would be missing from its outline.
    margin = 2 * building.tolerance + ROUNDING * float(np.abs(building.bounds).max())
    near = clusters.near_plane(plane.n, plane.offset, margin)
    if elements is not None:
        near &= elements[clusters.element]
    chosen = np.flatnonzero(near)
    where = plane.n, plane.offset, building.tolerance
    path, begins, others = follow(
        building.vertices, building.triangles, links.twin, clusters.order, clusters.start,
        chosen, links.closed[clusters.element[chosen]], *where,
    )  # fmt: skip
    nodes = points_along(building.vertices, building.triangles, path, *where)
    starts = np.flatnonzero(begins)
    first, element = np.append(starts, len(path)), building.element_of_triangle[path[starts]]
    plain = np.ones(len(element), bool)
    linked = Outlines(nodes, np.arange(len(nodes)), first, element, plain, plain)
    if not len(others):
        return linked
    traced = trace_outlines(_segments_by_edges(building, plane, others))
    return Outlines(
        nodes=np.concatenate([linked.nodes, traced.nodes]),
        path=np.concatenate([linked.path, traced.path + len(linked.nodes)]),
        first=np.concatenate([linked.first, traced.first[1:] + linked.first[-1]]),
        element=np.concatenate([linked.element, traced.element]),
        closed=np.concatenate([linked.closed, traced.closed]),
        directed=np.concatenate([linked.directed, traced.directed]),
    )


def _segments_by_edges(building: Building, plane: Plane, triangles: NDArray[np.int64]) -> Segments:
    """Segments of crossed triangles (M,), whose nodes are named by the edges they lie on."""
    corners = building.triangles[triangles]
    # Worked out as :func:`follow` does, so that both find a corner on the same side.
    x, y, z = np.moveaxis(building.vertices[corners], -1, 0)
    distance = x * plane.normal[0] + y * plane.normal[1] + z * plane.normal[2] - plane.offset
    above = distance >= -building.tolerance
    following = np.roll(above, -1, axis=1)
    row = np.arange(len(triangles))
    # One edge comes down through the plane, where the segment starts, and one goes up, where it ends.
    a, b, da, db = [], [], [], []
    for edge in (np.argmax(above & ~following, axis=1), np.argmax(~above & following, axis=1)):
        other = (edge + 1) % 3
        a.append(corners[row, edge])
        b.append(corners[row, other])
        da.append(distance[row, edge])
        db.append(distance[row, other])
    one, two = np.concatenate(a), np.concatenate(b)
    key = np.minimum(one, two) * len(building.vertices) + np.maximum(one, two)
    _, sample, node = np.unique(key, return_index=True, return_inverse=True)
    return Segments(
        nodes=_points_on(building, one[sample], two[sample], np.concatenate(da)[sample], np.concatenate(db)[sample]),
        start=node[: len(row)],
        end=node[len(row) :],
        element=building.element_of_triangle[triangles],
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
    p = building.vertices[low]
    return np.asarray(p + t[:, None] * (building.vertices[high] - p))


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
