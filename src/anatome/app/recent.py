"""Files opened lately, remembered between sessions."""

from __future__ import annotations

import json
import os
import zipfile
from pathlib import Path

import platformdirs

from anatome.scenes.storage import SUFFIX

MOST = 10


def settings_folder() -> Path:
    """Where the window keeps its own memory; ANATOME_SETTINGS overrides the usual place."""
    chosen = os.environ.get("ANATOME_SETTINGS")
    return Path(chosen) if chosen else Path(platformdirs.user_config_dir("anatome"))


class Recent:
    """A short list in a file of its own. A damaged list is an empty one."""

    def __init__(self) -> None:
        self._file = settings_folder() / "recent.json"

    def entries(self) -> list[Path]:
        """The files that still exist, latest first."""
        try:
            known = json.loads(self._file.read_text())
            return [Path(p) for p in known if isinstance(p, str) and Path(p).exists()]
        except (OSError, ValueError, TypeError):
            return []

    def add(self, path: Path) -> None:
        """Put a file first."""
        path = path.resolve()
        known = [path, *(p for p in self.entries() if p != path)][:MOST]
        try:
            self._file.parent.mkdir(parents=True, exist_ok=True)
            self._file.write_text(json.dumps([str(p) for p in known], indent=1))
        except OSError:
            pass  # a home that cannot be written must not stop anyone from working

    @staticmethod
    def picture(path: Path) -> bytes | None:
        """The picture of a project's first scene."""
        if path.suffix != SUFFIX:
            return None
        try:
            with zipfile.ZipFile(path) as archive:
                first = json.loads(archive.read("project.json"))["scenes"][0]["id"]
                return archive.read(f"thumbnails/{first}.png")
        except (OSError, ValueError, KeyError, IndexError, TypeError, zipfile.BadZipFile):
            return None
