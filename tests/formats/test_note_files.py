"""Notes in files: text that is text, lengths that are dimensions, fonts that travel along, all in register with the picture."""

from __future__ import annotations

import base64
import io
import re
from dataclasses import replace
from typing import Any

import ezdxf
import numpy as np
import pikepdf
import pypdfium2
import pytest
from ezdxf.lldxf.const import DXF2010
from fontTools.ttLib import TTFont
from lxml import etree
from scipy.ndimage import binary_dilation

from anatome.cuts.dissection import Cutter
from anatome.formats.drawings_out import writer_for
from anatome.formats.project_files import OpenedProject
from anatome.linework.drawing import Drawing
from anatome.linework.of_scene import under_lines, written_on
from anatome.notes.anchors import anchored
from anatome.notes.marks import NotesDrawn, Words
from anatome.notes.note import Angle, Label, NoteStyle, Radius
from anatome.render.drawings import noted, notes_image
from anatome.scenes.scene_view import view_of

SVG = "{http://www.w3.org/2000/svg}"


@pytest.fixture
def whole(demo: OpenedProject) -> OpenedProject:
    return demo


def notes_of(whole: OpenedProject, name: str = "dressed") -> Drawing:
    """A drawing of the notes of a scene and nothing else, for nothing else to be in the way."""
    scene, site = whole.stored.project.scene(name), whole.stored.project.site
    view = view_of(Cutter(whole.building), scene, None, site, whole.facts(scene.state.notes))
    paper = view.on_paper()
    empty = Drawing("notes", paper.width, paper.height, 100.0, 0.0, (0.0, 0.0, 0.0))
    return written_on(empty, view)


def plain(drawing: Drawing) -> NotesDrawn:
    """Without veils, so that pictures of it are ink on white."""
    assert drawing.notes is not None
    notes = tuple(replace(n, words=tuple(replace(w, veil=False) for w in n.words)) for n in drawing.notes.notes)
    return replace(drawing.notes, notes=notes, ink=(0.0, 0.0, 0.0))


def bytes_of(drawing: Drawing, suffix: str) -> bytes:
    from pathlib import Path

    return writer_for(Path(f"x{suffix}"))(drawing)


def test_svg_has_the_words_as_text_with_their_letters_inside(whole: OpenedProject) -> None:
    drawing = notes_of(whole)
    data = bytes_of(drawing, ".svg")
    assert data == bytes_of(notes_of(whole), ".svg")
    root = etree.fromstring(data)
    said = sorted(t.text for t in root.iter(f"{SVG}text"))
    words = [w for n in drawing.notes.sound for w in n.words]
    assert said == sorted(w.text for w in words) and "Boat hall" in said
    for text in root.iter(f"{SVG}text"):
        a, b, c, d, x, y = map(float, re.findall(r"-?[\d.]+", text.get("transform")))
        own = min((w for w in words if w.text == text.text), key=lambda w: abs(w.at[0] - x) + abs(drawing.height - w.at[1] - y))
        assert (x, drawing.height - y) == pytest.approx(tuple(own.at), abs=1e-3)
        assert (a, -b, -c, d) == pytest.approx((*own.right, *own.up), abs=1e-5)
    faces = re.findall(r"base64,([^)]+)\)", root.find(f".//{SVG}style").text)
    letters: set[int] = set()
    for face in faces:
        letters |= set(TTFont(io.BytesIO(base64.b64decode(face))).getBestCmap())
    assert {ord(c) for w in words for c in w.text} <= letters and len(data) < 200_000


