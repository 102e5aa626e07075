"""A sheet that says what is not seen and why, and takes one there."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anatome.app.base.actions import Actions, panel_button
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import clear, label
from anatome.scenes import edits
from anatome.scenes.unseen import Unseen, counts, unseen
from anatome.words import plain_type

MOST = 12
"""Rows of what is hidden; the rest is one row."""


def count_words(session: Session) -> str:
    """“81 hidden, 212 before cuts”."""
    building = session.building
    if building is None or not session.is_open or not (session.stage.hidden or session.stage.active_cuts):
        return ""
    found = counts(building, session.stage, session.kept())
    said = ((found.aside, "hidden"), (found.before_cuts, "before cuts"), (found.left_out, "left out"))
    return ", ".join(f"{number:,} {words}" for number, words in said if number)


def _plain(name: str) -> str:
    """A layer as it is called, a type as people say it."""
    return plain_type(name) if name.startswith("Ifc") else name


class UnseenSheet(QFrame):
    """Rows with what can be done about each."""

    def __init__(self, session: Session, actions: Actions, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("sheet")
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 14)
        column.setSpacing(6)
        column.addWidget(label("What is not seen", "title"))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        column.addLayout(self.rows)
        self.ghosts = QCheckBox("Ghosts of what is hidden")
        self.ghosts.setToolTip("Draw it faintly, so that it can be picked and shown again")
        self.ghosts.clicked.connect(actions["ghosts"].trigger)
        column.addWidget(self.ghosts)
        column.addWidget(panel_button(actions["show_all"]))
        self.setMinimumWidth(320)

    def fill(self) -> None:
        """List what is not seen now."""
        clear(self.rows)
        session = self._session
        assert session.building is not None
        found = unseen(session.building, session.stage, session.kept())
        aside = [row for row in found if row.why == "aside"]
        if len(aside) > MOST:
            rest = frozenset().union(*(row.ids for row in aside[MOST:]))
            aside = [*aside[:MOST], Unseen("aside", "others", rest)]
        for row in (*aside, *(row for row in found if row.why != "aside")):
            self._add(row)
        if not found:
            self.rows.addWidget(label("All of the building is shown.", "soft"))
        self.ghosts.setChecked(self._session.stage.ghosts)

    def _add(self, row: Unseen) -> None:
        line = QHBoxLayout()
        words = {"aside": _plain(row.what), "cut": f"before {row.what}", "left out": row.what}[row.why]
        there = QPushButton(f"{len(row.ids):,}  {words}")
        there.setProperty("role", "quiet")
        there.setToolTip("Pick the cut" if row.why == "cut" else "Pick these parts; they are listed beside")
        there.clicked.connect(lambda: self._go(row))
        line.addWidget(there, 1)
        if row.why == "aside":
            back = QPushButton("Show")
            back.clicked.connect(lambda: self._show(row))
            line.addWidget(back)
        elif row.why == "cut":
            off = QPushButton("Switch off")
            off.setToolTip("The cut takes nothing away until it is switched on again")
            off.clicked.connect(lambda: self._switch_off(row))
            line.addWidget(off)
        self.rows.addLayout(line)

    def _go(self, row: Unseen) -> None:
        self.close()
        if row.why == "cut":
            self._session.pick(cut=row.cut)
        else:
            self._session.pick(elements=row.ids)

    def _show(self, row: Unseen) -> None:
        session = self._session
        session.apply(edits.show(session.project, row.ids), f"Shown: {len(row.ids)} of {_plain(row.what)}")
        self.close()

    def _switch_off(self, row: Unseen) -> None:
        session = self._session
        session.apply(edits.change_cut(session.project, row.cut, on=False), f"{row.what} is off")
        self.close()

    def open_over(self, at: QPoint) -> None:
        """Stand with the lower left corner there, on the screen."""
        self.fill()
        self.adjustSize()
        room = self.screen().availableGeometry()
        self.move(max(at.x(), room.left() + 4), max(at.y() - self.height(), room.top() + 4))
        self.show()
