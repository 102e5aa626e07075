"""Files opened lately, remembered between sessions."""

from __future__ import annotations

import json
import os
import zipfile
from pathlib import Path

import platformdirs

from anatome.scenes.storage import SUFFIX

MOST = 10
LARGEST = 20_000_000
"""Bytes of a member that is looked at for the welcome page."""


def settings_folder() -> Path:
    """Return where the window keeps its own memory; ANATOME_SETTINGS overrides the usual place."""
    chosen = os.environ.get("ANATOME_SETTINGS")
    return Path(chosen) if chosen else Path(platformdirs.user_config_dir("anatome"))


def state_folder() -> Path:
    """Return where is kept what one is at; ANATOME_STATE overrides the usual place."""
    chosen = os.environ.get("ANATOME_STATE")
    return Path(chosen) if chosen else Path(platformdirs.user_state_dir("anatome"))


class Recent:
    """A short list in a file of its own. A damaged list is an empty one."""

    def __init__(self) -> None:
        self._file = settings_folder() / "recent.json"

    def entries(self) -> list[Path]:
        """Return the files that still exist, latest first."""
        try:
            known = json.loads(self._file.read_text())
        except (OSError, ValueError):
            return []
        return [Path(p) for p in known if isinstance(p, str) and _exists(p)] if isinstance(known, list) else []

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
        """Return the picture of a project's first scene."""
        if path.suffix != SUFFIX:
            return None
        try:
            with zipfile.ZipFile(path) as archive:
                if archive.getinfo("project.json").file_size > LARGEST:
                    return None
                first = json.loads(archive.read("project.json"))["scenes"][0]["id"]
                name = f"thumbnails/{first}.png"
                return archive.read(name) if archive.getinfo(name).file_size <= LARGEST else None
        except Exception:  # zlib's own error, encrypted members, unknown compression: a damaged project has no picture
            return None


def _exists(path: str) -> bool:
    try:
        return Path(path).exists()
    except (OSError, ValueError):  # a name no file can have
        return False
