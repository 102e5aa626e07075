"""The commands as Qt has them: actions, and the menus and buttons made of them."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import replace
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QPushButton, QToolButton, QWidget

from anatome.app.base import theme
from anatome.app.base.entry import Entry


class Actions:
    """The QActions of a window by name."""

    def __init__(self, window: QWidget, entries: Iterable[Entry]) -> None:
        self._made: dict[str, QAction] = {}
        self._entries = {e.name: e for e in entries}
        for entry in self._entries.values():
            action = QAction(entry.text, window)
            action.setCheckable(entry.task or entry.ticked is not None)
            action.setStatusTip(entry.tip)
            action.triggered.connect(partial(self._run, entry))
            window.addAction(action)
            self._made[entry.name] = action
            self.set_keys(entry.name, None)
        self.dress()

    @staticmethod
    def _run(entry: Entry, *_: object) -> None:
        entry.run()

    def knows(self, name: str) -> bool:
        """Return whether there is a command of this name."""
        return name in self._made

    def entry(self, name: str) -> Entry:
        """Return what a subject says of a command."""
        return self._entries[name]

    def set_keys(self, name: str, keys: str | None) -> None:
        """Give a command other keys, divided by “|”, or with None those it comes with."""
        action = self._made[name]
        wanted = self.keys_it_comes_with(name) if keys is None else _sequences(keys)
        action.setShortcuts(wanted)
        action.setToolTip(self._entries[name].tip + (f" ({key_words(action)})" if wanted else ""))

    def keys_it_comes_with(self, name: str) -> list[QKeySequence]:
        """Return the keys of a command before anybody gives it others."""
        return _sequences(self._entries[name].key)

    def __getitem__(self, name: str) -> QAction:
        return self._made[name]

    def dress(self) -> None:
        """Take the icons of the theme in use."""
        for name, entry in self._entries.items():
            if entry.icon:
                self._made[name].setIcon(theme.icon(entry.icon))

    def refresh(self, present: set[str]) -> None:
        """Let through what needs only what is present, and tick what is on."""
        for name, entry in self._entries.items():
            usable = entry.needs == "nothing" or entry.needs in present
            self._made[name].setEnabled(usable)
            if entry.ticked is not None:
                self._made[name].setChecked(usable and entry.ticked())

    def show_tasks(self, under_way: Collection[str]) -> None:
        """Let commands that begin something show whether it is under way."""
        for name, entry in self._entries.items():
            if entry.task:
                self._made[name].setChecked(name in under_way)

    def entries(self) -> Iterable[Entry]:
        return self._entries.values()

    def menu(self, parent: QWidget, entries: Iterable[Entry]) -> QMenu:
        """Return a menu of commands: a line between groups, and those that stand within another menu in that one, or deeper
        (“a/b”)."""
        menu = QMenu(parent)
        menu.setToolTipsVisible(True)
        inner: dict[str, QMenu] = {}
        last, menus_only = "", False
        for entry in entries:
            first, *deeper = entry.within.split("/") if entry.within else ("",)
            if first not in inner:
                # Menus within this one stand together, whatever their groups.
                if last not in ("", entry.group) and not (first and menus_only):
                    menu.addSeparator()
                last, menus_only = entry.group, bool(first)
            target, path = menu, ""
            for words in (first, *deeper) if first else ():
                path = f"{path}/{words}" if path else words
                if path not in inner:
                    inner[path] = target.addMenu(words)
                    inner[path].setToolTipsVisible(True)
                target = inner[path]
            target.addAction(self[entry.name])
        return menu

    def in_menu(self, name: str) -> list[Entry]:
        """Return the commands of a menu in the header, those of a group together."""
        chosen = [e for e in self._entries.values() if e.menu == name]
        groups = list(dict.fromkeys(e.group for e in chosen))
        return sorted(chosen, key=lambda e: groups.index(e.group))

    def on_stage(self) -> list[Entry]:
        """Return the commands of the stage's own menu in one list, those for what was clicked first."""
        chosen = [replace(e, within="") for e in self._entries.values() if e.stage_menu]
        return sorted(chosen, key=lambda e: (e.group != "Parts", e.group != "Framing", e.group))


def _sequences(keys: str) -> list[QKeySequence]:
    """Return keys that are divided by “|”."""
    return [QKeySequence(key) for key in keys.split("|") if key]


def key_words(action: QAction) -> str:
    """Return the first key of an action, as people write it."""
    return action.shortcut().toString(QKeySequence.SequenceFormat.NativeText)


def menu_button(words: str, tip: str, icon: str, menu: QMenu) -> QToolButton:
    """Return a button in the header that opens a menu at a press."""
    button = QToolButton()
    button.setText(words)
    button.setToolTip(tip)
    button.setIcon(theme.icon(icon))
    button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
    button.setMenu(menu)
    button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
    return button


def header_button(action: QAction) -> QToolButton:
    """Return a button with icon and words that runs an action."""
    button = QToolButton()
    button.setDefaultAction(action)
    button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
    return button


def panel_button(action: QAction, text: str | None = None) -> QPushButton:
    """Return a push button in a panel that runs an action and is enabled with it."""
    button = QPushButton(action.icon(), text or action.text())
    button.setToolTip(action.toolTip())
    button.setEnabled(action.isEnabled())
    button.clicked.connect(action.trigger)

    def follow() -> None:
        button.setEnabled(action.isEnabled())
        button.setIcon(action.icon())

    action.changed.connect(follow)
    return button
