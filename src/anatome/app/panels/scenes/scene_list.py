"""Scenes as pictures with names, in sets: what the row at the foot and the page over the stage have in common."""

from __future__ import annotations

from PySide6.QtCore import QItemSelection, QItemSelectionModel, QModelIndex, QPoint, QPointF, QRect, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QAbstractItemView, QListView

from anatome.app.base import theme
from anatome.app.base.dragged import dragged_scenes
from anatome.app.base.picture_row import ID
from anatome.app.document.session import Session
from anatome.app.panels.scenes.scene_frames import SceneFrames
from anatome.app.panels.scenes.scene_model import STACK, SceneModel
from anatome.app.stage.passage import GOES_ON
from anatome.scenes.scene_sets import arranged, fold_set
from anatome.scenes.variants import open_stack

MORE = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier


class SceneList(QListView):
    """Ctrl and Shift pick several, dragging reorders, F2 renames; ``recalled`` says which scene is to be on the stage."""

    recalled = Signal(str)
    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, model: SceneModel, frames: SceneFrames) -> None:
        super().__init__()
        self._session, self.scenes, self._frames = session, model, frames
        self._drop_at: tuple[QPointF, QPointF] | None = None
        self._showing = False
        self._shown: object = None
        self._listed: object = None
        self.setModel(model)
        self.setItemDelegate(frames)
        self.setProperty(GOES_ON, True)
        self.setFlow(QListView.Flow.LeftToRight)
        self.setMouseTracking(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragDrop)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setDropIndicatorShown(False)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.customContextMenuRequested.connect(self._menu)
        self._again = QTimer(self, singleShot=True, interval=0)
        self._again.timeout.connect(self.refresh)
        for signal in (session.opened, session.closed, session.changed, session.thumbnails_changed):
            signal.connect(self._again.start)
        session.camera_moved.connect(self._refresh_state)
        session.picked_changed.connect(self._show_picked)

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show the scenes as they are now."""
        session = self._session
        project = session.project if session.is_open else None
        folds = () if project is None else (project.folded_sets, project.open_stacks)
        shown = None if project is None else (*folds, session.pictures.version, *map(id, session.pictures.round))
        scenes = () if project is None else project.scenes
        if shown != self._shown or scenes is not self._listed:
            self._shown, self._listed = shown, scenes
            self.scenes.refresh()
            self._show_picked()
        self._refresh_state()

    def look_again(self) -> None:
        """Show what is said of the scenes besides what they show, such as their linework."""
        self._shown = None
        self._again.start()

    def _refresh_state(self) -> None:
        if not self._session.is_open:
            return
        project = self._session.project
        state = project.current_scene, project.differs_from_scene
        if state != (self._frames.current_id, self._frames.differs):
            moved = state[0] != self._frames.current_id
            self._frames.current_id, self._frames.differs = state
            if moved:
                self.scenes.refresh()  # of variants the current one is shown
                self._show_picked()
                self.show_current()
            self.viewport().update()

    def show_current(self) -> None:
        """Scroll to the current scene."""
        row = self.scenes.row_of(self._frames.current_id)
        if row is not None:
            self.scrollTo(self.scenes.index(row))

    # Picking ---------------------------------------------------------------------------------------------------

    def picked_ids(self) -> list[str]:
        """Return the ids of the scenes that are picked here, in their order."""
        rows = sorted(index.row() for index in self.selectedIndexes())
        return [scene for number in rows for scene in self.scenes.ids_of(self.scenes.row(number))]

    def selectionChanged(self, selected: QItemSelection, deselected: QItemSelection) -> None:
        super().selectionChanged(selected, deselected)
        if self._showing or not self._session.is_open:
            return
        if self._picks(len(self.selectedIndexes())):
            self._session.pick(scenes=self.picked_ids())
        elif self._session.picked.scenes:
            self._session.pick()

    def _picks(self, count: int) -> bool:
        """Whether so many that are marked here are picked; in the row a single one is just the one that was recalled."""
        return count > 1

    def _show_picked(self) -> None:
        """Mark what is picked, wherever it was picked."""
        wanted = self._session.picked.scenes
        if tuple(self.picked_ids()) == wanted:
            return
        rows = [row for scene in wanted if (row := self.scenes.row_of(scene)) is not None]
        chosen = QItemSelection()
        for row in rows:
            chosen.select(self.scenes.index(row), self.scenes.index(row))
        self._showing = True
        self.selectionModel().select(chosen, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        self._showing = False

    # Mouse and keys --------------------------------------------------------------------------------------------

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        at = event.position().toPoint()
        index = self.indexAt(at)
        if event.button() != Qt.MouseButton.LeftButton or not index.isValid() or event.modifiers() & MORE:
            return
        if index.data(STACK) and self._frames.badge(self.visualRect(index)).contains(at):
            self.unfold(self.scenes.stack_of(self.scenes.row(index.row())))
        else:
            self.clicked_on(index)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        at = event.position().toPoint()
        index = self.indexAt(at)
        if index.isValid() and not event.modifiers() & MORE:
            self.double_clicked_on(index, self._frames.is_name(self.visualRect(index), at))

    def double_clicked_on(self, index: QModelIndex, name: bool) -> None:
        """Rename it, by its ``name`` or its picture: a click has recalled it."""
        if index.flags() & Qt.ItemFlag.ItemIsEditable and index.data(ID) is not None:
            self.edit(index)

    def clicked_on(self, index: QModelIndex) -> None:
        """Fold a set by its heading, or recall the scene."""
        row = self.scenes.row(index.row())
        if row.scene is None:
            self.fold(row.set)
        else:
            self.recalled.emit(row.scene)

    def fold(self, name: str) -> None:
        """Fold a set together, or unfold it; that is no step."""
        project = self._session.project
        if name:
            self._session.history.fitted(fold_set(project, name, name not in project.folded_sets))
            self._session.changed.emit()

    def unfold(self, stack: str) -> None:
        """List all variants of a stack, or one for all; that is no step."""
        project = self._session.project
        self._session.history.fitted(open_stack(project, stack, stack not in project.open_stacks))
        self._session.changed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        index = self.currentIndex()
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and index.isValid():
            row = self.scenes.row(index.row())
            if row.scene is not None:
                self.recalled.emit(row.scene)
                return
        super().keyPressEvent(event)

    def _menu(self, at: QPoint) -> None:
        index = self.indexAt(at)
        scene_id = index.data(ID) if index.isValid() else None
        if scene_id is not None:
            self.setCurrentIndex(index) if scene_id not in self.picked_ids() else None
            self.menu_wanted.emit(scene_id, self.viewport().mapToGlobal(at))

    # Dragging --------------------------------------------------------------------------------------------------

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dragged_scenes(event.mimeData()):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        super().dragMoveEvent(event)  # scrolls at the edges
        if dragged_scenes(event.mimeData()):
            self._drop_at = self._place(event.position().toPoint())[2]
            self.viewport().update()
            event.acceptProposedAction()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        super().dragLeaveEvent(event)
        self._drop_at = None
        self.viewport().update()

    def dropEvent(self, event: QDropEvent) -> None:
        ids = dragged_scenes(event.mimeData())
        self._drop_at = None
        self.viewport().update()
        if not ids:
            return
        before, into, _ = self._place(event.position().toPoint())
        event.setDropAction(Qt.DropAction.IgnoreAction)  # the project is what is reordered, not this list
        event.accept()
        said = f"Reordered {len(ids)} scenes" if len(ids) > 1 else "Reordered the scenes"
        self._session.apply(arranged(self._session.project, ids, before, into), said)

    def _place(self, at: QPoint) -> tuple[str | None, str, tuple[QPointF, QPointF] | None]:
        """(the scene before which something dropped there comes, or None, the set it comes into, the line that shows it)."""
        rows = self.scenes.rows
        if not rows:
            return None, "", None
        line = self._line_at(at)
        if not line:
            last = rows[-1]
            return None, last.set, None
        over = [number for number in line if self._rect(number).center().x() < at.x()]
        number = over[-1] if over else line[0]
        row, box = rows[number], self._rect(number)
        if row.scene is None:  # on a heading: to the end of its set
            return None, row.set, (QPointF(box.left() + 4, box.bottom()), QPointF(box.left() + 120, box.bottom()))
        after = bool(over)
        x = float(box.right() if after else box.left())
        edge = QPointF(x, box.top() + 4), QPointF(x, box.top() + self._frames.high)
        if not after:
            return row.scene, row.set, edge
        following = rows[number + 1] if number + 1 < len(rows) else None
        before = following.scene if following is not None and following.set == row.set else None
        if before is None and not row.set and following is not None:
            before = following.scene or next((r.scene for r in rows[number + 1 :] if r.scene is not None), None)
        return before, row.set, edge

    def _rect(self, number: int) -> QRect:
        return self.visualRect(self.scenes.index(number))

    def _line_at(self, at: QPoint) -> list[int]:
        """The rows that lie in one line with a place, from the left."""
        boxes = [(i, self._rect(i)) for i in range(len(self.scenes.rows))]
        return [i for i, box in boxes if box.top() <= at.y() <= box.bottom()]

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self._drop_at is not None:
            painter = QPainter(self.viewport())
            painter.setPen(QPen(QColor(theme.current().accent), 2.5))
            painter.drawLine(*self._drop_at)
            painter.end()
