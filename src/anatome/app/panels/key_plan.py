"""The key plan: a small live plan that shows and edits every section plane and the camera."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from anatome.app import theme
from anatome.app.session import Session
from anatome.app.stage.handles import distance_to_path
from anatome.app.stage.stage import Stage, image_of
from anatome.cuts.cutting import CutFace
from anatome.cuts.plane import Plane
from anatome.cuts.section import section
from anatome.cuts.section_plane import SectionPlane
from anatome.look.look import earth_mask, subject_bounds
from anatome.render.renderer import View
from anatome.scenes import edits
from anatome.view.camera import Camera

CUT_HEIGHT = 1.2
"""Metres above a storey's floor at which its plan is cut (common practice)."""

ACCENT = QColor(theme.LIGHT.accent)
INK = QColor(theme.LIGHT.ink)
PAPER = QColor(theme.LIGHT.paper)
SAMPLES = 5
HIT = 12.0


@dataclass
class PlanGrip:
    """A drag in the plan: ``move`` or ``turn`` a cut, ``eye`` or ``aim`` of the camera, or ``pan`` the plan."""

    kind: str
    start: NDArray[np.float64]
    plane: Plane | None = None
    camera: Camera | None = None
    centre: NDArray[np.float64] | None = None


class KeyPlan(QWidget):
    """Plan coordinates are metres in X and Y; the plan's own paper stays light in the dark theme, as the stage's does."""

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(150)
        self.setToolTip("Drag a cut or the camera here. Ends turn a cut; the far end of the cone turns the camera")
        self._session, self._stage = session, stage
        self._centre = np.zeros(2)
        self._scale = 10.0  # pixels per metre
        self._image: QImage | None = None
        self._image_place = (np.zeros(2), 10.0)
        self._drawn: object = None
        self._grip: PlanGrip | None = None
        self._drag_count = 0
        self._redraw = QTimer(self, singleShot=True, interval=220)
        self._redraw.timeout.connect(self._draw_background)
        session.opened.connect(self.fit)
        session.changed.connect(self._changed)
        session.camera_moved.connect(self.update)
        session.picked_changed.connect(self.update)
        stage.ready.connect(self._redraw.start)

    def sizeHint(self) -> QSize:
        return QSize(280, 250)

    # The drawing under the cuts --------------------------------------------------------------------------------

    @property
    def level(self) -> float:
        """Height of the plan's own cut, metres."""
        building = self._session.building
        assert building is not None
        index = self._session.plan_storey
        if index is None:
            return float(building.bounds[0][2]) + CUT_HEIGHT
        return building.storeys[index].elevation + CUT_HEIGHT

    @property
    def drawn(self) -> bool:
        """True when the drawing under the cuts is the one that belongs there."""
        return self._image is not None and not self._redraw.isActive()

    def show_storey(self, index: int | None) -> None:
        """Draw the plan of another storey."""
        self._session.plan_storey = index
        self._redraw.start(0)

    def fit(self) -> None:
        """Show the whole building."""
        building = self._session.building
        if building is None:
            return
        low, high = subject_bounds(building, self._session.shown())
        self._centre = (low + high)[:2] / 2
        extent = np.maximum((high - low)[:2], 0.01)
        self._scale = 0.80 * float(min(self.width() / extent[0], self.height() / extent[1]))
        self._image = None
        self._drawn = None
        self._redraw.start(0)
        self.update()

    def _changed(self) -> None:
        if self._drawn is not None and self._drawn != self._background_key():
            self._redraw.start()
        self.update()

    def _background_key(self) -> object:
        return (
            self._session.stage.hidden,
            self._session.stage.look,
            self._session.plan_storey,
            tuple(self._centre),
            self._scale,
            self.size(),
        )

    def _draw_background(self) -> None:
        session = self._session
        building = session.building
        if building is None or not self.isVisible():
            return
        self._drawn = self._background_key()
        shown = session.shown() & ~earth_mask(building)
        if not shown.any():
            shown = session.shown()
        plane = Plane((0.0, 0.0, self.level), (0.0, 0.0, 1.0))
        cut = SectionPlane(id="key plan", name="", mark="", plane=plane)
        face = CutFace(cut, section(building, plane, shown))
        dpr = self.devicePixelRatioF()
        size = max(int(self.width() * dpr), 1), max(int(self.height() * dpr), 1)
        height = self.height() / self._scale
        field = 30.0
        distance = height / 2 / math.tan(math.radians(field) / 2)
        x, y = self._centre
        camera = Camera(
            eye=(x, y, self.level + distance), target=(x, y, self.level), up=(0, 1, 0), projection="parallel", field=field
        )
        look = session.stage.look.model_copy(
            update={"colours": False, "ground": False, "shade": False, "edges": True, "edge_width": 1.4, "cut_width": 1.6}
        )
        pixels = self._stage.picture(View(camera, [face], shown, look), size, "paper", SAMPLES)
        if pixels is None:
            self._drawn = None
            return
        self._image = image_of(pixels)
        self._image_place = (self._centre.copy(), self._scale)
        self.update()

    # Coordinates -----------------------------------------------------------------------------------------------

    def to_pixels(self, points: NDArray[np.float64]) -> NDArray[np.float64]:
        """(..., 2) widget pixels of (..., 2) plan coordinates."""
        arm = (np.asarray(points, float) - self._centre) * self._scale
        return np.stack([self.width() / 2 + arm[..., 0], self.height() / 2 - arm[..., 1]], axis=-1)

    def to_plan(self, at: QPointF) -> NDArray[np.float64]:
        """(2,) plan coordinates of a place in the widget."""
        return self._centre + np.array([at.x() - self.width() / 2, self.height() / 2 - at.y()]) / self._scale

    def line_of(self, plane: Plane) -> NDArray[np.float64] | None:
        """(2, 2) ends of the plane's trace in the plan, or None for a level plane."""
        building = self._session.building
        if plane.is_level or building is None:
            return None
        low, high = subject_bounds(building, self._session.shown())
        across = np.array(plane.normal[:2])
        slope = float(np.linalg.norm(across))
        across /= slope
        along = np.array([-across[1], across[0]])
        offset = (plane.offset - plane.normal[2] * self.level) / slope
        corners = np.array([[low[0], low[1]], [high[0], low[1]], [high[0], high[1]], [low[0], high[1]]])
        reach = corners @ along
        grow = 16.0 / self._scale
        foot = across * offset
        return np.stack([foot + along * (reach.min() - grow), foot + along * (reach.max() + grow)])

    def camera_places(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Pixels of eye and aim; an eye outside the plan is shown at its edge."""
        camera = self._session.stage.camera
        eye, aim = self.to_pixels(np.array([camera.eye[:2], camera.target[:2]]))
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
        if self._session.building is not None and self._session.is_open:
            self._paint_plan(painter)
            self._paint_camera(painter)
            for cut in self._session.stage.cuts:
                self._paint_cut(painter, cut)
            self._paint_level_cuts(painter)
        painter.end()

    def _paint_plan(self, painter: QPainter) -> None:
        if self._image is None:
            return
        centre, scale = self._image_place
        factor = self._scale / scale
        middle = self.to_pixels(centre)
        w, h = self.width() * factor, self.height() * factor
        painter.drawImage(QRectF(middle[0] - w / 2, middle[1] - h / 2, w, h), self._image)

    def _paint_cut(self, painter: QPainter, cut: SectionPlane) -> None:
        line = self.line_of(cut.plane)
        if line is None:
            return
        picked = cut.id == self._session.picked_cut
        a, b = self.to_pixels(line)
        painter.setPen(QPen(QColor(255, 255, 255, 170), 4.5))
        painter.drawLine(QPointF(*a), QPointF(*b))
        pen = QPen(ACCENT, 2.2 if picked else 1.3)
        pen.setDashPattern([9, 2.5, 1.5, 2.5] if cut.on else [2, 3])
        painter.setPen(pen)
        painter.drawLine(QPointF(*a), QPointF(*b))
        looks = -np.array([cut.plane.normal[0], -cut.plane.normal[1]])
        looks /= np.linalg.norm(looks)
        across = np.array([-looks[1], looks[0]])
        for end in (a, b):
            tip = end + looks * 13
            painter.setPen(QPen(ACCENT, 2.0))
            painter.drawLine(QPointF(*end), QPointF(*tip))
            size = 6.5 if picked else 5.0
            painter.setPen(QPen(PAPER, 1.0))
            painter.setBrush(ACCENT)
            corners = (tip + looks * size * 1.2, tip + across * size, tip - looks * size * 1.2, tip - across * size)
            painter.drawPolygon(QPolygonF([QPointF(*c) for c in corners]))
        painter.setFont(theme.font(8.5, strong=True))
        painter.setPen(ACCENT)
        at = b - looks * 10
        painter.drawText(QRectF(at[0] - 12, at[1] - 9, 24, 18), Qt.AlignmentFlag.AlignCenter, cut.mark)

    def _level_cuts(self) -> list[tuple[SectionPlane, QRectF]]:
        """The cuts that lie in the plan's own plane and so have no line in it, each with the place of its note."""
        level = [c for c in self._session.stage.cuts if c.plane.is_level]
        return [(cut, QRectF(8, self.height() - 26 - 22 * i, 128, 20)) for i, cut in enumerate(level)]

    def _paint_level_cuts(self, painter: QPainter) -> None:
        painter.setFont(theme.font(8.5, strong=True))
        for cut, box in self._level_cuts():
            picked = cut.id == self._session.picked_cut
            painter.setPen(QPen(ACCENT, 1.0, Qt.PenStyle.SolidLine if cut.on else Qt.PenStyle.DashLine))
            painter.setBrush(ACCENT if picked else PAPER)
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(PAPER if picked else ACCENT)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{cut.mark}  level at {cut.plane.position:+.2f} m")

    def _paint_camera(self, painter: QPainter) -> None:
        camera = self._session.stage.camera
        eye, aim = self.camera_places()
        arm = aim - eye
        length = float(np.hypot(*arm))
        if length < 3.0:
            return
        along = arm / length
        across = np.array([-along[1], along[0]])
        painter.setPen(QPen(INK, 1.2))
        wash = QColor(INK)
        wash.setAlpha(16)
        painter.setBrush(wash)
        if camera.projection == "perspective":
            spread = math.tan(math.radians(camera.field) / 2) * self._stage.aspect
            corners = [eye, aim + across * length * spread, aim - across * length * spread]
        else:
            half = min(camera.height * self._stage.aspect / 2 * self._scale, 0.14 * self.width())
            corners = [eye + across * half, aim + across * half, aim - across * half, eye - across * half]
        painter.drawPolygon(QPolygonF([QPointF(*c) for c in corners]))
        painter.setBrush(INK)
        painter.setPen(QPen(PAPER, 1.5))
        painter.drawEllipse(QPointF(*eye), 6.0, 6.0)
        painter.setBrush(PAPER)
        painter.setPen(QPen(INK, 1.5))
        painter.drawEllipse(QPointF(*aim), 4.0, 4.0)

    # Hands -----------------------------------------------------------------------------------------------------

    def _under(self, at: QPointF) -> tuple[str, str | None]:
        """What a press would hold: its kind, and the cut's id.

        The camera's aim often lies on a cut, so its dots come before the lines, and the ends of lines before both.
        """
        for cut, box in self._level_cuts():
            if box.contains(at):
                return "pick", cut.id
        here = np.array([at.x(), at.y()])
        picked = self._session.picked_cut
        on_line: str | None = None
        for cut in sorted(self._session.stage.cuts, key=lambda c: c.id != picked):
            line = self.line_of(cut.plane)
            if line is None:
                continue
            ends = self.to_pixels(line)
            looks = -np.array([cut.plane.normal[0], -cut.plane.normal[1]])
            looks /= np.linalg.norm(looks)
            if min(np.hypot(*(here - place)) for end in ends for place in (end, end + 13 * looks)) <= HIT:
                return "turn", cut.id
            if on_line is None and distance_to_path(here, ends) <= 8:
                on_line = cut.id
        for kind, place in zip(("eye", "aim"), self.camera_places()):
            if np.hypot(*(here - place)) <= HIT:
                return kind, None
        return ("move", on_line) if on_line else ("pan", None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self._session.is_open:
            return
        kind, cut_id = self._under(event.position())
        if event.button() != Qt.MouseButton.LeftButton:
            kind = "pan"
        elif kind == "pick":
            self._session.pick_cut(cut_id)
            return
        grip = PlanGrip(kind, self.to_plan(event.position()), camera=self._session.stage.camera, centre=self._centre.copy())
        if kind in ("move", "turn"):
            self._session.pick_cut(cut_id)
            assert self._session.cut is not None
            grip.plane = self._session.cut.plane
            self._drag_count += 1
        self._grip = grip

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._session.is_open:
            return
        at = event.position()
        if self._grip is None:
            kind, _ = self._under(at)
            shapes = {
                "move": Qt.CursorShape.SizeAllCursor,
                "turn": Qt.CursorShape.PointingHandCursor,
                "eye": Qt.CursorShape.SizeAllCursor,
                "aim": Qt.CursorShape.PointingHandCursor,
            }
            self.setCursor(shapes.get(kind, Qt.CursorShape.ArrowCursor))
            return
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        drags: dict[str, Callable[[PlanGrip, NDArray[np.float64], bool], None]] = {
            "move": self._drag_cut,
            "turn": self._drag_cut,
            "eye": self._drag_camera,
            "aim": self._drag_camera,
        }
        if self._grip.kind == "pan":
            assert self._grip.centre is not None
            self._centre = self._centre + self._grip.start - self.to_plan(at)
            self._redraw.start()
            self.update()
        else:
            drags[self._grip.kind](self._grip, self.to_plan(at), shift)

    def _drag_cut(self, grip: PlanGrip, now: NDArray[np.float64], shift: bool) -> None:
        cut = self._session.cut
        if cut is None or grip.plane is None:
            return
        if grip.kind == "move":
            by = float(np.array(grip.plane.normal[:2]) @ (now - grip.start))
            plane, label = grip.plane.moved(by), f"Moved {cut.name}"
        else:
            line = self.line_of(grip.plane)
            assert line is not None
            middle = line.mean(axis=0)
            first, second = grip.start - middle, now - middle
            swing = math.degrees(math.atan2(second[1], second[0]) - math.atan2(first[1], first[0]))
            if shift:
                swing = round((grip.plane.heading + swing) / 15.0) * 15.0 - grip.plane.heading
            plane = grip.plane.turned_about(np.array([*middle, self.level]), swing)
            label = f"Turned {cut.name}"
        self._session.apply(
            edits.change_cut(self._session.project, cut.id, plane=plane), label, merge=f"plan drag {self._drag_count}"
        )

    def _drag_camera(self, grip: PlanGrip, now: NDArray[np.float64], shift: bool) -> None:
        camera = grip.camera
        assert camera is not None
        eye, target = np.array(camera.eye), np.array(camera.target)
        if grip.kind == "eye":
            shift_by = np.append(now - grip.start, 0.0)
            self._session.look_from(camera.placed(eye + shift_by, target + shift_by))
            return
        arm, wanted = (target - eye)[:2], now - eye[:2]
        swing = math.degrees(math.atan2(wanted[1], wanted[0]) - math.atan2(arm[1], arm[0]))
        if shift:
            swing = round(swing / 15.0) * 15.0
        self._session.look_from(camera.orbited(swing, 0.0, eye))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None and self._grip.kind in ("move", "turn"):
            self._session.end_step()
        self._grip = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._under(event.position())[0] == "pan":
            self.fit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._grip is not None and self._grip.plane is not None:
            self._session.cancel_step(f"plan drag {self._drag_count}")
            self._grip = None
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        before = self.to_plan(event.position())
        self._scale = float(np.clip(self._scale * 1.16 ** (event.angleDelta().y() / 120), 0.05, 2000))
        self._centre = self._centre + before - self.to_plan(event.position())
        self._redraw.start()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        if self._image is None:
            self.fit()
        else:
            self._redraw.start()
