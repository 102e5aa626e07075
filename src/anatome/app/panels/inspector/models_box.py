"""The models of a project besides its first."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QMenu, QPushButton, QVBoxLayout, QWidget

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.commands.models import ModelsCommands
from anatome.app.document.newer_model import NewerModel
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import RowButton, away_button, bare_column, clear, label
from anatome.scenes.project import OtherModel


class ModelsBox(QWidget):
    """A row each: a tick has it in all pictures, a click places it, a cross takes it away; a right click offers the rest."""

    def __init__(self, session: Session, actions: Actions, commands: ModelsCommands, newer: NewerModel) -> None:
        super().__init__()
        self._session, self._commands, self._newer = session, commands, newer
        newer.noticed.connect(self._noticed)
        column = bare_column(self, 4)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(0)
        column.addLayout(self.rows)
        self.add = panel_button(actions["add_model"])
        column.addWidget(self.add)
        self._listed: object = self
        commands.changed.connect(self._show_busy)

    def _noticed(self) -> None:
        if self._session.is_open:
            self.refresh()

    def _show_busy(self) -> None:
        self.setEnabled(not self._commands.busy)

    def refresh(self) -> None:
        """List them as they are now."""
        opened, others = self._session.opened_model, self._session.project.others
        key = others, tuple(opened.read), self._newer.outdated
        if key == self._listed:
            return
        self._listed = key
        clear(self.rows)
        for other in others:
            self.rows.addLayout(self._row(other, other.id in opened.read))
            if other.id not in opened.read:
                self.rows.addWidget(label(f"Not found at {other.model.path}", "warning"))
            elif other.id in self._newer.outdated:
                anew = QPushButton("Its file is newer: read it anew")
                anew.setProperty("role", "warning")
                anew.clicked.connect(partial(self._run, self._commands.read_anew, other))
                self.rows.addWidget(anew)

    def _row(self, other: OtherModel, there: bool) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        on = QCheckBox()
        on.setChecked(other.on)
        on.setEnabled(there)
        on.setToolTip("In all pictures, or in none")
        on.clicked.connect(lambda value, other=other: self._commands.switch(other, value))
        row.addWidget(on)
        moved = ", moved" if any(other.shift) or other.turn else ""
        parts = len(self._session.opened_model.read[other.id].elements) if there else 0
        name = RowButton(f"{other.name}  ·  {parts:,} parts{moved}", f"Place it, or call it otherwise. {self._place(other)}")
        name.clicked.connect(partial(self._ask, other))
        name.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        name.customContextMenuRequested.connect(partial(self._menu, other, name))
        row.addWidget(name, 1)
        away = away_button("Take it away")
        away.clicked.connect(partial(self._take, other))
        row.addWidget(away)
        return row

    @staticmethod
    def _place(other: OtherModel) -> str:
        x, y, z = (units.length(v, 2, signed=True) for v in other.shift)
        return f"It stands {x}, {y}, {z} from where its file has it, turned by {other.turn:g}°. Right-click for more"

    def _ask(self, other: OtherModel, *_: object) -> None:
        self._commands.ask_place(other)

    def _take(self, other: OtherModel, *_: object) -> None:
        self._commands.take(other)

    def _menu(self, other: OtherModel, row: QWidget, at: QPoint) -> None:
        menu = QMenu(row)
        for words, do in (
            ("Place it by numbers…", self._commands.ask_place),
            ("Place it by points", self._commands.pick_place),
            ("To the middle of the building", self._commands.centre),
            ("Read it anew", self._commands.read_anew),
            ("Take it away", self._commands.take),
        ):
            menu.addAction(words).triggered.connect(partial(self._run, do, other))
        menu.popup(row.mapToGlobal(at))

    @staticmethod
    def _run(do: Callable[[OtherModel], None], other: OtherModel, *_: object) -> None:
        do(other)
