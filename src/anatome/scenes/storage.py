"""The project file: a zip of JSON, thumbnails and, if wanted, the model itself.

``project.json`` follows the schema that :func:`project_schema` gives (published as docs/project.schema.json);
``thumbnails/<scene id>.png`` are pictures of the scenes, ``linework/<scene id>/<mark>.json`` drawings of them, which are made
anew when they are not there; ``model/<file name>`` is the embedded model, after which come the files it names.
"""

from __future__ import annotations

import json
import os
import zipfile
import zlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import IO, Any

from pydantic import ValidationError

from anatome.files import writing_whole
from anatome.problems import Problem
from anatome.scenes.migrations import migrated
from anatome.scenes.project import VERSION, Project

SUFFIX = ".anatome"
MODEL = "model/"
"""The folder of the embedded model in the file; its main file comes first."""
LARGEST_JSON, LARGEST_THUMBNAIL, LARGEST_LINEWORK, LARGEST_MODEL = 200_000_000, 20_000_000, 100_000_000, 4_000_000_000
"""Bytes a member may have; what says it is larger is not read at all."""
MOST_MEMBERS = 10_000
_DATE = (2020, 1, 1, 0, 0, 0)
BLOCK = 1 << 20


@dataclass(frozen=True)
class PackedFile:
    """A file as it lies in a project: deflated, with the check sum and size of what comes out. ``name`` may say folders."""

    name: str
    deflated: bytes = field(repr=False)
    check: int
    size: int


@dataclass(frozen=True)
class PackedModel:
    """A model as it lies in a project: its ``main`` file and the ``others`` it names (materials, pictures, buffers)."""

    main: PackedFile
    others: tuple[PackedFile, ...] = ()

    @property
    def files(self) -> tuple[PackedFile, ...]:
        """All of them, the main one first."""
        return (self.main, *self.others)


@dataclass(frozen=True)
class StoredProject:
    """What a project file holds. ``linework`` goes by “scene/mark”; ``model`` is None for a referenced model."""

    project: Project
    thumbnails: Mapping[str, bytes] = field(default_factory=dict)
    model: PackedModel | None = None
    linework: Mapping[str, bytes] = field(default_factory=dict)


def pack_model(main: Path, others: Iterable[Path] = (), root: Path | None = None) -> PackedModel:
    """Return a model packed for projects: its main file and the others it names, all under a folder ``root``. Raises Problem
    when one cannot be read."""
    under = root or main.parent
    packed = [_pack(path, path.relative_to(under).as_posix()) for path in (main, *others)]
    return PackedModel(packed[0], tuple(packed[1:]))


def _pack(source: Path, name: str) -> PackedFile:
    packer, check, size, parts = zlib.compressobj(6, zlib.DEFLATED, -15), 0, 0, []
    try:
        with source.open("rb") as stream:
            while block := stream.read(BLOCK):
                check, size = zlib.crc32(block, check), size + len(block)
                parts.append(packer.compress(block))
    except OSError as error:
        raise Problem(
            f"The model “{source}” cannot be read to put it into the project: {error.strerror or error}. "
            "Put it back, or save with the model left outside (Open menu)."
        ) from error
    parts.append(packer.flush())
    return PackedFile(name, b"".join(parts), check, size)


def unpack_model(packed: PackedModel, folder: Path) -> Path:
    """Write the model into a folder; returns where its main file lies. Raises Problem when what is packed is damaged."""
    for file in packed.files:
        target = folder / file.name
        target.parent.mkdir(parents=True, exist_ok=True)
        _unpack(file, target)
    return folder / packed.main.name


def _unpack(packed: PackedFile, target: Path) -> None:
    unpacker, check, size = zlib.decompressobj(-15), 0, 0
    try:
        with target.open("wb") as stream:
            content = packed.deflated
            while content and not unpacker.eof:
                block = unpacker.decompress(content, BLOCK)
                content = unpacker.unconsumed_tail
                check, size = zlib.crc32(block, check), size + len(block)
                if size > packed.size:
                    break
                stream.write(block)
    except zlib.error as error:
        raise Problem("The model in the project is damaged. Take an earlier copy of the project.") from error
    except OSError as error:
        raise Problem(f"The model of the project cannot be unpacked: {error.strerror or error}. Free some space.") from error
    if (check, size) != (packed.check, packed.size):
        raise Problem("The model in the project is damaged. Take an earlier copy of the project.")


