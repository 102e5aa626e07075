"""From one state to another: the camera's way, cuts that travel and enter from outside, what is drawn apart."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.cuts.cells import held_by_any
from anatome.cuts.cut import AnyCut, SectionBox, SectionPlane, SectionPrism, SteppedSection
from anatome.cuts.dissection import Cutter
from anatome.cuts.exploding import ApartGroup, Exploded
from anatome.cuts.kinds.box import Box
from anatome.cuts.kinds.prism import Prism
from anatome.cuts.kinds.stepped_line import SteppedLine
from anatome.cuts.plane import Plane
from anatome.model.selection import Selection
from anatome.scenes.opened import kept_of
from anatome.scenes.project import StageState
from anatome.scenes.transition import EMPTY, eased, transition
from anatome.site.site import NO_SITE
from anatome.view.camera import Camera, standard_view, vec
from anatome.view.camera_path import CameraPath, path_between
from anatome.view.crop import Crop
from anatome.view.viewport import Viewport
from anatome.view.walking import in_the_way

BOUNDS = np.array([[0.0, 0.0, 0.0], [20.0, 12.0, 8.0]])
MIDDLE = BOUNDS.mean(axis=0)
POINTS = BOUNDS[0] + np.random.default_rng(3).uniform(size=(60, 3)) * (BOUNDS[1] - BOUNDS[0])
FRONT, ISOMETRIC = (standard_view(name, BOUNDS, 1.5) for name in ("Front", "Axonometric, front left"))
OBLIQUE = FRONT.model_copy(update={"shear": (0.35, 0.35)})


def around(turn: float, rise: float, distance: float, field: float = 35.0, aim: tuple[float, float, float] = (0, 0, 0)) -> Camera:
    a, e = math.radians(turn), math.radians(rise)
    way = np.array([math.cos(e) * math.cos(a), math.cos(e) * math.sin(a), math.sin(e)])
    target = MIDDLE + aim
    return Camera(eye=vec(target + distance * way), target=vec(target), field=field)


perspectives = st.builds(
    around, st.floats(-180, 180), st.floats(-20, 60), st.floats(25, 80), st.floats(20, 60), st.tuples(*[st.floats(-2, 2)] * 3)
)
cameras = st.one_of(perspectives, st.sampled_from([FRONT, ISOMETRIC, OBLIQUE, standard_view("Top", BOUNDS, 1.5)]))


def places(camera: Camera) -> np.ndarray:
    return Viewport.of(camera, 900, 600).pixels(POINTS)


@settings(max_examples=40, deadline=None)
@given(cameras, cameras)
def test_a_camera_travels_without_a_jump_in_any_projection(start: Camera, end: Camera) -> None:
    """The picture just after the start and just before the end is theirs, and none of 200 steps moves a point far."""
    path = CameraPath(start, end, MIDDLE)
    seen = np.array([places(path.at(t)) for t in np.linspace(0.0, 1.0, 201)])
    assert np.isfinite(seen).all()
    for camera, picture in ((path.at(1e-9), seen[0]), (path.at(1 - 1e-9), seen[-1])):
        assert np.abs(places(camera) - picture).max() < 0.2
    steps = np.linalg.norm(np.diff(seen, axis=0), axis=2)
    assert steps.max() <= 0.05 * max(float(np.ptp(seen, axis=(0, 1)).max()), 1.0)


@settings(max_examples=40, deadline=None)
@given(perspectives, perspectives)
def test_the_eye_goes_round_and_keeps_verticals_upright(start: Camera, end: Camera) -> None:
    """Never nearer to the pivot's plane than at both ends; the horizon stays level."""
    path = CameraPath(start, end, MIDDLE)
    depths = [float((np.array(c.eye) - MIDDLE) @ c.axes[2]) for c in map(path.at, np.linspace(0.0, 1.0, 25))]
    assert min(depths) >= min(depths[0], depths[-1]) - 1e-6
    assert all(abs(c.axes[0][2]) < 1e-9 for c in map(path.at, np.linspace(0.0, 1.0, 25)))


