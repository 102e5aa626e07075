"""The journal: what is written down of a project between two savings, so that a crash costs a second and not an afternoon.

A file of lines, each with its check sum: a heading, then a line for each change. Values are written once and named by numbers
from then on, so a change costs what is new in it. A line that is torn or damaged ends the journal; what stands before it is good.
The file is locked while its program runs: one that can be locked was left behind.
"""

from __future__ import annotations

import fcntl
import json
import os
import threading
import time
import uuid
import zlib
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any

from pydantic import ValidationError
from pydantic_core import to_jsonable_python

from anatome.scenes.migrations import migrated
from anatome.scenes.project import VERSION, Project
from anatome.values import Value

SUFFIX, PICTURE = ".journal", ".png"
FORMAT = {"format": "anatome-journal", "version": 1}
DELAY = 0.25
"""Seconds in which changes are gathered before they are written."""
MOST_KNOWN, MOST_BYTES = 50_000, 20_000_000
"""Values and bytes after which a journal is begun anew."""
LARGEST = 500_000_000
REFERENCE = "="


@dataclass(frozen=True)
class Base:
    """Where a project lies: its own file, ``project``, if it was ever saved; where its model is found otherwise: in the ``demo``,
    or in ``model``, a model file or another project."""

    project: str | None = None
    demo: bool = False
    model: str | None = None


NO_BASE = Base()


@dataclass(frozen=True)
class Entry:
    """A project as it was ``at`` a time (seconds since 1970), so many ``changes`` after it was saved; ``unsaved`` if it differs
    from that."""

    project: Project
    at: float
    changes: int
    unsaved: bool


# Values as lines ---------------------------------------------------------------------------------------------------


class _Writer:
    """Turns projects into what is new in them. Values are known by being the same object: edits hand on what they leave alone."""

    def __init__(self) -> None:
        self._known: dict[int, tuple[Value, int]] = {}

    @property
    def known(self) -> int:
        """How many values were written."""
        return len(self._known)

    def line(self, entry: Entry) -> dict[str, Any]:
        """Return what is written for an entry."""
        new: list[dict[str, Any]] = []
        told = self._told(entry.project, new)
        return {"new": new, "project": told, "at": entry.at, "changes": entry.changes, "unsaved": entry.unsaved}

    def _told(self, value: Any, new: list[dict[str, Any]]) -> Any:
        if isinstance(value, Value):
            known = self._known.get(id(value))
            if known is None:
                fields = {**value.__dict__, **(value.__pydantic_extra__ or {})}
                new.append({name: self._told(part, new) for name, part in fields.items()})
                # Held, so that its id is not another's later.
                known = self._known[id(value)] = value, len(self._known)
            return {REFERENCE: known[1]}
        if isinstance(value, tuple | list):
            return [self._told(part, new) for part in value]
        if isinstance(value, frozenset):
            return sorted(self._told(part, new) for part in value)
        if isinstance(value, dict):
            return {str(name): self._told(part, new) for name, part in value.items()}
        return to_jsonable_python(value)


def _whole(told: Any, values: list[dict[str, Any]]) -> Any:
    """What was told, with values in the place of their numbers. Raises IndexError for numbers there are none of."""
    if isinstance(told, dict):
        if told.keys() == {REFERENCE}:
            return values[told[REFERENCE]]
        return {name: _whole(part, values) for name, part in told.items()}
    return [_whole(part, values) for part in told] if isinstance(told, list) else told


def _framed(content: dict[str, Any]) -> bytes:
    text = json.dumps(content, separators=(",", ":")).encode()
    return b"%08x %s\n" % (zlib.crc32(text), text)


def _lines(stream: IO[bytes]) -> Iterator[dict[str, Any]]:
    """The lines up to the first that is not whole."""
    for line in stream:
        check, _, text = line[:-1].partition(b" ")
        if not line.endswith(b"\n") or check != b"%08x" % zlib.crc32(text):
            return
        try:
            content = json.loads(text)
        except (ValueError, RecursionError):
            return
        if not isinstance(content, dict):
            return
        yield content


# Writing -----------------------------------------------------------------------------------------------------------


