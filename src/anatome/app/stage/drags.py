"""What a press on the stage may take hold of."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QSizeF, Qt

from anatome.app.base.drag import Drag, Spot
from anatome.app.document.cut_drag import CutDrag
from anatome.app.document.preferences import turning
from anatome.app.document.session import Session
from anatome.app.stage.crop_frame import CropFrame
from anatome.app.stage.handles import CutHandles
from anatome.app.stage.overlay import Overlay
from anatome.app.stage.picking import Picking
from anatome.app.stage.stage import Stage
from anatome.scenes import edits
from anatome.view.crop import Crop
from anatome.view.walking import turned

SNAP = 9.0
"""Pixels within which a dragged cut jumps to a stop."""


VIEW = "view"
"""The word under which one drag of the view is one step."""


class _ViewDrag(Drag):
    """The view, as it was when it was taken hold of."""

    def __init__(self, start: Spot, session: Session) -> None:
        super().__init__(start)
        self._session, self._camera = session, session.stage.camera

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._session.end_step()

    def cancel(self) -> bool:
        self._session.cancel_look(self._camera, VIEW)
        return True


class Orbit(_ViewDrag):
    """The view turns about a ``pivot``, or about the eye where one walks."""

    def __init__(self, start: Spot, session: Session, pivot: NDArray[np.float64], walks: bool) -> None:
        super().__init__(start, session)
        self._pivot, self._walks = pivot, walks
        self._by = turning()

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        dx, dy = (pixels * self._by for pixels in self.away(now))
        camera = self._camera
        found = turned(camera, dx * 0.2, -dy * 0.2) if self._walks else camera.orbited(-dx * 0.35, dy * 0.35, self._pivot)
        self._session.look_from(found, "Turned the view", VIEW)


class Pan(_ViewDrag):
    """The view is shifted; what is at the ``pivot`` stays under the pointer. What is to be ``said`` is said once it moves."""

    def __init__(self, start: Spot, session: Session, stage: Stage, pivot: NDArray[np.float64], said: str = "") -> None:
        super().__init__(start, session)
        self._step, self._said = stage.viewport.with_camera(self._camera).metres_per_pixel(pivot), said

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        dx, dy = self.away(now)
        self._session.look_from(self._camera.panned(dx * self._step, -dy * self._step), "Moved the view", VIEW)
        if self._said:
            self._session.said.emit(self._said)
            self._said = ""


class CropPull(Drag):
    """A ``part`` of the crop, or all of it."""

    clicks = False

    def __init__(self, start: Spot, session: Session, stage: Stage, crop: Crop, part: str) -> None:
        super().__init__(start)
        self._session, self._stage, self._crop, self._part = session, stage, crop, part

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        crop = CropFrame(self._crop, QSizeF(self._stage.size())).pulled(self._part, *self.away(now))
        self._session.apply(edits.set_crop(self._session.project, crop), "Changed the crop", merge="crop")

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._session.end_step()
        self._session.pick(crop=True)

    def cancel(self) -> bool:
        self._session.cancel_step("crop")
        return True


class CutPull(Drag):
    """A handle of a cut."""

    clicks = False

    def __init__(self, start: Spot, stage: Stage, overlay: Overlay, handles: CutHandles, drag: CutDrag) -> None:
        super().__init__(start)
        self._stage, self._overlay, self._handles, self._drag = stage, overlay, handles, drag

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        handles, drag = self._handles, self._drag
        if drag.grip == "turn":
            drag.turn(handles.centre, handles.swing(self.start, now), modifiers)
        elif drag.grip == "tilt":
            drag.tilt(handles.centre, drag.cut.axis.level_axis, handles.tilt(self.start, now), modifiers)
        else:
            knob = handles.knob(drag.grip) or handles.knobs[0]
            within = SNAP * self._stage.viewport.metres_per_pixel(knob.anchor)
            drag.pull(handles.pull(drag.grip, self.start, now), within, modifiers)
        self._overlay.snap = drag.stop

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._drag.end()

    def cancel(self) -> bool:
        self._drag.cancel()
        return True


class Along(Protocol):
    """What goes along with the pointer."""

    def end(self) -> None:
        """It stands there now."""

    def cancel(self) -> None:
        """Back to where it was."""


class Taken(Drag):
    """What is picked, taken along: ``move`` is told where the pointer is."""

    def __init__(self, start: Spot, what: Along, move: Callable[[Spot], None]) -> None:
        super().__init__(start)
        self._what, self._move = what, move

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._move(now)

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._what.end()

    def cancel(self) -> bool:
        self._what.cancel()
        return True


class Rectangle(Drag):
    """A rectangle that picks parts, or ``notes``; ``over`` is called when it has."""

    def __init__(self, start: Spot, picking: Picking, notes: bool, over: Callable[[], None]) -> None:
        super().__init__(start)
        self._picking, self._notes, self._over = picking, notes, over

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._picking.draw(self.start, now, self._notes)

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        take = self._picking.take_notes if self._notes else self._picking.take
        take(self.start, now, bool(modifiers & Qt.KeyboardModifier.AltModifier))
        self._over()

    def cancel(self) -> bool:
        self._picking.stop()
        return True
