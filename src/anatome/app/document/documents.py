"""Opening and saving: models and projects, with progress and cancel, and nothing lost on the way."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from anatome.app.base.work import Progress, Work
from anatome.app.document.first_look import first_look
from anatome.app.document.hold import Hold
from anatome.app.document.office import office, office_trouble
from anatome.app.document.opened_model import OpenedModel
from anatome.app.document.recent import Recent
from anatome.app.document.recutting import Recut, prepare_first, recut
from anatome.app.document.session import Session
from anatome.cuts.dissection import Cutter
from anatome.files import version_before, write_whole
from anatome.formats.identity import Identity, identify
from anatome.formats.opening import OpenJob
from anatome.formats.project_files import NoModel, ProjectJob, packed_model
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.model.units import plural
from anatome.printing.kept_lines import KeptLines
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.journal import NO_BASE, Base, LeftBehind
from anatome.scenes.office import begun_with
from anatome.scenes.project import ModelReference, OtherModel, Project, StageState
from anatome.scenes.storage import (
    SUFFIX,
    PackedModel,
    StoredProject,
    load_project,
    model_location,
    save_project,
    unpack_model,
)
from anatome.scenes.whole import meant, whole_of
from anatome.view.camera import first_camera


@dataclass(frozen=True)
class FileState:
    """How a file on the disk looked when it was last read or written, to see whether somebody else changed it since."""

    modified: int
    size: int

    @classmethod
    def of(cls, path: Path) -> FileState | None:
        try:
            found = path.stat()
        except OSError:
            return None
        return cls(found.st_mtime_ns, found.st_size)


@dataclass(frozen=True, eq=False)
class Source:
    """Where what is open came from: how the project file looked ``on_disk`` when it was last read or written; and its ``base``,
    of which the journal needs to know."""

    on_disk: FileState | None = None
    base: Base = NO_BASE


NO_SOURCE = Source()


@dataclass(frozen=True, eq=False)
class Ready:
    """A project as it is put into the session."""

    building: Building
    project: Project
    first: Recut
    thumbnails: dict[str, bytes]
    linework: KeptLines
    model: OpenedModel
    project_path: Path | None
    recent: Path | None
    saved: bool = True
    source: Source = NO_SOURCE


@dataclass(frozen=True, eq=False)
class _Written:
    """What was saved: the project as it was named, with its model inside or ``beside`` it, and how the file looks."""

    project: Project
    model: PackedModel | None
    beside: Path | None
    on_disk: FileState | None


@dataclass(frozen=True)
class Waiting:
    """A project that lies at ``path`` and has no model yet."""

    path: Path
    stored: StoredProject


@dataclass(frozen=True)
class _What:
    """What is opened: its name, where it lies, what it was ``left`` behind as, and whether it is as it was ``saved``."""

    name: str
    base: Base
    path: Path | None = None
    left: LeftBehind | None = None
    saved: bool = True


@dataclass
class _Opening:
    """One under way, and what to make of it, on the thread that opens, when the building is there."""

    job: OpenJob
    what: _What
    ready: Callable[[Building], Ready]
    early: bool = False
    """Whether what was read so far is shown already."""
    seen: Building | None = None


class Documents(QObject):
    """Opens into the session and saves from it. Errors go out as text; the session is untouched by what fails."""

    started = Signal(str)
    progressed = Signal(float, str)
    finished = Signal()
    failed = Signal(str)
    saving = Signal(bool)
    saved = Signal()
    save_failed = Signal(str)
    waiting_changed = Signal()
    recovered = Signal(object)

    def __init__(self, session: Session, recent: Recent) -> None:
        super().__init__()
        self._session, self._recent = session, recent
        self._opening: _Opening | None = None
        self.reading = False
        """Whether more of the model that is shown is still being read."""
        self._saving, self._preparing = Work(self), Work(self)
        self._folder: Path | None = None
        self._source = NO_SOURCE
        self._hold: Hold | None = None
        self.only_looks = False
        """Whether another window has the project that is open, and may save over it."""
        self.waiting: Waiting | None = None
        self._timer = QTimer(self, interval=30)
        self._timer.timeout.connect(self._poll)
        session.closed.connect(self._forget)

    @property
    def busy(self) -> bool:
        """Whether something is being opened and nothing of it is shown yet."""
        return self._opening is not None and not self.reading

    @property
    def is_saving(self) -> bool:
        return self._saving.busy

    def close(self) -> None:
        """Stop what is under way and clear up."""
        self.cancel()
        self.let_go()
        if self._folder is not None:
            shutil.rmtree(self._folder, ignore_errors=True)
            self._folder = None

    def scratch(self) -> Path:
        """A folder of our own for one opening; made anew if something cleaned it away meanwhile. Raises Problem."""
        try:
            if self._folder is None or not self._folder.is_dir():
                self._folder = Path(tempfile.mkdtemp(prefix="anatome-"))
            return Path(tempfile.mkdtemp(dir=self._folder))
        except OSError as error:
            raise Problem(
                f"There is no room for temporary files: {error.strerror or error}. Free some space on the disk, or name another "
                "folder in TMPDIR."
            ) from error

    def _forget(self) -> None:
        if self.reading:
            self.cancel()
        self._source = NO_SOURCE
        self.let_go()

    # A project without a model ---------------------------------------------------------------------------------

    def begin(self, path: Path) -> None:
        """Write a project without a model to ``path``, and wait for the model to be opened."""
        self.cancel()
        if path.suffix.lower() != SUFFIX:
            path = path.with_name(path.name + SUFFIX)
        stored = StoredProject(edits.without_model(path.stem))

        def done(_: None) -> None:
            self._session.close()
            self._source = Source(on_disk=FileState.of(path))
            self._wait_for_model(Waiting(path, stored))
            self.saved.emit()

        self._begin_saving(lambda told: save_project(path, stored), done)

    def leave_empty(self) -> None:
        """Do not wait for a model any longer."""
        if self.waiting is not None:
            self.waiting = None
            self.waiting_changed.emit()

    def _wait_for_model(self, waiting: Waiting) -> None:
        self.waiting = waiting
        self._recent.add(waiting.path)
        self.waiting_changed.emit()
        self._session.said.emit(f"{waiting.path.stem} has no model yet: open one to put into it")

    # Opening ---------------------------------------------------------------------------------------------------

    def open(self, path: Path, options: OpenOptions | None = None) -> None:
        """Open a project or a model; the outcome is told by signals."""
        if path.suffix.lower() == SUFFIX:
            what = _What(path.name, Base(str(path.resolve())), path)
            self._open_project(lambda: ProjectJob(path, self.scratch(), as_saved=True), what)
            return
        self.cancel()
        try:
            self._open_model(path, options or OpenOptions(near=True))
        except Problem as problem:
            self.failed.emit(str(problem))

    def _open_model(self, path: Path, options: OpenOptions) -> None:
        job, waiting = OpenJob(path, options, keep=self.scratch()), self.waiting

        def ready(building: Building) -> Ready:
            camera = first_camera(building.subject_bounds(np.ones(len(building.elements), bool)))
            embedded = job.kept is not None  # small, and whole
            model = OpenedModel(building, building, options, path, kept=job.kept, identity=job.identity)
            lies = str(path.resolve())
            reference = ModelReference(path=lies, embedded=embedded, options=options, digest=model.digest, source=lies)
            if waiting is not None:
                project = edits.with_model(waiting.stored.project, reference, camera)
                whole = whole_of(building, project)
                first, pictures = recut(Cutter(whole), project.stage), dict(waiting.stored.thumbnails)
                kept = KeptLines(meant(building, project), waiting.stored.linework)
                return Ready(whole, project, first, pictures, kept, model, waiting.path, path, saved=False)
            project = Project(name=path.stem, model=reference, stage=StageState(camera=camera, look=first_look()))
            project = begun_with(project, office())
            kept = KeptLines(building, {})
            return Ready(building, project, recut(Cutter(building), project.stage), {}, kept, model, None, path)

        base = Base(None if waiting is None else str(waiting.path), model=str(path.resolve()))
        self._start(_Opening(job, _What(path.name, base), ready, early=waiting is None))

    def _open_project(self, begin: Callable[[], ProjectJob], what: _What) -> None:
        self.cancel()
        try:
            job = begin()
        except Problem as problem:
            self.failed.emit(str(problem))
            return

        def ready(building: Building) -> Ready:
            assert job.stored is not None and job.model_path is not None
            opening = job.stored.project.model.options
            own, read = job.first or building, job.others
            model = OpenedModel(building, own, opening, job.model_path, job.stored.model, job.kept, job.identity, read)
            reference = job.stored.project.model.model_copy(update={"digest": model.digest})
            others = tuple(_found(other, job.project_path) for other in job.stored.project.others)
            project = job.stored.project.model_copy(update={"model": reference, "others": others})
            thumbnails = dict(job.stored.thumbnails)
            whole = whole_of(building, project)
            first = recut(Cutter(whole), project.stage)
            kept = KeptLines(meant(building, project), job.stored.linework)
            return Ready(whole, project, first, thumbnails, kept, model, what.path, what.path, what.saved)

        self._start(_Opening(job, what, ready))

    def open_demo(self) -> None:
        """Open the boathouse as a project of its own that has not been saved yet."""
        from anatome.demo.shipped import DemoJob

        self._open_project(lambda: DemoJob(self.scratch()), _What("the boathouse", Base(demo=True)))

    def open_before(self) -> None:
        """Open the version of the project before it was last saved, as one of its own."""
        path = self._session.project_path
        if path is None or not version_before(path).is_file():
            self._session.said.emit("There is no version before this one")
            return

        def load(_: Path) -> StoredProject:
            stored = load_project(version_before(path))
            return replace(stored, project=stored.project.model_copy(update={"name": f"{path.stem}, before"}))

        what = _What(f"{path.stem}, before", Base(model=str(path.resolve())), saved=False)
        self._open_project(lambda: ProjectJob(path, self.scratch(), load, as_saved=True), what)

    def recover(self, left: LeftBehind, as_another: bool) -> None:
        """Open what was not saved when the program crashed; ``as_another`` project, or as the one it was."""
        from anatome.demo.shipped import DemoJob

        base, project = left.base, left.last.project
        if base.project and not Path(base.project).exists():
            # The file is gone; its model may still lie where it was.
            base = Base(None, base.demo, str(model_location(Path(base.project), project.model.path)))
        path = Path(base.project or base.model or "")
        own = path if base.project and not as_another else None
        if as_another:
            project = project.model_copy(update={"name": f"{project.name}, recovered"})
            base = Base(None, base.demo, base.project or base.model)

        def load(path: Path) -> StoredProject:
            if path.suffix.lower() != SUFFIX:
                taken = Path(project.model.path)  # perhaps another state of it was taken over
                lies = taken if taken.is_absolute() and taken.is_file() else path
                reference = project.model.model_copy(update={"path": str(lies)})
                return StoredProject(project.model_copy(update={"model": reference}))
            before = load_project(path)
            if before.project.model.digest != project.model.digest and Path(project.model.path).is_absolute():
                before = replace(before, model=None)  # the state taken over was not saved into it yet
            states = {scene.id: scene.state for scene in before.project.scenes}
            alike = [scene.id for scene in project.scenes if states.get(scene.id) == scene.state]
            pictures = {name: picture for name, picture in before.thumbnails.items() if name in alike}
            return replace(before, project=project, thumbnails=pictures)

        def job() -> ProjectJob:
            return DemoJob(self.scratch(), load) if base.demo else ProjectJob(path, self.scratch(), load, as_saved=True)

        self._open_project(job, _What(project.name, base, own, left, saved=False))

    def _start(self, opening: _Opening) -> None:
        self._opening = opening
        self.started.emit(opening.what.name)
        self._timer.start()

    def _poll(self) -> None:
        opening = self._opening
        if opening is None or self._preparing.busy:
            return
        try:
            building = opening.job.poll()
        except NoModel as empty:
            self._stop()
            self._session.close()
            self.finished.emit()
            assert opening.what.path is not None
            self._source = Source(on_disk=FileState.of(opening.what.path))
            self._wait_for_model(Waiting(opening.what.path, empty.stored))
            return
        except Problem as problem:
            left = " What was read so far stays open." if self.reading else ""
            self._stop()
            self.failed.emit(f"{problem}{left}")
            return
        if building is None:
            self.progressed.emit(opening.job.progress.share, opening.job.progress.doing)
            part = opening.job.part
            if opening.early and part is not None and part is not opening.seen and self._session_is_ready:
                opening.seen = part
                self._prepare(opening, part, self._show_part)
            return
        if not self.reading:
            self.progressed.emit(0.99, "Cutting it open")
        if self._session_is_ready:
            self._prepare(opening, building, self._opened)

    @property
    def _session_is_ready(self) -> bool:
        """Whether the part before is put to work, so that the next one can be."""
        return not self.reading or self._session.is_built

    def _prepare(self, opening: _Opening, building: Building, then: Callable[[_Opening, Ready], None]) -> None:
        """Make of a building what is shown, off the window's thread."""

        def work(told: Progress) -> Ready:
            found = opening.ready(building)
            prepare_first(found.building, found.project, found.first)
            return found

        def failed(error: Exception) -> None:
            self._stop()
            opening.job.cancel()  # the rest of it may still be read
            self.failed.emit(str(error) if isinstance(error, Problem) else f"The model was read but could not be shown: {error}")

        self._preparing.run(work, lambda ready: then(opening, ready), failed)

    def _show_part(self, opening: _Opening, ready: Ready) -> None:
        """Show what was read so far; what was done to it meanwhile stays."""
        if self._opening is not opening:
            return
        self._put(opening, ready)
        if not self.reading:
            self.reading = True
            self.finished.emit()
        self._session.said.emit(f"Reading {opening.what.name}: {len(ready.building.elements):,} parts so far")
        self._session.offered.emit("stop_reading", "Stop reading")

    def _put(self, opening: _Opening, ready: Ready) -> None:
        """Work on what was opened, or on more of it."""
        if self.reading and self._session.history.undo_label:
            self._session.grow(ready.model)
            return
        on_disk = FileState.of(ready.project_path) if ready.project_path else None
        self.show(replace(ready, source=Source(on_disk, opening.what.base)))

    def _opened(self, opening: _Opening, ready: Ready) -> None:
        if self._opening is not opening:
            return
        self._put(opening, ready)
        self._stop()
        if opening.what.left is not None:
            self.recovered.emit(opening.what.left)
        self.finished.emit()
        parts = f"Opened {opening.what.name}: {len(ready.building.elements):,} parts."
        if self.only_looks:
            parts = f"{opening.what.name} is open in another window: look at it here, or save it under another name."
        failed = len(ready.building.failed)
        left_out = [f"{failed} could not be drawn; Open lists them."] if failed else []
        if ready.project_path is None and (trouble := office_trouble()):
            left_out.append(trouble)
        if isinstance(opening.job, ProjectJob):
            left_out += opening.job.left_out
            if opening.job.changed and opening.job.identity != Identity(opening.job.as_it_was):
                left_out.append(
                    "Its model has changed since it was saved; what it was is not known here, so it is as its file is now."
                )
        self._session.said.emit("  ".join([parts, *left_out, *unit_words(ready.model.building), *ready.building.remarks]))
        if ready.model.building.unit.why:
            self._session.offered.emit("unit", "Another unit…")

    def show(self, ready: Ready) -> None:
        """Work on this from now on."""
        self.leave_empty()
        self._source = ready.source
        self._take_hold(ready.project_path)
        self._session.open(
            *(ready.building, ready.project, ready.model, ready.project_path, ready.thumbnails, ready.linework),
            *(ready.first, ready.saved),
        )
        if ready.recent is not None:
            self._recent.add(ready.recent)

    def _take_hold(self, path: Path | None) -> None:
        """Hold the project file that is worked on from now on, if another window has it not."""
        if path is not None and self._hold is not None and self._hold.is_of(path):
            return
        self.let_go()
        self._hold = None if path is None else Hold.take(path)
        self.only_looks = path is not None and self._hold is None

    def let_go(self) -> None:
        """Let another window save over what was open here."""
        if self._hold is not None:
            self._hold.let_go()
        self._hold, self.only_looks = None, False

    @property
    def base(self) -> Base:
        """Where what is open lies, and where its model is found."""
        return self._source.base

    def _stop(self) -> None:
        self._opening, self.reading = None, False
        self._timer.stop()

    def cancel(self) -> None:
        """Give up opening; what was open stays open, also what was read so far."""
        if self._opening is not None:
            opening, reading = self._opening, self.reading
            self._stop()
            opening.job.cancel()
            self._preparing.cancel()
            self.finished.emit()
            self._session.said.emit("Stopped reading; the rest of the model is missing" if reading else "Opening was cancelled")

    # Saving ----------------------------------------------------------------------------------------------------

    def changed_by_others(self, path: Path) -> bool:
        """Return whether the project file is no longer the one that was opened or saved last."""
        known = self._source.on_disk
        return path == self._session.project_path and known is not None and FileState.of(path) != known

    def save(self, path: Path, then: Callable[[], None] | None = None) -> None:
        """Write the project, off the window's thread; the outcome is told by signals, and ``then`` is called if it is good.

        What is opened meanwhile is another project and has nothing to do with it.
        """
        if self._saving.busy:
            self._session.said.emit("Saving is under way")
            return
        session = self._session
        if path.suffix.lower() != SUFFIX:
            path = path.with_name(path.name + SUFFIX)
        if self._is_held_elsewhere(path):
            self.save_failed.emit(
                f"“{path.name}” is open in another window, which may save over it. Save here under another name, "
                "or close it there and open it here again. Nothing is lost."
            )
            return
        project, pictures, history = session.project, session.pictures.stored(session.project), session.history
        linework = {} if session.linework is None else session.linework.stored(project)
        opened = session.opened_model

        def work(told: Progress) -> _Written:
            named, model, beside = self._with_model(project, path, opened)
            save_project(path, StoredProject(named, pictures, model, linework))
            return _Written(named, model, beside, FileState.of(path))

        def done(written: _Written) -> None:
            if session.is_open and session.history is history:
                self._source = Source(written.on_disk, Base(str(path.resolve())))
                session.model_lies(replace(opened, packed=written.model or opened.packed, path=written.beside or opened.path))
                self._take_hold(path)
                session.saved(path, project, written.project)
            self._recent.add(path)
            self.saved.emit()
            if then is not None:
                then()

        session.said.emit(f"Saving {path.name}")
        self._begin_saving(work, done)

    def _is_held_elsewhere(self, path: Path) -> bool:
        """Whether another window has this file open."""
        if self._hold is not None and self._hold.is_of(path):
            return False
        other = Hold.take(path)
        if other is not None:
            other.let_go()
        return other is None

    def _begin_saving(self, work: Callable[[Progress], Any], done: Callable[[Any], None]) -> None:
        self.saving.emit(True)
        self._saving.run(work, done, self._not_saved, lambda: self.saving.emit(False))

    def _not_saved(self, error: Exception) -> None:
        self.save_failed.emit(str(error) if isinstance(error, Problem) else f"The project could not be written: {error}")

    def _with_model(self, project: Project, path: Path, opened: OpenedModel) -> tuple[Project, PackedModel | None, Path | None]:
        """The project as it is written, the model to put into it, and where the model lies from now on. Raises Problem."""
        reference, packed, lies = project.model, opened.packed, opened.kept or opened.path
        name = Path(reference.path).name
        model: PackedModel | None = None
        beside: Path | None = None
        if reference.path == "":
            pass  # a project without a model
        elif reference.embedded:
            model = packed or self._packed_as_opened(lies, opened.identity)
            taken = reference.source if opened.path is None or self._is_ours(opened.path) else str(opened.path.resolve())
            reference = reference.model_copy(update={"path": name, "source": taken})
        elif packed is not None and (lies is None or self._is_ours(lies)):
            # The model came out of a project file and lies beside it from now on.
            beside = put_beside(packed if packed.others else replace(packed, main=replace(packed.main, name=name)), path)
            reference = reference.model_copy(update={"path": beside.relative_to(path.parent).as_posix()})
        else:
            assert opened.path is not None
            place = opened.path.resolve()
            together = place.parent == path.resolve().parent  # such a pair may be moved as one
            reference = reference.model_copy(update={"path": place.name if together else str(place)})
        others = tuple(_beside(other, path) for other in project.others)
        return project.model_copy(update={"model": reference, "name": path.stem, "others": others}), model, beside

    def _is_ours(self, path: Path) -> bool:
        return self._folder is not None and self._folder in path.parents

    def _packed_as_opened(self, source: Path | None, identity: Identity | None) -> PackedModel:
        """The model's bytes as they were when it was opened. Raises Problem when there are no such any more."""
        assert source is not None
        if not self._is_ours(source) and identity is not None and identify(source)[0] != identity:
            raise Problem(
                f"The model “{source}” was changed since it was opened, so what is on the stage cannot be put into the project. "
                "Open the model again, or save with the model left outside (Open menu)."
            )
        return packed_model(source)


