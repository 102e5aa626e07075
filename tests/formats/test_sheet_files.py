"""Sheets as PDF and as pictures: pages of their papers, scenes at their scale, the same in both."""

from __future__ import annotations

import io

import numpy as np
import pikepdf
import pypdfium2
import pytest
import shapely

from anatome.cli.sheets import drawn
from anatome.cuts.dissection import Cutter
from anatome.demo.shipped import PROJECT
from anatome.formats.pdf import pages_bytes
from anatome.formats.project_files import OpenedProject, open_project
from anatome.look.shipped import shipped_looks
from anatome.notes.lettering import width
from anatome.printing.contents import legend_of, wanted
from anatome.printing.pages import names_of, page_of
from anatome.render.drawings import page_image
from anatome.scenes import sheet_edits as se
from anatome.scenes.opened import opened
from anatome.scenes.sheet_frames import in_true_plane, on_sheet
from anatome.sheets.sheet import KeyPlanBlock, LegendBlock, PictureBlock, SceneFrame, Sheet, TextBlock, Titles

DOTS = 150.0
# Two pixels, a red and a green one.
LOGO = "iVBORw0KGgoAAAANSUhEUgAAAAIAAAABCAIAAAB7QOjdAAAAD0lEQVR4nGP4z8DwHwoADfYD/VRJ4hgAAAAASUVORK5CYII="


@pytest.fixture(scope="module")
def whole() -> OpenedProject:
    found = open_project(PROJECT)
    frame = SceneFrame(id="f", scene="long", scale=100.0, at=(45.0, 62.0), content="lines", line=True)
    picture = SceneFrame(id="p", scene="long", height=70.0, at=(40.0, 80.0), crop=(0.5, 0.0, 1.0, 1.0), look="White model")
    tones = SceneFrame(id="t", scene="cross", height=50.0, at=(90.0, 230.0), content="tones")
    first = Sheet(
        id="a",
        name="Lines",
        blocks=(
            frame,
            TextBlock(id="t", text="{project}, {scale}", at=(30.0, 45.0)),
            LegendBlock(id="l", at=(30.0, 20.0), columns=3),
        ),
    )
    own = (picture, KeyPlanBlock(id="k", at=(40.0, 150.0)), tones, PictureBlock(id="i", data=LOGO, at=(40.0, 250.0)))
    second = Sheet(id="b", name="Upright", paper=(210.0, 297.0), blocks=(*own, SceneFrame(id="x", scene="long", height=30.0)))
    project = found.stored.project.model_copy(update={"sheets": ()})
    project = se.put_sheet(se.put_sheet(se.set_titles(project, Titles(organisation="Studio")), first), second)
    stored = found.stored.__class__(**{**found.stored.__dict__, "project": project})
    return OpenedProject(stored, found.model, found.building, found.path)


@pytest.fixture(scope="module")
def pages(whole: OpenedProject):
    return drawn(whole, list(whole.stored.project.sheets), DOTS)


def test_one_pdf_has_all_sheets_with_bookmarks_at_their_sizes(whole: OpenedProject, pages) -> None:
    data = pages_bytes("Boathouse", pages)
    assert data == pages_bytes("Boathouse", pages)
    with pikepdf.open(io.BytesIO(data)) as document:
        sizes = [[float(v) * 25.4 / 72 for v in page.MediaBox[2:]] for page in document.pages]
        assert sizes == [pytest.approx([420.0, 297.0], abs=0.01), pytest.approx([210.0, 297.0], abs=0.01)]
        with document.open_outline() as outline:
            assert [item.title for item in outline.root] == ["01 Lines", "02 Upright"]
        fonts = document.pages[0].Resources.Font
        assert all("/FontFile2" in fonts[name].FontDescriptor for name in fonts)
        names = [str(g.Name) for g in document.Root.OCProperties.OCGs]
        assert {"Outline of the cut", "Picture", "Sheet", "Legend"} <= set(names) and len(names) == len(set(names))
    with pypdfium2.PdfDocument(data) as document:
        text = document[0].get_textpage().get_text_range()
        for words in ("Boathouse, 1:100", "Studio", "Lines", "Long section", "Concrete", "A3"):
            assert words in text
        printed = np.array(document[0].render(scale=DOTS / 72).to_pil().convert("RGB")).astype(int)
    image = page_image(pages[0], DOTS)[..., :3].astype(int)
    high, wide = (min(a, b) for a, b in zip(image.shape[:2], printed.shape[:2]))
    image, printed = image[:high, :wide], printed[:high, :wide]
    # The sheet as a picture is the same drawing, but for how lines are smoothed.
    assert np.abs(image - printed).max(axis=2).mean() < 3.0
    assert (np.abs(image - printed).max(axis=2) > 120).mean() < 0.004


