"""Writing files whole or not at all."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from anatome.problems import Problem


def write_whole(path: Path, content: bytes) -> None:
    """Write ``content`` to ``path`` so that a reader sees all of it or what was there before.

    Raises Problem when it cannot be written.
    """
    if path.is_dir():
        raise Problem(f"“{path}” is a folder. Give the name of a file.")
    try:
        handle, partial = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        try:
            with os.fdopen(handle, "wb") as stream:
                stream.write(content)
                stream.flush()
                os.fsync(stream.fileno())
            os.chmod(partial, 0o666 & ~_umask())
            os.replace(partial, path)
        except BaseException:
            Path(partial).unlink(missing_ok=True)
            raise
    except OSError as error:
        raise Problem(f"“{path}” could not be written: {error.strerror}. Choose another place.") from error


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
