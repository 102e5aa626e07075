"""What a cut takes away, as convex cells; and how cells act on a building.

A cell is where points lie before every one of its planes, on the side their normals point to. One plane makes a cell
with one plane; a box that keeps its inside makes six of those; a box that carves makes one cell with six planes; a
stepped section one cell for each step. Whatever the kind of cut, a point is cut away when it lies in one of the cells.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.plane import Plane


@dataclass(frozen=True, slots=True)
class Cell:
    """A convex part of space that is cut away: before all of its planes. It has no border of its own."""

    planes: tuple[Plane, ...]

    def holds(self, points: NDArray[np.float64], margin: float = 0.0) -> NDArray[np.bool_]:
        """Return (...,) True where (..., 3) points lie in the cell by more than ``margin`` metres."""
        inside = np.ones(points.shape[:-1], bool)
        for plane in self.planes:
            inside &= plane.distance(points) > margin
        return inside

    def holds_boxes(self, low: NDArray[np.float64], high: NDArray[np.float64], margin: float) -> NDArray[np.bool_]:
        """Return (E,) True where a box with (E, 3) corners lies wholly in the cell, give or take ``margin`` metres."""
        inside = np.ones(len(low), bool)
        for plane in self.planes:
            n = plane.n
            inside &= np.where(n > 0, low, high) @ n - plane.offset >= -margin
        return inside

    def may_touch_boxes(self, low: NDArray[np.float64], high: NDArray[np.float64], margin: float) -> NDArray[np.bool_]:
        """Return (E,) False where one of the planes keeps a whole box outside the cell; True for all others."""
        touches = np.ones(len(low), bool)
        for plane in self.planes:
            n = plane.n
            touches &= np.where(n > 0, high, low) @ n - plane.offset > margin
        return touches


def held_by_any(cells: Sequence[Cell], points: NDArray[np.float64], margin: float = 0.0) -> NDArray[np.bool_]:
    """Return (...,) True where (..., 3) points lie in at least one cell."""
    held = np.zeros(points.shape[:-1], bool)
    for cell in cells:
        held |= cell.holds(points, margin)
    return held
