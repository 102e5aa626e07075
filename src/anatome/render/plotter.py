"""Drawings, notes and pages on the screen and in pictures: with letters as outlines, so that no font of the machine has a say."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QLinearGradient, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from anatome.linework.drawing import Area, Ring
from anatome.linework.plotting import Fill, Owner, Rings
from anatome.look.look import Rgb
from anatome.look.pens import Pen
from anatome.notes.lettering import glyph
from anatome.notes.marks import NoteMarks, Words


@lru_cache(maxsize=16)
def image_in(png: bytes) -> QImage:
    """Return a picture that is read once, however often it is painted."""
    return QImage.fromData(png)


class ScreenPlotter:
    """A painter that stands in mm, y upwards (``on_paper``). ``images`` says what pictures look like, where they are read."""

    def __init__(self, painter: QPainter, images: Callable[[bytes], QImage] = image_in) -> None:
        self._painter, self._images = painter, images

    def begin_layer(self, name: str, pen: Pen | None, classes: Sequence[str] = ()) -> None:
        """Go on: there are no layers on a screen."""

    def end_layer(self) -> None:
        """Go on."""

    def begin_window(self, box: tuple[float, float, float, float], offset: tuple[float, float]) -> None:
        """Clip what follows to a box of the page."""
        left, bottom, right, top = box
        self._painter.save()
        self._painter.setClipRect(QRectF(left, bottom, right - left, top - bottom), Qt.ClipOperation.IntersectClip)
        self._painter.translate(left - offset[0], bottom - offset[1])

    def end_window(self) -> None:
        """End the clip."""
        self._painter.restore()

    def ground(self, size: tuple[float, float], colour: Rgb) -> None:
        """Fill the paper."""
        self._painter.fillRect(QRectF(0, 0, *size), colour_of(colour))

    def picture(self, png: bytes, size: tuple[float, float]) -> None:
        """Draw a picture."""
        self._painter.save()
        self._painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        self._painter.setTransform(QTransform(1, 0, 0, -1, 0, size[1]), True)
        self._painter.drawImage(QRectF(0, 0, *size), self._images(png))
        self._painter.restore()

    def area(self, polygons: Rings, fill: Fill, pen: Pen | None, owner: Owner | None) -> None:
        """Fill polygons by the even-odd rule."""
        path = QPainterPath()
        path.setFillRule(Qt.FillRule.OddEvenFill)
        for rings in polygons:
            for ring in rings:
                path.addPolygon(_polygon(ring))
        whole = colour_of(fill.colour, fill.alpha)
        if fill.fades is None:
            self._painter.fillPath(path, whole)
        else:
            fading = QLinearGradient(0, fill.fades[0], 0, fill.fades[1])
            fading.setColorAt(0, colour_of(fill.colour, 0.0))
            fading.setColorAt(1, whole)
            self._painter.fillPath(path, fading)
        if pen is not None:
            self._painter.strokePath(path, _qpen(pen))

    def hatch(self, areas: Sequence[Area]) -> bool:
        """Leave it: hatches are lines here."""
        return False

    def lines(self, lines: Sequence[Ring], pen: Pen, owner: Owner | None) -> None:
        """Draw polylines."""
        path = QPainterPath()
        for line in lines:
            path.addPolygon(_polygon(line))
        self._painter.strokePath(path, _qpen(pen))

    def words(self, words: Words, ink: Rgb) -> None:
        """Draw a line of text."""
        (a, b), (c, d) = words.right * words.height, words.up * words.height
        letters = QTransform(a, b, c, d, words.at[0], words.at[1]).map(_letters(words.text, words.strong))
        self._painter.fillPath(letters, colour_of(ink))

    def begin_note(self, note: NoteMarks) -> None:
        """Go on: a note is strokes and words here."""

    def end_note(self) -> None:
        """Go on."""


def on_paper(painter: QPainter, scale: float, height: float) -> None:
    """Put a painter into mm, y upwards, for paper so many mm high at so many pixels a mm."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setTransform(QTransform(scale, 0, 0, -scale, 0, scale * height), True)


def colour_of(rgb: Rgb, alpha: float = 1.0) -> QColor:
    """Return a colour of 0..1."""
    return QColor.fromRgbF(*rgb, alpha)


def _polygon(points: Ring) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in points.tolist()])


def _qpen(pen: Pen) -> QPen:
    ends = Qt.PenCapStyle.RoundCap if pen.has_round_ends else Qt.PenCapStyle.FlatCap
    made = QPen(colour_of(pen.ink), pen.weight, c=ends, j=Qt.PenJoinStyle.RoundJoin)
    if pen.dashes is not None:
        made.setDashPattern([d / pen.weight for d in pen.dashes])
    return made


@lru_cache(maxsize=2000)
def _letters(text: str, strong: bool) -> QPainterPath:
    """The outline of a line of text, a capital one unit high, y upwards."""
    path, at = QPainterPath(), 0.0
    path.setFillRule(Qt.FillRule.WindingFill)
    for letter in text:
        found = glyph(letter, strong)
        for what, points in found.outline:
            spots = [QPointF(x + at, y) for x, y in points]
            if what == "move":
                path.moveTo(spots[0])
            elif what == "line":
                path.lineTo(spots[0])
            elif what == "curve" and len(spots) == 2:
                path.quadTo(spots[0], spots[1])
            elif what == "curve":
                path.cubicTo(spots[0], spots[1], spots[2])
            else:
                path.closeSubpath()
        at += found.advance
    return path
