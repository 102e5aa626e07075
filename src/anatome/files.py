"""Writing files whole or not at all."""

from __future__ import annotations

import os
import re
import stat
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from anatome.problems import Problem

LONGEST_NAME = 160
"""Bytes of a file name without its ending."""


def write_whole(path: Path, content: bytes) -> None:
    """Write ``content`` to ``path`` so that a reader sees all of it or what was there before.

    Raises Problem when it cannot be written.
    """
    with writing_whole(path) as stream:
        stream.write(content)


def version_before(path: Path) -> Path:
    """Return where the version of a file lies that it had before it was last written, if that is kept."""
    return path.with_name(f"{path.name}~")


@contextmanager
def writing_whole(path: Path, keep_before: bool = False) -> Iterator[IO[bytes]]:
    """Return a stream to write a file into that appears at ``path`` when all went well, and not at all otherwise. What was
    there is kept as its :func:`version_before` if wanted, as far as the disk can do that without copying.

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
            if keep_before and target.exists():
                _keep_version(target)
            os.replace(partial, target)
        except BaseException:
            Path(partial).unlink(missing_ok=True)
            raise
    except OSError as error:
        raise Problem(f"“{path}” could not be written: {error.strerror or error}. Choose another place.") from error


def _keep_version(target: Path) -> None:
    kept = version_before(target)
    partial = kept.with_name(f".{kept.name[:100]}.part")
    try:
        partial.unlink(missing_ok=True)
        os.link(target, partial)
        os.replace(partial, kept)
    except OSError:
        pass  # a disk without links; the saving itself is what matters


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
    plain = re.sub(r'[\x00-\x1f\x7f-\x9f\ud800-\udfff/\\:*?"<>|]+', "_", name).strip(" .")
    # Shortened by what it takes on the disk, where 255 bytes are the most, an ending among them; never within a letter.
    return plain.encode()[:LONGEST_NAME].decode(errors="ignore").strip(" .") or "scene"


def distinct_names(names: Iterable[str]) -> list[str]:
    """Any names as file names of which no two are the same, with a number added where they would be."""
    found: list[str] = []
    for base in map(safe_name, names):
        name, again = base, 2
        while name.lower() in (other.lower() for other in found):
            name, again = f"{base} {again}", again + 1
        found.append(name)
    return found


def check_folder(path: Path) -> None:
    """Raise Problem unless ``path`` is a folder one may write into, or could become one."""
    nearest = next((p for p in (path, *path.parents) if os.path.lexists(p)), path)
    if not nearest.is_dir():
        raise Problem(f"“{nearest}” is not a folder. Choose another place.")
    if not os.access(nearest, os.W_OK):
        raise Problem(f"“{nearest}” may not be written into. Choose another place.")


def make_folder(path: Path) -> None:
    """Have a folder there. Raises Problem when that cannot be."""
    try:
        path.mkdir(parents=True, exist_ok=True)
    except (OSError, ValueError) as error:
        raise Problem(f"“{path}” cannot be a folder: {getattr(error, 'strerror', error)}. Choose another place.") from error
