"""Writing a drawing as SVG in real millimetres, with the letters it uses in the file."""

from __future__ import annotations

import base64
import io
from collections.abc import Sequence

import numpy as np
from lxml import etree

from anatome.linework.drawing import Area, Drawing, Ring
from anatome.linework.plotting import Fill, Owner, Rings, plot
from anatome.look.look import Rgb
from anatome.look.pens import Pen
from anatome.notes.lettering import FAMILY, capital, font_file
from anatome.notes.marks import NoteMarks, Words
from anatome.words import printable

LINKS = "http://www.w3.org/1999/xlink"
SVG = "http://www.w3.org/2000/svg"
# The one widespread way to say that a group is a layer.
LAYERS = "http://www.inkscape.org/namespaces/inkscape"


def svg_bytes(drawing: Drawing) -> bytes:
    """Return a drawing as an SVG file: one group for each layer, one path for each element with its id in ``data-id``. The same
    drawing gives the same bytes."""
    plotter = SvgPlotter(f"{drawing.title}, 1:{drawing.scale:g}", (drawing.width, drawing.height))
    plot(drawing, plotter)
    return plotter.finished()


class SvgPlotter:
    """A file that is written. SVG measures y downwards from the upper edge."""

    def __init__(self, title: str, size: tuple[float, float]) -> None:
        width, self._height = size
        self._root = etree.Element(
            f"{{{SVG}}}svg",
            nsmap={None: SVG, "inkscape": LAYERS, "xlink": LINKS},
            attrib={
                "version": "1.1",
                "width": f"{width:.3f}mm",
                "height": f"{self._height:.3f}mm",
                "viewBox": f"0 0 {width:.3f} {self._height:.3f}",
            },
        )
        self._title = etree.SubElement(self._root, f"{{{SVG}}}title")
        self._title.text = printable(title)
        self._into = self._root
        self._pen: Pen | None = None
        self._layers: dict[str, etree._Element] = {}
        self._letters: dict[bool, set[str]] = {False: set(), True: set()}
        self._fades: set[str] = set()

    def begin_layer(self, name: str, pen: Pen | None, classes: Sequence[str] = ()) -> None:
        """Begin a group that programs take for a layer; what is of one name lies in one, as groups in that."""
        if (there := self._layers.get(name)) is not None:
            self._into, self._pen = etree.SubElement(there, f"{{{SVG}}}g", {} if pen is None else _style(pen)), pen
            return
        named = {"id": printable(name), f"{{{LAYERS}}}groupmode": "layer", f"{{{LAYERS}}}label": printable(name)}
        style = {"stroke": "none", "stroke-width": "0", "stroke-linecap": "round"} if pen is None else _style(pen)
        if classes:
            named["data-classes"] = printable(" ".join(classes))
        self._into = self._layers[name] = self._add("g", {**named, "fill-rule": "evenodd", "stroke-linejoin": "round", **style})
        self._pen = pen

    def end_layer(self) -> None:
        """End the group."""
        self._into, self._pen = self._root, None

    def ground(self, size: tuple[float, float], colour: Rgb) -> None:
        """Fill the paper."""
        self._add("rect", {"width": f"{size[0]:.3f}", "height": f"{size[1]:.3f}", "fill": _colour(colour)})

    def picture(self, png: bytes, size: tuple[float, float]) -> None:
        """Put a picture into the file."""
        data = "data:image/png;base64," + base64.b64encode(png).decode()
        whole = {"width": f"{size[0]:.3f}", "height": f"{size[1]:.3f}", "preserveAspectRatio": "none"}
        self._add("image", {**whole, f"{{{LINKS}}}href": data})

    def area(self, polygons: Rings, fill: Fill, pen: Pen | None, owner: Owner | None) -> None:
        """Draw one path for all polygons."""
        d = " ".join(f"{self._moves(ring[:-1])} Z" for rings in polygons for ring in rings)
        colour = _colour(fill.colour) if fill.fades is None else self._fading(fill.colour, fill.fades)
        style = {"fill": colour} | ({"fill-opacity": f"{fill.alpha:g}"} if fill.alpha < 1 else {})
        self._path(d, style | self._unlike_layer(pen), owner)

    def hatch(self, areas: Sequence[Area]) -> bool:
        """Leave it: hatches are lines here."""
        return False

    def lines(self, lines: Sequence[Ring], pen: Pen, owner: Owner | None) -> None:
        """Draw one path for all lines."""
        self._path(" ".join(map(self._moves, lines)), {"fill": "none"} | self._unlike_layer(pen), owner)

    def words(self, words: Words, ink: Rgb) -> None:
        """Draw a line of text; its letters come into the file."""
        (a, b), (c, d), (x, y) = words.right, words.up, words.at
        made = self._add(
            "text",
            {
                "transform": f"matrix({a:.6f},{-b:.6f},{-c:.6f},{d:.6f},{x:.4f},{self._height - y:.4f})",
                "font-family": f"'{FAMILY}', sans-serif",
                "font-size": f"{words.height / capital(words.strong):.4f}",
                "font-weight": "600" if words.strong else "400",
                "fill": _colour(ink),
                "stroke": "none",
                "style": "font-kerning:none;font-variant-ligatures:none;white-space:pre",
            },
        )
        made.text = printable(words.text)
        self._letters[words.strong] |= set(made.text)

    def begin_note(self, note: NoteMarks) -> None:
        """Begin a group that says which note it is."""
        self._into = self._add("g", {"data-note": note.note})

    def end_note(self) -> None:
        """End the group."""
        parent = self._into.getparent()
        assert parent is not None
        self._into = parent

    def finished(self) -> bytes:
        """Return the file."""
        faces = "".join(_face(strong, "".join(sorted(letters))) for strong, letters in self._letters.items() if letters)
        if faces:
            style = etree.Element(f"{{{SVG}}}style")
            style.text = faces
            self._title.addnext(style)
        return bytes(etree.tostring(self._root, xml_declaration=True, encoding="UTF-8", pretty_print=True))

    def _add(self, what: str, attributes: dict[str, str]) -> etree._Element:
        return etree.SubElement(self._into, f"{{{SVG}}}{what}", attrib=attributes)

    def _unlike_layer(self, pen: Pen | None) -> dict[str, str]:
        """What of a pen the layer does not say already."""
        if pen is None or pen == self._pen:
            return {} if pen == self._pen else {"stroke": "none"}
        whole = {"stroke-dasharray": "none"} if self._pen is not None and self._pen.dashes is not None else {}
        return whole | _style(pen)

    def _path(self, d: str, style: dict[str, str], owner: Owner | None) -> None:
        made = self._add("path", ({} if owner is None else {"data-id": printable(owner.id)}) | style | {"d": d})
        if owner is not None and owner.name:
            etree.SubElement(made, f"{{{SVG}}}title").text = printable(owner.name)

    def _moves(self, points: Ring) -> str:
        """The beginning of a path. Six decimals keep areas to about a millionth."""
        return "M" + " L".join(f"{x:.6f},{self._height - y:.6f}" for x, y in np.asarray(points).tolist())

    def _fading(self, colour: Rgb, fades: tuple[float, float]) -> str:
        """A gradient from nothing to a colour, as a fill; areas that fade alike share one."""
        low, high = fades
        name = f"fading-{_colour(colour)[1:]}-{low:.2f}-{high:.2f}"
        if name not in self._fades:
            self._fades.add(name)
            line = {"x1": "0", "x2": "0", "y1": f"{self._height - low:.3f}", "y2": f"{self._height - high:.3f}"}
            gradient = {"id": name, "gradientUnits": "userSpaceOnUse", **line}
            made = etree.SubElement(self._root, f"{{{SVG}}}linearGradient", attrib=gradient)
            for offset in ("0", "1"):
                stop = {"offset": offset, "stop-color": _colour(colour), "stop-opacity": offset}
                etree.SubElement(made, f"{{{SVG}}}stop", attrib=stop)
        return f"url(#{name})"


