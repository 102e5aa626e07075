"""Writing files whole or not at all."""

from __future__ import annotations

import os
import re
import stat
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from anatome.problems import Problem


def write_whole(path: Path, content: bytes) -> None:
    """Write ``content`` to ``path`` so that a reader sees all of it or what was there before.

    Raises Problem when it cannot be written.
    """
    with writing_whole(path) as stream:
        stream.write(content)


@contextmanager
def writing_whole(path: Path) -> Iterator[IO[bytes]]:
    """A stream to write a file into that appears at ``path`` when all went well, and not at all otherwise.

    A symbolic link stays one, with the file it leads to written anew; a file that was there keeps its mode. Raises Problem
    when it cannot be written, and for what is not a plain file or may not be written to.
    """
    target = Path(os.path.realpath(path))
    _check_target(path, target)
    try:
        handle, partial = tempfile.mkstemp(prefix=f".{target.name[:100]}.", suffix=".part", dir=target.parent)
        try:
            with os.fdopen(handle, "wb") as stream:
                yield stream
                stream.flush()
                os.fsync(stream.fileno())
            mode = stat.S_IMODE(target.stat().st_mode) if target.exists() else 0o666 & ~_umask()
            os.chmod(partial, mode)
            os.replace(partial, target)
        except BaseException:
            Path(partial).unlink(missing_ok=True)
            raise
    except OSError as error:
        raise Problem(f"“{path}” could not be written: {error.strerror or error}. Choose another place.") from error


def _check_target(path: Path, target: Path) -> None:
    try:
        found = target.stat()
    except FileNotFoundError:
        return
    except (OSError, ValueError) as error:
        raise Problem(f"“{path}” cannot be written: {error}. Choose another name.") from error
    if stat.S_ISDIR(found.st_mode):
        raise Problem(f"“{path}” is a folder. Give the name of a file.")
    if not stat.S_ISREG(found.st_mode):
        raise Problem(f"“{path}” is not a plain file. Give the name of a file.")
    if not os.access(target, os.W_OK) or not found.st_mode & 0o222:
        raise Problem(f"“{path}” is write-protected and was left as it is. Choose another name, or lift the protection.")


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask


def safe_name(name: str) -> str:
    """Any name as a file name."""
    return re.sub(r'[\x00-\x1f/\\:*?"<>|]+', "_", name).strip(" .")[:100] or "scene"
