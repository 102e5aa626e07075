"""Which elements are solids of the plain kind."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components

if TYPE_CHECKING:
    from anatome.model.building import Building


def plain_solids(building: Building) -> NDArray[np.bool_]:
    """(E,) True for elements that are closed, and of one body or of bodies apart from one another.

    Of these the signed areas of a section add up to what is filled.
    """
    triangles = building.triangles
    edges = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    count = len(building.vertices)
    forward = edges[:, 0] * count + edges[:, 1]
    backward = edges[:, 1] * count + edges[:, 0]
    names, times = np.unique(forward, return_counts=True)
    back = np.searchsorted(names, backward).clip(0, len(names) - 1)
    owner = np.tile(building.element_of_triangle, 3)
    odd = (names[back] != backward) | (times[np.searchsorted(names, forward)] != 1)
    good = np.ones(len(building.elements), bool)
    good[owner[odd]] = False
    return good & ~_has_bodies_that_meet(building)


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
