"""The settings of the inspector by name, so that they can be found: what each is called, where it stands, and going there."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QCheckBox,
    QComboBox,
    QDateTimeEdit,
    QFormLayout,
    QLabel,
    QLayoutItem,
    QLineEdit,
    QScrollArea,
    QWidget,
)

from anatome.app.base.swatch import Swatch
from anatome.app.panels.inspector.later import make_next
from anatome.app.panels.inspector.page import Fold, Page

FIELDS = (QLineEdit, QComboBox, QAbstractSpinBox, QDateTimeEdit)
LABEL, FIELD = QFormLayout.ItemRole.LabelRole, QFormLayout.ItemRole.FieldRole
SHOWN = 1600
"""Milliseconds for which what was found is marked."""


@dataclass(frozen=True, eq=False)
class Setting:
    """A field, a switch or a section of a page; ``where`` are the sections it stands in."""

    words: str
    where: str
    tip: str
    widget: QWidget

    @property
    def is_switch(self) -> bool:
        """Whether it is only on or off."""
        return isinstance(self.widget, QCheckBox)


def settings_of(page: Page) -> list[Setting]:
    """Return what of a page can be set now, in the order it stands there."""
    while make_next(page):
        pass
    found: list[Setting] = []
    labels = _labels(page)
    for widget in page.findChildren(QWidget):
        words = _words_of(widget, labels) if _only_folded(widget, page) else ""
        if words:
            found.append(Setting(words, _where(widget, page), widget.toolTip(), widget))
    return found


def _words_of(widget: QWidget, labels: dict[QWidget, str]) -> str:
    """What a setting is called; nothing for what is none."""
    if isinstance(widget, Fold):
        return widget.name
    if isinstance(widget, QCheckBox):
        return widget.text()
    if isinstance(widget, Swatch):
        return f"{_label_of(widget, labels) or widget.text()}, colour"
    return _label_of(widget, labels) if isinstance(widget, FIELDS) else ""


def _label_of(field: QWidget, labels: dict[QWidget, str]) -> str:
    """The words beside a field in the form it stands in, by itself or with others in a row."""
    one: QWidget | None = field
    while one is not None and one not in labels and not isinstance(one, Page):
        one = one.parentWidget()
    return labels.get(one, "") if one is not None else ""


def _labels(page: Page) -> dict[QWidget, str]:
    """The words beside every field of every form of a page."""
    found: dict[QWidget, str] = {}
    for form in page.findChildren(QFormLayout):
        for row in range(form.rowCount()):
            label, item = form.itemAt(row, LABEL), form.itemAt(row, FIELD)
            words = label.widget() if label is not None else None
            if isinstance(words, QLabel) and item is not None:
                found |= dict.fromkeys(_in(item), words.text())
    return found


def _in(item: QLayoutItem) -> list[QWidget]:
    """A field, or those of a row of several."""
    row = item.layout()
    items = [item] if row is None else [row.itemAt(place) for place in range(row.count())]
    return [widget for one in items if one is not None and (widget := one.widget()) is not None]


def _folds(widget: QWidget, page: Page) -> list[Fold]:
    """The sections a widget stands in, the outermost first."""
    found: list[Fold] = []
    above = widget.parentWidget()
    while above is not None and above is not page:
        if isinstance(above, Fold):
            found.insert(0, above)
        above = above.parentWidget()
    return found


def _where(widget: QWidget, page: Page) -> str:
    return " › ".join(fold.name for fold in _folds(widget, page))


def _only_folded(widget: QWidget, page: Page) -> bool:
    """Whether nothing hides a widget but sections that are folded."""
    one: QWidget | None = widget
    while one is not None and one is not page:
        holder = one.parentWidget()
        if one.isHidden() and not (isinstance(holder, Fold) and one is holder.content):
            return False
        one = holder
    return True


def go_to(setting: Setting, scroll: QScrollArea, page: Page) -> None:
    """Unfold what a setting stands in, bring it into sight, take the keyboard there and mark it for a moment."""
    for fold in _folds(setting.widget, page):
        fold.button.setChecked(True)
    widget = setting.widget
    if isinstance(widget, Fold):
        widget.button.setChecked(True)
        widget = widget.button
    QTimer.singleShot(0, widget, lambda: _arrive(widget, scroll))


def _arrive(widget: QWidget, scroll: QScrollArea) -> None:
    scroll.ensureWidgetVisible(widget, 0, 60)
    widget.setFocus()
    if isinstance(widget, QLineEdit):
        widget.selectAll()
    _mark(widget, True)
    QTimer.singleShot(SHOWN, widget, lambda: _mark(widget, False))


def _mark(widget: QWidget, on: bool) -> None:
    widget.setProperty("found", on)
    widget.style().unpolish(widget)
    widget.style().polish(widget)
