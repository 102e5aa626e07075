"""How lists of scenes draw their pictures, and the headings of sets between them."""

from __future__ import annotations

import math
from collections.abc import Sequence

from PySide6.QtCore import QPoint, QPointF, QRect, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QStyle, QStyleOptionViewItem, QWidget

from anatome.app.base import theme
from anatome.app.base.picture_row import GAP, NAME_HEIGHT, PICTURE_HEIGHT, Index, PictureFrames, width_of
from anatome.app.panels.scenes.scene_model import COUNT, FOLDED, LINKED, SET, STACK, TOUCHED

SLIP = 26
"""Pixels across the upright slip that stands for a set in a row."""
BADGE = (26, 15)
"""Pixels across and up of the badge of a stack."""
HEADING = 34
"""Pixels a heading of a set is high on a page."""


LEAST, MOST, OFF = 0.8, 1.25, 0.2
"""Shares of the height one wants within which another is looked for, and what being off it counts against empty width."""


def height_that_fills(groups: Sequence[Sequence[float]], wide: int, wanted: int) -> int:
    """Return the height of pictures near the ``wanted`` one at which their rows fill a width best; ``groups`` are the proportions
    of those that follow one another, and the last row of a group may stay open. All in pixels."""

    def empty(high: int) -> float:
        shares = []
        for aspects in groups:
            taken = 0
            for aspect in aspects:
                own = width_of(aspect, high) + GAP
                if taken and taken + own > wide:
                    shares.append(1.0 - taken / wide)
                    taken = 0
                taken += own
        return sum(shares) / len(shares) + OFF * abs(math.log(high / wanted)) if shares else math.inf

    tried = range(math.ceil(LEAST * wanted), math.floor(MOST * wanted) + 1, 2)
    best = min(tried, key=empty, default=wanted)
    return best if empty(best) < math.inf else wanted


class SceneFrames(PictureFrames):
    """Variants of one scene are a stack: two more sheets behind the picture, and a badge that says how many. A dot in the corner
    says that a change of the model touches the scene."""

    def is_name(self, area: QRect, at: QPoint) -> bool:
        """Return whether a place is on the name under a picture."""
        return at.y() > area.top() + 5 + self.high

    def badge(self, area: QRect) -> QRect:
        """Return where the badge of a stack lies in the area of its picture."""
        return QRect(area.right() - GAP // 2 - BADGE[0] - 3, area.top() + 8, *BADGE)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        colours, area, count = theme.current(), option.rect, index.data(STACK)
        frame = QRect(area.left() + GAP // 2, area.top() + 5, area.width() - GAP, self.high)
        if count and not index.data(LINKED):
            painter.save()
            painter.setPen(QPen(QColor(colours.ink_faint), 1))
            for step in (4, 2):
                painter.fillRect(frame.translated(step, -step), QColor(theme.LIGHT.paper))
                painter.drawRect(frame.translated(step, -step))
            painter.restore()
        super().paint(painter, option, index)
        painter.save()
        if index.data(TOUCHED):
            corner = QPointF(frame.left() + 9, frame.top() + 9)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(theme.LIGHT.paper), 1.5))
            painter.setBrush(QColor(theme.LIGHT.warning))
            painter.drawEllipse(corner, 4.5, 4.5)
        if index.data(LINKED):
            painter.setPen(QPen(QColor(colours.accent), 2))
            painter.drawLine(area.left(), area.bottom() - 1, area.right(), area.bottom() - 1)
        if count:
            badge = self.badge(area)
            painter.fillRect(badge, QColor(theme.LIGHT.ink))
            painter.setFont(theme.font(8, strong=True))
            painter.setPen(QColor(theme.LIGHT.paper))
            words = f"‹ {count}" if index.data(LINKED) else f"{count} ›"
            painter.drawText(badge, Qt.AlignmentFlag.AlignCenter, words)
        painter.restore()


