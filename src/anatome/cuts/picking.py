"""What lies under a ray: the surfaces that are left, and the cut faces in front of them."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.dissection import CutFace, Dissection
from anatome.model.raycast import Hit, first_hit


def pick(cut_open: Dissection, origin: NDArray[np.float64], direction: NDArray[np.float64]) -> tuple[Hit, CutFace | None] | None:
    """The nearest thing a ray meets in the building as cut, and the cut face if that is what it meets.

    ``direction`` has unit length.
    """
    hit = first_hit(cut_open.building, origin, direction, cut_open.shown, cut_open.removed)
    nearest: tuple[Hit, CutFace | None] | None = None if hit is None else (hit, None)
    for face in cut_open.faces:
        plane = face.plane
        slope = float(direction @ plane.n)
        if slope > -1e-9:
            continue  # a cut face shows only to an eye on the side that is cut away
        distance = -float(plane.distance(origin)) / slope
        if distance <= 0 or (nearest is not None and distance >= nearest[0].distance):
            continue
        point = origin + distance * direction
        x, y = plane.flat(point)
        inside = np.flatnonzero(shapely.contains_xy(face.poche.polygons, x, y))
        if len(inside):
            at = (float(point[0]), float(point[1]), float(point[2]))
            nearest = Hit(distance, at, plane.normal, int(face.poche.element[inside[0]])), face
    return nearest
