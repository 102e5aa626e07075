"""Which parts of a model are no sound solids, and why: open, turned inside out, doubled, crossing themselves, in one another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building
from anatome.model.crossings import boxes_in_boxes, crossing_themselves, crossings
from anatome.model.shapes import shapes_of
from anatome.model.solids import edges_of, enclosed_volumes

Numbers = NDArray[np.int64]
SOME = 60
"""Corners of a part, about, of which one asks whether they lie in another one."""
INSIDE = 0.9
"""How often a surface goes round what is inside: once, half a time where that lies on it."""


@dataclass(frozen=True, eq=False)
class Soundness:
    """Of each of E elements: how many edges belong to one triangle alone (``free``), to three or another odd number
    (``crowded``), or to an even number that do not agree where outside is (``turned``); metres of the free ones (``gap``);
    whether it is closed but ``inside_out``; whether it is ``crossing`` itself. ``doubled`` (n, 2) are pairs of elements of one
    shape in one place, ``within`` (n, 2) of one that lies wholly inside the other.

    Four that agree are two bodies that touch, as panes and frames do: nothing is open there.
    """

    free: Numbers
    crowded: Numbers
    turned: Numbers
    gap: NDArray[np.float64]
    inside_out: NDArray[np.bool_]
    doubled: Numbers
    crossing: NDArray[np.bool_]
    within: Numbers

    @property
    def open(self) -> NDArray[np.bool_]:
        """(E,) True where an element encloses nothing for sure: a cut through it may not be filled."""
        return (self.free > 0) | (self.crowded > 0) | (self.turned > 0)

    def words(self, element: int) -> str:
        """Return why an element is no sound solid, in words; nothing where it is one."""
        if self.inside_out[element]:
            return "its faces are turned inwards"
        parts = []
        if self.free[element]:
            parts.append(f"{_edges(self.free[element])} with one face alone, {self.gap[element]:.2f} m of them")
        if self.crowded[element]:
            parts.append(f"{_edges(self.crowded[element])} with a face too many")
        if self.turned[element]:
            parts.append(f"{_edges(self.turned[element])} whose faces do not agree where outside is")
        if self.crossing[element]:
            parts.append("its surfaces run through one another")
        return "; ".join(parts)


def _edges(count: int) -> str:
    return f"{count} edge{'' if count == 1 else 's'}"


def soundness_of(building: Building) -> Soundness:
    """Find out which elements of a building are no sound solids."""
    count = len(building.elements)
    start, end, key = edges_of(building.triangles, len(building.vertices))
    named, first, place, uses = np.unique(key, return_index=True, return_inverse=True, return_counts=True)
    forward = np.bincount(place, weights=start < end, minlength=len(named)).astype(np.int64)
    owner = building.element_of_triangle[first // 3]
    length = np.linalg.norm(building.vertices[start[first]] - building.vertices[end[first]], axis=1)
    free = uses == 1

    def counted(edges: NDArray[np.bool_]) -> Numbers:
        return np.bincount(owner[edges], minlength=count)

    found = counted(free), counted((uses > 2) & (uses % 2 == 1)), counted((uses % 2 == 0) & (2 * forward != uses))
    volumes = enclosed_volumes(building.vertices[building.triangles], building.triangle_start)
    gap = np.zeros(count)
    np.add.at(gap, owner[free], length[free])
    closed = (found[0] == 0) & (found[1] == 0) & (found[2] == 0)
    inside_out = closed & (volumes < 0)
    solid = closed & ~inside_out & ~building.earth
    return Soundness(*found, gap, inside_out, _doubled(building), crossing_themselves(building), _within(building, solid))


def _within(building: Building, solid: NDArray[np.bool_]) -> Numbers:
    """Pairs of elements of which the first lies inside the second, a solid one: no surfaces cross, and no corner is outside."""
    low, high = building.element_bounds[:, 0], building.element_bounds[:, 1]
    pairs = boxes_in_boxes(low, high, building.tolerance)
    pairs = pairs[solid[pairs[:, 1]]]
    crossing = {tuple(sorted(pair)) for pair in crossings(building)[1].tolist()} if len(pairs) else set()
    start, found = building.triangle_start, []
    for inner, outer in pairs.tolist():
        if (min(inner, outer), max(inner, outer)) in crossing:
            continue
        corners = building.vertices[building.triangles[start[outer] : start[outer + 1]]]
        own = np.unique(building.triangles[start[inner] : start[inner + 1]])
        places = building.vertices[own[:: max(1, len(own) // SOME)]]
        if all(turns_round(corners, place) > INSIDE for place in places):
            found.append((inner, outer))
    return np.array(sorted(found), np.int64).reshape(-1, 2)


def turns_round(corners: NDArray[np.float64], place: NDArray[np.float64]) -> float:
    """Return how often triangles (T, 3, 3) go round a place (3,): 1 inside what they enclose, 0 outside.

    Their solid angles added up: Van Oosterom and Strackee, “The Solid Angle of a Plane Triangle”, 1983.
    """
    a, b, c = (corners[:, i] - place for i in range(3))
    la, lb, lc = (np.linalg.norm(x, axis=1) for x in (a, b, c))
    over = np.einsum("ij,ij->i", a, np.cross(b, c))
    dots = (np.einsum("ij,ij->i", p, q) for p, q in ((a, b), (a, c), (b, c)))
    under = la * lb * lc + next(dots) * lc + next(dots) * lb + next(dots) * la
    return float(np.arctan2(over, under).sum() / (2 * np.pi))


def _doubled(building: Building) -> Numbers:
    shapes = shapes_of(building)
    from scipy.spatial import KDTree  # slow to load

    found = KDTree(np.hstack([shapes.middle, shapes.own, shapes.stance])).query_pairs(
        max(building.tolerance, 1e-6), p=np.inf, output_type="ndarray"
    )
    return np.asarray(found[np.lexsort(found.T[::-1])], np.int64)
