"""A colour as a button."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QPushButton


class Swatch(QPushButton):
    """A colour that a click changes; ``chosen`` is told the new one as sRGB 0..1. A ``coded`` one shows its code: its words stand
    beside it."""

    def __init__(self, words: str, chosen: Callable[[tuple[float, float, float]], None], coded: bool = False) -> None:
        super().__init__(words)
        self._words, self._chosen, self.colour, self._coded = words, chosen, QColor(), coded
        self.setToolTip(f"{words}: choose another colour")
        self.clicked.connect(self._choose)

    def show_colour(self, rgb: Sequence[float]) -> None:
        """Have this colour beside the words."""
        self.colour = QColor.fromRgbF(*rgb)
        if self._coded:
            self.setText(self.colour.name().upper())
        ink = "#FFFFFF" if self.colour.lightnessF() < 0.55 else "#22262B"
        self.setStyleSheet(f"QPushButton {{ background: {self.colour.name()}; color: {ink}; padding: 4px 6px; }}")

    def _choose(self) -> None:
        dialog = QColorDialog(self.colour, self)
        dialog.setOption(QColorDialog.ColorDialogOption.DontUseNativeDialog)
        dialog.setWindowTitle(self._words)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.colorSelected.connect(lambda c: self._chosen((c.redF(), c.greenF(), c.blueF())))
        dialog.open()
