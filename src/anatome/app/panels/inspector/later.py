"""Sections whose content is made when somebody first wants it: most of what an inspector could show is never looked at, and every
widget that is there costs time when the window comes up and when its theme changes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, Protocol, TypeVar

from PySide6.QtCore import Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Fold


class Box(Protocol):
    """A widget that shows something of the session."""

    def refresh(self) -> object:
        """Show it as it is now."""


B = TypeVar("B", bound=Box)


class LaterFold(Fold, Generic[B]):
    """A section, folded at first. ``make`` gives what it holds, once it is seen unfolded or asked for; ``grown`` tells so."""

    grown = Signal()

    def __init__(self, session: Session, title: str, make: Callable[[], B], tip: str = "") -> None:
        super().__init__(title, tip)
        self._session, self._make = session, make
        self._made: B | None = None

    @property
    def box(self) -> B:
        """What it holds, made now if it is not there yet."""
        return self.fill() if self._made is None else self._made

    def fill(self) -> B:
        """Make what it holds, and show it as things are now."""
        made = self._made = self._make()
        assert isinstance(made, QWidget)
        self.column.addWidget(made)
        if self._session.is_open:
            made.refresh()
        self.grown.emit()
        return made

    @property
    def is_made(self) -> bool:
        """Whether what it holds is there."""
        return self._made is not None

    def refresh(self) -> None:
        """Show what it holds as it is now; nothing where it is not there yet."""
        if self._made is not None:
            self._made.refresh()

    def _show(self, on: bool) -> None:
        if on and self.isVisible() and not self.is_made:
            self.fill()
        super()._show(on)

    def showEvent(self, event: QShowEvent) -> None:
        if self.open and not self.is_made:
            self.fill()
        super().showEvent(event)


def later(layout: QVBoxLayout, session: Session, title: str, make: Callable[[], B], tip: str = "") -> LaterFold[B]:
    """Return a section at the end of a page whose content is made when it is first wanted."""
    fold = LaterFold(session, title, make, tip)
    layout.addWidget(fold)
    return fold


def make_next(holder: QWidget) -> bool:
    """Make what the next section in a widget holds, if one is left whose content is not there yet; return whether there was."""
    left = next((fold for fold in holder.findChildren(LaterFold) if not fold.is_made), None)
    if left is not None:
        left.fill()
    return left is not None
