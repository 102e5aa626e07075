"""The parts of the building: storeys or types, each with its elements; what is set aside can be brought back."""

from __future__ import annotations

import re

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from anatome.app import theme
from anatome.app.session import Session
from anatome.scenes import edits

IDS = Qt.ItemDataRole.UserRole


def plain_type(name: str) -> str:
    """“IfcStairFlight” as “Stair flight”."""
    if name == "IfcGeographicElement":
        return "Ground and planting"
    words = re.findall(r"[A-Z][a-z0-9]*", name.removeprefix("Ifc"))
    return " ".join([words[0], *(w.lower() for w in words[1:])]) if words else name


class Parts(QWidget):
    """Ticks say what is shown. Picking here is picking on the stage."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._filling = False
        self._hidden_shown: frozenset[str] | None = None
        title = QLabel("Parts")
        title.setProperty("role", "section")
        self.by_storey, self.by_type = QPushButton("Storeys"), QPushButton("Types")
        group = QButtonGroup(self)
        head = QHBoxLayout()
        head.addWidget(title)
        head.addStretch()
        head.setSpacing(4)
        for button in (self.by_storey, self.by_type):
            button.setCheckable(True)
            button.setProperty("role", "choice")
            group.addButton(button)
            head.addWidget(button)
        self.by_storey.setChecked(True)
        group.buttonClicked.connect(self.fill)
        self.search = QLineEdit(placeholderText="Search name, type, material", clearButtonEnabled=True)
        self.search.addAction(theme.icon("magnifying-glass", theme.current().ink_faint), QLineEdit.ActionPosition.LeadingPosition)
        self.search.textChanged.connect(self._filter)
        self.tree = QTreeWidget(columnCount=2)
        self.tree.setHeaderHidden(True)
        self.tree.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.tree.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.tree.header().setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.tree.header().setStretchLastSection(False)
        self.tree.setIndentation(14)
        self.tree.setUniformRowHeights(True)
        self.tree.itemChanged.connect(self._ticked)
        self.tree.itemSelectionChanged.connect(self._selected)
        self.aside = QPushButton()
        self.aside.setProperty("role", "quiet")
        self.aside.setToolTip("Show everything again (Ctrl+Shift+H)")
        self.aside.clicked.connect(lambda: session.apply(edits.show_all(session.project), "Brought everything back"))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 10, 8, 4)
        layout.setSpacing(6)
        layout.addLayout(head)
        layout.addWidget(self.search)
        layout.addWidget(self.tree, 1)
        layout.addWidget(self.aside)
        session.opened.connect(self.fill)
        session.changed.connect(self._show_hidden)
        session.picked_changed.connect(self._show_picked)

    def fill(self) -> None:
        """List the building anew."""
        building = self._session.building
        self.tree.clear()
        self._hidden_shown = None
        if building is None:
            return
        groups: dict[str, list[int]] = {}
        if self.by_storey.isChecked():
            by_storey = building.elements_by_storey()
            order: list[int | None] = [*sorted((k for k in by_storey if k is not None), reverse=True)]
            if None in by_storey:
                order.append(None)
            for key in order:
                name = "In no storey" if key is None else building.storeys[key].name
                groups.setdefault(name, []).extend(by_storey[key])
        else:
            for name in building.type_counts:
                groups[plain_type(name)] = [i for i, e in enumerate(building.elements) if e.type == name]
        self._filling = True
        for name, members in groups.items():
            top = self._row(name, str(len(members)), [building.elements[i].id for i in members])
            self.tree.addTopLevelItem(top)
            if self.by_storey.isChecked():
                kinds: dict[str, list[int]] = {}
                for i in members:
                    kinds.setdefault(plain_type(building.elements[i].type), []).append(i)
                for kind, inner in sorted(kinds.items()):
                    branch = self._row(kind, str(len(inner)), [building.elements[i].id for i in inner])
                    top.addChild(branch)
                    self._leaves(branch, inner)
            else:
                self._leaves(top, members)
        self._filling = False
        self._show_hidden()
        self._filter(self.search.text())

    def _leaves(self, parent: QTreeWidgetItem, members: list[int]) -> None:
        building = self._session.building
        assert building is not None
        for i in sorted(members, key=lambda i: building.elements[i].name):
            element = building.elements[i]
            leaf = self._row(element.name or plain_type(element.type), "", [element.id])
            leaf.setToolTip(0, " · ".join(filter(None, [plain_type(element.type), element.name, element.material])))
            leaf.setData(1, IDS, f"{element.name} {element.type} {element.material}".lower())
            parent.addChild(leaf)

    @staticmethod
    def _row(name: str, count: str, ids: list[str]) -> QTreeWidgetItem:
        item = QTreeWidgetItem([name, count])
        item.setData(0, IDS, ids)
        item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
        item.setForeground(1, theme.current_brush("ink_soft"))
        item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return item

    def _tops(self) -> list[QTreeWidgetItem]:
        return [item for i in range(self.tree.topLevelItemCount()) if (item := self.tree.topLevelItem(i)) is not None]

    @staticmethod
    def _children(parent: QTreeWidgetItem) -> list[QTreeWidgetItem]:
        return [item for i in range(parent.childCount()) if (item := parent.child(i)) is not None]

    def _every(self) -> list[QTreeWidgetItem]:
        found: list[QTreeWidgetItem] = []
        waiting = self._tops()
        while waiting:
            item = waiting.pop()
            found.append(item)
            waiting.extend(self._children(item))
        return found

    def _show_hidden(self) -> None:
        hidden = self._session.stage.hidden if self._session.is_open else frozenset()
        if hidden is self._hidden_shown:
            return
        self._hidden_shown = hidden
        self._filling = True
        for item in self._every():
            ids = item.data(0, IDS)
            away = sum(i in hidden for i in ids)
            state = (
                Qt.CheckState.Checked
                if away == 0
                else Qt.CheckState.Unchecked
                if away == len(ids)
                else Qt.CheckState.PartiallyChecked
            )
            if item.checkState(0) != state or item.data(0, Qt.ItemDataRole.CheckStateRole) is None:
                item.setCheckState(0, state)
        self._filling = False
        self.aside.setVisible(bool(hidden))
        self.aside.setText(f"{len(hidden)} set aside. Bring all back")

    def _ticked(self, item: QTreeWidgetItem, column: int) -> None:
        if self._filling or column != 0:
            return
        project, ids, name = self._session.project, item.data(0, IDS), item.text(0)
        if item.checkState(0) == Qt.CheckState.Unchecked:
            self._session.apply(edits.hide(project, ids), f"Set aside {name}")
        else:
            self._session.apply(edits.show(project, ids), f"Brought back {name}")

    def _selected(self) -> None:
        if not self._filling:
            ids = frozenset(i for item in self.tree.selectedItems() for i in item.data(0, IDS))
            self._session.pick_elements(ids)

    def _show_picked(self) -> None:
        picked = self._session.picked_elements
        current = frozenset(i for item in self.tree.selectedItems() for i in item.data(0, IDS))
        if picked == current:
            return
        self._filling = True
        self.tree.clearSelection()
        first = None
        for item in self._every():
            ids = item.data(0, IDS)
            if item.childCount() == 0 and len(ids) == 1 and ids[0] in picked:
                item.setSelected(True)
                first = first or item
        if first is not None and len(picked) == 1:
            self.tree.scrollToItem(first)
        self._filling = False

    def _filter(self, text: str) -> None:
        wanted = text.strip().lower()

        def keep(item: QTreeWidgetItem, above: bool) -> bool:
            own = above or wanted in item.text(0).lower() or wanted in (item.data(1, IDS) or "")
            below = [keep(child, own) for child in self._children(item)]
            visible = own or any(below)
            item.setHidden(not visible)
            if wanted and any(below) and not own:
                item.setExpanded(True)
            return visible

        for item in self._tops():
            keep(item, not wanted)
