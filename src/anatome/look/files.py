"""Looks in files of their own, to take them to other projects."""

from __future__ import annotations

import json
from pathlib import Path

from pydantic import ValidationError

from anatome.files import write_whole
from anatome.look.look import Look
from anatome.problems import Problem

SUFFIX = ".look.json"
FORMAT = "anatome-look"
LARGEST = 5_000_000


def write_look(look: Look, path: Path) -> None:
    """Write a look. Raises Problem when it cannot be written."""
    content = {"format": FORMAT, "version": 1, "look": look.model_dump(mode="json")}
    write_whole(path, (json.dumps(content, ensure_ascii=False, indent=1) + "\n").encode())


def read_look(path: Path) -> Look:
    """The look in a file. Raises Problem when it holds none."""
    try:
        if path.stat().st_size > LARGEST:
            raise Problem(f"“{path.name}” is too large to be a look.")
        content = json.loads(path.read_bytes())
        if not isinstance(content, dict) or content.get("format") != FORMAT:
            raise Problem(f"“{path.name}” holds no look. Looks are saved by “Save the look to a file”.")
        return Look.model_validate(content.get("look"))
    except OSError as error:
        raise Problem(f"“{path.name}” cannot be read: {error.strerror or error}.") from error
    except (ValidationError, ValueError, RecursionError) as error:
        first = error.errors()[0] if isinstance(error, ValidationError) else None
        where = f"{'.'.join(map(str, first['loc']))}: {first['msg']}" if first else str(error)
        raise Problem(f"The look in “{path.name}” is damaged. {where}") from error
