"""What mouse and keys do on the stage: looking around, placing a cut, dragging and turning it, picking."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QObject, QPointF, Qt, Signal
from PySide6.QtGui import QCursor, QKeyEvent, QMouseEvent, QWheelEvent

from anatome.app.numbers import NumberField
from anatome.app.session import Session
from anatome.app.stage.handles import PlaneHandles, distance_to_path, plane_frame
from anatome.app.stage.overlay import Overlay, mark_place
from anatome.app.stage.stage import Stage
from anatome.cuts.cutting import CutFace
from anatome.cuts.picking import pick
from anatome.cuts.plane import Plane
from anatome.look.look import subject_bounds
from anatome.model.raycast import Hit
from anatome.scenes import edits
from anatome.scenes.edits import new_id
from anatome.view.camera import Camera

CLICK = 4.0
"""Pixels a press may wander and still be a click."""

PLACING_HINT = "Click a face to cut parallel to it  ·  Shift keeps the direction  ·  Esc stops"


@dataclass
class Grip:
    """A press under way: what it took hold of, and how things were then."""

    kind: str
    start: tuple[float, float]
    camera: Camera
    pivot: NDArray[np.float64]
    plane: Plane | None = None
    handles: PlaneHandles | None = None
    moved: bool = False


class Hands(QObject):
    """An event filter on the stage."""

    placing_changed = Signal(bool)
    menu_wanted = Signal(QPointF)

    def __init__(self, session: Session, stage: Stage, overlay: Overlay) -> None:
        super().__init__(stage)
        self._session, self._stage, self._overlay = session, stage, overlay
        self._grip: Grip | None = None
        self._placing = False
        self._kept_normal: tuple[float, float, float] | None = None
        self._drag_count = 0
        self.number = NumberField("m", 0.05, stage)
        self.number.setFixedWidth(92)
        self.number.setToolTip("Position of the cut. Type a number and press Return")
        self.number.entered.connect(self._number_entered)
        self.number.nudged.connect(partial(self._number_entered, merge="nudge"))
        self.number.left.connect(stage.setFocus)
        self.number.hide()
        self._number_is = "position"
        stage.installEventFilter(self)
        for signal in (session.changed, session.camera_moved, session.picked_changed):
            signal.connect(self.refresh)

    # Placing ---------------------------------------------------------------------------------------------------

    @property
    def placing(self) -> bool:
        return self._placing

    def set_placing(self, on: bool) -> None:
        """Start or stop looking for a face to cut parallel to."""
        on = on and self._session.is_open
        if on == self._placing:
            return
        self._placing = on
        self._kept_normal = None
        self._overlay.preview = None
        self._overlay.hint = PLACING_HINT if on else ""
        self._stage.setCursor(Qt.CursorShape.CrossCursor if on else Qt.CursorShape.ArrowCursor)
        if on:
            self._stage.setFocus()
            at = self._stage.mapFromGlobal(QCursor.pos())
            if self._stage.rect().contains(at):
                self._preview(QPointF(at), False)
        self.refresh()
        self.placing_changed.emit(on)

    def _preview(self, at: QPointF, keep: bool) -> None:
        found = self.under(at)
        if found is None:
            self._overlay.preview = None
        else:
            hit = found[0]
            if not keep or self._kept_normal is None:
                self._kept_normal = hit.normal
            self._overlay.preview = Plane(hit.point, self._kept_normal), np.array(hit.point)
        self._overlay.update()

    def _place(self, at: QPointF, keep: bool) -> None:
        self._preview(at, keep)
        if self._overlay.preview is None:
            self._session.said.emit("There is no face under the pointer. Click on the building.")
            return
        plane = self._overlay.preview[0]
        cut_id = new_id()
        project = edits.add_plane(self._session.project, plane, cut_id)
        self.set_placing(False)
        self._session.apply(project, f"Placed {project.stage.cuts[-1].name}")
        self._session.pick_cut(cut_id)

    # Looking things up -----------------------------------------------------------------------------------------

    def under(self, at: QPointF) -> tuple[Hit, CutFace | None] | None:
        """What the pointer is on."""
        session = self._session
        if session.building is None:
            return None
        origin, direction = self._stage.viewport.ray(at.x(), at.y())
        return pick(session.building, session.faces(), origin, direction, session.shown())

    def _mark_under(self, at: QPointF) -> str | None:
        """The cut whose frame the pointer is on."""
        session = self._session
        assert session.building is not None
        bounds = subject_bounds(session.building, session.shown())
        here = np.array([at.x(), at.y()])
        for cut in session.stage.cuts:
            if not cut.graphic:
                continue
            points = self._stage.viewport.pixels(plane_frame(cut.plane, bounds))
            if not np.isfinite(points).all():
                continue
            disc = np.array(mark_place(points[np.argmin(points.sum(axis=1))], self._stage.width(), self._stage.height()))
            if np.hypot(*(here - disc)) <= 14 or distance_to_path(here, np.concatenate([points, points[:1]])) <= 5:
                return cut.id
        return None

    def refresh(self) -> None:
        """Put handles and number where the picked cut is now."""
        cut = self._session.cut
        handles = None
        building = self._session.building
        if cut is not None and building is not None and not self._placing:
            bounds = subject_bounds(building, self._session.shown())
            handles = PlaneHandles.place(cut.plane, bounds, self._stage.viewport)
        self._overlay.handles = handles
        self._overlay.update()
        if handles is None or cut is None or self._overlay.bare:
            self.number.hide()
            return
        if self._grip is None or self._grip.kind not in ("move", "turn"):
            self._number_is = "position" if not self.number.isVisible() else self._number_is
        turning = self._number_is == "heading"
        self.number.set_unit("°" if turning else "m", 1.0 if turning else 0.05)
        self.number.show_value(cut.plane.heading if turning else cut.plane.position)
        x, y = handles.tip + np.array([16.0, -34.0])
        self.number.move(
            int(min(max(x, 8), self._stage.width() - self.number.width() - 8)),
            int(min(max(y, 8), self._stage.height() - self.number.height() - 8)),
        )
        self.number.show()
        self.number.raise_()

    # Events ----------------------------------------------------------------------------------------------------

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if not self._session.is_open:
            return False
        kind = event.type()
        if kind == QEvent.Type.MouseButtonPress and isinstance(event, QMouseEvent):
            self._press(event)
        elif kind == QEvent.Type.MouseMove and isinstance(event, QMouseEvent):
            self._move(event)
        elif kind == QEvent.Type.MouseButtonRelease and isinstance(event, QMouseEvent):
            self._release(event)
        elif kind == QEvent.Type.MouseButtonDblClick and isinstance(event, QMouseEvent):
            self._double_click(event)
        elif kind == QEvent.Type.Wheel and isinstance(event, QWheelEvent):
            self._wheel(event)
        elif kind == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            return self._key(event)
        elif kind == QEvent.Type.Resize:
            self._overlay.resize(self._stage.size())
            self.refresh()
            return False
        elif kind == QEvent.Type.Leave and self._placing:
            self._overlay.preview = None
            self._overlay.update()
            return False
        else:
            return False
        return True

    def _press(self, event: QMouseEvent) -> None:
        self._stage.setFocus()
        at = event.position()
        start = (at.x(), at.y())
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        handles = self._overlay.handles
        left = event.button() == Qt.MouseButton.LeftButton
        kind = "orbit" if left and not (shift and not self._placing) else "pan"
        grip = Grip(kind, start, self._session.stage.camera, self._pivot(at))
        held = handles.under(*start) if handles is not None and left and not self._placing else None
        if held and handles is not None:
            grip.kind, grip.handles, grip.plane = held, handles, handles.plane
            self._drag_count += 1
            self._overlay.held = held
            self._number_is = "heading" if held == "turn" else "position"
            self._overlay.update()
        self._grip = grip

    def _pivot(self, at: QPointF) -> NDArray[np.float64]:
        found = self.under(at)
        if found is not None:
            return np.array(found[0].point)
        building = self._session.building
        assert building is not None
        return subject_bounds(building, self._session.shown()).mean(axis=0)

    def _move(self, event: QMouseEvent) -> None:
        at = event.position()
        now = (at.x(), at.y())
        grip = self._grip
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if grip is None:
            if self._placing:
                self._preview(at, shift)
            else:
                self._hover(now)
            return
        dx, dy = now[0] - grip.start[0], now[1] - grip.start[1]
        if not grip.moved and np.hypot(dx, dy) < CLICK:
            return
        grip.moved = True
        if grip.kind == "orbit":
            self._session.look_from(grip.camera.orbited(-dx * 0.35, dy * 0.35, grip.pivot))
        elif grip.kind == "pan":
            height = self._stage.height()
            share = self._stage.viewport.metres_per_pixel(grip.pivot) * height / grip.camera.height
            self._session.look_from(grip.camera.panned(dx / height * share, -dy / height * share))
        else:
            self._drag_cut(grip, now, shift)

    def _drag_cut(self, grip: Grip, now: tuple[float, float], shift: bool) -> None:
        cut = self._session.cut
        if cut is None or grip.handles is None or grip.plane is None:
            return
        merge = f"drag {self._drag_count}"
        if grip.kind == "move":
            plane = grip.plane.moved(grip.handles.travel(grip.start, now))
            label = f"Moved {cut.name}"
        else:
            swing = grip.handles.swing(grip.start, now)
            if shift:
                heading = round((grip.plane.heading + swing) / 15.0) * 15.0
                swing = heading - grip.plane.heading
            plane = grip.plane.turned_about(grip.handles.anchor, swing)
            label = f"Turned {cut.name}"
        self._session.apply(edits.change_cut(self._session.project, cut.id, plane=plane), label, merge=merge)

    def _release(self, event: QMouseEvent) -> None:
        grip, self._grip = self._grip, None
        self._overlay.held = None
        self._overlay.update()
        if grip is None:
            return
        if grip.kind in ("move", "turn"):
            self._session.end_step()
            return
        if grip.moved:
            return
        at = event.position()
        if self._placing:
            if event.button() == Qt.MouseButton.LeftButton:
                self._place(at, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
            else:
                self.set_placing(False)
            return
        mark = self._mark_under(at)
        if mark is not None and event.button() == Qt.MouseButton.LeftButton:
            self._session.pick_cut(mark)
            return
        found = self.under(at)
        building = self._session.building
        assert building is not None
        ids = frozenset() if found is None else frozenset({building.elements[found[0].element].id})
        add = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        self._session.pick_elements(self._session.picked_elements ^ ids if add else ids)
        if event.button() == Qt.MouseButton.RightButton:
            self.menu_wanted.emit(event.globalPosition())

    def _double_click(self, event: QMouseEvent) -> None:
        found = self.under(event.position())
        if found is not None and found[1] is not None:
            self._session.pick_cut(found[1].cut.id)

    def _hover(self, now: tuple[float, float]) -> None:
        handles = self._overlay.handles
        held = handles.under(*now) if handles is not None else None
        if held != self._overlay.held:
            self._overlay.held = held
            self._overlay.update()
            shapes = {"move": Qt.CursorShape.SizeAllCursor, "turn": Qt.CursorShape.PointingHandCursor}
            self._stage.setCursor(shapes.get(held or "", Qt.CursorShape.ArrowCursor))

    def _wheel(self, event: QWheelEvent) -> None:
        at = event.position()
        found = self.under(at)
        camera = self._session.stage.camera
        if found is not None:
            towards = np.array(found[0].point)
        else:
            origin, direction = self._stage.viewport.ray(at.x(), at.y())
            towards = origin + direction * camera.distance
        factor = 1.16 ** (event.angleDelta().y() / 120.0)
        self._session.look_from(camera.zoomed(factor, towards))

    def _key(self, event: QKeyEvent) -> bool:
        if event.key() == Qt.Key.Key_Escape:
            return self.step_back()
        if self._session.cut is not None and event.text() and event.text() in "0123456789-.,":
            self.number.setFocus()
            self.number.setText(event.text())
            self.number.setModified(True)
            return True
        return False

    def step_back(self) -> bool:
        """Escape: give up what is under way, else let go of what is picked; False when there is nothing."""
        if self._grip is not None and self._grip.kind in ("move", "turn"):
            self._session.cancel_step(f"drag {self._drag_count}")
            self._grip = None
            self._overlay.held = None
            self.refresh()
            return True
        if self._placing:
            self.set_placing(False)
            return True
        if self._session.picked_cut or self._session.picked_elements:
            self._session.pick_cut(None)
            return True
        return False

    def _number_entered(self, value: float, merge: str | None = None) -> None:
        cut = self._session.cut
        if cut is None:
            return
        if self._number_is == "heading":
            anchor = self._overlay.handles.anchor if self._overlay.handles else np.array(cut.plane.origin)
            plane, label = cut.plane.turned_about(anchor, value - cut.plane.heading), f"Turned {cut.name}"
        else:
            plane, label = cut.plane.at_position(value), f"Moved {cut.name}"
        self._session.apply(edits.change_cut(self._session.project, cut.id, plane=plane), label, merge=merge)
