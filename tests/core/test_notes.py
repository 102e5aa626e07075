"""Notes: what they say against coordinates, how they lie on the paper, what they hold on to, and dressing a section."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from PIL import ImageFont

from anatome.cuts.clearance import clearance_at
from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.exploding import ApartGroup, Exploded
from anatome.cuts.flat_view import main_face
from anatome.cuts.plane import Plane
from anatome.formats.opening import open_model
from anatome.formats.project_files import OpenedProject
from anatome.model.building import Building, Space, Storey
from anatome.model.selection import Selection
from anatome.notes.anchors import anchored, place_of
from anatome.notes.dimensions import circle_through
from anatome.notes.drawn import marks_of
from anatome.notes.dressing import Dressed, dress
from anatome.notes.facts import Facts
from anatome.notes.free_room import overlaps
from anatome.notes.lettering import capital, font_file, glyph, width
from anatome.notes.marks import NoteMarks
from anatome.notes.moving import aligned, handle_of, kept_apart, moved, spread
from anatome.notes.note import Angle, Dimension, Label, Level, NoteStyle, Radius, ScaleBar, SectionMark, anchors_of
from anatome.notes.setting import edge_through, face_normal, on_face
from anatome.notes.view import NoteView
from anatome.problems import Problem
from anatome.scenes.noted import note_view
from anatome.scenes.opened import opened
from anatome.scenes.project import Scene, StageState
from anatome.view.camera import Camera, square_on, standard_view
from anatome.view.viewport import Frame
from fetched import open_house
from helpers import box, made_of

FRAME = Frame(width=1500, height=1000)
PAPER = 210.0
FIELD = float(np.degrees(2 * np.arctan(10.5 / 40.0)))
FRONT = Camera(eye=(0.0, -40.0, 2.0), target=(0.0, 0.0, 2.0), projection="parallel", field=FIELD)
"""Sees x to the right and z up, a metre as 10 mm of paper."""
places = st.tuples(*(st.floats(-5, 5).map(lambda x: round(x, 4)) for _ in range(3)))


def house(width: float = 6.0, height: float = 3.0) -> Building:
    """A hall of four walls and a floor, six metres wide."""
    parts = (
        ("left", "IfcWall", "Brick", box(-width / 2, -2, 0, -width / 2 + 0.2, 2, height)),
        ("right", "IfcWall", "Brick", box(width / 2 - 0.2, -2, 0, width / 2, 2, height)),
        ("floor", "IfcSlab", "Concrete", box(-width / 2, -2, -0.3, width / 2, 2, 0)),
        ("roof", "IfcSlab", "Timber", box(-width / 2, -2, height, width / 2, 2, height + 0.25)),
    )
    inside = Space("hall", "Hall", 0, (-width / 2 + 0.2, -2, 0), (width / 2 - 0.2, 2, height), "meeting")
    storeys = (Storey("s0", "Ground floor", 0.0), Storey("s1", "Roof", height))
    return replace(made_of(*parts), storeys=storeys, spaces=(inside,))


def state_of(camera: Camera = FRONT, **more: object) -> StageState:
    return StageState.model_validate({"camera": camera, **more})


def view(building: Building, state: StageState, paper: float = PAPER) -> NoteView:
    return note_view(state, opened(Cutter(building), state), Facts(building), FRAME, paper)


CUT = SectionPlane(id="a", name="Section A", mark="A", plane=Plane((0.0, 0.5, 0.0), (0.0, -1.0, 0.0)))
HOUSE = house()


# What they say ------------------------------------------------------------------------------------------------


@settings(max_examples=60, deadline=None)
@given(st.lists(places, min_size=2, max_size=6), st.sampled_from([(1.0, 0, 0), (0, 0, 1.0), (0.6, 0.8, 0.0)]), st.integers(0, 4))
def test_dimensions_say_the_difference_of_coordinates_to_the_last_digit(spots, along, decimals) -> None:
    reach = sorted({round(float(np.dot(s, along)), 9) for s in spots})
    assume(len(reach) > 1 and np.diff(reach).min() > 1e-6)
    anchors = tuple(anchored(HOUSE, np.array(s)) for s in spots)
    note = Dimension(id="d", anchors=anchors, along=along, offset=(0.0, 0.0, 0.0), overall=True)
    camera = standard_view("Axonometric, front left", np.array([[-5.0] * 3, [5.0] * 3]), 1.5)
    style = NoteStyle(decimals=decimals)
    marks = marks_of(note, view(HOUSE, state_of(camera, note_style=style)))
    assert marks is not None
    parts = np.diff(reach)
    found = [m.metres for m in marks.measured]
    whole = [float(parts.sum())] if len(parts) > 1 else []
    assert found == pytest.approx([*parts.tolist(), *whole], abs=1e-9)
    assert [m.words.text for m in marks.measured] == [f"{metres:.{decimals}f}" for metres in found]
    assert sum(found[: len(parts)]) == pytest.approx(reach[-1] - reach[0], abs=1e-9)


@pytest.mark.parametrize(("unit", "says"), [("m", "3.25"), ("cm", "325"), ("mm", "3250"), ("ft", "10' 8\"")])
def test_lengths_are_said_in_the_units_of_the_scene(unit: str, says: str) -> None:
    ends = tuple(anchored(HOUSE, np.array([x, 0.0, 1.0])) for x in (0.0, 3.25))
    note = Dimension(id="d", anchors=ends, along=(1.0, 0.0, 0.0), offset=(0.0, 0.0, 0.5))
    marks = marks_of(note, view(HOUSE, state_of(note_style=NoteStyle(unit=unit))))
    assert marks is not None and marks.words[0].text == says


@settings(max_examples=60, deadline=None)
@given(st.floats(0.05, 50), st.lists(st.floats(0, 6.28), min_size=3, max_size=3, unique=True), places)
def test_a_circle_through_three_of_its_points_is_found(radius, turns, middle) -> None:
    gaps = np.diff(sorted([*turns, min(turns) + 2 * np.pi]))
    assume(gaps.min() > 0.05)
    normal = np.array([1.0, 2.0, 2.0]) / 3
    u = np.cross(normal, [0, 0, 1.0])
    u /= np.linalg.norm(u)
    v = np.cross(normal, u)
    spots = [np.array(middle) + radius * (np.cos(t) * u + np.sin(t) * v) for t in turns]
    found = circle_through(spots)
    assert found is not None and found[1] == pytest.approx(radius, rel=1e-6)
    assert np.allclose(found[0], middle, atol=1e-6 * radius + 1e-9)
    assert circle_through([np.array([x, 2 * x, 0.0]) for x in (0.0, 1.0, 3.0)]) is None


def test_angles_and_radii_are_those_of_the_places() -> None:
    corner, a, b = (anchored(HOUSE, np.array(p)) for p in ((0.0, 0, 0), (2.0, 0, 0), (1.0, 0, 1.0)))
    seen = view(HOUSE, state_of())
    angle = marks_of(Angle(id="a", anchors=(corner, a, b), radius=1.0), seen)
    assert angle is not None and angle.words[0].text == "45.0°"
    # Its arc has the radius that was wanted: a metre is 10 mm of paper here.
    arc = angle.strokes[0].points
    centre = seen.flat(seen.met(corner)).on_paper(np.zeros(3))
    assert np.linalg.norm(arc - centre, axis=1) == pytest.approx(10.0, abs=1e-6)
    round_ = tuple(anchored(HOUSE, np.array([1.5 * np.cos(t), 0, 1.5 * np.sin(t)])) for t in (0.1, 0.9, 2.2))
    assert marks_of(Radius(id="r", anchors=round_), seen).words[0].text == "R 1.50"
    assert marks_of(Radius(id="r", anchors=round_, diameter=True), seen).words[0].text == "⌀ 3.00"
    # What is typed is said of what is measured, which is always there.
    said = marks_of(Angle(id="a", anchors=(corner, a, b), radius=1.0, text="pitch {value}"), seen)
    assert said.words[0].text == "pitch 45.0°" and said.angle.is_true and said.angle.degrees == pytest.approx(45.0)
    chain = Dimension(id="d", anchors=(corner, b, a), along=(1, 0, 0), offset=(0, 0, -1), overall=True, whole="{value} in all")
    chain = chain.model_copy(update={"text": "clear\n{value}"})
    assert [w.text for w in marks_of(chain, seen).words] == ["clear 1.00", "clear 1.00", "2.00 in all"]
    assert [m.metres for m in marks_of(chain, seen).measured] == pytest.approx([1.0, 1.0, 2.0])


def test_labels_say_what_the_part_has_and_stay_true() -> None:
    leaning = box(0, 0, 0, 4, 3, 0.24)
    leaning.apply_transform(np.array([[0.8, 0, 0.6, 1], [0, 1, 0, 0], [-0.6, 0, 0.8, 2], [0, 0, 0, 1.0]]))
    building = made_of(("Roof", "IfcSlab", "Spruce", leaning))
    facts = Facts(building, lambda part: {"Pset_SlabCommon": {"FireRating": "REI 60"}} if part == "Roof" else {})
    said = facts.fill(
        "{name}, {material}, {thickness}, {type}, {Pset_SlabCommon.FireRating}, {Pset.None}", "Roof", 0.0, NoteStyle()
    )
    assert said == "Roof, Spruce, 240 mm, Slab, REI 60, –"
    assert facts.fill("{volume}", "Roof", 0.0, NoteStyle()) == "2.880 m³"
    hall = Facts(HOUSE)
    assert hall.fill("{name} {area} {use} {level}", "hall", -0.25, NoteStyle()) == "Hall 22.4 m² meeting −0.25"
    assert hall.fill("{level}", "s0", 0.0, NoteStyle()) == "±0.00" and hall.fill("{name}", "s1", 0.0, NoteStyle()) == "Roof"


# How they lie -------------------------------------------------------------------------------------------------


def test_letters_are_as_wide_and_as_high_as_freetype_says() -> None:
    for strong in (False, True):
        font = ImageFont.truetype(str(font_file(strong)), 1000, layout_engine=ImageFont.Layout.BASIC)
        for text in ("Boat hall", "225.7 m²", "±0.00", "Wood fibre 164 mm"):
            assert width(text, strong) * capital(strong) * 1000 == pytest.approx(font.getlength(text), rel=0.01)
        top = max(y for _, points in glyph("H", strong).outline for _, y in points)
        assert top == pytest.approx(1.0, abs=1e-6)


@settings(max_examples=80, deadline=None)
@given(
    st.floats(-180, 180),
    st.floats(-85, 85),
    st.sampled_from([None, (0.0, -1.0, 0.0), (0, 0, 1.0), (0.6, 0.8, 0.0)]),
    st.booleans(),
)
def test_text_is_never_mirrored_and_never_upside_down(turn, tilt, plane, perspective) -> None:
    camera = Camera(eye=(0, -30.0, 2.0), target=(0, 0, 1.0), projection="perspective" if perspective else "parallel")
    camera = camera.orbited(turn, tilt, np.zeros(3))
    along = (1.0, 0.0, 0.0) if plane is None or abs(plane[0]) < 0.5 else (-0.8, 0.6, 0.0)
    ends = tuple(anchored(HOUSE, np.array(along) * x) for x in (-2.0, 2.0))
    seen = view(HOUSE, state_of(camera))
    for note in (
        Dimension(id="d", anchors=ends, along=along, plane=plane, offset=(0.0, 0.0, 0.0)),
        Label(id="l", anchors=ends[:1], text="Words", plane=plane, leader=False),
        Level(id="v", anchors=ends[:1], plane=plane),
    ):
        marks = marks_of(note, seen)
        for words in marks.words if marks else ():
            size = float(np.hypot(*words.right))
            if size < 0.05 or float(np.hypot(*words.up)) < 0.05:
                continue  # seen all but edge on
            assert words.right[0] > -0.03 * size, note.kind
            assert words.right[0] * words.up[1] - words.right[1] * words.up[0] > 0, note.kind


def test_words_have_their_millimetres_where_their_plane_is_seen_true() -> None:
    ends = tuple(anchored(HOUSE, np.array([x, 0.0, 1.0])) for x in (-2.0, 2.0))
    for camera in (FRONT, FRONT.model_copy(update={"projection": "perspective"})):
        for own in (None, 5.0):
            note = Dimension(id="d", anchors=ends, along=(1.0, 0, 0), plane=(0.0, -1.0, 0.0), offset=(0, 0, 1.0), height=own)
            words = marks_of(note, view(HOUSE, state_of(camera))).words[0]
            low, _, _, high = words.corners(0.0)[[0, 1, 2, 3]]
            assert (high - low)[1] == pytest.approx((own or 2.5) * 1.32, rel=1e-6) and words.is_flat
    # Aslant they follow the slope: as long as the line they stand on is foreshortened.
    aslant = FRONT.orbited(35.0, 25.0, np.zeros(3))
    marks = marks_of(note, view(HOUSE, state_of(aslant)))
    drawn, told = marks.measured[0], marks.words[0]
    line = drawn.line_end - drawn.line
    assert told.right[0] * line[1] == pytest.approx(told.right[1] * line[0], abs=1e-9)
    assert np.hypot(*told.right) == pytest.approx(np.hypot(*line) / 40.0, rel=1e-6) and np.hypot(*told.right) < 0.95


def test_a_scale_bar_is_as_long_as_it_says_and_marks_point_where_a_section_looks() -> None:
    seen = view(HOUSE, state_of(cuts=(CUT,)))
    marks = marks_of(ScaleBar(id="s"), seen)
    bars = [s.points for s in marks.strokes if s.filled]
    said = float(marks.words[2].text.split()[0])
    long = max(b[:, 0].max() for b in bars) - min(b[:, 0].min() for b in bars)
    assert long == pytest.approx(10.0 * said) and marks.words[3].text == "1:100"
    above = Camera(eye=(0, 0.0, 40.0), target=(0.0, 0.001, 0.0), projection="parallel", field=FIELD)
    marks = marks_of(SectionMark(id="m", cut="a"), view(HOUSE, state_of(above, cuts=(CUT,))))
    tips = [s.points for s in marks.strokes if s.filled]
    rings = [s.points for s in marks.strokes if not s.filled and len(s.points) > 9]
    assert len(tips) == 2 and {w.text for w in marks.words} == {"A"}
    for tip, ring in zip(tips, rings):  # against the normal: towards +y, which is up on the paper
        assert tip[:, 1].max() > ring[:, 1].max() and tip[:, 1].min() > ring[:, 1].mean()
    assert marks_of(SectionMark(id="m", cut="a"), seen) is None  # not seen from above
    assert marks_of(SectionMark(id="m", cut="gone"), seen).gone


# What they hold on to -----------------------------------------------------------------------------------------


def test_anchors_follow_a_part_that_moves_or_grows_and_a_cut_that_moves() -> None:
    corner = anchored(HOUSE, np.array([-2.8, -2.0, 3.0]), "left")
    wider = house(width=8.0, height=4.0)
    assert place_of(corner, wider, ()) == pytest.approx([-3.8, -2.0, 4.0])
    assert place_of(corner, made_of(("other", "IfcWall", "", box(0, 0, 0, 1, 1, 1))), ()) is None
    # A corner of the cut face goes along the edge of the wall, wherever the cut goes.
    seen = Cutter(HOUSE).dissect([CUT], np.ones(4, bool))
    left = HOUSE.index_of["left"]
    set_ = on_face(HOUSE, seen.faces[0], np.array([-2.8, 0.5, 3.0]), left)
    assert edge_through(HOUSE, left, np.array([-2.8, 0.5, 3.0]), CUT.plane.n) == pytest.approx([0, 1, 0], abs=1e-9) or set_.along
    nearer = CUT.model_copy(update={"plane": Plane((0.0, -1.0, 0.0), (0.6, -0.8, 0.0))})
    found = place_of(set_, HOUSE, (nearer,))
    assert found[[0, 2]] == pytest.approx([-2.8, 3.0]) and abs(float(nearer.plane.distance(found))) < 1e-12
    assert place_of(set_, HOUSE, ()) is None and place_of(set_, HOUSE, (CUT.model_copy(update={"on": False}),)) is None
    assert face_normal(HOUSE, set_, (CUT,)) == CUT.plane.normal
    assert np.abs(face_normal(HOUSE, anchored(HOUSE, np.array([0.0, 0.0, 0.0]), "floor"), ())) == pytest.approx([0, 0, 1])


def test_notes_go_with_what_they_are_set_to_or_say_that_it_is_gone() -> None:
    ends = tuple(anchored(HOUSE, np.array([x, 1.5, 3.25]), "roof") for x in (-3.0, 3.0))
    note = Dimension(id="d", anchors=ends, along=(1.0, 0, 0), plane=(0.0, -1.0, 0.0), offset=(0.0, 0.0, 0.5))
    plain = marks_of(note, view(HOUSE, state_of()))
    lifted = Exploded(groups=(ApartGroup(name="Roof", what=Selection(elements=frozenset({"roof"})), distance=4.0),))
    apart = marks_of(note, view(HOUSE, state_of(exploded=lifted)))
    assert apart.measured[0].line - plain.measured[0].line == pytest.approx([0.0, 40.0], abs=1e-6)
    assert apart.words[0].text == plain.words[0].text == "6.00"
    assert marks_of(note, view(HOUSE, state_of(hidden=frozenset({"roof"})))) is None
    behind = CUT.model_copy(update={"plane": Plane((0.0, 1.8, 0.0), (0.0, -1.0, 0.0))})
    assert marks_of(note, view(HOUSE, state_of(cuts=(behind,)))) is None  # cut away
    other = made_of(("else", "IfcWall", "", box(0, 0, 0, 1, 1, 1)))
    lost = marks_of(note, view(other, state_of()))
    assert lost is not None and lost.gone and not lost.words
    assert StageState.model_validate_json(state_of(notes=(note,)).model_dump_json()).notes == (note,)
    with pytest.raises(ValueError, match="unit length"):
        Dimension(id="d", anchors=ends, along=(3.0, 0, 0), offset=(0.0, 0.0, 0.5))


def test_names_of_rooms_and_levels_go_with_their_storey() -> None:
    """Two storeys of a tower, the upper one drawn 4 m higher: 40 mm of this paper."""
    low, high = Space("below", "Store", 0, (-2, -2, 0), (2, 2, 3)), Space("above", "Loft", 1, (-2, -2, 3), (2, 2, 6))
    walls = made_of(
        ("lower", "IfcWall", "", box(-3, -2, 0, -2.8, 2, 3)),
        ("upper", "IfcWall", "", box(-3, -2, 3, -2.8, 2, 6)),
        ("ridge", "IfcWall", "", box(-3, -2, 6, -2.8, 2, 7)),
    )
    elements = tuple(replace(e, storey=min(i, 1)) for i, e in enumerate(walls.elements))
    tower = replace(
        walls, elements=elements, storeys=(Storey("s0", "Ground", 0.0), Storey("s1", "Upper", 3.0)), spaces=(low, high)
    )
    raised = Exploded(groups=(ApartGroup(name="Upper", what=Selection(storeys=frozenset({"s1"})), distance=4.0),))
    for on, height, moves in (("below", 1.5, 0.0), ("above", 4.5, 40.0), ("s0", 0.0, 0.0), ("s1", 3.0, 40.0)):
        anchor = anchored(tower, np.array([0.0, 0.0, height]), on)
        note = (
            Level(id="n", anchors=(anchor,), plane=(0.0, -1.0, 0.0))
            if on.startswith("s")
            else Label(id="n", anchors=(anchor,), text="{name}", leader=False)
        )
        before, after = (marks_of(note, view(tower, state_of(exploded=e))) for e in (None, raised))
        assert after.words[0].at - before.words[0].at == pytest.approx([0.0, moves], abs=1e-6), on


# Arranging ----------------------------------------------------------------------------------------------------

offsets = st.tuples(st.floats(-40, 40), st.floats(-30, 30))


@settings(max_examples=40, deadline=None)
@given(st.lists(offsets, min_size=3, max_size=7), st.sampled_from(["across", "upright", "along"]), st.booleans())
def test_notes_are_lined_up_spread_and_kept_apart(found, direction, aslant) -> None:
    plane = (0.0, -1.0, 0.0) if aslant else None
    camera = Camera(eye=(20.0, -40.0, 15.0), target=(0.0, 0.0, 1.0), projection="parallel", field=FIELD) if aslant else FRONT
    seen = view(HOUSE, state_of(camera))
    notes = tuple(
        Label(id=f"l{i}", anchors=(anchored(HOUSE, np.array([i - 2.0, 0.0, 1.0])),), text=f"Part {i}", offset=o, plane=plane)
        for i, o in enumerate(found)
    )
    notes = tuple(n.model_copy(update={"leader": False}) for n in notes)

    def handles(of) -> np.ndarray:
        return np.array([handle_of(marks_of(n, seen)) for n in of])

    moved_one = moved(notes[0], seen, np.array([7.0, -3.0]))
    assert handles([moved_one])[0] - handles(notes[:1])[0] == pytest.approx([7.0, -3.0], abs=1e-3)
    before = handles(notes)
    lined = handles(aligned(notes, seen, direction))
    spread_ = handles(spread(notes, seen, direction))
    if direction == "along":
        centred = lined - lined.mean(axis=0)
        assert np.linalg.svd(centred)[1][1] < 1e-2  # all on one line
    else:
        axis = 1 if direction == "across" else 0
        assert lined[:, axis] == pytest.approx(before[0, axis], abs=1e-2)
        gaps = np.diff(np.sort(spread_[:, 1 - axis]))
        assert gaps == pytest.approx(gaps.mean(), abs=1e-2)
    done = [marks_of(n, seen) for n in kept_apart(notes, seen)]
    assert not any(overlaps(a, b) for a, b in itertools.combinations(done, 2))


# Dressing -----------------------------------------------------------------------------------------------------


def dressed(scene: Scene, building: Building, site=None) -> tuple[Dressed, NoteView]:
    state, numbers = scene.state, itertools.count()
    shown = opened(Cutter(building), state)
    seen = note_view(state, shown, Facts(building), scene.frame, PAPER)
    return dress(seen, state.active_cuts[0], shown.cut_open.faces, lambda: f"n{next(numbers)}", ()), seen


def check_dressed(found: Dressed, seen: NoteView) -> list[NoteMarks]:
    """Nothing covers anything, all is in the picture, and every clear length is what the cut face says."""
    drawn = [marks_of(note, seen) for note in found.notes]
    paper = shapely.box(0, 0, seen.viewport.width, seen.viewport.height)
    words = [[shapely.Polygon(w.corners()) for w in marks.words] for marks in drawn]
    for marks, own in zip(drawn, words):
        assert not marks.gone and all(shapely.contains(paper, shape) for shape in own)
    for (a, own), (b, other) in itertools.combinations(zip(drawn, words), 2):
        assert not any(shapely.intersects(x, y) for x in own for y in other), (a.note, b.note)
        for lines, shapes in ((a.strokes, other), (b.strokes, own)):
            assert not any(shapely.intersects(shapely.LineString(s.points), shape) for s in lines for shape in shapes)
    return drawn


@pytest.mark.parametrize("name", ["long", "cross", "ground", "dressed"])
def test_the_demo_is_dressed_without_overlaps(demo: OpenedProject, name: str) -> None:
    whole = demo
    scene = whole.stored.project.scene(name)
    found, seen = dressed(scene, whole.building)
    check_dressed(found, seen)
    kinds = {note.kind for note in found.notes}
    assert {"dimension", "label", "scale bar"} <= kinds and len(found.notes) >= 14
    assert ("level" in kinds) == (name != "ground") and ("north point" in kinds) == (name == "ground")
    # Clear lengths against another way of reading the cut face.
    cut = scene.state.active_cuts[0]
    face = main_face(cut, opened(Cutter(whole.building), scene.state).cut_open.faces_of(cut.id))
    asked = 0
    for note in found.notes:
        if not isinstance(note, Dimension) or note.overall or any(abs(x) > 0 for x in note.offset):
            continue
        ends = face.plane.flat(np.array([a.place for a in note.anchors]))
        clear = clearance_at(face.section, ends.mean(axis=0))
        if clear is None:
            continue  # furniture stands there
        told = float(np.linalg.norm(ends[1] - ends[0]))
        read = clear.height if abs(ends[1, 1] - ends[0, 1]) > abs(ends[1, 0] - ends[0, 0]) else clear.width
        asked += read is not None and abs(read - told) < 1e-6
    assert asked >= 2
    told = {a.on for note in found.notes for a in anchors_of(note)}
    spaces = {s.id: s.name for s in whole.building.spaces}
    named = {n.anchors[0].on for n in found.notes if isinstance(n, Label) and n.anchors[0].on in spaces}
    assert named <= told and len(named) >= 2
    if name == "dressed":
        drawn = {m.note: m for m in (marks_of(n, seen) for n in found.notes)}
        levels = sorted(drawn[n.id].words[0].text for n in found.notes if isinstance(n, Level))
        assert levels == ["+3.40  Upper floor", "+6.40  Roof", "±0.00  Ground floor"]
        with pytest.raises(Problem, match="edge on"):
            side = standard_view("Left", whole.building.subject_bounds(np.ones(len(whole.building.elements), bool)), 1.5)
            dressed(scene.model_copy(update={"state": scene.state.model_copy(update={"camera": side})}), whole.building)


def test_the_open_house_is_dressed_without_overlaps() -> None:
    building = open_model(open_house())
    bounds = building.subject_bounds(np.ones(len(building.elements), bool))
    x, y, _ = bounds.mean(axis=0)
    plain = standard_view("Axonometric, front left", bounds, 1.5)
    for plane, camera in (
        (Plane((x - 2.0, y, 1.0), (1.0, 0.0, 0.0)), None),
        (Plane((x, y, 1.2), (0.0, 0.0, 1.0)), None),
        (Plane((x, y + 2.0, 1.0), (0.0, -1.0, 0.0)), plain),
    ):
        camera = camera or square_on(plane, bounds, 1.5, plain.model_copy(update={"field": 25.0})).widened(1.25)
        cut = CUT.model_copy(update={"plane": plane})
        found, seen = dressed(Scene(id="s", name="s", state=state_of(camera, cuts=(cut,)), frame=FRAME), building)
        check_dressed(found, seen)
        assert len(found.notes) >= 15