def test_dxf_has_dimensions_that_measure_metres_and_passes_the_audit(whole: OpenedProject) -> None:
    drawing = notes_of(whole)
    document = ezdxf.read(io.StringIO(bytes_of(drawing, ".dxf").decode()))
    assert document.dxfversion >= DXF2010 and not document.audit().errors
    space = document.modelspace()
    dimensions = list(space.query("DIMENSION"))
    measured = [m for n in drawing.notes.sound for m in n.measured]
    assert len(dimensions) == len(measured) >= 5
    for entity, own in zip(dimensions, measured):
        factor = entity.override()["dimlfac"]
        assert entity.get_measurement() * factor == pytest.approx(own.metres, abs=1e-9)
        assert entity.dxf.text == own.words.text == f"{own.metres:.2f}" and entity.dxf.layer == "Dimensions"
        assert any(e.dxftype() == "MTEXT" for e in document.blocks[entity.dxf.geometry])
    texts = [e for e in space.query("MTEXT") if e.dxf.layer == "Notes"]
    assert "Boat hall" in {t.plain_text() for t in texts} and {t.dxf.char_height for t in texts} == {2.5}
    assert all(document.styles.get(t.dxf.style).dxf.font.startswith("SourceSans3") for t in texts)
    # Aslant they are leaning text with the same slope.
    aslant = notes_with_label_in_plane(whole)
    document = ezdxf.read(io.StringIO(bytes_of(aslant, ".dxf").decode()))
    (text,) = document.modelspace().query("TEXT")
    words = next(w for n in aslant.notes.sound for w in n.words)
    turn, lean = np.radians([text.dxf.rotation, text.dxf.oblique])
    along, across = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
    assert text.dxf.height / words.height * text.dxf.width * along == pytest.approx(words.right, abs=1e-6)
    assert text.dxf.height / words.height * (across + np.tan(lean) * along) == pytest.approx(words.up, abs=1e-6)
    assert not document.audit().errors


def test_dxf_has_angles_and_radii_that_measure_what_they_say(whole: OpenedProject) -> None:
    """As DIMENSION entities with the same points; an angle that the paper shows aslant stays strokes and words."""
    places = [(2.0, 6.2, 1.0), (5.0, 6.2, 1.0), (3.5, 6.2, 3.0)]

    def drawn(scene_id: str) -> tuple[list[Any], Drawing]:
        scene = whole.stored.project.scene(scene_id)
        anchors = tuple(anchored(whole.building, np.array(p)) for p in places)
        notes = (
            Angle(id="a", anchors=anchors, radius=1.0),
            Radius(id="r", anchors=anchors),
            Radius(id="d", anchors=anchors, diameter=True),
        )
        scene = scene.model_copy(update={"state": scene.state.model_copy(update={"notes": notes})})
        view = view_of(Cutter(whole.building), scene, None, whole.stored.project.site, whole.facts(()))
        paper = view.on_paper()
        empty = Drawing("notes", paper.width, paper.height, 100.0, 0.0, (0.0, 0.0, 0.0))
        drawing = written_on(empty, view)
        document = ezdxf.read(io.StringIO(bytes_of(drawing, ".dxf").decode()))
        assert not document.audit().errors
        return list(document.modelspace().query("DIMENSION")), drawing

    found, drawing = drawn("dressed")
    angle, radius, diameter = found
    degrees = np.degrees(np.arctan2(2.0, 1.5))
    assert angle.get_measurement() == pytest.approx(degrees, abs=0.05) and angle.dxf.text == f"{degrees:.1f}°"
    # The law of sines: the circle through three places.
    sides = [np.linalg.norm(np.subtract(places[i], places[i - 1])) for i in range(3)]
    wanted = np.prod(sides) / (4 * 0.5 * 3.0 * 2.0)
    for entity, metres in ((radius, wanted), (diameter, 2 * wanted)):
        assert entity.get_measurement() * entity.override()["dimlfac"] == pytest.approx(metres, abs=1e-6)
        assert f"{metres:.2f}" in entity.dxf.text and entity.dxf.layer == "Dimensions"
    assert len(drawing.notes.sound) == 3
    aslant, drawing = drawn("cutaway")
    assert not any(e.dimtype == 5 for e in aslant) and any(n.note == "a" for n in drawing.notes.sound)


