"""Which parts of a model are no sound solids, and why: open, turned inside out, doubled."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import KDTree

from anatome.model.building import Building
from anatome.model.shapes import shapes_of
from anatome.model.solids import edges_of, enclosed_volumes

Numbers = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Soundness:
    """Of each of E elements: how many edges belong to one triangle alone (``free``), to three or another odd number
    (``crowded``), or to an even number that do not agree where outside is (``turned``); metres of the free ones (``gap``);
    whether it is closed but ``inside_out``. ``doubled`` (n, 2) are pairs of elements of one shape in one place.

    Four that agree are two bodies that touch, as panes and frames do: nothing is open there.
    """

    free: Numbers
    crowded: Numbers
    turned: Numbers
    gap: NDArray[np.float64]
    inside_out: NDArray[np.bool_]
    doubled: Numbers

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
    return Soundness(*found, gap, closed & (volumes < 0), _doubled(building))


def _doubled(building: Building) -> Numbers:
    shapes = shapes_of(building)
    found = KDTree(np.hstack([shapes.middle, shapes.own, shapes.stance])).query_pairs(
        max(building.tolerance, 1e-6), p=np.inf, output_type="ndarray"
    )
    return np.asarray(found[np.lexsort(found.T[::-1])], np.int64)
