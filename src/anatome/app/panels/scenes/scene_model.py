"""The scenes as an item model: those of a set under its name, with small pictures that are read when they are looked at."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QAbstractListModel, QMimeData, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QPixmap

from anatome.app.base.dragged import SCENES, drag_scenes
from anatome.app.base.picture_row import ASPECT, ID, LINES, LOCKED, PALE, PICTURE
from anatome.app.document.session import Session
from anatome.scenes import edits
from anatome.scenes.project import Scene
from anatome.scenes.scene_sets import groups_of, rename_set

Index = QModelIndex | QPersistentModelIndex
NOWHERE = QModelIndex()
SET = Qt.ItemDataRole.UserRole + 7
"""The name of the set a row is the heading of; None for a scene."""
COUNT = Qt.ItemDataRole.UserRole + 8
FOLDED = Qt.ItemDataRole.UserRole + 9
STACK = Qt.ItemDataRole.UserRole + 10
"""How many variants a row stands for, or is the first of; None for one that is listed by itself."""
LINKED = Qt.ItemDataRole.UserRole + 11
"""Whether it is a variant that is listed with the others of its stack."""
TOUCHED = Qt.ItemDataRole.UserRole + 12
"""Whether a change of the model touches it, and nobody has looked it over yet."""
MOST = 400
"""Pictures kept as pixels."""
LINES_SAID = {
    "none": "",
    "current": ".\nIts linework is kept",
    "out of date": ".\nIts linework is out of date, and is being made anew",
}


@dataclass(frozen=True)
class Row:
    """A scene by its id, or the heading of a set; ``members`` are the ids of all variants a scene stands for."""

    scene: str | None
    set: str
    count: int = 0
    members: tuple[str, ...] = ()


class SceneModel(QAbstractListModel):
    """Headings stand for sets alone; what is ``wanted`` narrows the scenes by their names and those of their sets."""

    def __init__(self, session: Session, loose: bool) -> None:
        """``loose`` says whether scenes in no set get a heading where others stand before them."""
        super().__init__()
        self._session, self._loose, self._wanted = session, loose, ""
        self._rows: list[Row] = []
        self._scenes: dict[str, Scene] = {}
        self._numbers: dict[str, int] = {}
        self._pixmaps: dict[str, tuple[bytes, QPixmap]] = {}

    def narrow(self, wanted: str) -> None:
        """Show the scenes whose name, or that of their set, has these words in it."""
        self._wanted = wanted.strip().lower()
        self.refresh()

    def refresh(self) -> None:
        """Show the scenes as they are now."""
        session = self._session
        project = session.project if session.is_open else None
        self._scenes = {} if project is None else {scene.id: scene for scene in project.scenes}
        self._numbers = {scene_id: number for number, scene_id in enumerate(self._scenes)}
        rows = self._listed()
        if rows == self._rows:
            if rows:
                self.dataChanged.emit(self.index(0), self.index(len(rows) - 1))
            return
        self.beginResetModel()
        self._rows = rows
        self.endResetModel()

    def _listed(self) -> list[Row]:
        session = self._session
        if not session.is_open:
            return []
        folded, rows, words = session.project.folded_sets, [], self._wanted.split()
        for number, group in enumerate(groups_of(session.project)):
            scenes = [s for s in group.scenes if all(w in f"{s.name} {s.set}".lower() for w in words)]
            if not scenes:
                continue
            if group.name or (self._loose and number):
                rows.append(Row(None, group.name, len(group.scenes)))
            if words or not group.name or group.name not in folded:
                rows += self._of_group(scenes, group.name)
        return rows

    def _of_group(self, scenes: Sequence[Scene], name: str) -> list[Row]:
        """The scenes of a group, one for all variants of a stack unless that is unfolded."""
        project, rows, seen = self._session.project, [], set[str]()
        for scene in scenes:
            if not scene.stack or self._wanted or scene.stack in project.open_stacks:
                rows.append(Row(scene.id, name))
            elif scene.stack not in seen:
                seen.add(scene.stack)
                own = [s for s in scenes if s.stack == scene.stack]
                shown = next((s for s in own if s.id == project.current_scene), own[0])
                rows.append(Row(shown.id, name, members=tuple(s.id for s in own)))
        return rows

    # What there is ---------------------------------------------------------------------------------------------

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self._rows)

    def row_of(self, scene_id: str | None) -> int | None:
        """Return the row of a scene; None where it is not listed."""
        if scene_id is None:
            return None
        return next((i for i, row in enumerate(self._rows) if scene_id == row.scene or scene_id in row.members), None)

    def proportions(self) -> list[list[float]]:
        """Return width over height of the pictures between one heading and the next."""
        found: list[list[float]] = [[]]
        for row in self._rows:
            if row.scene is None:
                found.append([])
            else:
                found[-1].append(self._scenes[row.scene].aspect)
        return found

    def row(self, number: int) -> Row:
        """Return one row."""
        return self._rows[number]

    @property
    def rows(self) -> Sequence[Row]:
        """All rows, from the first on."""
        return self._rows

    def flags(self, index: Index) -> Qt.ItemFlag:
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsDropEnabled
        if not index.isValid():
            return Qt.ItemFlag.ItemIsDropEnabled
        row = self._rows[index.row()]
        if row.scene is None:
            return flags | Qt.ItemFlag.ItemIsEditable if row.set else flags
        flags |= Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsDragEnabled
        return flags if self._scenes[row.scene].locked else flags | Qt.ItemFlag.ItemIsEditable

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        row = self._rows[index.row()]
        if role == SET:
            return row.set if row.scene is None else None
        scene = self._scenes.get(row.scene or "")
        if role == STACK:
            return self._stacked(row, index.row())
        if role == LINKED:
            return scene is not None and bool(scene.stack) and not row.members
        return self._of_set(row, role) if scene is None else self._of_scene(scene, role)

    def _stacked(self, row: Row, number: int) -> int | None:
        """How many variants a row stands for, or is the first of."""
        stack = self.stack_of(row)
        if not stack or row.members:
            return len(row.members) or None
        before = self._rows[number - 1] if number else None
        first = before is None or self.stack_of(before) != stack
        return sum(s.stack == stack for s in self._scenes.values()) if first else None

    def stack_of(self, row: Row) -> str:
        """Return the stack the scene of a row is in; nothing for none."""
        scene = self._scenes.get(row.scene or "")
        return "" if scene is None else scene.stack

    def ids_of(self, row: Row) -> tuple[str, ...]:
        """Return the ids of all scenes a row stands for."""
        return row.members or ((row.scene,) if row.scene is not None else ())

    def _of_set(self, row: Row, role: int) -> Any:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return row.set or ("In no set" if role == Qt.ItemDataRole.DisplayRole else "")
        if role == COUNT:
            return row.count
        if role == FOLDED:
            return row.set in self._session.project.folded_sets
        if role == Qt.ItemDataRole.ToolTipRole:
            return f"{row.set}: {row.count} scenes. Click to fold or unfold, F2 renames" if row.set else "Scenes in no set"
        return None

    def _of_scene(self, scene: Scene, role: int) -> Any:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return scene.name
        if role == ID:
            return scene.id
        if role == ASPECT:
            return scene.aspect
        if role == LOCKED:
            return scene.locked
        if role == TOUCHED:
            return bool(scene.touched)
        if role == PICTURE:
            return self._picture(scene)
        if role == PALE:
            return self._session.pictures.get(scene) is None
        if role == LINES:
            return self._freshness(scene)
        if role == Qt.ItemDataRole.ToolTipRole:
            number = self._numbers[scene.id]
            key = f" (Ctrl+{number + 1})" if number < 9 else ""
            change = "It is locked" if scene.locked else "Double-click its name to change it"
            touched = f".\nThe model has changed: {'; '.join(scene.touched)}" if scene.touched else ""
            return f"{scene.name}{key}. {change}, drag to reorder{LINES_SAID[self._freshness(scene)]}{touched}"
        return None

    def _freshness(self, scene: Scene) -> str:
        linework = self._session.linework
        return "none" if linework is None else linework.freshness(scene, self._session.project.site)

    def _picture(self, scene: Scene) -> QPixmap | None:
        """The picture of a scene; until there is one of how it is now, the one before."""
        data, known = self._session.pictures.get(scene), self._pixmaps.get(scene.id)
        if data is None:
            return None if known is None else known[1]
        if known is None or known[0] is not data:
            picture = QPixmap()
            picture.loadFromData(data)
            known = self._pixmaps[scene.id] = data, picture
            if len(self._pixmaps) > MOST:
                del self._pixmaps[next(iter(self._pixmaps))]
        return known[1]

    # What is done with it --------------------------------------------------------------------------------------

    def setData(self, index: Index, value: Any, role: int = Qt.ItemDataRole.EditRole) -> bool:
        row, session, name = self._rows[index.row()], self._session, str(value).strip()
        if role != Qt.ItemDataRole.EditRole or not name:
            return False
        scene_id = row.scene
        if scene_id is None:
            return session.attempt(lambda project: rename_set(project, row.set, name), f"Renamed the set {name}")
        return session.attempt(lambda project: edits.rename_scene(project, scene_id, name), "Renamed the scene")

    def supportedDropActions(self) -> Qt.DropAction:
        return Qt.DropAction.MoveAction

    def mimeTypes(self) -> list[str]:
        return [SCENES]

    def mimeData(self, indexes: Sequence[QModelIndex]) -> QMimeData:
        rows = sorted({index.row() for index in indexes})
        return drag_scenes(scene for i in rows for scene in self.ids_of(self._rows[i]))
