"""Drawing a line on the stage along which parts are moved: bend after bend, each along an axis of the building."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from anatome.app.base import units
from anatome.app.stage.tasks import NOTHING_HERE, Measure, Pointer, Preview, StageTask
from anatome.cuts.moves import places_through
from anatome.cuts.plane import Vector, vector
from anatome.problems import Problem
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
STEP = 0.1
"""Metres to which a leg is rounded, in the units the window speaks."""
ALONG = 40.0
"""Pixels a unit along an axis is drawn, to see which way it runs on the screen."""
SHORTEST = 8.0
"""Pixels under which an axis is seen end on, and cannot be drawn along."""


@dataclass
class DrawPath(StageTask):
    """A click where the line begins, further ones where it bends and ends; ``done`` is told its places, from its beginning."""

    name: str = "draw_path"
    done: Callable[[tuple[Vector, ...]], None] = lambda path: None
    what: str = "the parts"
    places: list[Array] = field(default_factory=list)

    def __post_init__(self) -> None:
        self._say()

    def _say(self) -> None:
        if not self.places:
            self.hint, self.also = f"Click where the line begins along which {self.what} go", "Esc stops"
        else:
            self.hint = "Click where it goes" if len(self.places) == 1 else "Click where it bends, or the last place again"
            self.also = "Along the building or upright; Shift: level, any way  ·  Return ends it  ·  Esc stops"

    def shown(self) -> Preview | None:
        """What is drawn stands where the building is shown, whatever piece the pointer is over."""
        return self.preview

    def see(self, pointer: Pointer) -> None:
        super().see(pointer)
        self.why = NOTHING_HERE if pointer.found is None and not self.places else ""

    def _next(self, pointer: Pointer) -> Array | None:
        """Where a click here would go on: (3,) metres; None where there is nothing to set out from."""
        viewport = pointer.viewport.at_home_of(None)
        if not self.places:
            if pointer.found is None:
                return None
            here = np.array(pointer.found[0].point)
            return here if pointer.move is None else places_through(np.array(pointer.move), here)
        last = self.places[-1]
        if pointer.shift:
            origin, ray = viewport.ray(*pointer.at)
            return None if abs(ray[2]) < 1e-9 else np.asarray(origin + ray * float((last[2] - origin[2]) / ray[2]))
        return along_an_axis(viewport, last, np.array(pointer.at), self.session.lookups.directions()[0])

    def hover(self, pointer: Pointer) -> None:
        spot = self._next(pointer)
        places = self.places if spot is None else [*self.places, spot]
        legs = tuple(Measure(a, b, units.length(float(np.linalg.norm(b - a)), 2)) for a, b in zip(places, places[1:]))
        self.preview = Preview(dots=tuple(places), measures=legs)

    def click(self, pointer: Pointer) -> bool:
        spot = self._next(pointer)
        if spot is None:
            raise Problem("There is nothing under the pointer. Click a place on the building.")
        if self.places and float(np.linalg.norm(spot - self.places[-1])) < STEP / 2:
            self.finish()
            return True
        self.places.append(spot)
        self._say()
        self.hover(pointer)
        return False

    def finish(self) -> None:
        """Hand on what was drawn."""
        if len(self.places) > 1:
            places, self.places = np.array(self.places), []
            self.done(tuple(vector(place) for place in places[1:] - places[0]))


def along_an_axis(viewport: Viewport, last: Array, at: Array, degrees: float) -> Array | None:
    """Return (3,) metres on the axis through a place, level as the building runs or upright, that a pixel lies nearest to."""
    way = np.radians(degrees)
    axes = np.array([[np.cos(way), np.sin(way), 0.0], [-np.sin(way), np.cos(way), 0.0], [0.0, 0.0, 1.0]])
    foot, unit = viewport.pixels(last), ALONG * viewport.metres_per_pixel(last)
    arm = at - foot
    best: tuple[float, Array] | None = None
    for axis in axes:
        run = viewport.pixels(last + axis * unit) - foot
        size = float(np.hypot(*run))
        if size < SHORTEST:
            continue
        off = abs(float(run[0] * arm[1] - run[1] * arm[0])) / size
        if best is None or off < best[0]:
            best = off, axis
    if best is None:
        return None
    # The place on the axis that is nearest to the line of sight.
    origin, ray = viewport.ray(*at)
    axis, between = best[1], last - origin
    slope = float(axis @ ray)
    length = (slope * float(ray @ between) - float(axis @ between)) / max(1.0 - slope * slope, 1e-12)
    step = units.nudge(STEP)
    return np.asarray(last + axis * round(length / step) * step)
