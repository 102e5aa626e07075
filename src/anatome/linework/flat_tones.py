"""Flat tones as areas: the lines that are seen part the picture into faces, and each is filled with what a ray meets in it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.linework.divided import across, paper_beyond
from anatome.linework.drawing import TONES, Area, Layer
from anatome.linework.feature_lines import NOBODY, Lines
from anatome.linework.hidden import seen_stretches
from anatome.linework.occluders import Occluders
from anatome.linework.on_paper import OnPaper
from anatome.linework.sun_lines import outlines_of_light, parted
from anatome.linework.tone_colours import NOTHING, ToneColours
from anatome.look.pens import LineKind
from anatome.look.styles import Rooms

Array = NDArray[np.float64]
GRID = 0.004
"""Mm to which lines are put so that they meet where they end."""
LEAST = 0.02
"""Square mm under which a face is left to its neighbour."""
STEPS = 64
"""Levels of a tone: faces that differ by less are one area."""
ROOMS_REACH = 0.03
"""Metres by which the lines between rooms lie outside what is said of them."""


def tone_layer(pieces: Array, on: OnPaper, hiding: Occluders, blank: shapely.Geometry, went_on: Callable[[float], None]) -> Layer:
    """Areas of one tone, by part: what (m, 2, 2) lines in mm, all that are seen, part the paper into, with the outlines of cast
    shadows and of rooms that have a colour. What lies in ``blank`` stays paper. ``went_on`` is told the share done, and raises
    where nobody wants the rest."""
    seeing = ToneColours(on)
    pieces = np.concatenate([pieces, _round_figures(on), _more_lines(on, hiding, seeing, went_on)])
    went_on(0.4)
    faces = parted(pieces, on.viewport.width, on.viewport.height, GRID, LEAST)
    if not len(faces):
        return Layer(TONES)
    went_on(0.6)
    owner, colours = _met(faces, seeing)
    went_on(0.8)
    spots = shapely.get_coordinates(shapely.point_on_surface(faces))
    if not shapely.is_empty(blank):
        owner[shapely.contains(shapely.buffer(blank, GRID), shapely.points(spots))] = NOTHING
    drawn = owner != NOTHING
    key = np.round(colours[drawn] * STEPS).astype(np.int64)
    groups, number = np.unique(np.column_stack([owner[drawn], key]), axis=0, return_inverse=True)
    order = np.argsort(number.ravel(), kind="stable")
    parts = np.split(faces[drawn][order], np.flatnonzero(np.diff(number.ravel()[order])) + 1)
    areas = []
    for (element, *levels), shapes in zip(groups.tolist(), parts):
        whole = shapely.union_all(shapes, grid_size=GRID)
        rings = tuple(
            tuple(shapely.get_coordinates(r) for r in (p.exterior, *p.interiors))
            for p in shapely.get_parts(whole).tolist()
            if p.geom_type == "Polygon"
        )
        red, green, blue = (min(level / STEPS, 1.0) for level in levels)
        name = on.building.elements[element] if element >= 0 else None
        areas.append(Area(name.id if name else "figure", name.name if name else "", rings, (red, green, blue)))
    return Layer(TONES, tuple(areas))


def _more_lines(on: OnPaper, hiding: Occluders, seeing: ToneColours, went_on: Callable[[float], None]) -> Array:
    """(m, 2, 2) mm, what is seen of the outlines of shadows and rooms."""
    found = [_between_rooms(on.styles.rooms)]
    if seeing.towards is not None:
        progress = _between(went_on, 0.0, 0.3)
        sun, figures = seeing.towards, seeing.before_the_sun
        found.append(outlines_of_light(seeing.casting, seeing.caster, on.styles, on.view.look, sun, figures, progress))
    side, divide = on.side, on.view.divide
    straight = np.empty((0, 2, 2))
    if side is not None and divide is not None and divide.by == "line":
        ring = paper_beyond(divide, on.viewport)
        straight = np.stack([ring[:-1], ring[1:]], axis=1)
    elif side is not None and side.row is not None:
        solids = [s.corners + seeing.scene.centre for s in (seeing.scene.solid, seeing.scene.glass) if s is not None]
        found.append(across(side.row, np.concatenate(solids)))
    ends = np.concatenate(found)
    if not len(ends):
        return straight
    lines = on.clipped(Lines(ends, np.full(len(ends), LineKind.EDGE), np.full(len(ends), NOBODY)))
    flat = on.flat(lines)
    return np.concatenate([straight, on.pieces(flat, *seen_stretches(flat, hiding, _between(went_on, 0.3, 0.4)))])


def _between(went_on: Callable[[float], None], low: float, high: float) -> Callable[[float], bool]:
    """What tells a part of the way."""

    def progress(share: float) -> bool:
        went_on(low + (high - low) * share)
        return True

    return progress


def _round_figures(on: OnPaper) -> Array:
    """(m, 2, 2) mm, the outlines of people and trees, seen or not: who stands in the grass is closed below all the same."""
    lines = on.figure_lines()
    lines = on.clipped(lines.some(lines.kind == LineKind.FIGURE))
    count = len(lines.ends)
    return on.pieces(on.flat(lines), np.arange(count), np.tile([0.0, 1.0], (count, 1)))


def _between_rooms(rooms: Rooms) -> Array:
    """(n, 2, 3) metres, the edges of the boxes of rooms: on floors and ceilings one room ends there, with a wall or without."""
    if not len(rooms.boxes):
        return np.empty((0, 2, 3))
    low, high = rooms.boxes[:, 0].copy(), rooms.boxes[:, 1].copy()
    low[:, :2] -= ROOMS_REACH
    high[:, :2] += ROOMS_REACH
    sides = np.stack([low, high], axis=1)
    which = np.array([[i, j, k] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
    corners = np.stack([sides[:, which[:, axis], axis] for axis in range(3)], axis=-1)
    pairs = [(a, b) for a in range(8) for b in range(a) if np.abs(which[a] - which[b]).sum() == 1]
    return np.concatenate([corners[:, list(pair)] for pair in pairs])


def _met(faces: NDArray[np.object_], seeing: ToneColours) -> tuple[NDArray[np.int64], Array]:
    """((n,) the part that is seen in most of each face, NOTHING where that is none, (n, 3) its colour). A face is asked in its
    middle and in its quarters: between tiles a single ray may meet what is under them."""
    left, low, right, high = shapely.bounds(faces).T
    x, y = (left + right) / 2, (low + high) / 2
    quarters = [
        shapely.box(a, b, c, d) for a, b, c, d in ((left, low, x, y), (x, low, right, y), (left, y, x, high), (x, y, right, high))
    ]
    pieces = [faces, *(shapely.intersection(faces, q) for q in quarters)]
    weights = np.stack([shapely.area(p) for p in pieces])
    owners = np.full(weights.shape, NOTHING)
    colours = np.zeros((*weights.shape, 3))
    for number, piece in enumerate(pieces):
        asked = np.flatnonzero(weights[number] > 0)
        spots = shapely.get_coordinates(shapely.point_on_surface(piece[asked]))
        owners[number, asked], colours[number, asked] = seeing.at(spots)
    # Each answer counts as much as the pieces that gave the same one.
    weights[0] *= 0.3
    same = (owners[:, None] == owners[None]) & (np.abs(colours[:, None] - colours[None]).max(axis=-1) < 1.5 / STEPS)
    best = np.argmax((same * weights[None]).sum(axis=1), axis=0)
    row = np.arange(len(faces))
    return owners[best, row], colours[best, row]
