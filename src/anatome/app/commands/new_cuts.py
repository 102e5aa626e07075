"""Cuts that are asked for in a dialog, or made round what is there: at a storey, round a room, serial sections."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from anatome.app.base import units
from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.document.placing import place
from anatome.app.key_drawings.tasks import add_box
from anatome.app.stage.tasks import add_plane
from anatome.cuts.fitting import PLAN_HEIGHT, box_round, box_round_space, box_round_storey, storey_plane
from anatome.cuts.kinds.box import Box
from anatome.cuts.plane import Plane
from anatome.cuts.reach import EVERYTHING, Reach
from anatome.cuts.series import MOST, SerialSections, offsets_at, storey_offsets
from anatome.model.building import Building
from anatome.model.kinds import EARTH_TYPES
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.edits import new_id

KEEP, CARVE = ("Keep the inside", False), ("Carve out the inside", True)


class NewCutCommands:
    """Places cuts that need no pointing."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return [
            *group(
                "New section planes",
                "cut",
                Entry("plane_storey", "At a storey…", "A level cut over the floor of a storey", self.at_storey, "Ctrl+Shift+Y"),
                Entry("copy_cut", "Parallel copy…", "The same cut further on", self.copy_cut, "Ctrl+D", "copy", "cut"),
                within="Section plane",
            ),
            *group(
                "New section boxes",
                "cut",
                Entry("box_shown", "Round what is shown", "All that is shown but the ground", self.box_shown, "Ctrl+B"),
                Entry(
                    "box_picked",
                    "Box round the picked parts",
                    "Fits what you picked",
                    self.box_picked,
                    "Ctrl+Shift+B",
                    needs="elements",
                    stage_menu=True,
                ),
                Entry("box_space", "Round a room…", "Through its walls, its floor and what is over it", self.box_space),
                Entry("box_storey", "Round a storey…", "From its floor to the next", self.box_storey),
                Entry(
                    "box_from_plane",
                    "From the section plane…",
                    "The slice behind the picked plane",
                    self.box_from_plane,
                    needs="cut",
                ),
                within="Section box",
            ),
            *group(
                "More cuts",
                "cut",
                Entry("series", "Serial sections…", "Many parallel sections at once", self.series, "Ctrl+Shift+R"),
            ),
        ]

    @property
    def _building(self) -> Building:
        assert self._session.building is not None
        return self._session.building

    # Asked for -------------------------------------------------------------------------------------------------

    def _storeys(self) -> list[tuple[str, object]]:
        found: list[tuple[str, object]] = [
            (f"{s.name}  {units.bare_length(s.elevation, 2, signed=True)}", i)
            for i, s in reversed(list(enumerate(self._building.storeys)))
        ]
        if not found:
            raise Problem("The model has no storeys. Place the cut on a face instead, or draw a box in the key plan.")
        return found

    def _storey_row(self, ask: Ask) -> Ask:
        storeys = self._storeys()
        at = [i for i, (_, number) in enumerate(storeys) if number == self._session.plan_storey]
        return ask.choice("Storey", storeys, at[0] if at else 0)

    def at_storey(self) -> None:
        """Ask for a storey and a height; a level cut looking down."""

        def run(ask: Ask) -> None:
            add_plane(self._session, storey_plane(self._building, ask.number("Storey"), ask.metres("Over its floor")))

        ask = Ask(self._host.widget, "Cut at a storey", "A level cut that looks down on the storey.", "Place", run)
        tip = "1.2 m is common practice for a plan"
        self._open(ask, lambda: self._storey_row(ask).length("Over its floor", PLAN_HEIGHT, tip))

    def box_storey(self) -> None:
        """Ask for a storey, how far up, and a margin."""

        def run(ask: Ask) -> None:
            shown = self._session.shown() & ~self._building.context
            open_top = bool(ask.chosen("Up to"))
            box = box_round_storey(self._building, ask.number("Storey"), shown, ask.metres("Margin"), open_top)
            add_box(self._session, box, self._carve(ask))

        ask = Ask(self._host.widget, "Box round a storey", "From under its floor up; wide enough for all of it.", "Place", run)
        tops = (("Under its ceilings, to look in", True), ("Under the next floor", False))
        self._open(
            ask,
            lambda: self._meaning(
                self._storey_row(ask).choice("Up to", tops).length("Margin", 0.3, "Below the floor, under the next, and round it")
            ),
        )

    def box_space(self) -> None:
        """Ask for a room and a margin."""
        spaces: list[tuple[str, object]] = [(self._building.room_name(s), i) for i, s in enumerate(self._building.spaces)]
        if not spaces:
            self._host.tell("The model names no rooms. Drag a rectangle in the key plan instead.", "No rooms in this model")
            return

        def run(ask: Ask) -> None:
            box = box_round_space(self._building.spaces[ask.number("Room")], ask.metres("Margin"), bool(ask.chosen("Top")))
            add_box(self._session, box, self._carve(ask))

        ask = Ask(self._host.widget, "Box round a room", "Through its walls and its floor.", "Place", run)
        tops = (("Under its ceiling, to look in", True), ("Through what is over it", False))
        self._meaning(ask.choice("Room", spaces).choice("Top", tops).length("Margin", 0.3)).open()

    def _meaning(self, ask: Ask) -> Ask:
        return ask.choice("The box", (KEEP, CARVE))

    @staticmethod
    def _carve(ask: Ask) -> bool:
        return bool(ask.chosen("The box"))

    def _open(self, ask: Ask, fill: Callable[[], object]) -> None:
        """Open a dialog with its rows, or say why this model has nothing to choose from."""
        try:
            fill()
        except Problem as problem:
            ask.deleteLater()
            self._host.tell(str(problem))
            return
        ask.open()

    def box_shown(self) -> None:
        """Round all that is shown but the ground."""
        shown = self._session.shown()
        built = shown & ~self._building.context
        self._box(lambda: box_round(self._building, built if built.any() else shown))

    def box_picked(self) -> None:
        """Round the picked parts."""
        picked = self._session.picked_mask()
        self._box(
            lambda: box_round(self._building, picked if picked is not None else np.zeros(len(self._building.elements), bool))
        )

    def box_from_plane(self) -> None:
        """Ask for a depth; the slice so deep behind the picked section plane."""
        cut = self._session.cut
        if cut is None or cut.encloses:
            self._session.said.emit("Pick a section plane first; the box begins at it.")
            return
        plane = cut.axis

        def run(ask: Ask) -> None:
            bounds = self._session.subject_bounds()
            box = Box.before_plane(plane, bounds, ask.metres("Depth"))
            box_id = new_id()
            project = edits.add_box(edits.change_cut(self._session.project, cut.id, on=False), box, box_id)
            place(self._session, project, box_id, f"Placed {project.stage.cuts[-1].name}, {cut.name} off")

        ask = Ask(
            self._host.widget, "Box from a section plane", f"The slice behind {cut.name}, which is switched off.", "Place", run
        )
        ask.length("Depth", 3.0, "How far behind the plane the box reaches").open()

    def _box(self, make: Callable[[], Box]) -> None:
        try:
            add_box(self._session, make())
        except Problem as problem:
            self._session.said.emit(str(problem))

    def copy_cut(self) -> None:
        """Ask for a distance; a parallel copy that takes the cut's place."""
        cut = self._session.cut
        if cut is None:
            return

        def run(ask: Ask) -> None:
            copy = new_id()
            project = edits.copy_cut(self._session.project, cut.id, copy, ask.metres("Further on by"))
            place(self._session, project, copy, f"Copied {cut.name}")

        note = f"To where {cut.name} looks; less than 0 is the other way. {cut.name} is switched off."
        Ask(self._host.widget, "Parallel copy", note, "Copy", run).length("Further on by", 1.0).open()

    def series(self) -> None:
        """Ask how many sections how far apart; from the picked plane on, or over every storey."""
        session = self._session
        cut = session.cut
        begin: Plane | None = None if cut is None or cut.encloses else cut.axis

        def run(ask: Ask) -> None:
            if ask.chosen("Where") == "storeys":
                plane, offsets = storey_offsets(self._building, ask.metres("Over each floor"))
            else:
                plane = begin if ask.chosen("Where") == "plane" and begin else self._through(str(ask.chosen("Where")))
                offsets = offsets_at(ask.counts["Sections"].value(), ask.metres("Apart"))
            mark = edits.next_series_mark(session.project)
            reach = ask.chosen("Of")
            assert isinstance(reach, Reach)
            made = SerialSections(id=new_id(), name=f"Series {mark}", mark=mark, plane=plane, offsets=offsets, reach=reach)
            project = edits.add_series(session.project, made)
            if cut is not None and begin is not None:
                project = edits.change_cut(project, cut.id, on=False)
            session.apply(project, f"{len(offsets)} serial sections")
            session.pick(cut=made.id)

        where: list[tuple[str, object]] = [
            ("Along the building (X)", "x"),
            ("Across the building (Y)", "y"),
            ("Level, from the top down", "z"),
        ]
        if self._building.storeys:
            where.append(("At every storey", "storeys"))
        if begin is not None and cut is not None:
            where.insert(0, (f"From {cut.name} on", "plane"))
        ask = Ask(self._host.widget, "Serial sections", "Parallel sections, shown together. They cut nothing away.", "Place", run)
        of: list[tuple[str, object]] = [
            ("All but the ground", Reach(mode="all but", what=Selection(types=frozenset(EARTH_TYPES)))),
            ("Everything", EVERYTHING),
        ]
        if cut is not None and cut.reach.mode != "everything":
            of.insert(0, (f"What {cut.name} affects", cut.reach))
        ask.choice("Where", where).choice("Of", of).count("Sections", 8, MOST).length("Apart", 2.0).length(
            "Over each floor", PLAN_HEIGHT
        )

        def fit() -> None:
            storeys = ask.chosen("Where") == "storeys"
            ask.counts["Sections"].setEnabled(not storeys)
            ask.lengths["Apart"].setEnabled(not storeys)
            ask.lengths["Over each floor"].setEnabled(storeys)

        ask.choices["Where"].currentIndexChanged.connect(fit)
        fit()
        ask.open()

    def _through(self, axis: str) -> Plane:
        """Where a series along an axis begins: half a metre into the building, looking along it."""
        bounds = self._session.subject_bounds()
        number = "xyz".index(axis)
        normal, origin = np.zeros(3), bounds.mean(axis=0)
        # Level sections go down from the top; the others go the way the axis goes.
        normal[number] = 1.0 if axis == "z" else -1.0
        origin[number] = bounds[1][number] - 0.5 if axis == "z" else bounds[0][number] + 0.5
        return Plane(
            (float(origin[0]), float(origin[1]), float(origin[2])), (float(normal[0]), float(normal[1]), float(normal[2]))
        )
