"""What lies over the stage for a while; the stage keeps its place under it."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtWidgets import QWidget

from anatome.app.stage.stage import Stage


class OverStage(QWidget):
    """As large as the stage while it is shown; hidden at first."""

    closed = Signal()

    def __init__(self, stage: Stage) -> None:
        super().__init__(stage)
        self._stage = stage
        self.setObjectName("scenes")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        stage.installEventFilter(self)
        self.hide()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Grow and shrink with the stage."""
        if watched is self._stage and event.type() == QEvent.Type.Resize and self.isVisible():
            self.resize(self._stage.size())
        return False

    def lie_over(self) -> None:
        """Be shown."""
        self.resize(self._stage.size())
        self.show()
        self.raise_()

    def let_be_seen(self) -> None:
        """Let the stage be seen again, and have the keyboard."""
        self.hide()
        self._stage.setFocus()
        self.closed.emit()
