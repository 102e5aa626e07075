"""Drawing what a frame of a sheet shows: lines on a thread, its picture on the stage's context."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QObject, Signal

from anatome.app.base.pictures import Making, Pictures, Pixels, in_picture
from anatome.app.base.work import Progress, Work
from anatome.app.document.session import Session
from anatome.cuts.dissection import Cutter
from anatome.formats.pictures_out import png_bytes
from anatome.formats.properties import facts_for
from anatome.linework.drawing import Drawing
from anatome.model.building import Building
from anatome.notes.facts import Facts
from anatome.printing.contents import lines_of, view_for
from anatome.printing.pages import FrameResult
from anatome.printing.wanted import FrameRequest
from anatome.scenes.scene_view import View

PREPARED = 0.4
"""Share of the time that goes to cutting open and to lines."""


class FrameDrawer(QObject):
    """One at a time."""

    progressed = Signal(float)

    def __init__(self, session: Session, pictures: Pictures, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._cutter: Cutter | None = None
        self._work, self._making = Work(self, lambda: session.building), Making(self, pictures, lambda: session.building)
        for part in (self._work, self._making):
            part.progressed.connect(self.progressed)

    @property
    def busy(self) -> bool:
        return self._work.busy or self._making.busy

    def cancel(self) -> bool:
        """Give up what is under way."""
        return all([self._work.cancel(), self._making.cancel()])

    def forget(self) -> None:
        """Let go of the building."""
        self.cancel()
        self._cutter = None

    def draw(
        self,
        what: FrameRequest,
        dpi: float,
        done: Callable[[FrameResult], None],
        failed: Callable[[Exception], None],
    ) -> None:
        """Draw it, and tell what was made, or why not. Its lines are kept."""
        building, path = self._session.building, self._session.model_path
        assert building is not None
        cutter, kept = self._cutter_of(building), self._session.linework
        lines: list[Drawing | None] = [None]
        size = what.size(dpi)

        def draw_lines(progress: Progress, share: float) -> Facts:
            facts = facts_for(building, path, what.scene.state.notes, dict(what.sections))
            if what.has_lines:
                lines[0] = lines_of(cutter, what, facts, lambda done: progress(share * done), kept)
            return facts

        def without_picture(progress: Progress) -> FrameResult:
            draw_lines(progress, 1.0)
            return FrameResult(None, lines[0])

        def prepare(progress: Progress) -> View:
            return view_for(cutter, what, draw_lines(progress, 0.5), dpi, progress)

        def pack(progress: Progress, pixels: Pixels) -> FrameResult:
            return FrameResult(png_bytes(pixels), lines[0])

        self.cancel()
        if what.has_picture:
            self._making.make(prepare, partial(in_picture, size=size, ground="paper"), pack, done, failed, (PREPARED, 1.0))
        else:
            self._work.run(without_picture, done, failed)

    def _cutter_of(self, building: Building) -> Cutter:
        if self._cutter is None or self._cutter.building is not building:
            self._cutter = Cutter(building)
        return self._cutter
