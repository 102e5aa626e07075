"""Pictures of one's own that go into a project."""

from __future__ import annotations

from pathlib import Path

from anatome.printing.pages import size_of
from anatome.problems import Problem

LARGEST_LOGO = 4_000_000
"""Bytes of a picture that goes into a project."""


def read_picture(path: Path) -> bytes:
    """A PNG or JPEG small enough to go into a project. Raises Problem."""
    try:
        data = path.read_bytes()
        size_of(data)
    except OSError as error:
        raise Problem(f"“{path.name}” is no picture that can be read. Choose a PNG or a JPEG.") from error
    if len(data) > LARGEST_LOGO:
        raise Problem(
            f"“{path.name}” is larger than {LARGEST_LOGO // 1_000_000} MB. Save it smaller first; it goes into the project."
        )
    return data
