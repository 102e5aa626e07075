"""The parts of the building as an item model: groups, their inner groups, and the elements, which have no object of their own."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QAbstractItemModel, QModelIndex, QPersistentModelIndex, Qt, Signal

from anatome.app.base import theme
from anatome.model.building import Building
from anatome.model.grouping import Group, Way, grouped
from anatome.words import plain_type

Index = QModelIndex | QPersistentModelIndex
BATCH = 400
"""Elements of a group handed to the view at a time; more follow as one scrolls."""
LEAF = 1 << 24
"""Ids from here on are those of elements, by the group they are in."""
Role = Qt.ItemDataRole


class _Node:
    """A group as listed: what of it matches the search, and how many of its elements the view has asked for."""

    def __init__(self, group: Group, parent: int, row: int) -> None:
        self.group, self.parent, self.row = group, parent, row
        self.members = group.members
        self.children: list[int] = []
        self.fetched = 0

    @property
    def is_last(self) -> bool:
        return not self.group.inner


class PartsModel(QAbstractItemModel):
    """Ticks say what is shown; ``ticked`` tells of a click on one."""

    ticked = Signal(object, bool, str)

    def __init__(self) -> None:
        super().__init__()
        self._building: Building | None = None
        self._nodes: list[_Node] = []
        self._tops: list[int] = []
        self._shown = np.empty(0, bool)
        self._node_of = np.empty(0, np.int64)
        self._texts: list[str] = []

    # Content ---------------------------------------------------------------------------------------------------

    def show_building(self, building: Building | None, way: Way, wanted: str) -> None:
        """List a building, in groups, as far as it matches a search."""
        self.beginResetModel()
        if building is not self._building:
            self._texts = []
        self._building = building
        self._nodes, self._tops = [], []
        if building is not None:
            if not self._texts:
                words = ((e.name, plain_type(e.type), e.type, e.material, e.layer, *e.groups) for e in building.elements)
                self._texts = ["\n".join(w).lower() for w in words]
            self._node_of = np.full(len(building.elements), -1)
            matches = self._matches(wanted.strip().lower())
            for group in grouped(building, way):
                self._add(group, -1, matches, wanted.strip().lower())
        self.endResetModel()

    def _matches(self, wanted: str) -> NDArray[np.bool_] | None:
        return np.fromiter((wanted in text for text in self._texts), bool, len(self._texts)) if wanted else None

    def _add(self, group: Group, parent: int, matches: NDArray[np.bool_] | None, wanted: str) -> None:
        """Enter a group and what is in it, leaving out what does not match; a group whose own name does is listed whole."""
        if matches is not None and wanted in self._called(group).lower():
            matches = None
        members = group.members if matches is None else group.members[matches[group.members]]
        if not len(members):
            return
        number = len(self._nodes)
        siblings = self._tops if parent < 0 else self._nodes[parent].children
        node = _Node(group, parent, len(siblings))
        node.members = members
        self._nodes.append(node)
        siblings.append(number)
        for inner in group.inner:
            self._add(inner, number, matches, wanted)
        if node.is_last:
            self._node_of[members] = number

    def set_shown(self, shown: NDArray[np.bool_]) -> None:
        """Which elements (E,) are not hidden; whoever shows this model paints anew."""
        self._shown = shown

    def _called(self, group: Group) -> str:
        return plain_type(group.name) if group.of == "type" else group.name

    # As Qt asks ------------------------------------------------------------------------------------------------

    def node(self, index: Index) -> _Node | None:
        """Return the group at an index, or None for an element and for nothing."""
        return self._nodes[index.internalId()] if index.isValid() and index.internalId() < LEAF else None

    def members(self, index: Index) -> NDArray[np.int64]:
        """Element numbers of what is at an index: one, or those of a group that match the search."""
        if not index.isValid():
            return np.empty(0, np.int64)
        node = self.node(index)
        if node is not None:
            return node.members
        return self._nodes[index.internalId() - LEAF].members[index.row() : index.row() + 1]

    def index(self, row: int, column: int, parent: Index = QModelIndex()) -> QModelIndex:  # noqa: B008
        if not parent.isValid():
            return self.createIndex(row, column, self._tops[row]) if row < len(self._tops) else QModelIndex()
        node = self.node(parent)
        if node is None:
            return QModelIndex()
        if node.is_last:
            return self.createIndex(row, column, LEAF + parent.internalId()) if row < node.fetched else QModelIndex()
        return self.createIndex(row, column, node.children[row]) if row < len(node.children) else QModelIndex()

    def parent(self, index: Index = QModelIndex()) -> QModelIndex:  # type: ignore[override]  # noqa: B008
        if not index.isValid():
            return QModelIndex()
        node = self.node(index)
        above = index.internalId() - LEAF if node is None else node.parent
        return QModelIndex() if above < 0 else self.createIndex(self._nodes[above].row, 0, above)

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        if not parent.isValid():
            return len(self._tops)
        node = self.node(parent)
        if node is None or parent.column() > 0:
            return 0
        return node.fetched if node.is_last else len(node.children)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 2

    def hasChildren(self, parent: Index = QModelIndex()) -> bool:  # noqa: B008
        return (not parent.isValid() and bool(self._tops)) or (self.node(parent) is not None and parent.column() == 0)

    def canFetchMore(self, parent: Index) -> bool:
        node = self.node(parent)
        return node is not None and node.is_last and node.fetched < len(node.members)

    def fetchMore(self, parent: Index) -> None:
        node = self.node(parent)
        if node is not None:
            self._fetch(node, parent, node.fetched + BATCH)

    def _fetch(self, node: _Node, parent: Index, until: int) -> None:
        until = min(until, len(node.members))
        if until > node.fetched:
            self.beginInsertRows(parent, node.fetched, until - 1)
            node.fetched = until
            self.endInsertRows()

    def place_of(self, element: int) -> QModelIndex:
        """Return where an element is listed; nowhere if it does not match the search."""
        number = int(self._node_of[element]) if element < len(self._node_of) else -1
        if number < 0:
            return QModelIndex()
        node = self._nodes[number]
        row = int(np.flatnonzero(node.members == element)[0])
        parent = self.createIndex(node.row, 0, number)
        self._fetch(node, parent, row + BATCH // 4)
        return self.index(row, 0, parent)

    def flags(self, index: Index) -> Qt.ItemFlag:
        plain = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return plain | Qt.ItemFlag.ItemIsUserCheckable if index.column() == 0 else plain

    def data(self, index: Index, role: int = Role.DisplayRole) -> Any:
        if not index.isValid() or self._building is None:
            return None
        node = self.node(index)
        if index.column() == 1:
            if role == Role.DisplayRole:
                return f"{len(node.members):,}" if node is not None else None
            if role == Role.TextAlignmentRole:
                return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            return theme.current_brush("ink_soft") if role == Role.ForegroundRole else None
        if role == Role.DisplayRole:
            if node is not None:
                return self._called(node.group)
            element = self._building.elements[self.members(index)[0]]
            return element.name or plain_type(element.type)
        if role == Role.CheckStateRole:
            shown = self._shown[self.members(index)]
            away = len(shown) - int(np.count_nonzero(shown))
            if not away:
                return Qt.CheckState.Checked
            return Qt.CheckState.Unchecked if away == len(shown) else Qt.CheckState.PartiallyChecked
        if role == Role.ToolTipRole and node is None:
            element = self._building.elements[self.members(index)[0]]
            return " · ".join(
                filter(None, (plain_type(element.type), element.name, element.material, element.layer, *element.groups[-1:]))
            )
        return None

    def setData(self, index: Index, value: Any, role: int = Role.EditRole) -> bool:
        if role != Role.CheckStateRole or not index.isValid():
            return False
        self.ticked.emit(self.members(index), Qt.CheckState(value) == Qt.CheckState.Checked, self.data(index))
        return True
