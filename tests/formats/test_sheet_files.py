"""Sheets as PDF and as pictures: pages of their papers, scenes at their scale, the same in both."""

from __future__ import annotations

import io
import math

import numpy as np
import pikepdf
import pypdfium2
import pytest
import shapely
from scipy.ndimage import binary_dilation

from anatome.cli.sheets import drawn
from anatome.cuts.dissection import Cutter
from anatome.formats.pdf import pages_bytes, tiles_bytes
from anatome.formats.project_files import OpenedProject
from anatome.linework.page import Page
from anatome.look.shipped import shipped_looks
from anatome.notes.lettering import width
from anatome.notes.marks import NotesDrawn
from anatome.printing.contents import legend_of, wanted
from anatome.printing.pages import names_of, page_of
from anatome.printing.tiles import MARGIN, OVERLAP, tiles_of
from anatome.problems import Problem
from anatome.render.drawings import page_image
from anatome.scenes import sheet_edits as se
from anatome.scenes.opened import opened
from anatome.scenes.sheet_frames import in_true_plane, on_sheet
from anatome.sheets.sheet import ContentsBlock, KeyPlanBlock, LegendBlock, PictureBlock, SceneFrame, Sheet, TextBlock, Titles

DOTS = 150.0
# Two pixels, a red and a green one.
LOGO = "iVBORw0KGgoAAAANSUhEUgAAAAIAAAABCAIAAAB7QOjdAAAAD0lEQVR4nGP4z8DwHwoADfYD/VRJ4hgAAAAASUVORK5CYII="


@pytest.fixture(scope="module")
def whole(demo: OpenedProject) -> OpenedProject:
    found = demo
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


def image_of(data: bytes, number: int, dots: float) -> np.ndarray:
    """(h, w, 3) a page of a PDF as another library draws it."""
    return np.array(pypdfium2.PdfDocument(data)[number].render(scale=dots / 72).to_pil().convert("RGB")).astype(int)


def test_pieces_glued_together_are_the_page(whole: OpenedProject, pages) -> None:
    """An A3 sheet in pieces of A4 as a large one is in smaller ones: put together where their ticks say, they are the sheet."""
    page, dots = pages[0], 100.0
    tiles = tiles_of(page, (297.0, 210.0))
    by_hand = math.ceil((420 - OVERLAP) / (297 - 2 * MARGIN - OVERLAP)) * math.ceil(
        (297 - OVERLAP) / (210 - 2 * MARGIN - OVERLAP)
    )
    assert len(tiles) == by_hand == 4 and [tile.title[-2:] for tile in tiles] == ["A1", "A2", "B1", "B2"]
    data = tiles_bytes("Pieces", tiles)
    glued = np.full((round(297 / 25.4 * dots), round(420 / 25.4 * dots), 3), 255)
    for number, tile in enumerate(tiles):
        piece = image_of(data, number, dots)
        assert abs(piece.shape[1] - tile.size[0] / 25.4 * dots) <= 1 and abs(piece.shape[0] - tile.size[1] / 25.4 * dots) <= 1
        left, bottom, right, top = (side / 25.4 * dots for side in tile.box)
        own = piece[round(piece.shape[0] - top) + 2 : round(piece.shape[0] - bottom) - 2, round(left) + 2 : round(right) - 2]
        x, y = (side / 25.4 * dots for side in tile.offset)
        row, column = round(glued.shape[0] - y - (top - bottom)) + 2, round(x) + 2
        inside = own[max(-row, 0) : glued.shape[0] - row, max(-column, 0) : glued.shape[1] - column]
        glued[max(row, 0) : row + len(own), max(column, 0) : column + own.shape[1]] = inside
    sheet = image_of(pages_bytes("One", [page]), 0, dots)[: glued.shape[0], : glued.shape[1]]
    inked = [image.min(axis=2) < 140 for image in (glued, sheet)]
    assert inked[1].sum() > 5_000
    for one, other in (inked, inked[::-1]):
        # Within two pixels, as far as whole pixels of pieces lie from those of the sheet; the edge of the paper is cut off.
        assert (one & ~binary_dilation(other, iterations=2))[4:-4, 4:-4].sum() < 0.01 * inked[1].sum()
    # Ticks of neighbours are at the same place of the sheet.
    ticks = [[s.points + np.array(t.offset) - np.array(t.box[:2]) for s in t.marks.notes[0].strokes] for t in tiles]
    upright = [sorted({round(float(p[0, 0]), 6) for p in own if p[0, 0] == p[1, 0]}) for own in ticks]
    assert upright[0][-1] == pytest.approx(upright[1][0] - OVERLAP)  # where the second begins
    with pytest.raises(Problem, match="larger paper"):
        tiles_of(Page("Huge", 5000.0, 5000.0, (), page.marks), (210.0, 148.0))


