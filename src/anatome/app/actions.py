"""Every action of the window in one table: its words, key, icon and what it does. Menus and buttons are made from it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QPushButton, QToolButton, QWidget

from anatome.app import theme


@dataclass(frozen=True)
class Entry:
    """``key`` in Qt's notation; ``needs`` says what must be there: nothing, ``project``, ``cut``, ``series``, ``elements`` …"""

    name: str
    text: str
    tip: str
    run: Callable[..., object]
    key: str = ""
    icon: str = ""
    needs: str = "project"
    checkable: bool = False

    @property
    def listed(self) -> bool:
        """Whether it does something by itself: the heads of menus do not."""
        return not self.name.endswith("_menu")


class Actions:
    """The QActions of a window by name."""

    def __init__(self, window: QWidget, entries: Iterable[Entry]) -> None:
        self._made: dict[str, QAction] = {}
        self._entries = {e.name: e for e in entries}
        for entry in self._entries.values():
            action = QAction(entry.text, window)
            action.setCheckable(entry.checkable)
            if entry.key:
                action.setShortcuts([QKeySequence(k) for k in entry.key.split("|")])
            key = (
                f" ({QKeySequence(entry.key.split('|')[0]).toString(QKeySequence.SequenceFormat.NativeText)})"
                if entry.key
                else ""
            )
            action.setToolTip(entry.tip + key)
            action.setStatusTip(entry.tip)
            (action.toggled if entry.checkable else action.triggered).connect(entry.run)
            window.addAction(action)
            self._made[entry.name] = action
        self.dress()

    def __getitem__(self, name: str) -> QAction:
        return self._made[name]

    def dress(self) -> None:
        """Take the icons of the theme in use."""
        for name, entry in self._entries.items():
            if entry.icon:
                self._made[name].setIcon(theme.icon(entry.icon))

    def enable(self, present: set[str]) -> None:
        """Let through what needs only what is present."""
        for name, entry in self._entries.items():
            self._made[name].setEnabled(entry.needs == "nothing" or entry.needs in present)

    def entries(self) -> Iterable[Entry]:
        return self._entries.values()

    def menu(self, parent: QWidget, names: Iterable[str | tuple[str, list[str]]], title: str = "") -> QMenu:
        """A menu of actions; an empty name is a line between them, a title with names a menu within."""
        menu = QMenu(title, parent)
        menu.setToolTipsVisible(True)
        for name in names:
            if isinstance(name, tuple):
                menu.addMenu(self.menu(menu, name[1], name[0]))
            elif name:
                menu.addAction(self[name])
            else:
                menu.addSeparator()
        return menu


def header_button(action: QAction, menu: QMenu | None = None) -> QToolButton:
    """A button with icon and words; with a menu, that opens at a press."""
    button = QToolButton()
    button.setDefaultAction(action)
    button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
    if menu is not None:
        button.setMenu(menu)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
    return button


def panel_button(action: QAction, text: str | None = None) -> QPushButton:
    """A push button in a panel that runs an action and is enabled with it."""
    button = QPushButton(action.icon(), text or action.text())
    button.setToolTip(action.toolTip())
    button.setEnabled(action.isEnabled())
    button.clicked.connect(action.trigger)

    def follow() -> None:
        button.setEnabled(action.isEnabled())
        button.setIcon(action.icon())

    action.changed.connect(follow)
    return button
