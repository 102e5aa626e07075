"""The way from one camera to another: round what is looked at, and from a perspective to a parallel or oblique projection
without a jump.

A camera is described by how it sees a pivot: where that lies in the picture, how many metres the picture is high there, and how
near the eye is. Nearness is 1 over the distance in metres from the eye to the plane of the pivot, and 0 in a parallel projection,
whose eye is infinitely far: so all projections lie on one scale, and what lies in the plane of the pivot keeps its size while the
eye recedes.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from anatome.view.camera import Array, Camera, vec
from anatome.view.walking import Met

LEAST_FIELD = 0.05
"""Degrees of the angle of view below which a perspective counts as parallel: what lies half as far from the plane of the pivot as
the picture is high is drawn 0.02 % off."""
STEPS = 24
"""Stretches of the eye's way that are asked for what stands there."""
ROOM = 0.25
"""Metres the eye keeps from what it passes."""


@dataclass(frozen=True, eq=False)
class _Pose:
    """How a camera sees a pivot: rows of ``axes`` to the right, up and back; ``place`` of the pivot in half heights of the
    picture; metres ``high`` in its plane; ``near`` in 1 / m."""

    axes: Array
    place: Array
    high: float
    near: float
    shear: Array
    shift: Array
    field: float

    @classmethod
    def of(cls, camera: Camera, pivot: Array) -> _Pose | None:
        """Return how a camera sees a pivot; None where that lies behind the eye."""
        axes = np.stack(camera.axes)
        arm = pivot - np.array(camera.target)
        before = float(arm @ axes[2])
        shear, shift = np.array(camera.shear), np.array(camera.shift)
        seen = axes[:2] @ arm + shear * before
        depth = camera.distance - before
        if camera.is_perspective and depth < 1e-3 * camera.distance:
            return None
        high = camera.height * depth / camera.distance if camera.is_perspective else camera.height
        near = 1.0 / depth if camera.is_perspective else 0.0
        return cls(axes, 2.0 * seen / high - 2.0 * shift, high, near, shear, shift, camera.field)

    def camera(self, pivot: Array) -> Camera:
        """Return the camera that sees a pivot so."""
        right, up, back = self.axes
        across, upward = (self.place + 2.0 * self.shift) * self.high / 2.0
        target = pivot - right * across - up * upward
        field = math.degrees(2.0 * math.atan(self.high * self.near / 2.0))
        parallel = field < LEAST_FIELD
        if parallel:
            field = self.field
        distance = self.high / 2.0 / math.tan(math.radians(field) / 2.0) if parallel else 1.0 / self.near
        return Camera(
            eye=vec(target + back * distance),
            target=vec(target),
            up=vec(up),
            projection="parallel" if parallel else "perspective",
            field=field,
            shear=(float(self.shear[0]), float(self.shear[1])),
            shift=(float(self.shift[0]), float(self.shift[1])),
        )


