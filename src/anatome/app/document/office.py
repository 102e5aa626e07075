"""The office's own defaults, kept with the settings of the window."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from anatome.app.document.recent import settings_folder
from anatome.files import make_folder
from anatome.problems import Problem
from anatome.scenes.office import NO_OFFICE, SUFFIX, Office, read_office, write_office


def _file() -> Path:
    return settings_folder() / f"own{SUFFIX}"


def office() -> Office:
    """Return what is kept, if there is something and it can be read."""
    return _found()[0]


def office_trouble() -> str:
    """Return why what is kept is not used, in words; nothing where it is, or there is none."""
    return _found()[1]


def keep_office(value: Office) -> None:
    """Keep it. Raises Problem when it cannot be."""
    make_folder(settings_folder())
    write_office(value, _file())


def _found() -> tuple[Office, str]:
    path = _file()
    try:
        state = path.stat()
    except OSError:
        return NO_OFFICE, ""
    return _read(path, state.st_mtime_ns, state.st_size)


@lru_cache(maxsize=2)
def _read(path: Path, changed: int, size: int) -> tuple[Office, str]:
    """What the file holds in that state. The inspector asks at every change, and a logo may be large."""
    try:
        return read_office(path), ""
    except Problem as problem:
        return NO_OFFICE, f"The office's defaults are not used: {problem} Take them from a file, or keep those of a project."
