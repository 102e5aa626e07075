"""Going somewhere in the building, and back to where one looked from before."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QObject, QTimer

from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.stage.looking import FaceSquare, Walk
from anatome.model.building import Building
from anatome.scenes import edits
from anatome.view.camera import Camera
from anatome.view.crop import Crop
from anatome.view.framing import standing
from anatome.view.walking import EYE

REST = 700
"""Milliseconds a view must stand still to be one that is come back to."""
MOST = 50


class GoingCommands(QObject):
    """Remembers the views one rested at, and takes one to places."""

    def __init__(self, host: Host) -> None:
        super().__init__()
        self._host, self._session = host, host.session
        self._visited: list[tuple[Camera, Crop | None]] = []
        self._at = -1
        self._rest = QTimer(self, singleShot=True, interval=REST)
        self._rest.timeout.connect(self.note)
        for signal in (self._session.camera_moved, self._session.changed):
            signal.connect(self._rest.start)
        self._session.opened.connect(self._forget)

    def entries(self) -> list[Entry]:
        return group(
            "Going",
            "frame",
            Entry(
                "go_to", "Go to…", "A storey, a room, or what is picked: framed, or from within at eye height", self.ask, "Ctrl+G"
            ),
            Entry(
                "walk",
                "Walk",
                "At eye height with the arrow keys: over floors and stairs, through doors, not through walls",
                self.walk,
                "Ctrl+Alt+W",
                task=True,
            ),
            Entry(
                "look_square",
                "Square at a face",
                "Click a face and look straight at it, in parallel projection: a turned wing has a front too",
                self.look_square,
                "Ctrl+Alt+Q",
                task=True,
            ),
            Entry("last_view", "Last view", "Back to where you looked from before", self.back, "Alt+Left"),
            Entry("next_view", "Next view", "Forward again", self.forth, "Alt+Right"),
        )

    def walk(self) -> None:
        """Begin to walk, from a floor that is clicked, or where the eye stands over one; or stop."""
        stage_input = self._host.stage_input
        stage_input.begin(None if isinstance(stage_input.task, Walk) else Walk(self._session))

    def look_square(self) -> None:
        """Begin to choose a face to look at, or stop."""
        stage_input = self._host.stage_input
        stage_input.begin(
            None if isinstance(stage_input.task, FaceSquare) else FaceSquare(self._session, aspect=self._host.stage.aspect)
        )

    # Back and forth --------------------------------------------------------------------------------------------

    def _forget(self) -> None:
        self._visited, self._at = [], -1

    def note(self) -> None:
        """Remember the view there is now; what one had gone back from is forgotten."""
        self._rest.stop()
        if not self._session.is_open:
            return
        stage = self._session.stage
        now = stage.camera, stage.crop
        if self._at < 0 or self._visited[self._at] != now:
            self._visited = [*self._visited[: self._at + 1], now][-MOST:]
            self._at = len(self._visited) - 1

    def back(self) -> None:
        self.note()  # so that one can come forward to it again
        self._go(-1, "There is no view before this one")

    def forth(self) -> None:
        self._go(1, "This is the last view")

    def _go(self, step: int, none: str) -> None:
        if not 0 <= self._at + step < len(self._visited):
            self._session.said.emit(none)
            return
        self._at += step
        session, (camera, crop) = self._session, self._visited[self._at]
        if crop == session.stage.crop:
            session.look_from(camera)
        else:
            session.apply(edits.set_crop(edits.set_camera(session.project, camera), crop), "Moved the view")
        self._rest.stop()

    # Places ----------------------------------------------------------------------------------------------------

    def ask(self) -> None:
        """Ask where to go, and how to look at it."""
        building = self._session.building
        if building is None:
            return
        places = self._places(building)
        if not places:
            self._host.tell("The model names neither storeys nor rooms. Pick a part, and go to that.", "Nowhere to go")
            return
        ask = Ask(self._host.widget, "Go to", "A place in the building. Looking around is not a step to undo.", "Go", self._run)
        ask.choice("Place", [(name, bounds) for name, bounds in places])
        ask.choice("Look", (("At all of it, as one looks now", False), ("From within, at eye height", True)))
        ask.length("Eye over the floor", EYE, "1.6 m is common practice").open()

    def _places(self, building: Building) -> list[tuple[str, np.ndarray]]:
        """Names and (2, 3) bounds in metres of where one can go: what is picked first."""
        found: list[tuple[str, np.ndarray]] = []
        picked = self._session.picked_mask()
        if picked is not None:
            found.append(("What is picked", building.bounds_of(picked)))
        for space in building.spaces:
            found.append((building.room_name(space), np.array([space.lower, space.upper])))
        of = np.array([-1 if e.storey is None else e.storey for e in building.elements])
        for number, storey in enumerate(building.storeys):
            members = (of == number) & ~building.context
            if members.any():
                bounds = building.bounds_of(members)
                bounds[0, 2] = storey.elevation
                found.append((storey.name, bounds))
        return found

    def _run(self, ask: Ask) -> None:
        bounds = np.asarray(ask.chosen("Place"))
        session = self._session
        self.note()
        camera = session.stage.camera
        if ask.chosen("Look"):
            session.look_from(standing(camera, bounds, ask.metres("Eye over the floor")))
        else:
            session.look_from(camera.fitted(bounds, self._host.stage.aspect))
        session.said.emit(f"Went to {ask.choices['Place'].currentText()}")
        self.note()
