"""Painting drawings and pages in millimetres: for the sheet in the window, and for sheets as pictures."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QColor, QImage, QLinearGradient, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from anatome.linework.drawing import Area, Drawing, Strokes
from anatome.linework.page import Page, Part
from anatome.look.look import Rgb
from anatome.notes.marks import VEIL
from anatome.render.notes import colour, on_paper, paint_note

WHITE: Rgb = (1.0, 1.0, 1.0)


def paint_drawing(painter: QPainter, drawing: Drawing) -> None:
    """A drawing on a painter that stands in mm, y upwards."""
    if drawing.paper is not None:
        painter.fillRect(QRectF(0, 0, drawing.width, drawing.height), colour(drawing.paper))
    if drawing.picture is not None:
        paint_picture(painter, QImage.fromData(drawing.picture), (drawing.width, drawing.height))
    for layer in drawing.layers:
        for area in layer.areas:
            _area(painter, area, drawing)
        for line in layer.lines:
            painter.setPen(QPen(colour(drawing.ink), drawing.line_width or 0.13))
            painter.drawPolyline(_line(line.points))
    for strokes in drawing.strokes:
        painter.setPen(_pen(strokes))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        path = QPainterPath()
        for points in strokes.lines:
            path.addPolygon(_line(points))
        painter.drawPath(path)
    if drawing.notes is not None:
        ink, veil = colour(drawing.notes.ink), colour(drawing.notes.paper, VEIL)
        for note in drawing.notes.sound:
            paint_note(painter, note, ink, veil)


@lru_cache(maxsize=16)
def image_in(data: bytes) -> QImage:
    """A picture that is read once, however often it is painted."""
    return QImage.fromData(data)


def paint_picture(painter: QPainter, image: QImage, size: tuple[float, float]) -> None:
    """A picture so many mm large, its lower left corner at the origin."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.setTransform(QTransform(1, 0, 0, -1, 0, size[1]), True)
    painter.drawImage(QRectF(0, 0, *size), image)
    painter.restore()


def paint_part(painter: QPainter, part: Part, image: QImage | None = None) -> None:
    """What fills a box of a page; ``image`` is its picture, where that is read already."""
    left, bottom, right, top = part.box
    box = QRectF(QPointF(left, bottom), QSizeF(right - left, top - bottom))
    painter.save()
    painter.setClipRect(box, Qt.ClipOperation.IntersectClip)
    painter.translate(left - part.offset[0], bottom - part.offset[1])
    if part.picture is not None:
        paint_picture(painter, image or image_in(part.picture), part.size)
    if part.drawing is not None:
        paint_drawing(painter, part.drawing)
    painter.restore()
    if part.line:
        painter.setPen(QPen(QColor("black"), part.line, j=Qt.PenJoinStyle.MiterJoin))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)


def page_image(page: Page, dpi: float) -> NDArray[np.uint8]:
    """(h, w, 4) RGBA, a page on white."""

    def paint(painter: QPainter) -> None:
        for part in page.parts:
            paint_part(painter, part)
        ink, veil = colour(page.marks.ink), colour(page.marks.paper, VEIL)
        for note in page.marks.sound:
            paint_note(painter, note, ink, veil)

    scale = dpi / 25.4
    size = max(round(page.width * scale), 1), max(round(page.height * scale), 1)
    return _painted(size, scale, page.height, WHITE, paint)


def drawing_image(drawing: Drawing, size: tuple[int, int], ground: Rgb) -> NDArray[np.uint8]:
    """(h, w, 4) RGBA, a drawing as large as ``size`` (width, height) in pixels, on a ground of one colour."""
    return _painted(size, size[1] / drawing.height, drawing.height, ground, lambda painter: paint_drawing(painter, drawing))


def _painted(
    size: tuple[int, int], scale: float, high: float, ground: Rgb, paint: Callable[[QPainter], None]
) -> NDArray[np.uint8]:
    """(h, w, 4) RGBA, what is painted in mm on paper so many mm ``high``, at ``scale`` pixels a mm."""
    width, height = size
    held = np.empty((height, width, 4), np.uint8)
    held[:] = (*(round(255 * c) for c in ground), 255)
    image = QImage(held.data, width, height, 4 * width, QImage.Format.Format_RGBA8888)
    painter = QPainter(image)
    on_paper(painter, scale, high)
    paint(painter)
    painter.end()
    return held


def _line(points: NDArray[np.float64]) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in points.tolist()])


def _pen(strokes: Strokes) -> QPen:
    pen = QPen(colour(strokes.ink), strokes.weight, c=Qt.PenCapStyle.RoundCap, j=Qt.PenJoinStyle.RoundJoin)
    if strokes.dashes is not None:
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        pen.setDashPattern([d / strokes.weight for d in strokes.dashes])
    return pen


def _area(painter: QPainter, area: Area, drawing: Drawing) -> None:
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for polygon in area.polygons:
        for ring in polygon:
            path.addPolygon(_line(ring))
    if area.fades is None:
        painter.fillPath(path, colour(area.fill))
    else:
        low, high = area.fades
        fading = QLinearGradient(0, low, 0, high)
        fading.setColorAt(0, colour(area.fill, 0.0))
        fading.setColorAt(1, colour(area.fill))
        painter.fillPath(path, fading)
    if drawing.line_width:
        painter.setPen(QPen(colour(drawing.ink), drawing.line_width))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
