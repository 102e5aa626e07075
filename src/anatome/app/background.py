"""Work off the window's thread: what takes longer than a moment runs here, with progress and cancel, and tells how it ended."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Qt, Signal

from anatome.problems import Problem


class Told:
    """What work is handed: it is told the share done, and says whether anybody still wants the rest."""

    def __init__(self, tell: Callable[[float], None]) -> None:
        self._tell = tell
        self._lock = threading.Lock()
        self._cancelled = self._kept = False

    def __call__(self, share: float) -> bool:
        self._tell(share)
        return not self._cancelled

    @property
    def cancelled(self) -> bool:
        return self._cancelled

    def keep(self) -> bool:
        """From here on it is done to the end, and can no longer be cancelled; False when it was cancelled before."""
        with self._lock:
            self._kept = not self._cancelled
            return self._kept

    def cancel(self) -> bool:
        """Want no more of it; False when it is too late for that."""
        with self._lock:
            self._cancelled = not self._kept
            return self._cancelled


class Task(QObject):
    """One piece of work on a thread of its own. ``done`` and ``failed`` are called on the window's thread, never after a cancel
    or when the ``parent`` is gone.

    The work must touch nothing of Qt.
    """

    _over = Signal(object, object)
    _share = Signal(float)
    progressed = Signal(float)

    def __init__(
        self,
        work: Callable[[Told], Any],
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
        parent: QObject | None = None,
    ) -> None:
        # Not a child of the parent: that may go while the thread still tells how far it is.
        super().__init__()
        self._work, self._done, self._failed = work, done, failed
        self._told = Told(self._share.emit)
        self._heard = True
        # From the thread, and passed on only while somebody listens.
        self._share.connect(self._pass_on, Qt.ConnectionType.QueuedConnection)
        # By way of the event loop, so that it arrives on the thread this object lives on.
        self._over.connect(self._deliver, Qt.ConnectionType.QueuedConnection)
        RUNNING.add(self)
        if parent is not None:
            # When whoever asked for it is gone, nobody wants the rest.
            parent.destroyed.connect(self._leave)
        self._thread = threading.Thread(target=self._run, name="task", daemon=True)
        self._thread.start()

    def cancel(self) -> bool:
        """Give it up; it ends when it next tells how far it is, and is heard of no more. False when it keeps what it made."""
        return self._told.cancel()

    def _leave(self) -> None:
        self._told.cancel()
        self._heard = False

    def _pass_on(self, share: float) -> None:
        if self._heard and not self._told.cancelled:
            self.progressed.emit(share)

    def _run(self) -> None:
        result: Any = None
        error: Exception | None = None
        try:
            result = self._work(self._told)
        except Exception as problem:
            error = problem
        try:
            self._over.emit(result, error)
        except RuntimeError:
            pass  # the application is gone, and with it whoever wanted this

    def _deliver(self, result: Any, error: Exception | None) -> None:
        self._thread.join()  # it is about to end, and must not be in the midst of telling so when this object goes
        RUNNING.discard(self)
        done, failed = self._done, self._failed
        # What the work held on to, a building perhaps, is let go of now and not when the window closes.
        self._work = self._done = self._failed = _nothing
        self.deleteLater()
        if self._told.cancelled or not self._heard:
            return
        if error is None:
            done(result)
        else:
            failed(error)


def _nothing(*_: Any) -> None:
    """In place of what is over."""


RUNNING: set[Task] = set()
"""Tasks under way; they live until they are over, whoever else holds them."""


def in_words(error: Exception) -> str:
    """What went wrong, for the person at the screen."""
    return str(error) if isinstance(error, Problem) else f"Something went wrong: {type(error).__name__}: {error}"
