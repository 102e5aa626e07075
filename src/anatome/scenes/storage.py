"""The project file: a zip of JSON, thumbnails and, if wanted, the model itself.

``project.json`` follows the schema that :func:`project_schema` gives (published as docs/project.schema.json);
``thumbnails/<scene id>.png`` are pictures of the scenes; ``model/<file name>`` is the embedded model.
"""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import Any

from pydantic import ValidationError

from anatome.files import write_whole
from anatome.problems import Problem
from anatome.scenes.project import Project

SUFFIX = ".anatome"
_DATE = (2020, 1, 1, 0, 0, 0)


@dataclass(frozen=True)
class StoredProject:
    """What a project file holds. ``model_bytes`` is None for a referenced model."""

    project: Project
    thumbnails: Mapping[str, bytes] = field(default_factory=dict)
    model_bytes: bytes | None = None


def project_schema() -> dict[str, Any]:
    """JSON schema of project.json."""
    return Project.model_json_schema()


def save_project(path: Path, stored: StoredProject) -> None:
    """Write the file whole or not at all; the same content gives the same bytes.

    Raises Problem when it cannot be written; what was there before is then untouched.
    """
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        data = stored.project.model_dump(mode="json")
        _put(archive, "project.json", json.dumps(data, indent=1).encode())
        for scene_id, picture in sorted(stored.thumbnails.items()):
            _put(archive, f"thumbnails/{scene_id}.png", picture)
        if stored.model_bytes is not None:
            _put(archive, f"model/{PurePosixPath(stored.project.model.path).name}", stored.model_bytes)
    write_whole(path, buffer.getvalue())


def _put(archive: zipfile.ZipFile, name: str, content: bytes) -> None:
    archive.writestr(zipfile.ZipInfo(name, _DATE), content, zipfile.ZIP_DEFLATED)


def load_project(path: Path) -> StoredProject:
    """Read a project file. Raises Problem when it is missing, damaged or from a newer version."""
    if not path.exists():
        raise Problem(f"There is no file “{path}”. Check the name, or whether it was moved.")
    if path.is_dir():
        raise Problem(f"“{path}” is a folder. Choose a project file in it.")
    damaged = f"“{path.name}” is damaged and cannot be opened. Take an earlier copy of it."
    try:
        with zipfile.ZipFile(path) as archive:
            names = archive.namelist()
            data = json.loads(archive.read("project.json"))
            if not isinstance(data, dict) or data.get("format") != "anatome-project":
                raise Problem(f"“{path.name}” is not an Anatome project.")
            if isinstance(data.get("version"), int) and data["version"] > 1:
                raise Problem(
                    f"“{path.name}” was saved by a newer Anatome (project version {data['version']}; this one reads 1). "
                    "Open it there, or update this one."
                )
            project = Project.model_validate(data)
            thumbnails = {
                PurePosixPath(n).stem: archive.read(n) for n in names if n.startswith("thumbnails/") and n.endswith(".png")
            }
            models = [n for n in names if n.startswith("model/")]
            model_bytes = archive.read(models[0]) if project.model.embedded and models else None
    except (zipfile.BadZipFile, KeyError, ValueError, EOFError, OSError, ValidationError, NotImplementedError) as error:
        raise Problem(damaged) from error
    except Exception as error:
        if isinstance(error, Problem):
            raise
        raise Problem(damaged) from error  # zlib.error and whatever else hostile bytes bring up
    if project.model.embedded and model_bytes is None:
        raise Problem(damaged)
    return StoredProject(project, thumbnails, model_bytes)


def model_location(project_path: Path | None, reference: str) -> Path:
    """Where a referenced model lies: as written, else beside the project file."""
    written = Path(reference)
    if written.is_absolute() or project_path is None:
        if written.exists() or project_path is None:
            return written
        beside = project_path.parent / written.name
        return beside if beside.exists() else written
    return project_path.parent / written
