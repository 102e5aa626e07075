"""What mouse and keys do on the stage: looking around, tasks, dragging and turning a cut, picking."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QObject, QPointF, QSizeF, Qt, Signal
from PySide6.QtGui import QCursor, QKeyEvent, QMouseEvent, QNativeGestureEvent, QWheelEvent

from anatome.app.base import units
from anatome.app.base.drag import Drag, Pressing, Spot, held_down, spot
from anatome.app.base.numbers import NumberField
from anatome.app.document.cut_drag import CutDrag
from anatome.app.document.picked import NOTHING
from anatome.app.document.preferences import drag_shifts, wheel_sign
from anatome.app.document.session import RUN, Session
from anatome.app.stage.crop_frame import CropFrame
from anatome.app.stage.details import DetailDrag
from anatome.app.stage.drags import CropPull, CutPull, Orbit, Pan, Rectangle, Taken
from anatome.app.stage.figures import FigureDrag, figure_under
from anatome.app.stage.handles import BESIDE, CutHandles, distance_to_path
from anatome.app.stage.hover_word import HoverWord
from anatome.app.stage.looking import Walk
from anatome.app.stage.note_drag import NoteDrag, NoteInput, WordsInPlace
from anatome.app.stage.overlay import Overlay, mark_box
from anatome.app.stage.picking import Picking
from anatome.app.stage.pointing import Met, meet, pointer_at
from anatome.app.stage.stage import Stage
from anatome.app.stage.tasks import Found, PickNotes, PickRectangle, Pointer, StageTask
from anatome.cuts.cut import AnyCut
from anatome.cuts.grips import nudged, with_value
from anatome.notes.captions import CAPTION
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.view.camera import is_square

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
STAYS_SQUARE = "A square view stays square: dragging moves it, with Shift it turns"
ACROSS, UPWARD = Qt.CursorShape.SizeHorCursor, Qt.CursorShape.SizeVerCursor
FALLING, RISING = Qt.CursorShape.SizeFDiagCursor, Qt.CursorShape.SizeBDiagCursor
CURSORS = {
    "whole": Qt.CursorShape.SizeAllCursor,
    **{"left": ACROSS, "right": ACROSS, "top": UPWARD, "bottom": UPWARD},
    **{"upper left": FALLING, "lower right": FALLING, "upper right": RISING, "lower left": RISING},
}
"""What the pointer becomes over a part of the crop."""
NUDGES = {Qt.KeyboardModifier.NoModifier: 0.1, Qt.KeyboardModifier.ControlModifier: 0.01, Qt.KeyboardModifier.ShiftModifier: 1.0}
"""Metres an arrow key moves a cut by, with Ctrl and with Shift."""
ARROWS = {Qt.Key.Key_Left: (-1, 0, 0), Qt.Key.Key_Right: (1, 0, 0), Qt.Key.Key_Up: (0, 1, 0), Qt.Key.Key_Down: (0, -1, 0)}
LIFTS = {Qt.Key.Key_Up: (0, 0, 1), Qt.Key.Key_Down: (0, 0, -1)}


class StageInput(QObject):
    """An event filter on the stage."""

    task_changed = Signal(str)
    menu_wanted = Signal(QPointF)
    seen = Signal()
    """What the task under way shows is different."""

    def __init__(self, session: Session, stage: Stage, overlay: Overlay) -> None:
        super().__init__(stage)
        self._session, self._stage, self._overlay = session, stage, overlay
        self._elsewhere: Pointer | None = None
        """Where the pointer is, if it is in another picture of the building."""
        self._task: StageTask | None = None
        # What a press may take hold of, the first that is there.
        of_picked = (self._crop_in_hand, self._handle, self._notes_picked, self._figure, self._detail)
        self._pressing = Pressing((self._other_button, self._of_task, *of_picked, self._rectangle, self._miss, self._view))
        # What a click may pick, the first that is there.
        clicks = (self._click_mark, self._click_note, self._click_crop, self._click_figure, self._click_detail)
        self._clicks = (*clicks, self._click_part)
        self._picking = Picking(session, stage, overlay)
        self._word = HoverWord(overlay, self._picking.words_at)
        self.number = NumberField("m", 0.05, stage)
        self.number.setFixedWidth(92)
        self.number.entered.connect(self._number_entered)
        self.number.nudged.connect(partial(self._number_entered, merge="nudge"))
        self.number.left.connect(stage.setFocus)
        self.number.hide()
        self._number_is = ""
        self._notes = NoteInput(session, stage.noted)
        self.words = self._words_here = WordsInPlace(stage, session, stage.noted, stage.setFocus)
        stage.installEventFilter(self)
        session.opened.connect(lambda: self.begin(None))
        for signal in (session.changed, session.camera_moved, session.picked_changed):
            signal.connect(self.refresh)

    # Tasks -----------------------------------------------------------------------------------------------------

    @property
    def overlay(self) -> Overlay:
        """Where it shows what a task would do."""
        return self._overlay

    def type_words(self, note: str) -> None:
        """Have the words of a note typed where it was written."""
        self._words_here.open_for(note)

    @property
    def task(self) -> StageTask | None:
        """What is being picked, if anything."""
        return self._task

    def begin(self, task: StageTask | None) -> None:
        """Begin a task, or with None stop the one under way."""
        self._word.clear()
        if self._task is not None:
            self._task.stop()
        self._task = task if self._session.is_open else None
        self._show_task()
        self._stage.setCursor(Qt.CursorShape.CrossCursor if self._task else Qt.CursorShape.ArrowCursor)
        if self._task is not None:
            self._stage.setFocus()
            self.see_again()
        self.refresh()
        self.task_changed.emit(self._task.name if self._task else "")

    def see_again(self) -> None:
        """Let the task under way see the pointer where it rests on the stage: it has begun, or knows more."""
        at = self._stage.mapFromGlobal(QCursor.pos())
        if self._elsewhere is None and self._stage.rect().contains(at):
            self.hover_at(QPointF(at), False)

    def _show_task(self) -> None:
        task = self._task
        self._overlay.preview = task.shown() if task else None
        self._overlay.hint, self._overlay.also = (task.hint, task.also) if task else ("", "")
        self._overlay.why = task.why if task else ""
        if self._elsewhere is not None and self._overlay.preview is not None:
            self._overlay.preview, self._overlay.why = replace(self._overlay.preview, notes=()), ""
        self._overlay.update()
        self.seen.emit()

    def _pointer(self, at: QPointF, shift: bool) -> Pointer:
        return pointer_at(self._session, self._stage, spot(at), shift)

    def hover_at(self, at: QPointF, shift: bool) -> None:
        """Let the task under way see the pointer."""
        if self._task is not None:
            self._elsewhere = None
            self._task.see(self._pointer(at, shift))
            self._overlay.pointer = at
            self._show_task()

    def see_elsewhere(self, pointer: Pointer) -> None:
        """Let the task see a pointer in another picture of the building, which draws what is written and says why nothing can be
        done there; all else is seen here too."""
        if self._task is not None:
            self._elsewhere = pointer
            self._task.see(pointer)
            self._show_task()

    def leave(self) -> None:
        """The pointer is in no picture any more."""
        self._elsewhere = None
        if self._task is not None:
            self._overlay.preview, self._overlay.why = None, ""
            self._overlay.update()

    def act(self, pointer: Pointer, words: WordsInPlace | None = None) -> None:
        """A click there, for the task under way; what is to be typed then is typed into ``words``, or on the stage."""
        task, self._words_here = self._task, words or self.words
        assert task is not None
        task.be_in(pointer)
        try:
            done = task.click(pointer)
        except Problem as problem:
            self._session.said.emit(str(problem))
            return
        if done and self._task is task:
            self.begin(None)
        else:
            self._show_task()

    def _act(self, at: QPointF, shift: bool) -> None:
        self.act(self._pointer(at, shift))

    # Looking things up -----------------------------------------------------------------------------------------

    def under(self, at: QPointF) -> Found:
        """Return what the pointer is on, where it is shown."""
        met = self._meet(at)
        return None if met is None else met[:2]

    def _meet(self, at: QPointF) -> Met | None:
        return meet(self._session, self._stage.viewport, spot(at))

    def _mark_under(self, at: QPointF) -> str | None:
        """The cut whose frame or mark the pointer is on."""
        session = self._session
        assert session.building is not None
        bounds = session.subject_bounds()
        here = np.array([at.x(), at.y()])
        for cut in session.stage.cuts:
            if not cut.graphic:
                continue
            outlines = [self._stage.viewport.pixels(frame) for frame in cut.frames(bounds)]
            outlines = [points for points in outlines if np.isfinite(points).all()]
            if not outlines:
                continue
            box = mark_box(np.concatenate(outlines), self._stage.width(), self._stage.height())
            if box.adjusted(-4, -4, 4, 4).contains(at):
                return cut.id
            if any(distance_to_path(here, np.concatenate([points, points[:1]])) <= 5 for points in outlines):
                return cut.id
        return None

    def refresh(self) -> None:
        """Put handles and number where the picked cut is now."""
        cut, building = self._session.cut, self._session.building
        handles = None
        if cut is not None and building is not None and self._task is None:
            bounds = self._session.subject_bounds()
            handles = CutHandles.place(cut, bounds, self._stage.viewport)
        self._overlay.handles = handles
        self._overlay.update()
        if handles is None or cut is None or self._overlay.bare or cut.locked:
            self.number.hide()
            return
        names = {k.name for k in handles.knobs} | ({"turn"} if cut.can_turn else set()) | ({"tilt"} if cut.can_tilt else set())
        if self._number_is not in names or (self._pressing.drag is None and not self.number.isVisible()):
            self._number_is = handles.knobs[0].name
        turning = self._number_is in ("turn", "tilt")
        self.number.set_unit("°" if turning else "m", 1.0 if turning else 0.05)
        self.number.show_value(cut.value(self._number_is) or 0.0)
        self.number.setToolTip(f"{cut.grip_words(self._number_is).capitalize()} of {cut.name}. Type a number and press Return")
        knob = handles.knob(self._number_is) or handles.knobs[0]
        x, y = knob.tip + np.array([16.0, -34.0])
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
        elif kind == QEvent.Type.NativeGesture and isinstance(event, QNativeGestureEvent):
            self._gesture(event)
        elif kind == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            return self.key(event)
        elif kind == QEvent.Type.Resize:
            self._overlay.resize(self._stage.size())
            self.refresh()
            return False
        elif kind == QEvent.Type.Leave:
            self._word.clear()
            self.leave()
            return False
        else:
            return False
        return True

    def _press(self, event: QMouseEvent) -> None:
        self._stage.setFocus()
        self._word.clear()
        self._overlay.held = None
        self._pressing.press(event)

    # What a press may take hold of

    def _other_button(self, event: QMouseEvent) -> Drag | None:
        return self._pan(event) if event.button() != Qt.MouseButton.LeftButton else None

    def _of_task(self, event: QMouseEvent) -> Drag | None:
        return None if self._task is None else self._task.hold(spot(event.position()), self._stage.viewport)

    def _crop_in_hand(self, event: QMouseEvent) -> Drag | None:
        frame = self._crop_frame() if self._task is None and self._session.picked.crop else None
        part = frame.under(event.position()) if frame is not None else None
        if frame is None or part is None:
            return None
        return CropPull(spot(event.position()), self._session, self._stage, frame.crop, part)

    def _handle(self, event: QMouseEvent) -> Drag | None:
        """A handle of the picked cut."""
        handles, start = self._overlay.handles if self._task is None else None, spot(event.position())
        held = handles.under(*start) if handles is not None else None
        if handles is None or not held or handles.cut.locked:
            return None
        self._overlay.held = held
        self._number_is = held if held != "whole" else handles.knobs[0].name
        self.refresh()
        return CutPull(start, self._stage, self._overlay, handles, CutDrag(self._session, handles.cut, held))

    def _notes_picked(self, event: QMouseEvent) -> Drag | None:
        start = spot(event.position())
        if self._task is not None or held_down(event, CONTROL) or not self._notes.on_picked(start):
            return None
        notes = NoteDrag(self._session, self._stage.noted, start)
        return Taken(start, notes, notes.move)

    def _figure(self, event: QMouseEvent) -> Drag | None:
        """The picked figure. Others are picked first, so that none is moved by chance."""
        if self._task is not None or self._session.figure is None:
            return None
        viewport, start = self._stage.viewport, spot(event.position())
        met = figure_under(self._session, viewport, start)
        if met is None or met[0].figure.id != self._session.picked.figure:
            return None
        figure = FigureDrag(self._session, met[0], start, viewport)
        return Taken(start, figure, lambda now: figure.move(now, viewport))

    def _detail(self, event: QMouseEvent) -> Drag | None:
        """The picked detail, as figures are: others are picked first."""
        detail, at = self._session.detail, event.position()
        if self._task is not None or detail is None or self._detail_under(at) != detail.id:
            return None
        viewport, start = self._stage.viewport, spot(at)
        drag = DetailDrag(self._session, detail, start, viewport)
        return Taken(start, drag, lambda now: drag.move(now, viewport))

    def _detail_under(self, at: QPointF) -> str:
        """The id of the detail at a place in pixels, or of whose caption; nothing where there is none."""
        note = self._stage.noted.under(spot(at)) or ""
        if note.startswith(CAPTION):
            return note.removeprefix(CAPTION)
        met = self._meet(at) if self._session.stage.details else None
        return "" if met is None else self._session.on_stage().parts[met[2]].detail

    def _rectangle(self, event: QMouseEvent) -> Drag | None:
        """A rectangle to pick with."""
        task = self._task
        if not (held_down(event, CONTROL) if task is None else isinstance(task, PickRectangle)):
            return None
        notes = held_down(event, SHIFT) or isinstance(task, PickNotes)
        return Rectangle(spot(event.position()), self._picking, notes, self._end_rectangle)

    def _miss(self, event: QMouseEvent) -> Drag | None:
        """Nothing, beside a handle or a note that was meant: else a small miss would throw the view about."""
        at, handles = spot(event.position()), self._overlay.handles
        if self._task is not None or held_down(event, SHIFT):
            return None
        beside = handles is not None and not handles.cut.locked and handles.is_beside(*at)
        return Drag(at) if beside or self._stage.noted.under(at, BESIDE) is not None else None

    def _view(self, event: QMouseEvent) -> Drag:
        """The view turns, with Shift it is shifted; the other way round where it is square, for that it is to stay."""
        session, at, shift = self._session, event.position(), held_down(event, SHIFT)
        if isinstance(self._task, Walk):
            return Orbit(spot(at), session, self._pivot(at), True)
        camera = session.stage.camera
        square = session.stage.true_plane() is not None or is_square(camera, session.lookups.directions())
        if square == (shift != drag_shifts()):
            return Orbit(spot(at), session, self._pivot(at), False)
        return self._pan(event, STAYS_SQUARE if square and not drag_shifts() else "")

    def _pan(self, event: QMouseEvent, said: str = "") -> Drag:
        at = event.position()
        return Pan(spot(at), self._session, self._stage, self._pivot(at), said)

    def _end_rectangle(self) -> None:
        if isinstance(self._task, PickRectangle):
            self.begin(None)

    def _crop_frame(self) -> CropFrame | None:
        """The crop as it lies on the stage, unless there is none or the stage is shown alone."""
        crop = self._session.stage.crop
        return None if crop is None or self._overlay.bare else CropFrame(crop, QSizeF(self._stage.size()))

    def _pivot(self, at: QPointF) -> NDArray[np.float64]:
        found = self.under(at)
        if found is not None:
            return np.array(found[0].point)
        building = self._session.building
        assert building is not None
        return self._session.subject_bounds().mean(axis=0)

    def _move(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._pressing.drag is not None:
            self._pressing.move(event)
        elif self._task is not None:
            self.hover_at(at, held_down(event, SHIFT))
        else:
            self._hover(spot(at))

    def _release(self, event: QMouseEvent) -> None:
        had = self._pressing.drag
        clicked = self._pressing.release(event)
        self._overlay.held, self._overlay.snap = None, ""
        self._overlay.update()
        if had is not None and clicked is None:
            self.refresh()
            self._show_task()
        elif clicked is not None:
            self._click(event, spot(event.position()))

    # What a click may pick

    def _click(self, event: QMouseEvent, at: Spot) -> None:
        left = event.button() == Qt.MouseButton.LeftButton
        if self._task is not None:
            if left:
                self._act(event.position(), held_down(event, SHIFT))
            else:
                self.begin(None)
            return
        found = next(click for click in self._clicks if click(event, at, left))
        if not left and (found != self._click_part or event.button() == Qt.MouseButton.RightButton):
            self.menu_wanted.emit(event.globalPosition())

    def _click_mark(self, event: QMouseEvent, at: Spot, left: bool) -> bool:
        mark = self._mark_under(event.position()) if left else None
        if mark is not None:
            self._session.pick(cut=mark)
        return mark is not None

    def _click_note(self, event: QMouseEvent, at: Spot, left: bool) -> bool:
        note = self._stage.noted.under(at)
        if note is None or note.startswith(CAPTION):
            return False
        self._notes.pick(note, held_down(event, CONTROL), left)
        return True

    def _click_crop(self, event: QMouseEvent, at: Spot, left: bool) -> bool:
        """A click takes the crop in hand; only then does a drag move it, so that a stray one never does."""
        frame = self._crop_frame()
        if left and frame is not None and frame.crop.line and frame.on_line(event.position()):
            self._session.pick(crop=True)
            return True
        if self._session.picked.crop:
            self._session.pick()
        return False

    def _click_figure(self, event: QMouseEvent, at: Spot, left: bool) -> bool:
        figure = figure_under(self._session, self._stage.viewport, at)
        if figure is None or figure[0].figure.id == self._session.picked.figure:
            return False  # a further click goes on to what is behind
        self._session.pick(figure=figure[0].figure.id)
        return True

    def _click_detail(self, event: QMouseEvent, at: Spot, left: bool) -> bool:
        detail = "" if held_down(event, CONTROL) else self._detail_under(event.position())
        if not detail or (left and detail == self._session.picked.detail):
            return False  # a further click goes on to the part in it
        self._session.pick(detail=detail)
        return True

    def _click_part(self, event: QMouseEvent, at: Spot, left: bool) -> bool:
        right = event.button() == Qt.MouseButton.RightButton
        if not (right and self._picked_under(event.position())):  # the menu is for what is picked
            self._picking.click(event.position(), held_down(event, CONTROL))
        return True

    def _picked_under(self, at: QPointF) -> bool:
        """Whether what the pointer is on is picked already, perhaps among others."""
        found, session = self.under(at), self._session
        return (
            found is not None
            and session.building is not None
            and session.building.elements[found[0].element].id in session.picked.elements
        )

    def _double_click(self, event: QMouseEvent) -> None:
        if self._task is not None:
            self._act(event.position(), held_down(event, SHIFT))
            return
        at = event.position()
        note = self._stage.noted.under((at.x(), at.y()))
        if note is not None:
            self.words.open_for(note)
            return
        found = self.under(at)
        if found is not None and found[1] is not None:
            self._session.pick(cut=found[1].cut.id)

    def _hover(self, now: tuple[float, float]) -> None:
        frame = self._crop_frame()
        part = frame.under(QPointF(*now)) if frame is not None and self._session.picked.crop else None
        if part is not None:
            self._stage.setCursor(CURSORS[part])
            return
        handles = self._overlay.handles
        held = handles.under(*now) if handles is not None and not handles.cut.locked else None
        if held is None and self._overlay.held is None:
            note = self._notes.on_picked(now)
            self._word.move(QPointF(*now))
            self._stage.setCursor(Qt.CursorShape.SizeAllCursor if note else Qt.CursorShape.ArrowCursor)
        if held != self._overlay.held:
            self._overlay.held = held
            self._overlay.update()
            shape = Qt.CursorShape.ArrowCursor if held is None else Qt.CursorShape.SizeAllCursor
            self._stage.setCursor(Qt.CursorShape.PointingHandCursor if held in ("turn", "tilt") else shape)

    def _wheel(self, event: QWheelEvent) -> None:
        at = event.position()
        self._word.clear()
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            # Where a platform turns the wheel sideways with Alt, it still says how far.
            turned = event.angleDelta().y() or event.angleDelta().x()
            self._picking.step(at, 1 if turned < 0 else -1)
            return
        found = self.under(at)
        camera = self._session.stage.camera
        if found is not None:
            towards = np.array(found[0].point)
        else:
            origin, direction = self._stage.viewport.ray(at.x(), at.y())
            towards = origin + direction * camera.distance
        factor = 1.16 ** (wheel_sign() * event.angleDelta().y() / 120.0)
        self._session.look_from(camera.zoomed(factor, towards), "Went nearer or farther", RUN)

    def _gesture(self, event: QNativeGestureEvent) -> None:
        """Two fingers: pinched they go nearer, turned they turn the view."""
        at, camera = event.position(), self._session.stage.camera
        if event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
            self._session.look_from(camera.zoomed(1.0 + event.value(), self._pivot(at)), "Went nearer or farther", RUN)
        elif event.gestureType() == Qt.NativeGestureType.RotateNativeGesture:
            self._session.look_from(camera.orbited(event.value(), 0.0, self._pivot(at)), "Turned the view", RUN)

    def key(self, event: QKeyEvent) -> bool:
        """Do what a key is for on the stage; False where it is for nothing."""
        if event.key() == Qt.Key.Key_Escape:
            return self.step_back()
        if self._task is not None:
            return self._task_key(event)
        if self._session.picked.notes and event.key() in ARROWS:
            return self._notes.nudge(ARROWS[Qt.Key(event.key())][:2], event.modifiers())
        cut = self._session.cut
        if cut is None:
            return False
        if event.key() in ARROWS:
            return self._nudge(cut, event)
        if event.text() and event.text() in "0123456789+-.,":
            if cut.locked:
                self._session.said.emit(f"{cut.name} is locked. Unlock it in the inspector to move it.")
                return True
            self.number.setFocus()
            self.number.setText(event.text())
            self.number.setModified(True)
            return True
        return False

    def _task_key(self, event: QKeyEvent) -> bool:
        assert self._task is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._task.finish()
            self.begin(None)
            return True
        if self._task.key(event):
            return True
        if event.key() == Qt.Key.Key_Tab:
            self._task.next_choice()
            if self._elsewhere is not None:
                self.see_elsewhere(self._elsewhere)
            else:
                self.hover_at(QPointF(self._stage.mapFromGlobal(QCursor.pos())), False)
            return True
        return False

    def _nudge(self, cut: AnyCut, event: QKeyEvent) -> bool:
        modifiers = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        lift = bool(modifiers & Qt.KeyboardModifier.AltModifier)
        step = NUDGES.get(modifiers & ~Qt.KeyboardModifier.AltModifier)
        way = LIFTS.get(Qt.Key(event.key())) if lift else ARROWS.get(Qt.Key(event.key()))
        if step is None or way is None:
            return False
        if cut.locked:
            self._session.said.emit(f"{cut.name} is locked. Unlock it in the inspector to move it.")
            return True
        step = units.nudge(step)
        right, forward, up = (w * step for w in way)
        changed = nudged(cut, right, forward, up)
        self._session.apply(
            edits.put_cut(self._session.project, changed), f"Moved {cut.name} by {units.length(step)}", merge="nudge"
        )
        return True

    def step_back(self) -> bool:
        """Escape: give up what is under way, else let go of what is picked; False when there is nothing."""
        if self._pressing.cancel():
            self._overlay.held, self._overlay.snap = None, ""
            self.refresh()
            return True
        if self._task is not None:
            self.begin(None)
            return True
        if self._session.picked != NOTHING:
            self._session.pick()
            return True
        return False

    def _number_entered(self, wanted: float, merge: str | None = None) -> None:
        cut, handles = self._session.cut, self._overlay.handles
        if cut is None or handles is None:
            return
        try:
            changed = with_value(cut, self._number_is, wanted, handles.centre)
        except Problem as problem:
            self._session.said.emit(str(problem))
            return
        label = f"{cut.name}: {cut.grip_words(self._number_is)} set"
        if self._number_is in ("turn", "tilt"):
            said = f"Turned {cut.name} to {changed.heading:.1f}°", f"Tilted {cut.name} to {changed.axis.tilt:.1f}°"
            label = said[self._number_is == "tilt"]
        self._session.apply(edits.put_cut(self._session.project, changed), label, merge=merge)