def test_while_the_eye_recedes_what_lies_in_the_plane_of_the_pivot_keeps_its_size() -> None:
    """From one-point perspective to parallel: nearness, 1 / distance, shrinks evenly, so half way the eye is twice as far."""
    near = around(-90.0, 0.0, 30.0)
    far = near.model_copy(update={"projection": "parallel"})
    path = CameraPath(near, far, MIDDLE)
    assert path.at(0.5).distance == pytest.approx(60.0) and path.at(0.5).is_perspective
    in_plane = MIDDLE + np.array([[x, 0.0, z] for x in (-8, 0, 8) for z in (-3, 0, 3)])
    wanted = Viewport.of(near, 900, 600).pixels(in_plane)
    for t in (0.2, 0.5, 0.9, 0.999, 1.0):
        assert np.abs(Viewport.of(path.at(t), 900, 600).pixels(in_plane) - wanted).max() < 1e-6


def test_a_camera_never_goes_through_the_building(boathouse) -> None:
    """From outside to outside it goes round; out of a closed room there is no way; within the room it goes straight."""
    state = StageState(camera=FRONT)
    left = kept_of(Cutter(boathouse), state)
    met = in_the_way(left, EMPTY)
    middle = boathouse.subject_bounds(np.ones(len(boathouse.elements), bool)).mean(axis=0)
    south, north = (Camera(eye=vec(middle + [0.0, y, 4.0]), target=vec(middle)) for y in (-40.0, 40.0))
    path = path_between(south, north, middle, met)
    assert path is not None and not path.straight
    low, high = boathouse.subject_bounds(np.ones(len(boathouse.elements), bool))
    assert not any(((eye > low) & (eye < high)).all() for eye in path.eyes(200))
    room = max(boathouse.spaces, key=lambda s: (s.upper[0] - s.lower[0]) * (s.upper[1] - s.lower[1]))
    floor = np.array([*(np.add(room.lower, room.upper) / 2)[:2], room.lower[2] + 1.7])
    inside, beside = (Camera(eye=vec(floor + [x, 0.0, 0.0]), target=vec(floor + [x, 3.0, 0.0])) for x in (0.0, 0.8))
    assert path_between(inside, south, middle, met) is None
    assert path_between(inside, beside, middle, met) is not None
    faded = transition(boathouse, NO_SITE, state.model_copy(update={"camera": inside}), state, 1.5, (left,))
    assert faded.path is None and faded.fade == 1.0 and faded.at(0.1).camera == FRONT and faded.faint(0.25) == 0.75


# Cuts ----------------------------------------------------------------------------------------------------------


def named(kind: type, **fields: object) -> AnyCut:
    return kind(id="c", name="C", mark="C", **fields)


OUTLINE = ((2.0, 2.0), (12.0, 2.0), (12.0, 6.0), (6.0, 6.0), (6.0, 10.0), (2.0, 10.0))
PAIRS = {
    "plane": (
        named(SectionPlane, plane=Plane((0, 5, 0), (0, -1, 0)), depth=3.0),
        named(SectionPlane, plane=Plane((0, 9, 0), (0, -1, 0)), depth=5.0),
    ),
    "stepped": tuple(
        named(SteppedSection, line=SteppedLine((0.0, -1.0, 0.0), (-4.0 - by, -8.0), (9.0 + by,))) for by in (0.0, 1.5)
    ),
    "box": tuple(named(SectionBox, box=Box((9.0 + by, 6.0, 4.0), (8.0, 6.0, 4.0 + by), 20.0 * by)) for by in (0.0, 1.0)),
    "carved box": tuple(named(SectionBox, box=Box((18.0, 2.0 + by, 6.0), (8, 8, 8)), carve=True) for by in (0.0, 3.0)),
    "prism": tuple(named(SectionPrism, prism=Prism(OUTLINE, 1.0, 5.0 + by)) for by in (0.0, 2.0)),
    "carved prism": tuple(named(SectionPrism, prism=Prism(OUTLINE, 1.0 + by, 7.0), carve=True) for by in (0.0, 2.0)),
    "round prism": tuple(named(SectionPrism, prism=Prism(((10.0, 6.0),), 0.0, 6.0, 3.0 + by)) for by in (0.0, 1.0)),
}


