"""Which of a project's sheets or films is open. Opening one is no step to undo."""

from __future__ import annotations

from abc import abstractmethod
from typing import Generic, TypeVar

from PySide6.QtCore import QObject, Signal

from anatome.app.document.session import Session
from anatome.values import HasId

T = TypeVar("T", bound=HasId)


class OpenOne(QObject, Generic[T]):
    """``changed``: another one is open, or none."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._open: str | None = None
        self._last: str | None = None
        for signal in (session.opened, session.closed):
            signal.connect(self.close)
        session.changed.connect(self._follow)

    @abstractmethod
    def _all(self) -> tuple[T, ...]:
        """Those of the project."""

    def _follow(self) -> None:
        """One that is gone is no longer open."""
        if self._open is not None and self.opened is None:
            self.close()

    @property
    def opened(self) -> T | None:
        """The one that is open."""
        return next((one for one in self._all() if one.id == self._open), None) if self._session.is_open else None

    def open(self, one_id: str) -> None:
        """Open one, and pick nothing of it."""
        if one_id != self._open:
            self._open = self._last = one_id
            self._session.pick()
            self.changed.emit()

    def open_last(self) -> None:
        """The one that was open last, or the first."""
        ids = [one.id for one in self._all()]
        if ids:
            self.open(self._last if self._last in ids else ids[0])

    def close(self) -> None:
        """Have none open."""
        if self._open is not None:
            self._open = None
            self._session.pick()
            self.changed.emit()
