"""Where ground with a body has to make room: over every floor that lies in it, there are rooms and not earth.

A floor under the level of the ground is dug free from its underside up. What stands in the earth without a floor, a footing
or a pile, needs no pit: where both are cut, what is built comes before earth.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.model.building import Building

FLOOR_TYPES = ("IfcSlab", "IfcCovering", "IfcStair", "IfcStairFlight", "IfcRamp", "IfcRampFlight")
LEAST = 1.0
"""m² of level faces from which a part without an IFC type is taken for a floor."""
LEVEL = 0.95
"""Cosine to the vertical from which a face counts as level."""
FLUSH = 0.05
"""Metres above the ground up to which a floor is still flush with it, and would fight with it for the same place."""
JOINT = 0.30
"""Metres between floors up to which what lies between them is no earth: a wall or a joint stands there."""


def pits(building: Building, level: float) -> list[tuple[shapely.Geometry, float]]:
    """Return (area in metres, height of its floor's underside) of every pit in ground at a level."""
    found: dict[float, list[shapely.Geometry]] = {}
    for number in _floors(building, level).tolist():
        area = _upper_area(building, number)
        if not area.is_empty:
            found.setdefault(round(float(building.element_bounds[number, 0, 2]), 3), []).append(area)
    # Joints are closed over all floors that lie as deep or deeper: a pit is as wide as those above it.
    return [(_closed(areas), bottom) for bottom, areas in sorted(found.items())]


def _floors(building: Building, level: float) -> NDArray[np.int64]:
    """Numbers of the elements that are floors in the ground."""
    low, high = building.element_bounds[:, 0, 2], building.element_bounds[:, 1, 2]
    below = ~building.context & (high <= level + FLUSH) & (low < level)
    if not below.any():
        return np.flatnonzero(below)
    typed = np.array([e.type in FLOOR_TYPES for e in building.elements])
    plain = np.array([not e.type.startswith("Ifc") for e in building.elements])
    wide = np.zeros(len(below), bool)
    for number in np.flatnonzero(below & plain).tolist():
        corners = _upper_faces(building, number)
        sides = corners[:, 1:, :2] - corners[:, :1, :2]
        wide[number] = float(np.abs(np.linalg.det(sides)).sum() / 2) >= LEAST if len(corners) else False
    return np.flatnonzero(below & (typed | (plain & wide)))


def _upper_faces(building: Building, number: int) -> NDArray[np.float64]:
    """(n, 3, 3) the triangles of an element that look up."""
    start, end = building.triangle_start[number : number + 2]
    corners = building.vertices[building.triangles[start:end]]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return np.asarray(corners[normals[:, 2] > LEVEL * np.linalg.norm(normals, axis=1)])


def _upper_area(building: Building, number: int) -> shapely.Geometry:
    corners = _upper_faces(building, number)[:, :, :2]
    return shapely.union_all(shapely.polygons(corners)) if len(corners) else shapely.Point().buffer(0)


def _closed(areas: list[shapely.Geometry]) -> shapely.Geometry:
    half = JOINT / 2
    grown = shapely.buffer(shapely.union_all(areas), half, join_style="mitre")
    return shapely.buffer(grown, -half, join_style="mitre")
