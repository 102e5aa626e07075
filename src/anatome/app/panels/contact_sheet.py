"""The contact sheet: the saved scenes as pictures in their true proportions, in one row at the foot of the window."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QResizeEvent

from anatome.app.base import theme
from anatome.app.base.picture_row import ROW_HEIGHT
from anatome.app.document.session import Session
from anatome.app.panels.scenes.scene_frames import RowFrames
from anatome.app.panels.scenes.scene_list import SceneList
from anatome.app.panels.scenes.scene_model import SceneModel
from anatome.app.stage.stage import Stage


class ContactSheet(SceneList):
    """A click recalls."""

    def __init__(self, session: Session, stage: Stage) -> None:
        self._row_frames = RowFrames()
        super().__init__(session, SceneModel(session, loose=False), self._row_frames)
        self._stage = stage
        self.setWrapping(False)
        self.setFixedHeight(ROW_HEIGHT)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.recalled.connect(self.recall)
        session.picked_changed.connect(self._show_several)

    def recall(self, scene_id: str) -> None:
        """Show a scene as it was saved."""
        self._session.recall_scene(scene_id, self._stage.aspect)

    def _show_several(self) -> None:
        self._row_frames.several = len(self._session.picked.scenes) > 0
        self.viewport().update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep the current scene in sight when the sheet gets narrower."""
        super().resizeEvent(event)
        self.show_current()

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.scenes.rowCount():
            painter = QPainter(self.viewport())
            painter.setFont(theme.font(9.5))
            painter.setPen(QColor(theme.current().ink_faint))
            painter.drawText(
                self.viewport().rect().adjusted(8, 0, -8, 0),
                int(Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap),
                "No scenes yet. Frame a view of the building, then press Save scene (Ctrl+M).",
            )
            painter.end()
