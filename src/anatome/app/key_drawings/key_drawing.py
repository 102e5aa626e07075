"""A key drawing: a small live plan or elevation that shows and edits every cut and the camera."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from anatome.app.base import theme, units
from anatome.app.base.drag import Drag, Pressing, held_down, spot
from anatome.app.base.images import image_of
from anatome.app.base.pictures import PictureJob
from anatome.app.base.trouble import TROUBLE, never_dies
from anatome.app.base.work import Progress, Work
from anatome.app.document.cut_drag import CutDrag
from anatome.app.document.recutting import prepare
from anatome.app.document.session import Session
from anatome.app.key_drawings.camera_mark import CameraMark
from anatome.app.key_drawings.key_drags import CameraPull, KeyCutPull, PanDrawing
from anatome.app.key_drawings.mark_painting import paint_mark
from anatome.app.key_drawings.other_scenes import OtherScenes
from anatome.app.key_drawings.task_painting import paint_task
from anatome.app.key_drawings.tasks import PlanTask
from anatome.app.stage.handles import distance_to_path
from anatome.app.stage.stage import Stage
from anatome.cuts.cut import AnyCut, SectionPlane
from anatome.cuts.dissection import CutBuilding, Cutter
from anatome.cuts.kinds.key_mark import DrawingPlane, KeyKnob, KeyMark
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plan_points import PlanPoints
from anatome.cuts.plane import Plane
from anatome.look.look import Look
from anatome.model.bounds import corners_of
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes.scene_view import View
from anatome.site.site import Figure
from anatome.site.standing import seen_figures
from anatome.view.camera import Camera, vec

ACCENT = QColor(theme.LIGHT.accent)
INK = QColor(theme.LIGHT.ink)
PAPER = QColor(theme.LIGHT.paper)
SAMPLES = 5
REST = 220
"""Milliseconds after the last change until the building under the cuts is drawn anew."""
HIT = 12.0
POINTED_AT = ("turn", "tilt", "aim", "cone", "pick")
"""What a hand points at, where it is under the pointer."""
DRAWN_TO, NEAR = 8.0, 0.25
"""Pixels within which what is drawn goes to a corner, an axis or a face, and metres: in a small drawing pixels are many."""


class KeyDrawing(QWidget):
    """Coordinates are metres on its sheet; its own paper stays light in the dark theme, as the stage's does."""

    task_ended = Signal()
    scaled = Signal()
    """It is shown at another scale."""
    fills = 0.82, 0.76
    """Shares of its width and height that all of it takes."""

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(110)
        self._session, self._stage = session, stage
        self._centre = np.zeros(2)
        self._fitted: tuple[tuple[float, ...], NDArray[np.float64]] | None = None
        """Where its middle was and how large it was when it was last shown whole, and what box it showed then."""
        self._scale = 10.0  # pixels per metre
        self._image: QImage | None = None
        self._image_of: tuple[Building | None, object] = (None, None)
        self._image_place = (np.zeros(2), 10.0)
        self._drawn: object = None
        self._making: object = None
        self._job: PictureJob | None = None
        self._work = Work(self, lambda: session.building)
        self._cut_open: CutBuilding | None = None
        self._pressing = Pressing((self._other_button, self._held))
        self.others = OtherScenes(session, self)
        self._task: PlanTask | None = None
        self._redraw = QTimer(self, singleShot=True, interval=REST)
        self._redraw.timeout.connect(self._draw_background)
        session.opened.connect(self._opened)
        session.rebuilt.connect(self._rebuilt)
        session.closed.connect(self._let_go)
        session.changed.connect(self._changed)
        session.camera_moved.connect(self.update)
        session.shown_for_now.connect(self.update)
        session.picked_changed.connect(self.update)
        stage.ready.connect(lambda: self._redraw.start(REST))

    def sizeHint(self) -> QSize:
        return QSize(280, 220)

    # What a drawing is of ----------------------------------------------------------------------------------------

    @property
    def sheet(self) -> DrawingPlane:
        """The plane of the drawing."""
        raise NotImplementedError

    def background_cut(self) -> Plane | None:
        """Return the plane through which the building under the cuts is drawn, if it is cut open for that."""
        return None

    def _choice(self) -> object:
        """What tells this drawing from others of the same kind."""
        raise NotImplementedError

    # The drawing under the cuts --------------------------------------------------------------------------------

    @property
    def drawn(self) -> bool:
        """True when the drawing under the cuts is the one that belongs there."""
        made = self._image is not None and self._making is None
        return (made and not self._redraw.isActive()) or not self.isVisible()

    def _bounds(self) -> NDArray[np.float64]:
        building = self._session.building
        assert building is not None
        return self._session.subject_bounds()

    def _whole(self) -> NDArray[np.float64]:
        """Return (2, 3) bounds in metres of what is shown when all is."""
        return self._bounds()

    def _opened(self) -> None:
        self.begin(None)
        self.fit()

    @property
    def _is_whole(self) -> bool:
        """Whether all is shown, and nobody chose what to see."""
        return self._fitted is not None and self._fitted[0] == (*self._centre, self._scale)

    def _rebuilt(self) -> None:
        """Another building: one of another size is shown whole, unless somebody chose what to see of it."""
        if self._is_whole and self._fitted is not None and not np.allclose(self._bounds(), self._fitted[1]):
            self.fit()
        else:
            self.draw_anew()

    def _let_go(self) -> None:
        """Of what belongs to the building that was open."""
        self._cut_open = self._image = None
        self._image_of = (None, None)

    def fit(self) -> None:
        """Show the whole building."""
        if self._session.building is None:
            return
        sheet = self.sheet
        corners = sheet.flat(corners_of(self._whole()))
        low, high = corners.min(axis=0), corners.max(axis=0)
        self._centre = (low + high) / 2
        extent = np.maximum(high - low, 0.01)
        room = max(self.width(), 1), max(self.height(), 1)
        self._scale = float(min(self.fills[0] * room[0] / extent[0], self.fills[1] * room[1] / extent[1]))
        self._fitted = (*self._centre, self._scale), self._bounds()
        self.scaled.emit()
        self.update()
        if self._image is not None and self._image_of == self._what_is_drawn():
            # Opened anew, and nothing of it is different: what was under way for something else is not wanted.
            self._redraw.stop()
            self._give_up()
            self._making = None
            self._drawn = self._background_key()
            return
        self._image = None
        self._drawn = None
        self._redraw.start(0)

    def draw_anew(self) -> None:
        """The drawing is of something else now."""
        self._redraw.start(0)

    def _changed(self) -> None:
        if self._drawn is not None and self._drawn != self._background_key():
            self._redraw.start(REST)
        self.update()

    def _what_is_drawn(self) -> tuple[Building | None, object]:
        return self._session.building, self._background_key()

    def _background_key(self) -> object:
        stage = self._session.stage
        figures = self._session.project.site.figures
        return (stage.hidden, figures, self._choice(), tuple(self._centre), self._scale, self.size())

    def _draw_background(self) -> None:
        """Have the drawing under the cuts made: cut open on a thread, drawn by the stage when it has time."""
        session, building = self._session, self._session.building
        if building is None or not self.isVisible():
            return
        self._give_up()
        self._drawn = self._background_key()
        self._making = self._drawn
        shown = session.shown() & ~building.context
        if not shown.any():
            shown = session.shown()
        plane = self.background_cut()
        key = ("key drawing", plane, shown.tobytes())
        known = session.lookups.memory.known(key)
        if known is not None:
            self._draw_cut_open(known)
            return
        cuts = [] if plane is None else [SectionPlane(id="key drawing", name="", mark="", plane=plane)]
        memory = session.lookups.memory

        def work(progress: Progress) -> CutBuilding:
            def cut() -> CutBuilding:
                found = Cutter(building).dissect(cuts, shown)
                prepare(found)
                return found

            return memory.remember(key, cut)

        self._work.run(work, self._draw_cut_open, self._not_made)

    def _give_up(self) -> None:
        """Of what is being made."""
        self._work.cancel()
        if self._job is not None:
            self._job.cancel()
            self._job = None

    def camera(self) -> Camera:
        """Return the camera that draws it: square on, in parallel."""
        height, field, sheet = self.height() / self._scale, 30.0, self.sheet
        aim = sheet.raised(self._centre)
        eye = aim + sheet.towards * (height / 2 / math.tan(math.radians(field) / 2))
        return Camera(eye=vec(eye), target=vec(aim), up=vec(sheet.up), projection="parallel", field=field)

    def full(self) -> tuple[int, int]:
        """Return its size in pixels of the screen."""
        dpr = self.devicePixelRatioF()
        return max(int(self.width() * dpr), 1), max(int(self.height() * dpr), 1)

    def _draw_cut_open(self, cut_open: CutBuilding) -> None:
        self._cut_open = cut_open
        weight = 0.37 if self.sheet.is_plan else 0.24
        look = Look(surfaces="white", ground=False, shade=False, edge_weight=weight, cut_weight=0.42, part_weight=0.2)
        shown = ShownBuilding(cut_open)
        figures = seen_figures(self._figures(), self._session.stage.hidden, shown)
        self._have_drawn(View(self.camera(), shown, look, figures=figures))

    def _have_drawn(self, view: View) -> None:
        """Have what lies under the cuts drawn by the stage, when it has time."""
        place, made = self.place, self._what_is_drawn()

        def done(pixels: NDArray[np.uint8]) -> None:
            self._making = self._job = None
            self._image_of = made
            self.show_image(pixels, place)

        self._job = self._stage.pictures.picture(view, self.full(), "paper", done, self._not_made, SAMPLES)
        if self._job is None:
            self._drawn = self._making = None

    @property
    def place(self) -> tuple[NDArray[np.float64], float]:
        """What of its sheet is in the middle, metres, and at how many pixels a metre."""
        return self._centre.copy(), self._scale

    def show_image(self, pixels: NDArray[np.uint8], place: tuple[NDArray[np.float64], float]) -> None:
        """Have a picture under the cuts, that was drawn for a place."""
        self._image, self._image_place = image_of(pixels), place
        self.update()

    def _figures(self) -> tuple[Figure, ...]:
        """The people and trees; those on the ground or on neighbours, which are not drawn here, by themselves."""
        building = self._session.building
        assert building is not None
        round_it = {e.id for e, beside in zip(building.elements, building.context) if beside}
        figures = self._session.project.site.figures
        return tuple(f.model_copy(update={"on": None}) if f.on in round_it else f for f in figures)

    def _not_made(self, error: Exception) -> None:
        self._making = self._job = None
        TROUBLE.report(error)

    # Coordinates -----------------------------------------------------------------------------------------------

    def to_pixels(self, flat: NDArray[np.float64]) -> NDArray[np.float64]:
        """Return (..., 2) widget pixels of (..., 2) metres on the sheet."""
        arm = (np.asarray(flat, float) - self._centre) * self._scale
        return np.stack([self.width() / 2 + arm[..., 0], self.height() / 2 - arm[..., 1]], axis=-1)

    def to_sheet(self, at: QPointF) -> NDArray[np.float64]:
        """Return (2,) metres on the sheet of a place in the widget."""
        return self._centre + np.array([at.x() - self.width() / 2, self.height() / 2 - at.y()]) / self._scale

    def mark_of(self, cut: AnyCut) -> KeyMark:
        """Return how a cut shows here."""
        return cut.key_mark(self.sheet, self._bounds(), 16.0 / self._scale, units)

    def knob_place(self, knob: KeyKnob) -> NDArray[np.float64]:
        """Pixels of a handle's own tip."""
        at = self.to_pixels(knob.at)
        return at if knob.points_to is None else at + knob.out * knob.points_to * [1, -1]

    def camera_places(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Pixels of eye and aim; an eye outside the drawing is shown at its edge."""
        camera = self._session.stage.camera
        eye, aim = self.to_pixels(self.sheet.flat(np.array([camera.eye, camera.target])))
        box = np.array([[12.0, 12.0], [self.width() - 12.0, self.height() - 12.0]])
        aim = np.clip(aim, box[0], box[1])
        arm = eye - aim
        with np.errstate(divide="ignore", invalid="ignore"):
            room = np.where(arm > 0, (box[1] - aim) / arm, np.where(arm < 0, (box[0] - aim) / arm, np.inf))
        return aim + arm * min(1.0, float(np.min(room))), aim

    # Painting --------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), PAPER)
        with never_dies():
            if self._session.building is not None and self._session.is_open:
                self._paint_all(painter)
        painter.end()

    def _paint_all(self, painter: QPainter) -> None:
        self._paint_background(painter)
        self.others.paint(painter)
        self.camera_mark().paint(painter, INK, PAPER)
        cuts = self._session.stage.cuts
        for cut in sorted(cuts, key=lambda c: c.id == self._session.picked.cut):
            paint_mark(painter, cut, self.mark_of(cut), cut.id == self._session.picked.cut, self)
        self._paint_notes(painter)
        if self._task is not None:
            paint_task(painter, self._task, self.to_pixels, self.rect())

    def _paint_background(self, painter: QPainter) -> None:
        if self._image is None:
            return
        centre, scale = self._image_place
        grow = self._scale / scale
        middle = self.to_pixels(centre)
        w, h = self.width() * grow, self.height() * grow
        painter.drawImage(QRectF(middle[0] - w / 2, middle[1] - h / 2, w, h), self._image)

    def notes(self) -> list[tuple[AnyCut, str, QRectF]]:
        """Return the cuts that have no line here, each with what is said of it and where."""
        marks = [(c, note) for c in self._session.stage.cuts if (note := self.mark_of(c).note)]
        return [(cut, note, QRectF(8, self.height() - 26 - 22 * i, 168, 20)) for i, (cut, note) in enumerate(marks)]

    def _paint_notes(self, painter: QPainter) -> None:
        painter.setFont(theme.font(8.5, strong=True))
        for cut, text, box in self.notes():
            picked = cut.id == self._session.picked.cut
            painter.setPen(QPen(ACCENT, 1.0, Qt.PenStyle.SolidLine if cut.on else Qt.PenStyle.DashLine))
            painter.setBrush(ACCENT if picked else PAPER)
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(PAPER if picked else ACCENT)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def camera_mark(self) -> CameraMark:
        """Return the camera as it is drawn here."""
        viewport = self._stage.viewport
        eye, aim = self.camera_places()
        target = np.array(viewport.camera.target)
        places = self.to_pixels(self.sheet.flat(np.array([viewport.camera.eye, target])))
        corners = self.to_pixels(self.sheet.flat(viewport.corners_at(target)))
        arm = (aim - eye) / max(float(np.hypot(*(aim - eye))), 1e-9)
        half = float(np.abs((corners - corners.mean(axis=0)) @ np.array([-arm[1], arm[0]])).max())
        true = float(np.hypot(*(places[1] - places[0])))
        return CameraMark(eye, aim, true, half, viewport.camera.is_perspective, 0.84 * self.width())

    # Tasks -----------------------------------------------------------------------------------------------------

    @property
    def task(self) -> PlanTask | None:
        """What is being drawn, if anything."""
        return self._task

    def begin(self, task: PlanTask | None) -> None:
        """Begin drawing something, or with None stop."""
        ended = self._task is not None and task is None
        self._task = task
        self.setCursor(Qt.CursorShape.CrossCursor if task else Qt.CursorShape.ArrowCursor)
        if task is not None:
            self.setFocus()
        self.update()
        if ended:
            self.task_ended.emit()

    def plan_points(self) -> PlanPoints | None:
        """Return what of the drawing may be snapped to, as soon as it is drawn."""
        shown = self._cut_open
        here = self.sheet.is_plan and shown is not None and shown.building is self._session.building
        return self._session.lookups.plan_points(shown) if here and shown is not None else None

    def _meant(self, task: PlanTask, event: QMouseEvent) -> NDArray[np.float64]:
        """The place a task is progress: a corner, an axis or a face near the pointer, unless Ctrl is held."""
        at = self.to_sheet(event.position())
        points = self.plan_points() if task.snaps else None
        task.snapped = ""
        if points is None or event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            return at
        found = points.nearest(at, min(DRAWN_TO / self._scale, NEAR))
        if found is None:
            return at
        task.snapped = found[1]
        return found[0]

    def _act(self, how: str, event: QMouseEvent) -> None:
        task = self._task
        assert task is not None
        shift = held_down(event, Qt.KeyboardModifier.ShiftModifier)
        self._take(lambda: getattr(task, how)(self._meant(task, event), shift))

    def _take(self, step: Callable[[], bool]) -> None:
        """Take a step of what is being drawn, and end it when it is done."""
        try:
            if step():
                self.begin(None)
        except Problem as problem:
            self._session.said.emit(str(problem))
        self.update()

    # Mouse and keys -----------------------------------------------------------------------------------------------------

    def _under(self, at: QPointF) -> tuple[str, str | None]:
        """What a press would hold: a grip's name or a kind, and the cut's id.

        The camera's aim often lies on a cut, so its dots come before the lines, and the handles of cuts before both.
        """
        for cut, _, box in self.notes():
            if box.contains(at):
                return "pick", cut.id
        here = np.array([at.x(), at.y()])
        picked = self._session.picked.cut
        marks = [(c.id, self.mark_of(c)) for c in sorted(self._session.stage.cuts, key=lambda c: c.id != picked)]
        for cut_id, mark in marks:
            own = cut_id == picked
            for knob in sorted(mark.knobs, key=lambda k: float(np.hypot(*(here - self.knob_place(k))))):
                if knob.points_to is not None and knob.out < 12 and not own:
                    continue
                near = min(np.hypot(*(here - self.knob_place(knob))), np.hypot(*(here - self.to_pixels(knob.at))))
                if near <= HIT:
                    return knob.hold, cut_id
        camera = self.camera_mark()
        places = [("eye", camera.eye), ("aim", camera.aim), *(("cone", end) for end in camera.ends())]
        away, kind = min((float(np.hypot(*(here - place))), kind) for kind, place in places)
        on_plane = camera.converges and bool(camera.ends()) and distance_to_path(here, np.array(camera.ends())) <= 5
        if away <= (HIT / 2 if on_plane else HIT):
            return kind, None
        near = [
            (distance_to_path(here, self.to_pixels(stroke.points)), stroke.hold, cut_id)
            for cut_id, mark in marks
            for stroke in mark.strokes
        ]
        # Of the picked cut first, then of any other, the line that lies nearest.
        held = min((n for n in near if n[0] <= 8), key=lambda n: (n[2] != picked, n[0]), default=None)
        if held is None and on_plane:
            return "picture", None
        return ("pan", None) if held is None else held[1:]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self._session.is_open:
            return
        if self._task is not None and event.button() == Qt.MouseButton.LeftButton:
            self._act("press", event)
        else:
            self._pressing.press(event)

    def _other_button(self, event: QMouseEvent) -> Drag | None:
        return PanDrawing(spot(event.position()), self) if event.button() != Qt.MouseButton.LeftButton else None

    def _held(self, event: QMouseEvent) -> Drag | None:
        """What is under the pointer: of a cut, which is picked too, of the camera, else the drawing."""
        kind, cut_id = self._under(event.position())
        at = spot(event.position())
        if cut_id is None and kind == "pan":
            return self.others.hold(event) or PanDrawing(at, self)
        if cut_id is None:
            return CameraPull(at, self, self._session, kind)
        self._session.pick(cut=cut_id)
        cut = self._session.cut
        if kind == "pick" or cut is None:
            return None
        if cut.locked:
            self._session.said.emit(f"{cut.name} is locked. Unlock it in the inspector to move it.")
            return None
        return KeyCutPull(at, self, CutDrag(self._session, cut, kind), self.mark_of(cut).middle)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._session.is_open:
            return
        if self._pressing.drag is not None:
            self._pressing.move(event)
        elif self._task is not None:
            self._task.move(self._meant(self._task, event), held_down(event, Qt.KeyboardModifier.ShiftModifier))
            self.update()
        else:
            kind, _ = self._under(event.position())
            other = self.others.under(event.position()) if kind == "pan" else None
            self.setToolTip(self.others.name(other))
            kind = "pick" if other is not None else kind
            shape = {"pan": Qt.CursorShape.ArrowCursor} | dict.fromkeys(POINTED_AT, Qt.CursorShape.PointingHandCursor)
            self.setCursor(shape.get(kind, Qt.CursorShape.SizeAllCursor))

    def shift_to(self, centre: NDArray[np.float64]) -> None:
        """Show another part of the drawing, about a place on it in metres."""
        self._centre = centre
        self._redraw.start(REST)
        self.update()

    @property
    def centre(self) -> NDArray[np.float64]:
        """The place on its sheet that is in the middle, metres."""
        return self._centre

    @property
    def metres_per_pixel(self) -> float:
        """Of the drawing as it is shown."""
        return 1.0 / self._scale

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._task is not None and self._pressing.drag is None and event.button() == Qt.MouseButton.LeftButton:
            self._act("release", event)
        if self._pressing.release(event) is not None:
            self._clicked(event)

    def _clicked(self, event: QMouseEvent) -> None:
        """A press that did not move."""

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._task is not None:
            self._take(self._task.finish)
        elif self._under(event.position())[0] == "pan":
            other = self.others.under(event.position())
            if other is None:
                self.fit()
            else:
                self._session.recall_scene(other.scene.id, self._stage.aspect)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.step_back():
            return
        if self._task is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take(self._task.finish)
            return
        super().keyPressEvent(event)

    def step_back(self) -> bool:
        """Escape: give up what is under way here; False when there is nothing."""
        if self._task is not None:
            self.begin(None)
            return True
        return self._pressing.cancel()

    def wheelEvent(self, event: QWheelEvent) -> None:
        before = self.to_sheet(event.position())
        self._scale = float(np.clip(self._scale * 1.16 ** (event.angleDelta().y() / 120), 0.05, 2000))
        self.shift_to(self._centre + before - self.to_sheet(event.position()))
        self.scaled.emit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._image is None:
            self.fit()
        else:
            self._redraw.start(REST)
