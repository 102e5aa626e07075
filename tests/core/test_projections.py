"""Parallel projections against ISO 5456-3 (values from memory, see each), and the framing numbers against geometry."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import assume, example, given
from hypothesis import strategies as st
from pydantic import ValidationError

from anatome.cuts.plane import Plane
from anatome.view.camera import Camera, standard_view
from anatome.view.framing import (
    drawn_as,
    field_of,
    lens_of,
    perspective_section,
    straightened,
    with_distance,
    with_eye_height,
)
from anatome.view.projections import DRAWN, ParallelProjection, corner_of, facing, named, projection_of
from anatome.view.viewport import Viewport

CORNERS = list(itertools.product((-1, 1), (-1, 1)))
BOUNDS = np.array([[-4.0, -3.0, 0.0], [9.0, 5.0, 7.0]])


def drawn(camera: Camera, *points: tuple[float, float, float]) -> np.ndarray:
    """(n, 2) where points lie on the plane of the picture, metres to the right and up from the target."""
    viewport = Viewport.of(camera, 1000, 1000)
    at = viewport.pixels(np.array(points, float)) - [500, 500]
    return at * [1, -1] * viewport.pixel


def edges(projection: ParallelProjection) -> list[tuple[float, float]]:
    """Length and angle over the horizontal, degrees below 90, of a metre along X, Y and Z as they are drawn."""
    origin, *ends = drawn(projection.camera(np.zeros(3), 10.0, 35.0), (0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1))
    arms = np.array(ends) - origin
    return [(float(np.hypot(x, y)), math.degrees(math.atan2(abs(y), abs(x)))) for x, y in arms]


@pytest.mark.parametrize("corner", CORNERS)
@pytest.mark.parametrize("below", [False, True])
def test_projections_of_the_standard(corner, below: bool) -> None:
    """ISO 5456-3 (values from memory): a cube's edges as they are drawn, from every corner, from above and from below."""
    third = math.sqrt(2 / 3)
    expected = {
        "Isometric": [(third, 30), (third, 30), (third, 90)],
        # 7° and 42° in whole degrees; lengths 1 : 1/2 : 1.
        "Dimetric": [(math.sqrt(8) / 3, 7.18), (math.sqrt(2) / 3, 41.41), (math.sqrt(8) / 3, 90)],
        "Plan oblique, 45°": [(1, 45), (1, 45), (1, 90)],
        "Plan oblique, 30° and 60°": [(1, 30), (1, 60), (1, 90)],
        "Cavalier": [(1, 0), (1, 45), (1, 90)],
        "Cabinet": [(1, 0), (0.5, 45), (1, 90)],
    }
    for name, wanted in expected.items():
        projection = named(name, corner, below)
        for (length, angle), (true_length, true_angle) in zip(edges(projection), wanted):
            assert length == pytest.approx(true_length, abs=1e-9), name
            assert angle == pytest.approx(true_angle, abs=0.01), name
        assert projection.foreshortening == pytest.approx([length for length, _ in wanted])
        camera = projection.camera(np.zeros(3), 10.0, 35.0)
        assert corner_of(camera) == (corner, below), name  # the eye is where it was asked to be
        high, low = drawn(camera, (0, 0, 1), (0, 0, 0))
        assert high[1] > low[1], name  # whatever stands upright stands upright on the drawing


@given(
    st.sampled_from(["axonometric", "plan oblique", "elevation oblique"]),
    st.sampled_from(CORNERS),
    st.tuples(st.floats(2, 80), st.floats(2, 80)),
    st.floats(0.1, 1.5),
    st.booleans(),
)
def test_what_a_camera_draws_is_found_again(kind, corner, angles, ratio, below) -> None:
    if kind == "axonometric":
        assume(sum(angles) < 88)
        ratio = 1.0
    else:
        angles = (angles[0], 90 - angles[0] if kind == "plan oblique" else 0.0)
    wanted = ParallelProjection(kind=kind, corner=corner, angles=angles, ratio=ratio, below=below)
    camera = wanted.camera(np.array([3.0, -2.0, 1.0]), 12.0, 30.0)
    found = projection_of(camera)
    assert found is not None and (found.kind, found.corner, found.below) == (kind, corner, below)
    assert found.angles == pytest.approx(angles, abs=1e-6) and found.ratio == pytest.approx(ratio)
    # Moved, nearer, fitted to something: it is still drawn so.
    for moved in (camera.panned(2, 1), camera.zoomed(3, np.array([1.0, 2, 3])), camera.fitted(BOUNDS, 1.5)):
        again = projection_of(moved)
        assert again is not None and again.angles == pytest.approx(angles, abs=1e-5) and again.kind == kind


