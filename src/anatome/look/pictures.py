"""Pictures for surfaces, from files."""

from __future__ import annotations

import base64
import io
from pathlib import Path

from anatome.look.look import MOST_PICTURE, Picture
from anatome.pictures import on_white, open_picture
from anatome.problems import Problem

LARGEST = 1024
"""Pixels on a side; larger ones are made smaller."""


def read_picture(path: Path, metres: float) -> Picture:
    """Return the picture in a file, so many metres wide on a surface. Raises Problem when it is none."""
    picture = on_white(open_picture(path))
    picture.thumbnail((LARGEST, LARGEST))
    for quality in (90, 70, 50):
        data = io.BytesIO()
        picture.save(data, "JPEG", quality=quality)
        written = base64.b64encode(data.getvalue()).decode()
        if len(written) <= MOST_PICTURE:
            return Picture(name=path.stem[:200], metres=min(max(metres, 0.01), 1000.0), data=written)
    raise Problem(f"“{path.name}” is too large for a look. Make it smaller first.")
