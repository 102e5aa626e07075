"""The one place where pictures are drawn: whoever wants one asks here, and the stage lends its time and its OpenGL context.

A picture is drawn in steps of a few milliseconds, between what the stage has to draw for itself.
"""

from __future__ import annotations

from collections.abc import Callable, Generator, Iterator
from dataclasses import dataclass
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from anatome.app.base.trouble import never_dies
from anatome.app.base.work import Progress, Work
from anatome.problems import Problem
from anatome.render.pictures import Ground, PictureMaker
from anatome.render.renderer import Renderer
from anatome.render.seen_steps import seen_steps
from anatome.scenes.scene_view import View
from anatome.view.seen import Seen

T = TypeVar("T")
P = TypeVar("P")
"""What is prepared on a thread for drawing: mostly a view."""
Pixels = NDArray[np.uint8]
Steps = Callable[[Renderer], Generator[float, None, T]]


@dataclass
class PictureJob:
    """Something that is drawn. ``done`` gets what the steps end with, ``progress`` the share; neither after a cancel."""

    steps: Generator[float, None, Any]
    done: Callable[[Any], None]
    failed: Callable[[Exception], None]
    progress: Callable[[float], None] | None = None
    cancelled: bool = False

    def cancel(self) -> bool:
        """Give it up; what it drew on is given back."""
        self.cancelled = True
        return True


def in_picture(view: View, size: tuple[int, int], ground: Ground, samples: int | None = None) -> Steps[Pixels]:
    """Return the steps of a finished picture, (height, width, 4) pixels; with EXPORT_SAMPLES if no number is given."""
    return lambda on: PictureMaker(on).steps(view, size, ground, samples)


class Beside:
    """Pictures of another building than the stage's, with buffers of their own on the same context."""

    def __init__(self) -> None:
        self._renderer: Renderer | None = None

    def in_picture(self, view: View, size: tuple[int, int], ground: Ground, samples: int | None = None) -> Steps[Pixels]:
        """Return the steps of a picture of whatever building the view is of."""

        def steps(on: Renderer) -> Generator[float, None, Pixels]:
            building = view.opened.parts[0].cut_open.building
            if on.building is building:
                return (yield from PictureMaker(on).steps(view, size, ground, samples))
            if self._renderer is None or self._renderer.ctx is not on.ctx:
                self._renderer = Renderer(on.ctx, on.programs)
            own = self._renderer
            if own.building is not building:
                for _ in own.load(building):
                    yield 0.0
            return (yield from PictureMaker(own).steps(view, size, ground, samples))

        return steps

    def forget(self) -> None:
        """Let go of the building."""
        self._renderer = None


class Pictures(QObject):
    """What is to be drawn, one after the other."""

    asked = Signal()
    """Somebody wants one: whoever has the context goes on."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.renderer: Renderer | None = None
        self._jobs: list[PictureJob] = []

    @property
    def ready(self) -> bool:
        """Whether there is a context to draw on."""
        return self.renderer is not None

    def draw(
        self,
        steps: Steps[T],
        done: Callable[[T], None],
        failed: Callable[[Exception], None],
        progress: Callable[[float], None] | None = None,
    ) -> PictureJob | None:
        """Have anything drawn in steps; None before there is a context."""
        if self.renderer is None:
            return None
        job = PictureJob(steps(self.renderer), done, failed, progress)
        self._jobs.append(job)
        self.asked.emit()
        return job

    def picture(
        self,
        view: View,
        size: tuple[int, int],
        ground: Ground,
        done: Callable[[Pixels], None],
        failed: Callable[[Exception], None],
        samples: int | None = None,
    ) -> PictureJob | None:
        """Draw a finished picture (height, width, 4)."""
        return self.draw(in_picture(view, size, ground, samples), done, failed)

    def look(
        self, view: View, size: tuple[int, int], done: Callable[[Seen], None], failed: Callable[[Exception], None]
    ) -> PictureJob | None:
        """Find out what can be seen in a view."""
        return self.draw(lambda on: seen_steps(on, view, size), done, failed)

    def drop(self) -> None:
        """Give all of it up: what it would show is not open any more."""
        for job in self._jobs:
            job.cancel()
        self._jobs.clear()  # what they would have drawn is held no longer

    def next_steps(self, may_go_on: Callable[[], bool]) -> Iterator[None] | None:
        """Return the steps of the picture that is due, as long as whoever has the context ``may_go_on``; None if none is."""
        self._jobs = [job for job in self._jobs if not job.cancelled]
        return self._steps(self._jobs[0], may_go_on) if self._jobs else None

    def _steps(self, job: PictureJob, may_go_on: Callable[[], bool]) -> Iterator[None]:
        """Draw on at a picture until it is done; it may be broken off and taken up."""
        while not job.cancelled:
            try:
                share = next(job.steps)
            except StopIteration as end:
                self._jobs.remove(job)
                with never_dies():  # what others make of it is no fault of the stage's own picture
                    job.done(end.value)
                return
            except Exception as error:
                self._jobs.remove(job)
                with never_dies():
                    job.failed(error)
                return
            if job.progress is not None:
                with never_dies():
                    job.progress(share)
            yield
            if not may_go_on():
                return


class Making(QObject):
    """Cut on a thread, draw, make something of it on a thread: one picture after the other for an owner."""

    progressed = Signal(float)

    def __init__(self, owner: QObject, pictures: Pictures, of: Callable[[], object] | None = None) -> None:
        super().__init__(owner)
        self._pictures, self._of = pictures, of
        self._work = Work(self, of)
        self._work.progressed.connect(self._worked)
        self._job: PictureJob | None = None
        self._from, self._to = 0.0, 0.0

    @property
    def busy(self) -> bool:
        """Whether one is being made."""
        return self._work.busy or (self._job is not None and not self._job.cancelled)

    def make(
        self,
        prepare: Callable[[Progress], P],
        steps: Callable[[P], Steps[Any]],
        pack: Callable[[Progress, Any], T] | None,
        done: Callable[[T], None],
        failed: Callable[[Exception], None],
        shares: tuple[float, float] = (0.0, 1.0),
    ) -> None:
        """Begin one; ``prepare`` takes a share of the time up to the first of ``shares``, drawing up to the second."""
        self.cancel()
        begun = None if self._of is None else self._of()
        self._from, self._to = 0.0, shares[0]

        def draw(prepared: P) -> None:
            self._job = self._pictures.draw(steps(prepared), drawn, not_drawn, lambda share: tell(*shares, share))
            if self._job is None:
                failed(Problem("The stage is not ready to draw. Try again in a moment."))

        def tell(low: float, high: float, share: float) -> None:
            self.progressed.emit(low + (high - low) * share)

        def drawn(found: Any) -> None:
            self._job = None
            if self._of is not None and self._of() is not begun:
                return
            if pack is None:
                done(found)
                return
            self._from, self._to = shares[1], 1.0
            self._work.run(lambda told: pack(told, found), done, failed)

        def not_drawn(error: Exception) -> None:
            self._job = None
            failed(error)

        self._work.run(prepare, draw, failed)

    def cancel(self) -> bool:
        """Give up the one under way; False when it is too late for that."""
        if self._job is not None:
            self._job.cancel()
            self._job = None
        return self._work.cancel()

    def _worked(self, share: float) -> None:
        self.progressed.emit(self._from + (self._to - self._from) * share)
