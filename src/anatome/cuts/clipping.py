"""Taking out of a flat section what cells cut away.

A cell meets the section's plane in a convex polygon, described by half-planes. Most polygons of a section lie wholly
to one side of it, which their corners tell for all of them at once; only those it crosses are clipped one by one.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.plane import Plane
from anatome.cuts.polygons import polygon_parts

PARALLEL = 1e-12


@dataclass(frozen=True, eq=False)
class Region:
    """The convex region a cell takes of a plane: where ``normals`` (k, 2) · point > ``offsets`` (k,), metres in the plane."""

    normals: NDArray[np.float64]
    offsets: NDArray[np.float64]

    def depths(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return (n, k) how far (n, 2) points lie within each half-plane, metres."""
        return points @ self.normals.T - self.offsets

    def polygon(self, low: NDArray[np.float64], high: NDArray[np.float64]) -> shapely.Geometry:
        """Return the part of it within a rectangle, as a polygon (Sutherland and Hodgman, 1974)."""
        ring = [np.array(p) for p in ((low[0], low[1]), (high[0], low[1]), (high[0], high[1]), (low[0], high[1]))]
        for normal, offset in zip(self.normals, self.offsets):
            depth = [float(p @ normal - offset) for p in ring]
            clipped = []
            for i, p in enumerate(ring):
                before = ring[i - 1]
                if (depth[i] > 0) != (depth[i - 1] > 0):
                    clipped.append(before + (p - before) * (depth[i - 1] / (depth[i - 1] - depth[i])))
                if depth[i] > 0:
                    clipped.append(p)
            ring = clipped
            if not ring:
                return shapely.Polygon()
        return shapely.Polygon(ring) if len(ring) >= 3 else shapely.Polygon()


def region_of(cell: Cell, plane: Plane, margin: float) -> Region | None:
    """Return what a cell takes of the material just behind a plane; None when it takes nothing of it.

    A face of the cell that lies in the plane counts for the side the material is on, so a cell that ends exactly at
    the plane either takes all of it or nothing, never something in between. A cell that begins at the plane, looking
    the same way, takes nothing.
    """
    (ux, uy, uz), (vx, vy, vz) = (axis.tolist() for axis in plane.axes)
    px, py, pz = plane.normal
    normals, offsets = [], []
    here = plane.offset
    for other in cell.planes:
        # In plain floats: called for every cell and every face, it is several times faster than small arrays.
        nx, ny, nz = other.normal
        flat = (nx * ux + ny * uy + nz * uz, nx * vx + ny * vy + nz * vz)
        length = math.hypot(*flat)
        along = nx * px + ny * py + nz * pz
        level = other.offset - here * along
        if length < PARALLEL**0.5:
            # The material lies behind the plane: a hair against its normal.
            if -along * margin <= level:
                return None
            continue
        normals.append((flat[0] / length, flat[1] / length))
        offsets.append(level / length)
    return Region(np.array(normals).reshape(-1, 2), np.array(offsets))


@dataclass(frozen=True, eq=False)
class Shapes:
    """Polygons or lines (P,), with all their points in a row: the corners of shape i begin at ``first[i]``."""

    geometries: NDArray[np.object_]
    points: NDArray[np.float64]
    first: NDArray[np.int64]

    @classmethod
    def of(cls, geometries: NDArray[np.object_]) -> Shapes:
        points = shapely.get_coordinates(geometries)
        counts = shapely.get_num_coordinates(geometries)
        return cls(geometries, points, np.concatenate([[0], np.cumsum(counts)[:-1]]).astype(np.int64))

    def sides(self, taken: Region, margin: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
        """Return (P,) wholly within the region, and (P,) wholly outside of it as far as one half-plane tells."""
        if not len(self.geometries):
            return np.empty(0, bool), np.empty(0, bool)
        if not len(taken.offsets):
            return np.ones(len(self.geometries), bool), np.zeros(len(self.geometries), bool)
        depth = taken.depths(self.points)
        least = np.minimum.reduceat(depth, self.first, axis=0)
        most = np.maximum.reduceat(depth, self.first, axis=0)
        return np.asarray((least >= -margin).all(axis=1)), np.asarray((most <= margin).any(axis=1))


def keep_within(shapes: NDArray[np.object_], wanted: Region, margin: float) -> tuple[NDArray[np.object_], NDArray[np.int64]]:
    """Return the parts of shapes inside a region, and (n,) the shape each part comes from."""
    known = Shapes.of(shapes)
    inside, outside = known.sides(wanted, margin)
    return _clip(known, inside, ~inside & ~outside, wanted, margin, shapely.intersection)


def take_out(shapes: NDArray[np.object_], taken: Region, margin: float) -> tuple[NDArray[np.object_], NDArray[np.int64]]:
    """Return the parts of shapes outside a region, and (n,) the shape each part comes from."""
    known = Shapes.of(shapes)
    inside, outside = known.sides(taken, margin)
    return _clip(known, outside & ~inside, ~inside & ~outside, taken, margin, shapely.difference)


def _clip(known: Shapes, keep: NDArray[np.bool_], crossed: NDArray[np.bool_], by: Region, margin: float, operation) -> tuple:
    numbers = np.arange(len(known.geometries))
    pieces, origin = [known.geometries[keep]], [numbers[keep]]
    if crossed.any():
        low, high = known.points.min(axis=0), known.points.max(axis=0)
        room = 1.0 + (high - low).max()
        cutter = by.polygon(low - room, high + room)
        for number, result in zip(numbers[crossed], operation(known.geometries[crossed], cutter)):
            parts = _parts(known.geometries[number], result, margin)
            pieces.append(parts)
            origin.append(np.full(len(parts), number))
    all_origin = np.concatenate(origin).astype(np.int64)
    order = np.argsort(all_origin, kind="stable")
    return np.concatenate(pieces)[order], all_origin[order]


def _parts(before: shapely.Geometry, result: shapely.Geometry, margin: float) -> NDArray[np.object_]:
    """The pieces of the kind of geometry it was, without slivers no wider than the margin."""
    if shapely.get_type_id(before) == 3:
        parts = polygon_parts(result)
        return parts[shapely.area(parts) > margin * shapely.length(parts)]
    parts = shapely.get_parts(shapely.get_parts(result))
    lines = parts[(shapely.get_type_id(parts) == 1) & (shapely.length(parts) > margin)]
    return np.asarray(lines, dtype=object)


def passes(cells: Sequence[Cell], plane: Plane, shapes: Shapes, margin: float) -> tuple[tuple[Cell, Region], ...]:
    """Return those of the cells, with their regions, that take something of at least one of the shapes."""
    found = []
    for cell in cells:
        taken = region_of(cell, plane, margin)
        if taken is None or not len(shapes.geometries):
            continue
        _, outside = shapes.sides(taken, margin)
        if not outside.all():
            found.append((cell, taken))
    return tuple(found)
