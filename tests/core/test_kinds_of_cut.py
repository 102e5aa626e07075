"""Boxes, stepped sections, depth, reach and treatments: what they leave, against manifold3d and closed formulas."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.cuts.cells import held_by_any
from anatome.cuts.cut import AnyCut, SectionBox, SectionPlane, SteppedSection
from anatome.cuts.dissection import CutBuilding, Cutter
from anatome.cuts.flat_view import flat_section
from anatome.cuts.kinds.box import Box
from anatome.cuts.kinds.stepped_line import SteppedLine
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.cuts.solid import kept_part
from anatome.cuts.treatment import STARTING_RULE, TreatmentRow, Treatments
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.problems import Problem
from helpers import building_of

BALL = trimesh.creation.icosphere(subdivisions=3, radius=1.0)
centres = st.tuples(*[st.floats(-0.6, 0.6)] * 3)
sizes = st.tuples(*[st.floats(0.3, 1.8)] * 3)
turns = st.floats(-180, 180)


def named(kind: type, **fields: object) -> AnyCut:
    return kind(id="c", name="C", mark="C", **fields)


def cut(building: Building, *cuts: AnyCut, treatments: Treatments = Treatments()) -> CutBuilding:  # noqa: B008
    return Cutter(building).dissect(cuts, np.ones(len(building.elements), bool), treatments)


def solid_box(box: Box) -> manifold3d.Manifold:
    made = manifold3d.Manifold.cube(box.size, True).rotate((0, 0, box.turn))
    return made.translate(box.centre)


def volume_of(dissection: CutBuilding) -> float:
    """Of the kept part, by the divergence theorem over its capped surface; it must close."""
    total = 0.0
    for kept in kept_part(dissection):
        corners = kept.vertices[kept.triangles]
        vectors = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
        assert np.abs(vectors.sum(axis=0)).max() < 1e-7
        total += float(np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6)
    return total


# Boxes ---------------------------------------------------------------------------------------------------------


@settings(max_examples=30)
@given(centres, sizes, turns)
def test_a_box_keeps_its_inside_and_carving_the_rest(centre, size, turn) -> None:
    """Kept and carved volumes are manifold3d's intersection and difference, and add up to the whole (Cavalieri)."""
    building = building_of((BALL.vertices, BALL.faces))
    box = Box(centre, size, turn)
    whole = manifold3d.Manifold(manifold3d.Mesh64(BALL.vertices, BALL.faces.astype(np.uint64)))
    inside = (whole ^ solid_box(box)).volume()
    kept = volume_of(cut(building, named(SectionBox, box=box)))
    carved = volume_of(cut(building, named(SectionBox, box=box, carve=True)))
    assert kept == pytest.approx(inside, rel=1e-6, abs=1e-9)
    assert kept + carved == pytest.approx(whole.volume(), rel=1e-6)


@settings(max_examples=25)
@given(centres, sizes, turns)
def test_the_faces_of_a_box_close_what_it_leaves(centre, size, turn) -> None:
    """Area vectors of the surface left over and of the filled faces add up to nothing (divergence theorem)."""
    building = building_of((BALL.vertices, BALL.faces))
    box = Box(centre, size, turn)
    found = cut(building, named(SectionBox, box=box))
    corners = BALL.triangles
    for plane in box.planes:
        corners = trimesh.intersections.slice_faces_plane(
            corners.reshape(-1, 3), np.arange(3 * len(corners)).reshape(-1, 3), -plane.n, plane.origin
        )
        corners = corners[0][corners[1]]
    sides = [corners, *(f.section.caps.vertices[f.section.caps.triangles] for f in found.faces)]
    together = np.concatenate(sides)
    vectors = np.cross(together[:, 1] - together[:, 0], together[:, 2] - together[:, 0]) / 2
    assert np.abs(vectors.sum(axis=0)).max() < 1e-6


def test_a_box_within_a_solid_shows_its_six_sides_whole() -> None:
    building = building_of((trimesh.creation.box((10, 10, 10)).vertices, trimesh.creation.box((10, 10, 10)).faces))
    box = Box((0.5, 0.2, -0.1), (2.0, 3.0, 4.0), 33.0)
    for carve in (False, True):
        faces = cut(building, named(SectionBox, box=box, carve=carve)).faces
        assert sorted(float(f.section.areas.sum()) for f in faces) == pytest.approx([6, 6, 8, 8, 12, 12])
        assert {f.name for f in faces} == {"right", "left", "back", "front", "top", "bottom"}
        for face in faces:
            outwards = (np.array(face.plane.origin) - box.centre) @ face.plane.n
            assert (outwards > 0) is not carve  # filled faces look to where something was taken away