class RowFrames(SceneFrames):
    """Sets are upright slips with their names."""

    several = False
    """Whether several scenes are picked: one alone is just the one that was recalled."""

    def is_marked(self, option: QStyleOptionViewItem) -> bool:
        return self.several and bool(option.state & QStyle.StateFlag.State_Selected)

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return super().sizeHint(option, index) if index.data(SET) is None else QSize(SLIP + 4, PICTURE_HEIGHT + NAME_HEIGHT + 8)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        if index.data(SET) is None:
            super().paint(painter, option, index)
            return
        colours, area = theme.current(), option.rect
        slip = QRect(area.left() + 2, area.top() + 5, SLIP, self.high)
        painter.save()
        over = bool(option.state & QStyle.StateFlag.State_MouseOver)
        painter.fillRect(slip, QColor(colours.sunken))
        painter.setPen(QPen(QColor(colours.ink_faint if over else colours.rule), 1))
        painter.drawRect(slip)
        fold_mark(painter, QPointF(slip.center().x() + 0.5, slip.top() + 10), bool(index.data(FOLDED)))
        painter.setFont(theme.font(9, strong=True))
        painter.setPen(QColor(colours.ink_soft))
        painter.translate(slip.left(), slip.bottom())
        painter.rotate(-90)
        words = f"{index.data(Qt.ItemDataRole.DisplayRole)}  {index.data(COUNT)}"
        room = self.high - 24
        painter.drawText(
            QRect(6, 0, room, SLIP),
            Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
            painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, room),
        )
        painter.restore()


class PageFrames(SceneFrames):
    """Sets are headings as wide as the page."""

    page_width = 600

    def is_marked(self, option: QStyleOptionViewItem) -> bool:
        return bool(option.state & QStyle.StateFlag.State_Selected)

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return super().sizeHint(option, index) if index.data(SET) is None else QSize(self.page_width, HEADING)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        if index.data(SET) is None:
            super().paint(painter, option, index)
            return
        colours, area = theme.current(), option.rect
        painter.save()
        left = area.left() + GAP // 2
        if index.data(SET):
            fold_mark(painter, QPointF(left + 5, area.center().y() + 2), bool(index.data(FOLDED)))
            left += 16
        painter.setFont(theme.font(10, strong=True))
        painter.setPen(QColor(colours.ink))
        name = index.data(Qt.ItemDataRole.DisplayRole)
        painter.drawText(QRect(left, area.top() + 4, area.width(), area.height() - 4), Qt.AlignmentFlag.AlignVCenter, name)
        left += painter.fontMetrics().horizontalAdvance(name) + 10
        painter.setFont(theme.font(9))
        painter.setPen(QColor(colours.ink_soft))
        painter.drawText(
            QRect(left, area.top() + 4, 80, area.height() - 4), Qt.AlignmentFlag.AlignVCenter, f"{index.data(COUNT)}"
        )
        painter.setPen(QPen(QColor(colours.rule), 1))
        painter.drawLine(area.left() + GAP // 2, area.bottom(), area.right() - GAP // 2, area.bottom())
        painter.restore()

    def updateEditorGeometry(self, editor: QWidget, option: QStyleOptionViewItem, index: Index) -> None:
        if index.data(SET) is None:
            super().updateEditorGeometry(editor, option, index)
            return
        area: QRect = option.rect
        editor.setGeometry(area.left() + GAP // 2 + 12, area.top() + 4, 220, area.height() - 6)


def fold_mark(painter: QPainter, at: QPointF, folded: bool) -> None:
    """Draw the small triangle that says whether a set is folded."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(theme.current().ink_soft))
    shape = ((-2.5, -4), (3.5, 0), (-2.5, 4)) if folded else ((-4, -2.5), (4, -2.5), (0, 3.5))
    painter.drawPolygon(QPolygonF([at + QPointF(x, y) for x, y in shape]))
