"""Pictures proposed: what they say is seen is what rays see, and the best of them show what was asked for."""

from __future__ import annotations

import numpy as np
import pytest

from anatome.cuts.cut import SectionBox, SectionPlane, SteppedSection
from anatome.cuts.dissection import Cutter, shown_elements
from anatome.cuts.pieces import pick_placed
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.render.pictures import PictureMaker
from anatome.render.seen_steps import seen
from anatome.scenes.opened import opened
from anatome.scenes.project import StageState
from anatome.scenes.scene_view import View
from anatome.suggestions.ranking import SIZE, WEIGHTS, Suggestion, Tried, rank, share_seen, try_all
from anatome.suggestions.subject import Subject, find_subject
from anatome.view.camera import Camera
from anatome.view.seen import Seen
from anatome.view.viewport import Frame, Viewport

STATE = StageState(camera=Camera(eye=(-19.0, -27.0, 10.5), target=(13.0, 6.0, 3.0), field=33.0))
Round = tuple[Subject, list[Tried], list[tuple[Seen, Seen | None]], list[Suggestion]]


@pytest.fixture(scope="module")
def maker(boathouse: Building) -> PictureMaker:
    return PictureMaker.standalone(boathouse)


def round_of(boathouse: Building, maker: PictureMaker, words: str | None) -> Round:
    # Rays stop at glass and eyes do not; without it both see the same.
    hidden = frozenset(e.id for e, is_clear in zip(boathouse.elements, glass(boathouse)) if is_clear)
    subject = find_subject(boathouse, shown_elements(boathouse, hidden), words)
    tried = try_all(boathouse, STATE.model_copy(update={"hidden": hidden}), subject, 1.5)

    def look(one: Tried) -> tuple[Seen, Seen | None]:
        own = seen(maker.renderer, View(one.camera, one.shown, STATE.look), SIZE)
        alone = None if one.alone is None else seen(maker.renderer, View(one.camera, one.alone, STATE.look), SIZE)
        return own, alone

    looked = [look(one) for one in tried]
    return subject, tried, looked, rank(subject, tried, looked)


@pytest.fixture(scope="module", params=[None, "Clubroom", "IfcStairFlight"])
def rounds(request, boathouse: Building, maker: PictureMaker) -> Round:
    return round_of(boathouse, maker, request.param)


def glass(boathouse: Building) -> np.ndarray:
    """(E,) elements that are partly clear: rays stop at them, eyes do not."""
    clear = np.zeros(len(boathouse.elements), bool)
    clear[boathouse.clusters.element[boathouse.clusters.kind == 1]] = True
    return clear


def test_what_is_seen_is_what_rays_meet(boathouse: Building, rounds: Round) -> None:
    """Pixel by pixel on a grid: element, cut face and place; and the visible share counted over again with rays."""
    subject, tried, looked, _ = rounds
    compared, wrong = 0, 0
    for one, (own, _) in list(zip(tried, looked))[::3]:
        viewport = Viewport(one.camera, Frame(width=SIZE[0], height=SIZE[1]))
        counted = np.zeros(3)
        for y in range(2, SIZE[1], 7):
            for x in range(2, SIZE[0], 7):
                met = pick_placed(one.shown.parts, *viewport.ray(x + 0.5, y + 0.5))
                number = -1 if met is None else met[0].element
                compared += 1
                wrong += number != own.element[y, x]
                if number == own.element[y, x] and met is not None and met[1] is None and not own.cut[y, x]:
                    assert np.linalg.norm(own.place[y, x] - met[0].point) < 0.02 * one.camera.distance
                if not len(subject.rooms):
                    counted += [number >= 0 and subject.elements[number], subject.elements[max(own.element[y, x], 0)], 1]
        if not len(subject.rooms):
            assert counted[0] == pytest.approx(counted[1], abs=0.06 * counted[2])
    assert compared > 500 and wrong < 0.03 * compared, (wrong, compared)


