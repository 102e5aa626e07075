"""The contact sheet: the saved scenes as pictures in their true proportions, in one row."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QColor, QDropEvent, QPainter, QPaintEvent, QPixmap, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QListWidgetItem

from anatome.app.base import theme
from anatome.app.base.picture_row import ASPECT, ID, LINES, LOCKED, PALE, PICTURE, SHOWN, PictureRow
from anatome.app.document.session import Session
from anatome.app.stage.stage import Stage
from anatome.scenes import edits
from anatome.scenes.project import Scene

LINES_SAID = {
    "none": "",
    "current": ".\nIts linework is kept",
    "out of date": ".\nIts linework is out of date, and is being made anew",
}


class ContactSheet(PictureRow):
    """Click recalls, dragging reorders, F2 or a double click on the name renames."""

    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__()
        self._session, self._stage = session, stage
        self._filling = False
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._menu)
        self.itemClicked.connect(lambda item: self.recall(item.data(ID)))
        self.itemActivated.connect(lambda item: self.recall(item.data(ID)))
        self.itemDoubleClicked.connect(self.editItem)
        self.itemChanged.connect(self._renamed)
        for signal in (session.opened, session.changed, session.thumbnails_changed):
            signal.connect(self.refresh)
        session.camera_moved.connect(self._refresh_state)

    def recall(self, scene_id: str) -> None:
        """Show a scene as it was saved."""
        self._session.recall_scene(scene_id, self._stage.aspect)

    def refresh(self) -> None:
        """Show the scenes as they are now."""
        session = self._session
        if not session.is_open:
            return
        scenes = session.project.scenes
        self._filling = True
        while self.count() > len(scenes):
            self.takeItem(self.count() - 1)
        while self.count() < len(scenes):
            self.addItem(QListWidgetItem())
        for i, scene in enumerate(scenes):
            item = self.item(i)
            self._show_picture(item, scene, session.pictures.get(scene))
            item.setData(ID, scene.id)
            item.setData(LOCKED, scene.locked)
            editable = item.flags() & ~Qt.ItemFlag.ItemIsEditable
            item.setFlags(editable if scene.locked else editable | Qt.ItemFlag.ItemIsEditable)
            item.setData(ASPECT, scene.aspect)
            item.setText(scene.name)
            key_hint = f" (Ctrl+{i + 1})" if i < 9 else ""
            lines = "none" if session.linework is None else session.linework.freshness(scene, session.project.site)
            item.setData(LINES, lines)
            change = "It is locked" if scene.locked else "Double-click to rename"
            item.setToolTip(f"Recall {scene.name}{key_hint}. {change}, drag to reorder{LINES_SAID[lines]}")
        self._filling = False
        self._refresh_state()

    @staticmethod
    def _show_picture(item: QListWidgetItem, scene: Scene, data: bytes | None) -> None:
        """Show the picture of a scene; until there is one of how it is now, the one before, pale."""
        key = (scene.id, id(data))
        shown = item.data(SHOWN)
        if shown == key:
            return
        if data is None and shown is not None and shown[0] == scene.id:
            item.setData(PALE, True)
        else:
            picture = QPixmap()
            if data:
                picture.loadFromData(data)
            item.setData(PICTURE, picture)
            item.setData(PALE, False)
        item.setData(SHOWN, key)

    def _refresh_state(self) -> None:
        project = self._session.project
        state = project.current_scene, project.differs_from_scene
        if state != (self.current_id, self.differs):
            moved = state[0] != self.current_id
            self.current_id, self.differs = state
            if moved:
                self._show_current()
            self.viewport().update()

    def _renamed(self, item: QListWidgetItem) -> None:
        if self._filling:
            return
        session = self._session
        session.attempt(lambda project: edits.rename_scene(project, item.data(ID), item.text()), "Renamed the scene")
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Keep the current scene in sight when the sheet gets narrower."""
        super().resizeEvent(event)
        self._show_current()

    def _show_current(self) -> None:
        """Scroll to the current scene."""
        items = (self.item(i) for i in range(self.count()))
        current = next((i for i in items if i.data(ID) == self.current_id), None)
        if current is not None:
            self.scrollToItem(current)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self.count() == 0:
            painter = QPainter(self.viewport())
            painter.setFont(theme.font(9.5))
            painter.setPen(QColor(theme.current().ink_faint))
            painter.drawText(
                self.viewport().rect().adjusted(8, 0, -8, 0),
                int(Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap),
                "No scenes yet. Frame a view of the building, then press Save scene (Ctrl+M).",
            )
            painter.end()

    def dropEvent(self, event: QDropEvent) -> None:
        dragged = self.currentItem()
        if dragged is None:
            return
        scene_id = dragged.data(ID)
        at = event.position().toPoint()
        position = sum(
            self.visualItemRect(self.item(i)).center().x() < at.x()
            for i in range(self.count())
            if self.item(i).data(ID) != scene_id
        )
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
        session = self._session
        session.apply(edits.move_scene(session.project, scene_id, position), "Reordered the scenes")

    def _menu(self, at: QPoint) -> None:
        item = self.itemAt(at)
        if item is not None:
            self.setCurrentItem(item)
            self.menu_wanted.emit(item.data(ID), self.viewport().mapToGlobal(at))
