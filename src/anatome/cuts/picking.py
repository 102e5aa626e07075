"""What lies under a ray: the surfaces that are left, and the cut faces in front of them."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.dissection import CutBuilding, CutFace
from anatome.model.raycast import Hit, first_hit, hits_along

Met = tuple[Hit, CutFace | None]


def pick(cut_open: CutBuilding, origin: NDArray[np.float64], direction: NDArray[np.float64]) -> Met | None:
    """Return the nearest thing a ray meets in the building as cut, and the cut face if that is what it meets.

    ``direction`` has unit length.
    """
    hit = first_hit(cut_open.building, origin, direction, cut_open.shown, cut_open.removed)
    met = _on_faces(cut_open, origin, direction)
    if hit is not None:
        met.append((hit, None))
    return min(met, key=lambda m: m[0].distance, default=None)


def pick_all(cut_open: CutBuilding, origin: NDArray[np.float64], direction: NDArray[np.float64]) -> list[Met]:
    """Return every element a ray meets in the building as cut, each where it is met first, the nearest in front."""
    met: list[Met] = [(hit, None) for hit in hits_along(cut_open.building, origin, direction, cut_open.shown, cut_open.removed)]
    met = sorted([*_on_faces(cut_open, origin, direction), *met], key=lambda m: m[0].distance)
    first = {m[0].element: m for m in reversed(met)}
    return sorted(first.values(), key=lambda m: m[0].distance)


def _on_faces(cut_open: CutBuilding, origin: NDArray[np.float64], direction: NDArray[np.float64]) -> list[Met]:
    """Where a ray meets cut faces, each of them once."""
    met: list[Met] = []
    for face in cut_open.faces:
        plane = face.plane
        slope = float(direction @ plane.n)
        if slope > -1e-9:
            continue  # a cut face shows only to an eye on the side that is cut away
        distance = -float(plane.distance(origin)) / slope
        if distance <= 0:
            continue
        point = origin + distance * direction
        x, y = plane.flat(point)
        inside = np.flatnonzero(shapely.contains_xy(face.poche.polygons, x, y))
        if len(inside):
            at = (float(point[0]), float(point[1]), float(point[2]))
            met.append((Hit(distance, at, plane.normal, int(face.poche.element[inside[0]])), face))
    return met
