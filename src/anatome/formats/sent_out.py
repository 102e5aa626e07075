"""What a folder of pictures was made of, kept in it, so that the same set can be sent out again: only what has changed."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path

from anatome.files import write_whole

FILE = "sent out.json"


class SentOut:
    """The marks of pictures by their file names, and the ``settings`` they were made with. A file that is damaged or somebody
    else's counts for nothing."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.settings: dict[str, object] = {}
        self._marks: dict[str, str] = {}
        try:
            known = json.loads((folder / FILE).read_text(encoding="utf-8"))
            self._marks = {str(name): str(mark) for name, mark in known["pictures"].items()}
            self.settings = dict(known["settings"])
        except (OSError, ValueError, KeyError, TypeError, AttributeError):
            self._marks = {}

    @property
    def is_known(self) -> bool:
        """Whether something was sent out into this folder."""
        return bool(self._marks)

    def is_current(self, name: str, mark: str) -> bool:
        """Return whether a picture is there and was made of the same."""
        return self._marks.get(name) == mark and (self.folder / name).is_file()

    def put(self, name: str, mark: str) -> None:
        """Say what a picture was made of that was just written. Raises Problem where that cannot be kept."""
        self._marks[name] = mark
        self.keep(self.settings)

    def keep(self, settings: Mapping[str, object]) -> None:
        """Keep it, with the settings the pictures are made with. Raises Problem."""
        self.settings = dict(settings)
        said = {"settings": self.settings, "pictures": self._marks}
        write_whole(self.folder / FILE, (json.dumps(said, ensure_ascii=False, indent=1) + "\n").encode())
