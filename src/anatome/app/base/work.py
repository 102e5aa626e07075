"""Work off the window's thread. What takes longer than a moment runs here, for an owner, with progress and cancel.

Results of an owner that is gone, of something that is not open any more, or of work another took the place of, are dropped here
and nowhere else.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from typing import Any, Protocol

from PySide6.QtCore import QObject, Qt, Signal

from anatome.problems import Problem


class Progress:
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


class Cancellable(Protocol):
    """What is under way."""

    def cancel(self) -> bool:
        """Give it up; False when it is too late for that."""


class Work(QObject):
    """Runs what takes time for an ``owner``, one thing at a time: what is begun takes the place of what is under way.

    ``of`` says what results belong to, the building that is open for example: when they come and it is another thing by then,
    nobody hears of them. The work must touch nothing of Qt.
    """

    progressed = Signal(float)

    def __init__(self, owner: QObject, of: Callable[[], object] | None = None) -> None:
        super().__init__(owner)
        self._of = of
        self._runs: list[_Run] = []

    @property
    def busy(self) -> bool:
        """Whether anything is under way."""
        return bool(self._runs)

    def run(
        self,
        work: Callable[[Progress], Any],
        done: Callable[[Any], None],
        failed: Callable[[Exception], None],
        over: Callable[[], None] | None = None,
        beside: bool = False,
    ) -> None:
        """Begin it, in the place of what is under way or ``beside`` that. On the window's thread ``done`` or ``failed`` is
        called, and ``over`` before them, that however it ends."""
        if not beside:
            self.cancel()
        begun = None if self._of is None else self._of()

        def ended(run: _Run, result: Any, error: Exception | None) -> None:
            if run not in self._runs:
                return  # cancelled, or another took its place
            self._runs.remove(run)
            if over is not None:
                over()
            if self._of is not None and self._of() is not begun:
                return
            if error is None:
                done(result)
            else:
                failed(error)

        run = _Run(work, ended, over, self._progressed)
        # When whoever asked for it is gone, nobody wants the rest.
        self.destroyed.connect(run.leave)
        self._runs.append(run)
        run.begin()

    def cancel(self) -> bool:
        """Give up what is under way; it ends when it next tells how far it is, and is heard of no more. False when some of it
        keeps what it made, and is heard of."""
        for run in list(self._runs):
            if run.cancel():
                self._runs.remove(run)
                if run.over is not None:
                    run.over()
        return not self._runs

    def _progressed(self, run: _Run, share: float) -> None:
        if run in self._runs:
            self.progressed.emit(share)


class _Run(QObject):
    """One piece of work on a thread of its own; it lives until that is over, whoever else holds it."""

    _share = Signal(float)
    _over = Signal(object, object)

    def __init__(
        self,
        work: Callable[[Progress], Any],
        ended: Callable[[_Run, Any, Exception | None], None],
        over: Callable[[], None] | None,
        progressed: Callable[[_Run, float], None],
    ) -> None:
        super().__init__()
        self._work, self._ended, self.over, self._progressed = work, ended, over, progressed
        self._told = Progress(self._share.emit)
        self._heard = True
        self._share.connect(self._pass_on, Qt.ConnectionType.QueuedConnection)
        # By way of the event loop, so that it arrives on the thread this object lives on.
        self._over.connect(self._deliver, Qt.ConnectionType.QueuedConnection)
        self._thread: threading.Thread | None = None

    def begin(self) -> None:
        RUNNING.add(self)
        self._thread = begin_thread("work", self._run)

    def cancel(self) -> bool:
        return self._told.cancel()

    def leave(self) -> None:
        """Nobody is there any more to hear of it."""
        self._told.cancel()
        self._heard = False

    def _pass_on(self, share: float) -> None:
        if self._heard and not self._told.cancelled:
            self._progressed(self, share)

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
        assert self._thread is not None
        self._thread.join()  # it is about to end, and must not be in the midst of telling so when this object goes
        RUNNING.discard(self)
        ended = self._ended
        # What the work held on to, a building perhaps, is let go of now and not when the window closes.
        self._work = self._ended = self.over = self._progressed = _nothing
        self.deleteLater()
        if self._heard:
            ended(self, result, error)


def _nothing(*_: Any) -> None:
    """In place of what is over."""


RUNNING: set[_Run] = set()
"""What is under way."""
_threads: set[threading.Thread] = set()


def begin_thread(name: str, run: Callable[[], None]) -> threading.Thread:
    """Begin a thread that :func:`end_work` waits for."""
    thread = threading.Thread(target=run, name=name, daemon=True)
    _threads.difference_update([old for old in _threads if not old.is_alive()])
    _threads.add(thread)
    thread.start()
    return thread


def end_work(patience: float = 5.0) -> bool:
    """Give up all that is under way and wait for its threads, some seconds at most; whether all of them ended."""
    for run in RUNNING:
        run.leave()
    until = time.monotonic() + patience
    for thread in list(_threads):
        thread.join(max(until - time.monotonic(), 0.0))
    return not any(thread.is_alive() for thread in _threads)


def in_words(error: Exception) -> str:
    """Return what went wrong, for the person at the screen."""
    return str(error) if isinstance(error, Problem) else f"Something went wrong: {type(error).__name__}: {error}"