@given(
    st.sampled_from(list(DRAWN)),
    st.sampled_from(CORNERS),
    st.floats(0.4, 2.5),
    st.tuples(st.floats(-0.3, 0.3), st.floats(-0.3, 0.3)),
)
def test_fitting_holds_everything_and_fills_the_picture(name: str, corner, aspect: float, shift) -> None:
    for camera in (named(name, corner).camera(np.zeros(3), 10.0, 35.0), Camera(eye=(-9, -14, 6), target=(0, 0, 2))):
        fitted = camera.model_copy(update={"shift": shift}).fitted(BOUNDS, aspect)
        corners = np.array(list(itertools.product(*BOUNDS.T)))
        flat, _ = Viewport.of(fitted, 1000 * aspect, 1000).flat(corners)
        assert np.abs(flat).max() <= 1.0
        assert np.abs(flat).max() > 0.85  # and no further off than it must be


def test_going_round_an_oblique_drawing_keeps_true_what_it_draws_true() -> None:
    pivot = np.array([2.0, 1.0, 5.0])
    for name, true in (("Plan oblique, 45°", [(1, 0, 0), (0, 1, 0)]), ("Cavalier", [(1, 0, 0), (0, 0, 1)])):
        camera = named(name, (-1, -1)).camera(np.zeros(3), 10.0, 35.0)
        turned = camera.orbited(25.0, 8.0, pivot)
        assert turned != camera and projection_of(turned) is not None
        origin, *ends = drawn(turned, (0, 0, 0), *true)
        assert np.linalg.norm(np.array(ends) - origin, axis=1) == pytest.approx([1, 1]), name
        assert drawn(turned, tuple(pivot)) == pytest.approx(drawn(camera, tuple(pivot))), name


@given(st.floats(-179, 179), st.floats(-75, 75), st.sampled_from([-1, 1]), st.floats(5, 85), st.floats(0.2, 1.2), st.booleans())
@example(turn=30.0, lean=0.0, left=-1, angle=45.0, ratio=0.5, below=False)
def test_an_oblique_is_true_to_any_face_and_recedes_as_it_says(turn, lean, left, angle, ratio, below) -> None:
    """ISO 5456-3: in the face lengths and angles are true, what is square to it is drawn by the ratio at the angle."""
    way, rise = np.radians(turn), np.radians(lean)
    along, level = np.array([np.cos(way), np.sin(way), 0.0]), np.array([-np.sin(way), np.cos(way), 0.0])
    into, up = level * np.cos(rise) - [0, 0, np.sin(rise)], level * np.sin(rise) + [0, 0, np.cos(rise)]
    turned, leaning = facing(-into)
    assert abs((turned - turn + 180) % 360 - 180) < 1e-6 and leaning == pytest.approx(lean, abs=1e-6)
    wanted = ParallelProjection(kind="elevation oblique", corner=(left, -1), angles=(angle, 0.0), ratio=ratio, below=below)
    camera = wanted.true_to(turned, leaning).camera(np.array([3.0, -2.0, 1.0]), 12.0, 30.0)
    origin, x, y, z = (np.array(place) for place in drawn(camera, (0, 0, 0), tuple(along), tuple(into), tuple(up)))
    assert x - origin == pytest.approx([1, 0], abs=1e-7) and z - origin == pytest.approx([0, 1], abs=1e-7)
    arm = y - origin
    assert np.hypot(*arm) == pytest.approx(ratio) and abs(arm[1]) == pytest.approx(ratio * np.sin(np.radians(angle)))
    assert (arm[1] < 0) == below  # away from the eye rises, or sinks where it is seen from below
    found = projection_of(camera)
    assert found.kind == "elevation oblique" and found.below == below and found.ratio == pytest.approx(ratio)
    again = found.camera(np.array([3.0, -2.0, 1.0]), 12.0, 30.0)
    assert np.array(drawn(again, (5, 6, 7))) == pytest.approx(np.array(drawn(camera, (5, 6, 7))), abs=1e-5)
    assert facing(np.array([0.0, 0.0, 1.0])) is None


@given(st.floats(-44, 44), st.sampled_from(CORNERS), st.booleans(), st.sampled_from(["Isometric", "Dimetric"]))
def test_an_axonometric_of_a_turned_wing_is_called_what_it_is(turn: float, corner, below: bool, name: str) -> None:
    """ISO 5456-3: of an isometric all axes have one scale, √(2/3); of a dimetric one has half of that of the others."""
    assume(abs(turn) > 0.01)
    wanted = named(name, corner, below).true_to(turn, 0.0)
    camera = wanted.camera(np.zeros(3), 10.0, 35.0)

    def lengths(turned: float) -> list[float]:
        way = np.radians(turned)
        ends = [(np.cos(way), np.sin(way), 0), (-np.sin(way), np.cos(way), 0), (0, 0, 1)]
        origin, *places = (np.array(place) for place in drawn(camera, (0, 0, 0), *ends))
        return sorted(float(np.hypot(*(place - origin))) for place in places)

    true = [np.sqrt(2 / 3)] * 3 if name == "Isometric" else [np.sqrt(2 / 9), np.sqrt(8 / 9), np.sqrt(8 / 9)]
    assert lengths(turn) == pytest.approx(true)
    found = projection_of(camera)
    assert found.name == wanted.name and lengths(found.turn) == pytest.approx(true, abs=1e-6)
    assert abs(found.turn) <= abs(turn) + 1e-6 and found.below == below
    again = found.camera(np.zeros(3), 10.0, 35.0)
    assert np.array(drawn(again, (5, 6, 7))) == pytest.approx(np.array(drawn(camera, (5, 6, 7))), abs=1e-5)