@dataclass(frozen=True, eq=False)
class CameraPath:
    """From ``start`` to ``end``. ``straight``: the eye goes straight on, as within a room; else it goes round the (3,) ``pivot``,
    metres."""

    start: Camera
    end: Camera
    pivot: Array
    straight: bool = False

    @cached_property
    def _poses(self) -> tuple[_Pose, _Pose] | None:
        first, last = (_Pose.of(camera, self.pivot) for camera in (self.start, self.end))
        return None if first is None or last is None else (first, last)

    @cached_property
    def is_possible(self) -> bool:
        """Whether there is such a way: straight on between two perspectives, round only with the pivot before both eyes."""
        if self.straight:
            return self.start.is_perspective and self.end.is_perspective
        return self._poses is not None

    @cached_property
    def _turning(self) -> _Turning:
        return _Turning(np.stack(self.start.axes), np.stack(self.end.axes))

    def at(self, share: float) -> Camera:
        """Return the camera at a share of the way, from 0 to 1. At its ends the picture is that of the cameras themselves."""
        if share <= 0.0 or share >= 1.0:
            return self.end if share >= 1.0 else self.start
        return self._straight_at(share) if self.straight else self._round_at(share)

    def _straight_at(self, t: float) -> Camera:
        a, b = self.start, self.end
        axes = self._turning.at(t)
        eye = _between(np.array(a.eye), np.array(b.eye), t)
        distance = a.distance ** (1 - t) * b.distance**t
        return Camera(
            eye=vec(eye),
            target=vec(eye - axes[2] * distance),
            up=vec(axes[1]),
            field=_number(a.field, b.field, t),
            shear=_pair(a.shear, b.shear, t),
            shift=_pair(a.shift, b.shift, t),
        )

    def _round_at(self, t: float) -> Camera:
        assert self._poses is not None
        a, b = self._poses
        # Between two perspectives distances grow evenly; where one is parallel, what lies nearer and farther changes evenly.
        both = a.near > 0.0 and b.near > 0.0
        near = a.near ** (1 - t) * b.near**t if both else _number(a.near, b.near, t)
        return _Pose(
            self._turning.at(t),
            _between(a.place, b.place, t),
            a.high ** (1 - t) * b.high**t,
            near,
            _between(a.shear, b.shear, t),
            _between(a.shift, b.shift, t),
            _number(a.field, b.field, t),
        ).camera(self.pivot)

    def eyes(self, steps: int = STEPS) -> list[Array]:
        """Return the (3,) places of the eye along the way, metres, where it is in perspective."""
        cameras = (self.at(i / steps) for i in range(steps + 1))
        return [np.array(camera.eye) for camera in cameras if camera.is_perspective]

    def is_free(self, *buildings: Met) -> bool:
        """Return whether the eye passes through nothing of some buildings on its way, and keeps a little room from it."""
        eyes = self.eyes()
        for here, there in zip(eyes[:-1], eyes[1:]):
            arm = there - here
            length = float(np.linalg.norm(arm))
            if length < 1e-6:
                continue
            for met in buildings:
                away = met(here, arm / length)
                if away is not None and away < length + ROOM:
                    return False
        return True


class _Turning:
    """From the axes of one picture to those of another: level ones stay level, and turn the shorter way."""

    def __init__(self, first: Array, last: Array) -> None:
        self._first, self._last = first, last
        self._level = abs(first[0][2]) < 1e-6 and abs(last[0][2]) < 1e-6
        if self._level:
            (turn, self._rise), (goal, self._end) = _angles(first), _angles(last)
            self._turn = turn
            self._by = (goal - turn + 180.0) % 360.0 - 180.0
        else:
            from scipy.spatial.transform import Rotation, Slerp  # slow to load

            self._slerp = Slerp([0.0, 1.0], Rotation.from_matrix(np.stack([first.T, last.T])))

    def at(self, t: float) -> Array:
        """Return (3, 3) the axes at a share of the way."""
        if not self._level:
            return np.asarray(self._slerp(t).as_matrix().T)
        turn = math.radians(self._turn + t * self._by)
        rise = math.radians(_number(self._rise, self._end, t))
        right = np.array([math.cos(turn), math.sin(turn), 0.0])
        away = np.array([math.sin(turn), -math.cos(turn), 0.0])
        back = away * math.cos(rise) + np.array([0.0, 0.0, math.sin(rise)])
        return np.stack([right, np.cross(back, right), back])


def _angles(axes: Array) -> tuple[float, float]:
    """Degrees by which a level picture is turned about the vertical, and from how high above the horizon it looks."""
    right, _, back = axes
    away = np.array([right[1], -right[0]])
    return math.degrees(math.atan2(right[1], right[0])), math.degrees(math.atan2(back[2], float(back[:2] @ away)))


def _between(a: Array, b: Array, t: float) -> Array:
    return np.asarray(a + (b - a) * t)


def _number(a: float, b: float, t: float) -> float:
    return a + (b - a) * t


def _pair(a: tuple[float, float], b: tuple[float, float], t: float) -> tuple[float, float]:
    return a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t


def path_between(start: Camera, end: Camera, pivot: Array, *buildings: Met) -> CameraPath | None:
    """Return the way of a camera round a (3,) ``pivot``, or straight on, on which its eye passes through nothing of some
    buildings.

    None where there is none: then one picture takes the place of the other without a way between them.
    """
    ways = (CameraPath(start, end, pivot), CameraPath(start, end, pivot, straight=True))
    return next((way for way in ways if way.is_possible and way.is_free(*buildings)), None)
