"""Films as values: what each move shows at a time, against closed forms; nothing jumps."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.peel import peeling
from anatome.cuts.plane import Plane
from anatome.cuts.scout import scout
from anatome.cuts.treatment import SLICE
from anatome.films.moves import MOVING_CUT, Setting, move_of
from anatome.films.timeline import Timeline
from anatome.linework.drawing import Drawing, Strokes
from anatome.linework.so_far import so_far
from anatome.look.look import Look
from anatome.look.pens import Pen
from anatome.model.bounds import corners_of
from anatome.model.building import Building
from anatome.model.place import Place
from anatome.problems import Problem
from anatome.scenes import film_edits
from anatome.scenes.film import Card, Day, Explode, Film, Hold, LinesFirst, LookShot, Peel, Rise, Sweep, Travel, TurnAbout
from anatome.scenes.look_edits import drawn_look
from anatome.scenes.opened import opened
from anatome.scenes.project import ModelReference, Project, Scene, StageState
from anatome.site.site import NO_SITE, Site
from anatome.view.camera import Camera, standard_view
from anatome.view.viewport import Viewport
from helpers import box, made_of

SHARES = np.linspace(0, 1, 21)


def smooth(share: float) -> float:
    """Smoothstep: 3t² − 2t³, still at both ends, 1.5 times as fast in the middle (CHECKS: easing)."""
    return share * share * (3 - 2 * share)


@pytest.fixture(scope="module")
def cutter(boathouse: Building) -> Cutter:
    return Cutter(boathouse)


@pytest.fixture(scope="module")
def states(boathouse: Building) -> tuple[StageState, StageState]:
    bounds = boathouse.subject_bounds(np.ones(len(boathouse.elements), bool))
    one = StageState(camera=standard_view("Axonometric, front left", bounds, 1.6), look=Look())
    other = StageState(
        camera=Camera(eye=(-20, -35, 12), target=tuple(bounds.mean(axis=0))), look=Look(name="Warm", edge_weight=0.3)
    )
    return one, other


def project(states, *shots, site: Site = NO_SITE) -> Project:
    scenes = tuple(Scene(id=f"s{i}", name=f"Scene {i}", state=state) for i, state in enumerate(states))
    film = Film(id="f", name="Film", shots=shots)
    return Project(name="p", model=ModelReference(path="m.ifc"), stage=states[0], scenes=scenes, films=(film,), site=site)


def timeline(cutter: Cutter, states, *shots, **more) -> Timeline:
    own = project(states, *shots, **more)
    return Timeline(own.films[0], own, cutter, 1.6)


def test_a_rising_cut_is_as_high_as_the_easing_says_and_rests_over_floors(cutter: Cutter, states) -> None:
    built, everything = ~cutter.building.context & ~cutter.building.earth, np.ones(len(cutter.building.elements), bool)
    bounds = cutter.building.bounds_of(built)
    low, high = bounds[:, 2] + np.array([-0.02, 0.02]) * np.ptp(bounds[:, 2])
    low = -0.6 - 0.02 * np.ptp(bounds[:, 2])  # the lowest floor with walls is at 0, and the ground stays
    way = move_of(Rise(scene="s0"), states[0], Setting(cutter, NO_SITE, 1.6))
    for share in SHARES:
        cut = way(share).state.cut(MOVING_CUT)
        assert cut.plane.normal == (0, 0, 1) and cut.plane.origin[2] == pytest.approx(low + smooth(share) * (high - low))
        assert not cut.graphic and not way(share).state.notes
    first = cutter.dissect(way(0.0).state.cuts, everything).shown
    above = cutter.building.element_bounds[:, 0, 2] > -0.5
    assert not first[built & above].any() and first[~built].all()
    assert cutter.dissect(way(1.0).state.cuts, everything).shown[built].all()
    # 1.2 m over every floor it stands still for a moment: its speed there is none.
    rests = move_of(Rise(scene="s0", resting=True), states[0], Setting(cutter, NO_SITE, 1.6))
    floors = [s.elevation + 1.2 for s in cutter.building.storeys if low < s.elevation + 1.2 < high]
    for number, floor in enumerate(floors, 1):
        at = number / (len(floors) + 1)
        near = [rests(at + d).state.cut(MOVING_CUT).plane.origin[2] for d in (-1e-4, 0.0, 1e-4)]
        assert near[1] == pytest.approx(floor) and np.ptp(near) < 1e-4


def test_part_is_put_on_part_and_nothing_is_cut(cutter: Cutter, states) -> None:
    building = cutter.building
    built = ~building.context & ~building.earth
    way = move_of(Rise(scene="s0", by_parts=True, even=True), states[0], Setting(cutter, NO_SITE, 1.6))
    before = -1
    for share in SHARES:
        state = way(share).state
        there = np.array([element.id not in state.hidden for element in building.elements])
        assert state.cuts == states[0].cuts and there[~built].all() and there.sum() >= before
        if there[built].any() and not there[built].all():  # whatever is there begins lower than what is not
            feet = building.element_bounds[:, 0, 2]
            assert feet[built & there].max() <= feet[built & ~there].min()
        before = there.sum()
    assert there.all() and before > 0


def test_a_sweep_goes_through_all_of_it_from_the_front_of_the_picture(cutter: Cutter, states) -> None:
    everything = np.ones(len(cutter.building.elements), bool)
    built = ~cutter.building.context & ~cutter.building.earth
    way = move_of(Sweep(scene="s1"), states[1], Setting(cutter, NO_SITE, 1.6))
    left = [int((cutter.dissect(way(share).state.cuts, everything).shown & built).sum()) for share in SHARES]
    assert left[0] == built.sum() and left[-1] == 0 and all(a >= b for a, b in zip(left, left[1:]))
    normal = np.array(way(0.5).state.cut(MOVING_CUT).plane.normal)
    assert normal @ np.array(states[1].camera.axes[2]) > 0.7 and normal[2] == 0
    said = move_of(Sweep(scene="s1", heading=30.0), states[1], Setting(cutter, NO_SITE, 1.6))
    assert said(0.2).state.cut(MOVING_CUT).plane.normal == pytest.approx((np.cos(np.pi / 6), 0.5, 0))


def test_a_turn_goes_round_the_middle_by_the_angle_evenly_where_it_ends_as_it_began(cutter: Cutter, states) -> None:
    pivot = cutter.building.subject_bounds(np.ones(len(cutter.building.elements), bool)).mean(axis=0)
    for degrees, whole in ((360.0, True), (-90.0, False)):
        way = move_of(TurnAbout(scene="s1", degrees=degrees), states[1], Setting(cutter, NO_SITE, 1.6))
        start = np.array(way(0.0).state.camera.eye) - pivot
        for share in SHARES:
            arm = np.array(way(share).state.camera.eye) - pivot
            angle = np.radians(degrees * (share if whole else smooth(share)))
            c, s = np.cos(angle), np.sin(angle)
            assert arm == pytest.approx([c * start[0] - s * start[1], s * start[0] + c * start[1], start[2]], abs=1e-9)
        same = way(1.0).state.camera.eye
        assert (np.linalg.norm(np.array(same) - pivot - start) < 1e-9) == whole


def test_storeys_open_and_come_together_in_one_picture_that_holds_them(cutter: Cutter, states) -> None:
    setting = Setting(cutter, NO_SITE, 1.6)
    for together in (False, True):
        way = move_of(Explode(scene="s0", together=together), states[0], setting)
        openings = [way(share).state.opening for share in SHARES]
        assert openings == pytest.approx([smooth(1 - s if together else s) for s in SHARES])
        closed, open_ = (way(share).state.camera for share in ((1, 0) if together else (0, 1)))
        assert closed == states[0].camera and np.allclose(closed.axes, open_.axes) and len(way(0.5).state.exploded.groups) == 2
        seen = Viewport.of(open_, 1600, 1000).pixels(
            opened(cutter, way(0.0 if together else 1.0).state).left_corners(
                cutter.building.subject(np.ones(len(cutter.building.elements), bool))
            )
        )
        assert (seen > 0).all() and (seen < (1600, 1000)).all()
    flat = states[0].model_copy(update={"hidden": frozenset(e.id for e in cutter.building.elements if e.storey != 1)})
    with pytest.raises(Problem, match="nothing to draw apart"):
        move_of(Explode(scene="s0"), flat, setting)


def test_the_sun_goes_by_the_hours_and_looks_dissolve(cutter: Cutter, states) -> None:
    nowhere = Cutter(cutter.building.otherwise(place=None))
    with pytest.raises(Problem, match="where the building stands"):
        move_of(Day(scene="s0"), states[0], Setting(nowhere, NO_SITE, 1.6))
    site = Site(place=Place(latitude=52.5, longitude=9.0))
    way = move_of(Day(scene="s0", begins=6, ends=18), states[0], Setting(cutter, site, 1.6))
    assert [way(share).state.look.sun_moment[-5:] for share in (0, 0.25, 0.5, 1)] == ["06:00", "09:00", "12:00", "18:00"]
    # Higher at noon than before and after it.
    heights = [drawn_look(way(share).state, site, cutter.building).sun_height for share in (0.2, 0.55, 0.9)]
    assert heights[1] > heights[0] and heights[1] > heights[2]
    other = states[1].look
    way = move_of(LookShot(scene="s0", look=other), states[0], Setting(cutter, NO_SITE, 1.6))
    assert [way(share).dissolve.share for share in SHARES] == pytest.approx([smooth(s) for s in SHARES])
    assert way(1.0).dissolve.other == drawn_look(states[0], NO_SITE, cutter.building, other)


def test_shots_follow_one_another_and_the_camera_never_jumps(cutter: Cutter, states) -> None:
    shots = (
        Hold(scene="s0", seconds=1),
        Travel(scene="s1", seconds=3),
        Hold(scene="s1", seconds=0.5),
        Rise(scene="s1", seconds=2),
    )
    film = timeline(cutter, states, *shots)
    assert film.seconds == 6.5 and film.frames(24) == 156 and project(states, *shots).films[0].seconds == 6.5
    assert film.at(0.3).scene.id == "s0" and film.at(0.3).shown.state == states[0]
    assert film.at(1.0).scene is None and film.at(4.2).scene.id == "s1" and film.at(5.0).state.cut(MOVING_CUT) is not None
    # From parallel to perspective the eye comes from afar, and the picture does not jump: no place moves much more than it mostly
    # does, from frame to frame.
    places = corners_of(cutter.building.subject_bounds(np.ones(len(cutter.building.elements), bool)))
    seen = [Viewport.of(film.at(time).state.camera, 1600, 1000).pixels(places) for time in np.arange(1.0, 4.0, 0.04)]
    steps = np.linalg.norm(np.diff(seen, axis=0), axis=2)
    assert steps.max() < 4 * steps.mean() and steps.max() < 40
    assert np.abs(seen[0] - Viewport.of(states[0].camera, 1600, 1000).pixels(places)).max() < 1e-6
    assert film.at(4.0 - 1e-9).state.camera.eye == pytest.approx(states[1].camera.eye, abs=1e-3)
    for wrong, why in (((), "no shots"), ((Hold(scene="gone"),), "scene that is gone")):
        with pytest.raises(Problem, match=why):
            timeline(cutter, states, *wrong)
    for rate in (0.5, 500.0):
        with pytest.raises(Problem, match="frames a second"):
            film.frames(rate)


def test_layers_draw_back_one_after_the_other_and_a_look_is_wiped_over_the_picture(cutter: Cutter, states) -> None:
    planes = [
        SectionPlane(id=f"p{n}", name="", mark="", peel="roof", plane=Plane((4.0 + 2 * n, 0.0, 0.0), (-1.0, 0.0, 0.0)))
        for n in range(3)
    ]
    state = states[0].model_copy(update={"cuts": tuple(planes)})
    way = move_of(Peel(scene="s0", even=True), state, Setting(cutter, NO_SITE, 1.6))
    everything = np.ones(len(cutter.building.elements), bool)
    home = [cut.plane.origin[0] for cut in peeling(planes)]
    order = [cut.id for cut in peeling(planes)]
    built = ~cutter.building.context & ~cutter.building.earth
    assert cutter.dissect(way(0.0).state.cuts, everything).shown[built].all()
    for share, there in ((1 / 3, 1), (0.5, 1.5), (2 / 3, 2), (1.0, 3)):
        found = [way(share).state.cut(i).plane.origin[0] for i in order]
        outside = [way(0.0).state.cut(i).plane.origin[0] for i in order]
        expected = [o + min(max(there - n, 0), 1) * (h - o) for n, (h, o) in enumerate(zip(home, outside))]
        assert found == pytest.approx(expected)
    with pytest.raises(Problem, match="no peel"):
        move_of(Peel(scene="s0"), states[0], Setting(cutter, NO_SITE, 1.6))

    wiped = move_of(LookShot(scene="s1", look=states[0].look, wiped=True), states[1], Setting(cutter, NO_SITE, 1.6))
    view = Viewport.of(states[1].camera, 1600, 1000)
    for share in SHARES:
        divide = wiped(share).state.divide
        foot, top = view.pixels(np.array(divide.line))
        assert foot == pytest.approx((1600 * (1 - smooth(share)), 1000)) and top == pytest.approx((foot[0], 0), abs=1e-6)
        assert divide.other == states[0].look


def test_an_upright_cut_rests_where_the_scout_says_it_is_clean(cutter: Cutter, states) -> None:
    setting = Setting(cutter, NO_SITE, 1.6)
    way = move_of(Sweep(scene="s1", heading=0.0, resting=True), states[1], setting)
    xs = np.array([way(share).state.cut(MOVING_CUT).plane.origin[0] for share in np.linspace(0, 1, 4001)])
    speed = np.abs(np.diff(xs))
    rests = xs[1:-1][(speed[:-1] >= speed[1:]) & (speed[1:] < 0.02 * speed.max())]
    built = ~cutter.building.context & ~cutter.building.earth
    sliced = states[1].treatments.codes(cutter.building) == SLICE
    clean = scout(cutter.building, Plane((0.0, 0.0, 0.0), (1.0, 0.0, 0.0)), built, sliced).suggestions
    assert len(clean) > 1 and all(np.abs(rests - offset).min() < 0.05 for offset in clean)


def test_lines_come_first_then_tones_then_light(cutter: Cutter, states) -> None:
    state = states[0].model_copy(update={"look": Look(shadows=0.4, shade=True)})
    way = move_of(LinesFirst(scene="s0"), state, Setting(cutter, NO_SITE, 1.6))
    assert [way(share).lines for share in (0.0, 0.275, 0.54)] == pytest.approx([0.0, 0.5, 0.54 / 0.55])
    toned = way(0.675)
    assert toned.lines is None and toned.before.lines == 1.0 and toned.faint == pytest.approx(0.5)
    assert not toned.state.look.shade and toned.state.look.shadows == 0.0
    lit = way(1.0)
    assert lit.dissolve.share == 1.0 and lit.dissolve.other == drawn_look(state, NO_SITE, cutter.building)


@settings(max_examples=50, deadline=None)
@given(
    st.lists(st.lists(st.lists(st.tuples(st.floats(0, 90), st.floats(0, 60)), min_size=2, max_size=5), max_size=4), max_size=3),
    st.floats(0, 1),
)
def test_of_linework_so_much_is_drawn_as_the_share_says(kinds, share: float) -> None:
    strokes = tuple(
        Strokes(f"kind {n}", Pen(0.1 * (n + 1), (0, 0, 0)), tuple(np.array(line, float) for line in lines))
        for n, lines in enumerate(kinds)
    )
    found = so_far(Drawing("d", 90, 60, 0, 0, (0, 0, 0), (), strokes), share)

    def long(of) -> list[float]:
        return [sum(float(np.linalg.norm(np.diff(line, axis=0), axis=1).sum()) for line in one.lines) for one in of]

    whole = long(strokes)
    assert sum(long(found.strokes)) == pytest.approx(share * sum(whole), abs=1e-6)
    drawn = {one.name: length for one, length in zip(found.strokes, long(found.strokes))}
    for thin, thick in zip(strokes, strokes[1:]):  # nothing thin before what is thick is there
        if drawn.get(thin.name, 0.0) > 1e-6:
            assert drawn.get(thick.name, 0.0) == pytest.approx(whole[strokes.index(thick)], abs=1e-6)


def test_titles_fade_into_pictures_and_notes_come_when_a_scene_stands(cutter: Cutter, states) -> None:
    shots = (
        Card(heading="{project}", seconds=2),
        Hold(scene="s0", seconds=2, caption="{scene}"),
        Travel(scene="s1", seconds=2),
        Hold(scene="s1", seconds=2),
    )
    film = timeline(cutter, states, *shots)
    assert film.at(1.0).card == shots[0] and film.at(1.0).state.look == states[0].look and not film.at(1.0).faint
    first = film.at(2.0)
    assert first.before.card == shots[0] and first.faint == 1.0 and first.scene.id == "s0" and first.caption == "{scene}"
    assert [film.at(2.0 + t).faint for t in (0.2, 0.4, 0.8)] == pytest.approx([1 - smooth(0.25), 0.5, 0.0])
    assert not film.at(6.0).words and film.at(6.3).words == pytest.approx(0.5) and film.at(7.0).words == 1.0
    assert film.at(3.5).words == 1.0 and film.scene_at(5.0).name == "Scene 1"
    even = move_of(Rise(scene="s0", even=True), states[0], Setting(cutter, NO_SITE, 1.6))
    heights = [even(share).state.cut(MOVING_CUT).plane.origin[2] for share in SHARES]
    assert np.ptp(np.diff(heights)) < 1e-9


def test_shots_are_put_in_order_and_a_film_is_made_of_scenes(cutter: Cutter, states) -> None:
    own = project(states)
    film = film_edits.new_film(own, own.scenes)
    assert [shot.word for shot in film.shots] == ["card", "hold", "travel", "hold"] and film.name == "Film 2"
    assert [shot.word for shot in film_edits.new_film(own, own.scenes[:1]).shots] == ["card", "rise", "hold"]
    for number in range(4):
        for to in range(5):
            moved = film_edits.move_shot(film, number, to).shots
            plain = list(film.shots)
            plain.insert(to, None)
            del plain[number + (to <= number)]
            assert moved == tuple(film.shots[number] if shot is None else shot for shot in plain)
    kept = film_edits.put_film(own, film)
    assert kept.film(film.id) == film and film_edits.take_film(kept, film.id).films == own.films
    assert [film.number_at(t) for t in (0.0, 2.9, 3.0, 5.0, 8.0, 99.0)] == [0, 0, 1, 2, 3, 3]
    with pytest.raises(Problem, match="at most 1,000"):
        film_edits.with_shots(film, [film.shots[0]] * 1001)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.floats(0.1, 20), min_size=1, max_size=6), st.floats(1, 120))
def test_frames_are_as_many_as_length_times_rate(lengths: list[float], rate: float) -> None:
    film = Film(id="f", name="F", shots=tuple(Hold(scene="s", seconds=s) for s in lengths))
    state = StageState(camera=Camera(eye=(0, -10, 0), target=(0, 0, 0)))
    own = Project(
        name="p", model=ModelReference(path="m"), stage=state, scenes=(Scene(id="s", name="S", state=state),), films=(film,)
    )
    found = Timeline(film, own, Cutter(made_of(("Wall", "IfcWall", "", box(0, 0, 0, 1, 1, 1)))), 1.0)
    count = found.frames(rate)
    assert count == max(1, round(sum(lengths) * rate))
    if count > 1:  # the last one is a frame before the end
        assert abs((count - 1) / rate - (sum(lengths) - 1 / rate)) <= 0.5 / rate + 1e-9
    assert Project.model_validate_json(own.model_dump_json()).films == own.films
