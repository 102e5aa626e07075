"""Notes in SVG: strokes as paths, words as text in the shipped font, of which the letters that are used are in the file."""

from __future__ import annotations

import base64
import io

from lxml import etree

from anatome.notes.lettering import FAMILY, capital, font_file
from anatome.notes.marks import VEIL, VEIL_ROOM, NotesDrawn, Words
from anatome.words import printable

SVG = "http://www.w3.org/2000/svg"


def add_notes(parent: etree._Element, notes: NotesDrawn, colours: tuple[str, str]) -> None:
    """Put the notes into a group, one group each; ``colours`` are those of ink and paper."""
    ink, paper = colours
    style = etree.SubElement(parent, f"{{{SVG}}}style")
    style.text = "".join(_face(strong, letters) for strong, letters in _used(notes).items() if letters)
    for note in notes.sound:
        group = etree.SubElement(parent, f"{{{SVG}}}g", attrib={"data-note": note.note})
        for words in note.words:
            if words.veil:
                d = _path(words.corners(VEIL_ROOM).tolist(), notes.height) + " Z"
                etree.SubElement(
                    group, f"{{{SVG}}}path", attrib={"d": d, "fill": paper, "fill-opacity": f"{VEIL}", "stroke": "none"}
                )
        for stroke in note.strokes:
            d = _path(stroke.points.tolist(), notes.height)
            drawn = {"fill": ink, "stroke": "none"} if stroke.filled else {"fill": "none", "stroke-width": f"{stroke.weight:g}"}
            etree.SubElement(group, f"{{{SVG}}}path", attrib={"d": d, **drawn, "stroke-linecap": "butt"})
        for words in note.words:
            _text(group, words, notes.height, ink)


def _text(group: etree._Element, words: Words, height: float, ink: str) -> None:
    (a, b), (c, d), (x, y) = words.right, words.up, words.at
    made = etree.SubElement(
        group,
        f"{{{SVG}}}text",
        attrib={
            "transform": f"matrix({a:.6f},{-b:.6f},{-c:.6f},{d:.6f},{x:.4f},{height - y:.4f})",
            "font-family": f"'{FAMILY}', sans-serif",
            "font-size": f"{words.height / capital(words.strong):.4f}",
            "font-weight": "600" if words.strong else "400",
            "fill": ink,
            "stroke": "none",
            "style": "font-kerning:none;font-variant-ligatures:none;white-space:pre",
        },
    )
    made.text = printable(words.text)


def _path(points: list[list[float]], height: float) -> str:
    return "M" + " L".join(f"{x:.4f},{height - y:.4f}" for x, y in points)


def _used(notes: NotesDrawn) -> dict[bool, str]:
    """The letters of the regular and of the strong words."""
    found: dict[bool, set[str]] = {False: set(), True: set()}
    for note in notes.sound:
        for words in note.words:
            found[words.strong] |= set(printable(words.text))
    return {strong: "".join(sorted(letters)) for strong, letters in found.items()}


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
