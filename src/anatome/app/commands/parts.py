"""Picking parts of the building, hiding them, and bringing them back."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.stage.measuring import MeasurePoints
from anatome.app.stage.tasks import MeasureFace, PickRectangle
from anatome.model.building import Element
from anatome.scenes import edits
from anatome.words import plain_type

ALIKE = ("type", "material", "layer", "storey", "room")


def count(ids: Iterable[str]) -> str:
    """“1 part”, “12 parts”."""
    number = len(list(ids))
    return f"{number:,} part{'s' * (number != 1)}"


class PartCommands:
    """Works on what is picked."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return [*self._hiding(), *self._picking(), *self._measuring()]

    def _measuring(self) -> list[Entry]:
        return group(
            "Measuring",
            "parts",
            Entry(
                "measure",
                "Measure on the cut face",
                "Clear heights and widths, and distances between two points",
                self.measure_face,
                "Ctrl+U",
                needs="active",
                task=True,
            ),
            Entry(
                "measure_points",
                "Measure distances",
                "Click from point to point, of corners, middles, edges and cut corners: lengths, angles, and the area of faces",
                self.measure,
                "Ctrl+Alt+M",
                task=True,
                stage_menu=True,
            ),
        )

    def measure(self) -> None:
        """Begin to measure, or stop."""
        stage_input = self._host.stage_input
        stage_input.begin(None if isinstance(stage_input.task, MeasurePoints) else MeasurePoints(self._session))

    def measure_face(self) -> None:
        """Begin to measure on the face of a cut, or stop."""
        stage_input = self._host.stage_input
        self._host.key_plan.begin(None)
        stage_input.begin(None if isinstance(stage_input.task, MeasureFace) else MeasureFace(self._session))

    def _hiding(self) -> list[Entry]:
        def all_of(way: str) -> Entry:
            return Entry(
                f"aside_{way}",
                f"All of its {way}",
                f"Hide every part of the same {way} as a picked one",
                partial(self.set_aside_alike, way),
                needs="elements",
            )

        return [
            *group(
                "Parts",
                "parts",
                Entry(
                    "set_aside",
                    "Set aside",
                    "Hide the picked parts",
                    self.set_aside,
                    "Ctrl+H",
                    "eye-slash",
                    "elements",
                    stage_menu=True,
                ),
                Entry(
                    "isolate",
                    "Only these",
                    "Hide everything but the picked parts",
                    self.isolate,
                    "Ctrl+I",
                    "selection-all",
                    "elements",
                    stage_menu=True,
                ),
                Entry(
                    "fade",
                    "Fade",
                    "Hide the picked parts, but go on drawing them faintly",
                    self.fade,
                    "Ctrl+Alt+H",
                    needs="elements",
                    stage_menu=True,
                ),
                Entry(
                    "bring_back_these",
                    "Bring these back",
                    "Show the picked parts again; ghosts are picked like any part",
                    self.bring_back_these,
                    needs="hidden elements",
                    stage_menu=True,
                ),
                Entry(
                    "bring_back",
                    "Bring all back",
                    "Show everything again",
                    self.bring_back,
                    "Ctrl+Shift+H",
                    "eye",
                    "hidden",
                    stage_menu=True,
                ),
                Entry(
                    "swap_hidden",
                    "Show what is set aside instead",
                    "What is hidden is shown, and what is shown is hidden",
                    self.swap_hidden,
                    needs="hidden",
                ),
                Entry(
                    "ghosts",
                    "Ghosts of what is set aside",
                    "Draw what is hidden faintly, so that it can be picked and brought back",
                    self.toggle_ghosts,
                    "Ctrl+Alt+G",
                    ticked=lambda: self._session.stage.ghosts,
                ),
            ),
            *group("Parts", "parts", *map(all_of, ALIKE), within="Set aside more"),
        ]

    def _picking(self) -> list[Entry]:
        def same(way: str) -> Entry:
            return Entry(
                f"pick_{way}",
                f"The same {way}",
                f"Pick every shown part of the same {way} as a picked one",
                partial(self.pick_alike, way),
                needs="elements",
            )

        return group(
            "Picking",
            "parts",
            Entry(
                "pick_rectangle",
                "With a rectangle",
                "Drag it down for what it encloses, up for what it touches. Ctrl and a drag do the same at any time",
                self.rectangle,
                "Ctrl+Alt+R",
                task=True,
            ),
            *map(same, ALIKE),
            Entry("pick_others", "All others instead", "Pick what is shown and not picked", self.pick_others, needs="elements"),
            within="Pick",
        )

    # Hiding ----------------------------------------------------------------------------------------------------

    def set_aside(self) -> None:
        s = self._session
        picked = s.picked.elements
        s.apply(edits.hide(s.project, picked), f"Set aside {count(picked)}")
        s.pick()

    def set_aside_alike(self, way: str) -> None:
        s = self._session
        alike, words = self._alike(way)
        s.apply(edits.hide(s.project, alike), f"Set aside {words}, {count(alike)}")
        s.pick()

    def fade(self) -> None:
        s = self._session
        picked = s.picked.elements
        s.apply(edits.fade(s.project, picked), f"Faded {count(picked)}")
        s.pick()

    def isolate(self) -> None:
        s = self._session
        if s.building is not None:
            everything = (e.id for e in s.building.elements)
            s.apply(edits.isolate(s.project, s.picked.elements, everything), "Showing only what is picked")

    def bring_back_these(self) -> None:
        s = self._session
        back = s.picked.elements & s.stage.hidden
        s.apply(edits.show(s.project, back), f"Brought back {count(back)}")

    def bring_back(self) -> None:
        self._session.apply(edits.show_all(self._session.project), "Brought everything back")

    def swap_hidden(self) -> None:
        s = self._session
        if s.building is not None:
            everything = [e.id for e in s.building.elements]
            s.apply(edits.isolate(s.project, s.stage.hidden, everything), "Showing what was set aside")

    def toggle_ghosts(self) -> None:
        s = self._session
        on = not s.stage.ghosts
        s.apply(edits.set_ghosts(s.project, on), "What is set aside is drawn faintly" if on else "No ghosts")

    # Picking ---------------------------------------------------------------------------------------------------

    def rectangle(self) -> None:
        """Begin to pick with a rectangle, or stop."""
        stage_input = self._host.stage_input
        stage_input.begin(None if isinstance(stage_input.task, PickRectangle) else PickRectangle(self._session))

    def _alike(self, way: str) -> tuple[frozenset[str], str]:
        """The shown parts that are like a picked one in some way, and what that is in words."""
        s = self._session
        assert s.building is not None

        building = s.building
        picked = [building.index_of[i] for i in s.picked.elements]
        if way == "room":
            rooms = set(building.space_of[picked].tolist()) - {-1}
            inside = frozenset(e.id for e, room in zip(building.elements, building.space_of.tolist()) if room in rooms)
            names = sorted({building.spaces[room].name or "a room without a name" for room in rooms})
            return inside - s.stage.hidden, ", ".join(names) or "nothing: it stands in no room"

        def of(element: Element) -> object:
            return getattr(element, way)

        kinds = {of(building.elements[number]) for number in picked} - {"", None}
        alike = frozenset(e.id for e in building.elements if of(e) in kinds) - s.stage.hidden
        storeys = building.storeys
        words = [
            storeys[kind].name if isinstance(kind, int) else plain_type(str(kind)) if way == "type" else str(kind)
            for kind in kinds
        ]
        return alike, ", ".join(sorted(words)) or f"nothing: there is no {way}"

    def pick_alike(self, way: str) -> None:
        s = self._session
        alike, words = self._alike(way)
        if alike:
            s.pick(elements=alike)
        s.said.emit(f"Picked {words}, {count(alike)}")

    def pick_others(self) -> None:
        s = self._session
        if s.building is not None:
            others = frozenset(e.id for e in s.building.elements) - s.stage.hidden - s.picked.elements
            s.pick(elements=others)
            s.said.emit(f"Picked {count(others)}")
