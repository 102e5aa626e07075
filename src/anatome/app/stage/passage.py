"""The stage under way from one state to another, frame by frame; any input stops it where it is."""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QTimer, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication, QWidget

from anatome.app.base.trouble import TROUBLE
from anatome.app.base.work import Progress, Work
from anatome.app.document.preferences import transition_seconds
from anatome.app.document.recutting import Recut, recut
from anatome.app.document.session import Session
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.scenes.project import StageState
from anatome.scenes.transition import Transition, transition

BEAT = 15
"""Milliseconds from one moment to the next; a moment whose picture takes longer is passed over."""
STOPS = {QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonDblClick, QEvent.Type.Wheel, QEvent.Type.KeyPress}
GOES_ON = "recalls"
"""A property of widgets in which a press leads to another scene, and stops nothing on the way to this one."""


class Passage(QObject):
    """``moved``: there is another moment, or none any more. ``image`` is the picture before, as solid as ``faint`` says, while it
    fades."""

    moved = Signal()

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(stage)
        self._session, self._stage = session, stage
        self._work = Work(self, lambda: session.building)
        self._cutter: Cutter | None = None
        self._way: Transition | None = None
        self._arrived: Callable[[StageState, bool], None] | None = None
        self._end: StageState | None = None
        self._scene = ""
        self._began = self._seconds = 0.0
        self.image: QImage | None = None
        self._beat = QTimer(self, interval=BEAT)
        self._beat.timeout.connect(self._go_on)
        session.recalling.connect(self._recalling)
        for signal in (session.opened, session.closed, session.rebuilt):
            signal.connect(self._drop)

    @property
    def is_under_way(self) -> bool:
        """Whether the stage is between two states."""
        return self._arrived is not None

    @property
    def faint(self) -> float:
        """How solid the picture before still is."""
        return 0.0 if self._way is None or self.image is None else self._way.faint(self._share)

    @property
    def _share(self) -> float:
        return min((time.perf_counter() - self._began) / self._seconds, 1.0)

    # Beginning -------------------------------------------------------------------------------------------------

    def _recalling(self, before: StageState, after: StageState) -> None:
        """A scene of the project comes on the stage."""
        if not self._stage.isVisible() or before == after:
            self.end()
            return
        self.begin(before, after, self._on_stage)

    def begin(self, before: StageState, after: StageState, arrived: Callable[[StageState, bool], None], scene: str = "") -> None:
        """Be under way from one state to another, that of a ``scene``, if transitions are on; ``arrived`` is told the last state,
        and whether somebody stopped it there. What was under way is given up."""
        self.end()
        seconds, building = transition_seconds(), self._session.building
        if not seconds or building is None or self._stage.lined.mode:
            arrived(after, False)
            return
        self._seconds, self._arrived, self._end, self._scene = seconds, arrived, after, scene
        self._session.show_for_now(before, scene=scene)
        QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]
        if self._cutter is None or self._cutter.building is not building:
            self._cutter = Cutter(building)
        cutter, left, site, aspect = self._cutter, self._session.kept(), self._session.project.site, self._stage.aspect

        def work(progress: Progress) -> tuple[Transition, Recut]:
            made = recut(cutter, after)
            return transition(building, site, before, after, aspect, (left, made.kept)), made

        self._work.run(work, self._ready, self._failed)

    def _ready(self, found: tuple[Transition, Recut]) -> None:
        self._way, made = found
        self._session.keep_cut(made)
        self.image = self._stage.grabFramebuffer() if self._way.fade else None
        self._began = time.perf_counter()
        self._beat.start()

    def _failed(self, error: Exception) -> None:
        self.end()
        TROUBLE.report(error)

    # Going on --------------------------------------------------------------------------------------------------

    def _go_on(self) -> None:
        assert self._way is not None
        share = self._share
        if share >= 1.0:
            self._finish(self._way.end, stopped=False)
            return
        self._session.show_for_now(self._way.at(share), self._way.dissolve(share), self._scene)
        self.moved.emit()

    def stop(self) -> None:
        """Stay where it is."""
        if self._way is not None:
            self._finish(self._way.stopped_at(self._share), stopped=True)
        else:
            self.end()

    def end(self) -> None:
        """Be there at once."""
        if self._end is not None:
            self._finish(self._end, stopped=False)

    def _finish(self, state: StageState, stopped: bool) -> None:
        arrived = self._arrived
        self._drop()
        if arrived is not None:
            arrived(state, stopped)
        self.moved.emit()

    def _drop(self) -> None:
        QApplication.instance().removeEventFilter(self)  # type: ignore[union-attr]
        self._work.cancel()
        self._beat.stop()
        self._way = self._arrived = self._end = self.image = None

    def _on_stage(self, state: StageState, stopped: bool) -> None:
        """The stage is the project's own again; where it was stopped it is left so, as a step."""
        session = self._session
        session.show_for_now(None)
        scene = session.scene
        if stopped and scene is not None:
            project = session.project.model_copy(update={"stage": state})
            session.apply(project, f"Stopped on the way to {scene.name}")

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Stop at a press, a key or the wheel, wherever in the window; what it was meant for it does all the same."""
        if event.type() in STOPS and isinstance(watched, QWidget) and not _goes_on(watched):
            self.stop()
        return False


def _goes_on(widget: QWidget) -> bool:
    at: QWidget | None = widget
    while at is not None:
        if at.property(GOES_ON):
            return True
        at = at.parentWidget()
    return False
