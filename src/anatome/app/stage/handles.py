"""Where the handles of a cut lie on the screen, and what is under the pointer. Geometry only, in pixels."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut
from anatome.cuts.kinds.grip import Grip
from anatome.cuts.plane import Plane, Vector
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]

STEM = 46.0
BOX_STEM = 30.0
DIAMOND = 8.0
HIT, BESIDE = 13.0, 24.0
"""Pixels within which a press takes hold of a handle or its ring, and within which one that misses does nothing."""
RING = 74.0
ARCH = 60.0
"""Pixels across half the ring that turns a cut about the vertical, and the one that tilts it."""
BOX_RING = 104.0
STEM_LESS = 6.0
"""Pixels by which the stem of a handle reaches less far round itself than its tip and its foot."""
APART = 30.0
"""Pixels that handles of one cut keep from one another."""


UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True, eq=False)
class Knob:
    """A grip on the screen: ``foot`` where it is held to the model, ``tip`` where its diamond or disc is."""

    grip: Grip
    anchor: Array
    foot: Array
    tip: Array

    @property
    def name(self) -> str:
        return self.grip.name

    def distance(self, at: Array) -> float:
        """Pixels from a place to the nearest of it that can be taken hold of."""
        foot = float(np.hypot(*(at - self.foot))) if self.grip.travels else np.inf
        return min(float(np.hypot(*(at - self.tip))), foot, distance_to_path(at, np.stack([self.foot, self.tip])) + STEM_LESS)


@dataclass(frozen=True, eq=False)
class CutHandles:
    """The handles of one cut: a diamond on a stem for each side that travels, a disc to move a box, a ring to turn it."""

    cut: AnyCut
    viewport: Viewport
    knobs: tuple[Knob, ...]
    centre: Array
    ring: Array | None
    arch: Array | None
    """(n, 2) pixels of the half ring that tilts it."""

    @classmethod
    def place(cls, cut: AnyCut, bounds: Array, viewport: Viewport) -> CutHandles | None:
        """None when no part of the cut is before the eye."""
        knobs: list[Knob] = []
        for grip in cut.grips(bounds):
            knob = _knob(grip, viewport, BOX_STEM if cut.encloses else STEM)
            if knob is not None:
                knobs.append(_clear_of(knob, knobs))
        if not knobs:
            return None
        centre, corners = knobs[0].anchor, cut.corners
        if cut.centre is not None and corners is not None:  # turned about its own middle, on the ground
            centre = np.array([*cut.centre[:2], corners[:, 2].min()])
        ring = None
        if cut.can_turn:
            turn = np.linspace(0, 2 * math.pi, 73)
            radius = BOX_RING if cut.encloses else RING
            step = viewport.metres_per_pixel(centre)
            ring = viewport.pixels(centre + radius * step * np.column_stack([np.cos(turn), np.sin(turn), 0 * turn]))
            if not np.isfinite(ring).all():
                ring = None
        return cls(cut, viewport, tuple(knobs), centre, ring, _arch(cut, centre, viewport) if cut.can_tilt else None)

    @property
    def foot(self) -> Array:
        """Of the handle used most."""
        return self.knobs[0].foot

    @property
    def tip(self) -> Array:
        """Of the handle used most."""
        return self.knobs[0].tip

    def knob(self, name: str) -> Knob | None:
        """Return the handle of a grip, if it is on the screen."""
        return next((k for k in self.knobs if k.name == name), None)

    def under(self, x: float, y: float) -> str | None:
        """Return the name of the grip that a press at this place would take hold of, ``turn``, or None."""
        at = np.array([x, y])
        near = sorted(self.knobs, key=lambda k: float(np.hypot(*(at - k.tip))))
        for knob in near:
            if knob.distance(at) <= HIT:
                return knob.name
        paths = {"turn": self.ring, "tilt": self.arch}
        far = {name: distance_to_path(at, path) for name, path in paths.items() if path is not None}
        nearest = min(far, key=lambda name: far[name], default=None)
        return nearest if nearest is not None and far[nearest] <= HIT else None

    def is_beside(self, x: float, y: float) -> bool:
        """Return whether a press there meant a handle, and perhaps missed it."""
        at = np.array([x, y])
        rings = (distance_to_path(at, path) for path in (self.ring, self.arch) if path is not None)
        return min(*rings, np.inf, *(knob.distance(at) for knob in self.knobs)) <= BESIDE

    def pull(self, name: str, start: tuple[float, float], now: tuple[float, float]) -> Array:
        """Return (3,) metres by which a drag between two places on the screen pulls a grip."""
        knob = self.knob(name) or self.knobs[0]
        if knob.grip.along is None:
            return self._level(knob.anchor, start, now)
        direction = knob.grip.along
        sine = np.linalg.norm(np.cross(direction, self.viewport.ray(*start)[1]))
        if sine < 0.17:
            # Face on, the direction runs along the line of sight: upwards is away from the eye.
            away = 1.0 if direction @ self.viewport.towards(knob.anchor) < 0 else -1.0
            return direction * away * (start[1] - now[1]) * self.viewport.metres_per_pixel(knob.anchor)
        return np.asarray(direction * (self._along(knob, now) - self._along(knob, start)))

    def _level(self, anchor: Array, start: tuple[float, float], now: tuple[float, float]) -> Array:
        """Over the ground where one looks down on it, else in the plane of the picture."""
        back = self.viewport.towards(anchor)
        normal = np.array([0.0, 0.0, 1.0]) if abs(back[2]) > 0.2 else back
        places = []
        for at in (start, now):
            origin, ray = self.viewport.ray(*at)
            slope = float(ray @ normal)
            if abs(slope) < 0.05:
                return np.zeros(3)
            places.append(origin + ray * float((anchor - origin) @ normal) / slope)
        return np.asarray(places[1] - places[0])

    def _along(self, knob: Knob, at: tuple[float, float]) -> float:
        """Where the line through the anchor comes nearest to the ray through a place on the screen."""
        origin, ray = self.viewport.ray(*at)
        assert knob.grip.along is not None
        cross = np.cross(knob.grip.along, ray)
        return float(np.cross(origin - knob.anchor, ray) @ cross / (cross @ cross))

    def swing(self, start: tuple[float, float], now: tuple[float, float]) -> float:
        """Degrees about the vertical for a drag along the ring."""
        first, second = self._bearing(start), self._bearing(now)
        if first is None or second is None:
            return (now[0] - start[0]) * 0.5
        return (second - first + 180.0) % 360.0 - 180.0

    def tilt(self, start: tuple[float, float], now: tuple[float, float]) -> float:
        """Degrees about the level axis of the cut for a drag along the arch."""
        first, second = self._elevation(start), self._elevation(now)
        if first is None or second is None:
            return (now[1] - start[1]) * 0.5
        return (second - first + 180.0) % 360.0 - 180.0

    def _elevation(self, at: tuple[float, float]) -> float | None:
        """How high a place on the screen lies on the circle of the arch, degrees; None where that is seen edge on."""
        origin, ray = self.viewport.ray(*at)
        axis = self.cut.axis.level_axis
        slope = float(ray @ axis)
        if abs(slope) < 0.12:
            return None
        arm = origin + ray * float((self.centre - origin) @ axis) / slope - self.centre
        return math.degrees(math.atan2(float(arm @ np.cross(axis, UP)), float(arm @ UP)))

    def _bearing(self, at: tuple[float, float]) -> float | None:
        origin, ray = self.viewport.ray(*at)
        if abs(ray[2]) < 0.12:
            return None
        reach = (self.centre[2] - origin[2]) / ray[2]
        arm = origin + reach * ray - self.centre
        return math.degrees(math.atan2(arm[1], arm[0]))


def _arch(cut: AnyCut, centre: Array, viewport: Viewport) -> Array | None:
    """Half a ring that stands on the ground across the level axis of a cut; None where it is not before the eye."""
    ahead = np.cross(cut.axis.level_axis, UP)
    turn = np.linspace(0, math.pi, 37)
    step = viewport.metres_per_pixel(centre)
    points = centre + ARCH * step * (np.cos(turn)[:, None] * ahead + np.sin(turn)[:, None] * UP)
    path = viewport.pixels(points)
    return path if np.isfinite(path).all() else None


def _knob(grip: Grip, viewport: Viewport, stem: float) -> Knob | None:
    anchor = grip.at
    foot = viewport.pixels(anchor)
    if grip.frame is not None and not viewport.holds(foot, 90.0):
        nearer = _within_reach(grip.frame, viewport)
        if nearer is not None:
            anchor, foot = nearer, viewport.pixels(nearer)
    if not np.isfinite(foot).all():
        return None
    if grip.along is None:
        return Knob(grip, anchor, foot, foot)
    ahead = viewport.pixels(anchor + grip.along * viewport.metres_per_pixel(anchor) * stem)
    arm = ahead - foot
    length = float(np.hypot(*arm)) if np.isfinite(arm).all() else 0.0
    # Seen end on, the stem still gets enough length to be read and held.
    arm = arm / length * max(length, 20.0) if length > 4.0 else np.array([0.0, -20.0])
    return Knob(grip, anchor, foot, foot + arm)


def _within_reach(frame: Array, viewport: Viewport) -> Array | None:
    """Where the middle of the screen meets the plane of a rectangle (4, 3), or the place in it nearest to that."""
    a, b, d = frame[0], frame[1], frame[3]
    u, v = b - a, d - a
    normal = np.cross(u, v)
    origin, direction = viewport.ray(viewport.width / 2, viewport.height / 2)
    slope = float(direction @ normal)
    if abs(slope) < 1e-6 * float(np.linalg.norm(normal)):
        return None
    reach = float((a - origin) @ normal) / slope
    met = origin + reach * direction
    if not viewport.before(met):
        return None
    arm = met - a
    s = np.clip([arm @ u / max(u @ u, 1e-12), arm @ v / max(v @ v, 1e-12)], 0.0, 1.0)
    return np.asarray(a + s[0] * u + s[1] * v)


def _clear_of(knob: Knob, others: list[Knob]) -> Knob:
    """Put aside, on the screen only, so that it does not lie on another handle."""
    shift = np.zeros(2)
    for _ in range(4):
        near = [o for o in others if np.hypot(*(knob.tip + shift - o.tip)) < APART]
        if not near:
            break
        shift = shift + np.array([APART + 4.0, 0.0])
    if not shift.any():
        return knob
    return Knob(knob.grip, knob.anchor, knob.foot + shift, knob.tip + shift)


def preview_handles(plane: Plane, point: Vector, viewport: Viewport) -> Knob | None:
    """Return the diamond of a plane that is not placed yet, at a point on it."""
    return _knob(Grip("move", np.array(point), -plane.n), viewport, STEM)


def distance_to_path(at: Array, path: Array) -> float:
    """Pixels from a place to the nearest point of a polyline (n, 2)."""
    a, b = path[:-1], path[1:]
    line = b - a
    squared = np.maximum((line**2).sum(axis=1), 1e-9)
    t = np.clip(((at - a) * line).sum(axis=1) / squared, 0, 1)
    return float(np.hypot(*(a + t[:, None] * line - at).T).min())
