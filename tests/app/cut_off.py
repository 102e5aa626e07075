"""Finding what of a window is cut off, overlaps or lies beyond the screen, widget by widget."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractScrollArea,
    QAbstractSpinBox,
    QCheckBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QMenu,
    QPushButton,
    QToolButton,
    QWidget,
)

ARROW, ROOM = 30, 12
"""Pixels of a list's arrow with its margins, and of a field's margins."""
Role = Qt.ItemDataRole


def faults(root: QWidget, within: QSize) -> list[str]:
    """Return in words what is wrong of all that is visible under a widget; ``within`` is the screen."""
    found = [] if root.width() <= within.width() and root.height() <= within.height() else [f"{_named(root)} beyond the screen"]
    for widget in root.findChildren(QWidget):
        if widget.isVisible() and widget.window() is root.window():
            found += [f"{_named(widget)}: {fault}" for fault in (*_cut_off(widget), *_beyond(widget), *_over(widget))]
    return found


def menu_faults(menu: QMenu, within: QSize) -> list[str]:
    """Return the same of a menu and those in it."""
    size = menu.sizeHint()
    found = [f"menu {menu.title()} is {size.height()} high"] if size.height() > within.height() - 60 else []
    found += [f"menu {menu.title()} is {size.width()} wide"] if size.width() > 0.6 * within.width() else []
    for action in menu.actions():
        inner = action.menu()
        if isinstance(inner, QMenu):
            found += menu_faults(inner, within)
    return found


def _named(widget: QWidget) -> str:
    text = widget.text() if isinstance(widget, QLabel | QAbstractButton | QLineEdit) else ""
    above, way = widget, []
    while above is not None and len(way) < 4:
        way.append(type(above).__name__)
        above = above.parentWidget()
    return f"{' < '.join(way)} “{text[:40]}”"


def _cut_off(widget: QWidget) -> Iterator[str]:
    """Text that has no room, and no tip that says it."""
    metrics, tip = widget.fontMetrics(), bool(widget.toolTip())
    if isinstance(widget, QLabel) and widget.text() and widget.pixmap().isNull():
        room = widget.contentsRect()
        if widget.wordWrap():
            needed = widget.heightForWidth(widget.width())
            if needed > widget.height() + 1:
                yield f"{needed} px of text in {widget.height()}"
            widest = max((metrics.horizontalAdvance(word) for word in widget.text().split()), default=0)
            if widest > room.width() + 1 and not tip:
                yield f"a word of {widest} px in {room.width()}"
        elif max(metrics.horizontalAdvance(line) for line in widget.text().split("\n")) > room.width() + 1 and not tip:
            yield f"text of {metrics.horizontalAdvance(widget.text())} px in {room.width()}"
    elif isinstance(widget, QPushButton | QToolButton | QCheckBox) and widget.text():
        bare = isinstance(widget, QToolButton) and widget.toolButtonStyle() == Qt.ToolButtonStyle.ToolButtonIconOnly
        if not bare and widget.sizeHint().width() > widget.width() + 1:
            yield f"{widget.sizeHint().width()} px in {widget.width()}"
        if "…" in widget.text()[:-1].rstrip("…") and not tip:
            yield "shortened without a tip"
    elif isinstance(widget, QComboBox) and widget.currentText():
        if metrics.horizontalAdvance(widget.currentText()) > widget.width() - ARROW and not tip:
            yield f"a choice of {metrics.horizontalAdvance(widget.currentText())} px in {widget.width()} without a tip"
    elif isinstance(widget, QAbstractSpinBox):
        if metrics.horizontalAdvance(widget.text()) > widget.width() - ROOM:
            yield f"a number of {metrics.horizontalAdvance(widget.text())} px in {widget.width()}"
    elif isinstance(widget, QLineEdit) and not isinstance(widget.parentWidget(), QAbstractSpinBox | QComboBox):
        text = widget.text() or widget.placeholderText()
        if metrics.horizontalAdvance(text) > widget.width() - ROOM and not tip:
            yield f"{metrics.horizontalAdvance(text)} px in {widget.width()} without a tip"
    elif isinstance(widget, QListWidget):
        for row in range(widget.count()):
            item = widget.item(row)
            room = widget.visualItemRect(item).width() - 8
            if not item.isHidden() and metrics.horizontalAdvance(item.text()) > room and not item.toolTip():
                yield f"“{item.text()}” in {room} px without a tip"


def _beyond(widget: QWidget) -> Iterator[str]:
    """What lies outside of what it stands in; what scrolls may, downwards."""
    holder = widget.parentWidget()
    if holder is None or widget.isWindow():
        return
    scrolled = _scrolls(widget)
    place = widget.geometry()
    if (place.right() > holder.width() + 1 or place.left() < -1) and not (scrolled and _wide(holder)):
        yield f"lies from {place.left()} to {place.right()} in {holder.width()}"
    if not scrolled and (place.bottom() > holder.height() + 1 or place.top() < -1):
        yield f"lies from {place.top()} to {place.bottom()} in {holder.height()}"


def _scrolls(widget: QWidget) -> bool:
    """Whether it is the content of something that scrolls, or of a list."""
    above = widget.parentWidget()
    return above is not None and isinstance(above.parentWidget(), QAbstractScrollArea | QAbstractItemView)


def _wide(viewport: QWidget) -> bool:
    area = viewport.parentWidget()
    return isinstance(area, QAbstractScrollArea) and area.horizontalScrollBarPolicy() != Qt.ScrollBarPolicy.ScrollBarAlwaysOff


def _over(widget: QWidget) -> Iterator[str]:
    """Words and fields that lie over others in the same holder."""
    kinds = QLabel | QAbstractButton | QLineEdit | QComboBox | QAbstractSpinBox
    holder = widget.parentWidget()
    if holder is None or holder.layout() is None or not isinstance(widget, kinds):
        return
    own = QRect(QPoint(0, 0), widget.size()).translated(widget.pos()).adjusted(1, 1, -1, -1)
    for other in holder.children():
        if isinstance(other, kinds) and other is not widget and other.isVisible() and other.geometry().intersects(own):
            yield f"lies over {_named(other)}"
