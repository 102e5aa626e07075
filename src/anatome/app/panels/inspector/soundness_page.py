"""Parts of the model that are no sound solids, and why."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from anatome.app.commands.soundness import SoundnessCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.model_page import ModelPage
from anatome.app.panels.inspector.page import RowButton, bare_column, clear, label, section
from anatome.model.building import Building
from anatome.model.soundness import Soundness
from anatome.words import unnumbered

MOST_ROWS = 20
"""Names that are listed of one kind; more are counted, and picked with the rest."""


class SoundnessPage(ModelPage):
    """What is found is tinted on the stage; a click picks of it."""

    def __init__(self, session: Session, commands: SoundnessCommands) -> None:
        super().__init__(session, commands, "Sound solids")
        self._commands = commands
        self._listed: object = self  # what is listed; nothing yet, not even that it is looked for
        self.why = label("")
        self.column.addWidget(self.why)
        self.open = _Found("Open", "A cut through them may be left without a fill", session)
        self.inside_out = _Found("Turned inside out", "They are filled where they are cut all the same", session)
        self.doubled = _Found("Doubled", "Two parts of one shape in one place: hide one of them", session)
        for kind in (self.open, self.inside_out, self.doubled):
            self.column.addWidget(kind)
        self.column.addStretch()

    def refresh(self) -> None:
        """Show what was found."""
        building, found = self._session.building, self._commands.found
        if building is None:
            return
        if found is not self._listed:
            self._listed = found
            self._show(building, found)
        if found is not None:
            self._say_why(building, found)
            numbers = np.flatnonzero(found.open | found.inside_out).tolist() + found.doubled.ravel().tolist()
            # What is picked is tinted alone, so that it is seen which one it is.
            ids = frozenset() if self._session.picked.elements else frozenset(building.elements[i].id for i in numbers)
            self.tint(ids)

    def _say_why(self, building: Building, found: Soundness) -> None:
        """Of the first of the picked parts of which there is something to say."""
        numbers = sorted(building.index_of[i] for i in self._session.picked.elements if i in building.index_of)
        first = next((i for i in numbers if i < len(found.free) and found.words(i)), None)
        self.why.setVisible(first is not None)
        if first is not None:
            self.why.setText(f"{building.elements[first].name or 'It'}: {found.words(first)}.")

    def _show(self, building: Building, found: Soundness | None) -> None:
        for kind in (self.open, self.inside_out, self.doubled):
            kind.hide()
        if found is None:
            self.facts.setText("Looking at every part…")
            return
        # What stands round the model comes after its parts, so their numbers are the same.
        self.open.show_parts([[i] for i in np.flatnonzero(found.open).tolist()], building)
        self.inside_out.show_parts([[i] for i in np.flatnonzero(found.inside_out).tolist()], building)
        self.doubled.show_parts(found.doubled.tolist(), building)
        sound = int((~found.open & ~found.inside_out).sum())
        count = len(found.open)
        of = f"All {count:,}" if sound == count else f"{sound:,} of {count:,}"
        self.facts.setText(f"{of} parts are closed, with their faces outwards.")


class _Found(QWidget):
    """A list of parts of one kind, with what it means; nothing where there are none."""

    def __init__(self, title: str, means: str, session: Session) -> None:
        super().__init__()
        self._session = session
        column = bare_column(self, 4)
        section(column, title)
        column.addWidget(label(means + ".", "soft"))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(0)
        column.addLayout(self.rows)
        self.more = label("", "soft")
        column.addWidget(self.more)
        self.all = QPushButton("")
        self.all.setToolTip("For hiding them, giving them a look of their own, or saying what a cut does to them")
        self.all.clicked.connect(lambda: self._pick(self._ids))
        column.addWidget(self.all)
        self._ids: frozenset[str] = frozenset()

    def show_parts(self, found: Sequence[Sequence[int]], building: Building) -> None:
        """List parts by their numbers, or pairs of them, those of one name together."""
        clear(self.rows)
        by_name: dict[str, list[str]] = {}
        for numbers in found:
            parts = [building.elements[i] for i in numbers]
            name = " and ".join(dict.fromkeys(unnumbered(part.name) or part.name or part.id for part in parts))
            by_name.setdefault(name, []).extend(part.id for part in parts)
        self._ids = frozenset(i for ids in by_name.values() for i in ids)
        for name, ids in list(by_name.items())[:MOST_ROWS]:
            row = RowButton(f"{name}  ·  {len(ids)}" if len(ids) > 1 else name, "Pick it; Home then shows it whole")
            row.clicked.connect(partial(self._pick, frozenset(ids)))
            self.rows.addWidget(row)
        self.more.setText(f"and {len(by_name) - MOST_ROWS:,} more")
        self.more.setVisible(len(by_name) > MOST_ROWS)
        self.all.setText(f"Pick all {len(self._ids):,}")
        self.all.setVisible(len(by_name) > 1)
        self.setVisible(bool(found))

    def _pick(self, ids: frozenset[str], _: bool = False) -> None:
        self._session.pick(elements=ids)
