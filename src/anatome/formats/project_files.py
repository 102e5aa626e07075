"""A project file and the model that belongs to it, opened together."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path, PurePosixPath

from anatome.formats.identity import model_files
from anatome.formats.opening import OpenJob, Progress
from anatome.formats.properties import facts_for
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.notes.facts import Facts
from anatome.notes.note import AnyNote
from anatome.problems import Problem
from anatome.scenes.project import OtherModel
from anatome.scenes.sheet_frames import section_places
from anatome.scenes.storage import PackedModel, StoredProject, load_project, model_location, pack_model, unpack_model
from anatome.scenes.whole import models_together, whole_of


@dataclass(frozen=True)
class OpenedProject:
    """A project with its building, ``model``, all its models together, and that with what stands round it, ``building``;
    ``others`` are the models besides the first as they were read, by their ids; ``left_out`` says which are not there."""

    stored: StoredProject
    model: Building
    building: Building
    path: Path
    others: Mapping[str, Building] = field(default_factory=dict)
    left_out: Sequence[str] = ()

    def facts(self, notes: Iterable[AnyNote]) -> Facts:
        """Return what the labels among some notes can say, properties in the model's file among it."""
        with tempfile.TemporaryDirectory(prefix="anatome-") as folder:
            model = model_file(self.stored, self.path, Path(folder))
            return facts_for(self.building, model, notes, section_places(self.stored.project))


class NoModel(Problem):
    """A project without a model was asked for its building; ``stored`` is what there is of it."""

    def __init__(self, stored: StoredProject, path: Path) -> None:
        super().__init__(f"“{path.name}” has no model yet. Open it in the window and put a model into it.")
        self.stored = stored


def model_file(stored: StoredProject, project_path: Path, folder: Path) -> Path:
    """Return the model of a project as a file: the referenced one, or the embedded one put into ``folder``.

    Raises Problem when it is not there, and NoModel when the project has none yet.
    """
    reference = stored.project.model
    if not reference.path:
        raise NoModel(stored, project_path)
    if stored.model is None:
        path = model_location(project_path, reference.path)
        if not path.exists():
            raise Problem(
                f"The model of this project, “{path}”, is not there. Put it back, or beside the project file, and open again."
            )
        return path
    packed, name = stored.model, PurePosixPath(reference.path).name
    if name and not packed.others:  # what it is called in the file does not matter then
        packed = replace(packed, main=replace(packed.main, name=name))
    return unpack_model(packed, folder)


def packed_model(path: Path) -> PackedModel:
    """Return a model packed for projects, with the files it names. Raises Problem when one cannot be read."""
    try:
        files = model_files(path)
    except OSError as error:
        raise Problem(f"“{path}” cannot be read: {error.strerror or error}. Put it back, and save again.") from error
    return pack_model(files.main, files.others, files.root)


class ProjectJob(OpenJob):
    """Opens a project with its model; :attr:`stored` and :attr:`model_path` are there once the building is. ``load`` says what
    there is of the project where that is not simply what lies at ``path``.

    The model is opened ``as_saved`` if that is wanted, and the state the project was saved with is still known; else as its file
    is now.
    """

    is_demo = False

    def __init__(
        self, path: Path, folder: Path, load: Callable[[Path], StoredProject] = load_project, as_saved: bool = False
    ) -> None:
        self._as_saved = as_saved
        self.first: Building | None = None
        self.others: dict[str, Building] = {}
        self.left_out: list[str] = []
        """Why models besides the first are not there, in words."""
        self.stored: StoredProject | None = None
        self.model_path: Path | None = None
        self.project_path, self._folder, self._load = path, folder, load
        super().__init__(self._located, keep=folder / "kept")

    def _located(self) -> tuple[Path, OpenOptions]:
        self.stored = self._load(self.project_path)
        self.model_path = model_file(self.stored, self.project_path, self._folder)
        if self._as_saved and self.stored.model is None:
            self.as_it_was = self.stored.project.model.digest
        return self.model_path, self.stored.project.model.options

    def _open(self) -> Building:
        self.first = super()._open()
        assert self.stored is not None
        wanted = self.stored.project.others
        for other in wanted:
            path = model_location(self.project_path, other.model.path)
            try:
                self.others[other.id] = self._read_beside(path, other)
            except Problem as problem:
                self._stop_if_cancelled()
                self.left_out.append(f"“{other.name}” is left out: {problem}")
        return models_together(self.first, self.others, wanted)

    def _read_beside(self, path: Path, other: OtherModel) -> Building:
        if not path.exists():
            raise Problem(f"it was looked for at “{path}”, and is not there.")
        job = OpenJob(path, other.model.options)
        while (building := job.poll(wait=0.1)) is None:
            self.progress = Progress(job.progress.share, f"{other.name}: {job.progress.doing}")
            if self._cancelled:
                job.cancel()
        return building


def open_project(path: Path, as_saved: bool = False) -> OpenedProject:
    """Open a project and wait for its model, ``as_saved`` with it if that state is still known. Raises Problem."""
    with tempfile.TemporaryDirectory(prefix="anatome-") as folder:
        job = ProjectJob(path, Path(folder), as_saved=as_saved)
        while (building := job.poll(wait=0.2)) is None:
            pass
    assert job.stored is not None
    return OpenedProject(job.stored, building, whole_of(building, job.stored.project), path, job.others, job.left_out)
