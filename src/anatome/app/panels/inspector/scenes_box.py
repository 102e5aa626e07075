"""The scenes the picked cut is in: how it is in each, one click to go there."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from anatome.app.base.actions import Actions, panel_button
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import RowButton, bare_column, clear, label
from anatome.app.stage.stage import Stage
from anatome.scenes.shared_cuts import how_it_is, scenes_with, stood

MOST = 12
"""Scenes that are listed; more are counted."""


class ScenesBox(QWidget):
    """Of the picked cut."""

    def __init__(self, session: Session, stage: Stage, actions: Actions) -> None:
        super().__init__()
        self._session, self._stage = session, stage
        column = bare_column(self)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(1)
        column.addLayout(self.rows)
        buttons = QHBoxLayout()
        buttons.setSpacing(4)
        buttons.addWidget(panel_button(actions["put_cut"], "Put into…"))
        buttons.addWidget(panel_button(actions["only_here"]))
        column.addLayout(buttons)
        self._shown: object = None

    def refresh(self) -> int:
        """Show the scenes as they are now; return how many have the cut."""
        session, cut = self._session, self._session.cut
        if cut is None:
            return 0
        scenes = scenes_with(session.project, cut.id)
        # Those where it stands as it did on the stage before it was moved will follow.
        as_it_stood = stood(session.project, cut.id) or cut
        rows = [(scene.id, f"{scene.name}{how_it_is(scene, as_it_stood)}") for scene in scenes]
        if (cut.id, rows) == self._shown:
            return len(scenes)
        self._shown = cut.id, rows
        clear(self.rows)
        for scene_id, words in rows[:MOST]:
            button = RowButton(words, "Go to this scene")
            button.clicked.connect(partial(self._go, scene_id, cut.id))
            self.rows.addWidget(button)
        if len(rows) > MOST:
            self.rows.addWidget(label(f"and {len(rows) - MOST} more", "soft"))
        if not rows:
            self.rows.addWidget(label("In no scene yet. Save scene keeps it.", "soft"))
        return len(scenes)

    def _go(self, scene_id: str, cut_id: str, *_: object) -> None:
        self._session.recall_scene(scene_id, self._stage.aspect)
        self._session.pick(cut=cut_id)
