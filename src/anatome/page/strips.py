"""What is dragged through frames on a page: moments in a row, what each is called, and how a drag over the picture goes."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut
from anatome.films.moves import CLEAR, Moment, Setting, move_of, seen
from anatome.lengths import metric
from anatome.model.bounds import corners_of
from anatome.page.contents import PageItem
from anatome.problems import Problem
from anatome.scenes.film import Day, TurnAbout
from anatome.scenes.project import Scene, StageState
from anatome.view.viewport import Frame, Viewport

Array = NDArray[np.float64]

LEAST_DRAG = 0.12
"""Share of the picture a dragged cut goes across it at least, from its first place to its last; one that is seen square on is
dragged sideways."""
SIDEWAYS, UPWARD = (0.85, 0.0), (0.0, -0.6)
HOURS = (6.0, 21.0)


@dataclass(frozen=True, eq=False)
class Strip:
    """``moments`` in a row, ``words`` of each, and which of them is the scene's own (``home``). A drag from the first to the last
    goes ``along`` so much of the picture's width and height (to the right, down); ``round`` ones go on from the last to the
    first. ``hint`` says what to do."""

    hint: str
    moments: tuple[Moment, ...]
    words: tuple[str, ...]
    home: int
    along: tuple[float, float]
    round: bool = False


def strip_of(item: PageItem, scene: Scene, setting: Setting, count: int) -> Strip | None:
    """Return the frames of an item; None for one that only is looked at. Raises Problem where it cannot be."""
    makers = {"cut": _cut, "turn": _turn, "apart": _apart, "day": _day}
    if item.shows not in makers:
        return None
    strip = makers[item.shows](scene, setting, count)
    own = Moment(scene.state, frame=scene.frame, scene=scene)
    moments = [replace(moment, frame=scene.frame) for moment in strip.moments]
    if item.shows != "day":  # the sun of a scene is not one of the hours
        moments[strip.home] = own
    return replace(strip, moments=tuple(moments))


def dragged_cut(state: StageState) -> AnyCut | None:
    """Return the cut of a state that is dragged: the one that is seen true, else the first, of those that can be."""
    return next((cut for cut in (*state.cuts_seen_true, *state.active_cuts) if cut.scouted and not cut.peel), None)


def _cut(scene: Scene, setting: Setting, count: int) -> Strip:
    state = scene.state
    cut = dragged_cut(state)
    if cut is None:
        raise Problem(f"“{scene.name}” has no cut that can be dragged. Show it as a picture, or turn about in it.")
    grip = cut.scouted[0]
    plane = cut.moving_plane(grip)
    assert plane is not None
    corners = corners_of(setting.bounds(state))
    beyond = corners @ plane.n - plane.offset
    clear = CLEAR * float(np.ptp(beyond))
    first, last = max(float(beyond.max()), 0.0) + clear, min(float(beyond.min()) + clear, 0.0)
    before = min(max(round(count * first / max(first - last, 1e-9)), 1), count - 1) if last < 0.0 else count - 1
    pulls = [*np.linspace(first, 0.0, before + 1), *np.linspace(0.0, last, count - before)[1:]]
    free = cut.model_copy(update={"locked": False})
    moved = [free.pulled(grip, plane.n * pull) for pull in pulls]
    cuts = [tuple(one if other.id == cut.id else other for other in state.cuts) for one in moved]
    words = [f"{cut.name} at {metric(_place(one, grip), 2).replace('-', '−')} m" for one in moved]
    start, end = (plane.n * pull for pull in (first, last))
    middle = corners.mean(axis=0)
    middle = middle - plane.n * (middle @ plane.n - plane.offset)
    return Strip(
        "Drag the cut through the building",
        tuple(Moment(seen(state, cuts=own)) for own in cuts),
        tuple(words),
        before,
        _drag(scene, middle + start, middle + end),
    )


def _place(cut: AnyCut, grip: str) -> float:
    plane = cut.moving_plane(grip)
    return 0.0 if plane is None else plane.position


def _drag(scene: Scene, start: Array, end: Array) -> tuple[float, float]:
    """How a drag goes with what moves from one place to another, in shares of the picture."""
    aspect = scene.aspect
    ends = Viewport(scene.camera_for(aspect), Frame(width=aspect, height=1.0, crop=scene.frame.crop)).pixels(
        np.stack([start, end])
    )
    arm = (ends[1] - ends[0]) / [aspect, 1.0]
    if not np.isfinite(arm).all() or float(np.abs(arm).max()) < LEAST_DRAG:
        return SIDEWAYS
    arm = arm / max(float(np.abs(arm).max()), 1.0)
    return float(arm[0]), float(arm[1])


def _turn(scene: Scene, setting: Setting, count: int) -> Strip:
    move = move_of(TurnAbout(scene=scene.id, degrees=360.0), scene.state, setting)
    shares = [number / count for number in range(count)]
    words = tuple(f"{round(360 * share)}° round" for share in shares)
    return Strip("Drag to turn it about", tuple(map(move, shares)), words, 0, (-1.6, 0.0), round=True)


def _apart(scene: Scene, setting: Setting, count: int) -> Strip:
    state = scene.state
    if not state.is_apart:
        raise Problem(f"Nothing is drawn apart in “{scene.name}”. Show it as a picture.")
    shares = [number / (count - 1) for number in range(count)]
    moments = tuple(Moment(seen(state, opening=state.opening * share)) for share in shares)
    words = tuple("Together" if not share else f"{round(100 * share)} % open" for share in shares)
    return Strip("Drag to open and close it", moments, words, count - 1, UPWARD)


def _day(scene: Scene, setting: Setting, count: int) -> Strip:
    move = move_of(Day(scene=scene.id, begins=HOURS[0], ends=HOURS[1]), scene.state, setting)
    shares = [number / (count - 1) for number in range(count)]
    minutes = [round(60 * (HOURS[0] + share * (HOURS[1] - HOURS[0]))) for share in shares]
    words = tuple(f"{m // 60}:{m % 60:02d}, midsummer" for m in minutes)
    noon = min(range(count), key=lambda number: abs(minutes[number] - 13 * 60))
    return Strip("Drag the sun through the day", tuple(map(move, shares)), words, noon, SIDEWAYS)
