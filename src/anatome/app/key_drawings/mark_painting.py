"""Painting cuts into a key drawing: their lines, handles and letters."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from anatome.app.base import theme
from anatome.cuts.cut import AnyCut
from anatome.cuts.kinds.key_mark import KeyKnob, KeyMark

Array = NDArray[np.float64]

ACCENT, PAPER = QColor(theme.LIGHT.accent), QColor(theme.LIGHT.paper)


class Paper(Protocol):
    """Where marks are painted."""

    def to_pixels(self, flat: Array) -> Array:
        """Return (..., 2) pixels of (..., 2) metres."""

    def knob_place(self, knob: KeyKnob) -> Array:
        """Return (2,) pixels of a handle's own tip."""

    def width(self) -> int:
        """Pixels across."""

    def height(self) -> int:
        """Pixels from top to bottom."""


def paint_mark(painter: QPainter, cut: AnyCut, mark: KeyMark, picked: bool, paper: Paper) -> None:
    """Paint the lines of a cut, its handles and its letter."""
    colour = QColor(ACCENT)
    colour.setAlpha(255 if picked else 190)
    for stroke in mark.strokes:
        points = polygon(paper.to_pixels(stroke.points))
        painter.setPen(QPen(QColor(255, 255, 255, 170), 4.5))
        painter.drawPolyline(points)
        pen = QPen(colour, 2.2 if picked else 1.3)
        pen.setDashPattern([2, 3] if not cut.on or stroke.faint else [9, 2.5, 1.5, 2.5])
        painter.setPen(pen)
        painter.drawPolyline(points)
    if cut.peel and not picked:
        return  # a peel is many lines close together; handles and letters of one of them are enough
    for knob in mark.knobs:
        if cut.locked or (knob.points_to is not None and knob.out < 12 and not picked):
            continue
        _paint_knob(painter, knob, picked, colour, paper)
    if mark.strokes:
        first = mark.strokes[0].points
        end = paper.to_pixels(first[int(np.argmax(first @ np.array([1.0, 0.3])))])
        painter.setFont(theme.font(8.5, strong=True))
        painter.setPen(colour)
        looks = next((k.points_to for k in mark.knobs if k.points_to is not None), np.array([0.0, -1.0]))
        at = np.clip(end - 12 * looks * [1, -1], 10, [paper.width() - 10, paper.height() - 10])
        painter.drawText(QRectF(at[0] - 12, at[1] - 9, 24, 18), Qt.AlignmentFlag.AlignCenter, cut.mark)


def _paint_knob(painter: QPainter, knob: KeyKnob, picked: bool, colour: QColor, paper: Paper) -> None:
    foot, tip = paper.to_pixels(knob.at), paper.knob_place(knob)
    size = 6.0 if picked else 4.6
    if knob.points_to is None or (knob.hold == "turn" and knob.out > 13):
        painter.setPen(QPen(colour, 1.6))
        painter.drawLine(QPointF(*foot), QPointF(*tip))
        painter.setPen(QPen(PAPER if knob.hold == "whole" else colour, 1.4))
        painter.setBrush(colour if knob.hold == "whole" else PAPER)
        painter.drawEllipse(QPointF(*tip), size, size)
        return
    looks = knob.points_to * [1, -1]
    across = np.array([-looks[1], looks[0]])
    painter.setPen(QPen(colour, 2.0))
    painter.drawLine(QPointF(*foot), QPointF(*tip))
    painter.setPen(QPen(PAPER, 1.0))
    painter.setBrush(colour)
    corners = (tip + looks * size * 1.2, tip + across * size, tip - looks * size * 1.2, tip - across * size)
    painter.drawPolygon(polygon(np.array(corners)))


def polygon(points: Array) -> QPolygonF:
    """Return (n, 2) points as Qt has them."""
    return QPolygonF([QPointF(x, y) for x, y in points.tolist()])
