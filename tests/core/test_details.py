"""Details: parts drawn once more, so many times as large, cut in a way of their own. The building and its numbers stay."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.cuts.cut import SectionPlane
from anatome.cuts.details import Detail, line_between
from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.linework.view_drawing import view_drawing
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.notes.anchors import anchored
from anatome.notes.captions import drawn_at
from anatome.notes.facts import Facts
from anatome.notes.note import Dimension
from anatome.scenes import detail_edits
from anatome.scenes.noted import drawn_notes, note_view
from anatome.scenes.opened import left_of, opened
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.scenes.scene_view import View
from anatome.scenes.transition import transition
from anatome.site.site import NO_SITE
from anatome.view.camera import Camera
from anatome.view.viewport import Frame
from helpers import box, made_of

FRONT = Camera(eye=(2, -40, 1.5), target=(2, 0, 1.5), projection="parallel", field=14)
"""Square on to a wall four metres long."""


def walled() -> Building:
    """A wall 4 × 0.3 × 3 m, and a post 0.2 × 0.2 × 3 m beside it."""
    wall, post = box(0, 0, 0, 4, 0.3, 3), box(5, 0, 0, 5.2, 0.2, 3)
    return made_of(("Wall", "IfcWall", "Brick", wall), ("Post", "IfcColumn", "Oak", post))


def detail_of(name: str, **more) -> Detail:
    return Detail(id="d", name=name, what=Selection(elements=frozenset({name})), **more)


def shown_part(found: ShownBuilding):
    (part,) = (part for part in found.parts if part.detail)
    return part


@settings(max_examples=40, deadline=None)
@given(
    times=st.floats(0.05, 50),
    turn=st.floats(-180, 180),
    place=st.tuples(*[st.floats(-100, 100)] * 3),
    share=st.floats(0.05, 0.95),
)
def test_it_is_the_part_many_times_as_large_and_its_cut_has_the_areas_of_the_part(times, turn, place, share) -> None:
    building = walled()
    plane = Plane((4 * share, 0, 0), (1, 0.3, 0.1))
    cut = SectionPlane(id="c", name="Section C", mark="C", plane=plane, on=False)
    detail = detail_of("Wall", place=place, times=times, turn=turn, cuts=frozenset({"c"}))
    cutter = Cutter(building)
    state = StageState(camera=FRONT, cuts=(cut,), details=(detail,))
    found = opened(cutter, state)
    part = shown_part(found)
    # A cut that is off leaves the building whole, and cuts the detail as it would cut the building.
    assert not found.cut_open.cells and not left_of(cutter, state).faces
    (face,) = part.cut_open.faces_of("c")
    there = left_of(cutter, state.model_copy(update={"cuts": (cut.model_copy(update={"on": True}),)}))
    assert shapely.area(face.section.polygons).sum() == pytest.approx(shapely.area(there.faces_of("c")[0].section.polygons).sum())
    # Its middle is where it was put, and every length is so many times as long.
    matrix = np.array(part.move)
    assert matrix[:3, :3] @ [2, 0.15, 1.5] + matrix[:3, 3] == pytest.approx(np.array(place), abs=1e-9 * 100)
    corners = building.vertices @ matrix[:3, :3].T + matrix[:3, 3]
    near = np.linalg.norm(np.diff(building.vertices, axis=0), axis=1)
    assert np.linalg.norm(np.diff(corners, axis=0), axis=1) == pytest.approx(times * near, rel=1e-9, abs=1e-9)


def test_linework_shows_the_detail_at_its_own_scale_and_hides_what_lies_behind_it() -> None:
    building = walled()
    detail = detail_of("Post", place=(2.0, -8.0, 1.5), times=2.5, line=False)
    look = Look(shade=False, shadows=0.0, ground=False)

    def lines(*details: Detail) -> shapely.Geometry:
        found = opened(Cutter(building), StageState(camera=FRONT, details=details))
        drawing = view_drawing(View(FRONT, found, look, Frame(width=1000, height=1000), paper=200.0), "Wall")
        return shapely.union_all([shapely.LineString(line) for strokes in drawing.strokes for line in strokes.lines])

    alone, both = lines(), lines(detail)
    added = shapely.get_coordinates(shapely.difference(both, shapely.buffer(alone, 0.05)))
    wide, high = np.ptp(added, axis=0)
    # 200 mm of paper show the height of the picture; the post is 0.2 m wide and 3 m high, two and a half times.
    metre = 200.0 / FRONT.height
    assert wide == pytest.approx(2.5 * 0.2 * metre, rel=1e-3) and high == pytest.approx(2.5 * 3 * metre, rel=1e-3)
    # It stands before the wall: the wall's edges run behind it no more.
    inside = shapely.box(*(added.min(axis=0) + 0.1), *(added.max(axis=0) - 0.1))
    assert shapely.length(shapely.intersection(alone, inside)) > 5 and shapely.length(shapely.intersection(both, inside)) == 0


def test_notes_on_a_detail_say_the_lengths_of_the_part_and_lie_where_it_is_drawn() -> None:
    building = walled()
    detail = detail_of("Post", place=(12.0, 0.0, 1.5), times=5.0)
    corners = [np.array([5.0, 0, 0]), np.array([5.2, 0, 0])]
    notes = []
    for on in ("", "d"):
        anchors = tuple(anchored(building, corner, "Post").model_copy(update={"detail": on}) for corner in corners)
        notes.append(Dimension(id=f"n{on}", anchors=anchors, along=(1.0, 0.0, 0.0), offset=(0.0, 0.0, -0.5)))
    state = StageState(camera=FRONT, details=(detail,), notes=tuple(notes))
    view = note_view(state, opened(Cutter(building), state), Facts(building), Frame(width=1000, height=1000), 200.0)
    drawn = {marks.note: marks for marks in drawn_notes(state, view).notes}
    plain, large, caption = drawn["n"], drawn["nd"], drawn["detail d"]
    spans = [float(np.linalg.norm(marks.measured[0].end - marks.measured[0].start)) for marks in (plain, large)]
    assert spans[1] == pytest.approx(5 * spans[0]) and plain.words[0].text == large.words[0].text
    assert [words.text for words in caption.words] == ["Post", "5 times as large"]
    foot = view.viewport.height - view.viewport.pixels(np.array([12.0, 0, 1.5 - 5 * 1.5]))[1]
    assert foot - 5.0 < caption.points[:, 1].max() < foot
    # Deleted, it takes along what is written on it.
    project = detail_edits.take_detail(Project(name="p", model=ModelReference(path="m.ifc"), stage=state), "d")
    assert [note.id for note in project.stage.notes] == ["n"] and not project.stage.details


@pytest.mark.parametrize(
    ("scale", "times", "words"),
    [
        (50.0, 5.0, "1:10"),
        (50.0, 2.5, "1:20"),
        (180.73, 5.0, "5 times as large"),
        (0.0, 2.5, "2.5 times as large"),
        (100.0, 3.0, "3 times as large"),
        (0.0, 0.5, "2 times as small"),
        (0.0, 1.0, "as large as in the building"),
    ],
)
def test_a_scale_is_told_where_it_is_one_that_somebody_set(scale: float, times: float, words: str) -> None:
    assert drawn_at(Detail(id="d", name="D", what=Selection(), place=(0, 0, 0), times=times), scale) == words


def test_new_ones_stand_beside_what_is_shown_and_not_on_one_another(boathouse: Building) -> None:
    shown = boathouse.subject_bounds(np.ones(len(boathouse.elements), bool))
    camera = Camera(eye=(-20, -30, 15), target=tuple(shown.mean(axis=0)), projection="parallel", field=60)
    boxes: list[np.ndarray] = []
    right, up, _ = camera.axes
    for number in (0, 5, 9, 40):
        own = boathouse.element_bounds[number]
        detail = detail_edits.new_detail("D", Selection(), own, shown, boxes, camera)
        half = detail.times * (own[1] - own[0]) / 2
        boxes.append(np.stack([np.array(detail.place) - half, np.array(detail.place) + half]))
        assert detail.times in detail_edits.ENLARGEMENTS
        for other in (shown, *boxes[:-1]):
            assert not detail_edits._in_the_way(boxes[-1], other, (right, up))


def test_its_own_cut_faces_the_eye_and_leaves_the_building_alone() -> None:
    building = walled()
    detail = detail_of("Wall", place=(12.0, 0.0, 1.5), times=2.0)
    project = Project(name="p", model=ModelReference(path="m.ifc"), stage=StageState(camera=FRONT, details=(detail,)))
    ways = [np.array([1.0, 0, 0]), np.array([0, 1.0, 0])]
    cut_project, cut_id = detail_edits.cut_detail(project, detail, building.bounds_of(np.array([True, False])), ways, FRONT)
    cut = cut_project.stage.cut(cut_id)
    assert not cut.on and cut.plane.normal == pytest.approx((0, -1, 0)) and cut_project.stage.detail("d").cuts == {cut_id}
    # Turned by a right angle, the same eye sees another side of it.
    turned = detail.model_copy(update={"turn": 90.0})
    other, other_id = detail_edits.cut_detail(project, turned, building.bounds_of(np.array([True, False])), ways, FRONT)
    assert abs(other.stage.cut(other_id).plane.normal[0]) == pytest.approx(1)


def test_lines_lead_from_box_to_box_and_details_travel_between_scenes() -> None:
    start, end = line_between(np.array([[0.0, 0, 0], [2, 2, 2]]), np.array([[9.0, 0, 0], [13, 2, 2]]))
    assert start == pytest.approx([2, 1, 1]) and end == pytest.approx([9, 1, 1])
    same = line_between(np.array([[0.0, 0, 0], [2, 2, 2]]), np.array([[1.0, 0, 0], [3, 2, 2]]))
    assert same[0] == pytest.approx(same[1])
    building = walled()
    first = detail_of("Post", place=(10.0, 0.0, 0.0), times=2.0)
    last = first.model_copy(update={"place": (14.0, 0.0, 2.0), "times": 4.0})
    states = [StageState(camera=FRONT, details=(d,)) for d in (first, last)]
    way = transition(building, NO_SITE, *states, 1.0)
    (half,) = way.at(0.5).details
    assert half.place == pytest.approx((12, 0, 1)) and half.times == pytest.approx(3) and way.fade == 0.0
    assert transition(building, NO_SITE, StageState(camera=FRONT), states[0], 1.0).fade > 0
