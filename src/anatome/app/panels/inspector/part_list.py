"""Parts of one kind as a list, those of one name together; a click on a row is told which parts it is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtGui import QColor, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from anatome.app.panels.inspector.page import RowButton, bare_column, clear, label
from anatome.look.look import Rgb
from anatome.model.building import Building
from anatome.words import unnumbered

Chosen = Callable[[frozenset[str]], None]

MOST_ROWS = 20
"""Names that are listed of one kind; more are counted, and picked with the rest."""
SWATCH = 10
"""Pixels of the tint beside a heading."""


class PartList(QWidget):
    """A list of parts of one kind, with what it means, and the tint they have on the stage; nothing where there are none."""

    def __init__(self, title: str, chosen: Chosen, means: str = "", tint: Rgb | None = None, most: int = MOST_ROWS) -> None:
        super().__init__()
        self._chosen, self._most = chosen, most
        column = bare_column(self, 4)
        column.addSpacing(8)
        top = QHBoxLayout()
        top.setSpacing(6)
        if tint is not None:
            top.addWidget(_swatch(tint))
        top.addWidget(label(title, "section"), 1)
        column.addLayout(top)
        if means:
            column.addWidget(label(means + ".", "soft"))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(0)
        column.addLayout(self.rows)
        self.more = label("", "soft")
        column.addWidget(self.more)
        self.all = QPushButton("")
        self.all.setToolTip("For hiding them, giving them a look of their own, or saying what a cut does to them")
        self.all.clicked.connect(lambda: self._chosen(self._ids))
        column.addWidget(self.all)
        self._ids: frozenset[str] = frozenset()

    def show_parts(self, found: Sequence[Sequence[int]], building: Building) -> None:
        """List parts by their numbers, or pairs of them, those of one name together."""
        clear(self.rows)
        by_name: dict[str, list[str]] = {}
        for numbers in found:
            parts = [building.elements[i] for i in numbers]
            name = " and ".join(dict.fromkeys(unnumbered(part.name) or part.name or part.id for part in parts))
            by_name.setdefault(name, []).extend(part.id for part in parts)
        self._ids = frozenset(i for ids in by_name.values() for i in ids)
        for name, ids in list(by_name.items())[: self._most]:
            row = RowButton(f"{name}  ·  {len(ids)}" if len(ids) > 1 else name, "Pick it; Home then shows it whole")
            row.clicked.connect(partial(self._pick, frozenset(ids)))
            self.rows.addWidget(row)
        self.more.setText(f"and {len(by_name) - self._most:,} more")
        self.more.setVisible(len(by_name) > self._most)
        self.all.setText(f"Pick all {len(self._ids):,}")
        self.all.setVisible(len(by_name) > 1)
        self.setVisible(bool(found))

    def _pick(self, ids: frozenset[str], _: bool = False) -> None:
        self._chosen(ids)


def _swatch(tint: Rgb) -> QLabel:
    made = QLabel()
    pixmap = QPixmap(SWATCH, SWATCH)
    pixmap.fill(QColor.fromRgbF(*tint))
    made.setPixmap(pixmap)
    made.setFixedSize(SWATCH, SWATCH)
    return made