def project_schema() -> dict[str, Any]:
    """JSON schema of project.json."""
    return Project.model_json_schema()


def save_project(path: Path, stored: StoredProject) -> None:
    """Write the file whole or not at all; the same content gives the same bytes. The version before is kept beside it.

    Raises Problem when it cannot be written; what was there before is then untouched.
    """
    with writing_whole(path, keep_before=True) as stream, zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        data = stored.project.model_dump(mode="json")
        _put(archive, "project.json", json.dumps(data, indent=1).encode())
        for scene_id, picture in sorted(stored.thumbnails.items()):
            _put(archive, f"thumbnails/{scene_id}.png", picture)
        for name, drawing in sorted(stored.linework.items()):
            _put(archive, f"linework/{name}.json", drawing)
        if stored.model is not None:
            for file in stored.model.files:
                _put_packed(archive, f"{MODEL}{file.name}", file)


def _put(archive: zipfile.ZipFile, name: str, content: bytes) -> None:
    archive.writestr(zipfile.ZipInfo(name, _DATE), content, zipfile.ZIP_DEFLATED)


def _put_packed(archive: zipfile.ZipFile, name: str, packed: PackedFile) -> None:
    """Put in what is deflated already. zipfile has no call for that, so the entry is written by hand as zipfile writes it."""
    entry = zipfile.ZipInfo(name, _DATE)
    entry.compress_type = zipfile.ZIP_DEFLATED
    entry.CRC, entry.file_size, entry.compress_size = packed.check, packed.size, len(packed.deflated)
    stream = archive.fp
    assert stream is not None
    entry.header_offset = archive.start_dir
    stream.seek(entry.header_offset)
    stream.write(entry.FileHeader())
    stream.write(packed.deflated)
    archive.filelist.append(entry)
    archive.NameToInfo[entry.filename] = entry
    archive.start_dir = stream.tell()


def load_project(path: Path) -> StoredProject:
    """Read a project file. Raises Problem when it is missing, damaged or from a newer version."""
    try:
        there, is_file = path.exists(), path.is_file()
    except (OSError, ValueError) as error:
        raise Problem(f"“{str(path)[:200]}” is not a name a file can have.") from error
    if not there:
        raise Problem(f"There is no file “{path}”. Check the name, or whether it was moved.")
    if path.is_dir():
        raise Problem(f"“{path}” is a folder. Choose a project file in it.")
    if not is_file:
        raise Problem(f"“{path}” is not a plain file. Choose a project file.")
    damaged = Problem(f"“{path.name}” is damaged and cannot be opened. Take an earlier copy of it.")
    try:
        with zipfile.ZipFile(path) as archive:
            return _stored(path, archive, damaged)
    except Problem:
        raise
    except ValidationError as error:
        first = error.errors()[0]
        where = " › ".join(str(part) for part in first["loc"])
        raise Problem(
            f"“{path.name}” holds a value that cannot be: {where}: {first['msg']}. Take an earlier copy of it, or mend the value."
        ) from error
    except (OSError, MemoryError) as error:
        raise Problem(f"“{path.name}” cannot be read: {error}.") from error
    except Exception as error:  # zlib.error, RecursionError and whatever else hostile bytes bring up
        raise damaged from error


