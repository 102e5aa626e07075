"""What parts probably are, and where storeys probably lie, told from shape, size and place alone. Offered, never taken
silently."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import CLEAR_BELOW, Building
from anatome.model.meaning import LEVEL, UPRIGHT
from anatome.model.solids import enclosed_volumes

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

THICKEST = 0.8
"""Metres a wall or a floor is thick at most."""
SAME_FLOOR = 0.4
"""Metres within which level surfaces are of one floor: slab, screed and boards."""
HEADROOM = 2.0
"""Metres from a floor to the next at least."""
FLOOR_SHARE = 0.12
"""Of the largest floor's area that another one has at least."""
STEPS, RISE = 4, (0.1, 0.24)
"""Level surfaces one over the other from which a part is a stair, and metres from one to the next."""
FAR_OUT = 5.0
"""Metres round the walls beyond which what is larger than the building is ground or water."""
OPENING_SHARE, REVEAL, LINTEL = 0.7, 0.2, 0.1
"""Of a wall's face, how much what fills an opening takes at most; metres it may stand out of the wall; metres of wall over it."""
GLAZED = 0.12
"""Share of clear surface from which something upright is a window, or a door."""


@dataclass(frozen=True, eq=False)
class Proportions:
    """Of all parts of a building, as arrays (E,): metres ``long``, ``wide`` and ``high`` along their own level edges, ``thick``;
    shares of their surface that are level, upright and sloping; and clear."""

    building: Building

    @cached_property
    def boxes(self) -> Array:
        """(E, 2, 3) lower and upper corner of each part along its own level edges, metres: comparable where those run alike."""
        b = self.building
        turn = b.level_turn[b.element_of_triangle]
        corners = b.vertices[b.triangles]
        cos, sin = np.cos(turn)[:, None], np.sin(turn)[:, None]
        x = corners[..., 0] * cos + corners[..., 1] * sin
        y = corners[..., 1] * cos - corners[..., 0] * sin
        starts = b.triangle_start[:-1]
        low = [np.minimum.reduceat(v.min(axis=1), starts) for v in (x, y)]
        high = [np.maximum.reduceat(v.max(axis=1), starts) for v in (x, y)]
        heights = b.element_bounds[:, :, 2]
        return np.stack([np.stack([*low, heights[:, 0]], axis=1), np.stack([*high, heights[:, 1]], axis=1)], axis=1)

    @cached_property
    def _extents(self) -> tuple[Array, Array, Array]:
        x, y, z = (self.boxes[:, 1] - self.boxes[:, 0]).T
        return np.maximum(x, y), np.minimum(x, y), z

    @property
    def long(self) -> Array:
        return self._extents[0]

    @property
    def wide(self) -> Array:
        return self._extents[1]

    @property
    def high(self) -> Array:
        return self._extents[2]

    @cached_property
    def _areas(self) -> Array:
        """(T,) m² of each triangle."""
        corners = self.building.vertices[self.building.triangles]
        return np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2

    def _of_parts(self, weights: Array) -> Array:
        return np.asarray(np.bincount(self.building.element_of_triangle, weights, len(self.building.elements)), float)

    @cached_property
    def area(self) -> Array:
        """(E,) m² of all faces."""
        return np.maximum(self._of_parts(self._areas), 1e-12)

    @cached_property
    def _volume(self) -> Array:
        """(E,) m³ of the parts that are closed."""
        b = self.building
        return np.abs(enclosed_volumes(b.vertices[b.triangles], b.triangle_start))

    @cached_property
    def thick(self) -> Array:
        """(E,) metres: twice the volume over the surface, as of a plate, where that is known; else the shortest side."""
        volume, shortest = self._volume, np.minimum(np.minimum(self.long, self.wide), self.high)
        known = self.building.links.closed & (volume > 1e-9)
        return np.where(known, np.minimum(2 * volume / self.area, shortest + 1e-9), shortest)

    @cached_property
    def volume_share(self) -> Array:
        """(E,) the volume over that of the box round it; 1 where it is not known."""
        box = np.maximum(self.long * self.wide * self.high, 1e-12)
        return np.where(self.building.links.closed, self._volume / box, 1.0)

    def _share(self, which: Mask) -> Array:
        return self._of_parts(self._areas * which) / self.area

    @cached_property
    def level(self) -> Array:
        return self._share(np.abs(self.building.normals[:, 2]) > LEVEL)

    @cached_property
    def upright(self) -> Array:
        return self._share(np.abs(self.building.normals[:, 2]) < UPRIGHT)

    @property
    def sloping(self) -> Array:
        return 1.0 - self.level - self.upright

    @cached_property
    def clear(self) -> Array:
        return self._share(self.building.styles[self.building.triangle_style, 3] < CLEAR_BELOW)

    @cached_property
    def tops(self) -> tuple[Array, Array, NDArray[np.int64]]:
        """(heights in metres, m², part) of all faces that look straight up."""
        b = self.building
        up = b.normals[:, 2] > LEVEL
        return b.vertices[b.triangles[up], 2].mean(axis=1), self._areas[up], b.element_of_triangle[up]

    def treads(self, part: int) -> int:
        """Return how many level surfaces of a part lie one over the other as the treads of a stair do."""
        heights, areas, owner = self.tops
        own = owner == part
        levels = np.unique(np.round(heights[own][areas[own] > 0.02], 2))
        gaps = np.diff(levels)
        good = (gaps > RISE[0]) & (gaps < RISE[1])
        return int(good.sum()) + 1 if len(gaps) and good.mean() > 0.6 else 0


