"""How notes, and what a task would do, are drawn over a picture of the building, wherever that picture is."""

from __future__ import annotations

from collections.abc import Collection, Iterable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from anatome.app.base import theme
from anatome.app.stage.handles import DIAMOND, Knob, preview_handles
from anatome.app.stage.tasks import Measure, Preview
from anatome.cuts.kinds.grip import plane_frame
from anatome.linework.plotting import Fill, plot_note
from anatome.notes.marks import VEIL, NoteMarks, NotesDrawn
from anatome.render.plotter import ScreenPlotter, on_paper
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
ACCENT = QColor(theme.LIGHT.accent)
INK = QColor(theme.LIGHT.ink)
PAPER = QColor(theme.LIGHT.paper)
SLATE = QColor(34, 38, 43, 225)
"""Under what is said on the picture."""
HELD = QColor(theme.LIGHT.accent_soft)
"""Behind the words of what is picked."""


def paint_preview(painter: QPainter, viewport: Viewport, preview: Preview, bounds: Array, room: QSize) -> None:
    """Draw what a task would do in a picture of the building with (2, 3) bounds: a new plane as a patch at the point, its whole
    extent and where it would look; outlines, dimensions and dots. Its notes lie on a paper, and are for others to draw."""
    viewport = viewport.at_home_of(preview.move)
    plane, point = preview.plane, preview.point
    if plane is not None and point is not None:
        whole = viewport.pixels(plane_frame(plane, bounds))
        if np.isfinite(whole).all():
            painter.setPen(QPen(ACCENT, 1.0, Qt.PenStyle.DashLine))
            painter.setBrush(QColor(47, 127, 115, 18))
            painter.drawPolygon(polygon(whole))
        half = 62.0 * viewport.metres_per_pixel(point)
        u, v = plane.axes
        patch = viewport.pixels(point + np.array([-u - v, u - v, u + v, v - u]) * half)
        if np.isfinite(patch).all():
            painter.setPen(QPen(ACCENT, 2.0))
            painter.setBrush(QColor(47, 127, 115, 70))
            painter.drawPolygon(polygon(patch))
        knob = preview_handles(plane, (float(point[0]), float(point[1]), float(point[2])), viewport)
        if knob is not None:
            paint_knob(painter, knob, False)
    paint_outlines(painter, viewport, preview.outlines)
    for measure in preview.measures:
        _paint_measure(painter, viewport, measure, room)
    for dot in preview.dots:
        at = viewport.pixels(dot)
        if np.isfinite(at).all():
            painter.setPen(QPen(PAPER, 1.5))
            painter.setBrush(ACCENT)
            painter.drawEllipse(QPointF(*at), 4.5, 4.5)


def paint_outlines(painter: QPainter, viewport: Viewport, outlines: Iterable[Array]) -> None:
    """Draw (n, 3) outlines in space, faintly filled."""
    fill = QColor(ACCENT)
    fill.setAlpha(40)
    painter.setPen(QPen(ACCENT, 1.8))
    painter.setBrush(fill)
    for outline in outlines:
        points = viewport.pixels(outline)
        if np.isfinite(points).all():
            painter.drawPolygon(polygon(points))


def paint_knob(painter: QPainter, knob: Knob, held: bool) -> None:
    """Draw the diamond on its stem, or the disc of what is moved anywhere."""
    a, b = QPointF(*knob.foot), QPointF(*knob.tip)
    if not knob.grip.travels:
        painter.setPen(QPen(PAPER, 2.0))
        painter.setBrush(INK if held else ACCENT)
        painter.drawEllipse(b, DIAMOND + held, DIAMOND + held)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(PAPER)
        painter.drawEllipse(b, 2.6, 2.6)
        return
    painter.setPen(QPen(QColor(255, 255, 255, 170), 5.0))
    painter.drawLine(a, b)
    painter.setPen(QPen(ACCENT, 2.0))
    painter.drawLine(a, b)
    painter.setBrush(PAPER)
    painter.drawEllipse(a, 3.2, 3.2)
    arm = knob.tip - knob.foot
    along = arm / max(float(np.hypot(*arm)), 1e-6)
    across = np.array([-along[1], along[0]])
    size = DIAMOND + (1.5 if held else 0.0)
    tip = knob.tip
    corners = np.stack([tip + along * size * 1.25, tip + across * size, tip - along * size * 1.25, tip - across * size])
    painter.setPen(QPen(PAPER, 1.5))
    painter.setBrush(INK if held else ACCENT)
    painter.drawPolygon(polygon(corners))


