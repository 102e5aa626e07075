"""What a model file holds, as a hash: of its own bytes and of those of the files it names."""

from __future__ import annotations

import hashlib
import json
import os
import re
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import unquote

from anatome.problems import Problem

KEEP_UP_TO = 40_000_000
"""Bytes up to which a copy is kept of what was opened."""
BLOCK = 1 << 20
NAMES_OTHERS = (".gltf", ".obj")
MOST_NAMED = 4_000_000


@dataclass(frozen=True)
class Identity:
    """``digest`` of all bytes; two models with the same are the same model."""

    digest: str

    def with_words(self, *words: object) -> str:
        """A digest of it and some words."""
        return hashlib.sha256("/".join([self.digest, *map(str, words)]).encode()).hexdigest()


def identify(path: Path, keep: Path | None = None) -> tuple[Identity, Path | None]:
    """The identity of a model file; and, if it is small and stands alone, a copy in the folder ``keep`` of the very same bytes.

    Raises Problem when it cannot be read.
    """
    digest = hashlib.sha256()
    try:
        named = _named_files(path)
        copy = None
        if keep is not None and not named and path.stat().st_size <= KEEP_UP_TO:
            keep.mkdir(parents=True, exist_ok=True)
            copy = keep / path.name
        _read(path, digest, copy)
        for other in named:
            _read(other, digest, None)
    except OSError as error:
        raise Problem(f"“{path}” cannot be read: {error.strerror or error}.") from error
    return Identity(digest.hexdigest()), copy


def _read(path: Path, digest: hashlib._Hash, copy: Path | None) -> None:
    writing = copy.open("wb") if copy is not None and not _same(copy, path) else None
    try:
        with path.open("rb") as stream:
            while block := stream.read(BLOCK):
                digest.update(block)
                if writing is not None:
                    writing.write(block)
    except BaseException:
        if copy is not None and writing is not None:
            copy.unlink(missing_ok=True)
        raise
    finally:
        if writing is not None:
            writing.close()


def _same(copy: Path, path: Path) -> bool:
    return copy.exists() and os.path.samefile(copy, path)


def _named_files(path: Path) -> list[Path]:
    """The files a glTF or OBJ names and that lie beside it, in the order they are named."""
    if path.suffix.lower() not in NAMES_OTHERS or path.stat().st_size > 50 * MOST_NAMED:
        return []
    if path.suffix.lower() == ".obj":
        names = re.findall(r"^mtllib\s+(.+?)\s*$", path.read_text(errors="replace"), re.MULTILINE)
    else:
        try:
            content = json.loads(path.read_bytes())
            found = [*content.get("buffers", []), *content.get("images", [])]
            names = [unquote(entry["uri"]) for entry in found if isinstance(entry.get("uri"), str)]
        except (ValueError, AttributeError, TypeError):
            names = []
    beside = [path.parent / name for name in names if not name.startswith("data:") and "\0" not in name]
    return [other for other in beside if len(str(other)) < 4000 and other.is_file()]
