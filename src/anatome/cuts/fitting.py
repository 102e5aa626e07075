"""Section boxes and planes fitted to what there is: a storey, a room, a selection."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.box import Box
from anatome.cuts.plane import Plane
from anatome.model.building import Building, Space
from anatome.problems import Problem

PLAN_HEIGHT = 1.2
"""Metres over the floor at which a storey is cut (common practice)."""
HEADROOM = 1.9
"""Metres over a floor under which nothing is taken for a ceiling."""
LEVEL_PART = 0.6
"""Metres up to which a ceiling or a slab may be deep."""
CEILING_TYPES = ("IfcSlab", "IfcCovering", "IfcRoof")


def storey_plane(building: Building, storey: int, height: float = PLAN_HEIGHT) -> Plane:
    """The level plane ``height`` metres over a storey's floor, looking down."""
    low, high = building.bounds
    middle = (low + high) / 2
    return Plane((float(middle[0]), float(middle[1]), building.storeys[storey].elevation + height), (0.0, 0.0, 1.0))


def box_round(building: Building, elements: NDArray[np.bool_], turn: float = 0.0, margin: float = 0.1) -> Box:
    """The smallest box at an angle round the elements of an (E,) mask. Raises Problem when there are none."""
    if not elements.any():
        raise Problem("There is nothing to put a box round. Bring something back, or pick some parts.")
    if turn % 90 == 0:
        return Box.round_points(building.element_bounds[elements].reshape(-1, 3), turn, margin)
    points = building.vertices[building.triangles[elements[building.element_of_triangle]]].reshape(-1, 3)
    return Box.round_points(points, turn, margin)


def box_round_space(space: Space, margin: float = 0.3, open_top: bool = False) -> Box:
    """A room with its walls, floor and ceiling cut through: its bounds and ``margin`` metres more.

    With ``open_top`` it ends just under the ceiling, so that one looks in.
    """
    low, high = np.array(space.lower) - margin, np.array(space.upper) + margin
    if open_top:
        high[2] = space.upper[2] - 0.02
    return Box.round_points(np.array([low, high]))


def box_round_storey(
    building: Building, storey: int, elements: NDArray[np.bool_], margin: float = 0.3, open_top: bool = False
) -> Box:
    """From a storey's floor, ``margin`` metres lower, to as much under the next floor.

    With ``open_top`` to just under the lowest ceiling instead, so that one looks into the rooms. As wide as the elements
    of the (E,) mask that stand in storeys; the topmost storey reaches over all of them.
    """
    floor = building.storeys[storey].elevation
    above = [s.elevation for s in building.storeys if s.elevation > floor + 0.5]
    standing = elements & building.in_storey
    bounds = building.bounds_of(standing if standing.any() else elements)
    top = min(above) - margin if above else float(bounds[1][2]) + margin
    if open_top:
        top = min(top, _lowest_ceiling(building, elements, floor, min(above, default=float(bounds[1][2]))))
    top = max(top, floor + 0.1)
    corners = np.array([[*bounds[0][:2] - margin, floor - margin], [*bounds[1][:2] + margin, top]])
    return Box.round_points(corners)


def _lowest_ceiling(building: Building, elements: NDArray[np.bool_], floor: float, above: float) -> float:
    """Just under the lowest level ceiling or slab over a floor, higher than a person; infinite where there is none."""
    low, high = building.element_bounds[:, 0], building.element_bounds[:, 1]
    size = high - low
    lying = elements & (size[:, 2] < LEVEL_PART) & (size[:, :2].min(axis=1) > 1.0)
    lying &= np.array([e.type in CEILING_TYPES for e in building.elements], bool)
    lying &= (low[:, 2] > floor + HEADROOM) & (low[:, 2] < above)
    return float(low[lying, 2].min()) - 0.02 if lying.any() else float("inf")


def box_on_plan(a: NDArray[np.float64], b: NDArray[np.float64], low: float, high: float, turn: float = 0.0) -> Box:
    """From two opposite (2,) corners of a rectangle drawn in plan, between two heights."""
    return Box.round_points(np.array([[*a, low], [*b, high]]), turn)
