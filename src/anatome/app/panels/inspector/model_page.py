"""A page about the model, which lies over what is picked until it is put away."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import Qt, SignalInstance
from PySide6.QtWidgets import QHBoxLayout

from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Page, away_button, label


class PageCommands(Protocol):
    """What opens such a page, and finds what it shows."""

    @property
    def is_open(self) -> bool:
        """Whether the page is wanted."""

    @property
    def changed(self) -> SignalInstance:
        """Told when it is wanted or no longer, or there is something else to show."""

    def toggle(self) -> None:
        """Show it, or put it away."""


class ModelPage(Page):
    """Tints parts on the stage while it is shown; they are plain again when it is put away."""

    def __init__(self, session: Session, commands: PageCommands, title: str) -> None:
        super().__init__()
        self._session = session
        self._wanted = commands
        self._tinting = False
        top = QHBoxLayout()
        top.addWidget(label(title, "title"), 1)
        close = away_button("Back to the picture")
        close.clicked.connect(commands.toggle)
        top.addWidget(close, 0, Qt.AlignmentFlag.AlignTop)
        self.column.addLayout(top)
        self.facts = label("", "soft")
        self.column.addWidget(self.facts)
        commands.changed.connect(self._refresh_if_shown)

    @property
    def is_wanted(self) -> bool:
        """Whether this page is to be shown, whatever is picked."""
        return self._wanted.is_open

    def tint(self, ids: frozenset[str]) -> None:
        """Tint parts on the stage."""
        self._tinting = True
        self._session.mark(ids)

    def _refresh_if_shown(self) -> None:
        if self.is_wanted and self._session.is_open:
            self.refresh()
        elif self._tinting:
            self._tinting = False
            self._session.mark(frozenset())
