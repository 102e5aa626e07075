"""Where lines drawn in a plan like to begin and end: corners and faces of what the plan cuts, and the axes of walls."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.directions import element_axis
from anatome.cuts.dissection import CutBuilding

Array = NDArray[np.float64]
AXIS_TYPES = (
    "IfcWall",
    "IfcWallStandardCase",
    "IfcCurtainWall",
    "IfcColumn",
    "IfcBeam",
    "IfcRailing",
    "IfcStair",
    "IfcStairFlight",
)
SLENDER = 2.5
"""Times its width that a part must be long to have an axis."""
MOST_AXES = 400


@dataclass(frozen=True, eq=False)
class PlanPoints:
    """In metres of the plan: ``corners`` (n, 2) and ``faces`` (m, 2, 2) of what is cut, and ``axes`` (k, 2, 2) of long parts."""

    corners: Array
    faces: Array
    axes: Array

    @classmethod
    def of(cls, cut_open: CutBuilding) -> PlanPoints:
        """Of the level cut of a key plan: X and Y are those of the model."""
        corners, faces, elements = [np.empty((0, 2))], [np.empty((0, 2, 2))], set()
        for face in cut_open.faces:
            found = face.section
            for polygon, element in zip(found.polygons, found.element.tolist()):
                elements.add(element)
                for ring in shapely.get_rings(polygon):
                    points = face.plane.raised(shapely.get_coordinates(ring))[:, :2]
                    corners.append(points[:-1])
                    faces.append(np.stack([points[:-1], points[1:]], axis=1))
        building = cut_open.building
        axes = [np.empty((0, 2, 2))]
        for element in sorted(e for e in elements if building.elements[e].type in AXIS_TYPES)[:MOST_AXES]:
            axis = element_axis(building, element)
            if axis.length >= SLENDER * axis.width:
                half = axis.along[:2] * axis.length / 2
                axes.append(np.stack([axis.middle[:2] - half, axis.middle[:2] + half])[None])
        return cls(np.concatenate(corners), np.concatenate(faces), np.concatenate(axes))

    def nearest(self, at: Array, within: float) -> tuple[Array, str] | None:
        """Return the place that is meant by a (2,) place and what is there: within so many metres a corner goes before the
        crossing of two axes, that before an axis, and an axis before a face; None where nothing is near."""
        if len(self.corners):
            away = np.linalg.norm(self.corners - at, axis=1)
            best = int(np.argmin(away))
            if away[best] <= within:
                return self.corners[best], "corner"
        on_axes, away = _feet(self.axes, at)
        near = np.flatnonzero(away <= within)
        for i, first in enumerate(near.tolist()):
            for second in near[i + 1 :].tolist():
                crossing = _crossing(self.axes[first], self.axes[second])
                if crossing is not None and np.linalg.norm(crossing - at) <= within:
                    return crossing, "where axes cross"
        if len(near):
            return on_axes[near[np.argmin(away[near])]], "axis"
        on_faces, away = _feet(self.faces, at)
        if len(away) and away.min() <= within:
            return on_faces[int(np.argmin(away))], "face"
        return None


def _feet(segments: Array, at: Array) -> tuple[Array, Array]:
    """((n, 2) the nearest places on segments (n, 2, 2), (n,) how far they are)."""
    arm = segments[:, 1] - segments[:, 0]
    share = np.einsum("ij,ij->i", at - segments[:, 0], arm) / np.maximum(np.einsum("ij,ij->i", arm, arm), 1e-18)
    feet = segments[:, 0] + share.clip(0.0, 1.0)[:, None] * arm
    return feet, np.linalg.norm(feet - at, axis=1)


def _crossing(first: Array, second: Array) -> Array | None:
    """Where the lines of two segments cross, unless they run about the same way."""
    a, b = first[1] - first[0], second[1] - second[0]
    slope = a[0] * b[1] - a[1] * b[0]
    if abs(slope) < 0.05 * float(np.linalg.norm(a) * np.linalg.norm(b)):
        return None
    arm = second[0] - first[0]
    return np.asarray(first[0] + a * (arm[0] * b[1] - arm[1] * b[0]) / slope)
