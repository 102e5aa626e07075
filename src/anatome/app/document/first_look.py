"""What new projects begin with: the first of the looks that are shipped, or one of one's own."""

from __future__ import annotations

from pathlib import Path

from anatome.app.document.recent import settings_folder
from anatome.look import shipped
from anatome.look.files import SUFFIX, read_look, write_look
from anatome.look.look import Look
from anatome.problems import Problem


def _file() -> Path:
    return settings_folder() / f"first{SUFFIX}"


def first_look() -> Look:
    """Return the one that was chosen, if there is one and it can be read."""
    if not _file().exists():
        return shipped.first_look()
    try:
        return read_look(_file())
    except Problem:
        return shipped.first_look()


def begin_with(look: Look) -> None:
    """Choose it. Raises Problem when it cannot be kept."""
    write_look(look, _file())
