"""Painting notes: the same on the stage and into pictures, with letters as outlines, so that no font of the machine has a say."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from anatome.notes.lettering import glyph
from anatome.notes.marks import VEIL, VEIL_ROOM, NoteMarks, NotesDrawn, Words

LEAST_SCALE = 1.6
"""Pixels a millimetre under which notes could not be read and are left out: in small pictures."""


@lru_cache(maxsize=2000)
def _path(text: str, strong: bool) -> QPainterPath:
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


def _letters(words: Words) -> QPainterPath:
    """The outline of words in mm on paper."""
    (a, b), (c, d) = words.right * words.height, words.up * words.height
    return QTransform(a, b, c, d, words.at[0], words.at[1]).map(_path(words.text, words.strong))


def paint_note(painter: QPainter, note: NoteMarks, ink: QColor, veil: QColor, veiled: bool = False) -> None:
    """One note on a painter that stands in mm, y upwards; if wanted ``veiled`` even where it would not be."""
    for words in note.words:
        if words.veil or veiled:
            painter.fillPath(_round(words), veil)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for stroke in note.strokes:
        line = QPolygonF([QPointF(x, y) for x, y in stroke.points.tolist()])
        if stroke.filled:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ink)
            painter.drawPolygon(line)
            painter.setBrush(Qt.BrushStyle.NoBrush)
        else:
            painter.setPen(QPen(ink, stroke.weight, c=Qt.PenCapStyle.FlatCap, j=Qt.PenJoinStyle.RoundJoin))
            painter.drawPolyline(line)
    for words in note.words:
        painter.fillPath(_letters(words), ink)


def _round(words: Words) -> QPainterPath:
    path = QPainterPath()
    path.addPolygon(QPolygonF([QPointF(x, y) for x, y in words.corners(VEIL_ROOM).tolist()]))
    path.closeSubpath()
    return path


def colour(rgb: tuple[float, float, float], alpha: float = 1.0) -> QColor:
    """A colour of 0..1."""
    return QColor.fromRgbF(*rgb, alpha)


def on_paper(painter: QPainter, scale: float, height: float) -> None:
    """Put a painter into mm, y upwards, for paper so many mm high at so many pixels a mm."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setTransform(QTransform(scale, 0, 0, -scale, 0, scale * height), True)


def noted(image: NDArray[np.uint8], notes: NotesDrawn | None) -> NDArray[np.uint8]:
    """A picture (h, w, 4) RGBA, not premultiplied, with the notes on it; unchanged where they could not be read."""
    scale = 0.0 if notes is None else image.shape[0] / notes.height
    if notes is None or scale < LEAST_SCALE or not notes.sound:
        return image
    return over_picture(image, layer(notes, (image.shape[1], image.shape[0])))


def over_picture(image: NDArray[np.uint8], over: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """A picture (h, w, 4) RGBA, not premultiplied, with another one over it."""
    alpha, under = over[..., 3:] / np.float32(255), image[..., 3:] / np.float32(255)
    whole = alpha + under * (1 - alpha)
    mixed = over[..., :3] * alpha + image[..., :3] * under * (1 - alpha)
    made = np.concatenate([mixed / np.maximum(whole, 1e-6), whole * 255], axis=-1)
    changed = over[..., 3] > 0
    found = image.copy()
    found[changed] = np.round(made[changed]).astype(np.uint8)
    return found


def layer(notes: NotesDrawn, size: tuple[int, int]) -> NDArray[np.uint8]:
    """(h, w, 4) RGBA, not premultiplied: the notes over nothing."""
    width, height = size
    held = np.zeros((height, width, 4), np.uint8)
    image = QImage(held.data, width, height, 4 * width, QImage.Format.Format_RGBA8888)
    painter = QPainter(image)
    on_paper(painter, height / notes.height, notes.height)
    ink, veil = colour(notes.ink), colour(notes.paper, VEIL)
    for note in notes.sound:
        paint_note(painter, note, ink, veil)
    painter.end()
    return held
