"""The directions a building and its parts lie in, seen in plan."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.model.building import Building
from anatome.problems import Problem

BIN = 0.5
"""Degrees within which directions count as one."""


def own_directions(building: Building, shown: NDArray[np.bool_] | None = None, share: float = 0.04) -> list[float]:
    """Degrees in [0, 90) of the directions walls run in, the most frequent first; the others are at right angles.

    Weighed by the area of upright faces; directions with less than a ``share`` of it are left out.
    """
    normal, area = _faces(building, shown)
    upright = (np.abs(normal[:, 2]) < 1e-3 * area) & (area > 0)
    angle = np.degrees(np.arctan2(normal[upright, 1], normal[upright, 0])) % 90.0
    return _most_frequent(angle, area[upright], 90.0, share) or [0.0]


def roof_slopes(building: Building, shown: NDArray[np.bool_] | None = None, share: float = 0.08) -> list[float]:
    """Degrees from level, in (2, 88), of the slopes of roofs: of inclined faces that look up, the most frequent first. Those with
    less than a ``share`` of the area of all of them are left out."""
    normal, area = _faces(building, shown)
    with np.errstate(invalid="ignore"):
        slope = np.degrees(np.arccos(np.clip(normal[:, 2] / area, -1.0, 1.0)))
    inclined = (slope > 2.0) & (slope < 88.0)
    return _most_frequent(slope[inclined], area[inclined], 90.0, share)


def _faces(building: Building, shown: NDArray[np.bool_] | None) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return ((T, 3) normals as long as the areas, (T,) areas in square metres) of all triangles, or those shown."""
    triangles = building.triangles if shown is None else building.triangles[shown[building.element_of_triangle]]
    a, b, c = np.moveaxis(building.vertices[triangles], 1, 0)
    normal = np.cross(b - a, c - a) / 2
    return normal, np.linalg.norm(normal, axis=1)


def _most_frequent(angle: NDArray[np.float64], weight: NDArray[np.float64], turn: float, share: float) -> list[float]:
    """Return the angles in [0, turn) degrees that have more than a share of the weight, the most frequent first."""
    if not len(angle):
        return []
    count = round(turn / BIN)
    place = np.round(angle / BIN).astype(int) % count
    sums = np.bincount(place, weights=weight, minlength=count)
    found = []
    for i in np.argsort(-sums):
        if sums[i] < share * weight.sum():
            break
        mine = place == i
        off = (angle[mine] - i * BIN + turn / 2) % turn - turn / 2
        exact = (i * BIN + float(np.average(off, weights=weight[mine]))) % turn
        found.append(round(exact, 6) % turn)
    return found


@dataclass(frozen=True)
class ElementAxis:
    """How an element lies in plan: its ``middle`` (3,), the unit direction ``along`` it, and its sizes in metres."""

    middle: NDArray[np.float64]
    along: NDArray[np.float64]
    length: float
    width: float

    @property
    def across(self) -> NDArray[np.float64]:
        """(3,) the level unit vector at right angles to it."""
        return np.array([-self.along[1], self.along[0], 0.0])

    @property
    def degrees(self) -> float:
        """Of its direction, anticlockwise from X, 0 ≤ d < 180."""
        return math.degrees(math.atan2(self.along[1], self.along[0])) % 180.0


def element_axis(building: Building, index: int) -> ElementAxis:
    """Return the smallest rectangle round an element in plan (rotating calipers, by shapely)."""
    start, end = building.triangle_start[index : index + 2]
    points = building.vertices[np.unique(building.triangles[start:end])]
    hull = shapely.MultiPoint(points[:, :2]).minimum_rotated_rectangle
    corners = shapely.get_coordinates(hull)
    height = float(points[:, 2].min() + points[:, 2].max()) / 2
    if len(corners) < 4:
        corners = np.array([points[:, :2].min(axis=0), points[:, :2].max(axis=0)])
        corners = corners[[0, 1, 1, 0]]
    sides = np.diff(corners[:3], axis=0)
    lengths = np.hypot(*sides.T)
    longest = int(np.argmax(lengths))
    along = sides[longest] / max(float(lengths[longest]), 1e-12)
    if not along.any():
        along = np.array([1.0, 0.0])
    middle = (corners[0] + corners[2]) / 2
    return ElementAxis(np.array([*middle, height]), np.array([*along, 0.0]), float(lengths[longest]), float(lengths[1 - longest]))


def plane_along(axis: ElementAxis, towards: NDArray[np.float64], face: bool = False) -> Plane:
    """Return the upright plane along an element, through its middle or in the ``face`` towards the eye.

    ``towards`` (3,) is the direction to the eye, whose side is cut away.
    """
    normal = axis.across if axis.across @ towards >= 0 else -axis.across
    origin = axis.middle + normal * (axis.width / 2 if face else 0.0)
    return Plane((float(origin[0]), float(origin[1]), float(origin[2])), (float(normal[0]), float(normal[1]), 0.0))


def plane_through_points(points: NDArray[np.float64], towards: NDArray[np.float64]) -> Plane:
    """Return the plane through (3, 3) points, looking away from the eye that lies in the direction ``towards``.

    Raises Problem when the points lie on one line.
    """
    a, b, c = points
    normal = np.cross(b - a, c - a)
    longest = max(np.linalg.norm(b - a), np.linalg.norm(c - a), np.linalg.norm(c - b))
    if np.linalg.norm(normal) < 1e-6 * longest**2 + 1e-12:
        raise Problem("These three points lie on one line. Click a third point beside it.")
    normal = normal / np.linalg.norm(normal)
    if normal @ towards < 0:
        normal = -normal
    return Plane((float(a[0]), float(a[1]), float(a[2])), (float(normal[0]), float(normal[1]), float(normal[2])))