def test_a_scene_on_paper_has_its_scale_where_it_is_cut(whole: OpenedProject, pages) -> None:
    """Well within what is cut it is dark, a hair outside it is not: measured in the PDF."""
    project = whole.stored.project
    scene, frame = project.scene("long"), project.sheets[0].frames[0]
    with pypdfium2.PdfDocument(pages_bytes("Boathouse", pages)) as document:
        printed = np.array(document[0].render(scale=300 / 72).to_pil().convert("L"))
    (face,) = opened(Cutter(whole.building), scene.state).cut_open.faces
    built = shapely.union_all(face.poche.polygons[~whole.building.context[face.poche.element]], grid_size=1e-4)
    solid = shapely.buffer(built, -0.04)
    empty = shapely.difference(shapely.box(1.0, 0.5, 19.0, 5.5), shapely.buffer(built, 0.06))

    def greys(area: shapely.Geometry) -> np.ndarray:
        rng = np.random.default_rng(3)
        x0, y0, x1, y1 = shapely.bounds(area)
        flat = np.array([x0, y0]) + rng.random((4000, 2)) * [x1 - x0, y1 - y0]
        flat = flat[shapely.contains(area, shapely.points(flat))]
        assert len(flat) > 150
        spots = np.array([on_sheet(frame, scene, in_true_plane(scene, p)) for p in face.plane.raised(flat)])
        pixels = np.stack([297.0 - spots[:, 1], spots[:, 0]], axis=1) * 300 / 25.4
        row, column = pixels.astype(int).T
        return printed[row, column]

    assert (greys(solid) < 110).mean() > 0.99
    assert (greys(empty) > 110).mean() > 0.8  # boats and rafters beyond are thin lines there
    # The thin line round the frame is as wide as that makes it.
    part = pages[0].parts[0]
    assert part.box[2] - part.box[0] == pytest.approx(part.size[0]) and part.line == 0.25


def test_a_key_plan_marks_the_sections_on_its_sheet_and_tones_are_areas(pages) -> None:
    parts = {part.block: part for part in pages[1].parts}
    assert parts["p"].picture and parts["p"].drawing is None and parts["i"].picture
    plan, tones = parts["k"].drawing, parts["t"].drawing
    marks = [[w.text for w in note.words] for note in plan.notes.sound]
    # Both ends of two sections, each with its letter over the number of the sheet it is first found on.
    assert [words[::2] for words in marks] == [["A", "A"], ["B", "B"]]
    assert all(len(set(words[1::2])) == 1 and words[1].isdigit() for words in marks)
    left, bottom, right, top = parts["k"].box
    assert plan.width <= right - left + 1e-6 and plan.height <= top - bottom + 1e-6 and plan.strokes
    assert tones.layers[0].name == "Tones" and len(tones.layers[0].areas) > 40 and parts["t"].picture is None


def test_frames_without_a_scene_and_pictures_that_are_none_are_left_out(whole: OpenedProject) -> None:
    sheet = Sheet(
        id="s",
        name="Odd",
        blocks=(SceneFrame(id="f", scene="gone"), PictureBlock(id="p", data="no picture"), TextBlock(id="t", text="Still here")),
    )
    project = se.put_sheet(whole.stored.project, sheet)
    page = page_of(project, sheet, {})
    assert page.parts == () and any(w.text == "Still here" for n in page.marks.notes for w in n.words)
    assert wanted(sheet.frames[0], project) is None
    frame = whole.stored.project.sheets[0].frames[0]
    entries = legend_of(Cutter(whole.building), [wanted(frame, project)])
    names = [name for e in entries for name in (e.name, *e.others)]
    assert len(set(names)) == len(names) and {"Concrete", "Wood fibre", "Spruce"} <= set(names)
    # What looks alike has one swatch; as many names stand beside it as have room.
    assert len({(e.fill, e.hatch) for e in entries}) == len(entries) < len(names)
    largest = max(entries, key=lambda e: len(e.others))
    said = names_of(largest, 16.0)
    assert said.startswith(largest.name) and said.endswith("more") and width(said) <= 16.0


def test_scenes_lie_on_the_white_of_the_sheet_unless_they_are_papered(whole: OpenedProject) -> None:
    project = whole.stored.project
    frame = next(f for sheet in project.sheets for f in sheet.frames if f.scene == "cross")
    own = project.scene("cross").state.look
    assert own.paper != (1.0, 1.0, 1.0) and wanted(frame, project).scene.state.look.paper == (1.0, 1.0, 1.0)
    papered = frame.model_copy(update={"papered": True})
    assert wanted(papered, project).scene.state.look == own
    dark = frame.model_copy(update={"look": "Night blue"})
    assert wanted(dark, project).scene.state.look.paper == shipped_looks()["Night blue"].paper