def _style(pen: Pen) -> dict[str, str]:
    """A pen as attributes of a group or a path."""
    ends = {"stroke-linecap": "round" if pen.has_round_ends else "butt"}
    dashes = {} if pen.dashes is None else {"stroke-dasharray": f"{pen.dashes[0]:g} {pen.dashes[1]:g}"}
    return {"stroke": _colour(pen.ink), "stroke-width": f"{pen.weight:g}", **ends, **dashes}


def _colour(rgb: Rgb) -> str:
    return "#" + "".join(f"{round(255 * c):02x}" for c in rgb)


def _face(strong: bool, letters: str) -> str:
    """A font face of only these letters."""
    from fontTools import subset

    options = subset.Options(notdef_outline=True, hinting=False, layout_features=[])
    font = subset.load_font(str(font_file(strong)), options)
    cutter = subset.Subsetter(options)
    cutter.populate(text=letters)
    cutter.subset(font)
    font["head"].modified = font["head"].created  # the same drawing gives the same bytes
    font.recalcTimestamp = False
    out = io.BytesIO()
    font.save(out)
    data = base64.b64encode(out.getvalue()).decode()
    weight = 600 if strong else 400
    return f"@font-face{{font-family:'{FAMILY}';font-weight:{weight};src:url(data:font/ttf;base64,{data})}}"
