"""Where the light comes from: the sun, the sky all round, and lamps.

Light on a surface is told as a share of what falls on level ground in the open, where it is 1.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from anatome.look.look import Look
from anatome.model.building import Building
from anatome.raytracing.scene import Floats, TracedScene
from anatome.view.sun import towards_sun
from anatome.view.viewport import Viewport

WARM_SUN, LOW_SUN = (1.0, 0.97, 0.92), (1.0, 0.80, 0.58)
"""Colours of the sun high up and at the horizon, where it is low under 30° (common practice)."""
BLUE_SKY, GREY_SKY = (0.90, 0.96, 1.04), (1.0, 1.0, 1.0)
LAMP = (1.0, 0.84, 0.64)
LOWEST = 0.25
"""Sine of the height under which a sun that sinks no longer grows brighter to light the ground as much."""
BELOW = 0.22
"""What ground beyond all that is modelled gives back."""
METRES = 2.0
"""Away from a lamp, where it gives as much light as there is in the open if its light is 1."""
ROOM_SHARE, ROOM_HEIGHT = 0.8, 2.6
"""Of a room's width and depth that its light comes from, and how high over the floor at most."""


@dataclass(frozen=True, eq=False)
class Lamps:
    """Triangles ``corners`` (n, 3, 3) that shine with ``radiance`` (n, 3) along their ``normal`` (n, 3); ``both`` (n,) those that
    do so on both sides. Samples fall on them as their ``area`` (n,) and radiance are."""

    corners: Floats
    normal: Floats
    radiance: Floats
    area: Floats
    both: NDArray[np.bool_]
    upto: NDArray[np.float64] = field(init=False)
    chance: Floats = field(init=False)

    def __post_init__(self) -> None:
        share = self.area.astype(float) * self.radiance.mean(axis=1)
        share /= share.sum()
        object.__setattr__(self, "upto", np.cumsum(share))
        object.__setattr__(self, "chance", _f4(share / self.area))


@dataclass(frozen=True, eq=False)
class Lights:
    """``sun`` (3,) is what falls on a surface turned to it, from the unit direction ``towards``, whose edge is ``spread`` off its
    middle a metre away; ``sky`` and ``below`` (3,) what a surface would get from a whole sphere of each half."""

    sun: Floats
    towards: Floats
    spread: float
    sky: Floats
    below: Floats
    lamps: Lamps | None = None
    axes: Floats = field(init=False)

    def __post_init__(self) -> None:
        aside = np.cross(self.towards, (0.0, 0.0, 1.0) if abs(self.towards[2]) < 0.9 else (1.0, 0.0, 0.0))
        aside /= np.linalg.norm(aside)
        object.__setattr__(self, "axes", _f4(np.stack([self.towards, aside, np.cross(self.towards, aside)])))

    def of_sky(self, directions: Floats) -> Floats:
        """Return (n, 3) what comes from where nothing stands."""
        return np.where(directions[:, 2:] >= 0, self.sky, self.below)


def lights_of(look: Look, viewport: Viewport, building: Building, scene: TracedScene) -> Lights:
    """Return the light that a look sets in a view of a building."""
    towards = towards_sun(viewport, look.sun_with_view, look.sun_turn, look.sun_height)
    share = look.still_sun if look.shadows > 0 else 0.0
    low = float(np.clip(1.0 - look.sun_height / 30.0, 0.0, 1.0))
    colour = np.array(WARM_SUN) + low * (np.array(LOW_SUN) - WARM_SUN)
    sun = share / max(float(towards[2]), LOWEST) * colour
    sky = (1.0 - share) * (np.array(GREY_SKY) + share * (np.array(BLUE_SKY) - GREY_SKY))
    below = BELOW * (sky + sun * max(float(towards[2]), 0.0))
    lamps = _lamps(look.lamps, look.lamp_light, building, scene)
    return Lights(_f4(sun), _f4(towards), float(np.tan(np.radians(look.sun_size) / 2)), _f4(sky), _f4(below), lamps)


def _lamps(kind: Literal["off", "lamps", "rooms"], light: float, building: Building, scene: TracedScene) -> Lamps | None:
    if kind == "off" or light <= 0:
        return None
    if kind == "rooms":
        corners = _room_panels(building) - scene.centre
        radiance = np.full(len(corners), light / np.pi)  # so wide that it is as bright from anywhere under it
        both = np.zeros(len(corners), bool)
    else:
        shines = np.flatnonzero(scene.solid.lamp >= 0)
        corners, lamp = scene.solid.corners[shines].astype(float), scene.solid.lamp[shines]
        _, number = np.unique(lamp, return_inverse=True)
        whole = np.bincount(number, _areas(corners)) if len(shines) else np.zeros(0)
        # A quarter of the area of a convex body is seen from anywhere on average (Cauchy).
        radiance = light * METRES**2 / (whole[number] / 4)
        both = ~scene.solid.closed[shines]
    if not len(corners):
        return None
    area = _areas(corners)
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    return Lamps(_f4(corners), _f4(normal), _f4(radiance[:, None] * np.array(LAMP)), _f4(area), both)


def _room_panels(building: Building) -> NDArray[np.float64]:
    """(2 S, 3, 3) a rectangle under the ceiling of each space, as two triangles that look down."""
    found = []
    for space in building.spaces:
        low, high = np.array(space.lower), np.array(space.upper)
        middle, half = (low + high)[:2] / 2, ROOM_SHARE * (high - low)[:2] / 2
        z = low[2] + min(0.92 * (high[2] - low[2]), ROOM_HEIGHT)
        a, c = np.append(middle - half, z), np.append(middle + half, z)
        b, d = np.array([c[0], a[1], z]), np.array([a[0], c[1], z])
        found += [[a, d, c], [a, c, b]]
    return np.array(found, float).reshape(-1, 3, 3)


def _areas(corners: NDArray[np.floating]) -> NDArray[np.float64]:
    return np.asarray(np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2)


def _f4(values: NDArray[np.floating]) -> Floats:
    return np.asarray(values, np.float32)
