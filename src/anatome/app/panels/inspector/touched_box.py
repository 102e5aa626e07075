"""How a change of the model touches the scene on the stage, until somebody has looked it over."""

from __future__ import annotations

from PySide6.QtWidgets import QPushButton, QWidget

from anatome.app.commands.changes import ChangesCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import bare_column, label


class TouchedBox(QWidget):
    """Nothing where the scene is as it was meant."""

    def __init__(self, session: Session, commands: ChangesCommands) -> None:
        super().__init__()
        self._session, self._commands = session, commands
        column = bare_column(self, 4)
        self.words = label("", "warning")
        column.addWidget(self.words)
        self.over = QPushButton("Looked over")
        self.over.setToolTip("The scene is as it should be: its mark goes. Saving it anew takes the mark away too")
        self.over.clicked.connect(self._look_over)
        column.addWidget(self.over)

    def refresh(self) -> None:
        """Show what touches the scene on the stage."""
        scene = self._session.scene
        self.setVisible(scene is not None and bool(scene.touched))
        if scene is not None and scene.touched:
            self.words.setText(f"The model has changed: {'; '.join(scene.touched)}.")

    def _look_over(self) -> None:
        scene = self._session.scene
        if scene is not None:
            self._commands.look_over(scene.id)
