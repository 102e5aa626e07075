"""Cuts that are pointed at on the stage or drawn in the key plan, and what is done with the picked one."""

from __future__ import annotations

from functools import partial

import numpy as np
from numpy.typing import NDArray

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.key_drawings.prism_tasks import PrismCircle, PrismOutline
from anatome.app.key_drawings.tasks import BoxRectangle, PlanTask, SectionLine
from anatome.app.stage.tasks import (
    AcrossAxis,
    AlongPart,
    MatchDirection,
    OnFace,
    PeelPart,
    ReachPart,
    StageTask,
    ThroughPoints,
)
from anatome.cuts.cut import AnyCut
from anatome.cuts.plane import Plane
from anatome.cuts.series import SerialSections
from anatome.model.building import Building
from anatome.scenes import edits
from anatome.view.camera import square_on
from anatome.view.framing import perspective_section

SWITCHES = (
    ("on", "Cut on", "Let the picked cut cut or not", "cut", "Ctrl+Shift+K"),
    ("poche", "Fill", "Fill what is cut or not", "poché", "Ctrl+Shift+F"),
    ("graphic", "Frame of the cut", "Show the frame of the cut or not", "frame", "Ctrl+Shift+G"),
    ("locked", "Lock", "A locked cut stays where it is", "lock", "Ctrl+L"),
)


