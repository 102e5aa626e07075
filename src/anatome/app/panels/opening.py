"""What the window shows while a model is being read."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget


class OpeningPage(QWidget):
    """Name, progress, and a way out."""

    cancelled = Signal()

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.setSpacing(12)
        self.title = QLabel()
        self.title.setProperty("role", "title")
        self.doing = QLabel()
        self.doing.setProperty("role", "soft")
        self.bar = QProgressBar(textVisible=False, maximum=1000)
        self.bar.setFixedWidth(380)
        self.cancel = QPushButton("Cancel")
        self.cancel.setToolTip("Give up; what was open stays open (Esc)")
        self.cancel.clicked.connect(self.cancelled)
        column.addWidget(self.title)
        column.addWidget(self.bar)
        column.addWidget(self.doing)
        column.addWidget(self.cancel, alignment=Qt.AlignmentFlag.AlignLeft)

    def begin(self, name: str) -> None:
        self.title.setText(f"Opening {name}")
        self.show_progress(0.0, "Looking for the file")

    def show_progress(self, share: float, doing: str) -> None:
        """``share`` runs from 0 to 1."""
        self.bar.setValue(round(share * 1000))
        self.doing.setText(doing)
