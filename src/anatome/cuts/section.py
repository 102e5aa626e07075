"""A section: what one plane makes of a building, as exact polygons, caps and outlines.

The same polygons are filled on the stage, written to files and measured, so all of them agree.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.cuts.polygons import polygon_parts, polygons_of
from anatome.cuts.slicing import slice_triangles, trace_outlines
from anatome.model.building import Building


@dataclass(frozen=True, eq=False)
class OpenOutline:
    """An outline that does not close: a surface without thickness, or a mesh with a gap. ``points`` (n, 3), metres."""

    element: int
    points: NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Caps:
    """Triangulated poché: ``vertices`` (n, 3) metres, ``triangles`` (m, 3), ``element`` (m,)."""

    vertices: NDArray[np.float64]
    triangles: NDArray[np.int64]
    element: NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Section:
    """``polygons`` (P,) shapely polygons in the plane's own coordinates (metres along u, v), by element.

    ``element`` (P,) is the element of each polygon, ascending.
    """

    plane: Plane
    polygons: NDArray[np.object_]
    element: NDArray[np.int64]
    open_outlines: tuple[OpenOutline, ...]

    @cached_property
    def areas(self) -> NDArray[np.float64]:
        """(P,) m²."""
        return np.asarray(shapely.area(self.polygons), float)

    @cached_property
    def caps(self) -> Caps:
        """The polygons cut into triangles, wound to face the side that is cut away."""
        kind, coordinates, offsets = shapely.to_ragged_array(self.polygons) if len(self.polygons) else (None, None, None)
        if kind is None or coordinates is None or offsets is None:
            return Caps(np.empty((0, 3)), np.empty((0, 3), np.int64), np.empty(0, np.int64))
        ring_first, polygon_first = offsets[0].tolist(), offsets[1].tolist()
        found, counts = [], []
        for low, high in zip(polygon_first[:-1], polygon_first[1:]):
            begin, finish = ring_first[low], ring_first[high]
            ends = np.asarray(ring_first[low + 1 : high + 1], np.uint32) - np.uint32(begin)
            corners = mapbox_earcut.triangulate_float64(coordinates[begin:finish], ends)
            found.append(corners.astype(np.int64) + begin)
            counts.append(len(corners) // 3)
        triangles = np.concatenate(found).reshape(-1, 3)
        a, b, c = coordinates[triangles[:, 0]], coordinates[triangles[:, 1]], coordinates[triangles[:, 2]]
        clockwise = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) < (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
        triangles[clockwise] = triangles[clockwise][:, ::-1]
        return Caps(self.plane.raised(coordinates), triangles, np.repeat(self.element, counts))

    @cached_property
    def outline_segments(self) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
        """((S, 2, 3) end points in metres, (S,) element) of every polygon's rings and of the open outlines."""
        pieces, owners = [np.empty((0, 2, 3))], [np.empty(0, np.int64)]
        if len(self.polygons):
            rings, polygon_of_ring = shapely.get_rings(self.polygons, return_index=True)
            points, ring_of_point = shapely.get_coordinates(rings, return_index=True)
            same = ring_of_point[1:] == ring_of_point[:-1]
            raised = self.plane.raised(points)
            pieces.append(np.stack([raised[:-1][same], raised[1:][same]], axis=1))
            owners.append(self.element[polygon_of_ring[ring_of_point[:-1][same]]])
        for outline in self.open_outlines:
            pieces.append(np.stack([outline.points[:-1], outline.points[1:]], axis=1))
            owners.append(np.full(len(outline.points) - 1, outline.element))
        return np.concatenate(pieces), np.concatenate(owners)


def section(
    building: Building,
    plane: Plane,
    elements: NDArray[np.bool_] | None = None,
    others: Sequence[Plane] = (),
) -> Section:
    """Cut the building, or the elements in an (E,) mask, and keep of the result what ``others`` do not cut away."""
    outlines = trace_outlines(slice_triangles(building, plane, elements))
    flat = plane.flat(outlines.nodes)
    polygons, element = polygons_of(outlines, flat, building.tolerance)
    open_lines = [
        OpenOutline(int(outlines.element[i]), outlines.nodes[outlines.path[outlines.first[i] : outlines.first[i + 1]]])
        for i in np.flatnonzero(~outlines.closed)
    ]
    open_lines = [line for line in open_lines if np.ptp(line.points, axis=0).max() > building.tolerance]
    result = Section(plane, polygons, element, tuple(open_lines))
    return _kept_by(result, others, building.size) if others else result


def _kept_by(found: Section, others: Sequence[Plane], size: float) -> Section:
    """Clip a section by the half-spaces other planes leave."""
    region = _region(found.plane, others, size, found.polygons)
    if region is None:
        return found
    polygons = shapely.intersection(found.polygons, region)
    parts = [polygon_parts(p) for p in polygons]
    element = np.repeat(found.element, [len(p) for p in parts]).astype(np.int64)
    kept = np.concatenate([np.empty(0, object), *parts])
    lines = []
    for outline in found.open_outlines:
        inside = shapely.intersection(shapely.linestrings(found.plane.flat(outline.points)), region)
        for piece in shapely.get_parts(inside):
            if shapely.get_type_id(piece) == 1 and not shapely.is_empty(piece):
                lines.append(OpenOutline(outline.element, found.plane.raised(shapely.get_coordinates(piece))))
    return Section(found.plane, kept, element, tuple(lines))


def _region(plane: Plane, others: Sequence[Plane], size: float, polygons: NDArray[np.object_]) -> shapely.Geometry | None:
    """The part of ``plane`` no other plane cuts away, as a polygon large enough for the given polygons."""
    bounds = shapely.total_bounds(polygons) if len(polygons) else np.zeros(4)
    centre = (bounds[:2] + bounds[2:]) / 2
    reach = 2.0 * (size + float(np.hypot(*(bounds[2:] - bounds[:2])))) + 1.0
    region = shapely.box(*(centre - reach), *(centre + reach))
    u, v = plane.axes
    clipped = False
    for other in others:
        normal = np.array([other.n @ u, other.n @ v])
        length = float(np.linalg.norm(normal))
        level = other.offset - plane.offset * float(other.n @ plane.n)
        if length < 1e-12:
            if level < 0:
                region, clipped = shapely.Polygon(), True
            continue
        direction = normal / length
        along = np.array([-direction[1], direction[0]])
        foot = direction * (level / length)
        foot = foot + along * ((centre - foot) @ along)
        far = 4 * reach + float(np.linalg.norm(foot - centre))
        corners = [
            foot + along * far,
            foot - along * far,
            foot - along * far - direction * far,
            foot + along * far - direction * far,
        ]
        region, clipped = shapely.intersection(region, shapely.polygons(np.array(corners))), True
    return region if clipped else None
