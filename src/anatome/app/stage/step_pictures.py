"""Small pictures of what the stage showed, step by step: taken when it stands still, so that they cost nobody a moment."""

from __future__ import annotations

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QImage

from anatome.app.document.session import Session
from anatome.app.stage.stage import Stage
from anatome.scenes.project import StageState

HIGH = 56
MOST = 300
"""Pictures kept; a history is not longer than twice that."""


class StepPictures(QObject):
    """``taken``: there is one more."""

    taken = Signal()

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(stage)
        self._session, self._stage = session, stage
        self._kept: dict[int, tuple[StageState, QImage]] = {}
        self._later = QTimer(self, singleShot=True, interval=0)
        self._later.timeout.connect(self._take)
        stage.drawn.connect(self._later.start)
        for signal in (session.opened, session.closed):
            signal.connect(self._forget)

    def _forget(self) -> None:
        self._kept.clear()

    def get(self, state: StageState) -> QImage | None:
        """Return the picture of a state of the stage, if it stood still then."""
        found = self._kept.get(id(state))
        return found[1] if found is not None and found[0] is state else None

    def _take(self) -> None:
        if not (self._session.is_open and self._stage.settled and self._stage.isVisible()):
            return
        state = self._session.stage
        if self.get(state) is not None:
            return
        image = self._stage.grabFramebuffer()
        smooth = Qt.TransformationMode.SmoothTransformation
        self._kept[id(state)] = state, image.scaledToHeight(HIGH, smooth)
        while len(self._kept) > MOST:
            del self._kept[next(iter(self._kept))]
        self.taken.emit()
