"""The moves of shots: what a scene shows at a share of the time, in closed form wherever it has one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import SectionPlane
from anatome.cuts.directions import own_directions
from anatome.cuts.dissection import Cutter, shown_elements
from anatome.cuts.exploding import Exploded, by_storeys, storey_gap
from anatome.cuts.peel import peeling
from anatome.cuts.plane import Plane, vector
from anatome.cuts.reach import EVERYTHING, Reach
from anatome.cuts.scout import scout
from anatome.cuts.treatment import SLICE
from anatome.films.ways import eye_way
from anatome.look.divide import Dissolve, Divide
from anatome.look.quick_lines import quick_lines
from anatome.model.bounds import corners_of
from anatome.model.building import Building
from anatome.model.kinds import CONTEXT_TYPES
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes.film import AnyShot, Card, Day, Explode, LinesFirst, LookShot, Peel, Rise, Shot, Sweep, TurnAbout, Way
from anatome.scenes.look_edits import drawn_look
from anatome.scenes.opened import kept_of, opened
from anatome.scenes.project import Scene, StageState
from anatome.scenes.transition import eased
from anatome.site.site import Site
from anatome.site.sunlight import place_of
from anatome.view.camera_path import path_between
from anatome.view.framing import WITHIN
from anatome.view.viewport import Frame, Viewport

Array = NDArray[np.float64]
WHOLE = Frame()
MOVING_CUT = "film"
"""The id of the cut that travels."""
CLEAR = 0.02
"""Share of the size by which a travelling cut begins before the building, and ends behind it."""
UNDER_FLOOR = 0.6
"""Metres under the lowest floor with walls from which a building grows."""
ALL_BUT_EARTH = Reach(mode="all but", what=Selection(types=frozenset(CONTEXT_TYPES)))
"""A building grows out of the ground, and its neighbours stand round it."""
OVER_FLOOR = 1.2
"""Metres over a floor at which a plan is cut (common practice)."""
LINED, TONED = 0.55, 0.8
"""Shares of the time after which linework is drawn, and after which tones have come, before the light comes on."""
YEAR = 2024
SUN_SHADOWS = 0.35
"""How strong shadows are in a day whose look has none."""


@dataclass(frozen=True, eq=False)
class Moment:
    """What a film shows at a time: a ``state`` through a ``frame``, perhaps under way to another look by a ``dissolve``; of a
    ``scene`` that stands still that itself, with what is written on it ``words`` solid; or a ``card`` on the paper of the state.
    Of its linework perhaps only a share (``lines``) is drawn, on paper. A moment ``before`` is still seen over it, ``faint``
    solid."""

    state: StageState
    dissolve: Dissolve | None = None
    frame: Frame = WHOLE
    scene: Scene | None = None
    words: float = 1.0
    card: Card | None = None
    lines: float | None = None
    caption: str = ""
    before: Moment | None = None
    faint: float = 0.0

    @property
    def shown(self) -> Scene:
        """As a scene, of which pictures are made."""
        return self.scene or Scene(id=MOVING_CUT, name="", state=self.state, frame=self.frame)


Move = Callable[[float], Moment]
"""Told the share of a shot's time, from 0 to 1."""


@dataclass(frozen=True, eq=False)
class Setting:
    """What moves work with: the building with its site, cut by one cutter, in pictures so many times as wide as high."""

    cutter: Cutter
    site: Site
    aspect: float

    @property
    def building(self) -> Building:
        return self.cutter.building

    def bounds(self, state: StageState) -> Array:
        """Return (2, 3) metres of what a picture of a state is about, cut or not."""
        return self.building.subject_bounds(shown_elements(self.building, state.hidden))

    def reach(self, state: StageState) -> Array:
        """Return (2, 3) metres that hold all that is built and shown, also what stands in no storey: a cut comes from outside."""
        building = self.building
        built = shown_elements(building, state.hidden) & ~building.context & ~building.earth
        return building.bounds_of(built) if built.any() else self.bounds(state)

    @cached_property
    def directions(self) -> list[float]:
        """Degrees in [0, 90) in which the walls run."""
        return own_directions(self.building)


def bare(state: StageState) -> StageState:
    """Return a state as it moves: nothing is written on it, and it is drawn."""
    cuts = tuple(cut.model_copy(update={"graphic": False}) for cut in state.cuts)
    return state.model_copy(update={"notes": (), "still": 0, "cuts": cuts})


def seen(state: StageState, **changes: object) -> StageState:
    """Return a moving state with something else."""
    return bare(state).model_copy(update=changes)


def move_of(shot: AnyShot, state: StageState, setting: Setting) -> Move:
    """Return what a shot of a state does. Raises Problem where it cannot."""
    return MOVES[shot.kind](shot, state, setting)


def _with_cut(state: StageState, plane: Plane, reach: Reach = EVERYTHING) -> StageState:
    cut = SectionPlane(id=MOVING_CUT, name="Moving cut", mark="", plane=plane, graphic=False, reach=reach)
    return seen(state, cuts=(*bare(state).cuts, cut))


