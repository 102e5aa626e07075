"""How pictures and patterns lie on surfaces: by each face, by a box, or along the part; turned, sized and shifted there.

surface.frag does the same for every pixel; here it is for places one asks about.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building

Array = NDArray[np.float64]
By = Literal["face", "box", "part"]
LEVEL = 0.25
"""A surface that rises less than that is laid along its own level edges."""
SQUARE = 0.94
"""Cosine from which a face counts as one of a box: others of a box's are laid by themselves."""
END_ON = 0.3
"""Sine under which a part's own direction is seen end on in a face, which then is laid by itself."""


@dataclass(frozen=True)
class Laying:
    """``by`` what surfaces are laid: each face level across and up its slope; a box, whose joints go on round upright corners;
    the own direction of the part, along its grain. ``turn`` in degrees, ``scale`` and ``shift`` (metres) come after that."""

    by: By = "face"
    turn: float = 0.0
    scale: float = 1.0
    shift: tuple[float, float] = (0.0, 0.0)


AS_FACES_LIE = Laying()


def part_axis(building: Building, element: int) -> Array:
    """Return (3,) the unit direction in which a part is longest: the first principal axis of its corners (linear algebra)."""
    start, end = building.triangle_start[element : element + 2]
    points = building.vertices[np.unique(building.triangles[start:end])].astype(float)
    if len(points) < 2:
        return np.array([1.0, 0.0, 0.0])
    return np.asarray(np.linalg.svd(points - points.mean(axis=0), full_matrices=False)[2][0])


def frame_on(laying: Laying, normal: Array, turn: float, axis: Array) -> tuple[Array, Array, Array]:
    """Return (3,) what goes across a face with a (3,) unit normal, (3,) what goes up it, and (3,) what is added to across where
    it goes round corners. ``turn`` are radians of the level edges of the part, ``axis`` (3,) its own direction."""
    c, s = math.cos(turn), math.sin(turn)
    level = np.array([[c, s, 0.0], [-s, c, 0.0]])
    more = np.zeros(3)
    across = np.cross([0.0, 0.0, 1.0], normal)
    upward = np.zeros(3)
    own = axis - normal * float(axis @ normal)
    faces = np.abs(np.array([level[0] @ normal, level[1] @ normal, normal[2]]))
    if laying.by == "part" and np.linalg.norm(own) >= END_ON:
        across = own / np.linalg.norm(own)
        upward = np.cross(normal, across)
    elif laying.by == "box" and faces.max() >= SQUARE:
        side = int(np.argmax(faces))
        if side == 2:
            across, upward = level[0], level[1]
        else:
            across, more, upward = level[1 - side], level[side], np.array([0.0, 0.0, 1.0])
    elif np.linalg.norm(across) < LEVEL:
        across = level[0]
        upward = np.cross(normal, across)
    else:
        across = across / np.linalg.norm(across)
        upward = np.cross(normal, across)
    return across, upward, more


def laid_at(laying: Laying, place: Array, normal: Array, turn: float, axis: Array) -> Array:
    """Return (2,) metres on the pattern or picture of a (3,) place, told from the middle of the building."""
    across, upward, more = frame_on(laying, normal, turn, axis)
    flat = np.array([float(place @ (across + more)), float(place @ upward)])
    c, s = math.cos(math.radians(laying.turn)), math.sin(math.radians(laying.turn))
    return np.array([c * flat[0] + s * flat[1], c * flat[1] - s * flat[0]]) / laying.scale - laying.shift


def with_place(laying: Laying, place: Array, wanted: Array, normal: Array, turn: float, axis: Array) -> Laying:
    """Return a laying shifted so that a place lies where it is ``wanted``; undoes :func:`laid_at`."""
    x, y = (laid_at(replace(laying, shift=(0.0, 0.0)), place, normal, turn, axis) - wanted).tolist()
    return replace(laying, shift=(x, y))