def _paint_measure(painter: QPainter, viewport: Viewport, measure: Measure, room: QSize) -> None:
    """A dimension: the line, a slash at either end, and its words beside it."""
    ends = viewport.pixels(np.stack([measure.a, measure.b]))
    if not np.isfinite(ends).all():
        return
    for pen in (QPen(QColor(255, 255, 255, 190), 4.5), QPen(ACCENT, 1.6)):
        painter.setPen(pen)
        painter.drawLine(QPointF(*ends[0]), QPointF(*ends[1]))
        for end in ends:
            painter.drawLine(QPointF(end[0] - 5, end[1] + 5), QPointF(end[0] + 5, end[1] - 5))
    painter.setFont(theme.font(9.5, strong=True))
    width = painter.fontMetrics().horizontalAdvance(measure.text) + 12
    arm = np.abs(ends[1] - ends[0])
    middle = ends.mean(axis=0) + (np.array([width / 2 + 8, -20]) if arm[1] > arm[0] else np.array([0, -16]))
    middle = np.clip(middle, [width / 2 + 6, 20], [room.width() - width / 2 - 6, room.height() - 50])
    box = QRectF(middle[0] - width / 2, middle[1] - 11, width, 22)
    painter.setPen(Qt.PenStyle.NoPen)
    slip = QColor(PAPER)
    slip.setAlpha(235)
    painter.setBrush(slip)
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(ACCENT)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, measure.text)


def paint_slip(painter: QPainter, room: QSize, text: str, at: QPointF, quiet: bool = False) -> None:
    """Draw words on a dark slip, or a ``quiet`` one of paper, whose upper left corner is at a place, as far as it is in the
    picture."""
    painter.setFont(theme.font(9))
    width = painter.fontMetrics().horizontalAdvance(text) + 16
    x, y = min(at.x(), room.width() - width - 8), min(at.y(), room.height() - 30)
    box = QRectF(max(x, 8), y, width, 22)
    painter.setPen(QPen(QColor(theme.LIGHT.rule), 1.0) if quiet else Qt.PenStyle.NoPen)
    painter.setBrush(PAPER if quiet else SLATE)
    painter.drawRoundedRect(box, 5, 5)
    painter.setPen(QColor(theme.LIGHT.ink_soft) if quiet else PAPER)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def paint_notes(
    painter: QPainter, drawn: NotesDrawn, height: float, picked: Collection[str] = (), ghosts: Iterable[NoteMarks] = ()
) -> None:
    """Draw what is written on a picture so many pixels high, what is ``picked`` of it in the accent, and what a task would
    write."""
    painter.save()
    on_paper(painter, height / drawn.height, drawn.height)
    plotter, veil = ScreenPlotter(painter), Fill(drawn.paper, VEIL)
    for note in drawn.sound:
        if note.note in picked:
            plot_note(note, _rgb(ACCENT), Fill(_rgb(HELD), HELD.alphaF()), plotter, veiled=True)
        else:
            plot_note(note, drawn.ink, veil, plotter)
    for note in ghosts:
        plot_note(note, _rgb(ACCENT), veil, plotter)
    painter.restore()


def polygon(points: Array) -> QPolygonF:
    """Return (n, 2) pixels as Qt has them."""
    return QPolygonF([QPointF(x, y) for x, y in points.tolist()])


def _rgb(colour: QColor) -> tuple[float, float, float]:
    return colour.redF(), colour.greenF(), colour.blueF()
