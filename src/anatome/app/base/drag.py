"""A press under way on a canvas: what it took hold of says what becomes of it while the pointer moves, when it is let go, and on
Escape. Stage, key drawings and sheets each have kinds of their own."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QMouseEvent

Spot = tuple[float, float]
"""Pixels of a canvas, to the right and down."""
CLICK = 4.0
"""Pixels a press may wander and still be a click."""


class Drag:
    """A press that began at ``start``. Where ``clicks`` is true, one that does not move is a click."""

    clicks = True

    def __init__(self, start: Spot) -> None:
        self.start, self.moved = start, False

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        """The pointer is there now."""

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        """It was let go there."""

    def cancel(self) -> bool:
        """Have everything as it was; False where there is nothing to take back."""
        return False

    def away(self, now: Spot) -> Spot:
        """Pixels to the right and down from where it began."""
        return now[0] - self.start[0], now[1] - self.start[1]


Hold = Callable[[QMouseEvent], Drag | None]
"""What a press may take hold of, if it is there: the drag of it, else nothing."""


class Pressing:
    """The drag under way on one canvas, if any. ``holds`` are asked in their order what a press takes hold of."""

    def __init__(self, holds: Iterable[Hold]) -> None:
        self._holds = tuple(holds)
        self.drag: Drag | None = None

    def press(self, event: QMouseEvent) -> None:
        """Take hold of the first that is there."""
        self.drag = next((drag for hold in self._holds if (drag := hold(event)) is not None), None)

    def move(self, event: QMouseEvent) -> None:
        """Take it along, once it was moved farther than a click may wander."""
        drag, now = self.drag, spot(event.position())
        if drag is None:
            return
        dx, dy = drag.away(now)
        if drag.moved or dx * dx + dy * dy >= CLICK * CLICK:
            drag.moved = True
            drag.move(now, event.modifiers())

    def release(self, event: QMouseEvent) -> Drag | None:
        """Let go. Return the drag if it was a click, which is for others to follow."""
        drag, self.drag = self.drag, None
        if drag is None or (drag.clicks and not drag.moved):
            return drag
        drag.end(spot(event.position()), event.modifiers())
        return None

    def cancel(self) -> bool:
        """Take back what is under way; False where nothing is, or nothing can be taken back."""
        if self.drag is None or not self.drag.cancel():
            return False
        self.drag = None
        return True


def spot(at: QPointF) -> Spot:
    """Return a place as pixels."""
    return at.x(), at.y()


def held_down(event: QMouseEvent, key: Qt.KeyboardModifier) -> bool:
    """Return whether a key such as Shift is held down with the mouse."""
    return bool(event.modifiers() & key)
