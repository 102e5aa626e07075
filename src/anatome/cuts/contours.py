"""The lines of a cut face as one draws them by hand: a heavy one round the whole, thin ones between materials."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.cuts.section import Section
from anatome.model.building import Building

Segments = NDArray[np.float64]
GRID, SHARE = 1e-4, 1e-6
"""Metres within which neighbours modelled apart by rounding still are neighbours, in small models a share of their size."""
UPWARDS = 0.2
"""Upward share of a normal from which the edge of earth is its surface, and not where the model of it ends."""


@dataclass(frozen=True, eq=False)
class Contours:
    """(n, 2, 3) metres each: ``heavy`` round the whole of what is built and along the surface of earth, ``thin`` round what is
    of one material and round neighbours, ``ends`` where earth just ends."""

    heavy: Segments
    thin: Segments
    ends: Segments


def contours(building: Building, found: Section) -> Contours:
    """Of what is filled, without overlaps. Outlines that do not close are heavy."""
    plane, context = found.plane, building.context[found.element]
    earth, grid = building.earth[found.element], min(GRID, SHARE * building.size)
    parts = _materials(building, found, ~context, grid)
    whole = shapely.union_all(parts, grid_size=grid)
    rim = shapely.boundary(whole)
    beside = shapely.union_all(found.polygons[context & ~earth], grid_size=grid)
    surface, ends = _earth(found.polygons[earth], plane, grid)
    # Where something built stands in it earth does not end. What they share, they share from corner to corner.
    ends = ends[~shapely.dwithin(shapely.points(ends.mean(axis=1)), whole, 10 * grid)]
    open_lines = [np.stack([o.points[:-1], o.points[1:]], axis=1) for o in found.open_outlines]
    heavy = np.concatenate([_segments([rim], plane), plane.raised(surface), *open_lines])
    # Under the heavy lines, which are drawn over them, thin ones do no harm.
    thin, ended = _segments(shapely.boundary([*parts, beside]), plane), plane.raised(ends)
    if plane.is_level:  # in a plan earth ends at its border, and fades nowhere
        return Contours(heavy, np.concatenate([thin, ended]), np.empty((0, 2, 3)))
    return Contours(heavy, thin, ended)


def _materials(building: Building, found: Section, chosen: NDArray[np.bool_], grid: float) -> list[shapely.Geometry]:
    """What is cut of each material, touching parts united; parts without a material each for itself."""
    groups: dict[str, list[int]] = {}
    for i in np.flatnonzero(chosen).tolist():
        element = building.elements[found.element[i]]
        groups.setdefault(element.material or f"\0{found.element[i]}", []).append(i)
    return [shapely.union_all(found.polygons[members], grid_size=grid) for members in groups.values()]


def _earth(polygons: NDArray[np.object_], plane: Plane, grid: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """(n, 2, 2) along the surface of earth, and where it ends."""
    pairs, rises = [np.empty((0, 2, 2))], [np.empty(0)]
    up = np.array([axis[2] for axis in plane.axes])  # how far the drawing's own axes rise
    for part in shapely.get_parts(shapely.union_all(polygons, grid_size=grid)) if len(polygons) else ():
        for number, ring in enumerate(shapely.get_rings(part)):
            points = shapely.get_coordinates(ring)
            if shapely.is_ccw(ring) != (number == 0):
                points = points[::-1]  # earth lies to the left: of its outline run anticlockwise, of a hole clockwise
            arm = np.diff(points, axis=0)
            pairs.append(np.stack([points[:-1], points[1:]], axis=1))
            rises.append((arm[:, 1] * up[0] - arm[:, 0] * up[1]) / np.maximum(np.hypot(*arm.T), 1e-12))
    together, on_top = np.concatenate(pairs), np.concatenate(rises) > UPWARDS
    return together[on_top], together[~on_top]


def _segments(lines: Sequence[shapely.Geometry] | NDArray[np.object_], plane: Plane) -> Segments:
    found = [np.empty((0, 2, 3))]
    for part in shapely.get_parts(lines).tolist():
        if part.geom_type in ("LineString", "LinearRing") and not part.is_empty:
            points = plane.raised(shapely.get_coordinates(part))
            found.append(np.stack([points[:-1], points[1:]], axis=1))
    return np.concatenate(found)
