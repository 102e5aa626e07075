"""A small dialog that asks for a few things before something is made."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QFormLayout, QLabel, QSpinBox, QVBoxLayout, QWidget

from anatome.app.numbers import NumberField, read_number
from anatome.problems import Problem


class Ask(QDialog):
    """A heading, rows added by the caller, and two buttons. ``run`` does what was asked for and may raise Problem."""

    def __init__(self, parent: QWidget, title: str, note: str, go: str, run: Callable[[Ask], None]) -> None:
        super().__init__(parent)
        self._run = run
        self.setWindowTitle(title)
        self.setMinimumWidth(360)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 20)
        column.setSpacing(12)
        heading = QLabel(title)
        heading.setProperty("role", "title")
        column.addWidget(heading)
        words = QLabel(note)
        words.setProperty("role", "soft")
        words.setWordWrap(True)
        column.addWidget(words)
        self._form = QFormLayout()
        self._form.setHorizontalSpacing(16)
        self._form.setVerticalSpacing(8)
        column.addLayout(self._form)
        self.problem = QLabel()
        self.problem.setProperty("role", "warning")
        self.problem.setWordWrap(True)
        self.problem.hide()
        column.addWidget(self.problem)
        buttons = QDialogButtonBox()
        self.go = buttons.addButton(go, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self._try)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.choices: dict[str, QComboBox] = {}
        self.lengths: dict[str, NumberField] = {}
        self.counts: dict[str, QSpinBox] = {}

    def choice(self, name: str, entries: Sequence[tuple[str, object]], at: int = 0, tip: str = "") -> Ask:
        """A row that offers a few things."""
        made = QComboBox()
        for text, value in entries:
            made.addItem(text, value)
        made.setCurrentIndex(at)
        made.setToolTip(tip)
        self._form.addRow(name, made)
        self.choices[name] = made
        return self

    def length(self, name: str, value: float, tip: str = "") -> Ask:
        """A row with a length in metres."""
        made = NumberField("m", 0.1)
        made.show_value(value)
        made.setToolTip(tip)
        made.entered.connect(made.show_value)
        made.nudged.connect(made.show_value)
        self._form.addRow(name, made)
        self.lengths[name] = made
        return self

    def count(self, name: str, value: int, most: int) -> Ask:
        """A row with a number of things."""
        made = QSpinBox()
        made.setRange(1, most)
        made.setValue(value)
        self._form.addRow(name, made)
        self.counts[name] = made
        return self

    def chosen(self, name: str) -> object:
        """What a row offers now."""
        return self.choices[name].currentData()

    def metres(self, name: str) -> float:
        """The length typed in a row. Raises Problem."""
        value = read_number(self.lengths[name].text())
        if value is None:
            raise Problem(f"“{self.lengths[name].text()}” is not a length. Type one such as 1.2 m or 80 cm.")
        return value

    def _try(self) -> None:
        try:
            self._run(self)
        except Problem as problem:
            self.problem.setText(str(problem))
            self.problem.show()
            return
        self.accept()