@dataclass(frozen=True)
class GuessedStorey:
    """A floor at a level in metres, of so many m²."""

    elevation: float
    area: float


def guessed_types(building: Building, floors: Sequence[GuessedStorey]) -> list[str]:
    """Return for each part the IFC class it probably is, nothing where its shape does not tell."""
    s, e = Proportions(building), building.element_bounds
    low, high = e[:, 0, 2], e[:, 1, 2]
    found = np.full(len(building.elements), "", dtype=object)

    def say(kind: str, mask: Mask) -> None:
        found[(found == "") & mask] = kind

    walls = _wall_like(s)
    around = building.bounds_of(walls)
    built = float(np.prod(around[1, :2] - around[0, :2]))
    plan = s.long * s.wide
    beyond = ((e[:, 0, :2] < around[0, :2] - FAR_OUT) | (e[:, 1, :2] > around[1, :2] + FAR_OUT)).any(axis=1)
    inside = ((e[:, 0, :2] > around[0, :2] - 1.0) & (e[:, 1, :2] < around[1, :2] + 1.0)).all(axis=1)
    widest = float((around[1, :2] - around[0, :2]).max())
    say("IfcGeographicElement", ~walls & ((plan > 1.6 * built) | (beyond & (s.long > 1.2 * widest))))
    candidates = np.flatnonzero((s.high > 0.6) & (s.high < 8.0) & (s.long > 0.8) & (s.level > 0.15))
    stairs = np.zeros(len(found), bool)
    stairs[[i for i in candidates.tolist() if s.treads(i) >= STEPS]] = True
    say("IfcStair", stairs & (s.wide > 0.5) & (s.wide < 4.0))
    lowest = min((f.elevation for f in floors), default=float(low.min()))
    say("IfcFooting", inside & (high < lowest - 0.05) & (s.sloping < 0.5) & (s.thick > 0.15))
    foot = np.min([np.abs(low - f.elevation) for f in floors], axis=0) if floors else np.full(len(found), np.inf)
    pane = (s.upright > 0.5) & (s.wide < 0.6) & (s.high > 0.3) & (s.long < 8.0)
    door = (foot < 0.07) & (s.high > 1.85) & (s.high < 4.5)
    leaf = pane & (s.long > 0.4) & (s.long < 4.0) & (s.high > 0.4)
    filling = _in_walls(s, walls, leaf)
    say("IfcDoor", pane & door & (s.clear > GLAZED))
    say("IfcWindow", pane & (s.clear > GLAZED))
    say("IfcDoor", filling & door & (s.high < 3.2))
    say("IfcWindow", filling)
    say(
        "IfcRailing", (foot < 0.3) & (s.high > 0.6) & (s.high < 1.35) & (s.long > 0.8) & (s.volume_share < 0.3) & (s.thick < 0.12)
    )
    slim = np.sort(np.stack([s.long, s.wide, s.high]), axis=0)
    bar = (slim[2] > 1.2) & (slim[1] < 0.75) & (slim[2] > 4 * slim[1])
    tilted = (s.thick < 0.3) & (s.wide < 0.45) & (s.long > 1.2) & (s.sloping > 0.2) & (plan < 0.25 * s.area)
    # Rows of tiles are thin and lie flat on the slope; bars have sides.
    row = (s.sloping > 0.8) & (s.thick < 0.06) & (s.long > 2.0)
    overhead = low > lowest + HEADROOM
    sheet = (s.thick < THICKEST) & (plan > 2.0)
    say("IfcRoof", overhead & (row | (sheet & (s.sloping > 0.5) & (s.wide > 1.0))))
    say("IfcColumn", bar & (s.high > 1.8) & (s.high > 0.9 * slim[2]))
    say("IfcMember", (bar & (s.sloping > 0.2)) | tilted)
    board = (s.high < 0.07) & (s.wide > 2.5 * s.high) & (s.level > 0.55) & (s.long > 2.0)
    say("IfcSlab", board)
    parapet = (foot < 0.5) & (s.high > 0.5) & (s.long > 2.5) & (s.wide > 0.2) & (s.wide < 0.6) & (s.high > 1.2 * s.wide)
    say("IfcWall", parapet & (s.upright > 0.55))
    say("IfcBeam", bar & (s.high < 0.75))
    say("IfcWall", walls)
    say("IfcSlab", sheet & (s.level > 0.55) & (s.wide > 0.8) & ((s.high < THICKEST + 0.2) | ~inside))
    say("IfcFurniture", inside & (low > lowest - 0.2) & (np.maximum(s.wide, s.high) < 3.2) & (s.long < 20.0) & ~overhead)
    say("IfcFurniture", inside & (low > lowest - 0.2) & (slim[2] < 3.2))
    return [str(kind) for kind in found]


