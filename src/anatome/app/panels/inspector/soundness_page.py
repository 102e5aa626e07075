"""Parts of the model that are no sound solids, and why."""

from __future__ import annotations

import numpy as np

from anatome.app.base.actions import Actions, panel_button
from anatome.app.commands.soundness import SoundnessCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.model_page import ModelPage
from anatome.app.panels.inspector.page import label
from anatome.app.panels.inspector.part_list import PartList
from anatome.model.building import Building
from anatome.model.soundness import Soundness


class SoundnessPage(ModelPage):
    """What is found is tinted on the stage; a click picks of it."""

    def __init__(self, session: Session, actions: Actions, commands: SoundnessCommands) -> None:
        super().__init__(session, commands, "Sound solids")
        self._commands = commands
        self._listed: object = self  # what is listed; nothing yet, not even that it is looked for
        self.why = label("")
        self.column.addWidget(self.why)
        self.open = PartList("Open", self._pick, "A cut through them may be left without a fill")
        self.inside_out = PartList("Turned inside out", self._pick, "They are filled where they are cut all the same")
        self.doubled = PartList("Doubled", self._pick, "Two parts of one shape in one place: hide one of them")
        self.crossing = PartList(
            "Crossing themselves", self._pick, "Bodies of one part that run through one another are filled as one"
        )
        self.within = PartList("In one another", self._pick, "Both are drawn where they are cut, the one inside over the other")
        for kind in self._lists:
            self.column.addWidget(kind)
        self.column.addWidget(panel_button(actions["isolate"]))
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
            alone = np.flatnonzero(found.open | found.inside_out | found.crossing).tolist()
            numbers = alone + found.doubled.ravel().tolist() + found.within.ravel().tolist()
            # What is picked is tinted alone, so that it is seen which one it is.
            ids = frozenset() if self._session.picked.elements else frozenset(building.elements[i].id for i in numbers)
            self.tint(ids)

    @property
    def _lists(self) -> tuple[PartList, ...]:
        return self.open, self.inside_out, self.doubled, self.crossing, self.within

    def _pick(self, ids: frozenset[str]) -> None:
        self._session.pick(elements=ids)

    def _say_why(self, building: Building, found: Soundness) -> None:
        """Of the first of the picked parts of which there is something to say."""
        numbers = sorted(building.index_of[i] for i in self._session.picked.elements if i in building.index_of)
        first = next((i for i in numbers if i < len(found.free) and found.words(i)), None)
        self.why.setVisible(first is not None)
        if first is not None:
            self.why.setText(f"{building.elements[first].name or 'It'}: {found.words(first)}.")

    def _show(self, building: Building, found: Soundness | None) -> None:
        for kind in self._lists:
            kind.hide()
        if found is None:
            self.facts.setText("Looking at every part…")
            return
        # What stands round the model comes after its parts, so their numbers are the same.
        self.open.show_parts([[i] for i in np.flatnonzero(found.open).tolist()], building)
        self.inside_out.show_parts([[i] for i in np.flatnonzero(found.inside_out).tolist()], building)
        self.doubled.show_parts(found.doubled.tolist(), building)
        self.crossing.show_parts([[i] for i in np.flatnonzero(found.crossing).tolist()], building)
        self.within.show_parts(found.within.tolist(), building)
        sound = int((~found.open & ~found.inside_out).sum())
        count = len(found.open)
        of = f"All {count:,}" if sound == count else f"{sound:,} of {count:,}"
        self.facts.setText(f"{of} parts are closed, with their faces outwards.")
