"""A project file and the model that belongs to it, opened together."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from anatome.formats.opening import open_model
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes.storage import StoredProject, load_project, model_location


@dataclass(frozen=True)
class OpenedProject:
    """A project with its building."""

    stored: StoredProject
    building: Building


def model_file(stored: StoredProject, project_path: Path, folder: Path) -> Path:
    """The model of a project as a file: the referenced one, or the embedded one put into ``folder``."""
    reference = stored.project.model
    if stored.model_bytes is None:
        path = model_location(project_path, reference.path)
        if not path.exists():
            raise Problem(
                f"The model of this project, “{path}”, is not there. Put it back, or beside the project file, and open again."
            )
        return path
    path = folder / PurePosixPath(reference.path).name
    path.write_bytes(stored.model_bytes)
    return path


def open_project(path: Path) -> OpenedProject:
    """Open a project and wait for its model. Raises Problem."""
    stored = load_project(path)
    with tempfile.TemporaryDirectory(prefix="anatome-") as folder:
        building = open_model(model_file(stored, path, Path(folder)), stored.project.model.options)
    return OpenedProject(stored, building)
