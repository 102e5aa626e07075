"""The open sheet in the place of the stage: the paper, what lies on it, and what is picked."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QWidget

from anatome.app.base import theme
from anatome.app.base.trouble import never_dies
from anatome.app.document.desk import Desk
from anatome.app.document.session import Session
from anatome.app.sheets.contents import SheetContents
from anatome.app.stage.stage import Stage
from anatome.linework.page import PagePart
from anatome.linework.plotting import plot_notes, plot_part
from anatome.printing.pages import page_of
from anatome.render.plotter import ScreenPlotter
from anatome.scenes.sheet_frames import box_of
from anatome.sheets.paper import Box, area, free_area, grid_lines
from anatome.sheets.sheet import AnyBlock, SceneFrame, Sheet
from anatome.site.sunlight import north_of

MARGIN = 26.0
"""Pixels round the paper."""
EMPTY = "A frame without a scene. Drop one on it from the foot, or choose one for it."
CLOSEST = 4.0
"""Pixels between lines of a grid that are still drawn."""
HANDLE = 5.0
FARTHEST_IN = 40.0
"""Pixels a millimetre spans at most."""
SIDES = {
    **{"left": (0.0, 0.5), "right": (1.0, 0.5), "bottom": (0.5, 0.0), "top": (0.5, 1.0)},
    **{"lower left": (0.0, 0.0), "lower right": (1.0, 0.0), "upper left": (0.0, 1.0), "upper right": (1.0, 1.0)},
}
"""Where the handles of a block are, in shares of its box."""


class SheetView(QWidget):
    """Lies over the stage while a sheet is open. The hands on it tell it what to show besides."""

    def __init__(self, session: Session, stage: Stage, desk: Desk, contents: SheetContents) -> None:
        super().__init__(stage)
        self._session, self._stage, self._desk, self._contents = session, stage, desk, contents
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAcceptDrops(True)
        self._scale = 1.0
        """Pixels of a millimetre."""
        self._origin = QPointF()
        """Where the lower left corner of the paper is."""
        self._fitted = True
        self.lines: list[tuple[bool, float]] = []
        """What a block that is moved is drawn to: whether the line is upright, and where, mm."""
        self.rectangle: QRectF | None = None
        stage.installEventFilter(self)
        desk.changed.connect(self._opened)
        for signal in (session.picked_changed, contents.news, session.changed):
            signal.connect(self.update)
        self.hide()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """As large as the stage, and in front of all that lies on it."""
        if watched is self._stage and event.type() == QEvent.Type.Resize:
            self.resize(self._stage.size())
            if self._fitted:
                self.fit()
        return False

    def _opened(self) -> None:
        sheet = self._desk.sheet
        self.setVisible(sheet is not None)
        if sheet is None:
            self._stage.setFocus()
            return
        self.resize(self._stage.size())
        self.fit()
        self.raise_()
        self.setFocus()

    # Where things are ------------------------------------------------------------------------------------------

    def fit(self) -> None:
        """All of the paper in sight."""
        sheet = self._desk.sheet
        if sheet is None:
            return
        wide, high = sheet.paper
        self._scale = max(min((self.width() - 2 * MARGIN) / wide, (self.height() - 2 * MARGIN) / high), 0.05)
        self._origin = QPointF((self.width() - wide * self._scale) / 2, (self.height() + high * self._scale) / 2)
        self._fitted = True
        self.update()

    def zoom(self, factor: float, at: QPointF) -> None:
        """Nearer or further off, what is under the pointer staying there."""
        scale = min(max(self._scale * factor, 0.1), FARTHEST_IN)
        self._origin = at + (self._origin - at) * (scale / self._scale)
        self._scale, self._fitted = scale, False
        self.update()

    def pan(self, by: QPointF) -> None:
        """Shift the paper by pixels."""
        self._origin, self._fitted = self._origin + by, False
        self.update()

    @property
    def pixel(self) -> float:
        """Mm a pixel spans."""
        return 1.0 / self._scale

    def on_paper(self, at: QPointF) -> np.ndarray:
        """Return (2,) mm of a place in pixels."""
        return np.array([(at.x() - self._origin.x()) / self._scale, (self._origin.y() - at.y()) / self._scale])

    def in_window(self, x: float, y: float) -> QPointF:
        """Pixels of a place in mm."""
        return QPointF(self._origin.x() + x * self._scale, self._origin.y() - y * self._scale)

    def rect_of(self, box: Box) -> QRectF:
        """Pixels of a box in mm."""
        return QRectF(self.in_window(box[0], box[3]), self.in_window(box[2], box[1]))

    def box(self, block: AnyBlock) -> Box:
        """Mm, where a block lies."""
        sheet = self._desk.sheet
        assert sheet is not None
        return box_of(block, self._session.project, sheet)

    def block_under(self, at: QPointF) -> AnyBlock | None:
        """Return the topmost block at a place in pixels."""
        sheet = self._desk.sheet
        if sheet is None:
            return None
        near = 3.0
        found = (b for b in reversed(sheet.blocks) if self.rect_of(self.box(b)).adjusted(-near, -near, near, near).contains(at))
        return next(found, None)

    def handles(self) -> dict[str, QPointF]:
        """Return the handles of the one that is picked, by the side they pull."""
        blocks = self._desk.blocks
        if len(blocks) != 1 or not _can_be_pulled(blocks[0]):
            return {}
        left, bottom, right, top = self.box(blocks[0])
        names = SIDES if isinstance(blocks[0], SceneFrame) else [n for n in SIDES if " " in n]
        return {n: self.in_window(left + SIDES[n][0] * (right - left), bottom + SIDES[n][1] * (top - bottom)) for n in names}

    # Painting --------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        sheet = self._desk.sheet
        if sheet is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        with never_dies():
            painter.fillRect(self.rect(), QColor(theme.current().sunken))
            paper = self.rect_of((0.0, 0.0, *sheet.paper))
            painter.fillRect(paper.translated(2.5, 3.0), QColor(0, 0, 0, 34))
            painter.fillRect(paper, QColor("white") if sheet.ground is None else QColor.fromRgbF(*sheet.ground))
            painter.save()
            painter.setClipRect(paper)
            self._paint_page(painter, sheet)
            painter.restore()
            self._paint_over(painter, sheet)
        painter.end()

    def _paint_page(self, painter: QPainter, sheet: Sheet) -> None:
        """The page as it will be printed; frames that wait for their picture show the scene's small one."""
        session = self._session
        north = 0.0 if session.building is None else north_of(session.project.site, session.building)
        page = page_of(session.project, sheet, {}, self._contents.legends(), empty=True, north=north)
        painter.setTransform(QTransform(self._scale, 0, 0, -self._scale, self._origin.x(), self._origin.y()), True)
        plotter = ScreenPlotter(painter)
        for part in page.parts:
            if part.picture is not None or part.drawing is not None:
                plot_part(part, plotter)
                continue
            block = sheet.block(part.block)
            found, current = self._contents.shown(part.block)
            if found is not None:
                whole = part if isinstance(block, SceneFrame) else _in_the_middle(part, found.what.paper)
                image = found.at(whole.size[0] * self._scale * self.devicePixelRatioF())
                plot_part(replace(whole, picture=b""), ScreenPlotter(painter, partial(_given, image)))
            elif isinstance(block, SceneFrame):
                self._paint_waiting(painter, part, block)
            if not current:
                self._paint_mark(painter, part, found is not None)
        plot_notes(page.marks, plotter)

    def _paint_waiting(self, painter: QPainter, part: PagePart, frame: SceneFrame) -> None:
        """The small picture of a scene, until its own is there."""
        scene = self._session.project.scene(frame.scene)
        data = None if scene is None else self._session.pictures.get(scene)
        if data:
            plot_part(replace(part, picture=data), ScreenPlotter(painter))
        left, bottom, right, top = part.box
        painter.fillRect(QRectF(left, bottom, right - left, top - bottom), QColor(255, 255, 255, 120))

    def _paint_mark(self, painter: QPainter, part: PagePart, stale: bool) -> None:
        """A word in the corner of what is not as it will be."""
        problem = self._contents.problems.get(part.block)
        text = problem or ("Out of date, being drawn…" if stale else "Being drawn…")
        corner = self.rect_of(part.box).topLeft()
        painter.save()
        painter.resetTransform()
        painter.setFont(theme.font(9))
        wide = min(painter.fontMetrics().horizontalAdvance(text) + 16, max(int(self.rect_of(part.box).width()) - 12, 60))
        box = QRectF(corner.x() + 6, corner.y() + 6, wide, 22)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.LIGHT.warning if problem else theme.LIGHT.ink))
        painter.drawRoundedRect(box, 5, 5)
        painter.setPen(QColor(theme.LIGHT.paper))
        elided = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(wide) - 12)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, elided)
        painter.restore()

    def _paint_over(self, painter: QPainter, sheet: Sheet) -> None:
        """What is never printed: guides, frames of what is picked, handles, what is drawn to."""
        accent = QColor(theme.LIGHT.accent)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        self._paint_grid(painter, sheet)
        painter.setPen(QPen(accent, 0.8, Qt.PenStyle.DashLine))
        for axis, at in sheet.guides:
            self._line(painter, axis == "x", at)
        painter.setPen(QPen(accent, 1.2))
        for upright, at in self.lines:
            self._line(painter, upright, at)
        for block in self._desk.blocks:
            painter.setPen(QPen(accent, 1.6))
            painter.drawRect(self.rect_of(self.box(block)).adjusted(-1, -1, 1, 1))
        for place in self.handles().values():
            painter.setPen(QPen(QColor("white"), 1.5))
            painter.setBrush(accent)
            painter.drawEllipse(place, HANDLE, HANDLE)
        for frame in sheet.frames:
            if self._session.project.scene(frame.scene) is None:
                painter.setPen(QPen(QColor(theme.LIGHT.warning), 1.5, Qt.PenStyle.DashLine))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                rect = self.rect_of(self.box(frame))
                painter.drawRect(rect)
                painter.setFont(theme.font(9))
                words = EMPTY if not frame.scene else "Its scene was deleted. Take it away, or choose another scene for it."
                painter.drawText(rect, int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap), words)
        if self.rectangle is not None:
            painter.setPen(QPen(accent, 1.0))
            painter.setBrush(QColor(accent.red(), accent.green(), accent.blue(), 22))
            painter.drawRect(self.rectangle)
        if not sheet.blocks:
            painter.setFont(theme.font(11))
            painter.setPen(QColor(theme.LIGHT.ink_faint))
            words = "Drag scenes here from the foot of the window, or lay them out in one step: Sheet, All scenes on this sheet."
            painter.drawText(self.rect_of(free_area(sheet)), int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap), words)

    def _paint_grid(self, painter: QPainter, sheet: Sheet) -> None:
        """Faint, within what is drawn on; left out where its lines would be a grey."""
        if sheet.grid is None or sheet.grid * self._scale < CLOSEST:
            return
        faint = QColor(theme.LIGHT.accent)
        faint.setAlpha(46)
        painter.setPen(QPen(faint, 0.8))
        left, bottom, right, top = area(sheet)
        for x in grid_lines(sheet, True):
            painter.drawLine(self.in_window(x, bottom), self.in_window(x, top))
        for y in grid_lines(sheet, False):
            painter.drawLine(self.in_window(left, y), self.in_window(right, y))

    def _line(self, painter: QPainter, upright: bool, at: float) -> None:
        spot = self.in_window(at, at)
        if upright:
            painter.drawLine(QPointF(spot.x(), 0.0), QPointF(spot.x(), self.height()))
        else:
            painter.drawLine(QPointF(0.0, spot.y()), QPointF(self.width(), spot.y()))


def _can_be_pulled(block: AnyBlock) -> bool:
    return block.kind in ("scene", "picture", "key plan", "contents")


def _in_the_middle(part: PagePart, size: tuple[float, float]) -> PagePart:
    """A part with something of so many mm in the middle of its box."""
    left, bottom, right, top = part.box
    return replace(part, size=size, offset=((size[0] - right + left) / 2, (size[1] - top + bottom) / 2))


def _given(image: QImage, png: bytes) -> QImage:
    """A picture that was read and made smaller already, whatever it is a picture of."""
    return image
