"""What dragging a part of the camera's mark does to the camera. Geometry only."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from anatome.app.key_drawings.camera_mark import CameraMark
from anatome.cuts.kinds.key_mark import DrawingPlane
from anatome.view.camera import Camera
from anatome.view.framing import opened_by

Array = NDArray[np.float64]
STEP = 15.0
"""Degrees by which the camera turns with Shift."""


def moved(camera: Camera, by: Array) -> Camera:
    """Eye and target by (3,) metres."""
    return camera.placed(np.array(camera.eye) + by, np.array(camera.target) + by)


def turned(camera: Camera, sheet: DrawingPlane, now: Array, steps: bool) -> Camera:
    """About its eye, so that it looks to a place (2,) of the drawing."""
    eye = np.array(camera.eye)
    arm, wanted = sheet.flat(np.array(camera.target) - eye), now - sheet.flat(eye)
    swing = math.degrees(math.atan2(wanted[1], wanted[0]) - math.atan2(arm[1], arm[0]))
    if steps:
        swing = round(swing / STEP) * STEP
    if sheet.is_plan:
        return camera.orbited(swing, 0.0, eye)
    # Turned to look left in an elevation, tilting up is clockwise there.
    return camera.orbited(0.0, -swing if arm[0] >= 0 else swing, eye)


def opened(camera: Camera, mark: CameraMark, now: Array) -> Camera:
    """With an end of its cone, or its bracket, dragged to a place in pixels."""
    factor = mark.opened_to(now)
    return camera if factor is None else opened_by(camera, factor)


def with_picture_at(camera: Camera, mark: CameraMark, now: Array) -> Camera:
    """With the plane of its picture at a place in pixels: there things keep their size when the angle is changed."""
    share = mark.along(now)
    if share is None:
        return camera
    eye = np.array(camera.eye)
    return camera.placed(eye, eye + share * (np.array(camera.target) - eye), camera.up)