def _beside(other: OtherModel, project: Path) -> OtherModel:
    """A model besides the first, as a project file refers to it: what lies in its folder may be moved with it."""
    lies = Path(other.model.path)
    near = lies.is_absolute() and lies.parent == project.resolve().parent
    return other.model_copy(update={"model": other.model.model_copy(update={"path": lies.name})}) if near else other


def _found(other: OtherModel, project: Path) -> OtherModel:
    """The same, as long as the project is open, wherever that is saved to."""
    lies = str(model_location(project, other.model.path))
    return other.model_copy(update={"model": other.model.model_copy(update={"path": lies})})


def unit_words(building: Building) -> list[str]:
    """Return how lengths of a model were taken, where its file does not say, or is doubted."""
    unit = building.unit
    return [f"Lengths are taken for {plural(unit.name)}: {unit.why}."] if unit.why else []


def put_beside(packed: PackedModel, project: Path) -> Path:
    """Return a copy of a model beside a project file, under a name nothing else there has; a model of several files in a folder
    of its own. Returns where its main file lies. Raises Problem."""
    try:
        with tempfile.TemporaryDirectory(prefix="anatome-") as scratch:
            main = unpack_model(packed, Path(scratch))
            if packed.others:
                folder = free_name(project.parent / f"{project.stem} model", lambda there: False)
                shutil.copytree(scratch, folder)
                return folder / packed.main.name
            content = main.read_bytes()
            target = free_name(project.parent / packed.main.name, lambda there: there.is_file() and there.read_bytes() == content)
            write_whole(target, content)
            return target
    except OSError as error:
        raise Problem(
            f"The model cannot be put beside the project: {error.strerror or error}. Save with the model inside (Open menu)."
        ) from error


def free_name(wanted: Path, is_it: Callable[[Path], bool]) -> Path:
    """Return a name nothing has, or only what ``is_it`` already: a number is added to the one wanted."""
    target, number = wanted, 2
    while target.exists() and not is_it(target):
        target, number = wanted.with_name(f"{wanted.stem} {number}{wanted.suffix}"), number + 1
    return target
