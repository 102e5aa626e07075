"""A way of the eye drawn in the key plan, place by place."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.app.key_drawings.tasks import PlanTask
from anatome.problems import Problem

Array = NDArray[np.float64]


@dataclass
class EyePath(PlanTask):
    """Any number of places; Return or a double click ends it, and ``done`` is told them, (n, 2) metres."""

    name: str = "eye_path"
    hint: str = "Click where the way goes, place by place; Return or a double click ends it  ·  Ctrl: not at corners and axes"
    done: Callable[[Array], None] = lambda places: None

    def press(self, at: Array, shift: bool) -> bool:
        at = self._kept(at, shift)
        if not self.points or np.hypot(*(at - self.points[-1])) > 1e-3:
            self.points.append(at)
        return False

    def finish(self) -> bool:
        if len(self.points) < 2:
            raise Problem("A way has two places at least. Click one more.")
        self.done(np.array(self.points))
        return True

    def lines(self) -> list[Array]:
        here = [] if self.here is None else [self.here]
        return [np.array([*self.points, *here])] if self.points else []