class CutCommands:
    """Works on the session through the stage and the key plan."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return [*self._new(), *self._more(), *self._picked()]

    def _new(self) -> list[Entry]:
        return [
            *group(
                "New section planes",
                "cut",
                Entry(
                    "place",
                    "Place a section plane",
                    "Click a face of the building; the cut runs parallel to it",
                    self.on_face,
                    "Ctrl+K",
                    "knife",
                    task=True,
                    stage_menu=True,
                ),
            ),
            *group(
                "New section planes",
                "cut",
                Entry(
                    "plane_line",
                    "Line in the key plan",
                    "Click where it begins, where it ends, and the side to look at",
                    self.line,
                    "Ctrl+Shift+D",
                    task=True,
                ),
                Entry(
                    "plane_axis",
                    "Across an axis, through a point",
                    "Click a point; Tab goes from X to Y to Z",
                    self.across_axis,
                    "Ctrl+Shift+X",
                    task=True,
                ),
                Entry(
                    "plane_along",
                    "Along a wall",
                    "Click a wall: in its axis, with Shift in its face",
                    self.along_part,
                    "Ctrl+Shift+W",
                    task=True,
                    stage_menu=True,
                ),
                Entry(
                    "plane_points",
                    "Through three points",
                    "Click three points of the building",
                    self.through_points,
                    "Ctrl+Shift+T",
                    task=True,
                ),
                within="Section plane",
            ),
            *group(
                "New section boxes",
                "cut",
                Entry(
                    "box_plan",
                    "Rectangle in the key plan",
                    "Drag it from corner to corner",
                    self.box_plan,
                    "Ctrl+Shift+Q",
                    task=True,
                ),
                Entry(
                    "match",
                    "Turn to match a wall",
                    "Click a wall; the cut takes its direction",
                    self.match,
                    "Ctrl+Shift+A",
                    needs="cut",
                    task=True,
                ),
                within="Section box",
            ),
        ]

    def _more(self) -> list[Entry]:
        return [
            *group(
                "More cuts",
                "cut",
                Entry(
                    "stepped",
                    "Stepped section, drawn in the key plan",
                    "Click the corners of its line, then the side to look at",
                    self.stepped,
                    "Ctrl+Shift+L",
                    task=True,
                ),
            ),
            *group(
                "More cuts",
                "cut",
                Entry(
                    "prism_plan",
                    "On an outline in the key plan",
                    "Click the corners of an outline: a bite out of the building, or all that stays of it",
                    self.prism_plan,
                    "Ctrl+Alt+Shift+J",
                    task=True,
                ),
                Entry(
                    "round_plan",
                    "Round, in the key plan",
                    "Press at its centre and drag to its rim",
                    self.round_plan,
                    "Ctrl+Alt+Shift+O",
                    task=True,
                ),
                within="Section prism",
            ),
            *group(
                "More cuts",
                "cut",
                Entry(
                    "peel",
                    "Peel a roof or a wall",
                    "Click a part; its layers are drawn back one by one",
                    self.peel,
                    "Ctrl+Shift+J",
                    task=True,
                    stage_menu=True,
                ),
            ),
        ]

    def _picked(self) -> list[Entry]:
        return [
            *group(
                "The picked cut",
                "cut",
                Entry(
                    "perspective_section",
                    "Perspective section",
                    "One-point perspective: face on to the cut, level and well back, its face framed",
                    self.perspective_section,
                    "Ctrl+Alt+F",
                    "frame",
                    "active",
                    stage_menu=True,
                ),
                Entry(
                    "square_on",
                    "Square on",
                    "Put the camera face on to the cut, standing well back",
                    self.square_on,
                    "Ctrl+F",
                    "target",
                    "active",
                ),
                Entry(
                    "flat_section",
                    "Flat section",
                    "The same drawn flat: face on to the cut in parallel projection, its face framed",
                    self.flat_section,
                    "Ctrl+Alt+X",
                    needs="active",
                ),
                Entry(
                    "other_way",
                    "Seen the other way",
                    "The cut turned round, and the view with it: what was behind one is seen now",
                    self.other_way,
                    "Ctrl+Alt+Shift+T",
                    needs="cut",
                ),
                Entry(
                    "turn_round",
                    "Turn round",
                    "Let the cut look the other way",
                    self.turn_round,
                    "Ctrl+T",
                    "arrows-clockwise",
                    "cut",
                ),
                Entry(
                    "reach_pick",
                    "Pick what the cut affects",
                    "Click parts on the stage: the cut affects them, or no longer",
                    self.reach_pick,
                    "Ctrl+Shift+I",
                    needs="cut",
                    task=True,
                ),
                Entry(
                    "delete_cut", "Delete the cut", "The building stays as it is", self.delete, "Del", "trash", "cut or series"
                ),
            ),
            *group("The picked cut", "cut", *map(self._switch, SWITCHES), within="Switches"),
        ]

    def _switch(self, row: tuple[str, str, str, str, str]) -> Entry:
        key, text, tip, word, shortcut = row
        run, ticked = partial(self.toggle, key, word), partial(self._has, key)
        return Entry(f"cut_{key}", text, tip, run, shortcut, needs="cut", ticked=ticked)

    def _has(self, key: str) -> bool:
        return bool(getattr(self._session.cut, key, False))

    @property
    def _building(self) -> Building:
        assert self._session.building is not None
        return self._session.building

    # Picked on the stage or drawn in the plan --------------------------------------------------------------------

    def begin(self, task: StageTask) -> None:
        """Begin a task on the stage; the same again stops it."""
        stage_input = self._host.stage_input
        same = stage_input.task is not None and stage_input.task.name == task.name
        self._host.key_plan.begin(None)
        stage_input.begin(None if same else task)

    def draw(self, task: PlanTask) -> None:
        """Begin to draw something in the key plan; the same again stops it."""
        plan = self._host.key_plan
        same = plan.task is not None and plan.task.name == task.name
        self._host.stage_input.begin(None)
        self._host.show_panels()
        plan.begin(None if same else task)
        self._host.show_task()
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

    def reach_pick(self) -> None:
        """Pick the reach of the cut on the stage; what it reaches is marked meanwhile."""
        self.begin(ReachPart(self._session))
        self.show_reach()

    def show_reach(self) -> None:
        """Mark what the cut whose reach is being picked acts on."""
        cut, task = self._session.cut, self._host.stage_input.task
        if cut is not None and isinstance(task, ReachPart):
            chosen = cut.reach.what.mask(self._building)
            self._session.mark(frozenset(e.id for e, on in zip(self._building.elements, chosen) if on))

    def line(self) -> None:
        self.draw(SectionLine(self._session))

    def stepped(self) -> None:
        self.draw(SectionLine(self._session, name="stepped", stepped=True))

    def box_plan(self) -> None:
        self.draw(BoxRectangle(self._session))

    def prism_plan(self) -> None:
        self.draw(PrismOutline(self._session))

    def round_plan(self) -> None:
        self.draw(PrismCircle(self._session))

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
        if changed.carves is not None:
            said = f"{cut.name} takes its inside away" if changed.carves else f"{cut.name} keeps its inside"
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
        session, faced = self._session, self._faced()
        if faced is not None:
            plane, bounds, name = faced
            camera = square_on(plane, bounds, self._host.stage.aspect, session.stage.camera)
            session.apply(edits.set_camera(session.project, camera), f"Square on to {name}")

    def perspective_section(self) -> None:
        """The same in one-point perspective from well back, with the face of the cut framed."""
        session, faced = self._session, self._faced()
        if faced is not None:
            plane, bounds, name = faced
            face = next((f for f in session.left().faces if f.plane == plane), None)
            built = face.built_bounds() if face is not None else None
            camera = perspective_section(plane, bounds if built is None else built, self._host.stage.aspect, session.stage.camera)
            session.apply(edits.set_camera(session.project, camera), f"Perspective section of {name}")

    def flat_section(self) -> None:
        """Face on to the picked cut, or the only one, in parallel projection."""
        session, faced = self._session, self._faced()
        if faced is not None:
            plane, bounds, name = faced
            camera = square_on(
                plane, bounds, self._host.stage.aspect, edits.set_projection(session.project, "parallel").stage.camera
            )
            session.apply(edits.set_camera(session.project, camera), f"Flat section of {name}")

    def other_way(self) -> None:
        """Turn the picked cut round, and look at it from the other side as one looked at it before."""
        session, cut = self._session, self._session.cut
        if cut is None:
            return
        if cut.locked:
            session.said.emit(f"{cut.name} is locked. Unlock it in the inspector to turn it.")
            return
        camera, axis = session.stage.camera, cut.axis
        about = np.array(camera.target) - axis.n * float(axis.distance(np.array(camera.target)))
        seen = camera.orbited(180.0, 0.0, about) if abs(axis.n[2]) < 0.7 else camera
        project = edits.set_camera(edits.put_cut(session.project, cut.turned_round()), seen)
        session.apply(project, f"{cut.name}, seen the other way")

    def _faced(self) -> tuple[Plane, NDArray[np.float64], str] | None:
        """What to face of the picked cut, or the only one: a plane, the (2, 3) bounds to show of it, and the cut's name."""
        session = self._session
        found: AnyCut | SerialSections | None = session.cut or session.series
        found = found or next(iter((*session.stage.active_cuts, *session.stage.series)), None)
        if found is None:
            return None
        bounds = session.subject_bounds()
        if isinstance(found, SerialSections):
            return found.plane, bounds, found.name
        towards = self._host.stage.viewport.towards(bounds.mean(axis=0) if found.centre is None else found.centre)
        return *found.seen_face(towards, bounds), found.name
