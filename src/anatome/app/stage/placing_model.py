"""Placing a model by its points: a corner of it, and where that should be; a second pair turns it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from anatome.app.document.session import Session
from anatome.app.stage.measuring import point_under
from anatome.app.stage.tasks import NOTHING_HERE, Measure, Pointer, Preview, StageTask
from anatome.problems import Problem

Array = NDArray[np.float64]
LEAST = 0.01
"""Metres apart, seen from above, that two points have to be to say a direction."""


class PlaceModel(StageTask):
    """Told to ``placed``: pairs of a point of the model and where it should be. Ids of its parts begin with ``own``."""

    needs = NOTHING_HERE

    def __init__(self, session: Session, model: str, own: str, placed: Callable[[list[tuple[Array, Array]]], None]) -> None:
        super().__init__(session, name="place_model")
        self._model, self._own, self._placed = model, own, placed
        self._points: list[Array] = []
        self._say()

    def _say(self) -> None:
        said = (
            f"Click a corner of {self._model}",
            "Click where that corner should be",
            f"Return places it; or click another corner of {self._model}, to turn it as well",
            "Click where that one should be",
        )
        self.hint = said[len(self._points)]
        self.also = "Return places it  ·  Esc stops" if len(self._points) == 2 else "Esc stops"

    def _wanted(self, pointer: Pointer) -> Array | None:
        """The point the pointer means; None over nothing, and where a corner of the model is asked for over anything else."""
        found, building = point_under(self.session, pointer), self.session.building
        if found is None or pointer.found is None or building is None:
            return None
        is_own = building.elements[pointer.found[0].element].id.startswith(self._own)
        return found.place if is_own or len(self._points) % 2 else None

    def hover(self, pointer: Pointer) -> None:
        here = self._wanted(pointer)
        if here is None:
            self.why = f"This is no part of {self._model}" if pointer.found is not None else NOTHING_HERE
        at = [*self._points, *([] if here is None else [here])]
        ways = tuple(Measure(a, b, "") for a, b in zip(at[::2], at[1::2]))
        self.preview = Preview(dots=tuple(at), measures=ways)

    def click(self, pointer: Pointer) -> bool:
        here = self._wanted(pointer)
        if here is None:
            raise Problem(self.why or f"Click a corner of {self._model}.")
        self._points.append(here)
        if len(self._points) == 4:
            return self._done()
        self._say()
        return False

    def finish(self) -> None:
        if len(self._points) >= 2:
            self._points = self._points[:2]
            self._done()

    def _done(self) -> bool:
        pairs = list(zip(self._points[::2], self._points[1::2], strict=True))
        if len(pairs) == 2:
            for first, second in zip(*pairs, strict=True):
                if float(np.hypot(*(second - first)[:2])) < LEAST:
                    self._points = self._points[:2]
                    self._say()
                    raise Problem("These two corners lie over one another. Click another pair, or press Return to place it.")
        self._placed(pairs)
        return True