def _stored(path: Path, archive: zipfile.ZipFile, damaged: Problem) -> StoredProject:
    entries = archive.infolist()
    if len(entries) > MOST_MEMBERS:
        raise damaged
    data = json.loads(_member(archive, "project.json", LARGEST_JSON, damaged))
    if not isinstance(data, dict) or data.get("format") != "anatome-project":
        raise Problem(f"“{path.name}” is not an Anatome project.")
    version = data.get("version")
    if type(version) is not int or version < 1:
        raise Problem(f"“{path.name}” does not say which project version it is, and cannot be read. Take an earlier copy of it.")
    if version > VERSION:
        raise Problem(
            f"“{path.name}” was saved by a newer Anatome (project version {version}; this one reads {VERSION}). "
            "Open it there, or update this one."
        )
    project = Project.model_validate(migrated(data, version))
    scenes = {scene.id for scene in project.scenes}
    thumbnails, linework = {}, {}
    for entry in entries:
        name = PurePosixPath(entry.filename)
        if entry.filename.startswith("thumbnails/") and name.suffix == ".png" and name.stem in scenes:
            thumbnails[name.stem] = _member(archive, entry.filename, LARGEST_THUMBNAIL, damaged)
        elif (
            len(name.parts) == 3
            and name.parts[0] == "linework"
            and name.parts[1] in scenes
            and entry.file_size <= LARGEST_LINEWORK
        ):
            linework[f"{name.parts[1]}/{name.stem}"] = _member(archive, entry.filename, LARGEST_LINEWORK, damaged)
    model = None
    if project.model.embedded:
        inside = [entry for entry in entries if entry.filename.startswith(MODEL) and not entry.is_dir()]
        if not inside or not all(_stays_inside(entry.filename) for entry in inside):
            raise damaged
        packed = [_packed(path, archive, entry, damaged) for entry in inside]
        model = PackedModel(packed[0], tuple(packed[1:]))
    return StoredProject(project, thumbnails, model, linework)


def _member(archive: zipfile.ZipFile, name: str, largest: int, damaged: Problem) -> bytes:
    """A member's content, of which no more is read than its kind may have."""
    if archive.getinfo(name).file_size > largest:
        raise damaged
    with archive.open(name) as stream:
        content = stream.read(largest + 1)
    if len(content) > largest:
        raise damaged
    return content


def _stays_inside(name: str) -> bool:
    """Whether what is unpacked under a name lies in the folder it is unpacked into."""
    parts = name.removeprefix(MODEL).split("/")
    return all(part not in ("", ".", "..") and "\\" not in part and "\0" not in part for part in parts)


def _packed(path: Path, archive: zipfile.ZipFile, entry: zipfile.ZipInfo, damaged: Problem) -> PackedFile:
    """A file of the embedded model, left packed."""
    name = entry.filename.removeprefix(MODEL)
    limit = min(LARGEST_MODEL, path.stat().st_size)
    if entry.file_size > LARGEST_MODEL or entry.compress_size > limit or entry.flag_bits & 1:
        raise damaged
    if entry.compress_type != zipfile.ZIP_DEFLATED:
        content = _member(archive, entry.filename, LARGEST_MODEL, damaged)
        return PackedFile(name, _deflated(content), zlib.crc32(content), len(content))
    with path.open("rb") as stream:
        return PackedFile(name, _raw(stream, entry, damaged), entry.CRC, entry.file_size)


def _raw(stream: IO[bytes], entry: zipfile.ZipInfo, damaged: Problem) -> bytes:
    stream.seek(entry.header_offset)
    header = stream.read(30)
    if len(header) < 30 or header[:4] != b"PK\3\4":
        raise damaged
    stream.seek(int.from_bytes(header[26:28], "little") + int.from_bytes(header[28:30], "little"), os.SEEK_CUR)
    content = stream.read(entry.compress_size)
    if len(content) != entry.compress_size:
        raise damaged
    return content


def _deflated(content: bytes) -> bytes:
    packer = zlib.compressobj(6, zlib.DEFLATED, -15)
    return packer.compress(content) + packer.flush()


def model_location(project_path: Path | None, reference: str) -> Path:
    """Return where a referenced model lies: as written, else beside the project file."""
    written = Path(reference)
    if written.is_absolute() or project_path is None:
        if project_path is None or written.exists():
            return written
        beside = project_path.parent / written.name
        return beside if beside.exists() else written
    return project_path.parent / written
