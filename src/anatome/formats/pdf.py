"""Writing drawings and pages as PDF in real millimetres: areas and lines as vectors, words as text in the shipped font, which is
embedded, and each layer one that can be switched."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from typing import Any

from anatome.linework.drawing import Area, Drawing, Ring
from anatome.linework.page import Page, PageTile
from anatome.linework.plotting import Fill, Owner, Rings, plot, plot_page, plot_tile
from anatome.look.look import Rgb
from anatome.look.pens import Pen
from anatome.notes.lettering import capital, font_file, lacking
from anatome.notes.marks import NoteMarks, Words
from anatome.words import printable

POINT = 72 / 25.4
"""Points in a millimetre."""
FONTS = {False: "SourceSans3", True: "SourceSans3-Semibold"}
MOST_NAMED = 12


def pdf_bytes(drawing: Drawing) -> bytes:
    """Return a drawing as one page as large as it is. The same drawing gives the same bytes."""
    title = f"{drawing.title}, 1:{drawing.scale:g}" if drawing.scale else drawing.title
    plotter = PdfPlotter(title, subject=drawing.title)
    plotter.begin_page((drawing.width, drawing.height))
    plot(drawing, plotter)
    plotter.end_page()
    return plotter.finished()


def pages_bytes(title: str, pages: Sequence[Page], author: str = "") -> bytes:
    """Return pages in one file, each with a bookmark; ``author`` is who drew them."""
    plotter = PdfPlotter(title, author, ", ".join(page.title for page in pages))
    for page in pages:
        plotter.begin_page((page.width, page.height), page.title)
        plot_page(page, plotter)
        plotter.end_page()
    return plotter.finished()


def tiles_bytes(title: str, tiles: Sequence[PageTile], author: str = "") -> bytes:
    """Return the pieces of pages in one file, each a page with a bookmark."""
    plotter = PdfPlotter(title, author, ", ".join(dict.fromkeys(tile.page.title for tile in tiles)))
    for tile in tiles:
        plotter.begin_page(tile.size, tile.title)
        plot_tile(tile, plotter)
        plotter.end_page()
    return plotter.finished()


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


class PdfPlotter:
    """A file that is written page by page. What the names of layers and fades in its pages mean is added at the end: the writer
    knows neither."""

    def __init__(self, title: str, author: str = "", subject: str = "") -> None:
        # A large library, wanted by those who write such a file.
        from reportlab import rl_config
        from reportlab.pdfgen.canvas import Canvas

        rl_config.useA85 = 0  # bytes as they are: a quarter less to write, and no loop over all of them
        _install_fonts()
        self._out = io.BytesIO()
        self._canvas = Canvas(self._out, invariant=1, pageCompression=1, initialFontName=FONTS[False])
        self._canvas.setTitle(printable(title))
        # Whoever drew it is named in the title block if anywhere; the writer's own "anonymous" and "unspecified" say nothing.
        self._canvas.setAuthor(printable(author))
        self._canvas.setSubject(printable(subject))
        self._canvas.setCreator("Anatome")
        self._layers: list[str] = []
        self._fades: list[tuple[float, float]] = []
        self._pages = 0

    def begin_page(self, size: tuple[float, float], bookmark: str = "") -> None:
        """Begin a page so many mm large, with a bookmark if it has a name."""
        canvas = self._canvas
        canvas.setPageSize((size[0] * POINT, size[1] * POINT))
        canvas.setLineJoin(1)
        if bookmark:
            canvas.bookmarkPage(f"sheet{self._pages}")
            canvas.addOutlineEntry(printable(bookmark), f"sheet{self._pages}", 0)
        self._pages += 1

    def end_page(self) -> None:
        """End the page."""
        self._canvas.showPage()

    def begin_layer(self, name: str, pen: Pen | None, classes: Sequence[str] = ()) -> None:
        """Put what follows on a layer; those of one name are one."""
        if name not in self._layers:
            self._layers.append(name)
        self._canvas.addLiteral(f"/OC /Layer{self._layers.index(name)} BDC")

    def end_layer(self) -> None:
        """End the layer."""
        self._canvas.addLiteral("EMC")

    def begin_window(self, box: tuple[float, float, float, float], offset: tuple[float, float]) -> None:
        """Clip what follows to a box of the page."""
        left, bottom, right, top = (v * POINT for v in box)
        self._canvas.saveState()
        window = self._canvas.beginPath()
        window.rect(left, bottom, right - left, top - bottom)
        self._canvas.clipPath(window, stroke=0, fill=0)
        self._canvas.translate(left - offset[0] * POINT, bottom - offset[1] * POINT)

    def end_window(self) -> None:
        """End the clip."""
        self._canvas.restoreState()

    def ground(self, size: tuple[float, float], colour: Rgb) -> None:
        """Fill the paper."""
        self._canvas.setFillColorRGB(*colour)
        self._canvas.rect(0, 0, size[0] * POINT, size[1] * POINT, stroke=0, fill=1)

    def picture(self, png: bytes, size: tuple[float, float]) -> None:
        """Put a picture into the file."""
        from reportlab.lib.utils import ImageReader

        self._canvas.drawImage(ImageReader(io.BytesIO(png)), 0, 0, size[0] * POINT, size[1] * POINT, mask="auto")

    def area(self, polygons: Rings, fill: Fill, pen: Pen | None, owner: Owner | None) -> None:
        """Fill polygons by the even-odd rule."""
        canvas = self._canvas
        path = canvas.beginPath()
        for rings in polygons:
            for ring in rings:
                _through(path, ring[:-1])
                path.close()
        special = fill.alpha < 1 or fill.fades is not None
        if special:
            canvas.saveState()
            canvas.setFillAlpha(fill.alpha)
        if fill.fades is not None:
            if fill.fades not in self._fades:
                self._fades.append(fill.fades)
            canvas.addLiteral(f"/Fade{self._fades.index(fill.fades)} gs")
        canvas.setFillColorRGB(*fill.colour)
        if pen is not None:
            self._take(pen)
        canvas.drawPath(path, stroke=0 if pen is None else 1, fill=1, fillMode=0)
        if special:
            canvas.restoreState()

    def hatch(self, areas: Sequence[Area]) -> bool:
        """Leave it: hatches are lines here."""
        return False

    def lines(self, lines: Sequence[Ring], pen: Pen, owner: Owner | None) -> None:
        """Draw one path for all lines."""
        self._take(pen)
        path = self._canvas.beginPath()
        for line in lines:
            _through(path, line)
        self._canvas.drawPath(path, stroke=1, fill=0)

    def words(self, words: Words, ink: Rgb) -> None:
        """Draw a line of text."""
        self._canvas.setFillColorRGB(*ink)
        text = self._canvas.beginText()
        text.setFont(FONTS[words.strong], words.height * POINT / capital(words.strong))
        (a, b), (c, d), (x, y) = words.right, words.up, words.at
        text.setTextTransform(a, b, c, d, x * POINT, y * POINT)
        text.textOut(printable(words.text))
        self._canvas.drawText(text)

    def begin_note(self, note: NoteMarks) -> None:
        """Go on: a note is strokes and words here."""

    def end_note(self) -> None:
        """Go on."""

    def finished(self) -> bytes:
        """Return the file, its layers named, so that a reader offers them to be switched."""
        import pikepdf

        self._canvas.save()
        with pikepdf.open(io.BytesIO(self._out.getvalue())) as document:
            groups = [
                document.make_indirect(pikepdf.Dictionary(Type=pikepdf.Name.OCG, Name=pikepdf.String(name)))
                for name in self._layers
            ]
            fades = {f"/Fade{i}": _soft_mask(document, *fades) for i, fades in enumerate(self._fades)}
            for page in document.pages:
                page.Resources.Properties = pikepdf.Dictionary({f"/Layer{i}": group for i, group in enumerate(groups)})
                if fades:
                    known: Any = page.Resources.get("/ExtGState", {})
                    page.Resources.ExtGState = pikepdf.Dictionary({**dict(known.items()), **fades})
            order = pikepdf.Array(groups)
            document.Root.OCProperties = pikepdf.Dictionary(OCGs=order, D=pikepdf.Dictionary(Order=order, ON=order))
            out = io.BytesIO()
            document.save(out, deterministic_id=True)
        return out.getvalue()

    def _take(self, pen: Pen) -> None:
        """Draw with a pen from now on."""
        self._canvas.setStrokeColorRGB(*pen.ink)
        self._canvas.setLineWidth(pen.weight * POINT)
        self._canvas.setDash([d * POINT for d in pen.dashes or ()])
        self._canvas.setLineCap(1 if pen.has_round_ends else 0)


def _install_fonts() -> None:
    """Let the writer know the shipped letters."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    for strong, name in FONTS.items():
        if name not in pdfmetrics.getRegisteredFontNames():
            pdfmetrics.registerFont(TTFont(name, str(font_file(strong))))


