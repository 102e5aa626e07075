"""Notes in PDF: strokes as vectors, words as text in the shipped font, which is embedded."""

from __future__ import annotations

from typing import Any

from anatome.notes.lettering import capital, font_file
from anatome.notes.marks import VEIL, VEIL_ROOM, NotesDrawn, Words
from anatome.words import printable

POINT = 72 / 25.4
"""Points in a millimetre."""
NAMES = {False: "SourceSans3", True: "SourceSans3-Semibold"}


def install_fonts() -> None:
    """Let the writer know the shipped letters."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    for strong, name in NAMES.items():
        if name not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(name, str(font_file(strong))))


def draw_words(canvas: Any, words: Words) -> None:
    """A line of text, in the colour that is set."""
    text = canvas.beginText()
    text.setFont(NAMES[words.strong], words.height * POINT / capital(words.strong))
    (a, b), (c, d), (x, y) = words.right, words.up, words.at
    text.setTextTransform(a, b, c, d, x * POINT, y * POINT)
    text.textOut(printable(words.text))
    canvas.drawText(text)


def draw_notes(canvas: Any, notes: NotesDrawn) -> None:
    """All that is written, over what is drawn."""
    canvas.setDash([])
    canvas.setLineCap(0)
    for note in notes.sound:
        canvas.setFillColorRGB(*notes.paper)
        canvas.setFillAlpha(VEIL)
        for words in note.words:
            if words.veil:
                _outline(canvas, words.corners(VEIL_ROOM).tolist(), filled=True)
        canvas.setFillAlpha(1)
        canvas.setFillColorRGB(*notes.ink)
        canvas.setStrokeColorRGB(*notes.ink)
        for stroke in note.strokes:
            canvas.setLineWidth(stroke.weight * POINT)
            _outline(canvas, stroke.points.tolist(), stroke.filled)
        for words in note.words:
            draw_words(canvas, words)


def _outline(canvas: Any, points: list[list[float]], filled: bool) -> None:
    path = canvas.beginPath()
    (x, y), *rest = points
    path.moveTo(x * POINT, y * POINT)
    for x, y in rest:
        path.lineTo(x * POINT, y * POINT)
    canvas.drawPath(path, stroke=0 if filled else 1, fill=1 if filled else 0)
