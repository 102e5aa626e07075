"""Values in small files of their own, as JSON, to take them to other projects."""

from __future__ import annotations

import json
from pathlib import Path
from typing import TypeVar

from pydantic import ValidationError

from anatome.files import write_whole
from anatome.problems import Problem
from anatome.values import Value

V = TypeVar("V", bound=Value)
LARGEST = 50_000_000


def write_value(value: Value, path: Path, name: str) -> None:
    """Write a value as a file of “anatome-``name``”. Raises Problem when it cannot be written."""
    content = {"format": f"anatome-{name}", "version": 1, name: value.model_dump(mode="json")}
    write_whole(path, (json.dumps(content, ensure_ascii=False, indent=1) + "\n").encode())


def read_value(path: Path, kind: type[V], name: str, saved_by: str, largest: int = LARGEST) -> V:
    """Return the value in a file of “anatome-``name``”, which the command ``saved_by`` writes. Raises Problem when it holds
    none."""
    try:
        if path.stat().st_size > largest:
            raise Problem(f"“{path.name}” is too large to be a {name}.")
        content = json.loads(path.read_bytes())
        if not isinstance(content, dict) or content.get("format") != f"anatome-{name}":
            raise Problem(f"“{path.name}” holds no {name}. It is saved by “{saved_by}”.")
        return kind.model_validate(content.get(name))
    except OSError as error:
        raise Problem(f"“{path.name}” cannot be read: {error.strerror or error}.") from error
    except (ValidationError, ValueError, RecursionError) as error:
        first = error.errors()[0] if isinstance(error, ValidationError) else None
        where = f"{'.'.join(map(str, first['loc']))}: {first['msg']}" if first else str(error)
        raise Problem(f"The {name} in “{path.name}” is damaged. {where}") from error
