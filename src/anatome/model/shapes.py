"""What the surface of each element measures, for knowing it again: its shape, and how it stands."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building

Array = NDArray[np.float64]

POINTS = np.array([[1 / 3, 1 / 3, 1 / 3], [0.6, 0.2, 0.2], [0.2, 0.6, 0.2], [0.2, 0.2, 0.6]])
SHARES = np.array([-27 / 48, 25 / 48, 25 / 48, 25 / 48])
"""Points of a triangle and their shares of its area that give integrals of polynomials up to the third degree exactly (Strang and
Fix, An Analysis of the Finite Element Method, 1973; values from memory, tested on polynomials)."""


@dataclass(frozen=True, eq=False)
class Shapes:
    """All in metres, integrals over the surface, so that neither the triangles it is divided into nor their order count.

    ``own`` (E, 7) is the same wherever an element stands and however it is turned: the square root of its area, the volume over
    the area, how far the surface lies from its middle, along each of its own axes and all together, and how lopsided it is.
    ``middle`` (E, 3) is the centroid of the surface; ``stance`` (E, 9) says which way its axes and its heavier side lie.
    """

    own: Array
    middle: Array
    stance: Array

    def placed(self, factor: float, shift: Array) -> Shapes:
        """Return the same after all was made larger by a factor about the origin, then moved by (3,) metres."""
        return Shapes(self.own * factor, self.middle * factor + shift, self.stance * factor)


def shapes_of(building: Building) -> Shapes:
    """Measure the surface of every element by its moments up to the third."""
    start, owner = building.triangle_start[:-1], building.element_of_triangle
    corners = building.vertices[building.triangles]
    doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(doubled, axis=1) / 2

    def summed(values: Array) -> Array:
        return np.asarray(np.add.reduceat(values, start, axis=0))

    whole = np.maximum(summed(area), 1e-30)
    middle = summed(corners.mean(axis=1) * area[:, None]) / whole[:, None]
    corners = corners - middle[owner, None]  # about each own middle, so that places far away cost no precision
    spots = np.einsum("pc,tcx->tpx", POINTS, corners)
    weight = SHARES * area[:, None]
    second = summed(np.einsum("tp,tpx,tpy->txy", weight, spots, spots)) / whole[:, None, None]
    third = summed(np.einsum("tp,tpx,tpy,tpy->tx", weight, spots, spots, spots)) / whole[:, None]
    volume = summed(np.einsum("tx,tx->t", corners[:, 0], doubled)) / 6
    spread = np.maximum(np.trace(second, axis1=1, axis2=2), 1e-30)
    axes = np.sqrt(np.maximum(np.linalg.eigvalsh(second), 0.0))
    heavier = third / spread[:, None]
    plain = [np.sqrt(whole), volume / whole, np.sqrt(spread), np.linalg.norm(heavier, axis=1)]
    upper = second[:, *np.triu_indices(3)] / np.sqrt(spread)[:, None]
    return Shapes(np.column_stack([*plain, axes]), middle, np.concatenate([upper, heavier], axis=1))
