"""Opening and saving: models and projects, with progress and cancel, and nothing lost on the way."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal

from anatome.app.recent import Recent
from anatome.app.session import Session
from anatome.files import write_whole
from anatome.formats.opening import OpenJob
from anatome.formats.project_files import model_file
from anatome.look.look import subject_bounds
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.scenes.storage import SUFFIX, StoredProject, load_project, save_project
from anatome.view.camera import Camera, standard_view

EMBED_UP_TO = 40_000_000
"""Bytes up to which a model travels inside the project unless one chooses otherwise."""


@dataclass
class _Opening:
    """What is being opened, and what to do when the building is there."""

    job: OpenJob
    name: str
    then: Callable[[Building], None]


class Documents(QObject):
    """Opens into the session and saves from it. Errors go out as text; the session is untouched by what fails."""

    started = Signal(str)
    progressed = Signal(float, str)
    finished = Signal()
    failed = Signal(str)

    def __init__(self, session: Session, recent: Recent) -> None:
        super().__init__()
        self._session, self._recent = session, recent
        self._opening: _Opening | None = None
        self._folder = Path(tempfile.mkdtemp(prefix="anatome-"))
        self._timer = QTimer(self, interval=40)
        self._timer.timeout.connect(self._poll)

    @property
    def busy(self) -> bool:
        return self._opening is not None

    def close(self) -> None:
        """Stop what is under way and clear up."""
        self.cancel()
        shutil.rmtree(self._folder, ignore_errors=True)

    # Opening ---------------------------------------------------------------------------------------------------

    def open(self, path: Path, options: OpenOptions | None = None) -> None:
        """Open a project or a model; the outcome is told by signals."""
        self.cancel()
        try:
            if path.suffix.lower() == SUFFIX:
                self._open_project(path)
            else:
                self._open_model(path, options or OpenOptions())
        except Problem as problem:
            self.failed.emit(str(problem))

    def _open_model(self, path: Path, options: OpenOptions) -> None:
        def then(building: Building) -> None:
            bounds = subject_bounds(building, np.ones(len(building.elements), bool))
            camera = first_camera(bounds)
            embedded = path.stat().st_size <= EMBED_UP_TO
            reference = ModelReference(path=str(path.resolve()), embedded=embedded, options=options)
            project = Project(name=path.stem, model=reference, stage=StageState(camera=camera))
            self._session.open(building, project, path, None, {})
            self._recent.add(path)

        self._start(_Opening(OpenJob(path, options), path.name, then))

    def _open_project(self, path: Path) -> None:
        stored = load_project(path)
        folder = Path(tempfile.mkdtemp(dir=self._folder))
        model = model_file(stored, path, folder)

        def then(building: Building) -> None:
            self._session.open(building, stored.project, model, path, dict(stored.thumbnails))
            self._recent.add(path)

        self._start(_Opening(OpenJob(model, stored.project.model.options), path.name, then))

    def open_demo(self) -> None:
        """Open the boathouse as a project of its own that has not been saved yet."""
        from anatome.demo.ready import prepare

        self.cancel()
        try:
            path = prepare()
            stored = load_project(path)
            model = model_file(stored, path, Path(tempfile.mkdtemp(dir=self._folder)))
            job = OpenJob(model, stored.project.model.options)
        except Problem as problem:
            self.failed.emit(str(problem))
            return
        self._start(
            _Opening(
                job,
                "the boathouse",
                lambda building: self._session.open(building, stored.project, model, None, dict(stored.thumbnails)),
            )
        )

    def _start(self, opening: _Opening) -> None:
        self._opening = opening
        self.started.emit(opening.name)
        if opening.job.from_cache:
            self._poll()
        else:
            self._timer.start()

    def _poll(self) -> None:
        opening = self._opening
        if opening is None:
            return
        try:
            building = opening.job.poll()
        except Problem as problem:
            self._stop()
            self.failed.emit(str(problem))
            return
        if building is None:
            self.progressed.emit(opening.job.progress.share, opening.job.progress.doing)
            return
        self._stop()
        opening.then(building)
        self.finished.emit()
        self._session.said.emit("  ".join([f"Opened {opening.name}: {len(building.elements):,} parts.", *building.remarks]))

    def _stop(self) -> None:
        self._opening = None
        self._timer.stop()

    def cancel(self) -> None:
        """Give up opening; what was open stays open."""
        if self._opening is not None:
            self._opening.job.cancel()
            self._stop()
            self.finished.emit()
            self._session.said.emit("Opening was cancelled")

    # Saving ----------------------------------------------------------------------------------------------------

    def save(self, path: Path) -> None:
        """Write the project. Raises Problem; then nothing on the disk has changed."""
        session = self._session
        if path.suffix.lower() != SUFFIX:
            path = path.with_name(path.name + SUFFIX)
        project = session.project
        reference, content = project.model, None
        assert session.model_path is not None
        if reference.embedded:
            try:
                content = session.model_path.read_bytes()
            except OSError as error:
                raise Problem(
                    f"The model “{session.model_path}” cannot be read to put it into the project: {error.strerror}. "
                    "Put it back, or save with the model left outside (Open menu)."
                ) from error
            reference = reference.model_copy(update={"path": session.model_path.name})
        elif self._folder in session.model_path.parents:
            # The model came out of a project file and lies beside it from now on.
            beside = _put_beside(session.model_path, path.parent)
            session.model_path = beside
            reference = reference.model_copy(update={"path": beside.name})
        else:
            model = session.model_path.resolve()
            together = model.parent == path.resolve().parent  # such a pair may be moved as one
            reference = reference.model_copy(update={"path": model.name if together else str(model)})
        named = project.model_copy(update={"model": reference, "name": path.stem})
        scenes = {s.id for s in project.scenes}
        thumbnails = {k: v for k, v in session.thumbnails.items() if k in scenes}
        save_project(path, StoredProject(named, thumbnails, content))
        session.history.look_around(named)
        session.saved(path)
        self._recent.add(path)


def _put_beside(model: Path, folder: Path) -> Path:
    """A copy of the model in a folder, under a name no other file there has. Raises Problem."""
    content = model.read_bytes()
    target, number = folder / model.name, 2
    while target.exists() and target.read_bytes() != content:
        target, number = folder / f"{model.stem} {number}{model.suffix}", number + 1
    write_whole(target, content)
    return target


def first_camera(bounds: np.ndarray, aspect: float = 1.5) -> Camera:
    """How a model is first seen: in perspective, from the front left and above."""
    corner = standard_view("Axonometric, front left", bounds, aspect)
    middle = bounds.mean(axis=0)
    lower = corner.orbited(-8.0, -14.0, middle).model_copy(update={"projection": "perspective"})
    return lower.fitted(bounds, aspect)
