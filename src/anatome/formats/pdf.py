"""Writing a drawing as PDF in real millimetres: areas and lines as vectors, each layer one that can be switched."""

from __future__ import annotations

import io
from typing import Any

import numpy as np

from anatome.formats.pdf_notes import NAMES, POINT, draw_notes, draw_words, install_fonts
from anatome.linework.drawing import Area, Drawing, Ring, Strokes
from anatome.look.look import Rgb
from anatome.notes.marks import Words

WHITE: Rgb = (1.0, 1.0, 1.0)


def pdf_bytes(drawing: Drawing) -> bytes:
    """The drawing as one page as large as it is. The same drawing gives the same bytes."""
    # Large libraries, wanted by those who write such a file.
    import pikepdf
    from reportlab.lib.utils import ImageReader
    from reportlab.pdfgen.canvas import Canvas

    out = io.BytesIO()
    install_fonts()
    size = drawing.width * POINT, drawing.height * POINT
    canvas = Canvas(out, pagesize=size, invariant=1, pageCompression=1, initialFontName=NAMES[False])
    canvas.setTitle(f"{drawing.title}, 1:{drawing.scale:g}" if drawing.scale else drawing.title)
    canvas.setLineJoin(1)
    canvas.setLineCap(1)
    names: list[str] = []

    def begin(name: str) -> None:
        canvas._code.append(f"/OC /Layer{len(names)} BDC")
        names.append(name)

    if drawing.paper is not None:
        canvas.setFillColorRGB(*drawing.paper)
        canvas.rect(0, 0, drawing.width * POINT, drawing.height * POINT, stroke=0, fill=1)
    if drawing.picture is not None:
        begin("Picture")
        image = ImageReader(io.BytesIO(drawing.picture))
        canvas.drawImage(image, 0, 0, drawing.width * POINT, drawing.height * POINT, mask="auto")
        canvas._code.append("EMC")
    for layer in drawing.layers:
        begin(layer.name)
        for area in layer.areas:
            _area(canvas, area, drawing)
        for line in layer.lines:
            _pen(canvas, drawing.ink, drawing.line_width or 0.13)
            _polyline(canvas, (line.points,))
        for label in layer.labels:
            canvas.setFillColorRGB(*drawing.ink)
            at = np.array(label.at)
            draw_words(canvas, Words(label.text, at, np.array([1.0, 0.0]), np.array([0.0, 1.0]), label.height))
        canvas._code.append("EMC")
    for strokes in drawing.strokes:
        begin(strokes.name)
        _strokes(canvas, strokes)
        canvas._code.append("EMC")
    if drawing.notes is not None:
        begin("Notes")
        draw_notes(canvas, drawing.notes)
        canvas._code.append("EMC")
    canvas.showPage()
    canvas.save()
    return _with_layers(pikepdf, out.getvalue(), names)


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


def _with_layers(pikepdf: Any, data: bytes, names: list[str]) -> bytes:
    """The same page with its layers named, so that a reader offers them to be switched."""
    with pikepdf.open(io.BytesIO(data)) as document:
        page = document.pages[0]
        groups = [document.make_indirect(pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name=pikepdf.String(name))) for name in names]
        page.Resources.Properties = pikepdf.Dictionary({f"/Layer{i}": group for i, group in enumerate(groups)})
        order = pikepdf.Array(groups)
        document.Root.OCProperties = pikepdf.Dictionary(OCGs=order, D=pikepdf.Dictionary(Order=order, ON=order))
        out = io.BytesIO()
        document.save(out, deterministic_id=True)
    return out.getvalue()
