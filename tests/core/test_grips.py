"""Pulling, turning, nudging and typing at cuts, the same for every kind."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anatome.cuts.cut import AnyCut, SectionBox, SectionPlane, SteppedSection
from anatome.cuts.directions import element_axis, own_directions, plane_along, plane_through_points, roof_slopes
from anatome.cuts.fitting import box_on_plan, box_round, box_round_space, box_round_storey, storey_plane
from anatome.cuts.grips import drawn_direction, nudged, pulled, rounded_tilt, rounded_turn, snapped, turned, with_value
from anatome.cuts.kinds.box import Box
from anatome.cuts.kinds.grip import plane_frame
from anatome.cuts.kinds.stepped_line import SteppedLine
from anatome.cuts.peel import build_up, peel_plane, peel_planes
from anatome.cuts.plane import Plane
from anatome.cuts.snapping import Stop, stops_along
from anatome.model.building import Building
from anatome.problems import Problem

BOUNDS = np.array([[0.0, 0, 0], [20, 12, 9]])
ABOUT = np.array([10.0, 6.0, 4.0])


def make(kind: str) -> AnyCut:
    base = {"id": "c", "name": "Cut", "mark": "C"}
    if kind == "box":
        return SectionBox(**base, box=Box((9, 5, 4), (6, 4, 5), 25.0))
    if kind == "stepped":
        return SteppedSection(**base, line=SteppedLine((0.2, -1, 0), (-3.0, -6.0, -4.0), (5.0, 11.0)), depth=4.0)
    if kind == "level":
        return SectionPlane(**base, plane=Plane((9, 5, 1.2), (0, 0, 1)), depth=2.0)
    return SectionPlane(**base, plane=Plane((9, 5, 4), (0.4, -1, 0)), depth=3.0)


KINDS = ("plane", "level", "box", "stepped")
kinds = st.sampled_from(KINDS)


@pytest.mark.parametrize("kind", KINDS)
def test_grips_lie_on_the_frame_and_are_all_different(kind: str) -> None:
    cut = make(kind)
    found = cut.grips(BOUNDS)
    assert len({g.name for g in found}) == len(found)
    corners = np.concatenate(cut.frames(BOUNDS))
    low, high = corners.min(axis=0) - 5, corners.max(axis=0) + 5
    for grip in found:
        assert ((grip.at >= low) & (grip.at <= high)).all()
        assert cut.grip_words(grip.name)
        assert grip.along is None or np.linalg.norm(grip.along) == pytest.approx(1)
        if grip.frame is not None:
            assert grip.at == pytest.approx(grip.frame.mean(axis=0))
    assert len(plane_frame(Plane((0, 0, 3), (0, 0, 1)), BOUNDS)) == 4


@given(kinds, st.floats(-1.5, 1.5), st.data())
def test_a_pull_moves_the_number_at_the_grip_by_as_much(kind: str, by: float, data) -> None:
    cut = make(kind)
    grip = data.draw(st.sampled_from([g for g in cut.grips(BOUNDS) if g.along is not None]))
    changed = pulled(cut, grip.name, grip.along * by)
    before, after = cut.value(grip.name), changed.value(grip.name)
    assert abs(after - before) == pytest.approx(abs(by), abs=1e-9)
    sideways = np.cross(grip.along, [0.3, 0.5, 0.8])
    assert pulled(cut, grip.name, sideways).value(grip.name) == pytest.approx(before, abs=1e-9)
    plane = cut.moving_plane(grip.name)
    if plane is not None:
        assert np.array(changed.moving_plane(grip.name).origin) @ plane.n - plane.offset == pytest.approx(
            by * float(grip.along @ plane.n), abs=1e-9
        )


@given(kinds, st.floats(0.5, 9.0), st.data())
def test_a_number_typed_is_the_number_shown(kind: str, wanted: float, data) -> None:
    cut = make(kind)
    names = [g.name for g in cut.grips(BOUNDS) if g.along is not None]
    name = data.draw(st.sampled_from(names))
    if name.startswith("jog"):
        wanted = 5.0 + 0.3 * wanted if name == "jog 0" else 11.0 + wanted
    assert with_value(cut, name, wanted, ABOUT).value(name) == pytest.approx(wanted, abs=1e-9)
    if cut.can_turn:
        changed = with_value(cut, "turn", 10 * wanted, ABOUT)
        assert (changed.heading - 10 * wanted + 180) % 360 - 180 == pytest.approx(0, abs=1e-9)


@given(kinds, st.floats(-170, 170), st.sampled_from([(), (66.0,), (12.5, 40.0)]))
def test_shift_turns_to_round_angles_or_the_buildings_own(kind: str, swing: float, directions) -> None:
    cut = make(kind)
    if not cut.can_turn:
        return
    by = rounded_turn(cut, swing, directions)
    reached = (cut.heading + by) % 90
    allowed = [0.0, 15, 30, 45, 60, 75, 90, *directions]
    assert min(abs(reached - a) for a in allowed) < 1e-6
    assert abs(by - swing) <= 7.5 + 1e-9


def test_a_locked_cut_stays() -> None:
    for kind in KINDS:
        cut = make(kind).model_copy(update={"locked": True})
        assert all(pulled(cut, g.name, np.ones(3)) == cut for g in cut.grips(BOUNDS))
        assert turned(cut, ABOUT, 30) == cut and nudged(cut, 1, 1, 1) == cut


def test_nudges_go_where_the_cut_looks() -> None:
    plane = make("plane")
    step = np.array(nudged(plane, 0, 0.1, 0).plane.origin) - plane.plane.origin
    assert step @ -plane.plane.n == pytest.approx(0.1)
    level = make("level")
    assert nudged(level, 0, 0, 0.01).plane.position == pytest.approx(1.21)
    box = make("box")
    moved = np.array(nudged(box, 1.0, 0, 0).box.centre) - box.box.centre
    assert moved == pytest.approx(box.box.axes[0])
    assert nudged(box, 0, 0, -1.0).box.centre[2] == pytest.approx(3.0)
    stepped = make("stepped")
    assert np.array(nudged(stepped, 0, 1.0, 0).line.offsets) == pytest.approx(np.array(stepped.line.offsets) - 1.0)


def test_a_dragged_cut_stops_where_it_may_and_nowhere_else() -> None:
    cut = SectionPlane(id="c", name="C", mark="C", plane=Plane((0, 0, 1.23), (0, 0, 1)))
    stops = [Stop(0.0, "floor"), Stop(1.2, "1.2 m over it"), Stop(3.4, "upper floor")]
    there, stop = snapped(cut, "move", stops, 0.05)
    assert stop.what == "1.2 m over it" and there.plane.position == pytest.approx(1.2)
    assert snapped(cut, "move", stops, 0.01) == (cut, None)
    box = SectionBox(id="b", name="B", mark="B", box=Box((0, 0, 1), (2, 2, 1.9)))
    there, stop = snapped(box, "face 4", [Stop(2.0, "ceiling")], 0.1)
    assert there.box.size[2] == pytest.approx(1.95) and there.box.planes[5].origin[2] == pytest.approx(0.05)
    assert snapped(box, "whole", stops, 9.0) == (box, None)


def test_stops_of_the_demo_are_storeys_faces_and_middles_of_openings(boathouse: Building) -> None:
    shown = np.ones(len(boathouse.elements), bool)
    level = {s.what: s.offset for s in stops_along(boathouse, np.array([0, 0, 1.0]), shown)}
    assert level["floor of Upper floor"] == pytest.approx(3.4) and level["1.2 m over Ground floor"] == pytest.approx(1.2)
    across = stops_along(boathouse, np.array([0, -1.0, 0]), shown)
    assert any(s.what.startswith("middle of") for s in across)
    faces = [s.offset for s in across if s.what == "face"]
    assert any(abs(f - 0.13) < 0.02 for f in faces)  # the outside of the river wall


@pytest.mark.parametrize("degrees", [0.0, 24.0, 66.0])
def test_the_directions_of_the_building_are_found(boathouse: Building, degrees: float) -> None:
    """The house lies along X, the wing 66° off it: that is how the demo is made."""
    found = own_directions(boathouse)
    assert min(abs(d - degrees) % 90 for d in (0.0, 66.0, 24.0)) < 1e-9
    assert min(abs(d - 0.0) for d in found) < 1e-6 and min(abs(d - 66.0) for d in found) < 0.01
    end = drawn_direction(np.zeros(2), np.array([4.0, 9.1]), found)
    assert np.degrees(np.arctan2(end[1], end[0])) == pytest.approx(66.0, abs=0.01)


def test_a_plane_along_a_wall_halves_it(boathouse: Building) -> None:
    wall = next(i for i, e in enumerate(boathouse.elements) if e.name.startswith("Wing, east wall"))
    axis = element_axis(boathouse, wall)
    towards = np.array([1.0, -1.0, 0.5])
    middle, face = plane_along(axis, towards), plane_along(axis, towards, face=True)
    assert middle.n @ towards > 0 and axis.degrees == pytest.approx(66, abs=0.5)
    start, end = boathouse.triangle_start[wall : wall + 2]
    distances = middle.distance(boathouse.vertices[boathouse.triangles[start:end]])
    assert distances.max() == pytest.approx(-distances.min(), abs=1e-6)
    assert face.distance(boathouse.vertices[boathouse.triangles[start:end]]).max() == pytest.approx(0, abs=1e-6)


def test_three_points_make_a_plane_unless_they_lie_in_line() -> None:
    points = np.array([[0.0, 0, 0], [1, 0, 0], [0, 1, 0.5]])
    for towards in (np.array([0, 0, 1.0]), np.array([0, 0, -1.0])):
        plane = plane_through_points(points, towards)
        assert np.abs(plane.distance(points)).max() < 1e-12 and plane.n @ towards > 0
    with pytest.raises(Problem, match="on one line"):
        plane_through_points(np.array([[0.0, 0, 0], [1, 1, 1], [2, 2, 2]]), np.array([0, 0, 1.0]))


def test_boxes_round_storeys_rooms_and_selections(boathouse: Building) -> None:
    shown = np.ones(len(boathouse.elements), bool)
    upper = box_round_storey(boathouse, 2, shown, 0.3)
    assert upper.centre[2] - upper.size[2] / 2 == pytest.approx(3.1)
    assert upper.centre[2] + upper.size[2] / 2 == pytest.approx(6.1)  # under the next floor
    room = boathouse.spaces[0]
    box = box_round_space(room, 0.25)
    assert np.array(box.size) == pytest.approx(np.array(room.upper) - room.lower + 0.5)
    opened = box_round_space(room, 0.25, open_top=True)
    assert max(opened.corners[:, 2]) == pytest.approx(room.upper[2] - 0.02) and min(opened.corners[:, 2]) == min(
        box.corners[:, 2]
    )
    looked_into = box_round_storey(boathouse, 1, shown, 0.3, open_top=True)
    ceilings = [b for e, b in zip(boathouse.elements, boathouse.element_bounds) if e.layer == "A-CLNG"]
    assert max(looked_into.corners[:, 2]) == pytest.approx(min(c[0][2] for c in ceilings) - 0.02)
    pontoon = np.array([e.layer == "L-PONTOON" for e in boathouse.elements])
    assert box_round(boathouse, pontoon, margin=0.0).size == pytest.approx(np.ptp(boathouse.bounds_of(pontoon), axis=0))
    with pytest.raises(Problem, match="nothing to put a box round"):
        box_round(boathouse, ~shown)
    drawn = box_on_plan(np.array([8.0, 1]), np.array([2.0, 5]), 0.0, 3.0)
    assert drawn.size == pytest.approx((6, 4, 3)) and drawn.centre == pytest.approx((5, 3, 1.5))
    assert storey_plane(boathouse, 1).position == pytest.approx(1.2)


@pytest.mark.parametrize("picked", ["River side, tiles 10", "River side, rafter 10", "River side, insulation 1"])
def test_any_layer_of_a_roof_leads_to_its_whole_build_up(boathouse: Building, picked: str) -> None:
    index = next(i for i, e in enumerate(boathouse.elements) if e.name == picked)
    shown = np.ones(len(boathouse.elements), bool)
    middle = boathouse.element_bounds[index].mean(axis=0)
    point = None if "insulation" not in picked else np.array([13.2, middle[1], middle[2]])
    layers = build_up(boathouse, index, shown, point)
    names = [layer.name for layer in layers]
    assert names[:3] == ["A-ROOF-TILE", "A-ROOF-BATTEN", "A-ROOF-INSULATION"]
    assert set(names[3:]) == {"A-ROOF-LINING", "S-ROOF"}
    assert [layer.out for layer in layers] == sorted((layer.out for layer in layers), reverse=True)
    planes = peel_planes(layers, peel_plane(boathouse, index), 0.6)
    offsets = [plane.offset for plane, _ in planes]
    assert np.diff(offsets) == pytest.approx([0.6] * 4)  # the outermost is drawn back furthest
    reached = [set(np.flatnonzero(reach.mask(boathouse))) for _, reach in planes]
    assert all(not a & b for a in reached for b in reached if a is not b)
    with pytest.raises(Problem, match="spacing"):
        peel_planes(layers, planes[0][0], 0.0)
    with pytest.raises(Problem, match="two layers"):
        peel_planes(layers[:1], planes[0][0], 0.6)


def test_a_wall_peels_from_its_cladding_inwards(boathouse: Building) -> None:
    index = next(i for i, e in enumerate(boathouse.elements) if e.layer == "A-WALL-CLADDING")
    layers = build_up(boathouse, index, np.ones(len(boathouse.elements), bool))
    assert [layer.name for layer in layers] == ["A-WALL-CLADDING", "A-WALL-INSULATION", "A-WALL"]


@given(st.floats(-180, 180), st.floats(-89, 89), st.floats(-90, 90))
def test_a_tilted_plane_keeps_its_place_and_its_level_axis(heading: float, before: float, after: float) -> None:
    h, t = np.radians(heading), np.radians(before)
    plane = Plane((1.0, 2.0, 3.0), (np.cos(h) * np.cos(t), np.sin(h) * np.cos(t), np.sin(t)))
    point = np.array([4.0, -1.0, 2.5])
    foot = point - plane.n * plane.distance(point)
    cut = SectionPlane(id="c", name="C", mark="C", plane=plane)
    tilted = with_value(cut, "tilt", after, point)
    assert tilted.value("tilt") == pytest.approx(after, abs=1e-6) and plane.tilt == pytest.approx(before, abs=1e-6)
    assert abs(tilted.plane.distance(foot)) < 1e-9 and abs(tilted.plane.n @ plane.level_axis) < 1e-9
    # By a drag the same way: the angle between the normals is what it was turned by.
    dragged = cut.tilted(point, plane.level_axis, before - after)
    assert np.abs(dragged.plane.n - tilted.plane.n).max() < 1e-9
    assert np.degrees(np.arccos(np.clip(dragged.plane.n @ plane.n, -1, 1))) == pytest.approx(abs(before - after), abs=1e-4)


def test_tilting_stops_at_the_slopes_of_roofs(boathouse: Building) -> None:
    pitch = float(np.degrees(np.arctan(0.70)))
    slopes = roof_slopes(boathouse, ~boathouse.context)
    assert min(abs(s - pitch) for s in slopes) < 0.01  # that is how the demo is made
    assert rounded_tilt(91.5 - pitch, slopes) == (pytest.approx(90.0 - pitch, abs=0.01), "along the roof")
    assert rounded_tilt(-pitch - 1.0, slopes) == (pytest.approx(-pitch, abs=0.01), "square to the roof")
    assert rounded_tilt(1.2, slopes) == (0.0, "upright") and rounded_tilt(5.0, []) == (5.0, "")
    assert rounded_tilt(17.0, [], 15.0) == (15.0, "")
