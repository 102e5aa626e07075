"""Walking in a building made for it: a room with a door, a stair, a wall and an edge; and up the stair of the demo."""

from __future__ import annotations

from itertools import count, pairwise

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.cuts.dissection import CutBuilding, Cutter
from anatome.films.ways import eye_way
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element
from anatome.problems import Problem
from anatome.scenes.film import Way
from anatome.view.camera import Camera
from anatome.view.walking import ARM, EYE, floor_under, in_the_way, set_down, turned, walked

LOOK = Camera(eye=(0, 0, 5), target=(1, 0, 5))


def house() -> CutBuilding:
    """A floor 10 by 6 with its top at 0, a wall at x = 6 with a door from y = 1 to 2, and steps of 0.2 from x = 7 on."""
    assembly, numbers = BuildingAssembly("house"), count()
    style = assembly.style((0.8, 0.8, 0.8, 1.0))

    def block(kind: str, low, high) -> None:
        box = trimesh.creation.box(np.subtract(high, low))
        box.apply_translation(np.add(low, high) / 2)
        number = next(numbers)
        assembly.add(Element(f"e{number}", kind, kind), box.vertices, box.faces, style)

    block("IfcSlab", (0, 0, -0.3), (10, 6, 0))
    block("IfcWall", (6, 0, 0), (6.2, 1, 3))
    block("IfcWall", (6, 2, 0), (6.2, 6, 3))
    block("IfcDoor", (6.05, 1, 0), (6.1, 2, 2.1))
    for step in range(5):
        block("IfcStair", (7 + 0.3 * step, 0, 0), (7.3 + 0.3 * step, 6, 0.2 * (step + 1)))
    building = assembly.finish()
    return Cutter(building).dissect([], np.ones(len(building.elements), bool))


HOUSE = house()


def test_through_the_door_not_through_the_wall_and_up_the_steps() -> None:
    met = in_the_way(HOUSE)
    camera = set_down(LOOK, met, np.array([2.0, 4.0, 0.5]))
    assert camera is not None and camera.eye == pytest.approx((2, 4, EYE)) and camera.is_perspective
    camera, stopped = walked(camera, met, 20.0)
    assert stopped == "a wall" and camera.eye == pytest.approx((6 - ARM, 4, EYE), abs=1e-6)
    camera, stopped = walked(camera, met, 0.0, sideways=2.5)  # to the right, along the wall to the door
    assert not stopped and camera.eye[1] == pytest.approx(1.5)
    for _ in range(5):
        camera, stopped = walked(camera, met, 0.5)
        assert not stopped
    assert camera.eye == pytest.approx((8.2, 1.5, 1.0 + EYE), abs=1e-6)  # on the fifth step
    # Over its far end there is a drop of a metre: one stays.
    there, stopped = walked(camera, met, 1.0)
    assert stopped == "no floor" and there == camera
    assert floor_under(met, np.array([20.0, 0, 3])) is None and set_down(LOOK, met, np.array([20.0, 0, 3])) is None
    assert np.allclose(turned(camera, 90.0).eye, camera.eye)
    assert np.subtract(turned(camera, 90.0).target, camera.eye) == pytest.approx([0, 4, 0], abs=1e-6)


@settings(max_examples=60)
@given(st.lists(st.tuples(st.floats(-2, 2), st.floats(-1, 1), st.floats(-90, 90)), min_size=1, max_size=25))
def test_however_one_walks_one_stands_on_a_floor_and_in_no_wall(steps) -> None:
    met = in_the_way(HOUSE)
    camera = set_down(LOOK, met, np.array([3.0, 3.0, 0.5]))
    assert camera is not None
    for ahead, sideways, angle in steps:
        camera, _ = walked(turned(camera, angle), met, ahead, sideways)
        x, y, z = camera.eye
        floor = floor_under(met, np.array(camera.eye))
        assert floor is not None and z - floor == pytest.approx(EYE, abs=1e-6)
        assert not (5.99 < x < 6.21 and not 1 <= y <= 2 and 0 < z < 3)
        assert -1e-6 <= x <= 10 + 1e-6 and -1e-6 <= y <= 6 + 1e-6


