"""The numbers a picture is composed with: lens, distance and angle of view, height of the eye, verticals, scale.

Each is changed so that the picture keeps what one composed it for: what lies in the plane of the target, a cut most often,
keeps its size and its place.
"""

from __future__ import annotations

import math

import numpy as np

from anatome.cuts.plane import Plane
from anatome.view.camera import Array, Camera, square_on
from anatome.view.projections import projection_of

FILM = 36.0
"""Millimetres; the width of the film that lenses are named for (36 × 24 mm)."""
FIELDS = (2.0, 120.0)
"""Least and largest angle of view in degrees that can be chosen."""
STEEPEST = 60.0
"""Degrees a camera may look up or down and still be straightened."""
WITHIN, STEP_FROM_WALL = 60.0, 0.3
"""Angle of view in degrees from within a room, and metres from the wall behind."""
GENTLE = 30.0
"""Degrees; the angle of view of a perspective section (common practice: gentle, from well back)."""


def lens_of(field: float, aspect: float) -> float:
    """Focal length in mm for an angle of view from lower to upper edge: 18 / (aspect · tan(field / 2)), film 36 mm wide."""
    return FILM / 2 / (aspect * math.tan(math.radians(field) / 2))


def field_of(lens: float, aspect: float) -> float:
    """Degrees from lower to upper edge for a focal length in mm; undoes :func:`lens_of`."""
    return 2 * math.degrees(math.atan(FILM / 2 / (aspect * max(lens, 1e-3))))


def with_field(camera: Camera, degrees: float) -> Camera:
    """Another angle of view, kept to FIELDS, from so much further off that what lies at the target keeps its size."""
    return camera.with_field(min(max(degrees, FIELDS[0]), FIELDS[1]))


def opened_by(camera: Camera, factor: float) -> Camera:
    """Taking in so many times as much, from where it is: in perspective another angle of view, kept to FIELDS."""
    if camera.is_perspective:
        now = math.tan(math.radians(camera.field) / 2)
        least, most = (math.tan(math.radians(field) / 2) / now for field in FIELDS)
        factor = min(max(factor, least), most)
    return camera.widened(factor)


def with_distance(camera: Camera, metres: float) -> Camera:
    """Another distance from the target, with the angle of view under which what lies there keeps its size."""
    return with_field(camera, 2 * math.degrees(math.atan(camera.height / 2 / max(metres, 1e-3))))


def with_height(camera: Camera, metres: float) -> Camera:
    """Nearer or further off, so that the picture is so many metres high at the target."""
    target = np.array(camera.target)
    return camera.placed(target + (np.array(camera.eye) - target) * metres / camera.height, target, camera.up)


def is_level(camera: Camera) -> bool:
    """Return whether it looks neither up nor down, so that upright lines are parallel in the picture."""
    return abs(float(camera.axes[2][2])) < 1e-6


def with_eye_height(camera: Camera, height: float) -> Camera:
    """Return the eye of a perspective at another height in metres; a level camera shifts its lens, and what lies at the target
    stays."""
    rise = height - camera.eye[2]
    up = np.array([0.0, 0.0, rise])
    moved = camera.placed(np.array(camera.eye) + up, np.array(camera.target) + up)
    if not is_level(camera):
        return moved
    return moved.model_copy(update={"shift": (camera.shift[0], camera.shift[1] - rise / camera.height)})


def straightened(camera: Camera) -> Camera | None:
    """Return a perspective that looks up or down, looking level with its lens shifted instead (two-point perspective).

    What was in the middle stays in the middle and keeps its size. None where it looks too steeply for that.
    """
    eye, target = np.array(camera.eye), np.array(camera.target)
    flat = (target - eye) * [1.0, 1.0, 0.0]
    away = float(np.linalg.norm(flat))
    steep = abs(math.degrees(math.asin(max(-1.0, min(1.0, float(camera.axes[2][2]))))))
    if not camera.is_perspective or steep > STEEPEST or away < 1e-6:
        return None
    field = 2 * math.degrees(math.atan(camera.height / 2 / away))
    if not FIELDS[0] <= field <= FIELDS[1]:
        return None
    level = camera.model_copy(update={"field": field}).placed(eye, eye + flat, (0.0, 0.0, 1.0))
    rise = float(target[2] - eye[2]) / level.height
    return level.model_copy(update={"shift": (camera.shift[0], camera.shift[1] + rise)})


def perspective_section(plane: Plane, face: Array, aspect: float, camera: Camera) -> Camera:
    """Square on to a cut, well back, level, one-point, with the (2, 3) bounds of its face framed with a margin."""
    gentle = camera.model_copy(update={"projection": "perspective", "field": GENTLE})
    return square_on(plane, face, aspect, gentle)


def standing(camera: Camera, room: Array, eye: float) -> Camera:
    """In a room of (2, 3) bounds, the eye so many metres over its floor, looking level the way the camera looks now.

    It stands back against the wall behind it, where there is most to see, and sees 60° upwards and downwards together.
    """
    low, high = room
    ahead = -camera.axes[2] * [1.0, 1.0, 0.0]
    if np.linalg.norm(ahead) < 1e-6:
        ahead = camera.axes[1] * [1.0, 1.0, 0.0]
    ahead = ahead / np.linalg.norm(ahead)
    middle = np.append((low[:2] + high[:2]) / 2, low[2] + eye)
    half = (high - low)[:2] / 2
    # As far back as the room goes, less a step from the wall.
    with np.errstate(divide="ignore"):
        back = max(float(np.min(half / np.abs(ahead[:2]))) - STEP_FROM_WALL, 0.0)
    place = middle - ahead * back
    plain = {"projection": "perspective", "field": WITHIN, "shear": (0.0, 0.0), "shift": (0.0, 0.0)}
    return camera.model_copy(update=plain).placed(place, place + ahead * max(2 * back, 1.0), (0.0, 0.0, 1.0))


def drawn_as(camera: Camera, in_section: bool = False) -> str:
    """Return how a camera draws, in the trade's words; flat views are plans and elevations, or, ``in_section``, sections."""
    back = camera.axes[2]
    axial = sorted(abs(float(c)) for c in back)
    if camera.is_perspective:
        if abs(back[2]) > 1e-6:
            return "perspective"
        return "one-point perspective" if axial[1] < 1e-6 else "two-point perspective"
    found = projection_of(camera)
    if found is not None:
        return found.name
    if camera.is_oblique or (axial[2] < 1 - 1e-6 and axial[0] > 1e-6):
        return "parallel projection"
    if in_section:
        return "flat section"
    return ("plan" if back[2] > 0 else "plan from below") if abs(back[2]) > 1 - 1e-6 else "elevation"
