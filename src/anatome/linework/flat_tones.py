"""Flat tones as areas: the lines that are seen part the picture into faces, and each is filled with what a ray meets in it."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.linework.drawing import TONES, Area, Layer
from anatome.look.look import TOWARDS_LIGHT, Look
from anatome.look.palette import encoded
from anatome.model.building import Building
from anatome.site.standing import Standing
from anatome.trace.scene import LIGHTEST, TracedScene
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
NOTHING, A_FIGURE = -1, -2
GRID = 0.004
"""Mm to which lines are put so that they meet where they end."""
LEAST = 0.02
"""Square mm under which a face is left to its neighbour."""
FIGURE = 0.12
"""How much of the ink people and trees have as areas."""
STEPS = 64
"""Levels of a tone: faces that differ by less are one area."""


def tone_layer(
    pieces: Array,
    scene: TracedScene,
    viewport: Viewport,
    look: Look,
    building: Building,
    figures: tuple[Standing, ...],
    near: float,
    blank: shapely.Geometry,
) -> Layer:
    """Areas of one tone, by part: what (m, 2, 2) lines in mm, all that are seen, part the paper into. Rays begin at a depth
    ``near`` metres; what lies in ``blank`` stays paper."""
    wide, high = viewport.width, viewport.height
    border = shapely.boundary(shapely.box(0.0, 0.0, wide, high))
    lines = shapely.union_all(np.append(shapely.linestrings(pieces), border), grid_size=GRID)
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(lines)))
    faces = faces[shapely.area(faces) > LEAST]
    if not len(faces):
        return Layer(TONES)
    owner, colours = _met(faces, scene, viewport, look, near)
    spots = shapely.get_coordinates(shapely.point_on_surface(faces))
    _figures(figures, scene, viewport, look, near, spots, colours, owner)
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
        name = building.elements[element] if element >= 0 else None
        areas.append(Area(name.id if name else "figure", name.name if name else "", rings, (red, green, blue)))
    return Layer(TONES, tuple(areas))


def _met(
    faces: NDArray[np.object_], scene: TracedScene, viewport: Viewport, look: Look, near: float
) -> tuple[NDArray[np.int64], Array]:
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
        flat = spots / [viewport.width, viewport.height] * 2 - 1
        origins, directions = viewport.rays(flat, near)
        met, _ = scene.nearest((origins - scene.centre).astype(np.float32), directions.astype(np.float32))
        there = met >= 0
        own = encoded(np.clip(scene.solid.albedo[met[there]] / LIGHTEST, 0.0, 1.0))
        owners[number, asked[there]] = scene.solid.element[met[there]]
        colours[number, asked[there]] = own * tones(scene.solid.normal[met[there]], directions[there], viewport, look)[:, None]
    # Each answer counts as much as the pieces that gave the same one.
    weights[0] *= 0.3
    same = (owners[:, None] == owners[None]) & (np.abs(colours[:, None] - colours[None]).max(axis=-1) < 1.5 / STEPS)
    best = np.argmax((same * weights[None]).sum(axis=1), axis=0)
    row = np.arange(len(faces))
    return owners[best, row], colours[best, row]


def tones(normal: NDArray[np.floating], directions: Array, viewport: Viewport, look: Look) -> Array:
    """(n,) the light on faces with unit normals (n, 3) seen along unit directions (n, 3): three clear tones and one for ceilings,
    as pictures have them (surface.vert)."""
    outward = normal * np.where(np.einsum("ij,ij->i", normal, directions) > 0, -1.0, 1.0)[:, None]
    light, up = viewport.from_camera(TOWARDS_LIGHT), viewport.upright()
    light = light / np.linalg.norm(light)
    level = light - up * float(light @ up)
    towards = outward @ level / max(float(np.linalg.norm(level)), 1e-3)
    rises = outward @ up
    above, lit, away, below = look.tones
    tone = away + (lit - away) * _smooth(-0.35, 0.65, towards)
    rising = tone + (above - tone) * _smooth(0.25, 0.8, rises)
    falling = tone + (below - tone) * _smooth(0.25, 0.8, -rises)
    return np.where(rises > 0, rising, falling)


def _smooth(low: float, high: float, x: Array) -> Array:
    t = np.clip((x - low) / (high - low), 0.0, 1.0)
    return np.asarray(t * t * (3 - 2 * t))


def _figures(
    figures: tuple[Standing, ...],
    scene: TracedScene,
    viewport: Viewport,
    look: Look,
    near: float,
    spots: Array,
    colours: Array,
    owner: NDArray[np.int64],
) -> None:
    """Faces that lie in people and trees which stand before what a ray meets there: their outlines part the picture too."""
    points = shapely.points(spots)
    origins, directions = viewport.rays(spots / [viewport.width, viewport.height] * 2 - 1, near)
    met, away = scene.nearest((origins - scene.centre).astype(np.float32), directions.astype(np.float32))
    away = np.where(met >= 0, away, np.inf)
    for one in figures:
        normal = np.cross(one.across, one.upward)
        slope = directions @ normal
        with np.errstate(divide="ignore", invalid="ignore"):
            before = (one.foot - origins) @ normal / slope < away
        for outline in shapely.get_parts(one.drawing.outline).tolist():
            flat = viewport.pixels(one.raised(shapely.get_coordinates(outline.exterior))) * [1, -1] + [0, viewport.height]
            if not np.isfinite(flat).all():
                continue
            shape = shapely.make_valid(shapely.polygons(flat))
            inside = before & shapely.contains(shape, points)
            colours[inside], owner[inside] = look.mixed(FIGURE), A_FIGURE
