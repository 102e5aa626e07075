"""Names and notes with whatever people type: files stay whole, programs show what was meant, and spreadsheets run nothing."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import ezdxf
import numpy as np
import pikepdf
import pytest
from ezdxf.tools.text import fast_plain_mtext, plain_text
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree

from anatome.cuts.report import CutRow, csv_text
from anatome.formats.drawings_out import boxes_said
from anatome.formats.dxf import dxf_bytes
from anatome.formats.pdf import pages_bytes, pdf_bytes
from anatome.formats.svg import svg_bytes
from anatome.linework.drawing import Area, Drawing, Layer, Strokes
from anatome.linework.page import Page
from anatome.look.pens import Pen
from anatome.notes.marks import Measured, NoteMarks, NotesDrawn, Words
from anatome.words import printable

RIGHT, UP = np.array([1.0, 0.0]), np.array([0.0, 1.0])
RING = np.array([[10.0, 10], [40, 10], [40, 30], [10, 30], [10, 10]])


def drawing(text: str, leans: bool = False) -> Drawing:
    """A drawing that says something wherever something can be said: a layer, an area, a label, words, a dimension."""
    words = Words(text, np.array([20.0, 20.0]), RIGHT, np.array([0.5, 1.0]) if leans else UP, 2.5)
    length = Measured(np.array([10.0, 5]), np.array([40.0, 5]), np.array([10.0, 2]), np.array([40.0, 2]), words, 3.0)
    notes = (NoteMarks("1", (), (words,)), NoteMarks("2", (), (words,), (length,)))
    layer = Layer(text or "x", (Area(text, text, ((RING,),), (0.5, 0.5, 0.5)),), (), (Words.level(text, (5.0, 5.0), 3.5),))
    kinds = (("Hidden", (1.6, 1.0)), ("Ghosts", (0.3, 0.9)))
    dashed = tuple(Strokes(name, Pen(0.18, (0.0, 0.0, 0.0), dashes), (RING,)) for name, dashes in kinds)
    return Drawing(
        text, 60.0, 40.0, 50.0, 0.0, (0.0, 0.0, 0.0), (layer,), dashed, notes=NotesDrawn(60.0, 40.0, notes, (0.0, 0.0, 0.0))
    )


MEANT = [
    "C:\\Plans\\House",
    "50 %%d and %%%",
    "{braces} \\P",
    "x^2 ^J",
    "<> or <>",
    "a\x07b\x1b[31m",
    "two\nlines",
    "北京 שלום 🏠",
]


@pytest.mark.parametrize("text", MEANT)
def test_dxf_says_what_was_typed(text: str) -> None:
    """As ezdxf, an independent reader, shows the contents."""
    for leans in (False, True):
        document = ezdxf.read(io.StringIO(dxf_bytes(drawing(text, leans)).decode()))
        assert not document.audit().has_errors
        space = document.modelspace()
        meant = printable(text)
        read = {plain_text(e.dxf.text) for e in space.query("TEXT")}
        assert read == ({meant.replace("\n", " ")} if leans else set())
        said = [fast_plain_mtext(e.text) for e in space.query("MTEXT")]
        assert said == (1 if leans else 2) * [meant]  # the label of a layer runs level always
        (dimension,) = space.query("DIMENSION")
        assert fast_plain_mtext(dimension.dxf.text) == meant and "<>" not in dimension.dxf.text


def test_dxf_knows_its_extent_and_tells_dashes_apart() -> None:
    document = ezdxf.read(io.StringIO(dxf_bytes(drawing("x")).decode()))
    assert tuple(document.header["$EXTMIN"])[:2] == (0.0, 0.0) and tuple(document.header["$EXTMAX"])[:2] == (60.0, 40.0)
    kinds = {name: document.layers.get(name).dxf.linetype for name in ("Hidden", "Ghosts")}
    assert len(set(kinds.values())) == 2


@settings(max_examples=60)
@given(st.text(st.characters(), max_size=30))
def test_svg_is_well_formed_whatever_is_typed(text: str) -> None:
    root = etree.fromstring(svg_bytes(drawing(text)))
    texts = [e.text or "" for e in root.iter("{http://www.w3.org/2000/svg}text")]
    assert texts == [printable(text)] * 3


def test_pdf_says_who_drew_it_or_nothing() -> None:
    page = Page("01 Sections\x00", 100.0, 80.0, (), NotesDrawn(100.0, 80.0, (), (0.0, 0.0, 0.0)))
    for content, author, subject in (
        (pages_bytes("Club", [page], "Ada"), "Ada", "01 Sections"),
        (pdf_bytes(drawing("Long section")), "", "Long section"),
    ):
        with pikepdf.open(io.BytesIO(content)) as document:
            told = {str(k): str(v) for k, v in document.docinfo.items()}
        assert told.get("/Author", "") == author and told["/Subject"].strip() == subject
        assert not {"anonymous", "unspecified"} & set(told.values())


def test_letters_that_are_lost_are_named() -> None:
    assert boxes_said(Path("x.pdf"), drawing("Küche, Ø 3 m² – ½")) == "" == boxes_said(Path("x.svg"), drawing("北京"))
    assert "北 京" in boxes_said(Path("x.pdf"), drawing("Room 北京"))
    assert "北京".encode() in svg_bytes(drawing("Room 北京"))


@given(st.text(max_size=12), st.sampled_from("=+-@"))
def test_a_name_is_never_a_formula(text: str, sign: str) -> None:
    rows = [CutRow("A", 0, "1", sign + text, "IfcWall", f" {sign}{text}", "\t=1", "L", 1.0)]
    _, read = csv.reader(io.StringIO(csv_text(rows)))
    assert all(not cell.lstrip().startswith(("=", "+", "-", "@")) for cell in read) and read[2] == "'" + printable(sign + text)
    assert read[-1] == "1.000000"
