"""A picture laid on surfaces: one the look has or one from a file, and how wide it is there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QWidget

from anatome.app.base.numbers import NumberField
from anatome.look.look import Picture
from anatome.look.pictures import read_picture
from anatome.problems import Problem

FILE = "\0file"
AS_LOOK = "As the look has it"
NARROWEST, WIDEST = 0.01, 1000.0
"""Metres."""


class TextureRow(QWidget):
    """``chosen`` is told the name of a picture (nothing for none, None for what the look has) and, if the look is to have it or
    to have it otherwise, the picture; ``warn`` why a file is none."""

    def __init__(self, chosen: Callable[[str | None, Picture | None], None], warn: Callable[[str], None]) -> None:
        super().__init__()
        self._chosen, self._warn = chosen, warn
        self._known: dict[str, Picture] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.which = QComboBox()
        self.which.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.which.setMinimumContentsLength(2)
        self.which.setToolTip("A picture laid on surfaces, at real size")
        self.which.activated.connect(self._choose)
        self.wide = NumberField("m", 0.1, below_zero=False)
        self.wide.show_value(1.0)
        self.wide.setFixedWidth(60)
        self.wide.setToolTip("How wide the picture is on a surface; it repeats")
        self.wide.entered.connect(self._size)
        self.wide.nudged.connect(self._size)
        row.addWidget(self.which, 1)
        row.addWidget(self.wide)

    def show_known(self, known: Sequence[Picture], named: str | None) -> None:
        """Offer the pictures a look has; ``named`` is on the surfaces."""
        self._known = {picture.name: picture for picture in known}
        self.which.clear()
        self.which.addItem(AS_LOOK, None)
        self.which.addItem("No texture", "")
        for name in self._known:
            self.which.addItem(name, name)
        self.which.addItem("From a file…", FILE)
        self.which.setCurrentIndex(1 if named == "" else max(self.which.findText(named), 0) if named else 0)
        if named in self._known:
            self.wide.show_value(self._known[named].metres)

    def _choose(self, number: int) -> None:
        named = self.which.itemData(number)
        if named != FILE:
            self._chosen(named, None)
            return
        name, _ = QFileDialog.getOpenFileName(self, "A picture for surfaces", "", "Pictures (*.png *.jpg *.jpeg)")
        if name:
            self.take(Path(name))
        else:
            self._chosen(None, None)

    def take(self, path: Path) -> None:
        """Lay the picture in a file on the surfaces."""
        try:
            picture = read_picture(path, min(max(self.wide.shown, NARROWEST), WIDEST))
        except Problem as problem:
            self.which.setCurrentIndex(0)
            self._warn(str(problem))
            return
        self._chosen(picture.name, picture)

    def _size(self, metres: float) -> None:
        picture = self._known.get(self.which.currentText())
        wide = min(max(metres, NARROWEST), WIDEST)
        if picture is None:
            self.wide.show_value(wide)
        else:
            self._chosen(picture.name, picture.model_copy(update={"metres": wide}))