def test_up_the_stair_of_the_boathouse(boathouse: Building) -> None:
    met = in_the_way(Cutter(boathouse).dissect([], np.ones(len(boathouse.elements), bool)))
    stair = next(i for i, e in enumerate(boathouse.elements) if e.type.startswith("IfcStair"))
    low, high = boathouse.element_bounds[stair]
    along = int(np.ptp(boathouse.element_bounds[stair], axis=0)[:2].argmax())
    heights = []
    for end, sign in ((low, 1.0), (high, -1.0)):
        start = (low + high) / 2
        start[along] = end[along] + sign * 0.15
        way = np.zeros(3)
        way[along] = sign
        camera = set_down(LOOK.placed(np.zeros(3), way), met, np.array([start[0], start[1], high[2] + 1.2]))
        if camera is None:
            continue
        for _ in range(40):
            camera, _ = walked(camera, met, 0.2)
            heights.append(camera.eye[2])
    assert max(heights) - min(heights) > 2.0  # from one storey towards the other


def test_a_way_of_a_film_goes_through_the_door_and_up_the_steps_evenly_and_never_through_a_wall() -> None:
    path = ((2.0, 4.0, 0.0), (4.5, 1.5, 0.0), (8.0, 1.5, 0.0))
    way = eye_way(Way(scene="s", path=path), HOUSE)
    steps = np.linalg.norm(np.diff(way.eyes, axis=0), axis=1)
    assert steps.max() < 0.14 and steps.max() < 2.0 * np.median(steps)  # the steepest stretch is the stair
    assert way.eyes[0] == pytest.approx((2, 4, EYE)) and way.eyes[-1] == pytest.approx((8.0, 1.5, 0.8 + EYE))
    assert (np.diff(way.eyes[:, 2]) > -1e-9).all() and way.targets[:, 2] == pytest.approx(way.eyes[:, 2])
    in_door = way.eyes[np.abs(way.eyes[:, 0] - 6.1) < 0.15]
    assert len(in_door) and ((in_door[:, 1] > 1.0) & (in_door[:, 1] < 2.0)).all()
    ahead = way.targets - way.eyes
    turns = np.degrees(np.arccos(np.clip([a @ b / np.linalg.norm(a) / np.linalg.norm(b) for a, b in pairwise(ahead)], -1, 1)))
    assert turns.max() < 5.0 and way.at(0.0)[0] == pytest.approx(way.eyes[0]) and way.at(1.0)[0] == pytest.approx(way.eyes[-1])
    looks = eye_way(Way(scene="s", path=path, at=(1.0, 2.0, 3.0)), HOUSE)
    assert (looks.targets == (1.0, 2.0, 3.0)).all() and np.array_equal(looks.eyes, way.eyes)
    for wrong, why in (
        (((2.0, 4.0, 0.0), (8.0, 4.0, 0.0)), "through a wall after 4.0 m"),
        (((2.0, 4.0, 0.0), (2.0, 9.0, 0.0)), "no floor after 2"),
        (((20.0, 4.0, 0.0), (2.0, 4.0, 0.0)), "no floor where it begins"),
        (((2.0, 4.0, 0.0), (2.0, 4.0, 0.0)), "two places at least"),
    ):
        with pytest.raises(Problem, match=why):
            eye_way(Way(scene="s", path=wrong), HOUSE)
    flown = eye_way(Way(scene="s", flying=True, path=((0.0, 0.0, 9.0), (30.0, 0.0, 9.0), (30.0, 20.0, 12.0))), HOUSE)
    assert flown.eyes[0] == pytest.approx((0, 0, 9)) and flown.eyes[-1] == pytest.approx((30, 20, 12))
    assert np.linalg.norm(flown.eyes - (30, 0, 9), axis=1).min() > 0.5  # its corner is rounded
    with pytest.raises(Problem, match="flight goes through a part after"):
        eye_way(Way(scene="s", flying=True, path=((2.0, 4.0, 2.0), (9.0, 4.0, 2.5))), HOUSE)
    eye_way(Way(scene="s", flying=True, path=((2.0, 1.5, 1.5), (6.8, 1.5, 1.8))), HOUSE)  # through the door
