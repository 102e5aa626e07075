"""What lies over the picture: the frames and handles of cuts, the preview of a new one, and the caption."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from anatome.app import theme
from anatome.app.session import Session
from anatome.app.stage.handles import DIAMOND, PlaneHandles, Viewport, plane_frame
from anatome.cuts.plane import Plane
from anatome.look.look import subject_bounds

ACCENT = QColor(theme.LIGHT.accent)
INK = QColor(theme.LIGHT.ink)
PAPER = QColor(theme.LIGHT.paper)


class Overlay(QWidget):
    """Transparent to the mouse; the hands on the stage tell it what to show."""

    def __init__(self, session: Session, stage: QWidget) -> None:
        super().__init__(stage)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.setAttribute(Qt.WidgetAttribute.WA_TranslucentBackground)
        self.setStyleSheet("background: transparent")
        self._session = session
        self.handles: PlaneHandles | None = None
        self.held: str | None = None
        self.preview: tuple[Plane, NDArray[np.float64]] | None = None
        self.hint = ""
        self.bare = False
        for signal in (session.changed, session.camera_moved, session.picked_changed):
            signal.connect(self.update)

    def paintEvent(self, event: QPaintEvent) -> None:
        session = self._session
        if not session.is_open or session.building is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        viewport = Viewport(session.stage.camera, self.width(), self.height())
        if not self.bare:
            bounds = subject_bounds(session.building, session.shown())
            for cut in session.stage.cuts:
                if cut.graphic:
                    self._paint_frame(
                        painter, viewport, plane_frame(cut.plane, bounds), cut.mark, cut.id == session.picked_cut, cut.on
                    )
            if self.preview is not None:
                self._paint_preview(painter, viewport)
            elif self.handles is not None:
                self._paint_handles(painter, self.handles)
        self._paint_caption(painter)
        painter.end()

    # Cuts ------------------------------------------------------------------------------------------------------

    def _paint_frame(
        self, painter: QPainter, viewport: Viewport, frame: NDArray[np.float64], mark: str, picked: bool, on: bool
    ) -> None:
        points = viewport.pixels(frame)
        if not np.isfinite(points).all():
            return
        polygon = _polygon(points)
        colour = QColor(ACCENT)
        colour.setAlpha(255 if picked else 120)
        painter.setPen(QPen(colour, 1.6 if picked else 1.0, Qt.PenStyle.SolidLine if on else Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(polygon)
        # The mark stands at the upper corner furthest left, outside the frame.
        corner = points[np.argmin(points[:, 0] + points[:, 1])]
        x, y = mark_place(corner, self.width(), self.height())
        box = QRectF(x - 10, y - 10, 20, 20)
        painter.setBrush(colour if picked else PAPER)
        painter.drawEllipse(box)
        painter.setFont(theme.font(8.5, strong=True))
        painter.setPen(PAPER if picked else colour)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, mark)

    def _paint_handles(self, painter: QPainter, handles: PlaneHandles) -> None:
        if handles.ring is not None:
            halo = QPen(QColor(255, 255, 255, 150), 5.0 if self.held == "turn" else 4.0)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(halo)
            painter.drawPolyline(_polygon(handles.ring))
            painter.setPen(QPen(ACCENT, 2.6 if self.held == "turn" else 1.6))
            painter.drawPolyline(_polygon(handles.ring))
        self._paint_knob(painter, handles.foot, handles.tip, self.held == "move")

    def _paint_knob(self, painter: QPainter, foot: NDArray[np.float64], tip: NDArray[np.float64], held: bool) -> None:
        """The diamond on its stem."""
        a, b = QPointF(*foot), QPointF(*tip)
        painter.setPen(QPen(QColor(255, 255, 255, 170), 5.0))
        painter.drawLine(a, b)
        painter.setPen(QPen(ACCENT, 2.0))
        painter.drawLine(a, b)
        painter.setBrush(PAPER)
        painter.drawEllipse(a, 3.2, 3.2)
        arm = tip - foot
        along = arm / max(float(np.hypot(*arm)), 1e-6)
        across = np.array([-along[1], along[0]])
        size = DIAMOND + (1.5 if held else 0.0)
        corners = np.stack([tip + along * size * 1.25, tip + across * size, tip - along * size * 1.25, tip - across * size])
        painter.setPen(QPen(PAPER, 1.5))
        painter.setBrush(INK if held else ACCENT)
        painter.drawPolygon(_polygon(corners))

    def _paint_preview(self, painter: QPainter, viewport: Viewport) -> None:
        """The new plane where the pointer is: a patch on the face, its whole extent, and where it would look."""
        assert self.preview is not None and self._session.building is not None
        plane, point = self.preview
        bounds = subject_bounds(self._session.building, self._session.shown())
        whole = viewport.pixels(plane_frame(plane, bounds))
        if np.isfinite(whole).all():
            painter.setPen(QPen(ACCENT, 1.0, Qt.PenStyle.DashLine))
            painter.setBrush(QColor(47, 127, 115, 18))
            painter.drawPolygon(_polygon(whole))
        half = 62.0 * viewport.metres_per_pixel(point)
        u, v = plane.axes
        patch = viewport.pixels(point + np.array([-u - v, u - v, u + v, v - u]) * half)
        if np.isfinite(patch).all():
            painter.setPen(QPen(ACCENT, 2.0))
            painter.setBrush(QColor(47, 127, 115, 70))
            painter.drawPolygon(_polygon(patch))
        handles = PlaneHandles.place(plane, np.stack([point, point]), viewport)
        if handles is not None:
            self._paint_knob(painter, handles.foot, handles.tip, False)

    # Words -----------------------------------------------------------------------------------------------------

    def _paint_caption(self, painter: QPainter) -> None:
        title, rest = caption(self._session)
        strong, plain = theme.font(9.5, strong=True), theme.font(9.5)
        title_width = QFontMetricsF(strong).horizontalAdvance(title + "  ")
        width = title_width + QFontMetricsF(plain).horizontalAdvance(rest)
        baseline = self.height() - 18
        # A slip of the picture's own paper keeps the words legible on whatever lies under them.
        slip = QColor(PAPER)
        slip.setAlpha(225)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(slip)
        painter.drawRoundedRect(QRectF(12, baseline - 17, width + 16, 25), 4, 4)
        painter.setFont(strong)
        painter.setPen(INK)
        painter.drawText(QPointF(20, baseline), title)
        painter.setFont(plain)
        painter.setPen(QColor(theme.LIGHT.ink_soft))
        painter.drawText(QPointF(20 + title_width, baseline), rest)
        if self.hint:
            metrics = painter.fontMetrics()
            width = metrics.horizontalAdvance(self.hint) + 28
            box = QRectF((self.width() - width) / 2, 14, width, 28)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(34, 38, 43, 225))
            painter.drawRoundedRect(box, 6, 6)
            painter.setPen(PAPER)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self.hint)


def mark_place(corner: NDArray[np.float64], width: float, height: float) -> tuple[float, float]:
    """Middle of the disc with a cut's mark: outside the frame's upper left corner, but always in the picture."""
    return min(max(corner[0] - 14, 14), width - 14), min(max(corner[1] - 14, 14), height - 40)


def caption(session: Session) -> tuple[str, str]:
    """The words at the foot of the stage, as on a drawing: a title, and what it is."""
    stage = session.stage
    scene = session.scene
    marks = [c.name for c in stage.active_cuts]
    view = stage.camera.projection
    what = {"perspective": "perspective", "parallel": "parallel projection"}[view]
    if view == "parallel":
        back = stage.camera.axes[2]
        if max(abs(back)) < 0.98 and min(abs(back)) > 0.15:
            what = "axonometric"
    subject = marks[0] if len(marks) == 1 else (f"{len(marks)} cuts" if marks else "Whole building")
    hidden = len(stage.hidden)
    aside = f" · {hidden} set aside" if hidden else ""
    if scene is None:
        return subject, f"{what}{aside}"
    state = " · changed since it was saved" if session.project.differs_from_scene else ""
    return scene.name, f"{subject}, {what}{aside}{state}"


def _polygon(points: NDArray[np.float64]) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in points.tolist()])
