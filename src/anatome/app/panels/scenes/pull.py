"""The edge over the row of scenes: pulled up, or pressed, it opens the page of all scenes."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from anatome.app.base import theme

HEIGHT = 6
FAR = 26
"""Pixels it is pulled until the page opens, or closes."""


class PullEdge(QWidget):
    """``pulled`` says whether upwards."""

    pulled = Signal(bool)
    pressed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(HEIGHT)
        self.setCursor(Qt.CursorShape.SizeVerCursor)
        self.setToolTip("Pull up, or press: all scenes as a page of large pictures, in sets (F4)")
        self._start: float | None = None
        self._over = False

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._start, self._over = event.globalPosition().y(), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._start is None or self._over:
            return
        away = self._start - event.globalPosition().y()
        if abs(away) > FAR:
            self._over = True
            self.pulled.emit(away > 0)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._start is not None and not self._over:
            self.pressed.emit()
        self._start = None

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = theme.current()
        painter.setPen(QPen(QColor(colours.ink_soft if self.underMouse() else colours.ink_faint), 2, c=Qt.PenCapStyle.RoundCap))
        middle = self.width() / 2
        painter.drawLine(round(middle - 14), HEIGHT // 2, round(middle + 14), HEIGHT // 2)
        painter.end()
