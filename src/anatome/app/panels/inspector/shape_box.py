"""How a line or an area that was drawn by hand looks."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QFormLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anatome.app.base.numbers import NumberField
from anatome.app.base.swatch import Swatch
from anatome.app.commands.notes import NoteCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import narrow_choice
from anatome.look.look import WEIGHTS
from anatome.notes.note import AnyNote, Shape

LINES = (("Whole", None), ("Dashed", "dashed"), ("Dotted", "dotted"))


class ShapeBox(QWidget):
    """For shapes alone."""

    def __init__(self, session: Session, commands: NoteCommands) -> None:
        super().__init__()
        self._session, self._commands = session, commands
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        self.form = QFormLayout()
        self.weight = narrow_choice()
        self.weight.addItem("As all notes", None)
        for weight in WEIGHTS:
            self.weight.addItem(f"{weight:.2f} mm", weight)
        self.weight.activated.connect(lambda i: self._set("Weight of the line", weight=self.weight.itemData(i)))
        self.form.addRow("Weight", self.weight)
        self.dashes = narrow_choice()
        for words, dashes in LINES:
            self.dashes.addItem(words, dashes)
        self.dashes.activated.connect(lambda i: self._set("Dashes of the line", dashes=self.dashes.itemData(i)))
        self.form.addRow("Line", self.dashes)
        self.hatch = narrow_choice()
        self.hatch.activated.connect(lambda i: self._set("Hatch of the area", hatch=self.hatch.itemData(i)))
        self.form.addRow("Hatch", self.hatch)
        self.scale = NumberField("×", 0.1, below_zero=False)
        self.scale.setToolTip("How many times as far apart the lines of its hatch lie")
        self.scale.entered.connect(lambda value: self._set("Scale of the hatch", hatch_scale=min(max(value, 0.05), 100.0)))
        self.form.addRow("Its scale", self.scale)
        column.addLayout(self.form)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.colour = Swatch("Ink", lambda rgb: self._set("Ink of the shape", colour=rgb))
        self.fill = Swatch("Fill", lambda rgb: self._set("Fill of the area", fill=rgb))
        self.no_fill = QPushButton("No fill")
        self.no_fill.clicked.connect(lambda: self._set("No fill", fill=None))
        for widget in (self.colour, self.fill, self.no_fill):
            row.addWidget(widget)
        column.addLayout(row)
        self.closed = QCheckBox("Closed")
        self.closed.setToolTip("From the last corner back to the first; then it may have a hatch and a fill")
        self.closed.clicked.connect(lambda on: self._set("Closed" if on else "Open", closed=on))
        self.outlined = QCheckBox("A line round it")
        self.outlined.clicked.connect(lambda on: self._set(f"A line round it: {'on' if on else 'off'}", outlined=on))
        column.addWidget(self.closed)
        column.addWidget(self.outlined)

    def _set(self, said: str, **changes: object) -> None:
        self._commands.change(said, None, **changes)

    def show_notes(self, notes: tuple[AnyNote, ...]) -> None:
        """Show the first of the picked ones, if all are shapes."""
        shapes = [note for note in notes if isinstance(note, Shape)]
        self.setVisible(bool(shapes) and len(shapes) == len(notes))
        if not shapes or len(shapes) != len(notes):
            return
        one, look = shapes[0], self._session.stage.look
        self.weight.setCurrentIndex(max(self.weight.findData(one.weight), 0))
        self.dashes.setCurrentIndex(max(self.dashes.findData(one.dashes), 0))
        self.hatch.clear()
        self.hatch.addItem("None", "")
        for name, hatch in look.known_hatches.items():
            self.hatch.addItem(hatch.words, name)
        self.hatch.setCurrentIndex(max(self.hatch.findData(one.hatch), 0))
        self.scale.show_value(one.hatch_scale)
        self.colour.show_colour(one.colour or look.ink)
        self.fill.show_colour(one.fill or look.paper)
        self.closed.setChecked(one.closed)
        self.outlined.setChecked(one.outlined)
        rows: tuple[QWidget, ...] = (self.hatch, self.scale)
        for row in rows:
            self.form.setRowVisible(row, one.closed)
        areas: tuple[QWidget, ...] = (self.fill, self.no_fill, self.outlined)
        for widget in areas:
            widget.setVisible(one.closed)
        self.no_fill.setEnabled(one.fill is not None)
