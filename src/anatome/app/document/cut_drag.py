"""One drag of one cut, wherever it is held: on the stage or in a key drawing."""

from __future__ import annotations

from itertools import count

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Qt

from anatome.app.document.session import Session
from anatome.cuts.cut import AnyCut
from anatome.cuts.grips import pulled, rounded_tilt, rounded_turn, snapped, tilted, turned, with_value
from anatome.scenes import edits

SNAP_METRES = 0.3
"""Metres within which a dragged cut jumps to a stop at most, however many pixels that are."""
_numbers = count(1)


class CutDrag:
    """Everything is worked out from the cut as it was when the drag began; the whole drag is one step to undo."""

    def __init__(self, session: Session, cut: AnyCut, grip: str) -> None:
        self._session, self.cut, self.grip = session, cut, grip
        self._merge = f"drag {next(_numbers)}"
        self.stop = ""
        """What the cut has stopped at."""

    @property
    def turns(self) -> bool:
        """Whether it is held at what turns it."""
        return self.grip in ("turn", "tilt")

    def turn(self, about: NDArray[np.float64], swing: float, modifiers: Qt.KeyboardModifier) -> None:
        """Turn it by degrees about (3,) a place; with Shift in steps and to the building's own directions."""
        if modifiers & Qt.KeyboardModifier.ShiftModifier:
            swing = rounded_turn(self.cut, swing, self._session.lookups.directions())
        self._apply(turned(self.cut, about, swing), f"Turned {self.cut.name}")

    def tilt(self, about: NDArray[np.float64], axis: NDArray[np.float64], swing: float, modifiers: Qt.KeyboardModifier) -> None:
        """Turn it by degrees about a level (3,) axis through a place; it stops upright, level and at the slopes of roofs unless
        Ctrl is held, with Shift in steps too."""
        changed = tilted(self.cut, about, axis, swing)
        self.stop = ""
        if not modifiers & Qt.KeyboardModifier.ControlModifier:
            step = 15.0 if modifiers & Qt.KeyboardModifier.ShiftModifier else None
            wanted, self.stop = rounded_tilt(changed.axis.tilt, self._session.lookups.slopes(), step)
            changed = with_value(changed, "tilt", wanted, about)
        self._apply(changed, f"Tilted {self.cut.name} to {changed.axis.tilt:.1f}°")

    def pull(self, by: NDArray[np.float64], within: float, modifiers: Qt.KeyboardModifier) -> None:
        """Pull the grip by (3,) metres; it stops at what comes ``within`` metres unless Ctrl is held."""
        changed = pulled(self.cut, self.grip, by)
        plane = changed.moving_plane(self.grip)
        self.stop = ""
        if plane is not None and not modifiers & Qt.KeyboardModifier.ControlModifier:
            changed, stop = snapped(
                changed, self.grip, self._session.lookups.stops(plane, self._session.shown()), min(within, SNAP_METRES)
            )
            self.stop = "" if stop is None else stop.what
        name = self.cut.name
        label = f"Moved {name}" if self.grip in ("move", "whole") else f"{name}: {self.cut.grip_words(self.grip)} moved"
        self._apply(changed, f"{label} to {self.stop}" if self.stop else label)

    def _apply(self, changed: AnyCut, label: str) -> None:
        if self._session.cut is not None:
            self._session.apply(edits.put_cut(self._session.project, changed), label, merge=self._merge)

    def end(self) -> None:
        """Let go."""
        self._session.end_step()

    def cancel(self) -> None:
        """As if it had not been begun."""
        self._session.cancel_step(self._merge)
