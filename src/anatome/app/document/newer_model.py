"""A model whose file is newer than what the project is of: noticed, read and compared, before anything is taken over."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QObject, Qt, QTimer, Signal
from PySide6.QtGui import QGuiApplication

from anatome.app.base.work import Progress, Work
from anatome.app.document.built import Built, built
from anatome.app.document.opened_model import OpenedModel
from anatome.app.document.session import Session
from anatome.formats.identity import identify
from anatome.formats.opening import OpenJob
from anatome.model.options import MODEL_SUFFIXES, OpenOptions
from anatome.problems import Problem
from anatome.scenes.change_look import Ids, changed_ids
from anatome.scenes.project import ModelReference, Project
from anatome.scenes.relinking import Change, change_of
from anatome.scenes.whole import models_together

REST = 700
"""Milliseconds of rest after which a file that is being written is looked at."""
READ = 0.8
"""The share of the time that reading takes, of reading and comparing."""


@dataclass(frozen=True)
class Newer:
    """A model's file, what tells its content, and when it was written."""

    path: Path
    digest: str
    written: datetime


@dataclass(frozen=True, eq=False)
class Compared:
    """What a file changes: the ``model`` in it and the one ``before``; what comes of the project ``of`` that was open when they
    were compared, ``built``; and by kinds of change the ids of the parts it happened to, ``was`` before and ``now``."""

    before: OpenedModel
    model: OpenedModel
    of: Project
    change: Change
    built: Built
    was: Ids
    now: Ids


class NewerModel(QObject):
    """``noticed``: there are newer files, or no longer; ``changed``: something else is being compared, or was."""

    noticed = Signal()
    changed = Signal()
    progressed = Signal(float)

    def __init__(self, session: Session, scratch: Callable[[], Path]) -> None:
        """``scratch`` gives a new folder that lasts as long as the program."""
        super().__init__()
        self._session, self._scratch = session, scratch
        self._files: dict[Path, Newer] = {}
        self._source_file: Newer | None = None
        self.compared: Compared | None = None
        self.problem = ""
        """Why the last file could not be compared, in words."""
        self._closed = False
        self._looking = Work(self, lambda: session.opened_as)
        self._reading = Work(self, lambda: session.opened_as)
        self._reading.progressed.connect(self.progressed)
        self._watcher = QFileSystemWatcher(self)
        self._rest = QTimer(self, singleShot=True, interval=REST)
        self._rest.timeout.connect(self.look)
        self._watcher.fileChanged.connect(self._rest.start)
        self._watcher.directoryChanged.connect(self._rest.start)
        app = QGuiApplication.instance()
        if isinstance(app, QGuiApplication):
            app.applicationStateChanged.connect(self._come_back)
        session.opened.connect(self._begin)
        session.closed.connect(self._begin)
        session.rebuilt.connect(self._follow)

    def close(self) -> None:
        """Look no more: the window closes. What watches files must go on the thread it came on, and not whenever it is found
        that nobody holds it."""
        if self._closed:
            return
        self._closed = True
        self._rest.stop()
        for work in (self._looking, self._reading):
            work.cancel()
        app = QGuiApplication.instance()
        if isinstance(app, QGuiApplication):
            app.applicationStateChanged.disconnect(self._come_back)
        for signal in (self._watcher.fileChanged, self._watcher.directoryChanged):
            signal.disconnect()
        self._watcher.deleteLater()

    # Noticing --------------------------------------------------------------------------------------------------

    @property
    def newer(self) -> Newer | None:
        """The newer file there is of what is open."""
        found = self._source_file
        known = found is None or not self._session.is_open or found.digest == self._session.project.model.digest
        return None if known else found

    def _begin(self) -> None:
        self.forget()
        self._files, self._source_file = {}, None
        if self._closed:
            return
        if watched := [*self._watcher.files(), *self._watcher.directories()]:
            self._watcher.removePaths(watched)
        self.noticed.emit()
        self._rest.start()

    def _follow(self) -> None:
        """Another state of the model may be open, or other models."""
        self.noticed.emit()
        self._rest.start()

    def _come_back(self, state: Qt.ApplicationState) -> None:
        """Where a file's place tells nobody of changes, as on some network drives, one sees when one comes back."""
        if state == Qt.ApplicationState.ApplicationActive:
            self._rest.start()

    def _source(self) -> Path | None:
        """Where the model came from, of which there may be something newer."""
        reference = self._session.project.model
        path = Path(reference.source) if reference.embedded else self._session.model_path
        return path if path is not None and path.suffix.lower() in MODEL_SUFFIXES else None

    def look(self) -> None:
        """Look, off the window's thread, whether the files of the models are others by now."""
        if not self._session.is_open:
            return
        source = self._source()
        others = {other.id: Path(other.model.path) for other in self._session.project.others}
        paths = sorted({*others.values(), *([] if source is None else [source])})
        if not paths:
            return
        watched = {*self._watcher.files(), *self._watcher.directories()}
        wanted = sorted({str(p) for path in paths for p in (path, path.parent)} - watched)
        known = self._files

        def work(progress: Progress) -> tuple[dict[Path, Newer], list[str]]:
            found = {path: file for path in paths if (file := _as_it_is(path, known.get(path))) is not None}
            return found, [path for path in wanted if Path(path).exists()]

        def done(told: tuple[dict[Path, Newer], list[str]]) -> None:
            before, outdated = self.newer, self.outdated
            self._files, there = told
            self._source_file = None if source is None else self._files.get(source)
            if there and len(self._watcher.addPaths(there)) < len(there):
                self._rest.start()  # it may have been written before it was watched
            if self.newer != before or self.outdated != outdated:
                self.noticed.emit()

        self._looking.run(work, done, self._session.failed.emit)

    @property
    def outdated(self) -> frozenset[str]:
        """Ids of the models besides the first whose files hold something else than what is open."""
        if not self._session.is_open:
            return frozenset()
        others = ((other, self._files.get(Path(other.model.path))) for other in self._session.project.others)
        return frozenset(o.id for o, file in others if file is not None and o.model.digest not in ("", file.digest))

    # Comparing -------------------------------------------------------------------------------------------------

    @property
    def busy(self) -> bool:
        """Whether a file is being read and compared."""
        return self._reading.busy

    @property
    def is_taken(self) -> bool:
        """Whether what was compared is what is open by now."""
        return self.compared is not None and self._session.project.model.state == self.compared.change.project.model.state

    def forget(self) -> None:
        """Let go of what was compared."""
        self._reading.cancel()
        self.compared, self.problem = None, ""
        self.changed.emit()

    def compare(self, path: Path, options: OpenOptions | None = None) -> None:
        """Read a model, off the window's thread, and compare what is open with it."""
        session = self._session
        before, project = session.opened_model, session.project
        opening = options or project.model.options
        scratch = self._scratch()

        def work(progress: Progress) -> Compared:
            after = read_model(path, opening, scratch, progress, before.digest)
            return _compared(project, before, after, _reference(project.model, after, opening))

        def done(found: Compared) -> None:
            self.compared = found
            self.changed.emit()

        def failed(error: Exception) -> None:
            if not isinstance(error, Problem):
                session.failed.emit(error)
            self.problem = str(error) if isinstance(error, Problem) else "It could not be compared."
            self.changed.emit()

        self.compared, self.problem = None, ""
        self._reading.run(work, done, failed)
        self.changed.emit()

    def reopen(self, options: OpenOptions, then: Callable[[Compared], None], failed: Callable[[Exception], None]) -> None:
        """Open the model that is open anew with other options, and have the project go along, as one step."""
        session = self._session
        before, project = session.opened_model, session.project
        path, scratch = before.kept or before.path, self._scratch()
        assert path is not None

        def work(progress: Progress) -> Compared:
            read = read_model(path, options, scratch, progress)
            if read.digest != before.digest:
                raise Problem("The model's file has changed since it was opened. See first what has changed, and take that over.")
            after = replace(before, first=read.first, options=options)
            return _compared(project, before, after, project.model.model_copy(update={"options": options}))

        def done(found: Compared) -> None:
            if session.project is project:
                self._take(found, "Opened with another unit or axis")
                then(found)
            else:
                failed(Problem("Something was changed while the model was read. Try it again."))

        self._reading.run(work, done, failed)

    def _take(self, found: Compared, label: str) -> None:
        self._session.take_model(found.change.project, label, found.model, found.built)

    def take_over(self, then: Callable[[Compared], None]) -> None:
        """Have the project go along with what was compared, as one step; ``then`` is called when it has."""
        session, compared = self._session, self.compared
        if compared is None or self.is_taken or session.is_for_now:
            return
        project, before = session.project, session.opened_model

        def done(found: Compared) -> None:
            if session.project is not project:
                self.take_over(then)  # somebody went on working meanwhile
                return
            self.compared = found
            self._take(found, "Took over the model")
            then(found)
            self.changed.emit()
            self.noticed.emit()

        def work(progress: Progress) -> Compared:
            if project is compared.of:
                return compared
            return _compared(project, before, compared.model, compared.change.project.model)

        self._reading.run(work, done, session.failed.emit)
        self.changed.emit()


