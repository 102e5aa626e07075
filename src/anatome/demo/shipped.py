"""The demo as it is shipped: a project with scenes (the IFC file is in it) and its model as the cache keeps it.

Both files are made by ``python -m tools.boathouse.making``.
"""

from __future__ import annotations

import lzma
from collections.abc import Callable
from importlib.resources import files
from pathlib import Path

from anatome.formats.identity import identify
from anatome.formats.opening import cache_path
from anatome.formats.project_files import ProjectJob
from anatome.formats.store import building_in, save_building
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from anatome.scenes.storage import StoredProject, load_project

FOLDER = Path(str(files("anatome.demo") / "data"))
PROJECT = FOLDER / "boathouse.anatome"
MODEL = FOLDER / "boathouse.building.xz"


class DemoJob(ProjectJob):
    """Opens the demo. Its model, as it was read, is shipped with it, so that the first start need not wait for reading."""

    is_demo = True

    def __init__(self, folder: Path, load: Callable[[Path], StoredProject] = load_project) -> None:
        super().__init__(PROJECT, folder, load)

    def _located(self) -> tuple[Path, OpenOptions]:
        path, options = super()._located()
        target = cache_path(identify(path)[0], path.suffix, options)
        if not target.exists():
            try:
                save_building(shipped(), target)
            except (Problem, OSError):
                pass  # without a cache it is read like any other model
        return path, options


def shipped() -> Building:
    """Return the demo building as shipped."""
    building = building_in(lzma.decompress(MODEL.read_bytes()))
    if building is None:
        raise Problem("The demo model that came with Anatome is damaged. Install Anatome again.")
    return building
