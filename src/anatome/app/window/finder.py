"""Find a command: type a few letters of what it is called or what it does, and press Return."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QSize, Qt
from PySide6.QtGui import QAction, QIcon, QKeyEvent, QPixmap
from PySide6.QtWidgets import QDialog, QLabel, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from anatome.app.base.actions import Actions, key_words
from anatome.app.base.entry import Entry

MOST = 9
NAME = Qt.ItemDataRole.UserRole


def match(words: str, entry: Entry) -> float | None:
    """Return how well an entry answers what was typed, the less the better; None if it does not.

    Every word typed has to begin a word of what the command is called, or be in what is said of it.
    """
    called = entry.text.lower()
    score = 0.0
    for word in words.lower().split():
        if called.startswith(word):
            continue
        if any(part.startswith(word) for part in called.replace("-", " ").split()):
            score += 1
        elif word in called:
            score += 2
        elif word in entry.tip.lower():
            score += 4
        else:
            return None
    return score + len(called) / 1000


class CommandFinder(QDialog):
    """A field and the commands that answer it; those that are not possible now are there too, but pale."""

    def __init__(self, parent: QWidget, actions: Actions) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Find a command")
        self.setFixedWidth(520)
        self._actions = actions
        self.field = QLineEdit(placeholderText="What do you want to do? For example: turn, poché, box round")
        self.found = QListWidget()
        self.found.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.found.setFixedHeight(9 * 30)
        self.found.setIconSize(QSize(16, 16))
        blank = QPixmap(16, 16)
        blank.fill(Qt.GlobalColor.transparent)
        self._blank = QIcon(blank)
        self.tip = QLabel()
        self.tip.setProperty("role", "soft")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 16, 16, 12)
        for widget in (self.field, self.found, self.tip):
            column.addWidget(widget)
        self.field.textChanged.connect(self._search)
        self.field.returnPressed.connect(self._run)
        self.field.installEventFilter(self)
        self.found.itemClicked.connect(self._run)
        self.found.currentItemChanged.connect(lambda item: self.tip.setText(item.toolTip() if item is not None else ""))
        self._search("")

    def _search(self, words: str) -> None:
        self.found.clear()
        entries = list(self._actions.entries())
        scored = [(score, e) for e in entries if (score := match(words, e)) is not None]
        if words.strip():
            scored.sort(key=lambda pair: pair[0])
        for _, entry in scored[:MOST]:
            action = self._actions[entry.name]
            item = QListWidgetItem(action.icon() if not action.icon().isNull() else self._blank, self._line(action))
            item.setSizeHint(QSize(0, 29))
            item.setData(NAME, entry.name)
            item.setToolTip(entry.tip if action.isEnabled() else f"{entry.tip}. Not possible now")
            if not action.isEnabled():
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEnabled)
            self.found.addItem(item)
        possible = [i for i in range(self.found.count()) if self.found.item(i).flags() & Qt.ItemFlag.ItemIsEnabled]
        self.found.setCurrentRow(possible[0] if possible else -1)
        if not self.found.count():
            self.tip.setText("No command is called so. Try another word.")

    @staticmethod
    def _line(action: QAction) -> str:
        key = key_words(action)
        return f"{action.text()}    {key}" if key else action.text()

    def _run(self, *_: object) -> None:
        item = self.found.currentItem()
        if item is None or not item.flags() & Qt.ItemFlag.ItemIsEnabled:
            return
        action = self._actions[item.data(NAME)]
        self.accept()
        action.trigger()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Up and down walk through what was found while one types."""
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step is not None and self.found.count():
                self.found.setCurrentRow((self.found.currentRow() + step) % self.found.count())
                return True
        return False