def test_the_visible_share_of_a_room_by_brute_force(boathouse: Building, rounds: Round) -> None:
    subject, tried, looked, _ = rounds
    if not len(subject.rooms):
        pytest.skip("parts are counted above")
    for one, (own, alone) in list(zip(tried, looked))[::4]:
        viewport = Viewport(one.camera, Frame(width=SIZE[0], height=SIZE[1]))
        hits, covered = 0, 0
        for x, y in np.ndindex(SIZE[0] // 3, SIZE[1] // 3):
            origin, direction = viewport.ray(3 * x + 0.5, 3 * y + 0.5)
            with np.errstate(divide="ignore"):
                near, far = ((subject.rooms - origin) / direction).transpose(1, 0, 2)
            enter, leave = np.minimum(near, far).max(axis=1), np.maximum(near, far).min(axis=1)
            if not (np.maximum(enter, 0) < leave).any():
                continue
            met = pick_placed(one.shown.parts, origin, direction)
            covered += 1
            point = None if met is None or met[1] is not None else np.array(met[0].point)
            hits += point is not None and bool(
                ((point > subject.rooms[:, 0] - 0.12) & (point < subject.rooms[:, 1] + 0.12)).all(axis=1).any()
            )
        if covered > 250:
            assert share_seen(subject, one, own, alone) == pytest.approx(hits / covered, abs=0.06)


def test_the_best_show_what_was_asked_for_and_say_why(boathouse: Building, rounds: Round) -> None:
    subject, tried, _, found = rounds
    assert len(found) == 8 and len({s.kind for s in found}) >= 3
    for suggestion in found:
        assert suggestion.score == pytest.approx(sum(WEIGHTS[name] * suggestion.parts[name] for name in WEIGHTS))
        assert suggestion.words.startswith(f"Shows {100 * suggestion.parts['seen']:.0f} % of {subject.name}. Cuts ")
        state = suggestion.on(STATE)
        assert opened(Cutter(boathouse), state).cut_open.faces
    assert found[0].parts["seen"] > {"the rooms": 0.4, "Clubroom": 0.85}.get(subject.name, 0.3)
    sections = [s for s in found if s.kind == "section"]
    assert all(s.camera.is_perspective and isinstance(s.cuts[0], SectionPlane) for s in sections) and len(sections) >= 2
    kinds = {t.candidate.kind for t in tried}
    if subject.whole:
        assert "stepped" in kinds and any(isinstance(c, SteppedSection) for s in found for c in s.cuts)
    else:
        assert "box" in kinds and any(isinstance(c, SectionBox) and not c.carve for s in found for c in s.cuts)


def test_cuts_there_were_are_off_and_names_are_free(boathouse: Building, rounds: Round) -> None:
    _, _, _, found = rounds
    own = SectionPlane(id="mine", name="Section A", mark="A", plane=found[0].cuts[0].axis)
    state = found[0].on(STATE.model_copy(update={"cuts": (own,)}))
    assert [c.mark for c in state.cuts] == ["A", "B"] and [c.on for c in state.cuts] == [False, True]
    assert state.cut("mine") is not None and state.cuts[1].name.endswith(" B") and state.hidden == STATE.hidden


def test_what_is_not_there_is_said(boathouse: Building) -> None:
    shown = np.ones(len(boathouse.elements), bool)
    with pytest.raises(Problem, match="Nothing that is shown is called “ballroom”"):
        find_subject(boathouse, shown, "ballroom")
    upper = next(i for i, storey in enumerate(boathouse.storeys) if storey.name == "Upper floor")
    of_it = sum(e.storey == upper for e in boathouse.elements)
    assert of_it > 60 and find_subject(boathouse, shown, "upper floor").elements.sum() == of_it
    assert find_subject(boathouse, shown, "stair hall").rooms.shape == (1, 2, 3)
