"""What is made of many pictures, which are kept in a folder while it is made: stopped, it goes on from them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from PySide6.QtWidgets import QWidget

from anatome.app.base.pictures import Making, Pictures, Steps
from anatome.app.base.work import Progress
from anatome.app.send_out.dialog import SendOut
from anatome.filming.frames import FrameFolder

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
    ) -> None:
        """Draw those of ``count`` pictures that are not in a folder yet: each is planned on a thread, drawn in steps on the
        stage's context, and kept on a thread; then it is ``done``."""
        self._todo, self._count = folder.missing(), count
        self._next(0, folder, plan, steps, done)

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
