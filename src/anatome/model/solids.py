"""How triangles hang together, and which elements are solids of the plain kind."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, eq=False)
class Links:
    """How the triangles of a building hang together.

    Half-edge ``3 t + k`` runs along triangle ``t`` from its corner ``k`` to the next. ``twin`` (3 T,) is the half-edge that
    runs the other way between the same two vertices, or −1 where there is not exactly one such. ``closed`` (E,) is True
    for elements of which every half-edge has a twin: closed, with faces that agree about their outside.
    """

    twin: NDArray[np.int64]
    closed: NDArray[np.bool_]


def edges_of(triangles: NDArray[np.int64], vertices: int) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """Return the start and end of the half-edges of triangles (T, 3), each (3 T,), and a number for the edge each runs along."""
    start, end = triangles.ravel(), np.roll(triangles, -1, axis=1).ravel()
    return start, end, np.minimum(start, end) * vertices + np.maximum(start, end)


def link_triangles(triangles: NDArray[np.int64], vertices: int, element: NDArray[np.int64], elements: int) -> Links:
    """Find the twins of all half-edges of triangles (T, 3), each in an ``element`` (T,)."""
    start, end, key = edges_of(triangles, vertices)
    order = np.argsort(key, kind="stable")
    named = key[order]
    first = np.flatnonzero(np.concatenate([[True], named[1:] != named[:-1]]))
    size = np.diff(np.append(first, len(named)))
    pairs = first[size == 2]
    one, other = order[pairs], order[pairs + 1]
    opposite = start[one] == end[other]
    one, other = one[opposite], other[opposite]
    twin = np.full(len(start), -1, np.int64)
    twin[one], twin[other] = other, one
    closed = np.ones(elements, bool)
    closed[element[np.flatnonzero(twin < 0) // 3]] = False
    return Links(twin, closed)


def enclosed_volumes(corners: NDArray[np.float64], start: NDArray[np.int64]) -> NDArray[np.float64]:
    """Return (E,) m³ enclosed by the triangles (T, 3, 3) of each element; below 0 where they are wound the wrong way round.

    Divergence theorem, about a corner of each element, so that rounding follows its size and not its place.
    """
    base = np.repeat(corners[start[:-1], 0], np.diff(start), axis=0)
    a, b, c = (corners[:, i] - base for i in range(3))
    return np.asarray(np.add.reduceat(np.einsum("ij,ij->i", a, np.cross(b, c)) / 6.0, start[:-1]))


def bodies_meet(
    triangles: NDArray[np.int64], vertices: NDArray[np.float64], element: NDArray[np.int64], elements: int, least: float
) -> NDArray[np.bool_]:
    """Return (E,) True where an element consists of several bodies whose boxes share more than ``least`` metres.

    They may overlap or hold hollows, so the signed areas of a section do not add up to what is filled.
    """
    # Slow to load, and what was worked out once is kept with the building.
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    count = len(vertices)
    links = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]]])
    graph = coo_matrix((np.ones(len(links), np.int8), (links[:, 0], links[:, 1])), shape=(count, count))
    _, body = connected_components(graph, directed=False)
    low = np.full((body.max() + 1, 3), np.inf)
    high = np.full((body.max() + 1, 3), -np.inf)
    np.minimum.at(low, body, vertices)
    np.maximum.at(high, body, vertices)
    owner = np.zeros(body.max() + 1, np.int64)
    owner[body[triangles[:, 0]]] = element
    meets = np.zeros(elements, bool)
    order = np.argsort(owner, kind="stable")
    counts = np.bincount(owner, minlength=elements)
    starts = np.cumsum(counts) - counts
    for i in np.flatnonzero(counts > 1):
        members = order[starts[i] : starts[i] + counts[i]]
        a, b = low[members], high[members]
        common = (a[:, None] < b[None] - least).all(axis=2) & (a[None] < b[:, None] - least).all(axis=2)
        meets[i] = bool(np.count_nonzero(common) > len(members))
    return meets
