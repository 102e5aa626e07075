"""What the window works on: the building, the project's history, and what is picked. Panels show it and send edits."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from sys import intern

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Qt, QTimer, Signal

from anatome.app.base.work import Work
from anatome.app.document import lookups
from anatome.app.document.built import Built, built
from anatome.app.document.lookups import Lookups
from anatome.app.document.opened_model import OpenedModel
from anatome.app.document.picked import NOTHING, Picked
from anatome.app.document.recutting import Recut, Recutter
from anatome.app.document.scene_pictures import ScenePictures
from anatome.cuts.cut import AnyCut
from anatome.cuts.details import Detail
from anatome.cuts.dissection import CutBuilding, shown_elements
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.cuts.series import SerialSections, SeriesResult
from anatome.look.divide import Dissolve, Divide, looks_of
from anatome.look.look import UNSAID_PAPER, Look
from anatome.model.bounds import corners_of
from anatome.model.building import Building
from anatome.model.crossings import crossings, known
from anatome.model.meaning import NO_MEANING
from anatome.model.several import SEPARATOR
from anatome.notes.note import AnyNote
from anatome.notes.touching_up import HeldTouchUp, held
from anatome.printing.kept_lines import KeptLines
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.history import History
from anatome.scenes.look_edits import drawn_look
from anatome.scenes.project import Project, Scene, StageState
from anatome.scenes.whole import meant
from anatome.site.site import Figure, Site
from anatome.site.standing import seen_figures
from anatome.view.camera import Camera
from anatome.view.crop import height_at

RUN = "run"
"""The word under which steps merge that follow one another by the wheel or by keys, until there is a rest."""
REST = 800
"""Milliseconds of rest after which such a run is over."""


@dataclass(frozen=True)
class Following:
    """A step by which other scenes followed: the project ``before``, the scene that kept the stage, and the ids of its cuts that
    others took over."""

    before: Project
    scene: str
    cuts: tuple[str, ...]


def paper_height(state: StageState, first: str | None = None) -> float:
    """Return millimetres of paper the whole stage is high with a state on it: as the crop says, or as a picture counts without
    one; the scale is that at the cut ``first`` if it is seen true."""
    crop = state.crop
    paper = None if crop is None else crop.paper(height_at(state.camera, state.true_plane(first)))
    return UNSAID_PAPER if crop is None else (paper[1] if paper else UNSAID_PAPER) / crop.height


def first_storey(building: Building) -> int | None:
    """Return the number of the storey a key plan shows first: the lowest not under the ground; None where there is none."""
    storeys = [i for i, s in enumerate(building.storeys) if s.elevation >= -0.1]
    return (storeys or [len(building.storeys) - 1])[0] if building.storeys else None


class Session(QObject):
    """One open project. Signals say that something is different; receivers read what they need.

    ``changed``: the project's value, in more than its camera. ``camera_moved``: only the camera. ``picked_changed``: what is
    picked. ``opened``: another building. ``rebuilt``: the same one with another site. ``closed``: none any more. ``recut``: what
    the cuts leave is there after a while. ``failed``: something went wrong that nobody asked for. ``said``: a line for the status
    bar. ``offered``: a command that goes with what was just said, by name and in words. ``thumbnails_changed``. ``recalling``: a
    scene is about to be shown; what the stage shows, and what it will. ``shown_for_now``: the stage shows something for a while.
    """

    opened = Signal()
    rebuilt = Signal()
    closed = Signal()
    recut = Signal()
    failed = Signal(object)
    changed = Signal()
    camera_moved = Signal()
    picked_changed = Signal()
    thumbnails_changed = Signal()
    said = Signal(str)
    offered = Signal(str, str)
    recalling = Signal(object, object)
    shown_for_now = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.building: Building | None = None
        self._opened: OpenedModel | None = None
        self._wanted_model: OpenedModel | None = None
        self._states: dict[object, OpenedModel] = {}
        """The states of the model that the steps of this project may go back or forth to."""
        self._site: Site | None = None
        self._meanings = NO_MEANING
        self._rebuilding = Work(self, lambda: self._history)
        self._learning = Work(self, lambda: self.building)
        self.project_path: Path | None = None
        self.pictures = ScenePictures()
        self.linework: KeptLines | None = None
        self.picked = NOTHING
        self.marked: frozenset[str] = frozenset()
        self.plan_storey: int | None = None
        self.looks_freely = False
        self.following: Following | None = None
        self.on_before: frozenset[str] = frozenset()
        """Ids of the cuts that were on before all were switched off, or all but one."""
        self._for_now: StageState | None = None
        self._scene_for_now = ""
        self.dissolve: Dissolve | None = None
        """The look that takes the place of the stage's own, while what it shows is under way to another scene."""
        self._warned: Project | None = None
        self._run = QTimer(self, singleShot=True, interval=REST)
        self._run.timeout.connect(self._end_run)
        self._history: History | None = None
        self._recutter: Recutter | None = None
        self.lookups = Lookups(None)
        self._subject: tuple[NDArray[np.bool_], NDArray[np.float64]] | None = None
        self._shown: tuple[frozenset[str], NDArray[np.bool_]] | None = None
        self._left: tuple[ShownBuilding, NDArray[np.float64]] | None = None
        self._drawn: tuple[object, Look] | None = None
        self._figures: tuple[object, tuple[Figure, ...]] | None = None

    # What is open ----------------------------------------------------------------------------------------------

    def open(
        self,
        building: Building,
        project: Project,
        model: OpenedModel,
        project_path: Path | None,
        thumbnails: Mapping[str, bytes],
        linework: KeptLines | None = None,
        first: Recut | None = None,
        saved: bool = True,
    ) -> None:
        """Work on this from now on. ``building`` is the ``model`` as the project has it, with its site; ``first`` is the stage as
        its cuts leave it, if that is known already; ``saved`` says whether the project is as it lies on the disk."""
        self._let_go()
        self.building, self._opened, self._site = building, model, project.site
        self._states = {project.models: model}
        self._wanted_model = model
        self._meanings = project.meanings
        self.project_path = project_path
        self.pictures = ScenePictures.of(project, thumbnails, self._round(project))
        self.linework = linework or KeptLines(meant(model.building, project), {})
        self._history = History(project, saved)
        self.lookups = Lookups(building)
        self._cut_with(Recutter(building, first))
        self.plan_storey = first_storey(building)
        self._learn()
        self.opened.emit()
        self.changed.emit()
        self.picked_changed.emit()

    def _learn(self) -> None:
        """Find out, away from the window's thread, where parts run through one another; the stage draws lines there once it is
        known."""
        building = self.building
        assert building is not None
        if known(building):
            return

        def failed(error: Exception) -> None:
            self.recut.emit()
            self.failed.emit(error)

        self._learning.run(lambda progress: crossings(building), lambda _: self.recut.emit(), failed)

    @property
    def is_learning(self) -> bool:
        """Whether something the stage would draw is still being found out."""
        return self._learning.busy

    def _cut_with(self, recutter: Recutter) -> None:
        self._recutter = recutter
        recutter.finished.connect(self._recut, Qt.ConnectionType.QueuedConnection)

    def close(self) -> None:
        """Have nothing open."""
        self._let_go()
        self.building = self._opened = self._site = self._history = None
        self._states = {}
        self.project_path = None
        self.closed.emit()

    def _let_go(self) -> None:
        """Of what belongs to the building that was open."""
        if self._recutter is not None:
            self._recutter.close()
        self._rebuilding.cancel()
        self._learning.cancel()
        self._recutter = self._shown = self._subject = self._left = self._figures = None
        self.lookups = Lookups(None)
        self.pictures = ScenePictures()
        self.linework = None
        self.picked, self.marked, self._warned = NOTHING, frozenset(), None
        self._for_now, self.dissolve, self._scene_for_now = None, None, ""
        self.following, self.on_before = None, frozenset()

    # The site --------------------------------------------------------------------------------------------------

    def _rebuild(self) -> None:
        """Join the model with the site as it is now, away from the window's thread, and cut it open."""
        opened, project = self._states.get(self.project.models, self.opened_model), self.project
        models = opened.building

        def done(made: Built) -> None:
            self._opened = opened
            self._take_building(made)
            self._follow_site()

        # If it fails it is not tried again: what it is built of is what the project says.
        self._rebuilding.run(lambda progress: built(models, project), done, self.failed.emit)
        self._site, self._meanings, self._wanted_model = project.site, project.meanings, opened

    def _take_building(self, made: Built) -> None:
        assert self._recutter is not None
        building, first = made.building, made.first
        if self.linework is not None:
            self.linework.take(made.lines)
        self._recutter.close()
        if self.building is None or [s.id for s in building.storeys] != [s.id for s in self.building.storeys]:
            self.plan_storey = first_storey(building)
        self.building = building
        self._shown = self._subject = self._left = self._figures = None
        self.lookups = Lookups(building)
        self._cut_with(Recutter(building, first))
        self._learning.cancel()
        self._learn()
        there = frozenset(i for i in self.picked.elements if i in building.index_of)
        if there != self.picked.elements:
            self.picked = replace(self.picked, elements=there)
            self.picked_changed.emit()
        self.rebuilt.emit()
        self.changed.emit()

    @property
    def opened_model(self) -> OpenedModel:
        """The state of the model that is open."""
        assert self._opened is not None
        return self._opened

    @property
    def model(self) -> Building:
        """The building as it was opened, without a site."""
        return self.opened_model.building

    @property
    def model_path(self) -> Path | None:
        """Where the model lies; None while nothing is open."""
        return None if self._opened is None else self._opened.path

    def file_of(self, element: str) -> tuple[Path | None, str]:
        """Return the file that an element, by its id, is of, and the id it has there."""
        model, _, own = element.partition(SEPARATOR)
        other = next((o for o in self.project.others if o.id == model), None) if own else None
        return (self.model_path, element) if other is None else (Path(other.model.path), own)

    def take_model(self, project: Project, label: str, model: OpenedModel, made: Built) -> None:
        """Take one step to a project of another state of its models, which undoing and redoing bring back with it; it was
        ``made`` ready before."""
        self._rebuilding.cancel()
        self._states[project.models] = self._opened = self._wanted_model = model
        self._site, self._meanings = project.site, project.meanings
        self.history.apply(edits.freed(project), label)
        self._take_building(made)
        self._after_change(label)

    def grow(self, model: OpenedModel) -> None:
        """Have more of the model that is open, of which a part was there so far: no step, and everything done to it stays."""
        before = self.opened_model
        self._states = {state: model if known is before else known for state, known in self._states.items()}
        self._opened = self._wanted_model = model
        self.pictures = ScenePictures.of(self.project, {}, self._round(self.project))
        self._rebuild()

    def model_lies(self, model: OpenedModel) -> None:
        """Say where a state of the model that was just saved is found from now on."""
        self._states = {state: model if m.building is model.building else m for state, m in self._states.items()}
        if self._opened is not None and self._opened.building is model.building:
            self._opened = model

    @staticmethod
    def _round(project: Project) -> tuple[object, ...]:
        """What pictures of scenes depend on besides them."""
        return project.site, project.meanings, intern(repr(project.models))

    @property
    def is_built(self) -> bool:
        """Whether the building has the site the project says."""
        return not self._rebuilding.busy

    def _follow_site(self) -> None:
        site, meanings = self.project.site, self.project.meanings
        self.pictures.round = self._round(self.project)
        state = self._states.get(self.project.models, self._wanted_model)
        other = meanings != self._meanings or state is not self._wanted_model
        if self._site is not None and (other or site.bodies_key != self._site.bodies_key):
            self._rebuild()

    def figures(self) -> tuple[Figure, ...]:
        """Return the people and trees the stage shows, each where it is shown."""
        figures = self.project.site.figures
        if not figures:
            return ()
        shown, hidden = self.on_stage(), self.stage.hidden
        key = (figures, hidden, id(shown))
        if self._figures is None or self._figures[0] != key:
            self._figures = key, seen_figures(figures, hidden, shown)
        return self._figures[1]

    @property
    def figure(self) -> Figure | None:
        """The picked person or tree."""
        return self.project.site.figure(self.picked.figure) if self._history else None

    @property
    def is_open(self) -> bool:
        return self._history is not None

    @property
    def history(self) -> History:
        """The history of the open project; only to be asked for while one is open."""
        assert self._history is not None
        return self._history

    @property
    def opened_as(self) -> object:
        """What tells one opening of a project from every other; None while nothing is open."""
        return self._history

    @property
    def project(self) -> Project:
        return self.history.present

    @property
    def stage(self) -> StageState:
        """What the stage shows: the project's own stage, or something else for a while."""
        return self._for_now or self.project.stage

    @property
    def is_for_now(self) -> bool:
        """Whether the stage shows what is no part of the project."""
        return self._for_now is not None

    def show_for_now(self, state: StageState | None, dissolve: Dissolve | None = None, scene: str = "") -> None:
        """Show something that is no part of the project until None ends it, in a look that dissolves into another; perhaps it
        is another ``scene`` than the one recalled last."""
        ends = state is None and self._for_now is not None
        self._for_now, self.dissolve, self._scene_for_now = state, dissolve, scene
        if ends and self._history is not None:
            self.changed.emit()
        self.shown_for_now.emit()

    def keep_cut(self, made: Recut) -> Recut:
        """Have at hand what a state's cuts leave of the building that is open. Return it, or what there is of the same state."""
        return made if self._recutter is None else self._recutter.keep(made)

    @property
    def unsaved(self) -> bool:
        return self._history is not None and self._history.unsaved

    def shown(self) -> NDArray[np.bool_]:
        """Return (E,) mask of what is not hidden."""
        assert self.building is not None
        if self._shown is None or self._shown[0] is not self.stage.hidden:
            self._shown = (self.stage.hidden, shown_elements(self.building, self.stage.hidden))
        return self._shown[1]

    def on_stage(self) -> ShownBuilding:
        """Return what the stage shows, cut open and in pieces; for a moment perhaps as it was before."""
        return self._latest().shown

    def left(self) -> CutBuilding:
        """Return the building as its cuts leave it, those that part it too, serial sections passed over."""
        return self._latest().left

    def kept(self) -> CutBuilding:
        """Return the same without the cuts that only part it."""
        return self._latest().kept

    @property
    def is_cut(self) -> bool:
        """Whether :meth:`on_stage` is of the stage as it is now."""
        return self._recutter is not None and self._recutter.is_current(self.stage)

    def _latest(self) -> Recut:
        assert self._recutter is not None
        found = self._recutter.get(self.stage, lookups.PATIENCE)
        if found is None:
            # Nothing of this building was cut yet, so there is nothing to show meanwhile.
            found = self._recutter.get(self.stage, 600.0)
        if found is None:
            raise self._recutter.take_failure() or RuntimeError("The building could not be cut.")
        return found

    def _recut(self) -> None:
        if self.sender() is not self._recutter or self._recutter is None:
            return
        failure = self._recutter.take_failure()
        if failure is not None:
            self.failed.emit(failure)
        if self.is_for_now:
            self.shown_for_now.emit()  # panels wait for what is there to stay
        else:
            self.recut.emit()

    def on_stage_soon(self, then: Callable[[], None]) -> None:
        """Do something when what the stage shows is cut, now or in a moment, unless the project is closed by then."""
        _ = self.on_stage()  # asks for it
        if self.is_cut:
            then()
            return
        asked, recutter = self.stage, self._recutter

        def later() -> None:
            if self._recutter is not recutter or self._history is None or self.is_cut:
                self.recut.disconnect(later)
                if self._recutter is recutter and self._history is not None and self.stage == asked:
                    then()

        self.recut.connect(later)

    def drawn_look(self, look: Look | None = None) -> Look:
        """Return the look of the stage, or another one in its place, as it is drawn: with what is laid over it, and in its
        light."""
        if self.building is None:
            return look or self.stage.look
        key = (look or self.stage.look, self.stage.overrides, self.project.site.place, id(self.building))
        if self._drawn is None or self._drawn[0] != key:
            self._drawn = key, drawn_look(self.stage, self.project.site, self.building, look)
        return self._drawn[1]

    @property
    def is_by_hand(self) -> bool:
        """Whether the picture of the stage has its lines from its linework: in the manner of a hand, or touched up."""
        return bool(self.stage.touched_up) or any(look.by_hand for look in looks_of(self.stage.look, self.stage.divide))

    def touched_up(self) -> tuple[HeldTouchUp, ...]:
        """Return the lines of the stage that are touched up, as they are in what it shows."""
        return held(self.stage.touched_up, self.on_stage(), self.stage.cuts) if self.stage.touched_up else ()

    def drawn_divide(self) -> Divide | None:
        """Return what of the stage has another look, as it is drawn."""
        divide = self.stage.divide
        return None if divide is None else divide.model_copy(update={"other": self.drawn_look(divide.other)})

    def paper_height(self) -> float:
        """Millimetres of paper the whole stage is high: as the crop says, or as a picture counts without one."""
        return paper_height(self.stage, self.picked.cut)

    def true_plane(self) -> Plane | None:
        """Return the plane of a cut, the picked one first, that the stage shows true."""
        return self.stage.true_plane(self.picked.cut)

    def subject_bounds(self) -> NDArray[np.float64]:
        """Return (2, 3) bounds in metres of what the picture is about."""
        assert self.building is not None
        shown = self.shown()
        if self._subject is None or self._subject[0] is not shown:
            self._subject = shown, self.building.subject_bounds(shown)
        return self._subject[1]

    def left_corners(self) -> NDArray[np.float64]:
        """Return (n, 3) metres, corners round what hiding and cuts leave of what the picture is about, where it is shown."""
        assert self.building is not None
        if any(series.on for series in self.stage.series):
            return corners_of(self.subject_bounds())  # they go through what other cuts leave out
        shown = self.on_stage()
        if self._left is None or self._left[0] is not shown:
            self._left = shown, shown.left_corners(self.building.subject(self.shown()))
        return self._left[1]

    def series_work(self, series: SerialSections) -> Callable[[], SeriesResult]:
        """Return what works out areas and volume of a series, once; it may run on another thread."""
        return self.lookups.series_work(series, self.shown(), self.stage.poche)

    # Edits -----------------------------------------------------------------------------------------------------

    def apply(self, project: Project, label: str, *, keeps_view: bool = False, merge: str | None = None) -> None:
        """Take one step, told in the status line as ``label``.

        Steps with the same ``merge`` word count as one as long as the same cut is picked. A locked scene is left as it is: the
        stage is free from then on.
        """
        free, locked = edits.freed(project), project.scene(project.current_scene)
        if self.history.apply(free, label, keeps_view=keeps_view, merge=self._merge(merge)):
            said = label
            if locked is not None and free is not project:
                said = f"{label}, on a free stage: “{locked.name}” is locked and stays as it is"
            self._after_change(said)

    def attempt(self, edit: Callable[[Project], Project], label: str) -> bool:
        """Take a step that may not be possible; then it is said why. Return whether it was taken."""
        try:
            project = edit(self.project)
        except Problem as problem:
            self.said.emit(str(problem))
            return False
        self.apply(project, label)
        return True

    @property
    def just_followed(self) -> Following | None:
        """The last step, if other scenes followed in it."""
        last = self.following
        return last if last is not None and self._history is not None and self._history.before is last.before else None

    def _merge(self, word: str | None) -> str | None:
        return None if word is None else f"{word} {self.picked.cut}"

    def end_step(self) -> None:
        """A drag or a run of small changes is over: what comes next is a step of its own."""
        self.history.end_merge()

    def cancel_look(self, camera: Camera, merge: str) -> None:
        """Take back the drag of the view under way, which began with this camera."""
        self.history.cancel_merge(merge)
        self.follow(camera)
        self._after_change("Taken back")

    def _end_run(self) -> None:
        """A run of the wheel or of keys is over after a rest."""
        if self._history is not None:
            self._history.end_merge_of(RUN)

    def cancel_step(self, merge: str) -> None:
        """Take back the drag under way."""
        if self.history.cancel_merge(str(self._merge(merge))):
            self._after_change("Taken back")

    def recall_scene(self, scene_id: str, aspect: float) -> None:
        """Show a scene as it was saved, on a stage of these proportions."""
        scene = self.project.scene(scene_id)
        if scene is not None:
            project = edits.recall_scene(self.project, scene_id, aspect)
            self.recalling.emit(self.stage, project.stage)
            self.apply(project, f"Recalled {scene.name}")
            self.pick()

    def fit_scene(self, aspect: float) -> None:
        """Show all of the scene that is on the stage in these proportions; that is no step, and nothing to save."""
        scene_id = self.project.current_scene
        shown = edits.recall_scene(self.project, scene_id, aspect) if scene_id else self.project
        if shown != self.project:
            self.history.fitted(shown)
            self.camera_moved.emit()

    def follow(self, camera: Camera) -> None:
        """Have the view follow what was done, as part of that step."""
        if camera != self.stage.camera:
            self.history.look_around(edits.set_camera(self.project, camera))
            self.camera_moved.emit()

    def look_from(self, camera: Camera, label: str = "Moved the view", merge: str | None = None) -> None:
        """Move the camera: one step for each drag, which ``merge`` names, and for each run of the wheel or of keys. While
        something is tried on, looking around is none."""
        if camera == self.stage.camera:
            return
        project, scene = edits.set_camera(self.project, camera), self.scene
        if scene is not None and scene.locked and not self.looks_freely:
            if merge is None:  # somebody asked for it
                self.apply(project, label)
                return
            self.said.emit(f"“{scene.name}” is locked, and so is its view.")
            self.offered.emit("free_stage", "Let go of it")
            return
        if self.looks_freely:
            self.history.look_around(project)
        else:
            self.history.look(project, label, merge)
            if merge == RUN:
                self._run.start()
        self.camera_moved.emit()

    def undo(self) -> None:
        """Take back a step. One that would put another scene on the stage is named first, and taken back when asked again."""
        history = self._history
        if history is None or history.before is None:
            return
        other = history.before.scene(history.before.current_scene)
        leaves = history.before.current_scene != self.project.current_scene and self.scene is not None
        if leaves and self._warned is not history.before:
            self._warned = history.before
            where = f"“{other.name}”" if other is not None else "the stage as it was before"
            self.said.emit(f"The step before this is {where}. Undo once more to go back there.")
            return
        self._after_change(f"Undone: {history.undo()}")

    def redo(self) -> None:
        if self._history and (label := self._history.redo()):
            self._after_change(f"Done again: {label}")

    def go_by(self, steps: int) -> None:
        """Go so many steps back, where it is less than 0, or forth."""
        label = None
        for _ in range(abs(steps)):
            label = (self.history.undo() if steps < 0 else self.history.redo()) or label
        if label is not None:
            count = f"{abs(steps)} step{'s' * (abs(steps) != 1)}"
            self._after_change(f"Gone {count} {'back' if steps < 0 else 'forth'}")

    def _after_change(self, said: str) -> None:
        left = self.picked.left_in(self.project)
        if left != self.picked:
            self.picked = left
            self.picked_changed.emit()
        self._follow_site()
        self.changed.emit()
        self.said.emit(said)

    def saved(self, path: Path, written: Project, named: Project) -> None:
        """What the project was when saving began lies at ``path`` now, under its new name and with its model where it lies."""
        self.project_path = path
        self.history.saved_as(written, named)
        self.changed.emit()
        self.said.emit(f"Saved to {path}")

    # Picking ---------------------------------------------------------------------------------------------------

    @property
    def cut(self) -> AnyCut | None:
        """The picked cut."""
        return self.stage.cut(self.picked.cut) if self._history else None

    @property
    def series(self) -> SerialSections | None:
        """The picked serial sections."""
        return self.stage.serial(self.picked.cut) if self._history else None

    @property
    def detail(self) -> Detail | None:
        """The picked detail."""
        return self.stage.detail(self.picked.detail) if self._history else None

    @property
    def scene(self) -> Scene | None:
        """The scene recalled or saved last, or the one shown for a while."""
        return self.project.scene(self._scene_for_now or self.project.current_scene) if self._history else None

    def pick(
        self,
        *,
        cut: str | None = None,
        member: int | None = None,
        elements: frozenset[str] = frozenset(),
        figure: str | None = None,
        detail: str | None = None,
        notes: Iterable[str] = (),
        crop: bool = False,
        blocks: Iterable[str] = (),
        at_cut: bool = False,
        shot: int | None = None,
        scenes: Iterable[str] = (),
    ) -> None:
        """Pick what is named, by its ids, and let go of all else; of serial sections one ``member`` if wanted. With nothing named
        nothing is picked."""
        crop = crop and self.stage.crop is not None
        kept_notes, kept_blocks = tuple(dict.fromkeys(notes)), tuple(dict.fromkeys(blocks))
        chosen = tuple(dict.fromkeys(scenes))
        found = Picked(cut, member, elements, figure, detail, kept_notes, crop, kept_blocks, at_cut, shot, chosen)
        if found != self.picked:
            self.picked, self.marked = found, frozenset()
            self.picked_changed.emit()

    @property
    def notes(self) -> tuple[AnyNote, ...]:
        """The picked notes."""
        return tuple(n for i in self.picked.notes if (n := self.stage.note(i)) is not None) if self._history else ()

    def mark(self, ids: frozenset[str]) -> None:
        """Tint elements on the stage without picking them, to show what a cut reaches."""
        if ids != self.marked:
            self.marked = ids
            self.picked_changed.emit()

    def picked_mask(self) -> NDArray[np.bool_] | None:
        """Return (E,) mask of the picked and the marked elements, or None."""
        tinted = self.picked.elements | self.marked
        if self.building is None or not tinted:
            return None
        return ~shown_elements(self.building, tinted)
