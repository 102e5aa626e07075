"""The lines of a hatch in an area: where it lies there, and what of it is drawn."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.look.hatches import DENSEST, Family, Hatch, Tile

Array = NDArray[np.float64]
MOST_LINES = 20_000
"""Lines of one family in one area: more would be grey anyway."""
ORIGIN = np.zeros(2)
CLOSEST = 2.5
"""Dots long from which a dash and its gap are told from a line."""
LONG = 2.0
"""Times as long as wide from which an area has a long side to follow."""


def long_side(polygon: shapely.Geometry) -> float | None:
    """Return radians in which the long side of an area runs, None where it has none."""
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(polygon))
    if len(corners) < 4:
        return None
    sides = np.diff(corners[:3], axis=0)
    lengths = np.hypot(*sides.T)
    if lengths.max() < LONG * lengths.min():
        return None
    x, y = sides[int(np.argmax(lengths))]
    return float(np.arctan2(y, x)) % np.pi


def roomiest(polygon: shapely.Geometry) -> Array:
    """Return (2,) the middle of the largest circle in an area: where a hatch is seen best."""
    size = float(np.sqrt(max(shapely.area(polygon), 1e-12)))
    return shapely.get_coordinates(shapely.maximum_inscribed_circle(polygon, 0.02 * size))[0]


def level_on_paper(corners: Array) -> float:
    """Return radians in a plane, whose 0,0 and 1,0 and 0,1 lie at (3 or more, 2) places of a picture, of what runs level there,
    to the right: what hatches that follow the paper are turned by."""
    u, v = corners[1] - corners[0], corners[2] - corners[0]
    across, upward = (v[1], -u[1]) if v[1] * u[0] - u[1] * v[0] >= 0 else (-v[1], u[1])
    return float(np.arctan2(upward, across))


def frame_of(hatch: Hatch, polygon: shapely.Geometry, base: Array, level: float = 0.0) -> tuple[float, Array]:
    """Return (radians by which the hatch is turned in an area, (2,) its origin there, before its own shift).

    What follows the plane begins at one ``base`` (2,) in all areas, so that it goes on from one into the next; so does what
    follows the paper, turned by what is ``level`` there.
    """
    own = np.radians(hatch.turn)
    turned = long_side(polygon) if hatch.follows == "long side" else None
    if turned is None:
        return float(own + (level if hatch.follows == "paper" else 0.0)), base
    # From a corner of the area, so that all areas of a size look alike.
    return float(turned + own), shapely.get_coordinates(shapely.minimum_rotated_rectangle(polygon))[0]


def _shifted(hatch: Hatch, turned: float, origin: Array, unit: float) -> Array:
    """Its origin with its own shift, which goes along its own axes."""
    c, s = np.cos(turned), np.sin(turned)
    x, y = hatch.shift
    return origin + unit * np.array([c * x - s * y, s * x + c * y])


def hatch_lines(
    hatch: Hatch, polygon: shapely.Geometry, unit: float, base: Array = ORIGIN, millimetre: float = 1.0, level: float = 0.0
) -> Array:
    """Return (n, 2, 2) the lines of a hatch in an area, in the area's own measure, of which ``unit`` is one unit of the hatch
    and ``millimetre`` one on paper; thinned out where they would lie too close on that. A dot is a short line."""
    unit *= hatch.thinning(unit / millimetre)
    turned, origin = frame_of(hatch, polygon, base, level)
    origin = _shifted(hatch, turned, origin, unit)
    lines = [_family_lines(family, polygon, unit, turned, origin, DENSEST * millimetre) for family in hatch.families]
    if hatch.tile is not None:
        lines.append(_tile_lines(hatch.tile, polygon, unit, turned, origin))
    found = [np.empty((0, 2, 2))]
    for own in lines:
        if len(own):
            kept = shapely.get_parts(shapely.intersection(shapely.multilinestrings(shapely.linestrings(own)), polygon))
            points = [shapely.get_coordinates(line) for line in kept if line.geom_type == "LineString"]
            found += [np.stack([p[:-1], p[1:]], axis=1) for p in points if len(p) > 1]
    return np.concatenate(found)


def hatch_rows(
    hatch: Hatch, polygon: shapely.Geometry, unit: float, base: Array = ORIGIN, level: float = 0.0, millimetre: float = 1.0
) -> list[tuple[Array, Array, Array, tuple[float, ...] | None]]:
    """Return the families of a hatch as lines without end: (2,) a place on one where its dashes begin, the (2,) unit direction of
    all, the (2,) way from one to the next with what its dashes are moved by, and its dashes and gaps in turn."""
    unit *= hatch.thinning(unit / millimetre)
    turned, origin = frame_of(hatch, polygon, base, level)
    origin = _shifted(hatch, turned, origin, unit)
    found = []
    for family in hatch.families:
        angle = turned + np.radians(family.angle)
        along, across = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
        dashes = None if family.drawn_dashes is None else tuple(d * unit for d in family.drawn_dashes)
        step = family.spacing * unit * across + (0.0 if dashes is None else family.stagger * unit) * along
        at = origin + unit * (family.shift * across + (0.0 if dashes is None else family.start) * along)
        found.append((at, along, step, dashes))
    return found


def _family_lines(family: Family, polygon: shapely.Geometry, unit: float, turned: float, origin: Array, least: float) -> Array:
    """(n, 2, 2) whole lines or dashes that cover the bounds of an area."""
    angle = turned + np.radians(family.angle)
    along, across = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
    left, low, right, high = shapely.bounds(polygon)
    corners = np.array([[left, low], [right, low], [right, high], [left, high]]) - origin
    spacing, shift = family.spacing * unit, family.shift * unit
    first = int(np.ceil(((corners @ across).min() - shift) / spacing))
    last = int(np.floor(((corners @ across).max() - shift) / spacing))
    begin, end = float((corners @ along).min()), float((corners @ along).max())
    if last < first or last - first > MOST_LINES:
        return np.empty((0, 2, 2))
    rows = np.arange(first, last + 1)
    feet = origin + (rows * spacing + shift)[:, None] * across
    if family.drawn_dashes is None or sum(family.drawn_dashes) * unit < CLOSEST * least:
        return np.stack([feet + begin * along, feet + end * along], axis=1)
    dashes = np.array(family.drawn_dashes) * unit
    period = float(dashes.sum())
    starts = family.start * unit + rows * family.stagger * unit
    count = int((end - begin) / period) + 2
    pairs = dashes.reshape(-1, 2)
    if len(rows) * count * len(pairs) > MOST_LINES * 10:
        return np.empty((0, 2, 2))
    begins = np.concatenate([[0.0], np.cumsum(pairs.sum(axis=1))[:-1]])
    offset = starts + np.floor((begin - starts) / period) * period
    at = (offset[:, None, None] + period * np.arange(count)[:, None] + begins).reshape(len(rows), -1)
    # A dot is as long as its pen is wide at the least.
    long = np.tile(np.maximum(pairs[:, 0], least), count)
    own = np.repeat(feet, at.shape[1], axis=0)
    at, long = at.ravel(), np.tile(long, len(rows))
    return np.stack([own + at[:, None] * along, own + (at + long)[:, None] * along], axis=1)


def _tile_lines(tile: Tile, polygon: shapely.Geometry, unit: float, turned: float, origin: Array) -> Array:
    """(n, 2, 2) the lines of all tiles that cover the bounds of an area."""
    c, s = np.cos(turned), np.sin(turned)
    axes = np.array([[c, s], [-s, c]]) * unit
    size = np.array(tile.size)
    left, low, right, high = shapely.bounds(polygon)
    corners = (np.array([[left, low], [right, low], [right, high], [left, high]]) - origin) @ np.linalg.inv(axes) / size
    first, last = np.floor(corners.min(axis=0)).astype(int) - 1, np.ceil(corners.max(axis=0)).astype(int) + 1
    own = np.concatenate([np.stack([p[:-1], p[1:]], axis=1) for p in (np.array(stroke) for stroke in tile.strokes)])
    across, upward = last - first
    if float(across) * float(upward) * len(own) > MOST_LINES * 10:
        return np.empty((0, 2, 2))
    x, y = np.meshgrid(np.arange(first[0], last[0]), np.arange(first[1], last[1]))
    places = np.stack([x.ravel(), y.ravel()], axis=1) * size
    lines = (own[None] + places[:, None, None]).reshape(-1, 2, 2)
    return np.asarray(origin + lines @ axes)


def place_in(
    hatch: Hatch, polygon: shapely.Geometry, at: Array, unit: float, base: Array, millimetre: float, level: float
) -> Array:
    """Return (2,) where a place (2,) of an area lies in a hatch, along its own axes in its own units; the rest as
    :func:`hatch_lines` has it."""
    turned, origin = frame_of(hatch, polygon, base, level)
    c, s = np.cos(turned), np.sin(turned)
    arm = (at - origin) / (unit * hatch.thinning(unit / millimetre))
    return np.array([c * arm[0] + s * arm[1], c * arm[1] - s * arm[0]]) - hatch.shift


def with_place(
    hatch: Hatch, polygon: shapely.Geometry, at: Array, wanted: Array, unit: float, base: Array, millimetre: float, level: float
) -> Hatch:
    """Return a hatch shifted so that a place of an area lies where it is ``wanted``; undoes :func:`place_in`."""
    plain = hatch.model_copy(update={"shift": (0.0, 0.0)})
    x, y = (place_in(plain, polygon, at, unit, base, millimetre, level) - wanted).tolist()
    return hatch.model_copy(update={"shift": (x, y)})
