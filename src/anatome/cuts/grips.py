"""Cuts as they are pulled, turned, typed and snapped, the same on the stage, in the key drawings and by numbers.

A grip has a name that the cut knows. ``turn`` and ``tilt`` are not grips but are understood wherever a name is: they turn the cut
about the vertical, and about its own level axis. A cut that is locked stays as it is.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut
from anatome.cuts.snapping import Stop, nearest_stop

Array = NDArray[np.float64]


def pulled(cut: AnyCut, name: str, by: Array) -> AnyCut:
    """Pull one grip by (3,) metres; what does not lie along the grip's direction is passed over."""
    return cut if cut.locked else cut.pulled(name, by)


def turned(cut: AnyCut, about: Array, degrees: float) -> AnyCut:
    """Turn it about the vertical through a (3,) point, a cut with an inside about its own."""
    return cut if cut.locked else cut.turned(about, degrees)


def tilted(cut: AnyCut, about: Array, axis: Array, degrees: float) -> AnyCut:
    """Turn it about a level (3,) unit axis through a (3,) point."""
    return cut if cut.locked else cut.tilted(about, axis, degrees)


def rounded_tilt(wanted: float, slopes: Sequence[float], step: float | None = None, within: float = 2.0) -> tuple[float, str]:
    """Find (the tilt nearest to one that is wanted, what it is), all in degrees: upright, level, along or square to a roof of one
    of the ``slopes``, if it comes ``within`` so many; with a ``step`` always, the multiples of that among them."""
    known = [(0.0, "upright"), (90.0, "level"), (-90.0, "level")]
    for slope in slopes:
        known += [(sign * (90.0 - slope), "along the roof") for sign in (1.0, -1.0)]
        known += [(sign * slope, "square to the roof") for sign in (1.0, -1.0)]
    if step is not None:
        known.append((round(wanted / step) * step, ""))
    best, what = min(known, key=lambda one: abs(one[0] - wanted))
    return (best, what) if step is not None or abs(best - wanted) <= within else (wanted, "")


def with_value(cut: AnyCut, name: str, wanted: float, about: Array) -> AnyCut:
    """Give a grip or a field another number; turned about a (3,) point where it is an angle."""
    return cut if cut.locked else cut.with_value(name, wanted, about)


def nudged(cut: AnyCut, right: float, forward: float, up: float) -> AnyCut:
    """Move it by metres as keys say: ``forward`` to where it looks, or along its own axes."""
    return cut if cut.locked else cut.moved(cut.nudge(right, forward, up))


def snapped(cut: AnyCut, name: str, stops: Sequence[Stop], within: float) -> tuple[AnyCut, Stop | None]:
    """Put the grip at the nearest stop, if there is one within metres; ``stops`` are along its moving plane."""
    plane = cut.moving_plane(name)
    if plane is None:
        return cut, None
    stop = nearest_stop(list(stops), plane.offset, within)
    if stop is None:
        return cut, None
    return pulled(cut, name, plane.n * (stop.offset - plane.offset)), stop


def rounded_turn(cut: AnyCut, swing: float, directions: Sequence[float], step: float = 15.0) -> float:
    """Find the degrees to turn by so that the cut lies in steps of ``step`` or in one of the model's own directions."""
    wanted = cut.heading + swing
    candidates = [round(wanted / step) * step]
    candidates += [d + 90.0 * round((wanted - d) / 90.0) for d in directions]
    best = min(candidates, key=lambda c: abs(c - wanted))
    return best - cut.heading


def drawn_direction(a: Array, b: Array, directions: Sequence[float], step: float = 15.0) -> Array:
    """Return (2,) the end of a line from ``a`` towards ``b`` kept to steps of 15° or to the model's own directions."""
    arm = b - a
    angle = math.degrees(math.atan2(arm[1], arm[0]))
    candidates = [round(angle / step) * step]
    candidates += [d + 90.0 * round((angle - d) / 90.0) for d in directions]
    best = math.radians(min(candidates, key=lambda c: abs(c - angle)))
    unit = np.array([math.cos(best), math.sin(best)])
    return np.asarray(a + unit * float(arm @ unit))