def test_several_boxes_combine() -> None:
    """A box keeps, a second one carves a corner out of that, and a plane cuts the rest: one rule for all of them."""
    building = building_of((trimesh.creation.box((4, 4, 4)).vertices, trimesh.creation.box((4, 4, 4)).faces))
    keeps = named(SectionBox, box=Box((0, 0, 0), (2, 2, 2)))
    carves = named(SectionBox, box=Box((1, 1, 1), (1, 1, 1)), carve=True).model_copy(update={"id": "d"})
    plane = named(SectionPlane, plane=Plane((0, 0, -0.5), (0, 0, -1))).model_copy(update={"id": "e"})
    assert volume_of(cut(building, keeps, carves, plane)) == pytest.approx(2 * 2 * 1.5 - 0.5**3)
    points = np.random.default_rng(3).uniform(-2, 2, (4000, 3))
    found = cut(building, keeps, carves, plane)
    gone = held_by_any(found.cells, points)
    inside = (np.abs(points) < 1).all(axis=1) & ~(points > 0.5).all(axis=1) & (points[:, 2] > -0.5)
    assert (gone == ~inside).all()


@given(centres, sizes, turns, st.integers(0, 5), st.floats(-3, 3))
def test_pulling_a_side_leaves_the_other_five(centre, size, turn, face, by) -> None:
    box = Box(centre, size, turn)
    pulled = box.with_face_moved(face, by)
    for other, (before, after) in enumerate(zip(box.planes, pulled.planes)):
        moved = float(after.n @ (np.array(after.origin) - np.array(before.origin)))
        expected = max(by, 0.01 - size[face // 2]) if other == face else 0.0
        assert moved == pytest.approx(expected, abs=1e-9)
    assert pulled.size[face // 2] >= 0.01 - 1e-12


@given(centres, sizes, turns)
def test_boxes_fit_what_they_are_put_round(centre, size, turn) -> None:
    box = Box(centre, size, turn)
    again = Box.round_points(box.corners, turn)
    assert again.size == pytest.approx(box.size) and again.centre == pytest.approx(box.centre, abs=1e-9)
    wider = Box.round_points(box.corners, turn, 0.25)
    assert np.array(wider.size) == pytest.approx(np.array(box.size) + 0.5)
    with pytest.raises(Problem, match="above 0"):
        Box(centre, (size[0], 0.0, size[2]), turn)


def test_a_box_from_a_plane_is_the_slice_behind_it() -> None:
    bounds = np.array([[0.0, 0, 0], [10, 6, 4]])
    for normal in ((0, -1, 0), (1, 0, 0), (0, 0, 1), (1, -1, 0)):
        plane = Plane((5, 3, 2), normal)
        box = Box.before_plane(plane, bounds, 1.5)
        assert max(plane.distance(box.corners)) == pytest.approx(0, abs=1e-9)
        assert min(plane.distance(box.corners)) == pytest.approx(-1.5)
    with pytest.raises(Problem, match="upright or a level"):
        Box.before_plane(Plane((0, 0, 0), (0, 1, 1)), bounds, 1.0)


# Stepped sections and depth --------------------------------------------------------------------------------------


def test_a_stepped_section_cuts_along_its_steps_and_jogs() -> None:
    slab = trimesh.creation.box((10, 6, 2))
    building = building_of((slab.vertices, slab.faces))
    line = SteppedLine((0, -1, 0), (1.0, -1.0), (2.0,))  # at y = −1 to the left of x = 2, at y = 1 to the right of it
    stepped = named(SteppedSection, line=line)
    found = cut(building, stepped)
    areas = {f.name: float(f.section.areas.sum()) for f in found.faces}
    assert areas == pytest.approx({"step 1": 7 * 2, "jog": 2 * 2, "step 2": 3 * 2})
    assert volume_of(found) == pytest.approx((7 * 4 + 3 * 2) * 2)
    flat = flat_section(stepped, found.faces)
    # Read as one plane: one polygon, ten wide, with no line where the steps meet (offset section, common practice).
    assert len(flat.polygons) == 1 and flat.areas.sum() == pytest.approx(20)
    assert shapely.get_num_coordinates(flat.polygons[0]) <= 9


@given(
    st.lists(st.floats(-4, 4), min_size=2, max_size=4),
    st.floats(0, 360),
    st.sampled_from([1.0, -1.0]),
)
def test_drawn_lines_become_steps_that_pass_through_their_points(steps, degrees, side) -> None:
    """Corners of a line drawn at any angle lie on the stepped section made of it, and it looks to the side clicked."""
    along = np.arange(len(steps) + 1) * 3.0
    corners = [(t, s) for i, s in enumerate(steps) for t in (along[i], along[i + 1])]
    a = np.radians(degrees)
    turn = np.array([[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]])
    points = np.array(corners) @ turn.T
    if any(abs(p - q) < 1e-3 for p, q in zip(steps[:-1], steps[1:])):
        return
    click = np.array([1.0, steps[0] + 9.0 * side]) @ turn.T
    line = SteppedLine.through(points, click)
    assert len(line.offsets) == len(steps)
    normal = np.array(line.normal[:2])
    assert np.sort(line.offsets) == pytest.approx(np.sort(points[::2] @ normal), abs=1e-9)
    assert (click - points[0]) @ normal < 0  # the side clicked is looked at; the normal points to what goes
    again = line.turned_round().turned_round()
    assert again.offsets == pytest.approx(line.offsets) and again.jogs == pytest.approx(line.jogs)
    swung = line.turned_about(np.array([*points[0], 0.0]), 30.0)
    assert abs(np.array(swung.normal) @ np.array(line.normal)) == pytest.approx(np.cos(np.radians(30)))


def test_lines_that_make_no_section_are_refused() -> None:
    with pytest.raises(Problem, match="two points"):
        SteppedLine.through(np.array([[0.0, 0], [0, 0]]), np.array([1.0, 1]))
    with pytest.raises(Problem, match="back over itself"):
        SteppedLine.through(np.array([[0.0, 0], [9, 0], [9, 2], [3, 2], [3, 5.0]]), np.array([1.0, 9]))
    with pytest.raises(Problem, match="one jog between"):
        SteppedLine((0, 1, 0), (0.0, 1.0), ())


@pytest.mark.parametrize("depth", [0.5, 2.0])
def test_depth_says_how_far_one_sees(depth: float) -> None:
    bar = trimesh.creation.box((10, 1, 1))
    building = building_of((bar.vertices, bar.faces))
    plane = Plane((2, 0, 0), (1, 0, 0))
    found = cut(building, named(SectionPlane, plane=plane, depth=depth))
    assert volume_of(found) == pytest.approx(depth)
    assert {f.name for f in found.faces} == {"", "far end"}
    line = SteppedLine((1, 0, 0), (2.0, 1.0), (0.1,))
    stepped = cut(building, named(SteppedSection, line=line, depth=depth))
    deepest = [(0.6 if width == 0 else 0.4) for width in (0, 1)]
    assert volume_of(stepped) == pytest.approx(sum(w * max(o - (1 - depth), 0) for w, o in zip(deepest, (2.0, 1.0))))


# Reach ---------------------------------------------------------------------------------------------------------


@pytest.fixture
def three() -> Building:
    """A wall, a railing and a chair side by side along x, each a metre cube."""
    boxes = [trimesh.creation.box((1, 1, 1)) for _ in range(3)]
    for i, box in enumerate(boxes):
        box.apply_translation((2.0 * i, 0, 0))
    made = building_of(*((b.vertices, b.faces) for b in boxes))
    kinds = ("IfcWall", "IfcRailing", "IfcFurniture")
    elements = tuple(
        type(e)(e.id, e.name, kind, material=kind[3:].lower(), layer=f"L{i}", storey=None)
        for i, (e, kind) in enumerate(zip(made.elements, kinds))
    )
    return Building(**{**{f: getattr(made, f) for f in made.__dataclass_fields__}, "elements": elements})


@pytest.mark.parametrize(
    "what",
    [
        Selection(elements=frozenset({"e1"})),
        Selection(types=frozenset({"IfcRailing"})),
        Selection(layers=frozenset({"L1"})),
        Selection(materials=frozenset({"railing"})),
        Selection(words=frozenset({"pArT 1"})),
    ],
    ids=["element", "type", "layer", "material", "word"],
)
def test_reach_by_everything_one_can_tell_parts_apart_by(three: Building, what: Selection) -> None:
    plane = Plane((0, 0, 0), (0, 0, 1))
    for mode, cut_ones in (("everything", {0, 1, 2}), ("only", {1}), ("all but", {0, 2})):
        found = cut(three, named(SectionPlane, plane=plane, reach=Reach(mode=mode, what=what)))
        assert set(found.faces[0].section.element.tolist()) == cut_ones
        assert volume_of(found) == pytest.approx(3 - 0.5 * len(cut_ones))
        points = np.array([[2.0 * e, 0, 0.25] for e in range(3)])
        assert set(np.flatnonzero(found.removed(points, np.arange(3)))) == cut_ones


def test_two_cuts_with_different_reach_leave_each_other_alone(three: Building) -> None:
    """The wall goes at x = 0, the rest at z = 0: each face is cut only by what reaches its element."""
    upright = named(SectionPlane, plane=Plane((0, 0, 0), (1, 0, 0)), reach=Reach(mode="only", what=Selection(types={"IfcWall"})))
    level = named(SectionPlane, plane=Plane((0, 0, 0), (0, 0, 1)), reach=Reach(mode="all but", what=Selection(types={"IfcWall"})))
    found = cut(three, upright, level.model_copy(update={"id": "d"}))
    assert [float(f.section.areas.sum()) for f in found.faces] == pytest.approx([1.0, 2.0])
    assert volume_of(found) == pytest.approx(1.5)


# Treatments ----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "height, left",
    [(0.25, {"e0", "e1", "e2"}), (-0.25, {"e0"}), (0.75, {"e0", "e1", "e2"}), (-0.75, set())],
)
def test_the_starting_rule_keeps_whole_what_has_its_middle_behind(three: Building, height: float, left: set[str]) -> None:
    plane = Plane((0, 0, height), (0, 0, 1))
    found = cut(three, named(SectionPlane, plane=plane), treatments=STARTING_RULE)
    assert {three.elements[e].id for e in np.flatnonzero(found.shown)} == left
    filled = {three.elements[e].id for f in found.faces for e in f.section.element}
    assert filled == ({"e0"} if abs(height) < 0.5 else set())  # railing and chair are never sliced
    if height == 0.25:
        assert not found.removed(np.array([[2.0, 0, 0.4]]), np.array([1])).any()


def test_what_was_said_last_of_an_element_counts(three: Building) -> None:
    rows = (
        TreatmentRow(name="Railings", what=Selection(types={"IfcRailing"}), does="leave out"),
        TreatmentRow(name="this one", what=Selection(elements={"e1"}), does="keep whole"),
    )
    plane = named(SectionPlane, plane=Plane((0, 0, -0.25), (0, 0, 1)))
    assert cut(three, plane, treatments=Treatments(rows=rows)).shown.tolist() == [True, True, True]
    assert cut(three, plane, treatments=Treatments(rows=rows[::-1])).shown.tolist() == [True, False, True]
    without = Treatments(rows=rows).without_row("this one").with_row(rows[0].model_copy(update={"does": "slice"}))
    assert {*cut(three, plane, treatments=without).faces[0].section.element.tolist()} == {0, 1, 2}


def test_whole_models_keep_to_it_too(boathouse: Building) -> None:
    """No half tree, railing or boat in any of a few cuts of the demo, and nothing of the model itself is changed."""
    before = boathouse.vertices.copy()
    kinds = {"IfcFurniture", "IfcRailing"}
    for plane in (Plane((14, 6.2, 3), (0, -1, 0)), Plane((24.4, 5, 3), (1, 0, 0)), Plane((8, 5, 1.2), (0, 0, 1))):
        found = cut(boathouse, named(SectionPlane, plane=plane), treatments=STARTING_RULE)
        sliced = {boathouse.elements[e] for f in found.faces for e in f.section.element}
        assert sliced and not any(e.type in kinds or e.layer == "L-TREE" for e in sliced)
        everything = cut(boathouse, named(SectionPlane, plane=plane))
        assert any(boathouse.elements[e].type in kinds for f in everything.faces for e in f.section.element)
    assert (boathouse.vertices == before).all()


# The kept part of a whole model ----------------------------------------------------------------------------------


def test_the_kept_part_of_the_demo_is_watertight_and_has_its_volume(boathouse: Building) -> None:
    """Every closed element stays closed under a box, a plane and a stepped section at once (trimesh as the judge)."""
    cuts = (
        named(SectionBox, box=Box((15, 6, 4), (24, 9, 9), 7.0)),
        named(SectionPlane, plane=Plane((14, 6.2, 3), (0, -1, 0))).model_copy(update={"id": "p"}),
        named(SteppedSection, line=SteppedLine((-1, 0, 0), (-6.0, -9.0), (-7.0,))).model_copy(update={"id": "s"}),
    )
    found = cut(boathouse, *cuts)
    kept = kept_part(found)
    assert len(kept) > 100
    loose = [k for k in kept if not k.closed]
    whole = trimesh.util.concatenate([trimesh.Trimesh(k.vertices, k.triangles, process=False) for k in kept if k.closed])
    assert whole.is_volume and len(loose) < 0.12 * len(kept)
    corners = np.concatenate([k.vertices for k in kept])
    assert not held_by_any(found.cells, corners, 1e-5).any()
    with pytest.raises(Problem, match="cancelled"):
        kept_part(found, lambda share: False)
    with pytest.raises(Problem, match="leave nothing"):
        kept_part(cut(boathouse, named(SectionPlane, plane=Plane((0, 0, -99), (0, 0, 1)))))
