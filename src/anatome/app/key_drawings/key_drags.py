"""What a press on a key drawing may take hold of: the drawing itself, a grip of a cut, a part of the camera's mark."""

from __future__ import annotations

import math
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt

from anatome.app.base.drag import Drag, Spot
from anatome.app.document.cut_drag import CutDrag
from anatome.app.document.session import Session
from anatome.app.key_drawings import camera_drag
from anatome.app.key_drawings.camera_mark import CameraMark
from anatome.cuts.kinds.key_mark import DrawingPlane

Array = NDArray[np.float64]
SNAP = 4.0
"""Pixels within which a dragged cut jumps to a stop."""


CAMERA = "camera"
"""The word under which one drag of the camera is one step."""


class Canvas(Protocol):
    """A key drawing, as far as what is dragged on it goes."""

    @property
    def sheet(self) -> DrawingPlane:
        """The plane of the drawing."""

    @property
    def centre(self) -> Array:
        """The place on its sheet that is in the middle, metres."""

    @property
    def metres_per_pixel(self) -> float:
        """Of the drawing as it is shown."""

    def to_sheet(self, at: QPointF) -> Array:
        """Return a place on its sheet, metres."""

    def shift_to(self, centre: Array) -> None:
        """Show another part of the drawing."""

    def camera_mark(self) -> CameraMark:
        """Return the mark of the camera as it is."""


class PanDrawing(Drag):
    """The drawing goes with the pointer."""

    def __init__(self, start: Spot, on: Canvas) -> None:
        super().__init__(start)
        self._on, self._at = on, on.to_sheet(QPointF(*start))

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._on.shift_to(self._on.centre + self._at - self._on.to_sheet(QPointF(*now)))


class KeyCutPull(Drag):
    """A grip of a cut whose mark has its middle ``about``."""

    clicks = False

    def __init__(self, start: Spot, on: Canvas, cut: CutDrag, about: Array) -> None:
        super().__init__(start)
        self._on, self._cut, self._about, self._at = on, cut, about, on.to_sheet(QPointF(*start))

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        there, sheet = self._on.to_sheet(QPointF(*now)), self._on.sheet
        if not self._cut.turns:
            self._cut.pull(sheet.lifted(there - self._at), SNAP * self._on.metres_per_pixel, modifiers)
            return
        first, second = self._at - self._about, there - self._about
        swing = math.degrees(math.atan2(second[1], second[0]) - math.atan2(first[1], first[0]))
        swing = (swing + 180.0) % 360.0 - 180.0
        if self._cut.grip == "tilt":
            self._cut.tilt(sheet.raised(self._about), sheet.towards, swing, modifiers)
        else:
            self._cut.turn(sheet.raised(self._about), swing, modifiers)

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._cut.end()

    def cancel(self) -> bool:
        self._cut.cancel()
        return True


class CameraPull(Drag):
    """A ``kind`` of part of the camera: its eye, its aim, an end of its cone, the plane of its picture."""

    def __init__(self, start: Spot, on: Canvas, session: Session, kind: str) -> None:
        super().__init__(start)
        self._on, self._session, self._kind = on, session, kind
        self._camera, self._mark, self._at = session.stage.camera, on.camera_mark(), on.to_sheet(QPointF(*start))

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        camera, here, sheet = self._camera, np.array(now), self._on.sheet
        there = self._on.to_sheet(QPointF(*now))
        if self._kind == "eye":
            camera = camera_drag.moved(camera, sheet.lifted(there - self._at))
        elif self._kind == "aim":
            camera = camera_drag.turned(camera, sheet, there, bool(modifiers & Qt.KeyboardModifier.ShiftModifier))
        elif self._kind == "cone":
            camera = camera_drag.opened(camera, self._mark, here)
        else:
            camera = camera_drag.with_picture_at(camera, self._mark, here)
        self._session.look_from(camera, "Moved the camera", CAMERA)

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._session.end_step()

    def cancel(self) -> bool:
        self._session.cancel_look(self._camera, CAMERA)
        return True
