"""What the pages of the inspector are made of."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLayout,
    QPushButton,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base import theme

ARROW_ROOM = 26
"""Pixels of a heading that its words do not have."""
ROW_MARGINS = 14
"""The same of a row."""


class _Wrapping(QLabel):
    """Words that wrap and are never cut off at their foot: forms forget to ask again when they get narrower."""

    def __init__(self, text: str) -> None:
        super().__init__(text)
        self.setWordWrap(True)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._keep_height()

    def setText(self, text: str) -> None:
        super().setText(text)
        self._keep_height()

    def _keep_height(self) -> None:
        needed = self.heightForWidth(self.width()) if self.text() else 0
        if needed != self.minimumHeight():
            self.setMinimumHeight(max(needed, 0))


def label(text: str = "", role: str = "") -> QLabel:
    """Words that wrap."""
    made = _Wrapping(text)
    if role:
        made.setProperty("role", role)
    return made


def bare_column(holder: QWidget, spacing: int = 5) -> QVBoxLayout:
    """Return a column without margins that fills a widget."""
    column = QVBoxLayout(holder)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(spacing)
    return column


def section(layout: QVBoxLayout, text: str) -> QLabel:
    """Return a heading, with some room before it."""
    layout.addSpacing(8)
    made = label(text, "section")
    layout.addWidget(made)
    return made


def switches(
    layout: QVBoxLayout,
    entries: Sequence[tuple[str, str, str]],
    run: Callable[[str, str, bool], None],
    columns: int,
) -> dict[str, QCheckBox]:
    """Check boxes of (key, words, tooltip) by their key; ``run`` is told key, words and whether it is on."""
    made = {}
    grid = QGridLayout()
    grid.setVerticalSpacing(2)
    for i, (key, text, tip) in enumerate(entries):
        box = QCheckBox(text)
        box.setToolTip(tip)
        box.clicked.connect(lambda on, key=key, text=text: run(key, text, on))
        made[key] = box
        grid.addWidget(box, i // columns, i % columns)
    layout.addLayout(grid)
    return made


def narrow_choice() -> QComboBox:
    """Return a choice that is no wider than the panel, however long what it offers."""
    made = QComboBox()
    made.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    made.setMinimumContentsLength(8)
    made.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
    return made


def away_button(tip: str) -> QPushButton:
    """Return the small cross at the end of a row that deletes what it says."""
    made = QPushButton()
    theme.wear(made, "x")
    made.setProperty("role", "quiet")
    made.setFixedWidth(26)
    made.setToolTip(tip)
    return made


def _fit_words(button: QAbstractButton, words: str, tip: str, margins: int) -> None:
    """Show what of the words finds room on a button, and all of them in its tip if they do not."""
    shown = button.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, max(button.width() - margins, 20))
    button.setText(shown)
    button.setToolTip(tip if shown == words else f"{words}\n{tip}".strip())


class RowButton(QPushButton):
    """A button that is a row of a list: never wider than its page; what finds no room is in its tip."""

    def __init__(self, words: str, tip: str) -> None:
        super().__init__()
        self._words, self._tip = words, tip
        self.setProperty("role", "quiet")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        _fit_words(self, self._words, self._tip, ROW_MARGINS)


class Choices(QWidget):
    """A row of buttons of which one is down."""

    def __init__(self, entries: Iterable[tuple[str, str, str]], run: Callable[[str], None]) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self._group = QButtonGroup(self)
        self.buttons: dict[str, QPushButton] = {}
        for key, text, tip in entries:
            button = QPushButton(text)
            button.setCheckable(True)
            button.setProperty("role", "choice")
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, key=key: run(key))
            self._group.addButton(button)
            row.addWidget(button)
            self.buttons[key] = button

    def show_choice(self, key: str) -> None:
        """Have this one down."""
        self.buttons[key].setChecked(True)


class Page(QWidget):
    """A column of the inspector."""

    def __init__(self) -> None:
        super().__init__()
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(16, 12, 16, 12)
        self.column.setSpacing(6)

    def refresh(self) -> None:
        """Show what is picked as it is now."""
        raise NotImplementedError


class Heading(QToolButton):
    """The row of a section that folds it away: as wide as its page, never wider; what finds no room is in its tip."""

    def __init__(self, title: str, tip: str) -> None:
        super().__init__()
        self._words, self._tip = title, tip
        self.setProperty("role", "fold")
        self.setCheckable(True)
        self.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.setArrowType(Qt.ArrowType.RightArrow)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self._fit()

    def say(self, words: str) -> None:
        """Say something else."""
        self._words = words
        self._fit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        _fit_words(self, self._words, self._tip, ARROW_ROOM)


class Fold(QWidget):
    """A heading that folds what is under it away; folded at first unless it is ``open``."""

    def __init__(self, title: str, tip: str = "", open: bool = False) -> None:
        super().__init__()
        self.name, self.open_at_first, self._there = title, open, False
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 1, 0, 0)
        outer.setSpacing(2)
        self.button = Heading(title, tip)
        outer.addWidget(self.button)
        self.content = QWidget()
        self.column = QVBoxLayout(self.content)
        self.column.setContentsMargins(0, 0, 0, 3)
        self.column.setSpacing(5)
        outer.addWidget(self.content)
        self.content.hide()
        self.button.toggled.connect(self._show)
        self.button.setChecked(open)

    def _show(self, on: bool) -> None:
        self.content.setVisible(on)
        self.button.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)

    def show_news(self, there: bool) -> None:
        """Unfold when what it is about comes to be ``there``, but never under the hand; how it was left is
        remembered as before."""
        holder = self.parentWidget()
        if there and not self._there and not (holder is not None and holder.underMouse()):
            self.button.setChecked(True)
        self._there = there

    def say(self, words: str) -> None:
        """Say something in the heading, behind its name."""
        self.button.say(f"{self.name}  ·  {words}" if words else self.name)

    @property
    def open(self) -> bool:
        return self.button.isChecked()


def folded(layout: QVBoxLayout, title: str, *widgets: QWidget, tip: str = "", open: bool = True) -> Fold:
    """Return a section of a page that folds away."""
    made = Fold(title, tip, open)
    for widget in widgets:
        made.column.addWidget(widget)
    layout.addWidget(made)
    return made


def remember_folds(holder: QWidget, settings: QSettings) -> None:
    """Have all sections of a panel as they were left, and remember how they are left."""
    for fold in holder.findChildren(Fold):
        key = f"fold {fold.name}"
        fold.button.setChecked(settings.value(key, fold.open_at_first, bool) is True)
        fold.button.clicked.connect(lambda on, key=key: settings.setValue(key, on))


def clear(layout: QLayout) -> None:
    """Take everything out of a layout."""
    discard: Callable[[QWidget], None] = QWidget.deleteLater
    while (item := layout.takeAt(0)) is not None:
        inner = item.layout()
        if inner is not None:
            clear(inner)
        widget = item.widget()
        if widget is not None:
            widget.hide()
            discard(widget)