def test_an_a0_in_pieces_of_a4_covers_all_of_it() -> None:
    page = Page("A0", 1189.0, 841.0, (), NotesDrawn(1189.0, 841.0, (), (0.0, 0.0, 0.0)))
    tiles = tiles_of(page, (297.0, 210.0))
    shown = shapely.union_all(
        [shapely.box(x, y, x + t.box[2] - t.box[0], y + t.box[3] - t.box[1]) for t in tiles for x, y in [t.offset]]
    )
    assert shown.covers(shapely.box(0, 0, 1189, 841)) and len(tiles) < 30
    across = sorted({t.offset[0] for t in tiles})
    assert np.allclose(np.diff(across), tiles[0].size[0] - 2 * MARGIN - OVERLAP)


def test_ground_revision_lists_and_legends(whole: OpenedProject) -> None:
    project, ground = whole.stored.project, (0.9, 0.85, 0.7)
    lines = SceneFrame(id="f", scene="long", scale=200.0, at=(40.0, 100.0), content="picture", look="Ink lines only")
    blocks = (
        lines,
        ContentsBlock(id="c", at=(40.0, 60.0), width=120.0),
        TextBlock(id="t", at=(200.0, 60.0), text="Rev {revision}, {date}"),
        *(LegendBlock(id=says, at=(40.0 + 60 * i, 20.0), says=says) for i, says in enumerate(("type", "storey", "fill"))),
    )
    sheet = Sheet(id="g", name="Tinted", blocks=blocks, ground=ground, revision="C", date="June")
    project = se.put_sheet(se.set_titles(project, Titles(date="May")), sheet)
    made = OpenedProject(
        whole.stored.__class__(**{**whole.stored.__dict__, "project": project}), whole.model, whole.building, whole.path
    )
    (page,) = drawn(made, [sheet], 72.0)
    words = [w.text for note in page.marks.notes for w in note.words]
    assert "Rev C, June" in words and "Revision" in words and {"Lines", "Upright", "Tinted", "May", "June"} <= set(words)
    for image in (page_image(page, 72.0)[..., :3].astype(int), image_of(pages_bytes("x", [page]), 0, 72.0)):
        tint = np.round(255 * np.array(ground))
        assert np.abs(image[3, 3] - tint).max() <= 2
        # The scene lies on it: its sky and its walls, which are as its paper, have no rectangle of white.
        frame = image[-round(190 / 25.4 * 72) : -round(105 / 25.4 * 72), round(50 / 25.4 * 72) : round(150 / 25.4 * 72)]
        assert (np.abs(frame - tint).max(axis=2) <= 3).mean() > 0.5 and (frame.min(axis=2) > 250).mean() < 0.01
    named = {block.says: block for block in sheet.blocks if isinstance(block, LegendBlock)}
    cutter, what = Cutter(whole.building), [wanted(lines, project, ground)]
    said = {says: {n for e in legend_of(cutter, what, says) for n in (e.name, *e.others)} for says in named}
    assert {"Wall", "Slab", "Roof"} & said["type"] and {s.name for s in whole.building.storeys} & said["storey"]
    by_type = project.scene("long").state.look.model_copy(update={"fill_by": "type"})
    state = project.scene("long").state.model_copy(update={"look": by_type})
    scene = project.scene("long").model_copy(update={"state": state})
    typed = what[0].__class__(scene, what[0].height, "picture", what[0].site)
    entries = legend_of(cutter, [typed], "fill")
    assert {n for e in entries for n in (e.name, *e.others)} == said["type"]
    assert len({e.fill for e in entries}) == len(entries)  # each fill once


def test_a_set_of_sheets_has_every_scene_once(whole: OpenedProject) -> None:
    project = whole.stored.project.model_copy(update={"sheets": ()})
    frames = tuple(SceneFrame(id=f"f{i}", scene="", room=(150.0, 100.0), at=(30.0 + 170 * i, 100.0)) for i in range(2))
    ids = iter(range(1000))
    made = se.sheets_from_template(Sheet(id="t", name="Pair", blocks=frames), project, lambda: f"n{next(ids)}")
    shown = [frame.scene for sheet in made.sheets for frame in sheet.frames if frame.scene]
    assert sorted(shown) == sorted(scene.id for scene in project.scenes)
    assert len(made.sheets) == math.ceil(len(project.scenes) / 2) and len({sheet.name for sheet in made.sheets}) == len(
        made.sheets
    )
    # All are on a sheet: one more, with nothing in it.
    assert len(se.sheets_from_template(Sheet(id="t", name="Pair", blocks=frames), made, lambda: f"n{next(ids)}").sheets) == (
        len(made.sheets) + 1
    )
