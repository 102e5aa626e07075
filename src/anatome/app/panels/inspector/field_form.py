"""A form made of the fields a cut has: one row for each, those of one row side by side, optional ones behind a switch."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QFormLayout, QHBoxLayout, QWidget

from anatome.app.base.numbers import NumberField
from anatome.cuts.cut import AnyCut
from anatome.cuts.kinds.grip import CutField


class FieldForm(QWidget):
    """Tells what was typed and never changes a cut itself; rows stay as long as the fields are the same."""

    entered = Signal(str, float)
    """A field's name and what it is to be."""
    nudged = Signal(str, float)
    """The same, one of a run."""
    switched = Signal(str, bool)
    """An optional field's name and whether it is wanted."""

    def __init__(self) -> None:
        super().__init__()
        self.rows = QFormLayout(self)
        self.rows.setContentsMargins(0, 6, 0, 0)
        self.rows.setVerticalSpacing(5)
        self._shown: tuple[CutField, ...] = ()
        self._kept: list[QWidget] = []
        self.fields: dict[str, NumberField] = {}
        self.switches: dict[str, QCheckBox] = {}

    def add_below(self, words: str, widget: QWidget) -> None:
        """Add a row that stays under those of the fields."""
        self.rows.addRow(words, widget)
        self._kept.append(widget)

    def show_fields(self, cut: AnyCut) -> None:
        """Show the numbers of a cut."""
        if cut.fields() != self._shown:
            self._build(cut.fields())
        for field in self._shown:
            value, number = cut.value(field.name), self.fields[field.name]
            number.setEnabled(value is not None)
            number.show_value(value or 0.0)
            if field.optional:
                self.switches[field.name].setChecked(value is not None)
            if value is None:
                number.setText("all there is")

    def _build(self, wanted: tuple[CutField, ...]) -> None:
        while self.rows.rowCount() > len(self._kept):
            self.rows.removeRow(0)
        self.fields, self.switches, self._shown = {}, {}, wanted
        for number, (words, group) in enumerate(groupby(wanted, key=lambda field: field.words)):
            self._row(number, words, list(group))

    def _row(self, number: int, words: str, group: Sequence[CutField]) -> None:
        made = [self._number(field, short=len(group) > 1) for field in group]
        whole: QWidget = made[0]
        if len(made) > 1:
            whole = QWidget()
            side_by_side = QHBoxLayout(whole)
            side_by_side.setContentsMargins(0, 0, 0, 0)
            side_by_side.setSpacing(3)
            for one in made:
                side_by_side.addWidget(one)
        if group[0].optional:
            switch = self.switches[group[0].name] = QCheckBox(words)
            switch.setToolTip(group[0].tip)
            switch.clicked.connect(lambda on, name=group[0].name: self.switched.emit(name, on))
            self.rows.insertRow(number, switch, whole)
        else:
            self.rows.insertRow(number, words, whole)

    def _number(self, field: CutField, short: bool) -> NumberField:
        made = self.fields[field.name] = NumberField(field.unit, field.step, short=short, below_zero=field.below_zero)
        made.setToolTip(f"{field.tip}. The wheel nudges it")
        made.entered.connect(lambda value, name=field.name: self.entered.emit(name, value))
        made.nudged.connect(lambda value, name=field.name: self.nudged.emit(name, value))
        return made
