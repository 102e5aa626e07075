"""The last line of the window: what was done, and a command that goes with it."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSpacerItem

from anatome.app.base.actions import Actions, key_words

HEIGHT = 26
BEFORE_OFFER = 14
"""Pixels between what was said and what is offered."""


class StatusLine(QLabel):
    """``offer`` adds a command to what was just said; whatever is said next takes it away."""

    def __init__(self, actions: Actions) -> None:
        super().__init__()
        self._actions, self._offered = actions, ""
        self.setObjectName("status")
        self.setFixedHeight(HEIGHT)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 1)
        row.setSpacing(0)
        self._words = QSpacerItem(0, 0)
        row.addSpacerItem(self._words)
        self.offered = QPushButton()
        self.offered.setProperty("role", "offer")
        self.offered.clicked.connect(self._take)
        self.offered.hide()
        row.addWidget(self.offered)
        row.addStretch()

    def say(self, text: str) -> None:
        """Say what was done."""
        self.setText(text)
        self.offered.hide()

    def offer(self, name: str, words: str) -> None:
        """Offer a command that goes with what was just said, in a few words."""
        action = self._actions[name]
        if not action.isEnabled():
            return
        self._offered = name
        self.offered.setText(f"{words}  {key_words(action)}".strip())
        self.offered.setToolTip(action.toolTip())
        room = self.fontMetrics().horizontalAdvance(self.text()) + self.contentsMargins().left() + BEFORE_OFFER
        self._words.changeSize(room, 0)
        self.layout().invalidate()  # type: ignore[union-attr]
        self.offered.show()

    def _take(self) -> None:
        self.offered.hide()
        self._actions[self._offered].trigger()
