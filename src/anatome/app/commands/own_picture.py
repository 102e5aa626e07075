"""Pictures of one's own that go into a project."""

from __future__ import annotations

import io
from pathlib import Path

from anatome.pictures import is_plain, open_picture
from anatome.problems import Problem

LARGEST_LOGO = 4_000_000
"""Bytes of a picture that goes into a project."""


def read_picture(path: Path) -> bytes:
    """Return a picture as it goes into a project: as it came where that is an upright PNG or JPEG of 8 bits, else made one.
    Raises Problem when it is none, or too large."""
    picture = open_picture(path)
    try:
        data = path.read_bytes()
    except OSError as error:
        raise Problem(f"“{path.name}” cannot be read: {error.strerror or error}.") from error
    if not is_plain(data):
        out = io.BytesIO()
        picture.save(out, "PNG")
        data = out.getvalue()
    if len(data) > LARGEST_LOGO:
        raise Problem(
            f"“{path.name}” is larger than {LARGEST_LOGO // 1_000_000} MB. Save it smaller first; it goes into the project."
        )
    return data
