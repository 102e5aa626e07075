"""The camera in a key drawing: where it stands, which way it looks, how much it takes in. Nothing lies over the drawing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

Array = NDArray[np.float64]
WIDEST = 40.0
"""Times its distance that a cone may be wide to be drawn true."""


@dataclass(frozen=True, eq=False)
class CameraMark:
    """In pixels of the drawing: ``eye`` and ``aim`` as they are drawn, the ``true`` distance between them, and half the width of
    the picture at the aim. ``converges`` in perspective.
    """

    eye: Array
    aim: Array
    true: float
    half: float
    converges: bool

    def paint(self, painter: QPainter, ink: QColor, paper: QColor, room: float) -> None:
        """Draw it; a bracket is at most ``room`` pixels wide."""
        arm = self.aim - self.eye
        length = float(np.hypot(*arm))
        if length < 3.0:
            return
        along = arm / length
        across = np.array([-along[1], along[0]])
        line = QColor(ink)
        line.setAlpha(120)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.converges:
            self._cone(painter, across * length * min(self.half / max(self.true, 1.0), WIDEST), line)
        else:
            self._bracket(painter, along, across * min(self.half, room / 2), line)
        painter.setBrush(ink)
        painter.setPen(QPen(paper, 1.5))
        painter.drawEllipse(QPointF(*self.eye), 5.0, 5.0)
        painter.setBrush(paper)
        painter.setPen(QPen(ink, 1.4))
        painter.drawEllipse(QPointF(*self.aim), 3.5, 3.5)

    def _cone(self, painter: QPainter, reach: Array, line: QColor) -> None:
        painter.setPen(QPen(line, 1.0))
        ends = self.aim + reach, self.aim - reach
        for end in ends:
            painter.drawLine(QPointF(*self.eye), QPointF(*end))
        wash = QColor(line)
        wash.setAlpha(10)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(wash)
        painter.drawPolygon(QPolygonF([QPointF(*p) for p in (self.eye, *ends)]))

    def _bracket(self, painter: QPainter, along: Array, reach: Array, line: QColor) -> None:
        """Parallel lines of sight: the width of the picture as a bracket at the eye, and one line to what it is aimed at."""
        ends = self.eye + reach, self.eye - reach
        painter.setPen(QPen(line, 1.4))
        painter.drawLine(QPointF(*ends[0]), QPointF(*ends[1]))
        for end in ends:
            painter.drawLine(QPointF(*end), QPointF(*(end + along * 7.0)))
        dashes = QPen(line, 1.0)
        dashes.setDashPattern([2, 4])
        painter.setPen(dashes)
        painter.drawLine(QPointF(*self.eye), QPointF(*self.aim))
