"""One drawing on the screen, as PDF and as SVG, each drawn by another library: they look the same, to the dash and the letter."""

from __future__ import annotations

import io
from dataclasses import replace

import ezdxf
import numpy as np
import pypdfium2
import pytest
from numpy.typing import NDArray
from PIL import Image
from PySide6.QtCore import QByteArray
from PySide6.QtGui import QImage, QPainter
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QApplication

from anatome.formats.dxf import dxf_bytes
from anatome.formats.pdf import pdf_bytes
from anatome.formats.svg import svg_bytes
from anatome.linework.drawing import Area, Drawing, Layer, Line, Strokes
from anatome.look.pens import Pen
from anatome.notes.marks import NoteMarks, NotesDrawn, Stroke, Words
from anatome.render.drawings import drawing_image

DOTS = 10
"""Pixels a mm."""
WIDE, HIGH = 60.0, 40.0
EARTH, INK, PAPER = (0.35, 0.25, 0.2), (0.1, 0.1, 0.2), (0.85, 0.9, 0.95)
FADES = (4.0, 12.0)


def box(left: float, low: float, right: float, high: float) -> NDArray[np.float64]:
    return np.array([[left, low], [right, low], [right, high], [left, high], [left, low]])


@pytest.fixture
def drawing() -> Drawing:
    """Earth that fades, a wall with a hole, an open line, dashes, a label, and a note with a veil over the wall."""
    png = io.BytesIO()
    Image.new("RGB", (30, 20), (230, 200, 120)).save(png, "PNG")
    earth = Area("1", "Earth", ((box(2, 2, 28, 16),),), EARTH, FADES)
    wall = Area("2", "Wall", ((box(32, 4, 56, 30), box(36, 8, 44, 20)),), (0.6, 0.65, 0.7))
    line = Line("3", "Sheet", np.array([[4.0, 20.0], [26.0, 24.0]]))
    layers = (Layer("Ground", (earth,)), Layer("Walls", (wall,), (line,), (Words.level("Section 1, Ø 50", (4.0, 33.0), 3.5),)))
    strokes = (
        Strokes("Hidden", Pen(0.5, INK, (1.6, 1.0)), (np.array([[3.0, 28.0], [29.0, 28.0]]),)),
        Strokes("Outline of the cut", Pen(0.7, INK), (box(32, 4, 56, 30), box(36, 8, 44, 20))),
    )
    turned = np.array([0.8, 0.6]), np.array([-0.6, 0.8])
    words = Words("Hall", np.array([46.0, 14.0]), *turned, 2.5, strong=True, veil=True)
    note = NoteMarks("a", (Stroke(box(48, 6, 50, 8)[:4], 0.0, True), Stroke(np.array([[50.0, 7], [55, 12]]), 0.25)), (words,))
    notes = NotesDrawn(WIDE, HIGH, (note,), (0.6, 0.1, 0.1))
    return Drawing("All of it", WIDE, HIGH, 50.0, 0.0, INK, layers, strokes, PAPER, png.getvalue(), notes)


def on_screen(drawing: Drawing) -> NDArray[np.int64]:
    return drawing_image(drawing, (round(WIDE * DOTS), round(HIGH * DOTS)), (1.0, 1.0, 1.0))[..., :3].astype(int)


def from_pdf(drawing: Drawing) -> NDArray[np.int64]:
    with pypdfium2.PdfDocument(pdf_bytes(drawing)) as document:
        return np.array(document[0].render(scale=DOTS * 25.4 / 72).to_pil().convert("RGB")).astype(int)


def from_svg(drawing: Drawing) -> NDArray[np.int64]:
    size = round(WIDE * DOTS), round(HIGH * DOTS)
    held = np.full((size[1], size[0], 4), 255, np.uint8)
    image = QImage(held.data, *size, 4 * size[0], QImage.Format.Format_RGBA8888)
    painter = QPainter(image)
    QSvgRenderer(QByteArray(svg_bytes(drawing))).render(painter)
    painter.end()
    return held[..., :3].astype(int)


def silent(drawing: Drawing) -> NotesDrawn:
    assert drawing.notes is not None
    return replace(drawing.notes, notes=tuple(replace(note, words=()) for note in drawing.notes.notes))


def test_screen_pdf_and_svg_look_the_same(qapp: QApplication, drawing: Drawing) -> None:
    # Qt does not read the letters that are in an SVG.
    wordless = replace(drawing, layers=tuple(replace(layer, labels=()) for layer in drawing.layers), notes=silent(drawing))
    for shown, other in ((drawing, from_pdf(drawing)), (wordless, from_svg(wordless))):
        screen = on_screen(shown)
        away = np.abs(other - screen).max(axis=2)
        # Edges fall on pixels in more ways than one; nothing is as large as a dash, a letter or a shade.
        assert np.percentile(away, 97) < 25 and (away > 90).mean() < 0.006
        blocks = (other - screen).reshape(40, DOTS, 60, DOTS, 3).mean(axis=(1, 3))
        assert np.abs(blocks).max() < 20


def test_earth_fades_to_nothing_over_whatever_lies_under_it(qapp: QApplication, drawing: Drawing) -> None:
    """Half way up it is half the picture and half the earth."""
    half = (np.array(EARTH) * 255 + [230, 200, 120]) / 2
    row = round((HIGH - sum(FADES) / 2) * DOTS)
    for image in (on_screen(drawing), from_pdf(drawing), from_svg(drawing)):
        assert image[row, 100] == pytest.approx(half, abs=3)
        assert image[round((HIGH - 3) * DOTS), 100] == pytest.approx([230, 200, 120], abs=2)


def test_dxf_has_the_same_dashes_words_and_shades(drawing: Drawing) -> None:
    document = ezdxf.read(io.StringIO(dxf_bytes(drawing).decode()))
    assert not document.audit().has_errors
    space, layers = document.modelspace(), document.layers
    pattern = document.linetypes.get(layers.get("Hidden").dxf.linetype).pattern_tags.tags
    assert [tag.value for tag in pattern if tag.code == 49] == [1.6, -1.0]
    assert {(e.text, round(e.dxf.char_height, 2), e.dxf.layer) for e in space.query("MTEXT")} == {
        ("Section 1, Ø 50", 3.5, "Walls"),
        ("Hall", 2.5, "Notes"),
    }
    (stroke,) = (e for e in space.query("LWPOLYLINE") if e.dxf.layer == "Notes")
    assert stroke.dxf.lineweight == 25 and layers.get("Notes").dxf.lineweight == 18
    (fading,) = (e for e in space.query("HATCH") if e.has_gradient_data)
    ends = [np.array(fading.gradient.color1), np.array(fading.gradient.color2)]
    assert ends[0] == pytest.approx(np.array(PAPER) * 255, abs=1) and ends[1] == pytest.approx(np.array(EARTH) * 255, abs=1)
    heights = [y for path in fading.paths.paths for _, y, *_ in path.vertices]
    assert (min(heights), max(heights)) == pytest.approx(FADES)