def test_what_cannot_be_drawn_is_refused() -> None:
    for bad in (
        {"angles": (50.0, 50.0)},
        {"angles": (0.0, 30.0)},
        {"ratio": 0.0},
        {"kind": "plan oblique", "angles": (95.0, 0.0)},
    ):
        with pytest.raises(ValidationError):
            ParallelProjection(**bad)


# Framing numbers -----------------------------------------------------------------------------------------------

SECTION = Plane((1.0, 2.0, 3.0), (0.0, -1.0, 0.0))


def test_lenses_by_their_angles() -> None:
    """Angle of view 2 · atan(d / 2f), film 36 × 24 mm: 50 mm see 39.6° across and 27.0° upwards (handbook values)."""
    assert field_of(50.0, 1.5) == pytest.approx(26.99, abs=0.01)
    across = 2 * math.degrees(math.atan(1.5 * math.tan(math.radians(field_of(50.0, 1.5)) / 2)))
    assert across == pytest.approx(39.6, abs=0.05)
    assert lens_of(field_of(35.0, 1.21), 1.21) == pytest.approx(35.0)


@given(st.floats(3, 150), st.floats(-3, 12))
def test_a_perspective_section_keeps_its_cut_while_its_numbers_change(distance: float, height: float) -> None:
    """Square on, level, one-point; distance, lens and eye change the depth of the picture and nothing in the plane of the cut."""
    face = np.array([[-4.0, 2.0, 0.0], [9.0, 2.0, 7.0]])
    before = Camera(eye=(20, -40, 30), target=(0, 0, 0), projection="parallel", shear=(0.2, 0.1), shift=(0.3, 0.0), field=60.0)
    camera = perspective_section(SECTION, face, 1.4, before)
    assert camera.is_perspective and drawn_as(camera) == "one-point perspective" and camera.shift == (0.0, 0.0)
    corners = np.array([(x, 2.0, z) for x in (-4.0, 9.0) for z in (0.0, 7.0)])
    view = Viewport.of(camera, 1400, 1000)
    flat = view.flat(corners)[0]
    assert 0.8 < np.abs(flat).max() < 0.95  # framed with a margin
    changed = with_eye_height(with_distance(camera, distance), height)
    assume(2.1 < changed.field < 119)
    assert changed.distance == pytest.approx(distance) and changed.eye[2] == pytest.approx(height)
    assert Viewport.of(changed, 1400, 1000).pixels(corners) == pytest.approx(view.pixels(corners), abs=1e-6)
    beyond = np.array([4.0, 9.0, 1.0])
    assert np.abs(Viewport.of(changed, 1400, 1000).pixels(beyond) - view.pixels(beyond)).max() > 1e-6 or height == camera.eye[2]


def test_verticals_are_straightened_by_the_lens() -> None:
    camera = Camera(eye=(-18.0, -25.0, 12.0), target=(4.0, 2.0, 3.0), field=33.0)
    level = straightened(camera)
    assert level is not None and drawn_as(level) == "two-point perspective" and level.eye == camera.eye
    view = Viewport.of(level, 1500, 1000)
    for x, y in ((-4, -3), (9, -3), (9, 5)):
        foot, head = view.pixels(np.array([[x, y, 0.0], [x, y, 7.0]]))
        assert foot[0] == pytest.approx(head[0]) and head[1] < foot[1]
    assert view.pixels(np.array(camera.target)) == pytest.approx([750, 500])  # what was in the middle still is
    assert straightened(standard_view("Front", BOUNDS, 1.5)) is None
    assert straightened(Camera(eye=(0, -1, 30), target=(0, 0, 0))) is None


def test_pictures_have_the_words_a_draughtsman_has_for_them() -> None:
    cameras = {"Front": "elevation", "Top": "plan", "Underside": "plan from below", "Axonometric, back left": "isometric"}
    for name, words in cameras.items():
        assert drawn_as(standard_view(name, BOUNDS, 1.5)) == words
    assert drawn_as(standard_view("Front", BOUNDS, 1.5), in_section=True) == "flat section"
    assert named("Dimetric", (1, 1)).name == "dimetric" and named("Trimetric", (1, 1), True).name == "worm’s-eye trimetric"
    assert named("Cabinet", (1, 1)).name == "cabinet"
    assert named("Plan oblique, 30° and 60°", (1, 1)).name == "plan oblique, 30° and 60°"
