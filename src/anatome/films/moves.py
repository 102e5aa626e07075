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
from anatome.cuts.plane import Plane, vector
from anatome.cuts.reach import EVERYTHING, Reach
from anatome.look.divide import Dissolve
from anatome.model.building import Building
from anatome.model.kinds import CONTEXT_TYPES
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes.film import AnyShot, Day, Explode, LookShot, Rise, Sweep, TurnAbout
from anatome.scenes.look_edits import drawn_look
from anatome.scenes.opened import opened
from anatome.scenes.project import Scene, StageState
from anatome.scenes.transition import eased
from anatome.site.site import Site
from anatome.site.sunlight import place_of
from anatome.view.viewport import Frame

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
YEAR = 2024
SUN_SHADOWS = 0.35
"""How strong shadows are in a day whose look has none."""


@dataclass(frozen=True, eq=False)
class Moment:
    """What a film shows at a time: a ``state`` through a ``frame``, perhaps under way to another look by a ``dissolve``; of a
    ``scene`` that stands still that itself, with what is written on it."""

    state: StageState
    dissolve: Dissolve | None = None
    frame: Frame = WHOLE
    scene: Scene | None = None

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
    heights = rise_heights(shot, state, setting)

    def at(share: float) -> Moment:
        step = min(int(share * (len(heights) - 1)), len(heights) - 2)
        own = eased(share * (len(heights) - 1) - step)
        height = heights[step] + own * (heights[step + 1] - heights[step])
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

    def at(share: float) -> Moment:
        return Moment(_with_cut(state, Plane(vector(middle + normal * reach * (1.0 - 2.0 * eased(share))), vector(normal))))

    return at


def _turn(shot: TurnAbout, state: StageState, setting: Setting) -> Move:
    pivot = setting.bounds(state).mean(axis=0)
    whole = abs(shot.degrees) % 360.0 == 0.0  # it goes on as it began, so that it can be seen again and again

    def at(share: float) -> Moment:
        way = share if whole else eased(share)
        return Moment(seen(state, camera=state.camera.orbited(shot.degrees * way, 0.0, pivot)))

    return at


def _explode(shot: Explode, state: StageState, setting: Setting) -> Move:
    wide = state
    if not state.is_apart:
        shown = shown_elements(setting.building, state.hidden)
        groups = by_storeys(setting.building, shown, storey_gap(setting.building))
        if not groups:
            raise Problem("There is nothing to draw apart: the parts that are shown stand in one storey, or in none.")
        wide = state.model_copy(update={"exploded": Exploded(groups=groups), "opening": 1.0})
        corners = opened(setting.cutter, wide).left_corners(setting.building.subject(shown))
        wide = wide.model_copy(update={"camera": state.camera.fitted_round(corners, setting.aspect)})

    def at(share: float) -> Moment:
        way = eased(1.0 - share if shot.together else share)
        return Moment(seen(wide, opening=wide.opening * way))

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
    other = drawn_look(state, setting.site, setting.building, shot.look)
    plain = seen(state, divide=None)

    def at(share: float) -> Moment:
        return Moment(plain, Dissolve(other, eased(share)))

    return at


def _stands(shot: Any, state: StageState, setting: Setting) -> Move:
    return lambda share: Moment(state)


MOVES: dict[str, Callable[[Any, StageState, Setting], Move]] = {
    "hold": _stands,
    "rise": _rise,
    "sweep": _sweep,
    "turn": _turn,
    "explode": _explode,
    "day": _day,
    "look": _look,
}
