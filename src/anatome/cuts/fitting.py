"""Section boxes and planes fitted to what there is: a storey, a room, a selection."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.dissection import CutBuilding
from anatome.cuts.kinds.box import Box
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
    """Return the level plane ``height`` metres over a storey's floor, looking down."""
    low, high = building.bounds
    middle = (low + high) / 2
    return Plane((float(middle[0]), float(middle[1]), building.storeys[storey].elevation + height), (0.0, 0.0, 1.0))


def box_round(building: Building, elements: NDArray[np.bool_], turn: float = 0.0, margin: float = 0.1) -> Box:
    """Return the smallest box at an angle round the elements of an (E,) mask. Raises Problem when there are none."""
    if not elements.any():
        raise Problem("There is nothing to put a box round. Show something, or pick some parts.")
    if turn % 90 == 0:
        return Box.round_points(building.element_bounds[elements].reshape(-1, 3), turn, margin)
    points = building.vertices[building.triangles[elements[building.element_of_triangle]]].reshape(-1, 3)
    return Box.round_points(points, turn, margin)


def box_round_space(space: Space, margin: float = 0.3, open_top: bool = False) -> Box:
    """Return a room with its walls, floor and ceiling cut through: its bounds and ``margin`` metres more.

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


def left_boxes(cut_open: CutBuilding, among: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Return (n, 2, 3) metres, what cuts leave of the boxes of the elements in an (E,) mask.

    As close as boxes can tell; what section boxes carve out does not make it smaller.
    """
    building = cut_open.building
    members = np.flatnonzero(among & cut_open.shown)
    plain = [i for i, cell in enumerate(cut_open.cells) if len(cell.planes) == 1]
    boxes = building.element_bounds[members]
    rows, which = np.unique(cut_open.acting[members][:, plain], axis=0, return_inverse=True)
    for number, row in enumerate(rows):
        own = np.flatnonzero(which.ravel() == number)
        planes = [cut_open.cells[plain[i]].planes[0] for i in np.flatnonzero(row)]
        low, high = _bounds_before(planes, building.bounds)
        part = np.stack([np.maximum(boxes[own, 0], low), np.minimum(boxes[own, 1], high)], axis=1)
        part[(part[:, 0] > part[:, 1]).any(axis=1)] = np.nan
        for plane in planes:
            part = _before(part, plane)
        boxes[own] = part
    return boxes[np.isfinite(boxes).all(axis=(1, 2))]


def left_points(cut_open: CutBuilding, among: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Return (n, 3) the corners of what cuts leave of the elements in an (E,) mask, those of the cut faces among them."""
    building = cut_open.building
    own = (among & cut_open.shown)[building.element_of_triangle]
    numbers, first = np.unique(building.triangles[own], return_index=True)
    element = np.repeat(building.element_of_triangle[own], 3)[first]
    points = building.vertices[numbers]
    points = points[~cut_open.removed(points, element)]
    sections = [face.section for face in cut_open.faces]
    caps = [s.plane.raised(shapely.get_coordinates(s.polygons[among[s.element]])) for s in sections]
    return np.concatenate([points, *caps])


def _bounds_before(planes: Sequence[Plane], bounds: NDArray[np.float64]) -> NDArray[np.float64]:
    """(2, 3) bounds of what of (2, 3) bounds lies on the side of all planes that is kept: of the corners of that polytope."""
    normals = np.concatenate([np.array([p.normal for p in planes]).reshape(-1, 3), -np.eye(3), np.eye(3)])
    offsets = np.concatenate([[p.offset for p in planes], -bounds[0], bounds[1]])
    triples = np.array(list(combinations(range(len(normals)), 3)))
    straight = np.abs(np.linalg.det(normals[triples])) > 1e-9
    corners = np.linalg.solve(normals[triples[straight]], offsets[triples[straight]][..., None])[..., 0]
    slack = 1e-9 * float(np.abs(bounds).max() + 1)
    corners = corners[(corners @ normals.T <= offsets + slack).all(axis=1)]
    return np.stack([corners.min(axis=0), corners.max(axis=0)]) if len(corners) else np.stack([bounds[1], bounds[0]])


def _before(boxes: NDArray[np.float64], plane: Plane) -> NDArray[np.float64]:
    """(n, 2, 3) boxes round what of boxes (n, 2, 3) lies on the side of a plane that is kept; NaN where that is nothing."""
    choice = np.array(list(np.ndindex(2, 2, 2)))
    corners = np.stack([boxes[:, choice[:, axis], axis] for axis in range(3)], axis=-1)
    distance = plane.distance(corners)
    ends = np.array([(i, j) for i, j in combinations(range(8), 2) if np.abs(choice[i] - choice[j]).sum() == 1])
    a, b, da, db = corners[:, ends[:, 0]], corners[:, ends[:, 1]], distance[:, ends[:, 0]], distance[:, ends[:, 1]]
    crossed = (da > 0) != (db > 0)
    share = np.where(crossed, da / np.where(crossed, da - db, 1.0), np.nan)[..., None]
    points = np.concatenate([np.where((distance <= 0)[..., None], corners, np.nan), a + share * (b - a)], axis=1)
    low, high = np.where(np.isnan(points), np.inf, points).min(axis=1), np.where(np.isnan(points), -np.inf, points).max(axis=1)
    found = np.stack([low, high], axis=1)
    found[~np.isfinite(found).all(axis=(1, 2))] = np.nan
    return found
