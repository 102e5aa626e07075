"""What of a sheet is set once: its revision and date, the grid it is laid out on, what its paper is tinted with."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QFormLayout, QLineEdit, QPushButton

from anatome.app.base.side_by_side import side_by_side
from anatome.app.base.swatch import Swatch
from anatome.app.panels.inspector.page import Fold, narrow_choice
from anatome.sheets.sheet import Sheet

GRIDS = (2.5, 5.0, 10.0, 20.0, 25.0, 50.0, 100.0)
"""Mm from line to line."""


class PaperMore(Fold):
    """``change`` is told what was done in words, and what of the sheet is otherwise."""

    def __init__(self, change: Callable[..., None]) -> None:
        super().__init__("Revision, grid and ground", "Of this sheet alone")
        form = QFormLayout()
        self.revision, self.date = QLineEdit(), QLineEdit()
        self.revision.setToolTip("In the title block, in lists of sheets, and as {revision} in text")
        self.date.setToolTip("Nothing: that of all title blocks")
        self.revision.editingFinished.connect(lambda: change("Revision", revision=self.revision.text().strip()[:20]))
        self.date.editingFinished.connect(lambda: change("Date of the sheet", date=self.date.text().strip()[:100]))
        form.addRow("Revision", self.revision)
        form.addRow("Date", self.date)
        self.grid = narrow_choice()
        self.grid.addItem("None", None)
        for size in GRIDS:
            self.grid.addItem(f"{size:g} mm", size)
        self.grid.setToolTip("Blocks that are moved or sized are drawn to its lines; it is never printed. Ctrl lets them go free")
        self.grid.activated.connect(lambda i: change("Grid of the sheet", grid=self.grid.itemData(i)))
        form.addRow("Grid", self.grid)
        self.column.addLayout(form)
        self.ground = Swatch("Ground", lambda rgb: change("Ground of the sheet", ground=rgb))
        self.white = QPushButton("White")
        self.white.setToolTip("As the paper is")
        self.white.clicked.connect(lambda: change("White ground", ground=None))
        self.column.addLayout(side_by_side(self.ground, self.white))

    def show_sheet(self, sheet: Sheet, date: str) -> None:
        """Show what a sheet has; ``date`` is that of all."""
        for field, text in ((self.revision, sheet.revision), (self.date, sheet.date)):
            if not field.hasFocus():
                field.setText(text)
        self.date.setPlaceholderText(date)
        place = self.grid.findData(sheet.grid)
        if place < 0:
            self.grid.addItem(f"{sheet.grid:g} mm", sheet.grid)
            place = self.grid.count() - 1
        self.grid.setCurrentIndex(place)
        self.ground.show_colour(sheet.ground or (1.0, 1.0, 1.0))
        self.white.setEnabled(sheet.ground is not None)