def _wall_like(s: Proportions) -> Mask:
    tall = (s.high > 1.5) | ((s.high > 0.5) & (s.long > 2.5) & (s.high > 2.0 * s.wide))
    return (s.upright > 0.6) & tall & (s.long > 0.5) & (s.thick < THICKEST) & (s.wide < 1.2) & (s.long > 1.5 * s.wide)


def _in_walls(s: Proportions, walls: Mask, which: Mask) -> Mask:
    """(E,) of some parts those that fill an opening of a wall: their box lies in that of one that runs alike, and is smaller."""
    boxes, turn = s.boxes, s.building.level_turn
    hosts = np.flatnonzero(walls)
    found = np.zeros(len(boxes), bool)
    face = s.long * s.high
    for part in np.flatnonzero(which).tolist():
        own = boxes[part]
        near = hosts[(np.abs(turn[hosts] - turn[part]) < 0.02) & (face[part] < OPENING_SHARE * face[hosts])]
        within = ((boxes[near, 0, :2] < own[0, :2] + REVEAL) & (boxes[near, 1, :2] > own[1, :2] - REVEAL)).all(axis=1)
        within &= (boxes[near, 1, 2] > own[1, 2] + LINTEL) & (boxes[near, 0, 2] < own[0, 2] + REVEAL)
        found[part] = bool(within.any())
    return found


def guessed_storeys(building: Building) -> tuple[GuessedStorey, ...]:
    """Return where floors probably lie, the lowest first: large level surfaces with headroom over them.

    Surfaces that lie closer than SAME_FLOOR are of one floor, whose level is that of the highest large one.
    """
    s = Proportions(building)
    walls = _wall_like(s)
    if not walls.any():
        return ()
    around = building.bounds_of(walls)
    built = float(np.prod(around[1, :2] - around[0, :2]))
    e = building.element_bounds
    inside = (e[:, 0, :2] > around[0, :2] - 3.0).all(axis=1) & (e[:, 1, :2] < around[1, :2] + 3.0).all(axis=1)
    floors = inside & (s.thick < THICKEST) & (s.level > 0.5) & (s.high < THICKEST + 0.2) & (s.long * s.wide > 3.0)
    heights, areas, owner = s.tops
    of_floor = floors[owner]
    heights, areas = heights[of_floor], areas[of_floor]
    if not len(heights):
        return ()
    order = np.argsort(heights)
    heights, areas = heights[order], areas[order]
    groups = np.split(np.arange(len(heights)), np.flatnonzero(np.diff(heights) > SAME_FLOOR) + 1)
    found = []
    for group in groups:
        # Of layers on one another the highest large one is walked on.
        levels, number = np.unique(np.round(heights[group], 2), return_inverse=True)
        sizes = np.bincount(number, areas[group])
        large = np.flatnonzero(sizes > 0.5 * sizes.max())
        found.append(GuessedStorey(float(levels[large[-1]]), float(sizes.max())))
    largest = max(f.area for f in found)
    kept: list[GuessedStorey] = []
    for floor in found:
        if floor.area < max(FLOOR_SHARE * largest, 0.02 * built):
            continue
        if kept and floor.elevation - kept[-1].elevation < HEADROOM:
            # Nobody walks between both: of a ceiling and the floor over it the upper one counts.
            if floor.area > 0.5 * kept[-1].area:
                kept[-1] = floor
            continue
        kept.append(floor)
    return tuple(kept)
