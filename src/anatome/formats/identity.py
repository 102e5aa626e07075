"""What a model file holds, as a hash: of its own bytes and of those of the files it names."""

from __future__ import annotations

import hashlib
import json
import os
import re
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Any
from urllib.parse import unquote

from lxml import etree

from anatome.problems import Problem

KEEP_UP_TO = 40_000_000
"""Bytes up to which a copy is kept of what was opened."""
BLOCK = 1 << 20
LARGEST_TEXT = 200_000_000
"""Bytes of a file that is looked through for names."""
LONGEST_HEADER = 100_000
MOST_NAMED = 2_000
LARGEST_COMPANION = 2_000_000_000
COMPANIONS = (".bin", ".mtl", ".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff")
"""What a model may need besides itself."""
GLB_HEADER = struct.Struct("<4sIIII")
"""Magic, version, length; length and kind of the first chunk, which is JSON (glTF 2.0, binary files)."""


@dataclass(frozen=True)
class Identity:
    """``digest`` of all bytes; two models with the same are the same model."""

    digest: str

    def with_words(self, *words: object) -> str:
        """Return a digest of it and some words."""
        return hashlib.sha256("/".join([self.digest, *map(str, words)]).encode()).hexdigest()


@dataclass(frozen=True)
class ModelFiles:
    """A model's ``main`` file and the ``others`` it names that are there; all of them lie under ``root``."""

    main: Path
    others: tuple[Path, ...]
    root: Path

    @property
    def size(self) -> int:
        """Bytes of all of them."""
        return sum(path.stat().st_size for path in (self.main, *self.others))


def model_files(path: Path) -> ModelFiles:
    """Find the files that belong to a model: what a glTF or GLB, OBJ with its materials, PLY or COLLADA names. Raises OSError."""
    path = Path(os.path.abspath(path))
    others: dict[Path, None] = {}
    todo = list(_named_in(path))
    while todo and len(others) < MOST_NAMED:
        other = find_named(path, todo.pop(0))
        if other is not None and other not in others:
            others[other] = None
            # The names in a material file are meant from where the model lies.
            todo += _named_in(other) if other.suffix.lower() == ".mtl" else ()
    root = Path(os.path.commonpath([str(file.parent) for file in (path, *others)]))
    return ModelFiles(path, tuple(others), root)


def find_named(model: Path, name: str) -> Path | None:
    """Find a file by the name a model has for it: where it says, or beside the model, where it may have been moved with it.

    None for what is not there, or of a kind that no model needs: those names may come from anybody.
    """
    if "\0" in name or len(name) > 4000:
        return None
    plain = name.strip().replace("\\", "/")
    # In material files options may stand before a name, and names may have spaces.
    last = plain.split()[-1] if plain.startswith("-") else plain
    for tried in (plain, last, PurePosixPath(last).name):
        other = Path(os.path.normpath(model.parent / tried))
        within = not PurePosixPath(tried).is_absolute() and other.suffix.lower() in COMPANIONS
        if within and other.is_file() and other.stat().st_size <= LARGEST_COMPANION:
            return other
    return None


def identify(path: Path, keep: Path | None = None) -> tuple[Identity, Path | None]:
    """Return the identity of a model; and, if it is small and all of it can go together, a copy in the folder ``keep`` of the
    very same bytes, which lie to one another as they did.

    Raises Problem when it cannot be read.
    """
    digest = hashlib.sha256()
    try:
        files = model_files(path)
        together = keep is not None and files.size <= KEEP_UP_TO
        copies: list[Path | None] = []
        for number, file in enumerate((files.main, *files.others)):
            copy = None
            if together and keep is not None:
                copy = keep / file.relative_to(files.root)
                copy.parent.mkdir(parents=True, exist_ok=True)
            if number:
                # So that what ends one file is not taken for what begins the next.
                digest.update(f"/{file.relative_to(files.root).as_posix()}/{file.stat().st_size}/".encode())
            _read(file, digest, copy)
            copies.append(copy)
    except (OSError, ValueError) as error:
        raise Problem(f"“{path}” cannot be read: {getattr(error, 'strerror', None) or error}.") from error
    return Identity(digest.hexdigest()), copies[0]


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


# Names in files ----------------------------------------------------------------------------------------------------


def _named_in(path: Path) -> Iterator[str]:
    """The names of other files in a file, in the order they are named; none in what cannot be understood: its reader says why."""
    reader = {
        ".gltf": _in_gltf,
        ".glb": _in_gltf,
        ".obj": _in_obj,
        ".mtl": _in_mtl,
        ".ply": _in_ply,
        ".dae": _in_collada,
    }.get(path.suffix.lower())
    if reader is None or path.stat().st_size > LARGEST_TEXT:
        return
    try:
        yield from reader(path)
    except (ValueError, AttributeError, TypeError, RecursionError, struct.error, etree.LxmlError):
        return


def gltf_content(path: Path) -> Any:
    """Return what a glTF or GLB file says in JSON, None for other files and for what is no JSON. Raises OSError."""
    try:
        if path.suffix.lower() == ".gltf":
            return json.loads(path.read_bytes())
        if path.suffix.lower() == ".glb":
            with path.open("rb") as stream:
                magic, _, _, length, _ = GLB_HEADER.unpack(stream.read(GLB_HEADER.size))
                return json.loads(stream.read(length)) if magic == b"glTF" else None
    except (ValueError, RecursionError, struct.error):
        pass
    return None


def _in_gltf(path: Path) -> Iterator[str]:
    told = gltf_content(path) or {}
    for entry in [*told.get("buffers", []), *told.get("images", [])]:
        uri = entry.get("uri")
        if isinstance(uri, str) and not uri.startswith("data:"):
            yield unquote(uri)


def _in_obj(path: Path) -> Iterator[str]:
    yield from re.findall(r"^mtllib[ \t]+(.+?)\s*$", path.read_text(errors="replace"), re.MULTILINE)


def _in_mtl(path: Path) -> Iterator[str]:
    maps = r"^\s*(?:map_\w+|bump|disp|decal|refl|norm)[ \t]+(.+?)\s*$"
    yield from re.findall(maps, path.read_text(errors="replace"), re.MULTILINE)


def _in_ply(path: Path) -> Iterator[str]:
    with path.open("rb") as stream:
        header = stream.read(LONGEST_HEADER).split(b"end_header")[0].decode(errors="replace")
    yield from re.findall(r"^comment TextureFile[ \t]+(.+?)\s*$", header, re.MULTILINE)


def _in_collada(path: Path) -> Iterator[str]:
    for _, element in etree.iterparse(str(path), tag="{*}init_from", resolve_entities=False, huge_tree=True):
        if element.getparent() is not None and etree.QName(element.getparent()).localname == "image":
            yield unquote((element.text or "").strip().removeprefix("file://"))
        element.clear()
