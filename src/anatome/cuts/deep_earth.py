"""Earth that goes down as far as one sees, where its model just ends."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.polygons import polygon_parts
from anatome.cuts.section import Section
from anatome.model.building import Building

NEAR = 1e-3
"""Metres above the end of earth to which what is built must reach down."""
STEEP = 0.05
"""How far down the underside of earth must look, of a unit normal, for more of it to lie below."""


def with_deep_earth(building: Building, found: Section, depth: float) -> Section:
    """Return a section that is filled, in which earth goes on so many metres below where it ends; what is built stays free of
    it. Level sections stay as they are."""
    earth = building.earth[found.element]
    if found.plane.is_level or not earth.any():
        return found
    up = np.array([axis[2] for axis in found.plane.axes])
    down = -depth * up / np.linalg.norm(up)
    taken = shapely.union_all(found.polygons[~earth])
    polygons, owners = [found.polygons[~earth]], [found.element[~earth]]
    undersides = [_underside(p, down / depth) for p in found.polygons[earth]]
    lowest = np.concatenate(undersides)
    if not len(lowest):
        return found
    # What is built and reaches down to where earth ends has more of it below as well.
    built = np.concatenate([np.empty((0, 2, 2)), *(_underside(p, down / depth) for p in found.polygons[~earth])])
    depth_of = lowest @ (down / depth)
    built = built[(built @ (down / depth) >= depth_of.min() - NEAR).all(axis=1)]
    for number, (polygon, under) in enumerate(zip(found.polygons[earth], undersides)):
        columns = np.concatenate([under, built]) if number == 0 else under
        below = shapely.polygons(np.stack([columns[:, 0], columns[:, 1], columns[:, 1] + down, columns[:, 0] + down], axis=1))
        more = shapely.difference(shapely.union_all(below), taken)
        parts = polygon_parts(shapely.union_all([polygon, more], grid_size=1e-7))
        polygons.append(parts)
        owners.append(np.full(len(parts), found.element[earth][number]))
    return replace(found, polygons=np.concatenate(polygons), element=np.concatenate(owners).astype(np.int64))


def _underside(polygon: shapely.Geometry, down: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 2, 2) the sides of an area that look down, along a unit direction."""
    points = shapely.get_coordinates(shapely.get_exterior_ring(polygon))
    if not shapely.is_ccw(shapely.linearrings(points)):
        points = points[::-1]
    arm = np.diff(points, axis=0)
    outward = np.stack([arm[:, 1], -arm[:, 0]], axis=1) / np.maximum(np.hypot(*arm.T), 1e-12)[:, None]
    return np.stack([points[:-1], points[1:]], axis=1)[outward @ down > STEEP]
