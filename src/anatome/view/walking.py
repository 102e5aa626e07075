"""Walking through a building at eye height: over floors and stairs, through doors, never through walls or floors."""

from __future__ import annotations

from collections.abc import Callable, Collection

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import CutBuilding
from anatome.model.raycast import first_hit
from anatome.view.camera import Camera
from anatome.view.framing import WITHIN

Array = NDArray[np.float64]
Met = Callable[[Array, Array], float | None]
"""How far it is from a point (3,) along a unit direction (3,) to what stands in the way, metres; None where nothing does."""

EYE = 1.6
"""Metres of the eye over a floor (common practice)."""
KNEE = 0.65
"""Metres over the floor at which something in the way is walked into; what is lower is stepped over."""
ARM = 0.3
"""Metres kept from a wall."""
STEP_UP, STEP_DOWN = 0.6, 0.9
"""Metres a floor may be higher or lower after a step; a stair is walked, a balustrade's other side is not."""
JUST_OVER = 1e-3
"""Metres, so that a step as high as may be is seen from over it and not from within its face."""
OPENED = ("IfcDoor", "IfcOpeningElement", "IfcSpace", "IfcFurniture", "IfcFurnishingElement")
"""What does not stand in the way: doors open, and one goes round furniture."""


def in_the_way(left: CutBuilding, opened: Collection[str] = OPENED) -> Met:
    """Return what a walker meets in a building as its cuts leave it; what is of ``opened`` types lets him through."""
    building = left.building
    solid = left.shown & np.array([e.type not in opened for e in building.elements], bool)

    def met(origin: Array, direction: Array) -> float | None:
        hit = first_hit(building, origin, direction, solid, left.removed)
        return None if hit is None else hit.distance

    return met


def floor_under(met: Met, place: Array) -> float | None:
    """Return the height of the floor under a place, metres; None where there is none."""
    down = met(place, np.array([0.0, 0.0, -1.0]))
    return None if down is None else float(place[2] - down)


def ahead_of(camera: Camera) -> Array:
    """Return (3,) the level unit direction one looks in; up on the picture where one looks straight down."""
    back, up = camera.axes[2], camera.axes[1]
    level = np.array([-back[0], -back[1], 0.0])
    if np.linalg.norm(level) < 1e-6:
        level = np.array([up[0], up[1], 0.0])
    return np.asarray(level / np.linalg.norm(level))


def set_down(camera: Camera, met: Met, place: Array) -> Camera | None:
    """Standing at a place on or over a floor, looking level the way one looks now; None where there is no floor."""
    floor = floor_under(met, place + [0.0, 0.0, 0.05])
    if floor is None:
        return None
    eye, ahead = np.array([place[0], place[1], floor + EYE]), ahead_of(camera)
    plain = {"projection": "perspective", "field": WITHIN, "shear": (0.0, 0.0), "shift": (0.0, 0.0)}
    return camera.model_copy(update=plain).placed(eye, eye + ahead * 4.0, (0.0, 0.0, 1.0))


def walked(camera: Camera, met: Met, metres: float, sideways: float = 0.0) -> tuple[Camera, str]:
    """Return a step ahead, or aside, and what stopped it, if anything did: "a wall", "no floor", or "".

    Up to ``ARM`` before what stands in the way; the eye keeps its height over the floor, on stairs too.
    """
    eye, ahead = np.array(camera.eye), ahead_of(camera)
    across = np.array([ahead[1], -ahead[0], 0.0])
    way = ahead * metres + across * sideways
    length = float(np.linalg.norm(way))
    if length == 0.0:
        return camera, ""
    way = way / length
    floor = floor_under(met, eye)
    feet = eye[2] - EYE if floor is None else floor
    stopped = ""
    for height in (eye[2], feet + KNEE):
        free = met(np.array([eye[0], eye[1], height]), way)
        if free is not None and free - ARM < length:
            length, stopped = max(free - ARM, 0.0), "a wall"
    if length <= 1e-9:
        return camera, stopped
    there = eye + way * length
    below = floor_under(met, there + [0.0, 0.0, feet + STEP_UP + JUST_OVER - there[2]])
    if floor is not None and (below is None or below < feet - STEP_DOWN):
        return camera, "no floor"
    rise = 0.0 if below is None else below + EYE - eye[2]
    shift = way * length + [0.0, 0.0, rise]
    return camera.placed(eye + shift, np.array(camera.target) + shift), stopped


def turned(camera: Camera, degrees: float, upward: float = 0.0) -> Camera:
    """Looking further to the left by so many degrees, and up; the eye stays."""
    return camera.orbited(degrees, -upward, np.array(camera.eye))
