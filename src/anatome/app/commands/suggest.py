"""Asking for pictures of something."""

from __future__ import annotations

import numpy as np

from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.model.building import Building
from anatome.suggestions.subject import Subject, of_building, of_parts, of_space
from anatome.words import plain_type


class SuggestCommands:
    """Begins rounds of suggestions."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return group(
            "Suggestions",
            "cut",
            Entry(
                "suggest",
                "Suggest pictures…",
                "Small pictures of cuts and views that show what you ask for: a room, the stair, what is picked, or the building",
                self.ask,
                "Ctrl+Alt+S",
                "image",
                stage_menu=True,
            ),
            Entry(
                "suggest_picked",
                "Suggest pictures of these",
                "Small pictures of cuts and views that show the picked parts",
                self.of_picked,
                needs="elements",
                menu="parts",
            ),
        )

    def ask(self) -> None:
        """Ask what should be seen."""
        building = self._session.building
        if building is None:
            return
        ask = Ask(
            self._host.widget,
            "Suggest pictures",
            "Eight cuts and views that show it, ranked by how much of it is seen and how cleanly they cut.",
            "Suggest",
            self._run,
        )
        ask.choice("Show", [(name, subject) for name, subject in self._subjects(building)]).open()

    def _subjects(self, building: Building) -> list[tuple[str, Subject]]:
        session = self._session
        shown = session.shown()
        found = []
        picked = session.picked_mask()
        if picked is not None and (picked & shown).any():
            found.append(("What is picked", of_parts(building, picked & shown)))
        found.append(("The whole building", of_building(building, shown)))
        found += [(building.room_name(space), of_space(building, space)) for space in building.spaces]
        types = np.array([e.type for e in building.elements])
        for kind in ("IfcStair", "IfcStairFlight", "IfcRamp", "IfcFurniture", "IfcFurnishingElement", "IfcColumn", "IfcRoof"):
            mask = shown & (types == kind)
            if mask.any():
                found.append((f"{plain_type(kind)}, all of them", of_parts(building, mask, plain_type(kind).lower())))
        return found

    def _run(self, ask: Ask) -> None:
        subject = ask.chosen("Show")
        assert isinstance(subject, Subject)
        self._host.suggester.begin(subject)

    def of_picked(self) -> None:
        """Begin with what is picked."""
        session, picked = self._session, self._session.picked_mask()
        if session.building is not None and picked is not None and (picked & session.shown()).any():
            self._host.suggester.begin(of_parts(session.building, picked & session.shown()))
        else:
            session.said.emit("What is picked is hidden. Show it, then ask again")