def _pace(shot: Shot) -> Callable[[float], float]:
    return (lambda share: share) if shot.even else eased


def rise_heights(shot: Rise, state: StageState, setting: Setting) -> list[float]:
    """Return metres a level cut comes by, from under the building to over it, by each of which it rests if wanted."""
    low, high = setting.reach(state)[:, 2].tolist()
    clear = CLEAR * (high - low)
    walled = {e.storey for e in setting.building.elements if e.type.startswith("IfcWall")} - {None}
    if walled:  # what lies deeper is in the ground, which stays
        low = max(low, min(s.elevation for i, s in enumerate(setting.building.storeys) if i in walled) - UNDER_FLOOR)
    floors = sorted(storey.elevation + OVER_FLOOR for storey in setting.building.storeys) if shot.resting else []
    return [low - clear, *[height for height in floors if low < height < high], high + clear]


def _rise(shot: Rise, state: StageState, setting: Setting) -> Move:
    heights, pace = rise_heights(shot, state, setting), _pace(shot)
    building = setting.building
    built = np.flatnonzero(~building.context & ~building.earth)
    feet = building.element_bounds[built, 0, 2]

    def at(share: float) -> Moment:
        step = min(int(share * (len(heights) - 1)), len(heights) - 2)
        own = pace(share * (len(heights) - 1) - step)
        height = heights[step] + own * (heights[step + 1] - heights[step])
        if shot.by_parts:
            coming = frozenset(building.elements[number].id for number in built[feet > height])
            return Moment(seen(state, hidden=state.hidden | coming))
        return Moment(_with_cut(state, Plane((0.0, 0.0, float(height)), (0.0, 0.0, 1.0)), ALL_BUT_EARTH))

    return at


def _sweep(shot: Sweep, state: StageState, setting: Setting) -> Move:
    back = np.array(state.camera.axes[2])
    if shot.heading is not None:
        angles = [shot.heading]
    else:
        angles = [angle + turn for angle in setting.directions for turn in (0.0, 90.0, 180.0, 270.0)]
    ways = [np.array([np.cos(np.radians(a)), np.sin(np.radians(a)), 0.0]) for a in angles]
    normal = max(ways, key=lambda way: float(way @ back))
    bounds = setting.reach(state)
    middle, reach = bounds.mean(axis=0), float(np.abs(normal) @ (bounds[1] - bounds[0])) * (0.5 + CLEAR)
    begins, ends, pace = middle + normal * reach, middle - normal * reach, _pace(shot)
    stops = _sweep_stops(shot, state, setting, Plane(vector(begins), vector(normal)), 2.0 * reach)

    def at(share: float) -> Moment:
        step = min(int(share * (len(stops) - 1)), len(stops) - 2)
        way = stops[step] + pace(share * (len(stops) - 1) - step) * (stops[step + 1] - stops[step])
        return Moment(_with_cut(state, Plane(vector(begins + (ends - begins) * way), vector(normal))))

    return at


def _sweep_stops(shot: Sweep, state: StageState, setting: Setting, start: Plane, length: float) -> list[float]:
    """Shares of the way at which the cut begins, rests and ends."""
    if not shot.resting:
        return [0.0, 1.0]
    building = setting.building
    built = shown_elements(building, state.hidden) & ~building.context & ~building.earth
    found = scout(building, start, built, state.treatments.codes(building) == SLICE)
    shares = sorted((start.offset - offset) / length for offset in found.suggestions)
    return [0.0, *[share for share in shares if 0.0 < share < 1.0], 1.0]


def _peel(shot: Peel, state: StageState, setting: Setting) -> Move:
    planes = peeling(state.active_cuts)
    if not planes:
        raise Problem("This scene has no peel to draw back. Pick a part of a roof or a wall and choose Cut › Peel, then save it.")
    corners, pace = corners_of(setting.reach(state)), _pace(shot)
    outside = {cut.id: _clear_of(cut.plane, corners) for cut in planes}

    def at(share: float) -> Moment:
        moved = {}
        for number, cut in enumerate(planes):
            own = pace(min(max(share * len(planes) - number, 0.0), 1.0))
            away = outside[cut.id] * (1.0 - own)
            moved[cut.id] = cut.model_copy(update={"plane": cut.plane.moved(away)})
        return Moment(seen(state, cuts=tuple(moved.get(cut.id, cut) for cut in bare(state).cuts)))

    return at


def _clear_of(plane: Plane, corners: Array) -> float:
    """Metres along its normal by which a plane has to move to take nothing away."""
    beyond = corners @ plane.n - plane.offset
    return float(beyond.max() + CLEAR * np.ptp(beyond)) if beyond.max() > 0 else 0.0