def notes_with_label_in_plane(whole: OpenedProject) -> Drawing:
    """Words that lie on a floor in an axonometric."""
    scene = whole.stored.project.scene("ground")
    anchor = anchored(whole.building, np.array([10.0, 6.0, 0.0]))
    label = Label(id="l", anchors=(anchor,), text="Hall 10", leader=False, plane=(0.0, 0.0, 1.0))
    state = scene.state.model_copy(update={"notes": (label,), "note_style": NoteStyle(height=10.0, veil=False)})
    scene = scene.model_copy(update={"state": state})
    view = view_of(Cutter(whole.building), scene, None, whole.stored.project.site, whole.facts(()))
    paper = view.on_paper()
    empty = Drawing("notes", paper.width, paper.height, 100.0, 0.0, (0.0, 0.0, 0.0))
    return written_on(empty, view)


@pytest.mark.parametrize("aslant", [False, True])
def test_pdf_embeds_its_fonts_and_registers_with_the_picture(whole: OpenedProject, aslant: bool) -> None:
    drawing = notes_with_label_in_plane(whole) if aslant else notes_of(whole)
    drawing = replace(drawing, notes=plain(drawing))
    data = bytes_of(drawing, ".pdf")
    with pikepdf.open(io.BytesIO(data)) as document:
        fonts = document.pages[0].Resources.Font
        for name in fonts:
            assert "/FontFile2" in fonts[name].FontDescriptor and "SourceSans3" in str(fonts[name].BaseFont)
        assert "Notes" in [str(g.Name) for g in document.Root.OCProperties.OCGs]
    with pypdfium2.PdfDocument(data) as document:
        page = document[0]
        text = page.get_textpage().get_text_range()
        text = " ".join(text.replace("²", "2").split())
        for words in (w for n in drawing.notes.sound for w in n.words):
            assert " ".join(words.text.replace("²", "2").split()) in text, words.text
        scale = 6.0 * 25.4 / 72  # pixels a point, so six a mm
        image = np.array(page.render(scale=scale).to_pil().convert("L"))
    height, width = image.shape
    over = notes_image(drawing.notes, (width, height))
    ink = over[..., 3] > 128
    printed = image < 128
    assert ink.sum() > 500 and (printed[binary_dilation(ink)].sum() / printed.sum()) > 0.985
    assert ink[binary_dilation(printed)].sum() / ink.sum() > 0.985


def test_a_capital_is_as_high_in_a_pdf_as_it_is_wanted() -> None:
    words = Words("HHH", np.array([10.0, 10.0]), np.array([1.0, 0.0]), np.array([0.0, 1.0]), 7.0)
    from anatome.notes.marks import NoteMarks

    notes = NotesDrawn(60.0, 30.0, (NoteMarks("n", (), (words,)),), (0.0, 0.0, 0.0))
    drawing = Drawing("h", 60.0, 30.0, 1.0, 0.0, (0.0, 0.0, 0.0), notes=notes)
    with pypdfium2.PdfDocument(bytes_of(drawing, ".pdf")) as document:
        image = np.array(document[0].render(scale=600 / 72).to_pil().convert("L"))
    rows = np.flatnonzero((image < 128).any(axis=1))
    assert (rows[-1] - rows[0] + 1) * 25.4 / 600 == pytest.approx(7.0, abs=0.06)
    columns = np.flatnonzero((image < 128).any(axis=0))
    assert columns[0] * 25.4 / 600 > 10.0 and columns[-1] * 25.4 / 600 < 10.0 + words.length
    # The picture of it has the same capitals.
    over = notes_image(notes, (1200, 600))
    rows = np.flatnonzero((over[..., 3] > 128).any(axis=1))
    assert (rows[-1] - rows[0] + 1) / 20.0 == pytest.approx(7.0, abs=0.06)


def test_pictures_under_linework_have_no_notes_and_small_ones_neither(whole: OpenedProject) -> None:
    scene = whole.stored.project.scene("dressed")
    view = under_lines(view_of(Cutter(whole.building), scene, None, whole.stored.project.site))
    assert view.notes is None and view.unlined
    drawn = notes_of(whole).notes
    small = np.full((200, 300, 4), 255, np.uint8)
    assert noted(small, drawn) is small
    large = np.full((1000, 1500, 4), 255, np.uint8)
    changed = noted(large, drawn)
    assert changed is not large and (changed[..., 0] < 128).sum() > 1000 and (large == 255).all()
