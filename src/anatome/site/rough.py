"""Rough bodies made for a building: a slab under it, a footing under a part of it, pits round or with corners."""

from __future__ import annotations

import math

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.model.building import Building
from anatome.problems import Problem
from anatome.site.site import RoughBody

STANDS = 1.5
"""Metres over a level up to which parts begin that stand at it; eaves and balconies do not."""
FOOT = 0.3
"""Metres over its lowest point up to which a part has its foot."""
SIDES = 48
"""Corners of what is round."""
SIMPLER = 0.02
"""Metres by which an outline may be off, to have fewer corners."""
Rings = tuple[tuple[tuple[float, float], ...], ...]


def slab_under(building: Building, elements: NDArray[np.bool_], body: str, thick: float, beyond: float, top: float) -> RoughBody:
    """Return a slab of ``thick`` metres up to the level ``top``, under what of the elements of an (E,) mask stands there, and
    ``beyond`` it. Raises Problem where there is nothing."""
    numbers = np.flatnonzero(elements & ~building.context)
    if not len(numbers):
        raise Problem("There is nothing to put a slab under. Show the building first.")
    low, high = building.element_bounds[numbers, 0, 2], building.element_bounds[numbers, 1, 2]
    standing = numbers[(low <= top + STANDS) & (high > top)]
    covered = shapely.unary_union([_seen_from_above(building, number) for number in standing.tolist()])
    area = covered.buffer(beyond, join_style="mitre") if beyond else covered
    outer = [shapely.Polygon(part.exterior) for part in shapely.get_parts(area) if part.geom_type == "Polygon"]
    largest = max(outer, key=lambda part: part.area, default=None)
    if largest is None or largest.area < SIMPLER:
        raise Problem("What is shown covers no ground to put a slab under.")
    rings = _rings(shapely.simplify(largest, SIMPLER))
    return RoughBody(id=body, kind="slab", name="Slab", material="Concrete", rings=rings, low=top - thick, high=top)


def footing_under(building: Building, number: int, body: str, wider: float, deep: float) -> RoughBody:
    """Return a footing ``wider`` on every side than the foot of an element, and so many metres ``deep`` from there.

    Raises Problem where the element has no foot."""
    foot = float(building.element_bounds[number, 0, 2])
    area = _seen_from_above(building, number, foot + FOOT).buffer(wider, join_style="mitre")
    if area.is_empty or area.geom_type != "Polygon":
        raise Problem(f"“{building.elements[number].name}” has no foot that a footing could lie under.")
    name = f"Footing, {building.elements[number].name}".rstrip(", ")
    rings = _rings(shapely.simplify(area, SIMPLER))
    return RoughBody(id=body, kind="footing", name=name, material="Concrete", rings=rings, low=foot - deep, high=foot)


def pit_at(middle: tuple[float, float], size: tuple[float, float] | float, top: float, deep: float, body: str) -> RoughBody:
    """Return a pit so many metres ``deep`` under the level ``top``: round of one ``size``, its diameter; with corners of two."""
    x, y = middle
    ring: tuple[tuple[float, float], ...]
    if isinstance(size, tuple):
        wide, long = size[0] / 2, size[1] / 2
        ring = ((x - wide, y - long), (x + wide, y - long), (x + wide, y + long), (x - wide, y + long))
    else:
        # As wide as makes its area that of the circle: n/2·r²·sin(2π/n) is that of a polygon (handbook).
        reach = size / 2 * math.sqrt(2 * math.pi / (SIDES * math.sin(2 * math.pi / SIDES)))
        angles = [2 * math.pi * i / SIDES for i in range(SIDES)]
        ring = tuple((x + reach * math.cos(a), y + reach * math.sin(a)) for a in angles)
    return RoughBody(id=body, kind="pit", name="Pit", rings=(ring,), low=top - deep, high=top + 1.0)


def diameter(body: RoughBody) -> float:
    """Return metres across the circle that has the area of a body's outline."""
    return 2 * math.sqrt(shapely.Polygon(body.rings[0]).area / math.pi)


def moved(body: RoughBody, east: float, north: float, up: float) -> RoughBody:
    """Return the body moved by metres."""
    rings = tuple(tuple((x + east, y + north) for x, y in ring) for ring in body.rings)
    return body.model_copy(update={"rings": rings, "low": body.low + up, "high": body.high + up})


def _seen_from_above(building: Building, number: int, below: float | None = None) -> shapely.Geometry:
    """The hull of what an element covers, or of what of it lies lower than a height."""
    start, end = building.triangle_start[number : number + 2]
    points = building.vertices[building.triangles[start:end].ravel()]
    if below is not None:
        points = points[points[:, 2] <= below]
    return shapely.convex_hull(shapely.multipoints(points[:, :2]))


def _rings(area: shapely.Geometry) -> Rings:
    return tuple(tuple((float(x), float(y)) for x, y in ring.coords[:-1]) for ring in (area.exterior, *area.interiors))
