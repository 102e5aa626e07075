"""The parts of the building, in groups, searched; ticks say what is shown, and picking here is picking on the stage."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QItemSelection, QItemSelectionModel, QPoint, Qt, QTimer
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QPushButton,
    QTreeView,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base import theme
from anatome.app.base.actions import Actions
from anatome.app.document.session import Session
from anatome.app.panels.parts_model import PartsModel
from anatome.app.panels.unseen import UnseenSheet, count_words
from anatome.model.building import Building
from anatome.model.grouping import WAYS
from anatome.model.meaning import unsaid
from anatome.scenes import edits

MOST_SELECTED = 300
"""Rows marked as picked at most: more are not told apart by eye, and whole groups are counted on the stage."""
MOSTLY = 0.5
"""Share of the parts of which nothing says what they are, over which that is offered to be mended."""
MOST_OPENED = 12
"""Groups a search opens at most."""


def _mostly_unsaid(building: Building) -> bool:
    own = unsaid(building)[~building.context]
    return bool(len(own) and own.mean() > MOSTLY)


class Parts(QWidget):
    """Search and list."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        self._filling = False
        self.way = QComboBox()
        self.way.setProperty("role", "slim")
        self.way.setToolTip("What the parts are grouped by")
        for way in WAYS:
            self.way.addItem(f"By {way}", way)
        self.way.activated.connect(self.fill)
        self.search = QLineEdit(placeholderText="Search parts", clearButtonEnabled=True)
        self.search.setToolTip("Parts whose name, type, material or layer has these letters")
        self.search.setProperty("role", "slim")
        head = QHBoxLayout()
        head.setSpacing(4)
        head.addWidget(self.search, 1)
        head.addWidget(self.way)
        glass = self.search.addAction(QIcon(), QLineEdit.ActionPosition.LeadingPosition)
        theme.wear(glass, "magnifying-glass", "ink_faint")
        self._later = QTimer(self, singleShot=True, interval=60)
        self._later.timeout.connect(self.fill)
        self.search.textChanged.connect(self._later.start)
        self.model = PartsModel()
        self.model.ticked.connect(self._ticked)
        self.tree = QTreeView()
        self.tree.setModel(self.model)
        self.tree.setHeaderHidden(True)
        self.tree.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.tree.setUniformRowHeights(True)
        self.tree.setIndentation(14)
        header = self.tree.header()
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Fixed)
        header.resizeSection(1, 56)
        header.setStretchLastSection(False)
        self.tree.selectionModel().selectionChanged.connect(self._selected)
        self.aside = QPushButton()
        self.aside.setProperty("role", "quiet")
        self.aside.setToolTip("What is not seen, why, and how to show it again")
        self.sheet = UnseenSheet(session, actions, self)
        self.aside.clicked.connect(lambda: self.sheet.open_over(self.aside.mapToGlobal(QPoint(0, 0))))
        self.unsaid = QPushButton("Nothing says what these parts are…")
        self.unsaid.setProperty("role", "offer")
        self.unsaid.setToolTip("Types and storeys can be guessed, or given by hand and by rule, for cuts, looks and lists")
        self.unsaid.clicked.connect(actions["meaning"].trigger)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 8, 8, 2)
        layout.setSpacing(4)
        layout.addLayout(head)
        layout.addWidget(self.tree, 1)
        layout.addWidget(self.unsaid, 0, Qt.AlignmentFlag.AlignLeft)
        layout.addWidget(self.aside)
        session.opened.connect(self.fill)
        session.rebuilt.connect(self.fill)
        session.closed.connect(self.fill)
        for signal in (session.changed, session.recut):
            signal.connect(self._show_hidden)
        session.picked_changed.connect(self._show_picked)

    def fill(self) -> None:
        """List the building anew; what is picked stays picked."""
        self._later.stop()
        wanted = self.search.text()
        self._filling = True
        self._take_shown()
        self.model.show_building(self._session.building, self.way.currentData(), wanted)
        if wanted.strip():
            self._open_groups()
        self._filling = False
        building = self._session.building
        self.unsaid.setVisible(building is not None and _mostly_unsaid(building))
        self._show_hidden()
        self._show_picked()

    def _open_groups(self) -> None:
        """Open the first groups of what was found, so that one sees it."""
        opened = 0
        for row in range(self.model.rowCount()):
            top = self.model.index(row, 0)
            self.tree.expand(top)
            for inner in range(self.model.rowCount(top)):
                self.tree.expand(self.model.index(inner, 0, top))
                opened += 1
                if opened >= MOST_OPENED:
                    return

    def _take_shown(self) -> None:
        if self._session.building is not None:
            self.model.set_shown(self._session.shown())

    def _show_hidden(self) -> None:
        self._take_shown()
        self.tree.viewport().update()
        words = count_words(self._session)
        self.aside.setVisible(bool(words))
        self.aside.setText(words)

    def _ids(self, members: NDArray[np.int64]) -> frozenset[str]:
        building = self._session.building
        assert building is not None
        return frozenset(building.elements[i].id for i in members.tolist())

    def _ticked(self, members: NDArray[np.int64], on: bool, name: str) -> None:
        project, ids = self._session.project, self._ids(members)
        if on:
            self._session.apply(edits.show(project, ids), f"Shown: {name}")
        else:
            self._session.apply(edits.hide(project, ids), f"Hidden: {name}")

    def selected(self) -> NDArray[np.int64]:
        """Numbers of the elements that are selected here, themselves or by their group."""
        rows = self.tree.selectionModel().selectedRows()
        return np.unique(np.concatenate([np.empty(0, np.int64), *(self.model.members(row) for row in rows)]))

    def _selected(self, *_: object) -> None:
        if not self._filling and self._session.building is not None:
            self._filling = True
            self._session.pick(elements=self._ids(self.selected()))
            self._filling = False

    def _show_picked(self) -> None:
        """Mark what was picked elsewhere."""
        building, picked = self._session.building, self._session.picked.elements
        if self._filling or building is None:
            return
        self._filling = True
        chosen = QItemSelection()
        first = None
        for element_id in sorted(picked)[:MOST_SELECTED]:
            number = building.index_of.get(element_id)
            place = self.model.place_of(number) if number is not None else None
            if place is not None and place.isValid():
                chosen.select(place, place.siblingAtColumn(1))
                first = first or place
        flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
        self.tree.selectionModel().select(chosen, flags)
        if first is not None and len(picked) == 1:
            self.tree.scrollTo(first)
        self._filling = False
