"""Moving, turning and sizing what lies on a face, a hatch or a pattern, by dragging it there."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt

from anatome.app.base.drag import Drag, Spot
from anatome.app.stage.tasks import Measure, Pointer, Preview, StageTask
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
NEAR, ARM = 12.0, 84.0
"""Pixels within which a handle is taken hold of, and from the one that moves to the one that turns and sizes."""
STEP, SNAP = 15.0, 1.5
"""Degrees a turn is drawn to, and from how near."""
MERGE = "place laid"


class OnFace(Protocol):
    """What lies on a face, where it lies now."""

    @property
    def viewport(self) -> Viewport:
        """How the face is seen."""

    @property
    def words(self) -> str:
        """Its angle and its size."""

    @property
    def angle(self) -> float:
        """Degrees by which a rule turns it."""

    @property
    def grip(self) -> Array:
        """(2,) the place of the face it is moved by."""

    @property
    def way(self) -> Array:
        """(2,) the unit direction of the face along which it lies."""

    def raised(self, at: Array) -> Array:
        """Return (..., 3) places of the face in space."""

    def under(self, at: Spot) -> Array:
        """Return (2,) the place of the face under a pixel."""

    def holds(self, at: Spot) -> bool:
        """Return whether a press there is on it."""

    def said(self, grip: Array, turn: float, times: float, now: Array) -> dict[str, object]:
        """Return what a rule says of it, turned and sized, with what lies at a place of the face moved to another."""


@dataclass
class PlaceLaid(StageTask):
    """The disc, or the face itself, moves it; the far end of the line turns and sizes it. ``lies`` gives it where it lies now,
    ``change`` is told what a rule says of it then."""

    lies: Callable[[], OnFace | None] = lambda: None
    change: Callable[[dict[str, object], str], None] = lambda said, merge: None
    what: str = "hatch"

    def __post_init__(self) -> None:
        self.hint = f"Drag the {self.what} to move it, the end of its line to turn and size it"
        self.also = "Shift: turns alone  ·  Ctrl: sizes alone  ·  Return or Esc ends"

    def shown(self) -> Preview | None:
        found = self.lies()
        if found is None:
            return None
        a, b = found.raised(ends_of(found))
        return Preview(dots=(a, b), measures=(Measure(a, b, found.words),), move=found.viewport.move)

    def hold(self, at: Spot, viewport: Viewport) -> Drag | None:
        """What a press there takes hold of."""
        found = self.lies()
        if found is None:
            return None
        grip, end = found.viewport.pixels(found.raised(ends_of(found))) - np.array(at)
        if float(np.hypot(*end)) <= NEAR:
            return Pull(at, self, found, turns=True)
        return Pull(at, self, found, turns=False) if float(np.hypot(*grip)) <= NEAR or found.holds(at) else None

    def click(self, pointer: Pointer) -> bool:
        return False


def ends_of(found: OnFace) -> Array:
    """Return (2, 2) the places of the face it is moved by, and turned and sized by."""
    grip = found.grip
    return np.stack([grip, grip + ARM * found.viewport.metres_per_pixel(found.raised(grip)) * found.way])


class Pull(Drag):
    """What lies there as it was when it was taken hold of."""

    clicks = False

    def __init__(self, start: Spot, task: PlaceLaid, found: OnFace, turns: bool) -> None:
        super().__init__(start)
        self._task, self._found, self._turns = task, found, turns
        self._grip = found.grip if turns else found.under(start)

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        turn, times, to = 0.0, 1.0, self._found.under(now)
        if self._turns:
            turn, times, to = *self._turn(now, modifiers), self._grip
        self._task.change(self._found.said(self._grip, turn, times, to), MERGE)

    def _turn(self, now: Spot, modifiers: Qt.KeyboardModifier) -> tuple[float, float]:
        """(degrees, how many times as large)."""
        first, second = (self._found.under(at) - self._grip for at in (self.start, now))
        turn = math.degrees(math.atan2(second[1], second[0]) - math.atan2(first[1], first[0]))
        times = min(max(float(np.hypot(*second)) / max(float(np.hypot(*first)), 1e-9), 0.02), 50.0)
        near = STEP * round((self._found.angle + turn) / STEP) - self._found.angle
        turn = near if abs(near - turn) < SNAP else turn
        if modifiers & Qt.KeyboardModifier.ControlModifier:
            turn = 0.0
        return turn, 1.0 if modifiers & Qt.KeyboardModifier.ShiftModifier else times

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._task.session.end_step()

    def cancel(self) -> bool:
        self._task.session.cancel_step(MERGE)
        return True


def within_turn(degrees: float) -> float:
    """Return an angle from −180 up to 180."""
    return (degrees + 180.0) % 360.0 - 180.0
