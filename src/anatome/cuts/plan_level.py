"""The level at which a plan of a building is cut: a little over a floor, or where it is open when nobody says where one is."""

from __future__ import annotations

import weakref

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.fitting import PLAN_HEIGHT
from anatome.cuts.plane import Plane
from anatome.cuts.scout import areas_along
from anatome.model.building import Building

LEVELS = 60
"""Heights at which it is looked."""
FLOOR, OPEN = 0.5, 0.05
"""Shares of the largest section: from the first on it is a floor or the ground, and up to the second what stands on it."""
OVER = 0.6
"""Metres over the lowest open level, which lies somewhat over the floor already."""
_found: weakref.WeakKeyDictionary[Building, float] = weakref.WeakKeyDictionary()


def plan_level(building: Building, storey: int | None) -> float:
    """Return the height in metres of a plan of a storey; with none, over what is laid lowest and widest, worked out once."""
    if storey is not None:
        return building.storeys[storey].elevation + PLAN_HEIGHT
    known = _found.get(building)
    if known is None:
        known = _found[building] = _open_level(building)
    return known


def _open_level(building: Building) -> float:
    low, high = building.bounds[:, 2].tolist()
    heights: NDArray[np.float64] = np.linspace(low, high, LEVELS + 2)[1:-1]
    usual = min(low + PLAN_HEIGHT, (low + high) / 2)
    if high - low < 2 * building.tolerance:
        return usual
    areas = areas_along(building, Plane((0.0, 0.0, 0.0), (0.0, 0.0, 1.0)), heights, np.ones(len(building.elements), bool))
    wide = np.flatnonzero(areas >= FLOOR * areas.max())
    over = np.flatnonzero(areas[wide[0] :] <= OPEN * areas.max()) if areas.max() > 0 else np.empty(0, int)
    if not len(over):
        return usual
    return float(min(heights[wide[0] + over[0]] + OVER, high - (high - low) / LEVELS))
