"""A plane with a direction: what the normal points to is cut away, the other side is kept."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from anatome.problems import Problem
from anatome.values import FARTHEST

Vector = tuple[float, float, float]

COMPASS = ("east", "north-east", "north", "north-west", "west", "south-west", "south", "south-east")


def vector(values: NDArray[np.float64]) -> Vector:
    """Return (3,) as a value has it."""
    return (float(values[0]), float(values[1]), float(values[2]))


@lru_cache(maxsize=4096)
def _axes(normal: Vector) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """See :attr:`Plane.axes`; asked for again and again of the same few normals."""
    n = np.array(normal)
    if abs(n[2]) > 1.0 - 1e-9:
        u = np.array([1.0, 0.0, 0.0])
        u -= n * (u @ n)
        u /= np.linalg.norm(u)
        v = np.cross(n, u)
    else:
        v = np.array([0.0, 0.0, 1.0]) - n * n[2]
        v /= np.linalg.norm(v)
        u = np.cross(v, n)
    u.flags.writeable = v.flags.writeable = False
    return u, v


@dataclass(frozen=True, slots=True)
class Plane:
    """``origin`` is a point on the plane in metres; ``normal`` is made unit length on creation.

    Raises Problem when a number is not finite or the normal has no length.
    """

    origin: Vector
    normal: Vector

    def __post_init__(self) -> None:
        values = np.array([self.origin, self.normal], float)
        length = float(np.linalg.norm(values[1])) if np.isfinite(values).all() else 0.0
        if length == 0.0 or not math.isfinite(length):
            raise Problem("A section plane needs six finite numbers and a normal that is not 0, 0, 0.")
        if np.abs(values[0]).max() > FARTHEST:
            raise Problem("A section plane lies within a hundred thousand kilometres of the model's origin.")
        unit = self.normal if abs(length - 1.0) < 1e-12 else vector(values[1] / length)
        object.__setattr__(self, "origin", vector(values[0]))
        object.__setattr__(self, "normal", (float(unit[0]), float(unit[1]), float(unit[2])))

    @property
    def n(self) -> NDArray[np.float64]:
        """(3,) the unit normal as an array."""
        return np.array(self.normal)

    @property
    def offset(self) -> float:
        """Distance of the plane from the model's origin along its normal, metres: normal · x = offset."""
        return sum(n * x for n, x in zip(self.normal, self.origin))

    @property
    def axes(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Unit vectors u (to the right) and v (up) in the plane, as seen from the side that is cut away.

        u × v is the normal. A level plane cut from above gives u = X and v = Y, so its drawing is a plan.
        """
        return _axes(self.normal)

    @property
    def is_level(self) -> bool:
        """True when the plane is horizontal, so it shows as an area, not a line, in a plan."""
        return abs(self.normal[2]) > 1.0 - 1e-6

    def distance(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return (...,) signed distances in metres of (..., 3) points; positive on the side that is cut away."""
        return np.asarray(points @ self.n - self.offset)

    def flat(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return (..., 2) coordinates in the plane (along u, v from the model's origin) of (..., 3) points."""
        u, v = self.axes
        return np.stack([points @ u, points @ v], axis=-1)

    def raised(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return (..., 3) model coordinates of (..., 2) points in the plane; undoes :meth:`flat` for points on it."""
        u, v = self.axes
        return np.asarray(points[..., :1] * u + points[..., 1:] * v + self.n * self.offset)

    def moved(self, by: float) -> Plane:
        """Return the plane moved ``by`` metres along its normal."""
        return Plane(vector(np.array(self.origin) + by * self.n), self.normal)

    def at_offset(self, offset: float) -> Plane:
        """Return the parallel plane at another :attr:`offset`, metres."""
        return self.moved(offset - self.offset)

    def through(self, point: Vector) -> Plane:
        """Return the parallel plane through a point."""
        return Plane(point, self.normal)

    def turned_round(self) -> Plane:
        """Return the same plane looking the other way."""
        return Plane(self.origin, vector(-self.n))

    def turned(self, degrees: float) -> Plane:
        """Return the plane turned about the vertical through its origin, anticlockwise seen from above."""
        a = math.radians(degrees)
        x, y, z = self.normal
        return Plane(self.origin, (x * math.cos(a) - y * math.sin(a), x * math.sin(a) + y * math.cos(a), z))

    @property
    def heading(self) -> float:
        """Direction in which the cut looks (against the normal), degrees anticlockwise from X, 0 ≤ h < 360."""
        return math.degrees(math.atan2(-self.normal[1], -self.normal[0])) % 360.0

    @property
    def tilt(self) -> float:
        """How far the cut looks down, degrees: 0 upright, 90 straight down, below 0 up."""
        return math.degrees(math.asin(min(max(self.normal[2], -1.0), 1.0)))

    @property
    def level_axis(self) -> NDArray[np.float64]:
        """(3,) the level unit vector in the plane about which it tilts; X for one that is level itself."""
        return self.axes[0]

    @property
    def compass(self) -> str:
        """The quarter in which the cut looks, in words; +Y counts as north."""
        return COMPASS[round(self.heading / 45.0) % 8]

    @property
    def _axis_sign(self) -> float:
        strongest = max(self.normal, key=abs)
        return 1.0 if strongest > 0 else -1.0

    @property
    def position(self) -> float:
        """Where the plane stands along its axis, metres: the height of a level plane, x or y of one that faces them.

        Measured from the model's origin towards the positive side, so turning the plane round does not change it.
        """
        return self._axis_sign * self.offset

    @property
    def positive(self) -> NDArray[np.float64]:
        """(3,) the unit normal to the side on which the :attr:`position` is larger."""
        return self._axis_sign * self.n

    def at_position(self, position: float) -> Plane:
        """Return the parallel plane at another :attr:`position`, metres."""
        return self.at_offset(self._axis_sign * position)

    def part_way(self, to: Plane, share: float) -> Plane | None:
        """Return the plane at a share from 0 to 1 of the way to another: moved along its normal, and turned; None where it would
        have to turn right round."""
        normal = self.n * (1.0 - share) + to.n * share
        if float(self.n @ to.n) < -0.5:
            return None
        normal = normal / np.linalg.norm(normal)
        origin = np.array(self.origin) * (1.0 - share) + np.array(to.origin) * share
        return Plane(vector(origin), vector(normal))

    def beyond(self, bounds: NDArray[np.float64], margin: float) -> Plane:
        """Return the parallel plane that cuts nothing away of (2, 3) bounds, ``margin`` metres before them or where it is."""
        corners = bounds.mean(axis=0) + np.abs(self.n) * np.sign(self.n) * (bounds[1] - bounds[0]) / 2
        return self.at_offset(max(self.offset, float(corners @ self.n) + margin))

    def tilted_about(self, point: NDArray[np.float64], axis: NDArray[np.float64], degrees: float) -> Plane:
        """Return the plane turned about a (3,) unit ``axis`` through the foot of ``point`` on it, anticlockwise seen against the
        axis (Rodrigues' rotation formula)."""
        foot = point - self.n * float(self.distance(point))
        a, n = math.radians(degrees), self.n
        turned = n * math.cos(a) + np.cross(axis, n) * math.sin(a) + axis * float(axis @ n) * (1 - math.cos(a))
        return Plane(vector(foot), vector(turned / np.linalg.norm(turned)))

    def at_tilt(self, point: NDArray[np.float64], degrees: float) -> Plane:
        """Return the plane turned about its level axis through the foot of ``point`` to a :attr:`tilt` of so many degrees."""
        return self.tilted_about(point, self.level_axis, self.tilt - degrees)

    def turned_about(self, point: NDArray[np.float64], degrees: float) -> Plane:
        """Turned about the vertical through the foot of ``point`` on the plane, anticlockwise seen from above."""
        foot = point - self.n * float(self.distance(point))
        return self.through(vector(foot)).turned(degrees)
