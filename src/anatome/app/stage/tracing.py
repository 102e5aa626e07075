"""The still on the stage: its light is found on a thread while the picture stands, and shown as it comes."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from PySide6.QtCore import QObject, Qt, Signal

from anatome.app.base.waiting import TimeLeft
from anatome.app.base.work import Progress, Work
from anatome.raytracing.still import THREADS, Still, TracedLight

ON_STAGE = max(1, THREADS - 1)
"""One is left for the window."""


@dataclass(eq=False)
class _Run:
    """A still of one picture, which ``key`` decides; ``make`` begins it. Its ``light`` is the best there is so far."""

    key: object
    make: Callable[[], Still]
    still: Still | None = None
    light: TracedLight | None = None
    share: float = 0.0
    lock: threading.Lock = field(default_factory=threading.Lock)


class Tracing(QObject):
    """``news``: there is more light, or it went on, stopped, or ended."""

    news = Signal()
    failed = Signal(object)
    _found = Signal(object, object)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._run: _Run | None = None
        self._work = Work(self)
        self._work.progressed.connect(self._progressed)
        self._samples = 0
        self._broken = False
        self._time = TimeLeft()
        self.stopped = False
        self._found.connect(self._take, Qt.ConnectionType.QueuedConnection)

    @property
    def at_work(self) -> bool:
        """Whether light is being looked for."""
        return self._work.busy

    @property
    def share(self) -> float:
        """How much of it is done."""
        return self._run.share if self._run else 0.0

    @property
    def samples(self) -> int:
        """Of light, that are shown."""
        return self._run.light.samples if self._run is not None and self._run.light is not None else 0

    def light(self, key: object) -> TracedLight | None:
        """Return the light of the picture that ``key`` decides, as good as it is by now."""
        return self._run.light if self._run is not None and self._run.key == key else None

    def over(self, key: object) -> bool:
        """Return whether nothing more will come for that picture, unless somebody says to go on."""
        return self._run is not None and self._run.key == key and not self.at_work

    def keep(self, key: object) -> None:
        """Let go of what is of another picture."""
        if self._run is not None and self._run.key != key:
            self.drop()

    def drop(self) -> None:
        """Have nothing under way."""
        self._cancel()
        had, self._run, self.stopped, self._broken = self._run, None, False, False
        if had is not None:
            self.news.emit()

    def follow(self, key: object, samples: int, make: Callable[[], Still]) -> None:
        """Look for the light of a picture, unless that is done, under way or stopped; ``make`` begins a still, on a thread."""
        self.keep(key)
        if self._run is None:
            self._run = _Run(key, make)
        self._samples = samples
        enough = self._run.still is not None and self._run.still.samples >= samples
        if not (self.at_work or self.stopped or self._broken or enough):
            self._begin(self._run)

    def stop(self) -> None:
        """Leave it as it is by now."""
        self.stopped = True
        self._cancel()
        self.news.emit()

    def go_on(self) -> None:
        """Take it up again."""
        self.stopped = False
        if self._run is not None and not self.at_work:
            self._begin(self._run)
        self.news.emit()

    def words(self) -> str:
        """Return how far it is, for people."""
        if self._run is None:
            return "Waits until the picture stands still"
        so_far = f"{self.samples} of {self._samples} samples"
        if self._broken:
            return "The light could not be found"
        if self.stopped:
            return f"Stopped after {so_far}"
        if not self.at_work:
            return f"Finished: {self.samples} samples"
        left = self._time.words(self.share)
        return f"{so_far}, {left}" if left else so_far

    # Under way -------------------------------------------------------------------------------------------------

    def _begin(self, run: _Run) -> None:
        samples, found = self._samples, self._found
        self._time = TimeLeft()

        def work(progress: Progress) -> _Run:
            with run.lock:  # one that was stopped a moment ago may not have heard of it yet
                if run.still is None:
                    run.still = run.make()
                still = run.still
                show = still.samples + 1
                while still.samples < samples:
                    if not still.add(lambda share: progress((still.samples + share) / samples)):
                        break
                    if still.samples >= show or still.samples == samples:
                        found.emit(run, still.traced())
                        show = 2 * still.samples
            return run

        self._work.run(work, lambda run: self.news.emit(), self._ended_badly)
        self.news.emit()

    def _cancel(self) -> None:
        self._work.cancel()

    def _progressed(self, share: float) -> None:
        if self._run is not None:
            self._run.share = share

    def _take(self, run: _Run, light: Any) -> None:
        if run is self._run:
            run.light = light
            self.news.emit()

    def _ended_badly(self, error: Exception) -> None:
        self._broken = True
        self.news.emit()
        self.failed.emit(error)