@pytest.mark.parametrize("name", PAIRS)
def test_a_cut_moves_to_where_it_goes_and_comes_from_outside(name: str) -> None:
    first, last = PAIRS[name]
    assert first.part_way(last, 0.0) == first and first.part_way(last, 1.0) == last
    half = first.part_way(last, 0.5)
    assert half is not None
    for grip in (g.name for g in first.grips(BOUNDS)):
        ends = first.value(grip), last.value(grip)
        if None not in ends and grip != "whole":
            assert half.value(grip) == pytest.approx(sum(ends) / 2)  # type: ignore[arg-type]
    assert held_by_any(first.cells(), POINTS).any()
    clear = first.clear_of(BOUNDS)
    assert not held_by_any(clear.cells(), POINTS).any()
    taken = [held_by_any(clear.part_way(first, t).cells(), POINTS).sum() for t in np.linspace(0, 1, 9)]  # type: ignore[union-attr]
    assert taken[0] == 0 and taken[-1] == held_by_any(first.cells(), POINTS).sum()
    assert name.startswith("carved") or sorted(taken) == taken  # what is carved may pass through more than it ends in


def test_cuts_that_only_one_state_has_enter_and_leave(boathouse) -> None:
    level = named(SectionPlane, plane=Plane((0, 0, 1.2), (0, 0, 1)))
    other = SectionPlane(id="d", name="D", mark="D", plane=Plane((15, 0, 0), (1, 0, 0)), graphic=True)
    start = StageState(camera=FRONT, cuts=(level,))
    end = StageState(camera=ISOMETRIC, cuts=(other, level.model_copy(update={"on": False})))
    way = transition(boathouse, NO_SITE, start, end, 1.5)
    top = boathouse.subject_bounds(np.ones(len(boathouse.elements), bool))[1, 2]
    heights = [cut.plane.origin[2] for t in (0.0, 0.3, 0.6, 0.99) for cut in way.at(t).cuts if cut.id == "c"]
    assert heights == sorted(heights) and heights[0] == 1.2 and heights[-1] > top - 0.5
    sides = [cut.plane.offset for t in (0.0, 0.3, 0.6, 0.99) for cut in way.at(t).cuts if cut.id == "d"]
    assert sides == sorted(sides, reverse=True) and sides[-1] == pytest.approx(15.0, abs=0.1)
    assert way.at(1.0) is end and way.fade == 0.0
    back = way.stopped_at(0.5)
    assert back.cuts[0].id == "d" and back.camera == way.at(0.5).camera


def test_what_is_drawn_apart_opens_and_crops_travel(boathouse) -> None:
    groups = Exploded(groups=(ApartGroup(name="Up", what=Selection(types=frozenset({"IfcRoof"})), distance=4.0),))
    start = StageState(camera=FRONT)
    end = StageState(camera=FRONT, exploded=groups, opening=0.8, crop=Crop(aspect=1.0, height=0.5, at=(0.1, 0.2)))
    way = transition(boathouse, NO_SITE, start, end, 1.6)
    shares = np.linspace(0.0, 0.999, 9)
    assert [way.at(t).opening for t in shares] == pytest.approx([0.8 * eased(t) for t in shares])
    crop = way.at(0.5).crop
    assert crop is not None and (crop.width, crop.height) == pytest.approx(((1.6 + 0.5) / 2, 0.75))
    shut = transition(boathouse, NO_SITE, end, start, 1.6).at(0.5)
    assert shut.exploded == groups and shut.opening == pytest.approx(0.4)
    hidden = end.model_copy(update={"hidden": frozenset({boathouse.elements[0].id})})
    assert transition(boathouse, NO_SITE, end, hidden, 1.6).faint(0.1) == pytest.approx(0.75)
