"""In which parts the stage differs from its scene, each of which is taken over or put back by itself."""

from __future__ import annotations

from collections.abc import Callable, Collection
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from anatome.app.commands.scene_parts import ScenePartCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import bare_column, label
from anatome.scenes.scene_parts import WORDS, Part, in_words, stage_differs_in


class PartsStrip(QWidget):
    """Shown under the inspector, where it pushes nothing, while the stage is not as its scene was saved."""

    def __init__(self, session: Session, commands: ScenePartCommands) -> None:
        super().__init__()
        self._session = session
        self._differing: tuple[Part, ...] = ()
        column = bare_column(self, 4)
        column.setContentsMargins(16, 7, 16, 9)
        self.words = label("", "soft")
        column.addWidget(self.words)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.take = self._button("Take over", "Bring into the scene what the stage has", commands.take_over)
        self.put = self._button("Put back", "Have on the stage again what the scene has", commands.put_back)
        row.addWidget(self.take)
        row.addWidget(self.put)
        column.addLayout(row)
        self.hide()
        for signal in (session.opened, session.changed, session.closed, session.camera_moved):
            signal.connect(self.refresh)

    def _button(self, words: str, tip: str, run: Callable[[Collection[Part]], None]) -> QPushButton:
        made = QPushButton(words)
        made.setToolTip(f"{tip}: all of it, or a part")
        menu = QMenu(made)
        menu.setToolTipsVisible(True)
        made.setMenu(menu)
        menu.aboutToShow.connect(partial(self._fill, menu, run))
        return made

    def _fill(self, menu: QMenu, run: Callable[[Collection[Part]], None]) -> None:
        menu.clear()
        parts = self._differing
        if len(parts) > 1:
            menu.addAction("All of it", partial(run, frozenset(parts)))
            menu.addSeparator()
        for part in parts:
            menu.addAction(WORDS[part].name, partial(run, frozenset({part}))).setToolTip(WORDS[part].tip)

    def refresh(self) -> None:
        """Say what there is to say."""
        project = self._session.project if self._session.is_open else None
        self._differing = () if project is None else stage_differs_in(project)
        scene = self._session.scene
        tried_on = self._session.looks_freely  # what is tried on is not the stage's own yet
        self.setVisible(bool(self._differing) and scene is not None and not tried_on)
        if self._differing and scene is not None:
            self.words.setText(f"Not as in {scene.name}: {in_words(self._differing)}")
            self.words.setTextFormat(Qt.TextFormat.PlainText)
