"""How something that is being drawn in a key drawing shows: its lines, where the pointer is drawn to, and what to click."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from anatome.app.base import theme
from anatome.app.key_drawings.tasks import PlanTask

Array = NDArray[np.float64]
ACCENT = QColor(theme.LIGHT.accent)
PAPER = QColor(theme.LIGHT.paper)


def paint_task(painter: QPainter, task: PlanTask, to_pixels: Callable[[Array], Array], room: QRect) -> None:
    """Draw it into the ``room`` of the drawing, whose metres ``to_pixels`` places."""
    for line in task.lines():
        points = QPolygonF([QPointF(x, y) for x, y in to_pixels(line).tolist()])
        painter.setPen(QPen(QColor(255, 255, 255, 200), 5.0))
        painter.drawPolyline(points)
        painter.setPen(QPen(ACCENT, 2.0))
        painter.drawPolyline(points)
    painter.setPen(QPen(PAPER, 1.2))
    painter.setBrush(ACCENT)
    for point in task.points:
        painter.drawEllipse(QPointF(*to_pixels(point)), 4.0, 4.0)
    if task.snapped and task.here is not None:
        _paint_snap(painter, to_pixels(task.here), task.snapped, room.width())
    _paint_hint(painter, task.hint, room)


def _paint_hint(painter: QPainter, words: str, room: QRect) -> None:
    painter.setFont(theme.font(9))
    place = QRectF(14, 10, room.width() - 28, 60)
    flags = int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
    needed = painter.fontMetrics().boundingRect(place.toRect(), flags, words)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(34, 38, 43, 225))
    painter.drawRoundedRect(QRectF(needed).adjusted(-9, -5, 9, 5), 6, 6)
    painter.setPen(PAPER)
    painter.drawText(place, flags, words)
    painter.setPen(QPen(ACCENT, 2.0))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(room.adjusted(1, 1, -1, -1))


def _paint_snap(painter: QPainter, at: Array, words: str, most: int) -> None:
    """A ring where the pointer is drawn to, and what is there."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(PAPER, 4.0), QPen(ACCENT, 1.8)):
        painter.setPen(pen)
        painter.drawEllipse(QPointF(*at), 6.0, 6.0)
    painter.setFont(theme.font(8.5, strong=True))
    width = painter.fontMetrics().horizontalAdvance(words) + 10
    box = QRectF(min(at[0] + 10, most - width - 4), at[1] + 8, width, 18)
    slip = QColor(PAPER)
    slip.setAlpha(235)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(slip)
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(ACCENT)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
