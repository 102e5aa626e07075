"""Keys of one's own: what the settings say in the place of the keys commands come with."""

from __future__ import annotations

from PySide6.QtGui import QKeySequence

from anatome.app.base.actions import Actions
from anatome.app.base.entry import Entry
from anatome.app.document.preferences import preferences

GROUP = "own keys"
SHARED = frozenset({"Del", "Esc"})
"""Keys that several commands have, of which one at a time can be meant."""


class OwnKeys:
    """Of one window. A key is never two commands' at once: who takes one is told whose it was."""

    def __init__(self, actions: Actions) -> None:
        self._actions = actions
        kept = preferences()
        kept.beginGroup(GROUP)
        for name in kept.childKeys():
            if actions.knows(name):
                actions.set_keys(name, str(kept.value(name)))
        kept.endGroup()

    def holder(self, key: QKeySequence, but: str) -> Entry | None:
        """Return the command that has a key, one passed over; None where it is free, or one of those several have."""
        if key.isEmpty() or key.toString() in SHARED:
            return None
        return next((e for e in self._actions.entries() if e.name != but and key in self._actions[e.name].shortcuts()), None)

    def set(self, name: str, key: QKeySequence, instead_of: Entry | None = None) -> None:
        """Give a command a key, and take it from the one that has it."""
        if instead_of is not None:
            left = [k for k in self._actions[instead_of.name].shortcuts() if k != key]
            self._keep(instead_of.name, "|".join(k.toString() for k in left))
        self._keep(name, key.toString())

    def is_own(self, name: str) -> bool:
        """Return whether a command has another key than it comes with."""
        return preferences().contains(f"{GROUP}/{name}")

    def reset(self, name: str | None = None) -> None:
        """Give a command, or all, the keys they come with."""
        kept = preferences()
        for one in [name] if name is not None else [e.name for e in self._actions.entries()]:
            if kept.contains(f"{GROUP}/{one}"):
                kept.remove(f"{GROUP}/{one}")
                self._actions.set_keys(one, None)

    def _keep(self, name: str, keys: str) -> None:
        preferences().setValue(f"{GROUP}/{name}", keys)
        self._actions.set_keys(name, keys)
