"""What the model's file says of the picked part: its property sets and quantities, searched and copied."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence, QShortcut
from PySide6.QtWidgets import QAbstractItemView, QApplication, QHeaderView, QLineEdit, QTreeWidget, QTreeWidgetItem

from anatome.app.base.work import Work, in_words
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Fold, label
from anatome.formats.properties import PropertyReader, PropertySets

MOST_LISTED = 2_000


def said(value: object) -> str:
    """Return a value as people read it."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:.6g}" if isinstance(value, float) else "" if value is None else str(value)


class PropertyBox(Fold):
    """Folded at first: a large file takes a few seconds until it answers for the first time."""

    def __init__(self, session: Session) -> None:
        super().__init__("Properties", "Property sets and quantities, as the file has them")
        self._session = session
        self._work = Work(self)
        self._reader: PropertyReader | None = None
        self._path: Path | None = None
        self._element: str | None = None
        self._sets: PropertySets = {}
        self.search = QLineEdit(placeholderText="Search properties", clearButtonEnabled=True)
        self.search.textChanged.connect(self._fill)
        self.note = label("", "soft")
        self.tree = QTreeWidget()
        self.tree.setColumnCount(2)
        self.tree.setHeaderHidden(True)
        self.tree.setRootIsDecorated(False)
        self.tree.setIndentation(8)
        self.tree.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.tree.setMinimumHeight(230)
        self.tree.header().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.tree.setToolTip("Ctrl+C copies what is selected, or all")
        copy = QShortcut(QKeySequence.StandardKey.Copy, self.tree)
        copy.setContext(Qt.ShortcutContext.WidgetShortcut)
        copy.activated.connect(self.copy)
        for widget in (self.search, self.note, self.tree):
            self.column.addWidget(widget)
        self.button.toggled.connect(self._unfolded)
        for signal in (session.opened, session.closed):
            signal.connect(self._forget)

    def _unfolded(self, on: bool) -> None:
        if on:
            self.show_element(self._element)

    def _forget(self) -> None:
        if self._reader is not None:
            self._reader.close()
        self._reader = self._path = self._element = None
        self._sets = {}

    def show_element(self, element_id: str | None) -> None:
        """Show what the file says of this part; None where there is not one part."""
        self._element = element_id
        self._work.cancel()
        self.setVisible(element_id is not None)
        if element_id is None or not self.open:
            return
        path, own_id = self._session.file_of(element_id)
        if path is None:
            return
        if self._reader is None or path != self._path:
            self._forget()
            self._element, self._path, self._reader = element_id, path, PropertyReader(path)
        reader = self._reader
        if not reader.can_have:
            self._tell({}, "Files of this kind carry no properties.")
            return
        self._tell({}, "Reading the file…")

        def done(found: PropertySets) -> None:
            self._tell(found, "" if found else "The file says nothing more about it.")

        def failed(error: Exception) -> None:
            self._tell({}, in_words(error))

        self._work.run(lambda told: reader.sets_of(own_id), done, failed)

    def _tell(self, sets: PropertySets, note: str) -> None:
        self._sets = sets
        self.note.setText(note)
        self.note.setVisible(bool(note))
        self.tree.setVisible(bool(sets))
        self.search.setVisible(bool(sets))
        self._fill()

    def _rows(self) -> Iterator[tuple[str, list[tuple[str, str]]]]:
        """What is searched for, or all: by sets, those with nothing to show left out."""
        wanted = self.search.text().strip().lower()
        for name, values in self._sets.items():
            rows = [(key, said(value)) for key, value in values.items()]
            if wanted and wanted not in name.lower():
                rows = [row for row in rows if wanted in " ".join(row).lower()]
            if rows:
                yield name, rows

    def _fill(self) -> None:
        """List them, as many as anybody would scroll through."""
        self.tree.clear()
        left = MOST_LISTED
        for name, rows in self._rows():
            top = QTreeWidgetItem([name])
            font = top.font(0)
            font.setBold(True)
            top.setFont(0, font)
            for key, value in rows[:left]:
                item = QTreeWidgetItem([key, value])
                item.setToolTip(0, key)
                item.setToolTip(1, value)
                top.addChild(item)
            self.tree.addTopLevelItem(top)
            top.setExpanded(True)
            top.setFirstColumnSpanned(True)
            left -= len(rows)
            if left < 0:
                more = QTreeWidgetItem([f"More than {MOST_LISTED:,} properties. Search for what you want; copying takes all."])
                more.setFlags(Qt.ItemFlag.NoItemFlags)
                self.tree.addTopLevelItem(more)
                more.setFirstColumnSpanned(True)
                return

    def copy(self) -> None:
        """Copy what is selected, or all that is searched for: name and value, with a tab between."""
        items = self.tree.selectedItems()
        if items:
            lines = [item.text(0) + (f"\t{item.text(1)}" if item.parent() is not None else "") for item in items]
        else:
            lines = [line for name, rows in self._rows() for line in (name, *(f"{key}\t{value}" for key, value in rows))]
        QApplication.clipboard().setText("\n".join(lines))
        self._session.said.emit(f"Copied {len(lines)} line{'s' * (len(lines) != 1)}")
