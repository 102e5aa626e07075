"""Drawing what a frame of a sheet shows: lines on a thread, its picture on the stage's context."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject

from anatome.app.background import Task, Told
from anatome.app.session import Session
from anatome.app.stage.stage import PictureJob, Stage
from anatome.cuts.dissection import Cutter
from anatome.formats.pictures_out import png_bytes
from anatome.formats.properties import facts_for
from anatome.linework.drawing import Drawing
from anatome.model.building import Building
from anatome.printing.contents import lines_of, view_for
from anatome.printing.pages import Made
from anatome.printing.wanted import Wanted
from anatome.problems import Problem
from anatome.render.renderer import View

LINES = 0.4
"""Share of the time that goes to cutting open and to lines."""


class FrameDrawer(QObject):
    """One at a time."""

    def __init__(self, session: Session, stage: Stage, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._stage = session, stage
        self._cutter: Cutter | None = None
        self._under_way: Task | PictureJob | None = None

    @property
    def busy(self) -> bool:
        return self._under_way is not None

    def cancel(self) -> None:
        """Give up what is under way."""
        if self._under_way is not None:
            self._under_way.cancel()
            self._under_way = None

    def forget(self) -> None:
        """Let go of the building."""
        self.cancel()
        self._cutter = None

    def draw(
        self,
        what: Wanted,
        dpi: float,
        done: Callable[[Made], None],
        failed: Callable[[Exception], None],
        progress: Callable[[float], None] = lambda share: None,
    ) -> None:
        """Draw it, and tell what was made, or why not. Its lines are kept."""
        building, path = self._session.building, self._session.model_path
        assert building is not None
        cutter, kept = self._cutter_of(building), self._session.linework

        def work(told: Told) -> tuple[Drawing | None, View | None]:
            facts = facts_for(building, path, what.scene.state.notes)
            drawing = None
            if what.has_lines:
                drawing = lines_of(cutter, what, facts, lambda share: told(LINES * share), kept)
            return drawing, view_for(cutter, what, facts, dpi, told) if what.has_picture else None

        def over(error: Exception) -> None:
            self._under_way = None
            failed(error)

        def end(made: Made) -> None:
            self._under_way = None
            done(made)

        def worked(found: tuple[Drawing | None, View | None]) -> None:
            drawing, view = found
            if view is None:
                end(Made(None, drawing))
                return

            def pack(pixels: NDArray[np.uint8]) -> None:
                self._under_way = Task(lambda told: png_bytes(pixels), lambda data: end(Made(data, drawing)), over, self)

            job = self._stage.picture(
                view, what.size(dpi), "paper", pack, over, progress=lambda share: progress(LINES + (1 - LINES) * share)
            )
            if job is None:
                over(Problem("The stage is not ready to draw. Try again in a moment."))
                return
            self._under_way = job

        task = Task(work, worked, over, self)
        task.progressed.connect(progress)
        self._under_way = task

    def _cutter_of(self, building: Building) -> Cutter:
        if self._cutter is None or self._cutter.building is not building:
            self._cutter = Cutter(building)
        return self._cutter
