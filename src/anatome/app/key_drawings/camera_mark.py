"""The camera in a key drawing: where it stands, which way it looks, how much it takes in. Nothing lies over the drawing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

Array = NDArray[np.float64]
WIDEST = 40.0
"""Times its distance that a cone may be wide to be drawn true."""
SEEN_END_ON = 3.0
"""Pixels from eye to aim under which there is nothing to draw."""


HALF_GRIP = 3.0


@dataclass(frozen=True, eq=False)
class CameraMark:
    """In pixels of the drawing: ``eye`` and ``aim`` as they are drawn, the ``true`` distance between them, and half the width of
    the picture at the aim. ``converges`` in perspective; else a bracket at the eye is at most ``room`` wide.
    """

    eye: Array
    aim: Array
    true: float
    half: float
    converges: bool
    room: float

    @property
    def _length(self) -> float:
        return float(np.hypot(*(self.aim - self.eye)))

    @property
    def _axes(self) -> tuple[Array, Array]:
        along = (self.aim - self.eye) / max(self._length, 1e-9)
        return along, np.array([-along[1], along[0]])

    def ends(self) -> tuple[Array, ...]:
        """Return the far ends of the cone, which lie in the plane of the picture, or the ends of the bracket; none where it is
        seen end on."""
        if self._length < SEEN_END_ON:
            return ()
        _, across = self._axes
        if not self.converges:
            reach = across * min(self.half, self.room / 2)
            return self.eye + reach, self.eye - reach
        reach = across * self._length * min(self.half / max(self.true, 1.0), WIDEST)
        return self.aim + reach, self.aim - reach

    def opened_to(self, now: Array) -> float | None:
        """Return how many times wider it is when one of its ends is dragged to a place; None where that has no meaning."""
        along, across = self._axes
        arm = now - self.eye
        side = abs(float(arm @ across))
        if not self.converges:
            return max(side, 2.0) / max(min(self.half, self.room / 2), 1e-9)
        ahead = float(arm @ along)
        if ahead < 2.0:
            return None
        return max(side / ahead, 0.01) / max(self.half / max(self.true, 1.0), 1e-9)

    def along(self, now: Array) -> float | None:
        """Return how far a place is along the line of sight, in shares of the way to the aim."""
        along, _ = self._axes
        ahead = float((now - self.eye) @ along)
        return max(ahead, 2.0) / self._length if self._length >= SEEN_END_ON else None

    def paint(self, painter: QPainter, ink: QColor, paper: QColor) -> None:
        """Draw it."""
        ends = self.ends()
        if not ends:
            return
        along, _ = self._axes
        line = QColor(ink)
        line.setAlpha(120)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.converges:
            self._cone(painter, ends, line)
        else:
            self._bracket(painter, along, ends, line)
        painter.setBrush(ink)
        painter.setPen(QPen(paper, 1.5))
        painter.drawEllipse(QPointF(*self.eye), 5.0, 5.0)
        painter.setBrush(paper)
        painter.setPen(QPen(ink, 1.4))
        painter.drawEllipse(QPointF(*self.aim), 3.5, 3.5)
        painter.setPen(QPen(ink, 1.0))
        for end in ends:
            painter.drawRect(QRectF(end[0] - HALF_GRIP, end[1] - HALF_GRIP, 2 * HALF_GRIP, 2 * HALF_GRIP))

    def _cone(self, painter: QPainter, ends: tuple[Array, ...], line: QColor) -> None:
        painter.setPen(QPen(line, 1.0))
        for end in ends:
            painter.drawLine(QPointF(*self.eye), QPointF(*end))
        dashes = QPen(line, 1.0)
        dashes.setDashPattern([3, 3])
        painter.setPen(dashes)
        painter.drawLine(QPointF(*ends[0]), QPointF(*ends[1]))
        wash = QColor(line)
        wash.setAlpha(10)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(wash)
        painter.drawPolygon(QPolygonF([QPointF(*p) for p in (self.eye, *ends)]))

    def _bracket(self, painter: QPainter, along: Array, ends: tuple[Array, ...], line: QColor) -> None:
        """Parallel lines of sight: the width of the picture as a bracket at the eye, and one line to what it is aimed at."""
        painter.setPen(QPen(line, 1.4))
        painter.drawLine(QPointF(*ends[0]), QPointF(*ends[1]))
        for end in ends:
            painter.drawLine(QPointF(*end), QPointF(*(end + along * 7.0)))
        dashes = QPen(line, 1.0)
        dashes.setDashPattern([2, 4])
        painter.setPen(dashes)
        painter.drawLine(QPointF(*self.eye), QPointF(*self.aim))
