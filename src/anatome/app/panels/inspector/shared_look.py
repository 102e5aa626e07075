"""What becomes of a changed look: for all scenes that use it, or a look of its own."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget

from anatome.app.base.actions import Actions, panel_button
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import bare_column, label
from anatome.scenes.look_edits import plain_name, users

NAMED = 3
"""Scenes that are named; more are counted."""


class SharedLook(QWidget):
    """Shown under the inspector, where it pushes nothing, while the look of the stage is a changed one: says which scenes use
    it, and asks."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        column = bare_column(self)
        column.setContentsMargins(16, 8, 16, 10)
        self.words = label("", "soft")
        self.words.setWordWrap(True)
        column.addWidget(self.words)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.for_all = panel_button(actions["look_for_all"], "For all")
        self.keep = panel_button(actions["keep_look"], "As a new look…")
        row.addWidget(self.for_all)
        row.addWidget(self.keep)
        column.addLayout(row)
        self.hide()
        for signal in (session.opened, session.changed, session.closed):
            signal.connect(self.refresh)

    def refresh(self) -> None:
        """Say what there is to say."""
        if not self._session.is_open:
            self.hide()
            return
        look = self._session.stage.look
        name = plain_name(look)
        scenes = users(self._session.project, name)
        self.setVisible(look.name != name)
        self.for_all.setVisible(bool(scenes))
        if not scenes:
            self.words.setText("No other scene uses it.")
            return
        names = ", ".join(f"“{s.name}”" for s in scenes[:NAMED])
        more = f" and {len(scenes) - NAMED} more" if len(scenes) > NAMED else ""
        self.words.setText(f"“{name}” is used by {names}{more}. Change it")
