"""Frames of films drawn on the stage's context."""

from __future__ import annotations

from anatome.app.base.pictures import Pixels, Steps
from anatome.filming.frames import FrameDrawer, FramePlan
from anatome.render.pictures import PictureMaker

Planned = tuple[FrameDrawer, FramePlan]
"""A frame as it is planned, and who draws it."""


def in_frame(planned: Planned) -> Steps[Pixels]:
    """Return the steps of a frame."""
    drawer, plan = planned
    return lambda on: drawer.steps(PictureMaker(on), plan)
