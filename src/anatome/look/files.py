"""Looks in files of their own, to take them to other projects."""

from __future__ import annotations

from pathlib import Path

from anatome.look.look import Look
from anatome.value_files import read_value, write_value

SUFFIX = ".look.json"
LARGEST = 5_000_000


def write_look(look: Look, path: Path) -> None:
    """Write a look. Raises Problem when it cannot be written."""
    write_value(look, path, "look")


def read_look(path: Path) -> Look:
    """Return the look in a file. Raises Problem when it holds none."""
    return read_value(path, Look, "look", "Save the look to a file", LARGEST)
