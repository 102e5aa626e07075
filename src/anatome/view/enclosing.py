"""Which parts lie in a rectangle of the picture, wholly or in part; hidden behind others or not."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.moves import STAYS
from anatome.cuts.pieces import Placed
from anatome.view.viewport import Viewport

Rectangle = tuple[float, float, float, float]
"""Left, top, right and bottom in pixels."""


def enclosed(part: Placed, viewport: Viewport, rectangle: Rectangle) -> NDArray[np.bool_]:
    """Return (E,) the elements of which all that is left lies in the rectangle."""
    elements, points = _corners(part, viewport)
    left, top, right, bottom = rectangle
    # What lies behind the eye has no place in the picture, so it is not in the rectangle.
    with np.errstate(invalid="ignore"):
        inside = (points >= (left, top)).all(axis=1) & (points <= (right, bottom)).all(axis=1)
    count = len(part.cut_open.shown)
    all_of, of_those = np.bincount(elements, minlength=count), np.bincount(elements[inside], minlength=count)
    return (all_of > 0) & (all_of == of_those)


def touched(part: Placed, viewport: Viewport, rectangle: Rectangle) -> NDArray[np.bool_]:
    """Return (E,) the elements of which something that is left lies in the rectangle."""
    building, left = part.cut_open.building, part.cut_open
    elements, points = _corners(part, viewport)
    found = np.zeros(len(left.shown), bool)
    x0, y0, x1, y1 = rectangle
    with np.errstate(invalid="ignore"):
        found[elements[((points >= (x0, y0)) & (points <= (x1, y1))).all(axis=1)]] = True
    # Triangles that cross the rectangle without a corner in it.
    unsure = (left.shown & ~found)[building.element_of_triangle]
    numbers = np.flatnonzero(unsure)
    corners = building.vertices[building.triangles[numbers]]
    flat = _at_home(part, viewport).pixels(corners)
    low, high = flat.min(axis=1), flat.max(axis=1)
    near = np.isfinite(flat).all(axis=(1, 2)) & (low <= (x1, y1)).all(axis=1) & (high >= (x0, y0)).all(axis=1)
    numbers, flat, corners = numbers[near], flat[near], corners[near]
    if not len(numbers):
        return found
    element = building.element_of_triangle[numbers]
    window = shapely.box(x0, y0, x1, y1)
    shared = shapely.intersection(shapely.polygons(flat), window)
    meets = ~shapely.is_empty(shared)
    # Of a triangle that is partly cut away, what of it lies in the rectangle must be left.
    middle = shapely.get_coordinates(shapely.point_on_surface(shared[meets]))
    places = _lifted(flat[meets], corners[meets], middle)
    meets[np.flatnonzero(meets)] = ~left.removed(places, element[meets])
    found[element[meets]] = True
    return found


def _at_home(part: Placed, viewport: Viewport) -> Viewport:
    return viewport.at_home_of(None if part.move == STAYS else part.move)


def _corners(part: Placed, viewport: Viewport) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """((n,) elements, (n, 2) pixels) of the corners of what is left: of triangles, and of cut faces."""
    building, left = part.cut_open.building, part.cut_open
    own = left.shown[building.element_of_triangle]
    element = np.repeat(building.element_of_triangle[own], 3)
    points = building.vertices[building.triangles[own].ravel()]
    there = ~left.removed(points, element)
    elements, places = [element[there]], [points[there]]
    for face in left.faces:
        if not face.free:
            count = shapely.get_num_coordinates(face.section.polygons)
            elements.append(np.repeat(face.section.element, count))
            places.append(face.section.plane.raised(shapely.get_coordinates(face.section.polygons)))
    return np.concatenate(elements), _at_home(part, viewport).pixels(np.concatenate(places))


def _lifted(flat: NDArray[np.float64], corners: NDArray[np.float64], points: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 3) about where on triangles (n, 3, 3), seen as (n, 3, 2), the picture's points (n, 2) lie; exact in parallel views."""
    a, b, c = np.moveaxis(flat, 1, 0)

    def across(p: NDArray[np.float64], q: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.asarray(p[:, 0] * q[:, 1] - p[:, 1] * q[:, 0])

    area = across(b - a, c - a)
    with np.errstate(divide="ignore", invalid="ignore"):
        v, w = across(points - a, c - a) / area, across(b - a, points - a) / area
    v, w = np.nan_to_num(v, posinf=0.0, neginf=0.0), np.nan_to_num(w, posinf=0.0, neginf=0.0)
    return np.asarray(corners[:, 0] + v[:, None] * (corners[:, 1] - corners[:, 0]) + w[:, None] * (corners[:, 2] - corners[:, 0]))
