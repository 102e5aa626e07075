"""Everything that makes, changes and frames cuts, as the window's actions call it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np

from anatome.app.ask import Ask
from anatome.app.key_drawings.tasks import BoxRectangle, PlanTask, SectionLine, add_box
from anatome.app.stage.tasks import (
    AcrossAxis,
    AlongPart,
    MatchDirection,
    MeasureFace,
    OnFace,
    PeelPart,
    ReachPart,
    StageTask,
    ThroughPoints,
    add_plane,
)
from anatome.cuts.box import Box
from anatome.cuts.cut import AnyCut, SectionBox
from anatome.cuts.fitting import PLAN_HEIGHT, box_round, box_round_space, box_round_storey, storey_plane
from anatome.cuts.plane import Plane
from anatome.cuts.reach import EVERYTHING, Reach, Selection
from anatome.cuts.series import MOST, SerialSections, offsets_at, storey_offsets
from anatome.model.building import Building
from anatome.model.kinds import EARTH_TYPES
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.edits import new_id
from anatome.view.camera import square_on

if TYPE_CHECKING:
    from anatome.app.window import MainWindow

KEEP, CARVE = ("Keep the inside", False), ("Carve out the inside", True)


class Cutting:
    """Belongs to a window; works on its session, its stage and its key plan."""

    def __init__(self, window: MainWindow) -> None:
        self._window = window
        self._session = window.session

    @property
    def _building(self) -> Building:
        assert self._session.building is not None
        return self._session.building

    # Picked on the stage or drawn in the plan --------------------------------------------------------------------

    def begin(self, task: StageTask) -> None:
        """Begin a task on the stage; the same again stops it."""
        hands = self._window.hands
        same = hands.task is not None and hands.task.name == task.name
        self._window.key_plan.begin(None)
        hands.begin(None if same else task)

    def draw(self, task: PlanTask) -> None:
        """Begin to draw something in the key plan; the same again stops it."""
        plan = self._window.key_plan
        same = plan.task is not None and plan.task.name == task.name
        self._window.hands.begin(None)
        self._window.show_panels()
        plan.begin(None if same else task)
        self._window.show_task()
        if same:
            return
        self._session.said.emit(f"In the key plan: {task.hint[0].lower()}{task.hint[1:]}")

    def on_face(self) -> None:
        self.begin(OnFace(self._session))

    def across_axis(self) -> None:
        self.begin(AcrossAxis(self._session))

    def through_points(self) -> None:
        self.begin(ThroughPoints(self._session))

    def along_part(self) -> None:
        self.begin(AlongPart(self._session))

    def match(self) -> None:
        self.begin(MatchDirection(self._session))

    def peel(self) -> None:
        self.begin(PeelPart(self._session))

    def measure(self) -> None:
        self.begin(MeasureFace(self._session))

    def reach_pick(self) -> None:
        """Pick the reach of the cut on the stage; what it reaches is marked meanwhile."""
        self.begin(ReachPart(self._session))
        self.show_reach()

    def show_reach(self) -> None:
        """Mark what the cut whose reach is being picked acts on."""
        cut, task = self._session.cut, self._window.hands.task
        if cut is not None and isinstance(task, ReachPart):
            chosen = cut.reach.what.mask(self._building)
            self._session.mark(frozenset(e.id for e, on in zip(self._building.elements, chosen) if on))

    def line(self) -> None:
        self.draw(SectionLine(self._session))

    def stepped(self) -> None:
        self.draw(SectionLine(self._session, name="stepped", stepped=True))

    def box_plan(self) -> None:
        self.draw(BoxRectangle(self._session))

    # Asked for -------------------------------------------------------------------------------------------------

    def _storeys(self) -> list[tuple[str, object]]:
        found: list[tuple[str, object]] = [
            (f"{s.name}  {s.elevation:+.2f}", i) for i, s in reversed(list(enumerate(self._building.storeys)))
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

        ask = Ask(self._window, "Cut at a storey", "A level cut that looks down on the storey.", "Place", run)
        tip = "1.2 m is common practice for a plan"
        self._open(ask, lambda: self._storey_row(ask).length("Over its floor", PLAN_HEIGHT, tip))

    def box_storey(self) -> None:
        """Ask for a storey, how far up, and a margin."""

        def run(ask: Ask) -> None:
            shown = self._session.shown() & ~self._building.earth
            open_top = bool(ask.chosen("Up to"))
            box = box_round_storey(self._building, ask.number("Storey"), shown, ask.metres("Margin"), open_top)
            add_box(self._session, box, self._carve(ask))

        ask = Ask(self._window, "Box round a storey", "From under its floor up; wide enough for all of it.", "Place", run)
        tops = (("Under its ceilings, to look in", True), ("Under the next floor", False))
        self._open(
            ask,
            lambda: self._meaning(
                self._storey_row(ask).choice("Up to", tops).length("Margin", 0.3, "Below the floor, under the next, and round it")
            ),
        )

    def box_space(self) -> None:
        """Ask for a room and a margin."""
        spaces: list[tuple[str, object]] = [(s.name, i) for i, s in enumerate(self._building.spaces)]
        if not spaces:
            self._window.tell("The model names no rooms. Drag a rectangle in the key plan instead.", "No rooms in this model")
            return

        def run(ask: Ask) -> None:
            box = box_round_space(self._building.spaces[ask.number("Room")], ask.metres("Margin"), bool(ask.chosen("Top")))
            add_box(self._session, box, self._carve(ask))

        ask = Ask(self._window, "Box round a room", "Through its walls and its floor.", "Place", run)
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
            self._window.tell(str(problem))
            return
        ask.open()

    def box_shown(self) -> None:
        """Round all that is shown but the ground."""
        shown = self._session.shown()
        built = shown & ~self._building.earth
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
        if cut is None or isinstance(cut, SectionBox):
            self._session.said.emit("Pick a section plane first; the box begins at it.")
            return
        plane = cut.axis

        def run(ask: Ask) -> None:
            bounds = self._session.subject_bounds()
            box = Box.before_plane(plane, bounds, ask.metres("Depth"))
            box_id = new_id()
            project = edits.add_box(edits.change_cut(self._session.project, cut.id, on=False), box, box_id)
            self._session.apply(project, f"Placed {project.stage.cuts[-1].name}, {cut.name} off")
            self._session.pick_cut(box_id)

        ask = Ask(self._window, "Box from a section plane", f"The slice behind {cut.name}, which is switched off.", "Place", run)
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
            self._session.apply(project, f"Copied {cut.name}")
            self._session.pick_cut(copy)

        note = f"To where {cut.name} looks; less than 0 is the other way. {cut.name} is switched off."
        Ask(self._window, "Parallel copy", note, "Copy", run).length("Further on by", 1.0).open()

    def series(self) -> None:
        """Ask how many sections how far apart; from the picked plane on, or over every storey."""
        session = self._session
        cut = session.cut
        begin: Plane | None = None if cut is None or isinstance(cut, SectionBox) else cut.axis

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
            session.pick_cut(made.id)

        where: list[tuple[str, object]] = [
            ("Along the building (X)", "x"),
            ("Across the building (Y)", "y"),
            ("Level, from the top down", "z"),
        ]
        if self._building.storeys:
            where.append(("At every storey", "storeys"))
        if begin is not None and cut is not None:
            where.insert(0, (f"From {cut.name} on", "plane"))
        ask = Ask(self._window, "Serial sections", "Parallel sections, shown together. They cut nothing away.", "Place", run)
        of: list[tuple[str, object]] = [
            ("All but the ground", Reach(mode="all but", what=Selection(types=frozenset(EARTH_TYPES)))),
            ("Everything", EVERYTHING),
        ]
        if cut is not None and cut.reach.mode != "everything":
            of.insert(0, (f"What {cut.name} reaches", cut.reach))
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

    # On the picked cut -----------------------------------------------------------------------------------------

    def change(self, label: str, **changes: object) -> None:
        """Other fields for the picked cut."""
        cut = self._session.cut
        if cut is not None:
            self._session.apply(edits.change_cut(self._session.project, cut.id, **changes), label)

    def turn_round(self) -> None:
        cut = self._session.cut
        if cut is None:
            return
        if cut.locked:
            self._session.said.emit(f"{cut.name} is locked. Unlock it in the inspector to turn it.")
            return
        changed = cut.turned_round()
        said = f"Turned {cut.name} round"
        if isinstance(changed, SectionBox):
            said = f"{cut.name} takes its inside away" if changed.carve else f"{cut.name} keeps its inside"
        self._session.apply(edits.put_cut(self._session.project, changed), said)

    def toggle(self, key: str, word: str) -> None:
        cut = self._session.cut
        if cut is not None:
            on = not getattr(cut, key)
            self.change(f"{cut.name}: {word} {'on' if on else 'off'}", **{key: on})

    def delete(self) -> None:
        """Delete the picked cut, with all of a peel, or the picked series."""
        session, cut = self._session, self._session.cut
        if session.series is not None:
            session.apply(edits.delete_series(session.project, session.series.id), f"Deleted {session.series.name}")
        elif cut is not None and cut.peel:
            session.apply(edits.delete_peel(session.project, cut.peel), "Deleted the peel")
        elif cut is not None:
            session.apply(edits.delete_cut(session.project, cut.id), f"Deleted {cut.name}")

    def square_on(self) -> None:
        """Put the camera face on to the picked cut, or the only one."""
        session = self._session
        found: AnyCut | SerialSections | None = session.cut or session.series
        found = found or next(iter((*session.stage.active_cuts, *session.stage.series)), None)
        if found is None:
            return
        bounds = session.subject_bounds()
        plane = found.plane if isinstance(found, SerialSections) else found.axis
        if isinstance(found, SectionBox):
            corners = found.box.corners
            if not found.carve:
                bounds = np.stack([corners.min(axis=0), corners.max(axis=0)])
            back = self._window.stage.viewport.towards(np.array(found.box.centre))
            # A box is faced from the side one is on already.
            sides = [p for p in found.box.planes if not p.is_level]
            plane = max(sides, key=lambda p: float(p.n @ back))
        camera = square_on(plane, bounds, self._window.stage.aspect, session.stage.camera)
        session.apply(edits.set_camera(session.project, camera), f"Square on to {found.name}", moves_camera=True)
