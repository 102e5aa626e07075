"""The colour a face of a drawing has where a ray meets it: its surface, its tone, its room, the sun, the glass before it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.pieces import ShownBuilding, uncut
from anatome.linework.on_paper import OnPaper
from anatome.look.look import TOWARDS_LIGHT, Look
from anatome.look.palette import encoded
from anatome.look.pens import hazed
from anatome.look.shadow import GRAZED, shadow_strength
from anatome.look.styles import Styles
from anatome.model.building import CLEAR_BELOW
from anatome.raytracing.scene import LIGHTEST, PANES, TracedScene, scene_of
from anatome.site.figure_tones import figure_tones
from anatome.site.standing import Standing, standing
from anatome.view.sun import seen_from_sun, towards_sun
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

NOTHING, A_FIGURE = -1, -2
BEFORE, BEYOND = 0.08, 0.03
"""Metres before a surface that are asked which room they lie in, and by which rooms reach beyond what is said of them; as
pictures have them (surface.frag)."""
GLIMPSE = 72
"""Rays across of the glimpse that tells how much lies in the sun."""


@dataclass(frozen=True, eq=False)
class RayHits:
    """What rays meet: the ``element`` (n,) or NOTHING, the ``place`` (n, 3) in metres, its unit ``normal`` (n, 3) towards the
    eye, the ``triangle`` (n,) of the scene; and the ``start`` and ``direction`` (n, 3) of the rays."""

    element: Numbers
    place: Array
    normal: Array
    triangle: NDArray[np.int32]
    start: Array
    direction: Array


class ToneColours:
    """Of a view on paper. ``scene`` is what is seen; ``towards`` the sun, if shadows are cast."""

    def __init__(self, on: OnPaper) -> None:
        view = on.view
        self._on, self.look = on, view.look
        self.scene = scene_of(view.opened, on.styles)
        look = view.look
        self.towards: Array | None = None
        if look.shadows > 0:
            self.towards = towards_sun(on.viewport, look.sun_with_view, look.sun_turn, look.sun_height)
        self._glass = _glass_colours(on.styles, on)

    @cached_property
    def casting(self) -> ShownBuilding:
        """What casts shadows: all there is, if the look says that what is cut away does."""
        view = self._on.view
        whole = view.look.unseen_shade and view.opened.at_home
        return uncut(view.opened.cut_open.building) if whole else view.opened

    @cached_property
    def caster(self) -> TracedScene:
        return self.scene if self.casting is self._on.view.opened else scene_of(self.casting, self._on.styles)

    @cached_property
    def _panes(self) -> TracedScene | None:
        """What is clear, as what rays meet."""
        glass = self.scene.glass
        return None if glass is None or not len(glass.corners) else TracedScene(glass, None, self.scene.centre)

    @cached_property
    def _standing(self) -> list[tuple[Standing, list[tuple[shapely.Geometry, Array, float]]]]:
        """People and trees, each with its areas on paper, the hindmost first, their colours and how much they cover."""
        viewport, shown = self._on.viewport, figure_tones(self.look)
        found = []
        for one in self._on.standing:
            areas = []
            for tone, area in one.drawing.areas:
                *colour, covers = shown[tone]
                for part in shapely.get_parts(area).tolist():
                    flat = viewport.pixels(one.raised(shapely.get_coordinates(part.exterior))) * [1, -1] + [0, viewport.height]
                    if np.isfinite(flat).all():
                        areas.append((shapely.make_valid(shapely.polygons(flat)), np.array(colour), covers))
            found.append((one, areas))
        return found

    def met(self, spots: Array) -> RayHits:
        """Return what is met at (n, 2) places in mm."""
        viewport, scene = self._on.viewport, self.scene
        origins, directions = viewport.rays(spots / [viewport.width, viewport.height] * 2 - 1, self._on.depths[0])
        triangle, away = scene.nearest((origins - scene.centre).astype(np.float32), directions.astype(np.float32))
        there = triangle >= 0
        normal = scene.solid.normal[triangle].astype(float)
        normal *= np.where(np.einsum("ij,ij->i", normal, directions) > 0, -1.0, 1.0)[:, None]
        place = origins + directions * np.where(there, away, 0.0)[:, None]
        return RayHits(np.where(there, scene.solid.element[triangle], NOTHING), place, normal, triangle, origins, directions)

    def at(self, spots: Array) -> tuple[Numbers, Array]:
        """Return ((n,) elements, A_FIGURE or NOTHING, (n, 3) sRGB colours) at (n, 2) places in mm."""
        met = self.met(spots)
        there = np.flatnonzero(met.element >= 0)
        colours = np.tile(np.array(self.look.paper), (len(spots), 1))
        own = encoded(np.clip(self.scene.solid.albedo[met.triangle[there]] / LIGHTEST, 0.0, 1.0))
        self._in_rooms(own, met, there)
        own = own * tones(met.normal[there], self._on.viewport, self.look)[:, None]
        if self.towards is not None:
            own = own * (1.0 - self._strength * ~self.lit(met)[there])[:, None]
        if self.look.haze > 0:
            veil = np.array([hazed(self.look, far) for far in self._on.away(met.place[there]).tolist()])[:, None]
            own = own * (1.0 - veil) + np.array(self.look.paper) * veil
        colours[there] = own
        owner = met.element.copy()
        away = np.where(met.element >= 0, np.einsum("ij,ij->i", met.place - met.start, met.direction), np.inf)
        self._figures(spots, met, owner, colours, away)
        self._glazed(met, owner, colours, away)
        side = self._on.side
        if side is not None:
            place = met.start + met.direction * np.where(np.isfinite(away), away, 0.0)[:, None]
            owner[~side.holds(owner, place)] = NOTHING
        return owner, colours

    def lit(self, met: RayHits) -> NDArray[np.bool_]:
        """Return (n,) whether the sun sees what is met."""
        assert self.towards is not None
        towards, scene = self.towards, self.caster
        faces = (met.element >= 0) & (met.normal @ towards > GRAZED)
        from_here = met.place[faces] + met.normal[faces] * 4 * scene.nudge - scene.centre
        ways = np.broadcast_to(towards, from_here.shape).astype(np.float32)
        far = np.full(len(from_here), 1e6, np.float32)
        found = faces.copy()
        free = ~scene.blocked(from_here.astype(np.float32), np.ascontiguousarray(ways), far)
        for one in self.before_the_sun:
            free[free] = ~one.covers(met.place[faces][free], towards)
        found[faces] = free
        return found

    @cached_property
    def before_the_sun(self) -> tuple[Standing, ...]:
        """People and trees as the sun sees them."""
        if self.towards is None or not self._on.view.figures:
            return ()
        return standing(self._on.view.figures, seen_from_sun(self.towards, self.casting.bounds, 1024))

    @cached_property
    def _strength(self) -> float:
        """How dark shadows are."""
        size = self._on.viewport
        across = (np.arange(GLIMPSE) + 0.5) / GLIMPSE
        spots = np.stack(np.meshgrid(across, across), axis=-1).reshape(-1, 2) * [size.width, size.height]
        met = self.met(spots)
        seen = met.element >= 0
        return shadow_strength(self.look.shadows, float(self.lit(met)[seen].mean()) if seen.any() else 1.0)

    def _in_rooms(self, colours: Array, met: RayHits, there: Numbers) -> None:
        """Give surfaces that have none of their own the colour of the use of the room before them."""
        rooms = self._on.styles.rooms
        roomy = np.flatnonzero(self._on.styles.surface[met.element[there]] < 0)
        places = met.place[there][roomy] + BEFORE * met.normal[there][roomy]
        open_yet = np.ones(len(roomy), bool)
        for (low, high), colour in zip(rooms.boxes, rooms.colours):  # the small ones come first
            inside = open_yet & ((places > low - BEYOND) & (places < high + BEYOND)).all(axis=1)
            colours[roomy[inside]] = colour
            open_yet &= ~inside

    def _figures(self, spots: Array, met: RayHits, owner: Numbers, colours: Array, away: Array) -> None:
        """People and trees that stand before what is met: their outlines part the picture too."""
        points = shapely.points(spots)
        for one, areas in self._standing:
            normal = np.cross(one.across, one.upward)
            with np.errstate(divide="ignore", invalid="ignore"):
                off = (one.foot - met.start) @ normal / (met.direction @ normal)
            before = (off > 0) & (off < away)
            for area, colour, covers in areas:
                inside = before & shapely.contains(area, points)
                colours[inside] = colours[inside] * (1 - covers) + colour * covers
                owner[inside], away[inside] = A_FIGURE, off[inside]

    def _glazed(self, met: RayHits, owner: Numbers, colours: Array, away: Array) -> None:
        """The same as it is seen through what is clear before it; where nothing else is, that is what is seen, on paper."""
        scene, glass, panel = self.scene, self.scene.glass, self._panes
        if glass is None or panel is None:
            return
        panes: list[tuple[Numbers, Array, Array]] = []
        going, begun, first = np.arange(len(owner)), np.zeros(len(owner)), np.full(len(owner), np.inf)
        for _ in range(PANES):
            origins = met.start[going] + met.direction[going] * begun[going, None] - scene.centre
            pane, off = panel.nearest(origins.astype(np.float32), met.direction[going].astype(np.float32))
            hit = (pane >= 0) & (begun[going] + off < away[going])
            going, pane, off = going[hit], pane[hit], off[hit]
            if not len(going):
                break
            normal = glass.normal[pane].astype(float)
            normal *= np.where(np.einsum("ij,ij->i", normal, met.direction[going]) > 0, -1.0, 1.0)[:, None]
            own = self._glass[glass.element[pane]]
            panes.append((going, own[:, :3] * tones(normal, self._on.viewport, self.look)[:, None], own[:, 3:]))
            alone = owner[going] == NOTHING
            owner[going[alone]], first[going[alone]] = glass.element[pane[alone]], (begun[going] + off)[alone]
            begun[going] += off + 4 * scene.nudge
        for numbers, colour, alpha in reversed(panes):  # the farthest first
            colours[numbers] = colours[numbers] * (1 - alpha) + colour * alpha
        np.minimum(away, first, out=away)


def _glass_colours(styles: Styles, on: OnPaper) -> Array:
    """(E, 4) the colour and opacity of what is clear of each element."""
    building = on.building
    clear = (building.styles[building.triangle_style, 3] < CLEAR_BELOW) | styles.clear[building.element_of_triangle]
    of = building.element_of_triangle[clear]
    style = np.where(styles.surface[of] >= 0, styles.surface[of], building.triangle_style[clear])
    found = np.zeros((len(building.elements), 4))
    count = np.maximum(np.bincount(of, minlength=len(found)), 1)
    for channel in range(4):
        weights = styles.palette[style, channel] / 255.0
        found[:, channel] = np.bincount(of, weights=weights, minlength=len(found)) / count
    return found


def tones(outward: NDArray[np.floating], viewport: Viewport, look: Look) -> Array:
    """Return (n,) the light on faces with unit normals (n, 3) towards the eye: three clear tones and one for ceilings, as
    pictures have them (surface.vert)."""
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
