"""Clear height, width and distances, read off a cut face."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.section import Section

FAR = 1000.0


@dataclass(frozen=True)
class Clearance:
    """The room about a point that lies in no cut part; metres, None where nothing bounds it.

    ``up`` … ``right``: how far it is to the nearest cut part in the directions of the section's own axes.
    """

    up: float | None
    down: float | None
    left: float | None
    right: float | None

    @property
    def height(self) -> float | None:
        """From the part below to the part above."""
        return None if self.up is None or self.down is None else self.up + self.down

    @property
    def width(self) -> float | None:
        """From the part on the left to the part on the right."""
        return None if self.left is None or self.right is None else self.left + self.right


def clearance_at(found: Section, point: NDArray[np.float64]) -> Clearance | None:
    """Return the clear room about a (2,) point in the section's plane; None where the point lies in a cut part."""
    spot = shapely.Point(point)
    lines = [shapely.LineString(found.plane.flat(o.points)) for o in found.open_outlines]
    bodies = np.concatenate([found.polygons, np.array(lines, object)])
    if len(found.polygons) and shapely.contains(found.polygons, spot).any():
        return None
    reaches = []
    for direction in ((0.0, 1.0), (0.0, -1.0), (-1.0, 0.0), (1.0, 0.0)):
        ray = shapely.LineString([point, point + FAR * np.array(direction)])
        met = shapely.intersection(bodies, ray)
        met = met[~shapely.is_empty(met)]
        reaches.append(float(shapely.distance(met, spot).min()) if len(met) else None)
    return Clearance(*reaches)


def snapped_corner(found: Section, point: NDArray[np.float64], within: float) -> NDArray[np.float64]:
    """Return (2,) the corner of a cut part nearest to a point if it is not further than ``within`` metres, else the point."""
    corners = shapely.get_coordinates(found.polygons)
    if not len(corners):
        return point
    away = np.hypot(*(corners - point).T)
    return corners[np.argmin(away)] if away.min() <= within else point
