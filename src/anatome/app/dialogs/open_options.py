"""Asking which way is up and what the unit is, for files that do not say."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QFormLayout, QLabel, QVBoxLayout, QWidget

from anatome.model.options import OpenOptions
from anatome.model.units import UNITS, plural


class OptionsDialog(QDialog):
    """Both questions are answered already; Return goes on."""

    def __init__(self, parent: QWidget, path: Path) -> None:
        super().__init__(parent)
        self.setWindowTitle("Open a model")
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 20)
        column.setSpacing(12)
        title = QLabel(f"Open {path.name}")
        title.setProperty("role", "title")
        note = QLabel("This kind of file does not always say how large it is or which way is up.")
        note.setProperty("role", "soft")
        column.addWidget(title)
        column.addWidget(note)
        self.up, self.unit = QComboBox(), QComboBox()
        for text, value in (("As such files usually have it", None), ("Z points up", "z"), ("Y points up", "y")):
            self.up.addItem(text, value)
        self.unit.addItem("By its size", None)
        for name in UNITS:
            self.unit.addItem(f"In {plural(name)}", name)
        form = QFormLayout()
        form.addRow("Upright", self.up)
        form.addRow("Lengths", self.unit)
        column.addLayout(form)
        buttons = QDialogButtonBox()
        buttons.addButton("Open", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def options(self) -> OpenOptions:
        return OpenOptions(up=self.up.currentData(), unit=self.unit.currentData(), near=True)


def ask_options(parent: QWidget, path: Path) -> OpenOptions | None:
    """Return the answers, or None when opening is given up."""
    dialog = OptionsDialog(parent, path)
    return dialog.options() if dialog.exec() == QDialog.DialogCode.Accepted else None
