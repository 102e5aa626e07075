"""A project opened for a command, with a word about what could not be had."""

from __future__ import annotations

import sys
from pathlib import Path

from anatome.formats.project_files import OpenedProject
from anatome.formats.project_files import open_project as opened
from anatome.words import printable


def open_project(path: Path, as_saved: bool = False) -> OpenedProject:
    """Open a project and wait for its models; what is missing of them is told beside the output. Raises Problem."""
    found = opened(path, as_saved)
    for words in found.left_out:
        print(printable(words), file=sys.stderr)
    return found
