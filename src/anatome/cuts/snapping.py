"""Where a cut that is being dragged likes to stop: storeys, faces of the building, middles of openings."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building

OPENING_TYPES = ("IfcDoor", "IfcWindow", "IfcOpeningElement")
LEAST_FACE = 0.2
"""Share of the largest face plane a face plane must have to be worth stopping at."""


@dataclass(frozen=True)
class Stop:
    """``offset`` along the direction in metres from the model's origin, and what is there."""

    offset: float
    what: str


def stops_along(building: Building, normal: NDArray[np.float64], shown: NDArray[np.bool_], most: int = 60) -> list[Stop]:
    """Return all stops for planes with this (3,) unit normal, in order along it."""
    found: list[Stop] = []
    if abs(normal[2]) > 1 - 1e-9:
        sign = float(np.sign(normal[2]))
        found += [Stop(sign * s.elevation, f"floor of {s.name}") for s in building.storeys]
        found += [Stop(sign * (s.elevation + 1.2), f"1.2 m over {s.name}") for s in building.storeys]
    for i in np.flatnonzero(shown):
        element = building.elements[i]
        if element.type in OPENING_TYPES:
            low, high = _span(building, int(i), normal)
            found.append(Stop((low + high) / 2, f"middle of {element.name or 'an opening'}"))
    found += face_planes(building, normal, shown, most)
    return sorted(found, key=lambda s: s.offset)


def face_planes(building: Building, normal: NDArray[np.float64], shown: NDArray[np.bool_], most: int = 60) -> list[Stop]:
    """Return the planes at right angles to a direction in which the largest faces lie."""
    numbers = np.flatnonzero(shown[building.element_of_triangle])
    a, b, c = np.moveaxis(building.vertices[building.triangles[numbers]], 1, 0)
    doubled = np.cross(b - a, c - a)
    area = np.linalg.norm(doubled, axis=1) / 2
    parallel = (np.abs(doubled @ normal) / 2 > 0.9998 * area) & (area > 0)
    if not parallel.any():
        return []
    offset = np.round(a[parallel] @ normal / 1e-3).astype(np.int64)
    places, which = np.unique(offset, return_inverse=True)
    sums = np.bincount(which.ravel(), weights=area[parallel])
    best = np.argsort(-sums)[:most]
    best = best[sums[best] >= LEAST_FACE**3 * sums.max()]
    return [Stop(float(places[i]) * 1e-3, "face") for i in best]


def nearest_stop(stops: list[Stop], offset: float, within: float) -> Stop | None:
    """Return the stop nearest to an offset, if it is not further away than ``within`` metres."""
    best = min(stops, key=lambda s: abs(s.offset - offset), default=None)
    return best if best is not None and abs(best.offset - offset) <= within else None


def _span(building: Building, index: int, normal: NDArray[np.float64]) -> tuple[float, float]:
    start, end = building.triangle_start[index : index + 2]
    along = building.vertices[building.triangles[start:end].ravel()] @ normal
    return float(along.min()), float(along.max())
