"""What is made of many pictures, which are kept in a folder while it is made: stopped, it goes on from them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from PySide6.QtWidgets import QWidget

from anatome.app.base.pictures import Making, Pictures, Steps
from anatome.app.base.work import Progress
from anatome.app.document.preferences import workers_address
from anatome.app.send_out.dialog import SendOut
from anatome.filming.frames import FrameFolder
from anatome.work.jobs import Job

P = TypeVar("P")


class DrawsFrames(SendOut):
    """Pictures that are drawn stay when it is cancelled."""

    after_cancel = "what is drawn so far is used when it is made again"
    drawn_share = 0.96
    """Share of the time that drawing takes, of all of it."""

    def __init__(
        self, parent: QWidget, title: str, go: str, folder: Path, name: str, ending: str, kind: str, pictures: Pictures
    ) -> None:
        super().__init__(parent, title, go, folder, name, ending, kind)
        self._making = Making(self, pictures)
        self._making.progressed.connect(self._show_drawn)
        self._todo: list[int] = []
        self._number, self._count = 0, 1

    def draw_missing(
        self,
        folder: FrameFolder,
        count: int,
        plan: Callable[[int], P],
        steps: Callable[[P], Steps[Any]],
        done: Callable[[], None],
        job: Callable[[], Job] | None = None,
    ) -> None:
        """Draw those of ``count`` pictures that are not in a folder yet: each is planned on a thread, drawn in steps on the
        stage's context, and kept on a thread; then it is ``done``. Where an engine is set, its workers draw the ``job``."""
        self._todo, self._count = folder.missing(), count
        address = workers_address()
        if job is not None and address and self._todo:
            self._draw_on(address, job, folder, done)
            return
        self._next(0, folder, plan, steps, done)

    def _draw_on(self, address: str, job: Callable[[], Job], folder: FrameFolder, done: Callable[[], None]) -> None:
        """Let the workers of an engine draw what is missing."""
        from anatome.work.engine import draw_on

        todo, there = self._todo, self._count - len(self._todo)

        def work(progress: Progress) -> None:
            def told(drawn: int, of: int) -> bool:
                return progress(self.drawn_share * (there + drawn) / self._count)

            draw_on(address, job(), folder, todo, told)

        self._under_way = self._work
        self._work.run(work, lambda _: done(), self.not_written)

    def _next(
        self,
        number: int,
        folder: FrameFolder,
        plan: Callable[[int], P],
        steps: Callable[[P], Steps[Any]],
        done: Callable[[], None],
    ) -> None:
        if number == len(self._todo):
            done()
            return
        if not self.goes_on():
            return
        frame = self._todo[number]

        def keep(progress: Progress, found: Any) -> None:
            folder.put(frame, found)

        def drawn(_: None) -> None:
            self._next(number + 1, folder, plan, steps, done)

        self._number, self._under_way = number, self._making
        self._making.make(lambda progress: plan(frame), steps, keep, drawn, self.not_written)

    def _show_drawn(self, share: float) -> None:
        there = self._count - len(self._todo)
        self.show_share(self.drawn_share * (there + self._number + share) / self._count)
