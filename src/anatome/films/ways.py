"""Ways of the eye through a building: walked over floors, stairs and through doors, or flown through places in the air."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import CutBuilding
from anatome.problems import Problem
from anatome.scenes.film import Way
from anatome.view.walking import EYE, JUST_OVER, STEP_DOWN, STEP_UP, floor_under, in_the_way

Array = NDArray[np.float64]

STEP = 0.1
"""Metres between places at which a way is known."""
ROUNDED = {True: 6.0, False: 0.8}
"""Metres over which corners of a flown and of a walked way are rounded."""
AHEAD = {True: 8.0, False: 2.0}
"""Metres ahead on the way of what the eye looks at."""
LEVELLED = 1.2
"""Metres over which the eye levels the steps of a stair."""
CLOSE = 1e-3
OVERLAP = 0.3
"""Share of a step by which the last one is looked at again."""


@dataclass(frozen=True, eq=False)
class EyeWay:
    """(n, 3) ``eyes`` at even distances along a way, and (n, 3) ``targets`` they look at, metres."""

    eyes: Array
    targets: Array

    def at(self, share: float) -> tuple[Array, Array]:
        """Return where the eye is at a share of the way, from 0 to 1, and what it looks at."""
        place = min(max(share, 0.0), 1.0) * (len(self.eyes) - 1)
        number = min(int(place), len(self.eyes) - 2)
        part = place - number
        eye, target = (a[number] + (a[number + 1] - a[number]) * part for a in (self.eyes, self.targets))
        return eye, target


def eye_way(shot: Way, left: CutBuilding) -> EyeWay:
    """Return the way of a shot through what cuts have ``left`` of a building. Raises Problem where it has no length, or where who
    walks it meets a wall or has no floor."""
    places = along(np.array(shot.path), STEP)
    if shot.flying:
        eyes = rounded(places, ROUNDED[True])
        _check_flight(eyes, left)
    else:
        level = rounded(places, ROUNDED[False])
        eyes = np.column_stack([level[:, :2], levelled(_floors(level, left) + EYE)])
    return EyeWay(eyes, _targets(eyes, shot))


def along(path: Array, step: float) -> Array:
    """Return (n, 3) places on a path of (m, 3) corners, ``step`` metres apart or less. Raises Problem without a length."""
    lengths = np.linalg.norm(np.diff(path, axis=0), axis=1)
    path = path[np.concatenate([[True], lengths > CLOSE])]
    reached = np.concatenate([[0.0], np.cumsum(lengths[lengths > CLOSE])])
    if len(path) < 2:
        raise Problem("A way of the eye has two places at least. Draw it anew in the key plan.")
    wanted = np.linspace(0.0, reached[-1], max(int(np.ceil(reached[-1] / step)), 1) + 1)
    return np.column_stack([np.interp(wanted, reached, path[:, axis]) for axis in range(3)])


def rounded(places: Array, width: float) -> Array:
    """Return the places with corners rounded: each is the mean of those within half a width on either side, of fewer towards the
    ends, which stay."""
    count = len(places)
    half = np.minimum(np.minimum(np.arange(count), np.arange(count)[::-1]), max(int(width / STEP / 2), 0))
    sums = np.concatenate([np.zeros((1, places.shape[1])), np.cumsum(places, axis=0)])
    numbers = np.arange(count)
    return np.asarray((sums[numbers + half + 1] - sums[numbers - half]) / (2 * half + 1)[:, None])


def levelled(heights: Array) -> Array:
    """Return heights (n,) along a way as an eye has them that does not bob with every step."""
    return rounded(heights[:, None], LEVELLED)[:, 0]


def _floors(places: Array, left: CutBuilding) -> Array:
    """(n,) the height of the floor at each place. Raises Problem."""
    met = in_the_way(left)
    feet = places[0, 2]
    found = []
    for number, place in enumerate(places):
        over = np.array([place[0], place[1], feet + STEP_UP + JUST_OVER])
        floor = floor_under(met, over)
        if floor is None or floor < feet - STEP_DOWN:
            raise Problem(f"There is no floor {_where(number)}. Draw the walk anew, round what is open.")
        if number:
            before = np.array([*places[number - 1][:2], feet + EYE])
            arm = np.array([place[0], place[1], floor + EYE]) - before
            # From a little before, so that a wall is met that begins exactly where the last step ended.
            free = met(before - arm * OVERLAP, arm / np.linalg.norm(arm))
            if free is not None and free < (1.0 + OVERLAP) * float(np.linalg.norm(arm)):
                raise Problem(f"The walk goes through a wall {_where(number - 1)}. Draw it anew, through the doors.")
        feet = floor
        found.append(floor)
    return np.array(found)


def _check_flight(eyes: Array, left: CutBuilding) -> None:
    """Raise Problem for a flight that goes through what stands there; through open doors it may."""
    met = in_the_way(left)
    for number, (before, after) in enumerate(pairwise(eyes)):
        arm = after - before
        length = float(np.linalg.norm(arm))
        free = met(before - arm * OVERLAP, arm / length) if length > CLOSE * STEP else None
        if free is not None and free < (1.0 + OVERLAP) * length:
            raise Problem(f"The flight goes through a part {_where(number)}. Draw it anew, or have it higher.")


def _where(number: int) -> str:
    return "where it begins" if number == 0 else f"after {number * STEP:.1f} m of it"


def _targets(eyes: Array, shot: Way) -> Array:
    """(n, 3) what each eye looks at: a place, or what lies ahead on the way; at its end straight on."""
    if shot.at is not None:
        return np.tile(np.array(shot.at), (len(eyes), 1))
    count = max(int(AHEAD[shot.flying] / STEP), 1)
    last = eyes[-1] - eyes[max(len(eyes) - 4, 0)]
    last = last / max(float(np.linalg.norm(last)), CLOSE)
    further = eyes[-1] + last * STEP * np.arange(1, count + 1)[:, None]
    targets = np.concatenate([eyes, further])[count:]
    if not shot.flying:
        targets[:, 2] = eyes[:, 2]  # one walks looking level
    return np.asarray(targets)
