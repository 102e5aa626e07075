"""A row of pictures with a name under each: scenes, suggestions."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QListWidget, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from anatome.app.base import theme

ID = Qt.ItemDataRole.UserRole
PICTURE = Qt.ItemDataRole.UserRole + 1
ASPECT = Qt.ItemDataRole.UserRole + 2
LINES = Qt.ItemDataRole.UserRole + 3
"""“current” or “out of date” where linework is kept with a picture."""
LOCKED = Qt.ItemDataRole.UserRole + 4
PALE = Qt.ItemDataRole.UserRole + 5
"""Whether the picture is of what was before, until there is a new one."""
FADED = 0.35
PICTURE_HEIGHT = 84
NAME_HEIGHT = 24
GAP = 12
ROW_HEIGHT = PICTURE_HEIGHT + NAME_HEIGHT + 14
Index = QModelIndex | QPersistentModelIndex


def width_of(aspect: float | None, high: int) -> int:
    """Return how many pixels a picture of some proportions takes across; the widest are narrowed."""
    return round(high * min(max(aspect or 1.6, 0.6), 3.0))


class PictureFrames(QStyledItemDelegate):
    """Draws pictures ``high`` pixels high, each with its name under it: that of ``current_id`` is framed in the accent, and
    ``differs`` marks it as no longer what it shows."""

    def __init__(self, high: int = PICTURE_HEIGHT) -> None:
        super().__init__()
        self.high = high
        self.current_id: str | None = None
        self.differs = False

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(width_of(index.data(ASPECT), self.high) + GAP, self.high + NAME_HEIGHT + 8)

    def is_marked(self, option: QStyleOptionViewItem) -> bool:
        """Return whether one is drawn as picked."""
        return False

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        area: QRect = option.rect
        frame = QRect(area.left() + GAP // 2, area.top() + 5, area.width() - GAP, self.high)
        colours = theme.current()
        if self.is_marked(option):
            painter.fillRect(area.adjusted(1, 1, -1, -1), QColor(colours.accent_soft))
        picture = index.data(PICTURE)
        painter.fillRect(frame, QColor(theme.LIGHT.paper))
        if isinstance(picture, QPixmap) and not picture.isNull():
            painter.setOpacity(FADED if index.data(PALE) else 1.0)
            painter.drawPixmap(frame, picture)
            painter.setOpacity(1.0)
        current = index.data(ID) == self.current_id
        over = bool(option.state & QStyle.StateFlag.State_MouseOver)
        painter.setPen(
            QPen(QColor(colours.accent if current else colours.ink_faint if over else colours.rule), 2 if current else 1)
        )
        painter.drawRect(frame)
        if index.data(LINES) in ("current", "out of date"):
            _mark_lines(painter, frame, QColor(colours.ink if index.data(LINES) == "current" else colours.warning))
        if index.data(LOCKED):
            _mark_locked(painter, frame, QColor(theme.LIGHT.ink))
        self._name(painter, QRect(frame.left(), frame.bottom() + 3, frame.width(), NAME_HEIGHT - 4), index, current)
        painter.restore()

    def _name(self, painter: QPainter, words: QRect, index: Index, current: bool) -> None:
        colours = theme.current()
        painter.setFont(theme.font(9, strong=current))
        if current and self.differs:
            dot = QRect(words.right() - 7, words.center().y() - 3, 7, 7)
            painter.setBrush(QColor(colours.warning))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.drawEllipse(dot)
            words.setRight(dot.left() - 4)
        painter.setPen(QColor(colours.ink if current else colours.ink_soft))
        text = index.data(Qt.ItemDataRole.DisplayRole)
        painter.drawText(
            words,
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, words.width()),
        )

    def updateEditorGeometry(self, editor: QWidget, option: QStyleOptionViewItem, index: Index) -> None:
        area: QRect = option.rect
        editor.setGeometry(area.left() + 4, area.top() + self.high + 5, area.width() - 8, NAME_HEIGHT + 2)


def _mark_lines(painter: QPainter, frame: QRect, ink: QColor) -> None:
    """A slip with a few strokes of a pen in the lower right corner of a picture."""
    slip = QRect(frame.right() - 21, frame.bottom() - 16, 18, 13)
    painter.fillRect(slip, QColor(theme.LIGHT.paper))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for number, weight in enumerate((2.0, 1.3, 0.9, 0.6)):  # thinner with depth, as the lines are
        painter.setPen(QPen(ink, weight))
        x = slip.left() + 3.5 + 4 * number
        painter.drawLine(QPointF(x, slip.bottom() - 2), QPointF(x, slip.top() + 3 + 1.5 * number))


def _mark_locked(painter: QPainter, frame: QRect, ink: QColor) -> None:
    """A slip with a small lock in the lower left corner of a picture."""
    slip = QRect(frame.left() + 4, frame.bottom() - 19, 16, 16)
    painter.fillRect(slip, QColor(theme.LIGHT.paper))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(ink)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawRoundedRect(QRectF(slip.left() + 3.5, slip.top() + 7, 9, 6.5), 1.2, 1.2)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(ink, 1.5))
    painter.drawArc(QRectF(slip.left() + 5.25, slip.top() + 2.5, 5.5, 8.0), 0, 180 * 16)


class PictureRow(QListWidget):
    """One row, scrolled sideways, with its pictures in ``frames``."""

    def __init__(self) -> None:
        super().__init__()
        self.frames = PictureFrames()
        self.setFlow(QListWidget.Flow.LeftToRight)
        self.setWrapping(False)
        self.setFixedHeight(ROW_HEIGHT)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMouseTracking(True)
        self.setItemDelegate(self.frames)
