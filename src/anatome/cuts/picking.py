"""What lies under a ray: the surfaces that are left, and the cut faces in front of them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.cutting import CutFace
from anatome.model.building import Building
from anatome.model.raycast import Hit, first_hit


def pick(
    building: Building,
    faces: Sequence[CutFace],
    origin: NDArray[np.float64],
    direction: NDArray[np.float64],
    shown: NDArray[np.bool_],
) -> tuple[Hit, CutFace | None] | None:
    """The nearest thing a ray meets in the building as cut, and the cut face if that is what it meets.

    ``direction`` has unit length; ``shown`` is an (E,) mask.
    """
    removed = [(f.cut.plane.n, f.cut.plane.offset) for f in faces]
    hit = first_hit(building, origin, direction, shown, removed)
    nearest: tuple[Hit, CutFace | None] | None = None if hit is None else (hit, None)
    for face in faces:
        plane = face.cut.plane
        slope = float(direction @ plane.n)
        if slope > -1e-9:
            continue  # a cut face shows only to an eye on the side that is cut away
        distance = -float(plane.distance(origin)) / slope
        if distance <= 0 or (nearest is not None and distance >= nearest[0].distance):
            continue
        point = origin + distance * direction
        x, y = plane.flat(point)
        inside = np.flatnonzero(shapely.contains_xy(face.section.polygons, x, y))
        if len(inside):
            # Where earth and a built part overlap the built part is drawn, and it is the smaller one.
            smallest = inside[np.argmin(face.section.areas[inside])]
            at = (float(point[0]), float(point[1]), float(point[2]))
            nearest = Hit(distance, at, plane.normal, int(face.section.element[smallest])), face
    return nearest
