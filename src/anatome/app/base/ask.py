"""A small dialog that asks for a few things before something is made."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget

from anatome.app.base.form_dialog import FormDialog
from anatome.app.base.numbers import CountBox, NumberField, amount_in
from anatome.app.base.units import read_length
from anatome.problems import Problem


class Ask(FormDialog):
    """Rows are added by the caller. ``do`` does what was asked for and may raise Problem."""

    def __init__(self, parent: QWidget, title: str, note: str, go: str, do: Callable[[Ask], None]) -> None:
        super().__init__(parent, title, go, 360, note)
        self._do = do
        self.choices: dict[str, QComboBox] = {}
        self.lengths: dict[str, NumberField] = {}
        self.texts: dict[str, QLineEdit] = {}
        self.counts: dict[str, CountBox] = {}

    def choice(self, name: str, entries: Sequence[tuple[str, object]], at: int = 0, tip: str = "") -> Ask:
        """Return a row that offers a few things."""
        made = QComboBox()
        for text, value in entries:
            made.addItem(text, value)
        made.setCurrentIndex(at)
        made.setToolTip(tip)
        self.form.addRow(name, made)
        self.choices[name] = made
        return self

    def words(self, name: str, text: str, tip: str = "") -> Ask:
        """Return a row with words."""
        made = QLineEdit(text)
        made.setToolTip(tip)
        self.form.addRow(name, made)
        self.texts[name] = made
        return self

    def text(self, name: str) -> str:
        """Return the words in a row."""
        return self.texts[name].text().strip()

    def length(self, name: str, value: float, tip: str = "") -> Ask:
        """Return a row with a length in metres."""
        made = NumberField("m", 0.1)
        made.show_value(value)
        made.setToolTip(tip)
        made.entered.connect(made.show_value)
        made.nudged.connect(made.show_value)
        self.form.addRow(name, made)
        self.lengths[name] = made
        return self

    def count(self, name: str, value: int, most: int) -> Ask:
        """Return a row with a number of things."""
        made = CountBox()
        made.setRange(1, most)
        made.setValue(value)
        self.form.addRow(name, made)
        self.counts[name] = made
        return self

    def chosen(self, name: str) -> object:
        """Return what a row offers now."""
        return self.choices[name].currentData()

    def number(self, name: str) -> int:
        """Return what a row offers now, where that is the number of something."""
        found = self.chosen(name)
        assert isinstance(found, int)
        return found

    def metres(self, name: str) -> float:
        """Return the length typed in a row. Raises Problem."""
        value = amount_in(self.lengths[name].text(), read_length, self.lengths[name].shown, True)
        if value is None:
            raise Problem(f"“{self.lengths[name].text()}” is not a length. Type one such as 1.2 m, 80 cm or 4' 6\".")
        return value

    def run(self) -> None:
        self._do(self)
