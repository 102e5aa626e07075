"""Where the handles of a section plane lie on the screen, and what is under the pointer. Geometry only, in pixels."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.view.camera import Camera

Array = NDArray[np.float64]

STEM = 46.0
DIAMOND = 8.0
HIT = 13.0
RING = 74.0


@dataclass(frozen=True)
class Viewport:
    """A camera looking at a picture of ``width`` × ``height`` pixels, y downwards."""

    camera: Camera
    width: float
    height: float

    @property
    def aspect(self) -> float:
        return self.width / max(self.height, 1.0)

    def pixels(self, points: Array) -> Array:
        """(..., 2) places on the screen of (..., 3) points; NaN for those behind the eye."""
        flat, _ = self.camera.project(points, self.aspect)
        return np.stack([(flat[..., 0] + 1) / 2 * self.width, (1 - flat[..., 1]) / 2 * self.height], axis=-1)

    def ray(self, x: float, y: float) -> tuple[Array, Array]:
        """The ray through a place on the screen."""
        return self.camera.ray(2 * x / self.width - 1, 1 - 2 * y / self.height, self.aspect)

    def metres_per_pixel(self, point: Array) -> float:
        """At the depth of a point."""
        scale = self.camera.height / self.height
        if self.camera.projection == "parallel":
            return scale
        depth = float((np.array(self.camera.eye) - point) @ self.camera.axes[2])
        return scale * max(depth, 1e-3) / self.camera.distance


def plane_frame(plane: Plane, bounds: Array, margin: float = 0.04) -> Array:
    """(4, 3) corners of the rectangle on the plane that spans the (2, 3) bounds and a little more."""
    u, v = plane.axes
    corners = np.array([[bounds[i][0], bounds[j][1], bounds[k][2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
    low = np.array([(corners @ u).min(), (corners @ v).min()])
    high = np.array([(corners @ u).max(), (corners @ v).max()])
    grow = margin * float((high - low).max())
    low, high = low - grow, high + grow
    return plane.raised(np.array([[low[0], low[1]], [high[0], low[1]], [high[0], high[1]], [low[0], high[1]]]))


@dataclass(frozen=True)
class PlaneHandles:
    """The handles of one section plane: a diamond on a stem that points where the cut looks, and a ring to turn it."""

    plane: Plane
    viewport: Viewport
    anchor: Array
    foot: Array
    tip: Array
    ring: Array | None

    @classmethod
    def place(cls, plane: Plane, bounds: Array, viewport: Viewport) -> PlaneHandles | None:
        """None when no part of the plane is before the eye."""
        frame = plane_frame(plane, bounds)
        anchor = frame.mean(axis=0)
        foot = viewport.pixels(anchor)
        edge = 90.0
        inside = (
            np.isfinite(foot).all() and edge <= foot[0] <= viewport.width - edge and edge <= foot[1] <= viewport.height - edge
        )
        if not inside:
            # Keep the handle within reach: where the middle of the screen meets the plane, if that is on the frame.
            origin, direction = viewport.ray(viewport.width / 2, viewport.height / 2)
            slope = float(direction @ plane.n)
            if abs(slope) > 1e-6:
                reach = -float(plane.distance(origin)) / slope
                candidate = origin + reach * direction
                flat, box = plane.flat(candidate), plane.flat(frame)
                if reach > 0 or viewport.camera.projection == "parallel":
                    anchor = plane.raised(np.clip(flat, box.min(axis=0), box.max(axis=0)))
                    foot = viewport.pixels(anchor)
        if not np.isfinite(foot).all():
            return None
        looks = -plane.n
        step = viewport.metres_per_pixel(anchor)
        ahead = viewport.pixels(anchor + looks * step * STEM)
        arm = ahead - foot
        length = float(np.hypot(*arm)) if np.isfinite(arm).all() else 0.0
        # Seen end on, the stem still gets enough length to be read and held.
        arm = arm / length * max(length, 20.0) if length > 4.0 else np.array([0.0, -20.0])
        ring = None
        if not plane.is_level:
            turn = np.linspace(0, 2 * math.pi, 73)
            circle = anchor + RING * step * np.column_stack([np.cos(turn), np.sin(turn), np.zeros_like(turn)])
            ring = viewport.pixels(circle)
            if not np.isfinite(ring).all():
                ring = None
        return cls(plane, viewport, anchor, foot, foot + arm, ring)

    def under(self, x: float, y: float) -> str | None:
        """``move``, ``turn`` or None: what a press at this place would take hold of."""
        at = np.array([x, y])
        if np.hypot(*(at - self.tip)) <= HIT or np.hypot(*(at - self.foot)) <= HIT:
            return "move"
        if distance_to_path(at, np.stack([self.foot, self.tip])) <= 6.0:
            return "move"
        if self.ring is not None and distance_to_path(at, self.ring) <= 9.0:
            return "turn"
        return None

    def travel(self, start: tuple[float, float], now: tuple[float, float]) -> float:
        """Metres along the plane's normal for a drag between two places on the screen."""
        direction = self.plane.n
        sine = np.linalg.norm(np.cross(direction, self.viewport.ray(*start)[1]))
        if sine < 0.17:
            # Face on, the normal runs into the screen: upwards is away from the eye.
            away = 1.0 if direction @ self.viewport.camera.axes[2] < 0 else -1.0
            return away * (start[1] - now[1]) * self.viewport.metres_per_pixel(self.anchor)
        return self._along(now) - self._along(start)

    def _along(self, at: tuple[float, float]) -> float:
        """Where the normal through the anchor comes nearest to the ray through a place on the screen."""
        origin, ray = self.viewport.ray(*at)
        normal = self.plane.n
        cross = np.cross(normal, ray)
        return float(np.cross(origin - self.anchor, ray) @ cross / (cross @ cross))

    def swing(self, start: tuple[float, float], now: tuple[float, float]) -> float:
        """Degrees about the vertical for a drag along the ring."""
        first, second = self._bearing(start), self._bearing(now)
        if first is None or second is None:
            return (now[0] - start[0]) * 0.5
        return (second - first + 180.0) % 360.0 - 180.0

    def _bearing(self, at: tuple[float, float]) -> float | None:
        origin, ray = self.viewport.ray(*at)
        if abs(ray[2]) < 0.12:
            return None
        reach = (self.anchor[2] - origin[2]) / ray[2]
        arm = origin + reach * ray - self.anchor
        return math.degrees(math.atan2(arm[1], arm[0]))


def distance_to_path(at: Array, path: Array) -> float:
    """Pixels from a place to the nearest point of a polyline (n, 2)."""
    a, b = path[:-1], path[1:]
    line = b - a
    squared = np.maximum((line**2).sum(axis=1), 1e-9)
    t = np.clip(((at - a) * line).sum(axis=1) / squared, 0, 1)
    return float(np.hypot(*(a + t[:, None] * line - at).T).min())
