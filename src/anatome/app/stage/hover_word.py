"""A word beside the pointer, once it rests, that says what a click would pick."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QPointF, QTimer

from anatome.app.stage.overlay import Overlay

REST = 450
"""Milliseconds the pointer has to rest."""


class HoverWord(QObject):
    """``words`` says what there is at a place in pixels; nothing is shown where that is nothing."""

    def __init__(self, overlay: Overlay, words: Callable[[QPointF], str]) -> None:
        super().__init__(overlay)
        self._overlay, self._words, self._at, self._said = overlay, words, QPointF(), False
        self._rest = QTimer(self, singleShot=True, interval=REST)
        self._rest.timeout.connect(self._say)

    def move(self, at: QPointF) -> None:
        """The pointer is here now."""
        self.clear()
        self._at = at
        self._rest.start()

    def clear(self) -> None:
        """Say nothing, until the pointer rests again."""
        self._rest.stop()
        if self._said:
            self._said = False
            self._overlay.word = ""
            self._overlay.update()

    def _say(self) -> None:
        words = self._words(self._at)
        if words:
            self._said = True
            self._overlay.word, self._overlay.pointer = words, self._at
            self._overlay.update()
