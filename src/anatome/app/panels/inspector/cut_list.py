"""What the picked cut slices: by material and part, with areas, and what could not be closed."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base import theme, units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Fold, bare_column, clear, label
from anatome.app.stage.stage import Stage
from anatome.cuts.gaps import Gap
from anatome.cuts.kinds.base import FAR_END
from anatome.cuts.report import CutRow, csv_text, totals, what_is_cut
from anatome.files import write_whole
from anatome.problems import Problem
from anatome.words import plain_type

IDS = Qt.ItemDataRole.UserRole
ROOM = 0.75
"""Metres shown round a gap that is zoomed to."""
MOST_GAPS = 40


class CutList(QWidget):
    """Filled a moment after the last change, so that dragging a cut stays light."""

    def __init__(self, session: Session, stage: Stage, actions: Actions) -> None:
        super().__init__()
        self._session, self._stage = session, stage
        self.rows: list[CutRow] = []
        self._marked: frozenset[str] = frozenset()
        column = bare_column(self)
        self.total = label("", "soft")
        column.addWidget(self.total)
        self.tree = QTreeWidget(columnCount=2)
        self.tree.setHeaderHidden(True)
        self.tree.setIndentation(12)
        self.tree.setUniformRowHeights(True)
        self.tree.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.tree.setMinimumHeight(150)
        self.tree.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.tree.header().setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.tree.header().setStretchLastSection(False)
        self.tree.setToolTip("By material. A row picked here is marked on the stage; a double click goes to it")
        self.tree.itemSelectionChanged.connect(self._mark)
        self.tree.itemDoubleClicked.connect(self._go)
        column.addWidget(self.tree)
        buttons = QHBoxLayout()
        buttons.setSpacing(4)
        self.copy = QPushButton("Copy")
        self.copy.setToolTip("Copy the list as a table, to paste into a spreadsheet")
        self.copy.clicked.connect(self._copy)
        self.save = QPushButton("Save CSV…")
        self.save.setToolTip("Write the list as comma-separated values")
        self.save.clicked.connect(self._save)
        buttons.addWidget(self.copy)
        buttons.addWidget(self.save)
        column.addLayout(buttons)
        column.addWidget(panel_button(actions["measure"]))
        self.gaps = Fold("Outlines that do not close", "Click one to go there")
        self.gap_rows = QVBoxLayout()
        self.gap_rows.setSpacing(1)
        self.gaps.column.addLayout(self.gap_rows)
        column.addWidget(self.gaps)
        self._later = QTimer(self, singleShot=True, interval=160)
        self._later.timeout.connect(self.fill)
        self._shown: object = None

    def refresh(self) -> None:
        """Show what the picked cut slices now, in a moment."""
        if self._session.cut is not None and self._key() != self._shown:
            self._later.start()

    def _key(self) -> object:
        stage = self._session.stage
        return (stage.cuts, stage.hidden, stage.treatments, stage.poche, self._session.picked.cut, theme.current().name)

    def fill(self) -> None:
        """Fill the list."""
        session, cut = self._session, self._session.cut
        if cut is None or session.building is None:
            return
        self._shown = self._key()
        # Where a depth ends nothing is cut that the cut face does not show already.
        details = [face for part in session.on_stage().parts if part.detail for face in part.cut_open.faces_of(cut.id)]
        faces = [f for f in session.left().faces_of(cut.id) or details if f.name != FAR_END]
        self.rows = what_is_cut(session.building, faces)
        if self._marked and session.marked == self._marked:
            session.mark(frozenset())
        self.tree.blockSignals(True)
        self.tree.clear()
        for material, count, area in totals(self.rows):
            top = _row(f"{material}  ({count})", area, [])
            for row in self.rows:
                if (row.material or "No material") == material:
                    child = _row(row.name or plain_type(row.type), row.area, [row.id])
                    child.setToolTip(0, " · ".join(filter(None, (row.name, plain_type(row.type), row.layer, row.storey))))
                    top.addChild(child)
            self.tree.addTopLevelItem(top)
        self.tree.blockSignals(False)
        whole = sum(r.area for r in self.rows)
        many = len(self.rows)
        said = f"{many} part{'s' * (many != 1)}, {units.area(whole)} in all"
        self.total.setText(said if many else "Nothing. It lies beside the building.")
        for button in (self.copy, self.save):
            button.setEnabled(bool(many))
        self._show_gaps([g for f in faces for g in f.section.gaps], sum(len(f.section.open_outlines) for f in faces))

    def _show_gaps(self, gaps: list[Gap], lines: int) -> None:
        clear(self.gap_rows)
        left = [g for g in gaps if not g.closed]
        closed = [g for g in gaps if g.closed]
        self.gaps.setVisible(bool(gaps) or lines > 0)
        self.gaps.button.setText(f"Outlines that do not close: {len(left)}" + (f", {len(closed)} mended" if closed else ""))
        building = self._session.building
        assert building is not None
        for gap in [*left, *closed][:MOST_GAPS]:
            element = building.elements[gap.element]
            state = "closed" if gap.closed else "open, drawn as a line"
            button = QPushButton(f"{element.name or plain_type(element.type)}: {units.small(gap.width)}, {state}")
            button.setProperty("role", "quiet")
            button.setToolTip("Go there")
            button.clicked.connect(lambda _=False, gap=gap: self._zoom(np.array(gap.point), ROOM))
            self.gap_rows.addWidget(button)

    # Doing -----------------------------------------------------------------------------------------------------

    def _ids(self) -> list[str]:
        ids: list[str] = []
        for item in self.tree.selectedItems():
            inner = [child for k in range(item.childCount()) if (child := item.child(k)) is not None]
            ids += item.data(0, IDS) or [i for child in inner for i in child.data(0, IDS)]
        return ids

    def _mark(self) -> None:
        self._marked = frozenset(self._ids())
        self._session.mark(self._marked)

    def _go(self, item: QTreeWidgetItem, _: int) -> None:
        building, ids = self._session.building, item.data(0, IDS)
        if building is not None and ids:
            low, high = building.element_bounds[building.index_of[ids[0]]]
            self._zoom((low + high) / 2, max(float(np.max(high - low)) / 2, ROOM))

    def _zoom(self, point: np.ndarray, room: float) -> None:
        camera = self._session.stage.camera
        self._session.look_from(camera.fitted(np.stack([point - room, point + room]), self._stage.aspect))

    def _copy(self) -> None:
        QGuiApplication.clipboard().setText(csv_text(self.rows, "\t"))
        self._session.said.emit(f"Copied {len(self.rows)} rows")

    def _save(self) -> None:
        cut = self._session.cut
        assert cut is not None
        path = self._session.project_path
        suggestion = (path.parent if path else Path.home()) / f"{cut.name}.csv"
        name, _ = QFileDialog.getSaveFileName(self, "Save what is cut", str(suggestion), "Tables (*.csv)")
        if not name:
            return
        try:
            write_whole(Path(name), csv_text(self.rows).encode())
        except Problem as problem:
            self._session.said.emit(str(problem))
            return
        self._session.said.emit(f"Wrote {len(self.rows)} rows to {name}")


def _row(words: str, area: float, ids: list[str]) -> QTreeWidgetItem:
    item = QTreeWidgetItem([words, units.area(area, 2 if area >= 0.005 or not area else 4)])
    item.setData(0, IDS, ids)
    item.setTextAlignment(1, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    item.setForeground(1, theme.current_brush("ink_soft"))
    return item
