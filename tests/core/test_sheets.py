"""Sheets: papers by the standards, scenes on them at scale, lined up on the building, laid out in one step."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.demo.shipped import PROJECT, shipped
from anatome.notes.facts import Facts, SectionPlace
from anatome.printing.contents import lines_of, wanted, wanted_key
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes import sheet_edits as se
from anatome.scenes.plans import plan_scenes
from anatome.scenes.project import Project, Scene
from anatome.scenes.scene_view import view_of
from anatome.scenes.sheet_frames import (
    box_of,
    fields_of,
    frame_box,
    in_true_plane,
    on_sheet,
    picture_height,
    scale_of,
    section_places,
)
from anatome.scenes.storage import load_project
from anatome.sheets.layout import drawn_to, grown, lined_up, rows, spread_out
from anatome.sheets.paper import area, free_area, paper_marks, title_box
from anatome.sheets.sheet import LegendBlock, SceneFrame, Sheet, TextBlock, Titles
from anatome.view.crop import PAPERS

CENTRE = np.array([14.0, 6.0, 3.0])


@pytest.fixture(scope="module")
def demo() -> Project:
    return load_project(PROJECT).project


@pytest.fixture
def new_id():
    numbers = itertools.count()
    return lambda: f"x{next(numbers)}"


def test_papers_have_the_borders_and_title_blocks_of_the_standards() -> None:
    """ISO 216, 5457 and 7200, values from memory; each sheet of the series is half of the one before."""
    sizes = list(PAPERS.values())
    for (long, short), (next_long, next_short) in zip(sizes, sizes[1:]):
        assert next_short == long and abs(next_long - 2 * short) <= 1 and long / short == pytest.approx(2**0.5, abs=0.01)
    sheet = Sheet(id="s", name="Sections", paper=PAPERS["A1"])
    assert area(sheet) == (20.0, 10.0, 831.0, 584.0)
    left, bottom, right, _ = title_box(sheet)
    assert right - left == 180.0 and (right, bottom) == (831.0, 10.0)
    assert free_area(sheet)[1] == title_box(sheet)[3] and free_area(sheet.model_copy(update={"title_block": False}))[1] == 10.0
    marks, _ = paper_marks(sheet, {"name": "A name so long that it would not fit into its cell, were it not made smaller"})
    box = shapely.box(*title_box(sheet))
    for words in marks.words:
        assert shapely.contains(box.buffer(0.01), shapely.Polygon(words.corners()))
    with pytest.raises(ValidationError):
        Sheet(id="s", name="", paper=(5.0, 100.0))
    with pytest.raises(ValidationError):
        SceneFrame(id="f", scene="x", crop=(0.5, 0.0, 0.5, 1.0))


def test_a_scene_at_a_scale_is_as_large_as_that_makes_it(demo: Project) -> None:
    scene = demo.scene("long")
    frame = SceneFrame(id="f", scene="long", scale=100.0, at=(40.0, 60.0))
    ends = np.array([[0.14, 0.0, 0.0], [19.4, 0.0, 0.0]])
    spots = np.array([on_sheet(frame, scene, in_true_plane(scene, e)) for e in ends])
    assert spots[1, 0] - spots[0, 0] == pytest.approx(192.6, abs=1e-6) and spots[1, 1] == pytest.approx(spots[0, 1], abs=1e-9)
    assert scale_of(frame, scene) == pytest.approx(100.0)
    # A crop moves nothing that is left.
    high = picture_height(frame, scene)
    corner = (40.0 + 0.25 * high * scene.aspect, 60.0 + 0.1 * high)
    cropped = frame.model_copy(update={"crop": (0.25, 0.1, 0.75, 1.0), "at": corner})
    assert on_sheet(cropped, scene, ends[1]) == pytest.approx(on_sheet(frame, scene, ends[1]))
    x0, y0, x1, y1 = frame_box(cropped, scene)
    assert (x1 - x0) / (y1 - y0) == pytest.approx(scene.aspect * 0.5 / 0.9)
    # The scene changes, and the sheet follows: twice as much of it takes twice the paper at the same scale.
    state = scene.state.model_copy(update={"camera": scene.state.camera.widened(2.0)})
    wider = scene.model_copy(update={"state": state})
    assert picture_height(frame, wider) == pytest.approx(2 * picture_height(frame, scene))


def test_frames_are_lined_up_on_the_building(demo: Project, new_id) -> None:
    names = ["long", "cross", "stepped"]
    frames = [SceneFrame(id=n, scene=n, scale=100.0, at=(37.0 * i, 11.0 * i)) for i, n in enumerate(names)]
    scenes = [demo.scene(n) for n in names]
    level = se.on_one_level(demo, frames, CENTRE, 3.4)
    heights = [on_sheet(f, s, in_true_plane(s, np.array([14.0, 6.0, 3.4])))[1] for f, s in zip(level, scenes)]
    assert heights == pytest.approx([heights[0]] * 3, abs=1e-9) and [f.at[0] for f in level] == [f.at[0] for f in frames]
    axis = se.on_one_axis(demo, frames[::2], CENTRE)
    across = [on_sheet(f, s, in_true_plane(s, CENTRE))[0] for f, s in zip(axis, scenes[::2])]
    assert across[0] == pytest.approx(across[1], abs=1e-9)
    own = SceneFrame(id="f0", scene="long", scale=75.0, at=(0.0, 5.0))
    same = [own, own.model_copy(update={"id": "f1", "look": "Night blue", "at": (9.0, 5.0)})]
    laid = se.on_one_place(demo, same, CENTRE)
    assert frame_box(laid[0], scenes[0]) == pytest.approx(frame_box(laid[1], scenes[0]), abs=1e-9)
    with pytest.raises(Problem, match="no level lines"):
        se.on_one_level(demo, [frames[0], SceneFrame(id="a", scene="cutaway")], CENTRE, 0.0)
    with pytest.raises(Problem, match="lost its scene"):
        se.on_one_axis(demo, [frames[0], SceneFrame(id="a", scene="gone")], CENTRE)


boxes = st.lists(st.tuples(st.floats(0, 300), st.floats(0, 200), st.floats(20, 90), st.floats(20, 90)), min_size=2, max_size=7)


@settings(max_examples=60, deadline=None)
@given(boxes, st.sampled_from(["left", "right", "top", "bottom"]))
def test_boxes_are_lined_up_and_spread(found, edge) -> None:
    own = [(x, y, x + w, y + h) for x, y, w, h in found]
    index = {"left": 0, "bottom": 1, "right": 2, "top": 3}[edge]
    moved = [np.array(b) + [*by, *by] for b, by in zip(own, lined_up(own, edge))]
    assert [b[index] for b in moved] == pytest.approx([own[0][index]] * len(own))
    across = [np.array(b) + [*by, *by] for b, by in zip(own, spread_out(own, True))]
    order = sorted(range(len(own)), key=lambda i: own[i][0])
    gaps = [across[b][0] - across[a][2] for a, b in itertools.pairwise(order)]
    assert gaps == pytest.approx([gaps[0]] * len(gaps), abs=1e-6)
    by, line = drawn_to(own[0], [own[0][0] + 1.5, own[0][2] + 400], True, 2.0)
    assert by == pytest.approx(1.5) and line == own[0][0] + 1.5


@settings(max_examples=60, deadline=None)
@given(st.lists(st.floats(0.4, 3.0), min_size=1, max_size=20), st.floats(120, 1100), st.floats(120, 800))
def test_rows_fill_the_room_and_stay_within_it(aspects, wide, high) -> None:
    room = (20.0, 10.0, 20.0 + wide, 10.0 + high)
    height, places = grown(aspects, room, 8.0, 7.0)
    laid = [shapely.box(x, y, x + a * height, y + height) for (x, y), a in zip(places, aspects)]
    if height > 2.0:
        assert all(shapely.contains(shapely.box(*room).buffer(1e-6), box) for box in laid)
        assert not any(shapely.intersects(a, b) for a, b in itertools.combinations(laid, 2))
        larger = height * 1.02
        assert rows([(a * larger, larger) for a in aspects], room, 8.0, 7.0) is None


def test_sheets_are_laid_out_in_one_step(demo: Project, new_id) -> None:
    scenes = demo.scenes
    whole = se.scenes_in_rows(Sheet(id="a", name="All"), scenes, new_id)
    assert [f.scene for f in whole.frames] == [s.id for s in scenes] and not whole.frames[0].notes
    sections = [demo.scene(n) for n in ("long", "cross")]
    sheet = se.at_one_scale(Sheet(id="b", name="Sections", paper=PAPERS["A2"]), sections, new_id, demo)
    levels = [on_sheet(f, s, in_true_plane(s, np.zeros(3)))[1] for f, s in zip(sheet.frames, sections)]
    assert levels[0] == pytest.approx(levels[1], abs=1e-9)
    scales = {f.scale for f in sheet.frames}
    assert len(scales) == 1 and scales <= set(se.SCALES)
    room = shapely.box(*free_area(sheet))
    shapes = [shapely.box(*box_of(f, demo, sheet)) for f in sheet.frames]
    assert all(shapely.contains(room, s) for s in shapes) and not shapely.intersects(*shapes)
    finer = se.SCALES[se.SCALES.index(scales.pop()) - 1]
    tall = [picture_height(SceneFrame(id="t", scene=s.id, scale=finer), s) for s in sections]
    assert rows([(h * s.aspect, h) for h, s in zip(tall, sections)], se.inset(free_area(sheet)), se.GAP, se.BELOW) is None
    # One cut in four looks: strips of one picture, edge to edge, nothing doubled and nothing missing.
    looks = [s.state.look for s in scenes[:4]]
    strips = se.in_looks(Sheet(id="c", name="Looks"), sections[0], looks, new_id)
    edges = [frame_box(f, sections[0]) for f in strips.frames]
    for a, b in itertools.pairwise(edges):
        assert a[2] == pytest.approx(b[0], abs=1e-9) and a[1::2] == pytest.approx(b[1::2])
    spots = [on_sheet(f, sections[0], CENTRE) for f in strips.frames]
    assert np.ptp(spots, axis=0) == pytest.approx([0.0, 0.0], abs=1e-9)
    with pytest.raises(Problem, match="larger paper"):
        se.at_one_scale(Sheet(id="d", name="", paper=(60.0, 60.0), title_block=False), sections * 6, new_id, demo)
    with pytest.raises(Problem, match="no scenes"):
        se.scenes_in_rows(Sheet(id="e", name=""), [], new_id)


def test_storeys_become_plans(demo: Project, new_id) -> None:
    building = shipped()
    plans = plan_scenes(demo, building, new_id)
    assert [p.name for p in plans] == ["Plan, Ground floor", "Plan, Upper floor"]
    for plan, level in zip(plans, (1.2, 4.6)):
        (cut,) = plan.state.cuts
        assert isinstance(cut, SectionPlane) and cut.plane.is_level and cut.plane.origin[2] == level
        assert plan.state.true_plane() is not None
        frame = SceneFrame(id="f", scene=plan.id, scale=100.0)
        a, b = (on_sheet(frame, plan, np.array(p)) for p in ((0.0, 0.0, level), (10.0, 5.0, level)))
        assert b - a == pytest.approx([100.0, 50.0], abs=1e-6)  # x to the right, y up
    bare = tuple(replace(e, storey=None) for e in building.elements)
    with pytest.raises(Problem, match="no storeys"):
        plan_scenes(demo, replace(building, storeys=(), spaces=(), elements=bare), new_id)


def test_sheets_are_part_of_the_project_and_say_what_they_are(demo: Project, new_id) -> None:
    project = se.set_titles(demo.model_copy(update={"sheets": ()}), Titles(organisation="Studio", date="May"))
    for name in ("Plans", "Sections"):
        project = se.put_sheet(project, Sheet(id=name, name=name, blocks=(SceneFrame(id=new_id(), scene="long", scale=50.0),)))
    fields = fields_of(project.sheets[1], project)
    said = [fields[name] for name in ("number", "count", "scale", "paper", "project")]
    assert said == ["02", "2", "1:50", "A3", "Boathouse"]
    project = se.duplicate_sheet(project, "Plans", new_id)
    assert [s.name for s in project.sheets] == ["Plans", "Plans copy", "Sections"]
    ids = [b.id for s in project.sheets for b in s.blocks]
    assert len(set(ids)) == len(ids)
    project = se.move_sheet(project, "Sections", 0)
    assert project.sheets[0].id == "Sections" and fields_of(project.sheets[0], project)["number"] == "01"
    text = TextBlock(id="t", text="{name} of {project}\n{scale} {unknown}", at=(10.0, 10.0), height=5.0)
    sheet = se.put_blocks(project.sheets[0], [text, LegendBlock(id="l")])
    x0, y0, x1, y1 = box_of(text, project, sheet)
    assert (x0, y0) == (10.0, 10.0) and y1 - y0 == pytest.approx(8.0 + 6.6) and x1 > 40
    assert se.take_blocks(sheet, ["t"]).block("t") is None
    again = Project.model_validate_json(project.model_dump_json())
    assert again == project
    # A scene that is deleted leaves its frame, which says so.
    gone = edits.delete_scene(project, "long")
    assert gone.sheets == project.sheets and box_of(gone.sheets[0].blocks[0], gone, gone.sheets[0])[2] > 0
    assert isinstance(project.scene("long"), Scene)


def marks_in(page_notes, name: str):
    return next(n for n in page_notes.notes if n.note == name)


def test_section_marks_say_on_which_sheet_their_section_is_found_and_follow_it(demo: Project, boathouse, new_id) -> None:
    """Plan and sections of the demo point to one another; the rings lie within the pictures, with letters in both."""
    places = section_places(demo)
    assert places["along"] == SectionPlace("2", "A-02") and places["floor"] == SectionPlace("1", "A-01")
    cutter = Cutter(boathouse)
    for scene_id, said in (("plan", {"along": "2 A-02", "across": "1 A-02"}), ("cross", {"along": "2 A-02", "floor": "1 A-01"})):
        scene = demo.scene(scene_id)
        for height in (150.0, 45.0):
            view = view_of(cutter, scene, None, demo.site, Facts(boathouse).with_sections(places), height)
            notes = view.notes(scene.frame.sized(height * scene.aspect, height))
            for cut, words in said.items():
                note = marks_in(notes, f"mark {cut}")
                assert [w.text for w in note.words] == words.split() * 2
                assert (note.points >= 0).all() and (note.points <= [notes.width, notes.height]).all()
                for ring, upper, lower in zip(note.veils, note.words[::2], note.words[1::2]):
                    boxes = [shapely.box(*w.at, w.at[0] + w.length, w.at[1] + w.height) for w in (upper, lower)]
                    assert all(shapely.Polygon(ring).contains(box) for box in boxes) and not boxes[0].intersects(boxes[1])
    # The key plan of the sheet says the same, all of it in its place.
    sheet = demo.sheet("sections")
    what = wanted_key(next(b for b in sheet.blocks if b.kind == "key plan"), demo, sheet, boathouse)
    drawing = lines_of(cutter, what, Facts(boathouse).with_sections(dict(what.sections)))
    for note in drawing.notes.notes:
        assert (note.points >= 0).all() and (note.points <= [drawing.width, drawing.height]).all()
        assert {w.text for w in note.words} in ({"1", "A-02"}, {"2", "A-02"})
    # The sheet gets another number, and its drawings lose theirs: marks follow.
    plain = [b.model_copy(update={"numbered": False}) if isinstance(b, SceneFrame) else b for b in sheet.blocks]
    renumbered = se.put_sheet(demo, sheet.model_copy(update={"number": "B-7", "blocks": tuple(plain)}))
    assert section_places(renumbered)["along"] == SectionPlace("A", "B-7")
    before, after = (wanted(f.frames[0], p) for p, f in ((demo, demo.sheet("plan")), (renumbered, renumbered.sheet("plan"))))
    assert before != after  # so the frame that shows the marks is drawn anew
    assert wanted(sheet.frames[0], demo) == wanted(sheet.frames[0], se.put_sheet(demo, demo.sheet("looks")))
    assert "along" in section_places(se.take_sheet(demo, "sections"))  # it is on the sheet of looks, too
    assert "across" not in section_places(se.take_sheet(demo, "sections"))
