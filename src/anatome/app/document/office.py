"""The office's own defaults, kept with the settings of the window."""

from __future__ import annotations

from anatome.app.document.recent import settings_folder
from anatome.files import make_folder
from anatome.problems import Problem
from anatome.scenes.office import NO_OFFICE, SUFFIX, Office, read_office, write_office


def office() -> Office:
    """Return what is kept, if there is something and it can be read."""
    path = settings_folder() / f"own{SUFFIX}"
    if not path.exists():
        return NO_OFFICE
    try:
        return read_office(path)
    except Problem:
        return NO_OFFICE


def keep_office(value: Office) -> None:
    """Keep it. Raises Problem when it cannot be."""
    make_folder(settings_folder())
    write_office(value, settings_folder() / f"own{SUFFIX}")
