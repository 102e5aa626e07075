"""How triangles hang together, and which elements are solids of the plain kind."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

if TYPE_CHECKING:
    from anatome.model.building import Building


@dataclass(frozen=True, eq=False)
class Links:
    """How the triangles of a building hang together.

    Half-edge ``3 t + k`` runs along triangle ``t`` from its corner ``k`` to the next. ``twin`` (3 T,) is the half-edge that
    runs the other way between the same two vertices, or −1 where there is not exactly one such. ``closed`` (E,) is True
    for elements of which every half-edge has a twin: closed, with faces that agree about their outside.
    """

    twin: NDArray[np.int64]
    closed: NDArray[np.bool_]


def link_triangles(building: Building) -> Links:
    """Find the twins of all half-edges."""
    triangles, count = building.triangles, len(building.vertices)
    start, end = triangles.ravel(), np.roll(triangles, -1, axis=1).ravel()
    key = np.minimum(start, end) * count + np.maximum(start, end)
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
    closed = np.ones(len(building.elements), bool)
    closed[building.element_of_triangle[np.flatnonzero(twin < 0) // 3]] = False
    return Links(twin, closed)


def plain_solids(building: Building) -> NDArray[np.bool_]:
    """(E,) True for elements that are closed, and of one body or of bodies apart from one another.

    Of these the signed areas of a section add up to what is filled.
    """
    return building.links.closed & ~_has_bodies_that_meet(building)


def _has_bodies_that_meet(building: Building) -> NDArray[np.bool_]:
    """(E,) True where an element consists of several bodies whose boxes meet: they may overlap or hold hollows."""
    triangles, count = building.triangles, len(building.vertices)
    links = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]]])
    graph = coo_matrix((np.ones(len(links), np.int8), (links[:, 0], links[:, 1])), shape=(count, count))
    _, body = connected_components(graph, directed=False)
    low = np.full((body.max() + 1, 3), np.inf)
    high = np.full((body.max() + 1, 3), -np.inf)
    np.minimum.at(low, body, building.vertices)
    np.maximum.at(high, body, building.vertices)
    element = np.zeros(body.max() + 1, np.int64)
    element[body[triangles[:, 0]]] = building.element_of_triangle
    meets = np.zeros(len(building.elements), bool)
    order = np.argsort(element, kind="stable")
    for members in np.split(order, np.flatnonzero(np.diff(element[order])) + 1):
        if len(members) > 1:
            a, b = low[members], high[members]
            least = building.tolerance  # bodies that only touch share no area
            common = (a[:, None] < b[None] - least).all(axis=2) & (a[None] < b[:, None] - least).all(axis=2)
            meets[element[members[0]]] = bool(np.count_nonzero(common) > len(members))
    return meets