def _through(path: Any, points: Ring) -> None:
    (x, y), *rest = (points * POINT).tolist()
    path.moveTo(x, y)
    for x, y in rest:
        path.lineTo(x, y)


def _soft_mask(document: Any, low: float, high: float) -> Any:
    """A state of graphics that shows nothing below ``low`` mm, all above ``high`` and more and more between them (ISO 32000-1,
    11.5.3, soft masks from the luminosity of a group; from memory, checked by drawing such a file with another library)."""
    from pikepdf import Array, Dictionary, Name

    grey = Dictionary(FunctionType=2, Domain=[0, 1], C0=[0], C1=[1], N=1)
    rises = Dictionary(
        ShadingType=2,
        ColorSpace=Name.DeviceGray,
        Coords=[0, low * POINT, 0, high * POINT],
        Function=grey,
        Extend=Array([True, True]),
    )
    group = document.make_stream(b"/Rises sh")
    group.Type, group.Subtype, group.FormType = Name.XObject, Name.Form, 1
    group.BBox = Array([-14400, -14400, 14400, 14400])
    group.Group = Dictionary(S=Name.Transparency, CS=Name.DeviceGray)
    group.Resources = Dictionary(Shading=Dictionary(Rises=rises))
    return document.make_indirect(
        Dictionary(Type=Name.ExtGState, SMask=Dictionary(Type=Name.Mask, S=Name.Luminosity, G=document.make_indirect(group)))
    )
