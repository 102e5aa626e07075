"""A section: what one plane makes of a building, as exact polygons, caps and outlines.

The same polygons are filled on the stage, written to files and measured, so all of them agree.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.clipping import Region, keep_within, region_of, take_out
from anatome.cuts.gaps import Gap, close_gaps
from anatome.cuts.plane import Plane
from anatome.cuts.poche_rules import AS_MODELLED, PocheRules
from anatome.cuts.polygons import polygon_parts, polygons_of
from anatome.cuts.slicing import outlines_of
from anatome.cuts.triangulation import triangulated
from anatome.model.building import Building
from anatome.model.kinds import EARTH_TYPES

Clip = Callable[[NDArray[np.object_], Region, float], tuple[NDArray[np.object_], NDArray[np.int64]]]


@dataclass(frozen=True, eq=False)
class OpenOutline:
    """An outline that does not close: a surface without thickness, or a mesh with a gap. ``points`` (n, 3), metres."""

    element: int
    points: NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Caps:
    """Triangulated poché: ``vertices`` (n, 3) metres, ``triangles`` (m, 3), their ``element`` and ``polygon`` (m,)."""

    vertices: NDArray[np.float64]
    triangles: NDArray[np.int64]
    element: NDArray[np.int64]
    polygon: NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Section:
    """``polygons`` (P,) shapely polygons in the plane's own coordinates (metres along u, v), by element.

    ``element`` (P,) is the element of each polygon, ascending. ``gaps`` were closed, or were too wide for that.
    """

    plane: Plane
    polygons: NDArray[np.object_]
    element: NDArray[np.int64]
    open_outlines: tuple[OpenOutline, ...]
    gaps: tuple[Gap, ...] = ()

    @cached_property
    def areas(self) -> NDArray[np.float64]:
        """(P,) m²."""
        return np.asarray(shapely.area(self.polygons), float)

    @cached_property
    def caps(self) -> Caps:
        """The polygons cut into triangles, wound to face the side that is cut away."""
        if not len(self.polygons):
            none = np.empty(0, np.int64)
            return Caps(np.empty((0, 3)), np.empty((0, 3), np.int64), none, none)
        rings, owner = shapely.get_rings(self.polygons, return_index=True)
        points, triangles, of_ring = triangulated(rings, owner)
        polygon = owner[of_ring]
        return Caps(self.plane.raised(points), triangles, self.element[polygon], polygon)

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
    rules: PocheRules = AS_MODELLED,
) -> Section:
    """Cut the building, or the elements in an (E,) mask, by one plane.

    ``rules`` say which gaps are closed and whether open surfaces get a thickness and open ground a body.
    """
    outlines = outlines_of(building, plane, elements)
    outlines, gaps = close_gaps(outlines, lambda e: rules.gap_for(building, e))
    flat = plane.flat(outlines.nodes)
    polygons, element = polygons_of(outlines, flat, building.tolerance)
    open_lines = [
        OpenOutline(int(outlines.element[i]), outlines.nodes[outlines.path[outlines.first[i] : outlines.first[i + 1]]])
        for i in np.flatnonzero(~outlines.closed)
    ]
    open_lines = [line for line in open_lines if np.ptp(line.points, axis=0).max() > building.tolerance]
    found = Section(plane, polygons, element, tuple(open_lines), gaps)
    return with_bodies(building, found, rules) if open_lines and (rules.sheet or rules.earth) else found


def with_bodies(building: Building, found: Section, rules: PocheRules) -> Section:
    """Give open outlines a body where the rules ask for it: surfaces a thickness, ground solid earth below."""
    left, pieces, owners = [], [found.polygons], [found.element]
    for outline in found.open_outlines:
        flat = found.plane.flat(outline.points)
        if building.elements[outline.element].type in EARTH_TYPES:
            body = _earth_under(flat, rules.earth) if rules.earth and not found.plane.is_level else None
        else:
            body = shapely.LineString(flat).buffer(rules.sheet / 2, cap_style="flat", join_style="mitre") if rules.sheet else None
        parts = polygon_parts(body) if body is not None else np.empty(0, object)
        if len(parts):
            pieces.append(parts)
            owners.append(np.full(len(parts), outline.element))
        else:
            left.append(outline)
    element = np.concatenate(owners).astype(np.int64)
    order = np.argsort(element, kind="stable")
    return Section(found.plane, np.concatenate(pieces)[order], element[order], tuple(left), found.gaps)


def _earth_under(flat: NDArray[np.float64], depth: float) -> shapely.Geometry:
    """The area between an outline (n, 2) and a level ``depth`` metres under its lowest point."""
    base = float(flat[:, 1].min()) - depth
    strips = [
        shapely.Polygon([a, b, (b[0], base), (a[0], base)]) for a, b in zip(flat[:-1], flat[1:]) if abs(a[0] - b[0]) > 1e-12
    ]
    return shapely.union_all(shapely.make_valid(strips)) if strips else shapely.Polygon()


def clipped(found: Section, cells: Sequence[Cell], margin: float) -> Section:
    """Return what cells leave of a section. ``margin`` in metres is the distance that counts as none."""
    regions = [t for cell in cells if (t := region_of(cell, found.plane, margin)) is not None]
    return reduced(found, regions, margin)


def within(found: Section, cell: Cell, margin: float) -> Section:
    """Return what of a section lies in a cell whose planes all cross the section's plane."""
    inside = region_of(cell, found.plane, margin)
    if inside is None:
        return Section(found.plane, np.empty(0, object), np.empty(0, np.int64), (), ())
    return reduced(found, [inside], margin, keep_within)


def reduced(found: Section, regions: Sequence[Region], margin: float, how: Clip = take_out) -> Section:
    """Return a section less what lies in regions; with ``keep_within`` only what lies in them."""
    if not regions:
        return found
    polygons, element = found.polygons, found.element
    lines = np.array([shapely.LineString(found.plane.flat(o.points)) for o in found.open_outlines], object)
    owner = np.array([o.element for o in found.open_outlines], np.int64)
    for one in regions:
        polygons, origin = how(polygons, one, margin)
        element = element[origin]
        lines, origin = how(lines, one, margin)
        owner = owner[origin]
    outlines = (OpenOutline(int(e), found.plane.raised(shapely.get_coordinates(line))) for e, line in zip(owner, lines))
    return Section(found.plane, polygons, element, tuple(outlines), found.gaps)
