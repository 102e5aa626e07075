"""What is looked up of a building once, off the window's thread where it takes longer than a moment."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from anatome.app.base.work import begin_thread
from anatome.cuts.directions import own_directions, roof_slopes
from anatome.cuts.dissection import CutBuilding
from anatome.cuts.memory import Memory
from anatome.cuts.plan_points import PlanPoints
from anatome.cuts.plane import Plane
from anatome.cuts.poche_rules import PocheRules
from anatome.cuts.series import SerialSections, SeriesResult, cut_series
from anatome.cuts.snapping import Stop, stops_along
from anatome.model.building import Building

PATIENCE = 0.012
"""Seconds the window waits for what it asks; what takes longer is known the next time it asks."""


class Lookups:
    """Of one building; only to be asked while there is one. ``memory`` is for whoever looks up something else of it."""

    def __init__(self, building: Building | None) -> None:
        self._of = building
        self.memory = Memory()
        self._under_way: set[object] = set()

    @property
    def _building(self) -> Building:
        assert self._of is not None
        return self._of

    def _soon(self, key: object, work: Callable[[], Any], meanwhile: Any) -> Any:
        """What ``work`` makes, remembered; if it takes longer than a moment ``meanwhile``, and the next time that is asked."""
        known = self.memory.known(key)
        if known is not None:
            return known
        if key not in self._under_way:
            memory, under_way, over = self.memory, self._under_way, threading.Event()
            under_way.add(key)

            def run() -> None:
                try:
                    memory.remember(key, work)
                finally:
                    under_way.discard(key)
                    over.set()

            begin_thread("looking up", run)
            over.wait(PATIENCE)
            known = self.memory.known(key)
        return meanwhile if known is None else known

    def stops(self, plane: Plane, shown: NDArray[np.bool_]) -> list[Stop]:
        """Return where a plane that is moved along its normal likes to stop, in view of the parts of an (E,) mask."""
        key, building = ("stops", tuple(np.round(plane.normal, 9)), shown.tobytes()), self._building
        return list(self._soon(key, lambda: stops_along(building, plane.n, shown), ()))

    def plan_points(self, cut_open: CutBuilding) -> PlanPoints | None:
        """Return what a drawing of a level cut may be snapped to, as soon as it is known."""
        found = self._soon(("plan points", cut_open), lambda: PlanPoints.of(cut_open), None)
        return found if isinstance(found, PlanPoints) else None

    def directions(self) -> list[float]:
        """Degrees in [0, 90) in which the walls of the building run."""
        building = self._building
        return list(self._soon("directions", lambda: own_directions(building), (0.0,)))

    def slopes(self) -> list[float]:
        """Degrees from level of the slopes of the building's roofs."""
        building = self._building
        return list(self._soon("slopes", lambda: roof_slopes(building, ~building.context), ()))

    def series_work(self, series: SerialSections, shown: NDArray[np.bool_], rules: PocheRules) -> Callable[[], SeriesResult]:
        """Return what works out areas and volume of a series through the parts of an (E,) mask, once; it may run on another
        thread."""
        building, memory = self._building, self.memory
        elements = shown & series.reach.mask(building)
        key = ("series", series.plane, series.offsets, elements.tobytes(), rules)
        return lambda: memory.remember(key, lambda: cut_series(building, series.planes(), elements, rules))
