"""Finding anything by a few letters: commands, settings, scenes, sheets, looks and parts; Return goes there."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QModelIndex, QObject, QPersistentModelIndex, QRect, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QIcon, QKeyEvent, QPainter, QPixmap
from PySide6.QtWidgets import (
    QDialog,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base import theme
from anatome.app.window.finding import Findable, Findables, best

MOST, ROWS = 40, 10
ROW = 29
"""Pixels of a row."""
WHERE = Qt.ItemDataRole.UserRole


class _Row(QStyledItemDelegate):
    """A row with where it stands at its right, in soft letters."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> None:
        super().paint(painter, option, index)
        where = index.data(WHERE)
        colours = theme.current()
        painter.save()
        enabled = bool(option.state & QStyle.StateFlag.State_Enabled)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.setPen(QColor(colours.on_accent if chosen else colours.ink_soft if enabled else colours.ink_faint))
        name = option.fontMetrics.horizontalAdvance(str(index.data(Qt.ItemDataRole.DisplayRole))) + 44
        box = QRect(option.rect)
        box.setLeft(box.left() + name)
        words = option.fontMetrics.elidedText(where, Qt.TextElideMode.ElideLeft, box.width() - 10)
        painter.drawText(box.adjusted(0, 0, -8, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        painter.restore()


class Finder(QDialog):
    """A field and what answers it; what is not possible now is there too, but pale."""

    def __init__(self, parent: QWidget, findables: Findables) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Find anything")
        self.setFixedWidth(600)
        self._coming, self._all = findables.pieces(), list[Findable]()
        self._things: list[Findable] = []
        self.field = QLineEdit(placeholderText="A command, a setting, a scene, a look, a part …")
        self.found = QListWidget()
        self.found.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.found.setItemDelegate(_Row(self.found))
        self.found.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.found.setFixedHeight(ROWS * ROW)
        self.found.setIconSize(QSize(16, 16))
        blank = QPixmap(16, 16)
        blank.fill(Qt.GlobalColor.transparent)
        self._blank = QIcon(blank)
        self.tip = QLabel()
        self.tip.setProperty("role", "soft")
        self.tip.setWordWrap(True)
        self.tip.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.tip.setFixedHeight(2 * self.tip.fontMetrics().lineSpacing() + 4)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 16, 16, 12)
        for widget in (self.field, self.found, self.tip):
            column.addWidget(widget)
        self.field.textChanged.connect(self._search)
        self.field.returnPressed.connect(self._run)
        self.field.installEventFilter(self)
        self.found.itemClicked.connect(self._run)
        self.field.setFocus()
        self.found.currentItemChanged.connect(lambda item: self.tip.setText(item.toolTip() if item is not None else ""))
        self._take()
        self._search("")
        self._prepare()

    def _prepare(self) -> None:
        """Have all there is before the first letter comes, piece by piece."""
        if self._take():
            QTimer.singleShot(0, self, self._prepare)

    def _take(self) -> bool:
        """One more piece of what can be found, if there is one left."""
        piece = next(self._coming, None)
        self._all += piece or []
        return piece is not None

    def _search(self, words: str) -> None:
        self.found.clear()
        while words.strip() and self._take():
            pass
        self._things = best(words, self._all, MOST)
        for thing in self._things:
            item = QListWidgetItem(thing.icon if thing.icon is not None and not thing.icon.isNull() else self._blank, thing.name)
            item.setSizeHint(QSize(0, ROW))
            item.setData(WHERE, thing.where)
            item.setToolTip(thing.tip if thing.possible else f"{thing.tip}. Not possible now")
            if not thing.possible:
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEnabled)
            self.found.addItem(item)
        self.found.setCurrentRow(next((i for i, thing in enumerate(self._things) if thing.possible), -1))
        if not self._things:
            self.tip.setText("Nothing is called so. Try another word.")

    def _run(self, *_: object) -> None:
        row = self.found.currentRow()
        if 0 <= row < len(self._things) and self._things[row].possible:
            self.accept()
            self._things[row].go()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Up and down walk through what was found while one types."""
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step is not None and self.found.count():
                self.found.setCurrentRow((self.found.currentRow() + step) % self.found.count())
                return True
        return False
