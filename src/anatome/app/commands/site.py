"""What stands round the building: ground, neighbours, people and trees."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtWidgets import QFileDialog

from anatome.app.base import units
from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.base.work import Progress, Work, in_words
from anatome.app.commands.host import Host
from anatome.app.stage.figures import PlaceFigure
from anatome.problems import Problem
from anatome.scenes import edits, site_edits
from anatome.scenes.edits import new_id
from anatome.site.kinds import KINDS
from anatome.site.relief import HEIGHT_SUFFIXES, Relief
from anatome.site.site import GROUND_ID, Figure, Ground, Neighbours

UNDER_THE_FLOOR = 0.15
"""Metres the ground is offered under the floor one steps out from."""
FOOTPRINT_SUFFIXES = (".geojson", ".json")
LEAST_RELIEF = 40.0
"""Metres round the building of which heights are kept, at least."""
ANOTHER_ZERO = 3.0
"""Metres between the floor one steps out from and the heights there from which on those are taken to count from another zero."""
FAR = 5_000.0
"""Metres from the model from which on neighbours are meant to lie elsewhere."""
AS_FOUND, DEGREES, METRES = "As the numbers look", "Degrees of longitude and latitude", "Metres"
ROUND = "Round the building"


def middle_of(neighbours: Neighbours) -> NDArray[np.float64]:
    """Return (2,) the middle of all outlines, as their file has them, metres."""
    points = np.concatenate([np.array(ring) for block in neighbours.blocks for ring in block.rings])
    return np.asarray((points.min(axis=0) + points.max(axis=0)) / 2)


class SiteCommands:
    """Works on the site of the project."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session
        self._reading = Work(self._session, lambda: self._session.opened_as)

    def entries(self) -> list[Entry]:
        def place(kind: str) -> Entry:
            words = KINDS[kind].words
            return Entry(
                f"place {kind}", words, f"{words}: one at every click on a floor or the ground", partial(self.place, kind)
            )

        people = [place(kind.name) for kind in KINDS.values() if not kind.is_tree]
        trees = [place(kind.name) for kind in KINDS.values() if kind.is_tree]
        return [
            *group(
                "Round the building",
                "frame",
                Entry(
                    "ground_body",
                    "Ground with a body",
                    "Level earth under the building, which is cut like it; part of the project, not of the model",
                    self.toggle_ground,
                    "Ctrl+Alt+B",
                    ticked=lambda: self._session.project.site.ground is not None,
                ),
                Entry(
                    "relief",
                    "Relief from a file…",
                    "Ground with a body that follows heights: points (XYZ, LAS), an ASCII grid or a GeoTIFF",
                    self.choose_relief,
                ),
                Entry(
                    "neighbours",
                    "Neighbours from a file…",
                    "Blocks round the building from GeoJSON footprints with heights",
                    self.choose_neighbours,
                ),
                within=ROUND,
            ),
            *group("Round the building", "frame", *people, within=f"{ROUND}/Place a person"),
            *group("Round the building", "frame", *trees, within=f"{ROUND}/Place a tree"),
            *group(
                "Round the building",
                "frame",
                Entry(
                    "take_figure",
                    "Delete the figure",
                    "The picked person or tree goes",
                    self.take_figure,
                    "Del",
                    "trash",
                    "figure",
                    stage_menu=True,
                ),
                Entry(
                    "copy_figure",
                    "Duplicate",
                    "A person or a tree of the same kind, a step to the side",
                    self.copy_figure,
                    needs="figure",
                    stage_menu=True,
                ),
                Entry("hide_figure", "Hide the figure", "Hide the picked person or tree", self.hide_figure, needs="figure"),
                Entry(
                    "take_blocks",
                    "Delete these neighbours",
                    "The picked blocks go from the project",
                    self.take_blocks,
                    needs="blocks",
                    stage_menu=True,
                ),
                within=f"{ROUND}/The picked figure",
            ),
        ]

    # Ground ----------------------------------------------------------------------------------------------------

    def toggle_ground(self) -> None:
        """Ground at the level one would expect, or none."""
        s = self._session
        if s.building is None:
            return
        if s.project.site.ground is not None:
            s.apply(site_edits.set_ground(s.project, None), "No ground but that of the model")
            return
        project = site_edits.set_ground(s.project, Ground(level=self.offered_level()))
        s.apply(edits.show(project, [GROUND_ID]), "Ground with a body")

    def choose_relief(self) -> None:
        """Ask for a file of heights."""
        kinds = " ".join(f"*{suffix}" for suffix in HEIGHT_SUFFIXES)
        path, _ = QFileDialog.getOpenFileName(self._host.widget, "Relief from a file", "", f"Heights ({kinds});;All files (*)")
        if path:
            self.read_relief(Path(path))

    def read_relief(self, path: Path) -> None:
        """Have ground that follows the heights of a file round the building, as soon as they are read."""
        from anatome.formats.heights import read_heights, relief_round

        session = self._session
        if session.building is None:
            return
        session.said.emit(f"Reading {path.name}")
        ground = session.project.site.ground or Ground(level=self.offered_level(), beyond=LEAST_RELIEF)
        own, origin, level = session.subject_bounds(), np.array(session.model.origin), self.offered_level()
        middle, reach = own[:, :2].mean(axis=0), float(np.ptp(own[:, :2], axis=0).max()) / 2 + max(ground.beyond, LEAST_RELIEF)

        def work(told: Progress) -> tuple[Relief, list[str]]:
            heights, said = read_heights(path), []
            rows, columns = heights.values.shape
            centre = np.array([heights.west, heights.south]) + heights.step * np.array([columns - 1, rows - 1]) / 2
            there = middle + origin[:2]
            if elsewhere := bool(np.hypot(*(centre - there)) > FAR + heights.step * max(rows, columns)):
                there = centre
                said.append("it lies elsewhere than the model, so its middle is put at it")
            relief = relief_round(heights, there, reach, path.name)
            east, north = (middle - there if elsewhere else -origin[:2]).tolist()
            relief = relief.model_copy(update={"east": east, "north": north, "up": -float(origin[2])})
            under = float(relief.heights_at(middle[None])[0])
            if abs(under - level) > ANOTHER_ZERO:
                up = round(relief.up + level - under, 3)
                relief = relief.model_copy(update={"up": up})
                said.append(f"moved by {units.length(up, 2, signed=True)}, so that the building stands on it")
            return relief, said

        def done(found: tuple[Relief, list[str]]) -> None:
            relief, said = found
            rows = len(relief.heights) // relief.columns
            told = f"{relief.columns} × {rows} heights from {path.name}, {units.length(relief.step, 2)} apart"
            project = site_edits.set_ground(session.project, ground.model_copy(update={"relief": relief, "level": level}))
            session.apply(edits.show(project, [GROUND_ID]), "; ".join([told, *said]))

        def failed(error: Exception) -> None:
            self._host.tell(in_words(error), "This relief could not be read")

        self._reading.run(work, done, failed)

    def change_relief(self, said: str, **changes: float) -> None:
        """Move the relief."""
        session, ground = self._session, self._session.project.site.ground
        if ground is not None and ground.relief is not None:
            relief = ground.relief.model_copy(update=changes)
            project = site_edits.set_ground(session.project, ground.model_copy(update={"relief": relief}))
            session.apply(project, said, merge="relief")

    def level_again(self) -> None:
        """Have the ground level."""
        session, ground = self._session, self._session.project.site.ground
        if ground is not None:
            project = site_edits.set_ground(session.project, ground.model_copy(update={"relief": None}))
            session.apply(project, "The ground is level")

    def offered_level(self) -> float:
        """Return a step under the floor of the storey the key plan shows at first, else the foot of what is built."""
        s, building = self._session, self._session.building
        assert building is not None
        if building.storeys:
            above = [storey.elevation for storey in building.storeys if storey.elevation >= -0.1]
            return round((min(above) if above else building.storeys[-1].elevation) - UNDER_THE_FLOOR, 3)
        return round(float(s.subject_bounds()[0, 2]), 3)

    # Neighbours ------------------------------------------------------------------------------------------------

    def choose_neighbours(self) -> None:
        """Ask for a file, and how to read it."""
        kinds = " ".join(f"*{suffix}" for suffix in FOOTPRINT_SUFFIXES)
        path, _ = QFileDialog.getOpenFileName(
            self._host.widget, "Neighbours from a file", "", f"Footprints ({kinds});;All files (*)"
        )
        if path:
            self.ask_neighbours(Path(path))

    def ask_neighbours(self, path: Path) -> None:
        """How the coordinates of a file are meant, and how high is what says nothing."""
        if self._session.building is None:
            self._session.said.emit("Open a model first; footprints stand round it")
            return
        ask = Ask(
            self._host.widget,
            "Neighbours from a file",
            f"Footprints in {path.name} become blocks round the building, in place of those there are. "
            "Degrees, and what lies far from the model, are placed with their middle at it; move and turn them in the inspector.",
            "Read",
            lambda asked: self._read(path, asked),
        )
        ask.choice("Coordinates", [(AS_FOUND, None), (DEGREES, "degrees"), (METRES, "metres")])
        ask.length("Height where none is given", 9.0).open()

    def _read(self, path: Path, ask: Ask) -> None:
        height = ask.metres("Height where none is given")
        if not 0.1 <= height <= 1000:
            raise Problem("A height is from 0.1 m to 1000 m.")
        unit = ask.chosen("Coordinates")
        self.read_neighbours(path, None if unit is None else str(unit), height)

    def read_neighbours(self, path: Path, unit: str | None = None, height: float = 9.0) -> None:
        """Put the footprints of a file round the building, as soon as they are read."""
        from anatome.formats.geojson import Footprints, read_footprints

        session, building = self._session, self._session.building
        if building is None:
            return
        session.said.emit(f"Reading {path.name}")

        def done(found: Footprints) -> None:
            neighbours = found.neighbours
            middle = session.subject_bounds()[:, :2].mean(axis=0)
            east, north = middle if found.unit == "degrees" else -np.array(session.model.origin[:2])
            apart = np.hypot(*(middle_of(neighbours) + (east, north) - middle))
            if elsewhere := bool(found.unit == "metres" and apart > FAR):
                east, north = middle - middle_of(neighbours)
                standing = tuple(b.model_copy(update={"base": None}) for b in neighbours.blocks)
                neighbours = neighbours.model_copy(update={"blocks": standing})
            neighbours = neighbours.model_copy(update={"east": float(east), "north": float(north)})
            count = len(neighbours.blocks)
            said = [f"{count:,} neighbour{'s' * (count != 1)} from {path.name}"]
            if found.without_height:
                said.append(f"{found.without_height} say no height and are {units.length(height, 2)} high")
            if found.passed_over:
                said.append(f"{found.passed_over} that are no areas were passed over")
            if elsewhere:
                said.append("they lie elsewhere than the model, so their middle is put at it: move them in the inspector")
            session.apply(site_edits.set_neighbours(session.project, neighbours), "; ".join(said))

        def failed(error: Exception) -> None:
            self._host.tell(in_words(error), "These neighbours could not be read")

        self._reading.run(lambda told: read_footprints(path, unit, height), done, failed)  # type: ignore[arg-type]

    def change_neighbours(self, said: str, **changes: float) -> None:
        """Move or turn them all."""
        s = self._session
        neighbours = s.project.site.neighbours.model_copy(update=changes)
        s.apply(site_edits.set_neighbours(s.project, neighbours), said, merge="neighbours")

    def no_neighbours(self) -> None:
        """Take all of them away."""
        s = self._session
        s.apply(site_edits.set_neighbours(s.project, Neighbours()), "No neighbours")

    def take_blocks(self) -> None:
        """Without the picked blocks."""
        s = self._session
        own = s.project.site.neighbours
        left = tuple(b for b in own.blocks if f"site {b.id}" not in s.picked.elements)
        gone = len(own.blocks) - len(left)
        s.pick()
        project = site_edits.set_neighbours(s.project, own.model_copy(update={"blocks": left}))
        s.apply(project, f"{gone} neighbour{'s' * (gone != 1)} taken away")

    # People and trees ------------------------------------------------------------------------------------------

    def place(self, kind: str) -> None:
        """Begin to place figures of a kind, or stop."""
        stage_input = self._host.stage_input
        task = stage_input.task
        again = isinstance(task, PlaceFigure) and task.kind == kind
        stage_input.begin(None if again else PlaceFigure(self._session, kind=kind))

    def change_figure(self, said: str, merge: str | None = None, **changes: object) -> None:
        """The picked figure, otherwise."""
        s = self._session
        if s.figure is not None:
            figure = Figure.model_validate(dict(s.figure) | changes)
            s.apply(site_edits.put_figure(s.project, figure), said, merge=merge)

    def take_figure(self) -> None:
        s = self._session
        if s.figure is not None:
            s.apply(site_edits.take_figures(s.project, frozenset({s.figure.id})), "Took the figure away")

    def copy_figure(self) -> None:
        """One more, to the right on the picture."""
        s = self._session
        if s.figure is None:
            return
        viewport = self._host.stage.viewport
        towards = viewport.towards(np.array(s.figure.place))
        length = float(np.hypot(towards[0], towards[1]))
        way = np.array([-towards[1], towards[0]]) / length if length > 1e-9 else np.array([1.0, 0.0])
        x, y, z = s.figure.place
        step = 0.45 * s.figure.height * way
        copy = s.figure.model_copy(update={"id": new_id(), "place": (x + float(step[0]), y + float(step[1]), z)})
        s.apply(site_edits.put_figure(s.project, copy), "Duplicate")
        s.pick(figure=copy.id)

    def hide_figure(self) -> None:
        s = self._session
        if s.figure is not None:
            figure = s.figure.id
            s.pick()
            s.apply(edits.hide(s.project, [figure]), "Hidden: the figure")
