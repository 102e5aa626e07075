"""A list of things to be ticked."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem

PICTURE = (60, 40)
"""Pixels of a picture in the list."""
MANY_PICTURES = 250
"""Pixels a list of pictures is high at the least."""


class Ticks(QListWidget):
    """Things to be ticked."""

    def __init__(self, names: Sequence[str], ticked: int) -> None:
        super().__init__()
        self.setProperty("role", "ticks")
        self.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.setMinimumHeight(170)
        self.set_names(names, set(names[:ticked]))

    def show_pictures(self, pictures: Sequence[bytes | None]) -> None:
        """Have a small picture (PNG) before each name, as far as there are any."""
        self.setProperty("pictured", True)
        self.setMinimumHeight(MANY_PICTURES)
        self.setIconSize(QSize(*PICTURE))
        for i, data in enumerate(pictures):
            picture = QPixmap()
            if data is not None and picture.loadFromData(data):
                self.item(i).setIcon(QIcon(picture))

    def set_names(self, names: Sequence[str], ticked: Collection[str]) -> None:
        """Have these in it."""
        self.clear()
        for name in names:
            item = QListWidgetItem(name, self)
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if name in ticked else Qt.CheckState.Unchecked)

    def allow(self, number: int, on: bool) -> None:
        """Let one be ticked, or not."""
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable
        self.item(number).setFlags(flags if on else Qt.ItemFlag.NoItemFlags)

    def tick_only(self, *numbers: int) -> None:
        """Have these ticked, and no others."""
        for i in range(self.count()):
            self.item(i).setCheckState(Qt.CheckState.Checked if i in numbers else Qt.CheckState.Unchecked)

    def ticked(self) -> list[int]:
        """Their numbers."""
        return [i for i in range(self.count()) if self.item(i).checkState() == Qt.CheckState.Checked]