class Journal:
    """Writes on a thread of its own; ``failed`` is called there, once, with what keeps it from writing.

    There is no file before the first note. ``closed`` it leaves nothing behind.
    """

    def __init__(self, folder: Path, base: Base, failed: Callable[[OSError], None] = lambda error: None) -> None:
        self._path = folder / f"{uuid.uuid4().hex}{SUFFIX}"
        self._base, self._failed = base, failed
        self._file: IO[bytes] | None = None
        self._writer = _Writer()
        self._condition = threading.Condition()
        self._wanted: Entry | None = None
        self._written: Entry | None = None
        self._closing = self._broken = False
        self._thread: threading.Thread | None = None

    @property
    def picture(self) -> Path:
        """Where a small picture of the last state may be put."""
        return self._path.with_suffix(PICTURE)

    @property
    def is_begun(self) -> bool:
        """Whether anything was noted."""
        return self._thread is not None

    def note(self, project: Project, changes: int, unsaved: bool) -> None:
        """Have a state on the disk within a second. What came between two writings is passed over."""
        with self._condition:
            if self._broken or self._closing:
                return
            self._wanted = Entry(project, time.time(), changes, unsaved)
            if self._thread is None:
                self._thread = threading.Thread(target=self._run, name="journal", daemon=True)
                self._thread.start()
            self._condition.notify_all()

    def is_written(self, project: Project) -> bool:
        """Return whether a state is on the disk."""
        with self._condition:
            return self._written is not None and self._written.project is project

    def close(self) -> None:
        """The project is saved or let go of: take the journal away."""
        with self._condition:
            self._closing, self._wanted = True, None
            self._condition.notify_all()
        if self._thread is not None:
            self._thread.join()
        if self._file is not None:
            self._file.close()
            self._file = None
        _take_away(self._path)

    def _run(self) -> None:
        while True:
            with self._condition:
                self._condition.wait_for(lambda: self._closing or self._wanted is not None)
                if not self._closing:
                    self._condition.wait_for(lambda: self._closing, DELAY)
                if self._closing:
                    return
                entry, self._wanted = self._wanted, None
            assert entry is not None
            try:
                self._write(entry)
            except OSError as error:
                with self._condition:
                    self._broken = True
                self._failed(error)
                return
            with self._condition:
                self._written = entry

    def _write(self, entry: Entry) -> None:
        if self._file is None or self._writer.known > MOST_KNOWN or self._file.tell() > MOST_BYTES:
            self._begin(entry)
            return
        self._file.write(_framed(self._writer.line(entry)))
        self._file.flush()
        os.fsync(self._file.fileno())

    def _begin(self, entry: Entry) -> None:
        """A file with the heading and the whole of an entry, in the place of the one there was."""
        self._path.parent.mkdir(parents=True, exist_ok=True)
        self._writer = _Writer()
        part = self._path.with_suffix(".part")
        file = part.open("wb")
        try:
            fcntl.flock(file, fcntl.LOCK_EX)
            file.write(_framed({**FORMAT, "project version": VERSION, "base": self._base.__dict__}))
            file.write(_framed(self._writer.line(entry)))
            file.flush()
            os.fsync(file.fileno())
            part.replace(self._path)
        except BaseException:
            file.close()
            part.unlink(missing_ok=True)
            raise
        if self._file is not None:
            self._file.close()
        self._file = file


# Reading -----------------------------------------------------------------------------------------------------------


@dataclass(eq=False)
class LeftBehind:
    """A journal whose program ended without closing it. It is locked, so that no other program offers it too."""

    path: Path
    base: Base
    last: Entry
    _file: IO[bytes] = field(repr=False)

    @property
    def picture(self) -> Path:
        """Where a small picture of it may lie."""
        return self.path.with_suffix(PICTURE)

    def keep(self) -> None:
        """Leave it for another time."""
        self._file.close()

    def discard(self) -> None:
        """Take it away: what it holds is wanted no more, or lies somewhere else."""
        _take_away(self.path)
        self._file.close()


def _take_away(path: Path) -> None:
    for file in (path, path.with_suffix(PICTURE)):
        with suppress(OSError):  # it was never written, or goes with the folder
            file.unlink()


def left_behind(folder: Path) -> list[LeftBehind]:
    """Find the journals of programs that crashed, the latest first.

    What is damaged from the beginning, or is no journal, is passed over; what holds nothing that is not saved is taken away.
    """
    found = []
    for path in folder.glob(f"*{SUFFIX}") if folder.is_dir() else ():
        one = _left(path)
        if one is not None and one.last.unsaved:
            found.append(one)
        elif one is not None:
            one.discard()
    return sorted(found, key=lambda one: -one.last.at)


def _left(path: Path) -> LeftBehind | None:
    try:
        if not path.is_file() or path.stat().st_size > LARGEST:
            return None
        file = path.open("rb")
    except OSError:
        return None
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        base, last = _read(file)
        return LeftBehind(path, base, last, file)
    except (OSError, ValueError, TypeError, LookupError, RecursionError, ValidationError):
        file.close()
        return None


def _read(stream: IO[bytes]) -> tuple[Base, Entry]:
    """Heading and last entry. Raises any of several errors where there is none that is whole."""
    lines = _lines(stream)
    heading = next(lines, {})
    if {name: heading.get(name) for name in FORMAT} != FORMAT or not 1 <= heading["project version"] <= VERSION:
        raise ValueError("no journal this program can read")
    values: list[dict[str, Any]] = []
    last: dict[str, Any] | None = None
    for line in lines:
        for value in line["new"]:
            values.append(_whole(value, values))
        last = line
    if last is None:
        raise ValueError("an empty journal")
    told = _whole(last["project"], values)
    project = Project.model_validate(migrated(told, heading["project version"]))
    base = Base(**{name: heading["base"][name] for name in Base.__dataclass_fields__})
    return base, Entry(project, float(last["at"]), int(last["changes"]), bool(last["unsaved"]))
