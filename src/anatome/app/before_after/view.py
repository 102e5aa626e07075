"""Before and after, large, in the place of the stage: side by side, or one wiped over the other by a line that is dragged."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
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
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from anatome.app.base import theme
from anatome.app.base.images import image_of
from anatome.app.base.pictures import Beside, PictureJob
from anatome.app.before_after.sides import SideMaker, Sides
from anatome.app.document.newer_model import NewerModel
from anatome.app.document.session import Session
from anatome.app.stage.over_stage import OverStage
from anatome.app.stage.stage import Stage
from anatome.render.drawings import noted
from anatome.view.camera import Camera

SAMPLES, QUICK = 6, 1
"""Samples of a picture that stands, and of one while the camera moves."""
SEND_WIDE, SEND_SAMPLES = 2400, 12
"""Pixels each side of a picture that is sent out is wide, and its samples."""
GAP = 8
"""Pixels between pictures that stand side by side."""
GRAB = 14
"""Pixels to either side of the line within which it is taken hold of."""
TURN = 0.006
"""Radians a pixel of dragging turns the view."""
NAMES = "Before", "After"

Pixels = NDArray[np.uint8]


class BothPictures(QWidget):
    """The two pictures; ``turned`` by radians across and up, ``zoomed`` by a factor."""

    turned = Signal(float, float)
    zoomed = Signal(float)
    let_go = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.images: list[QImage | None] = [None, None]
        self.wiped, self.share = True, 0.5
        self._held: QPointF | None = None
        self._wiping = False
        self.setMouseTracking(True)
        self.setMinimumSize(200, 150)

    @property
    def picture_size(self) -> tuple[int, int]:
        """Pixels of the screen one picture takes."""
        wide = self.width() if self.wiped else (self.width() - GAP) // 2
        return max(wide, 2), max(self.height(), 2)

    def areas(self) -> tuple[QRectF, QRectF]:
        """Where the two lie; of wiped ones, what of each is seen."""
        wide, high = self.picture_size
        if self.wiped:
            at = round(self.share * wide)
            return QRectF(0, 0, at, high), QRectF(at, 0, wide - at, high)
        return QRectF(0, 0, wide, high), QRectF(wide + GAP, 0, wide, high)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_both(painter, self.images, self.areas(), self.picture_size, self.wiped)
        if self.wiped:
            at, high = self.areas()[1].left(), self.height()
            painter.setPen(QPen(QColor(theme.current().accent), 2))
            painter.drawLine(QPointF(at, 0), QPointF(at, high))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.current().accent))
            for side in (-1, 1):
                tip = QPointF(at + side * 15, high / 2)
                painter.drawPolygon(QPolygonF([tip, QPointF(at + side * 5, high / 2 - 8), QPointF(at + side * 5, high / 2 + 8)]))

    def _on_line(self, at: QPointF) -> bool:
        return self.wiped and abs(at.x() - self.areas()[1].left()) <= GRAB

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._wiping, self._held = self._on_line(event.position()), event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._held is None:
            self.setCursor(Qt.CursorShape.SplitHCursor if self._on_line(at) else Qt.CursorShape.OpenHandCursor)
        elif self._wiping:
            self.wipe_to(at.x() / max(self.width(), 1))
        else:
            moved, self._held = at - self._held, at
            self.turned.emit(-TURN * moved.x(), TURN * moved.y())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held, self._wiping = None, False
        self.let_go.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.zoomed.emit(0.999 ** event.angleDelta().y())

    def wipe_to(self, share: float) -> None:
        """Have the line so far from the left, of the whole width."""
        self.share = min(max(share, 0.0), 1.0)
        self.update()


def paint_both(
    painter: QPainter, images: list[QImage | None], areas: tuple[QRectF, QRectF], size: tuple[int, int], wiped: bool
) -> None:
    """Paint the pictures of both sides, each ``size`` pixels, into their areas, with their names."""
    paper = QColor(theme.LIGHT.paper)
    for number, (image, area) in enumerate(zip(images, areas, strict=True)):
        painter.fillRect(area, paper)
        if image is not None:
            from_x = area.left() if wiped else 0.0
            of = image.width() / size[0]
            painter.drawImage(area, image, QRectF(from_x * of, 0, area.width() * of, image.height()))
        painter.setPen(QColor(theme.LIGHT.ink_soft))
        last = wiped and number == 1
        align = Qt.AlignmentFlag.AlignRight if last else Qt.AlignmentFlag.AlignLeft
        painter.save()
        painter.setClipRect(area)
        painter.drawText(area.adjusted(12, 10, -12, 0), align | Qt.AlignmentFlag.AlignTop, NAMES[number])
        painter.restore()


class BeforeAfter(OverStage):
    """Lies over the stage while it is open. What is on the stage is shown, so another scene is another picture; dragging turns
    the view of both, and leaves that of the stage."""

    save_wanted = Signal()
    sheet_wanted = Signal()

    def __init__(self, session: Session, stage: Stage, newer: NewerModel) -> None:
        super().__init__(stage)
        self._session, self._newer = session, newer
        self._maker = SideMaker(session, newer)
        self._beside = Beside()
        self._sides: Sides | None = None
        self._job: PictureJob | None = None
        self._camera: Camera | None = None
        """Where it looks from, if not from where the stage does."""
        self._seen_from: Camera | None = None
        self._drawn_from: Camera | None = None
        self._moving = False
        self._later = QTimer(self, singleShot=True, interval=60)
        self._later.timeout.connect(self._make)
        self._still = QTimer(self, singleShot=True, interval=250)
        self._still.timeout.connect(self._stand)
        self._build()
        for signal in (session.changed, session.camera_moved, session.rebuilt, newer.changed):
            signal.connect(self._refresh)
        for signal in (session.opened, session.closed):
            signal.connect(self.leave)

    def _build(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        bar = QHBoxLayout()
        bar.setContentsMargins(14, 8, 8, 8)
        bar.setSpacing(8)
        title = QLabel("Before and after")
        title.setProperty("role", "title")
        bar.addWidget(title)
        self.wipe, self.beside = QPushButton("Wiped"), QPushButton("Side by side")
        for button, tip in (
            (self.wipe, "One over the other; drag the line, or move it with the arrow keys"),
            (self.beside, "The same view of both"),
        ):
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setProperty("role", "choice")
            button.setToolTip(tip)
            bar.addWidget(button)
        self.wipe.setChecked(True)
        self.wipe.clicked.connect(partial(self._arrange, True))
        self.beside.clicked.connect(partial(self._arrange, False))
        self.tints = QCheckBox("Tint changes")
        self.tints.setToolTip("All of it white, what has changed in the tints of the list; else in the look of the stage")
        self.tints.setChecked(True)
        self.tints.clicked.connect(self._later_again)
        bar.addWidget(self.tints)
        bar.addStretch()
        self.save, self.sheet = QPushButton("Save picture…"), QPushButton("On a sheet")
        self.save.setToolTip("As it is arranged here, large, as PNG")
        self.sheet.setToolTip("A new sheet with both pictures and what has changed")
        self.save.clicked.connect(self.save_wanted)
        self.sheet.clicked.connect(self.sheet_wanted)
        self.away = QPushButton()
        theme.wear(self.away, "x")
        self.away.setToolTip("Back to the stage (Esc)")
        self.away.clicked.connect(self.leave)
        for button in (self.save, self.sheet, self.away):
            button.setProperty("role", "quiet")
            bar.addWidget(button)
        column.addLayout(bar)
        self.both = BothPictures()
        self.both.turned.connect(self._turn)
        self.both.zoomed.connect(self._zoom)
        self.both.let_go.connect(self._still.start)
        column.addWidget(self.both, 1)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._later_again()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The arrows move the line; nothing typed here is the stage's."""
        step = {Qt.Key.Key_Left: -0.02, Qt.Key.Key_Right: 0.02}.get(Qt.Key(event.key()))
        if step is not None:
            self.both.wipe_to(self.both.share + step)
        event.accept()

    # Open and closed -------------------------------------------------------------------------------------------

    def open(self) -> None:
        """Lie over the stage."""
        self.lie_over()
        self.setFocus()
        self._camera = None
        self._later_again()

    def leave(self) -> None:
        """Let the stage be seen again."""
        self._cancel()
        self._maker.forget()
        self._beside.forget()
        self._sides = None
        self.both.images = [None, None]
        if self.isVisible():
            self.let_be_seen()

    def step_back(self) -> bool:
        """Escape. Return False when it is not open."""
        was = self.isVisible()
        self.leave()
        return was

    def look_at(self, bounds: NDArray[np.float64]) -> None:
        """Frame (2, 3) bounds of what somebody wants to see."""
        if self.isVisible():
            wide, high = self.both.picture_size
            room = bounds + np.array([[-1.0], [1.0]]) * max(float(np.ptp(bounds, axis=0).max()), 2.0) * 0.6
            self._camera = self._looks_from.fitted(room, wide / high)
            self._draw()

    # Drawing ---------------------------------------------------------------------------------------------------

    @property
    def settled(self) -> bool:
        """Whether both pictures stand as they should."""
        return self._sides is not None and self._job is None and not (self._later.isActive() or self._still.isActive())

    @property
    def _looks_from(self) -> Camera:
        wide, high = self.both.picture_size
        if self._camera is not None:
            return self._camera
        narrower = self._stage.aspect / (wide / high)
        camera = self._session.stage.camera
        return camera.widened(narrower) if narrower > 1.0 else camera

    def _arrange(self, wiped: bool, *_: object) -> None:
        self.both.wiped = wiped
        self._later_again()

    def _later_again(self, *_: object) -> None:
        if self.isVisible():
            self._later.start()

    def _refresh(self) -> None:
        if not self.isVisible():
            return
        if not self._session.is_open or self._newer.compared is None:
            self.leave()
            return
        if self._session.stage.camera != self._seen_from:
            self._camera = None  # the stage shows something else
        self._later_again()

    def _make(self) -> None:
        self._seen_from = self._session.stage.camera

        def made(sides: Sides) -> None:
            self._sides = sides
            self._draw()

        self._maker.make(self.tints.isChecked(), made, self._failed)

    def _draw(self) -> None:
        self._cancel()
        wide, high = self.both.picture_size
        if self._moving:
            self._both((max(wide // 2, 2), max(high // 2, 2)), QUICK, self._show)
        else:
            ratio = self.devicePixelRatioF()
            self._both((round(wide * ratio), round(high * ratio)), SAMPLES, self._show)

    def _both(self, size: tuple[int, int], samples: int, done: Callable[[list[Pixels]], None]) -> None:
        """Draw both sides, one after the other."""
        if self._sides is None:
            return
        self._drawn_from = self._looks_from
        views = self._sides.seen_from(self._drawn_from, written=not self._moving)

        def next_one(made: list[Pixels]) -> None:
            if len(made) == len(views):
                self._job = None
                done(made)
                return
            view = views[len(made)]
            steps = self._beside.in_picture(view, size, "paper", samples)

            def drawn(pixels: Pixels) -> None:
                next_one([*made, noted(pixels, view.notes_on(size))])

            self._job = self._stage.pictures.draw(steps, drawn, self._failed)

        next_one([])

    def _show(self, made: list[Pixels]) -> None:
        self.both.images = [image_of(pixels) for pixels in made]
        self.both.update()
        if self._moving and self._camera != self._drawn_from:
            self._draw()

    def draw_large(self, done: Callable[[QImage, list[Pixels]], None]) -> None:
        """Draw both large; ``done`` gets them as they are arranged here, and each by itself."""
        wide, high = self.both.picture_size
        size = SEND_WIDE, round(SEND_WIDE * high / wide)

        def arranged(made: list[Pixels]) -> None:
            images: list[QImage | None] = [image_of(pixels) for pixels in made]
            factor = SEND_WIDE / wide
            whole = QImage(round(self.both.width() * factor), size[1], QImage.Format.Format_RGB32)
            whole.fill(QColor(theme.LIGHT.paper))
            painter = QPainter(whole)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.scale(factor, factor)
            painter.setFont(self.font())
            paint_both(painter, images, self.both.areas(), self.both.picture_size, self.both.wiped)
            painter.end()
            done(whole, made)

        self._cancel()
        self._both(size, SEND_SAMPLES, arranged)

    def _failed(self, error: Exception) -> None:
        self._job = None
        self._session.failed.emit(error)

    def _cancel(self) -> None:
        if self._job is not None:
            self._job.cancel()
            self._job = None

    # Looking round ---------------------------------------------------------------------------------------------

    def _turn(self, across: float, upward: float) -> None:
        self._move(self._looks_from.orbited(across, upward))

    def _zoom(self, factor: float) -> None:
        camera = self._looks_from
        self._move(camera.zoomed(factor, np.array(camera.target)))

    def _move(self, camera: Camera) -> None:
        self._camera, self._moving = camera, True
        if self._job is None:
            self._draw()
        self._still.start()

    def _stand(self) -> None:
        if self._moving:
            self._moving = False
            self._draw()
