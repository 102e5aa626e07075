"""Writing drawings and pages as PDF in real millimetres: areas and lines as vectors, each layer one that can be switched."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from anatome.formats.pdf_notes import NAMES, POINT, draw_notes, draw_words, install_fonts
from anatome.linework.drawing import Area, Drawing, Ring, Strokes
from anatome.linework.page import Page, Part
from anatome.look.look import Rgb
from anatome.notes.lettering import lacking
from anatome.notes.marks import Words
from anatome.words import printable

WHITE: Rgb = (1.0, 1.0, 1.0)
MOST_NAMED = 12


def pdf_bytes(drawing: Drawing) -> bytes:
    """The drawing as one page as large as it is. The same drawing gives the same bytes."""
    title = f"{drawing.title}, 1:{drawing.scale:g}" if drawing.scale else drawing.title
    pen = _Pen(title, (drawing.width, drawing.height), subject=drawing.title)
    pen.drawing(drawing)
    pen.canvas.showPage()
    return pen.finished()


def pages_bytes(title: str, pages: Sequence[Page], author: str = "") -> bytes:
    """Pages in one file, each with a bookmark; ``author`` is who drew them."""
    pen = _Pen(title, (210.0, 297.0), author, ", ".join(page.title for page in pages))
    for number, page in enumerate(pages):
        pen.page(page, number)
    return pen.finished()


def boxes_in(content: Drawing | Sequence[Page]) -> str:
    """Say in words which letters of a drawing or of pages are empty boxes in a PDF, since the font has none; nothing where it has
    all."""
    letters = lacking(_texts(content))
    if not letters:
        return ""
    some = " ".join(letters[:MOST_NAMED]) + (" …" if len(letters) > MOST_NAMED else "")
    return f"; empty boxes stand for letters our font lacks: {some} (SVG and DXF keep them)"


def _texts(content: Drawing | Sequence[Page]) -> Iterator[str]:
    if isinstance(content, Drawing):
        yield from (label.text for layer in content.layers for label in layer.labels)
        yield from (words.text for note in (content.notes.sound if content.notes else ()) for words in note.words)
        return
    for page in content:
        yield from (words.text for note in page.marks.sound for words in note.words)
        for part in page.parts:
            yield from () if part.drawing is None else _texts(part.drawing)


class _Pen:
    """A file that is written, and the layers it has so far."""

    def __init__(self, title: str, size: tuple[float, float], author: str = "", subject: str = "") -> None:
        # A large library, wanted by those who write such a file.
        from reportlab.pdfgen.canvas import Canvas

        install_fonts()
        self._out = io.BytesIO()
        points = size[0] * POINT, size[1] * POINT
        self.canvas = Canvas(self._out, pagesize=points, invariant=1, pageCompression=1, initialFontName=NAMES[False])
        self.canvas.setTitle(printable(title))
        # Whoever drew it is named in the title block if anywhere; the writer's own "anonymous" and "unspecified" say nothing.
        self.canvas.setAuthor(printable(author))
        self.canvas.setSubject(printable(subject))
        self.canvas.setCreator("Anatome")
        self._start()
        self._layers: list[str] = []

    def _start(self) -> None:
        self.canvas.setLineJoin(1)
        self.canvas.setLineCap(1)

    def _begin(self, name: str) -> None:
        """What follows is on a layer; those of one name are one."""
        if name not in self._layers:
            self._layers.append(name)
        self.canvas._code.append(f"/OC /Layer{self._layers.index(name)} BDC")

    def _end(self) -> None:
        self.canvas._code.append("EMC")

    def page(self, page: Page, number: int) -> None:
        """One page more."""
        canvas = self.canvas
        canvas.setPageSize((page.width * POINT, page.height * POINT))
        self._start()
        canvas.bookmarkPage(f"sheet{number}")
        canvas.addOutlineEntry(printable(page.title), f"sheet{number}", 0)
        for part in page.parts:
            self._part(part)
        self._begin("Sheet")
        draw_notes(canvas, page.marks)
        self._end()
        canvas.showPage()

    def _part(self, part: Part) -> None:
        canvas = self.canvas
        left, bottom, right, top = (v * POINT for v in part.box)
        canvas.saveState()
        window = canvas.beginPath()
        window.rect(left, bottom, right - left, top - bottom)
        canvas.clipPath(window, stroke=0, fill=0)
        canvas.translate(left - part.offset[0] * POINT, bottom - part.offset[1] * POINT)
        if part.picture is not None:
            self._picture(part.picture, part.size)
        if part.drawing is not None:
            self.drawing(part.drawing)
        canvas.restoreState()
        if part.line:
            canvas.setStrokeColorRGB(0, 0, 0)
            canvas.setLineWidth(part.line * POINT)
            canvas.rect(left, bottom, right - left, top - bottom, stroke=1, fill=0)

    def _picture(self, picture: bytes, size: tuple[float, float]) -> None:
        from reportlab.lib.utils import ImageReader

        self._begin("Picture")
        image = ImageReader(io.BytesIO(picture))
        self.canvas.drawImage(image, 0, 0, size[0] * POINT, size[1] * POINT, mask="auto")
        self._end()

    def drawing(self, drawing: Drawing) -> None:
        """A drawing from the place that is set."""
        canvas = self.canvas
        if drawing.paper is not None:
            canvas.setFillColorRGB(*drawing.paper)
            canvas.rect(0, 0, drawing.width * POINT, drawing.height * POINT, stroke=0, fill=1)
        if drawing.picture is not None:
            self._picture(drawing.picture, (drawing.width, drawing.height))
        for layer in drawing.layers:
            self._begin(layer.name)
            for area in layer.areas:
                _area(canvas, area, drawing)
            for line in layer.lines:
                _pen(canvas, drawing.ink, drawing.line_width or 0.13)
                _polyline(canvas, (line.points,))
            for label in layer.labels:
                canvas.setFillColorRGB(*drawing.ink)
                at = np.array(label.at)
                draw_words(canvas, Words(label.text, at, np.array([1.0, 0.0]), np.array([0.0, 1.0]), label.height))
            self._end()
        for strokes in drawing.strokes:
            self._begin(strokes.name)
            _strokes(canvas, strokes)
            self._end()
        if drawing.notes is not None:
            self._begin("Notes")
            draw_notes(canvas, drawing.notes)
            self._end()

    def finished(self) -> bytes:
        """The file, its layers named, so that a reader offers them to be switched."""
        import pikepdf

        self.canvas.save()
        with pikepdf.open(io.BytesIO(self._out.getvalue())) as document:
            groups = [
                document.make_indirect(pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name=pikepdf.String(name)))
                for name in self._layers
            ]
            for page in document.pages:
                page.Resources.Properties = pikepdf.Dictionary({f"/Layer{i}": group for i, group in enumerate(groups)})
            order = pikepdf.Array(groups)
            document.Root.OCProperties = pikepdf.Dictionary(OCGs=order, D=pikepdf.Dictionary(Order=order, ON=order))
            out = io.BytesIO()
            document.save(out, deterministic_id=True)
        return out.getvalue()


def _pen(canvas: Any, ink: Rgb, weight: float, dashes: tuple[float, float] | None = None) -> None:
    canvas.setStrokeColorRGB(*ink)
    canvas.setLineWidth(weight * POINT)
    canvas.setDash([d * POINT for d in dashes] if dashes else [])
    canvas.setLineCap(0 if dashes else 1)


def _area(canvas: Any, area: Area, drawing: Drawing) -> None:
    from reportlab.lib.colors import Color

    path = canvas.beginPath()
    for polygon in area.polygons:
        for ring in polygon:
            _ring(path, ring[:-1])
            path.close()
    canvas.setFillColorRGB(*area.fill)
    if area.fades is not None:
        low, high = (y * POINT for y in area.fades)
        canvas.saveState()
        canvas.clipPath(path, stroke=0, fill=0, fillMode=0)
        canvas.linearGradient(0, low, 0, high, (Color(*(drawing.paper or WHITE)), Color(*area.fill)), extend=True)
        canvas.restoreState()
        return
    if drawing.line_width:
        _pen(canvas, drawing.ink, drawing.line_width)
    canvas.drawPath(path, stroke=1 if drawing.line_width else 0, fill=1, fillMode=0)


def _strokes(canvas: Any, strokes: Strokes) -> None:
    _pen(canvas, strokes.ink, strokes.weight, strokes.dashes)
    _polyline(canvas, strokes.lines)


def _polyline(canvas: Any, lines: tuple[Ring, ...]) -> None:
    path = canvas.beginPath()
    for line in lines:
        _ring(path, line)
    canvas.drawPath(path, stroke=1, fill=0)


def _ring(path: Any, points: Ring) -> None:
    (x, y), *rest = (points * POINT).tolist()
    path.moveTo(x, y)
    for x, y in rest:
        path.lineTo(x, y)