def _as_it_is(path: Path, known: Newer | None) -> Newer | None:
    """A file with what tells its content, found out only where it was written since it was ``known``; None for none."""
    try:
        if not path.is_file():
            return None
        written = datetime.fromtimestamp(path.stat().st_mtime)
        if known is not None and known.written == written:
            return known
        return Newer(path, identify(path)[0].digest, written)
    except (Problem, OSError):
        return None  # nothing to tell: it is read when somebody asks for it


def read_model(path: Path, options: OpenOptions, scratch: Path, progress: Progress, before: str = "") -> OpenedModel:
    """Read the model in a file, quicker where its state ``before`` is known by its digest. Raises Problem, also when it is
    cancelled."""
    job = OpenJob(path, options, keep=scratch, before=before)
    while (building := job.poll(wait=0.1)) is None:
        if not progress(READ * job.progress.share):
            job.cancel()
    return OpenedModel(building, building, options, path, kept=job.kept, identity=job.identity)


def _reference(before: ModelReference, after: OpenedModel, options: OpenOptions) -> ModelReference:
    lies = str(after.path.resolve()) if after.path else before.path
    return ModelReference(path=lies, embedded=before.embedded, options=options, digest=after.digest, source=lies)


def _compared(project: Project, before: OpenedModel, after: OpenedModel, reference: ModelReference) -> Compared:
    after = replace(after, building=models_together(after.first, before.read, project.others), read=before.read)
    change = change_of(project, before.building, after.building, reference)
    made = built(after.building, change.project, change.after)
    return Compared(before, after, project, change, made, *changed_ids(before.building, after.building, change.found))