def _turn(shot: TurnAbout, state: StageState, setting: Setting) -> Move:
    pivot, pace = setting.bounds(state).mean(axis=0), _pace(shot)
    whole = abs(shot.degrees) % 360.0 == 0.0  # it goes on as it began, so that it can be seen again and again

    def at(share: float) -> Moment:
        way = share if whole else pace(share)
        return Moment(seen(state, camera=state.camera.orbited(shot.degrees * way, 0.0, pivot)))

    return at


def _explode(shot: Explode, state: StageState, setting: Setting) -> Move:
    wide, way, pace = state, None, _pace(shot)
    if not state.is_apart:
        shown = shown_elements(setting.building, state.hidden)
        groups = by_storeys(setting.building, shown, storey_gap(setting.building))
        if not groups:
            raise Problem("There is nothing to draw apart: the parts that are shown stand in one storey, or in none.")
        wide = state.model_copy(update={"exploded": Exploded(groups=groups), "opening": 1.0})
        corners = opened(setting.cutter, wide).left_corners(setting.building.subject(shown))
        way = path_between(state.camera, state.camera.fitted_round(corners, setting.aspect), setting.bounds(state).mean(axis=0))

    def at(share: float) -> Moment:
        opening = pace(1.0 - share if shot.together else share)
        camera = state.camera if way is None else way.at(opening)
        return Moment(seen(wide, opening=wide.opening * opening, camera=camera))

    return at


def _day(shot: Day, state: StageState, setting: Setting) -> Move:
    if place_of(setting.site, setting.building) is None:
        raise Problem("Nobody knows where the building stands. Say it in the inspector, under “Where it stands”.")
    shadows = state.look.shadows or SUN_SHADOWS

    def at(share: float) -> Moment:
        minutes = min(round(60 * (shot.begins + share * (shot.ends - shot.begins))), 24 * 60 - 1)
        moment = f"{YEAR}-{shot.day}T{minutes // 60:02d}:{minutes % 60:02d}"
        return Moment(seen(state, look=state.look.model_copy(update={"sun_moment": moment, "shadows": shadows})))

    return at


def _look(shot: LookShot, state: StageState, setting: Setting) -> Move:
    plain, pace = seen(state, divide=None), _pace(shot)
    if shot.wiped:
        viewport = Viewport.of(state.camera, setting.aspect, 1.0)
        right_foot, right_top = (viewport.rays(np.array([[1.0, y]]), state.camera.distance)[0][0] for y in (-1.0, 1.0))
        left_foot, left_top = (viewport.rays(np.array([[-1.0, y]]), state.camera.distance)[0][0] for y in (-1.0, 1.0))

        def wiped(share: float) -> Moment:
            way = pace(share)
            foot, top = (a + (b - a) * way for a, b in ((right_foot, left_foot), (right_top, left_top)))
            return Moment(seen(state, divide=Divide(other=shot.look, line=(vector(foot), vector(top)))))

        return wiped
    other = drawn_look(state, setting.site, setting.building, shot.look)

    def at(share: float) -> Moment:
        return Moment(plain, Dissolve(other, pace(share)))

    return at


def _lines(shot: LinesFirst, state: StageState, setting: Setting) -> Move:
    whole = drawn_look(state, setting.site, setting.building)
    dark = {"shade": False, "shadows": 0.0, "reflections": 0.0, "lamps": "off"}
    lined = seen(state, look=quick_lines(state.look), divide=None)
    toned = seen(state, look=state.look.model_copy(update=dark), divide=None)

    def at(share: float) -> Moment:
        if share < LINED:
            return Moment(lined, lines=share / LINED)
        if share < TONED:
            coming = eased((share - LINED) / (TONED - LINED))
            return Moment(toned, before=Moment(lined, lines=1.0), faint=1.0 - coming)
        return Moment(toned, Dissolve(whole, eased((share - TONED) / (1.0 - TONED))))

    return at


def _goes(shot: Way, state: StageState, setting: Setting) -> Move:
    cut_open = kept_of(setting.cutter, state)
    way = eye_way(shot, cut_open)
    plain = {"projection": "perspective", "shear": (0.0, 0.0), "shift": (0.0, 0.0)}
    camera = state.camera.model_copy(update=plain if shot.flying else {**plain, "field": WITHIN})
    pace = _pace(shot)

    def at(share: float) -> Moment:
        eye, target = way.at(pace(share))
        return Moment(seen(state, camera=camera.placed(eye, target, (0.0, 0.0, 1.0)), crop=None))

    return at


def _stands(shot: Any, state: StageState, setting: Setting) -> Move:
    return lambda share: Moment(state)


MOVES: dict[str, Callable[[Any, StageState, Setting], Move]] = {
    "card": _stands,
    "hold": _stands,
    "rise": _rise,
    "sweep": _sweep,
    "peel": _peel,
    "turn": _turn,
    "explode": _explode,
    "way": _goes,
    "day": _day,
    "lines": _lines,
    "look": _look,
}
