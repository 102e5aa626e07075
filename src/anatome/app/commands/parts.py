"""Picking parts of the building, hiding them, and bringing them back."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.stage.measuring import MeasurePoints
from anatome.app.stage.tasks import MeasureFace, PickRectangle
from anatome.model.building import Building, Element
from anatome.scenes import edits
from anatome.scenes.project import Project
from anatome.words import plain_type

ALIKE = ("type", "material", "layer", "group", "storey", "room")


def count(ids: Iterable[str]) -> str:
    """“1 part”, “12 parts”."""
    number = len(list(ids))
    return f"{number:,} part{'s' * (number != 1)}"


def named(ids: Iterable[str], building: Building) -> str:
    """“8 parts of Level 2”, “East wall”, “12 parts”: what parts are called together."""
    parts = [building.elements[building.index_of[i]] for i in ids if i in building.index_of]
    if len(parts) == 1 and parts[0].name:
        return parts[0].name
    storeys = {e.storey for e in parts}
    storey = storeys.pop() if len(storeys) == 1 else None
    return count(e.id for e in parts) + ("" if storey is None else f" of {building.storeys[storey].name}")


class PartCommands:
    """Works on what is picked."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        hiding = group("Parts", "parts", *self._hiding(), *self._showing())
        return [*hiding, *self._hiding_alike(), *self._picking(), *self._measuring()]

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
        return [
            Entry(
                "hide",
                "Hide",
                "Hide the picked parts",
                self.hide,
                "Ctrl+H",
                "eye-slash",
                "elements",
                stage_menu=True,
            ),
            Entry(
                "isolate",
                "Isolate",
                "Hide everything but the picked parts",
                self.isolate,
                "Ctrl+I",
                "selection-all",
                "elements",
                stage_menu=True,
            ),
            Entry(
                "isolate_end",
                "Back from isolating",
                "Show all that was shown before, and hide again what was hidden then",
                self.end_isolation,
                "Ctrl+Alt+Shift+I",
                needs="isolated",
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
        ]

    def _showing(self) -> list[Entry]:
        return [
            Entry(
                "show_these",
                "Show these",
                "Show the picked parts again; ghosts are picked like any part",
                self.show_these,
                needs="hidden elements",
                stage_menu=True,
            ),
            Entry(
                "show_all",
                "Show all",
                "Show everything again",
                self.show_all,
                "Ctrl+Shift+H",
                "eye",
                "hidden",
                stage_menu=True,
            ),
            Entry(
                "swap_hidden",
                "Show what is hidden instead",
                "What is hidden is shown, and what is shown is hidden",
                self.swap_hidden,
                needs="hidden",
            ),
            Entry(
                "ghosts",
                "Ghosts of what is hidden",
                "Draw what is hidden faintly, so that it can be picked and shown again",
                self.toggle_ghosts,
                "Ctrl+Alt+G",
                ticked=lambda: self._session.stage.ghosts,
            ),
        ]

    def _hiding_alike(self) -> list[Entry]:
        def all_of(way: str) -> Entry:
            return Entry(
                f"hide_{way}",
                f"All of its {way}",
                f"Hide every part of the same {way} as a picked one",
                partial(self.hide_alike, way),
                needs="elements",
            )

        return group("Parts", "parts", *map(all_of, ALIKE), within="Hide more")

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

    def hide(self) -> None:
        s = self._session
        picked = s.picked.elements
        self._tell_change("Hidden", picked - s.stage.hidden, edits.hide(s.project, picked))
        s.pick()

    def _tell_change(self, how: str, parts: frozenset[str], project: Project) -> None:
        """Make a step of hiding or showing parts, and say what it did with its true number."""
        assert self._session.building is not None
        self._session.apply(project, f"{how}: {named(parts, self._session.building)}")

    def hide_alike(self, way: str) -> None:
        s = self._session
        alike, words = self._alike(way)
        s.apply(edits.hide(s.project, alike), f"Hidden: {words}, {count(alike)}")
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
            kept = s.picked.elements
            self._tell_change("Isolated", kept, edits.isolate(s.project, kept, everything))

    def end_isolation(self) -> None:
        """Go back to what was shown before."""
        s = self._session
        count_before = len(s.stage.hidden_before or ())
        said = f"Hidden again: {count_before:,} parts" if count_before else "Everything is shown again"
        s.apply(edits.end_isolation(s.project), said)

    def show_these(self) -> None:
        s = self._session
        back = s.picked.elements & s.stage.hidden
        self._tell_change("Shown", back, edits.show(s.project, back))

    def show_all(self) -> None:
        number = len(self._session.stage.hidden)
        self._session.apply(edits.show_all(self._session.project), f"Shown: {number:,} part{'s' * (number != 1)}, all there is")

    def swap_hidden(self) -> None:
        s = self._session
        if s.building is not None:
            everything = [e.id for e in s.building.elements]
            s.apply(edits.show_only(s.project, s.stage.hidden, everything), "Showing what was hidden")

    def toggle_ghosts(self) -> None:
        s = self._session
        on = not s.stage.ghosts
        s.apply(edits.set_ghosts(s.project, on), "What is hidden is drawn faintly" if on else "No ghosts")

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
            return element.also[0] if way == "group" and element.also else getattr(element, way)

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
