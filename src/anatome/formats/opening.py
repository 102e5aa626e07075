"""Opening a model: off the caller's thread, read in a process of its own, with progress, cancel and a cache.

A broken or hostile file may bring down or hang that process, never the window. The worker writes the finished building into
the cache; the next opening of the same bytes maps it from there.
"""

from __future__ import annotations

import json
import os
import queue
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import platformdirs

from anatome.formats.identity import Identity, identify
from anatome.formats.readers import Reader, start_reader
from anatome.formats.store import VERSION, load_building
from anatome.model.building import Building
from anatome.model.options import MODEL_SUFFIXES, OpenOptions
from anatome.problems import Problem

# Part of every cache name: raise it whenever a reader changes what it makes of a file.
READER_VERSION = 10


@dataclass
class CacheSize:
    """How many ``bytes`` are kept of models that were opened, at most. One for a program."""

    bytes: int = 4_000_000_000


CACHE = CacheSize()
"""What the cache may hold; those not asked for longest go first."""
STALL = 60.0
"""Seconds without any progress after which a shape is given up; ANATOME_STALL overrides it."""
SOONER = 2.0
"""How many times less patience there is after each stall, three times at the most."""
TIMES_AS_LONG, LEAST = 20.0, 10.0
"""A shape is given up sooner when it takes so many times as long as the slowest of those before it, and so many seconds; half as
many once something got stuck."""
ENOUGH = 5
"""Shapes one has to have seen to know how long they take."""
MOST_GIVEN_UP = 20


@dataclass(frozen=True)
class Progress:
    """How far opening has come: ``share`` 0..1 and what is being done."""

    share: float
    doing: str


def cache_folder() -> Path:
    """Return where opened models are remembered; ANATOME_CACHE overrides the usual place."""
    chosen = os.environ.get("ANATOME_CACHE")
    return Path(chosen) if chosen else Path(platformdirs.user_cache_dir("anatome")) / "models"


def check_model_path(path: Path) -> None:
    """Raise Problem unless ``path`` is a file of a kind we can open."""
    try:
        exists, is_file = path.exists(), path.is_file()
    except (OSError, ValueError) as error:
        raise Problem(f"“{str(path)[:200]}” is not a name a file can have.") from error
    if not exists:
        raise Problem(f"There is no file “{path}”. Check the name, or whether it was moved.")
    if path.is_dir():
        raise Problem(f"“{path}” is a folder. Choose a model file in it.")
    if path.suffix.lower() not in MODEL_SUFFIXES:
        known = ", ".join(s[1:].upper() for s in MODEL_SUFFIXES)
        raise Problem(f"“{path.name}” is not a kind of model Anatome opens. It opens {known}.")
    if not is_file:
        raise Problem(f"“{path.name}” is not a plain file. Copy the model to a file first.")
    if path.stat().st_size == 0:
        raise Problem(f"“{path.name}” is empty. Export it again.")


def cache_path(identity: Identity, suffix: str, options: OpenOptions) -> Path:
    """Return where the building made of these bytes with these options is kept."""
    known = identity.with_words(VERSION, READER_VERSION, suffix.lower(), options.model_dump_json())
    return cache_folder() / f"{known[:40]}.building"


@dataclass
class _Reading:
    """What the watched worker was told and what it said."""

    given_up: list[str] = field(default_factory=list)
    doing: str = ""
    careful: bool = False
    waits: list[float] = field(default_factory=list)
    """Seconds between one word of a shape and the next, in this run."""

    @property
    def patience(self) -> float:
        """Seconds without a word after which it has got stuck."""
        # Once something hung, the next thing that does is not waited for as long.
        most = float(os.environ.get("ANATOME_STALL", STALL)) / (SOONER ** min(self.careful + len(self.given_up), 3))
        if len(self.waits) < ENOUGH:
            return most
        return min(most, max(TIMES_AS_LONG * max(self.waits), LEAST / SOONER if self.careful else LEAST))


class OpenJob:
    """One opening under way. Ask :meth:`poll` now and then; :meth:`cancel` ends it at once.

    ``find`` says which model it is, with which options, and may take its time: it runs with the rest, on a thread of its own.
    With a folder to ``keep`` it in, a small model is copied there as it is read, and :attr:`kept` is that copy. Whoever sets
    :attr:`as_it_was` to a digest by then has the model in that state as long as it is still known; :attr:`changed` says whether
    the file is another one by now, and :attr:`identity` is of what was opened. With the digest of a state ``before``,
    where that is still known, only what differs from it is read anew.
    """

    def __init__(
        self,
        find: Path | Callable[[], tuple[Path, OpenOptions]],
        options: OpenOptions | None = None,
        keep: Path | None = None,
        before: str = "",
    ) -> None:
        self.progress = Progress(0.0, "Looking for the file")
        self.from_cache = False
        self.kept: Path | None = None
        self.identity: Identity | None = None
        self.as_it_was = ""
        self.part: Building | None = None
        """What was read so far, where it takes long; another one now and then."""
        self._before = before
        self.changed = False
        self._keep = keep
        self._cancelled = False
        self.reader: Reader | None = None
        self._building: Building | None = None
        self._failure: Problem | None = None
        self._over = threading.Event()
        if isinstance(find, Path):
            path = find
            check_model_path(path)
            find = lambda: (path, options or OpenOptions())  # noqa: E731
        self._find = find
        threading.Thread(target=self._run, name="opening", daemon=True).start()

    def poll(self, wait: float = 0.0) -> Building | None:
        """Return the building once it is there, else None; waits up to ``wait`` seconds for news.

        Raises Problem when opening failed.
        """
        if not self._over.wait(wait) if wait else not self._over.is_set():
            return None
        if self._failure is not None:
            raise self._failure
        return self._building

    def cancel(self) -> None:
        """Stop at once and leave nothing behind."""
        self._cancelled = True
        if self.reader is None:
            return  # nothing is written yet, and what looks for the file or loads libraries stops by itself
        self.reader.kill()
        self._over.wait(5.0)

    # On the thread ---------------------------------------------------------------------------------------------

    def _run(self) -> None:
        try:
            self._building = self._open()
        except Problem as problem:
            self._failure = problem
        except Exception as error:
            self._failure = Problem(
                f"The model could not be opened: {error}. Nothing you had open was touched. Export the model again, or free "
                "some space on the disk."
            )
        finally:
            self._over.set()

    def _open(self) -> Building:
        path, options = self._find()
        check_model_path(path)
        self.progress = Progress(0.01, "Looking whether it was opened before")
        identity, copy = identify(path, self._keep)
        if self.as_it_was and self.as_it_was != identity.digest:
            self.changed = True
            before = Identity(self.as_it_was)
            found = load_building(known := cache_path(before, path.suffix, options))
            if found is not None:
                self.identity, self.from_cache = before, True
                _touch(known)
                return found
        self.kept, self.identity = copy, identity
        target = cache_path(identity, path.suffix, options)
        found = load_building(target)
        if found is not None:
            self.from_cache = True
            _touch(target)
            return found
        self._stop_if_cancelled()
        with tempfile.TemporaryDirectory(prefix="anatome-", ignore_cleanup_errors=True) as scratch:
            result = self._read(copy or path, options, target, Path(scratch))
            if copy is None and identify(path)[0] != identity:
                result.unlink(missing_ok=True)
                raise Problem(f"“{path.name}” was written to while it was read. Wait until that is done, and open it again.")
            found = load_building(result)
        if found is None:
            raise Problem(f"What was read of “{path.name}” could not be kept. Free some space on the disk, and open it again.")
        _prune(keep=target)
        return found

    def _read(self, path: Path, options: OpenOptions, target: Path, scratch: Path) -> Path:
        """Let a worker read the model; returns where it put the building: the cache, or where that cannot be, the scratch."""
        reading = _Reading()
        while True:
            outcome = self._watch(path, options, target, scratch, reading)
            if outcome is not None:
                return outcome
            # It hung. Once more, product by product, so that the one it hangs on is known, and then without that one.
            if reading.careful and reading.doing:
                reading.given_up.append(reading.doing)
            elif reading.careful or not reading.doing:
                break
            if len(reading.given_up) > MOST_GIVEN_UP:
                break
            reading.careful = True
        raise Problem(f"Reading “{path.name}” got stuck; nothing you had open was touched. Export the model again.")

    def _watch(self, path: Path, options: OpenOptions, target: Path, scratch: Path, reading: _Reading) -> Path | None:
        """One run of a worker; None when it hung. Raises Problem when it says so, or broke down."""
        command = [*(str(p.absolute()) for p in (path, target, scratch)), options.model_dump_json()]
        if self._before and not reading.careful:
            known = cache_path(Identity(self._before), path.suffix, options)
            command += ["--before", str(known.absolute())] if known.exists() else []
        if reading.careful:
            command += ["--careful", *reading.given_up]
        lines: queue.Queue[str | None] = queue.Queue()
        self.reader = reader = start_reader(command)

        def listen() -> None:
            with reader.said:
                for line in reader.said:
                    lines.put(line)
            lines.put(None)

        threading.Thread(target=listen, name="listening", daemon=True).start()
        reading.doing, reading.waits = "", []
        since = time.monotonic()
        try:
            self._stop_if_cancelled()
            while True:
                try:
                    line = lines.get(timeout=reading.patience)
                except queue.Empty:
                    return None
                self._stop_if_cancelled()
                if line is None:
                    break
                try:
                    message = json.loads(line)
                except ValueError:
                    continue  # a library inside the worker printed something of its own
                if not isinstance(message, dict):
                    continue
                if "problem" in message:
                    raise Problem(message["problem"])
                if "part" in message:
                    self.part = load_building(Path(message["part"]))
                    since = time.monotonic()
                    continue
                if "result" in message:
                    return Path(message["result"])
                if reading.doing and message.get("product"):
                    reading.waits.append(time.monotonic() - since)
                since = time.monotonic()
                reading.doing = message.get("product", "")
                self.progress = Progress(message["share"], message["doing"])
        finally:
            reader.kill()
        self._stop_if_cancelled()
        raise Problem(
            f"Reading “{path.name}” broke off. The file is damaged in a way that stops the reader; "
            "nothing you had open was touched. Export the model again."
        )

    def _stop_if_cancelled(self) -> None:
        if self._cancelled:
            raise Problem("Opening was cancelled.")


def _touch(path: Path) -> None:
    try:
        os.utime(path)
    except OSError:
        pass  # a cache that cannot be written to is still good to read


def cache_used() -> int:
    """Return how many bytes are kept of models that were opened."""
    try:
        return sum(p.stat().st_size for p in cache_folder().iterdir() if p.is_file())
    except OSError:
        return 0


def clear_cache() -> None:
    """Let go of what is kept of models that were opened; they are read anew the next time.

    Raises Problem when some of it could not be deleted.
    """
    try:
        for path in cache_folder().iterdir():
            if path.is_file():
                path.unlink(missing_ok=True)
    except OSError as error:
        raise Problem(f"Not all that is kept could be deleted: {error.strerror}. Look at {cache_folder()}.") from error


def limit_cache(size: int) -> None:
    """Let so many bytes be kept from now on."""
    CACHE.bytes = size


def _prune(keep: Path) -> None:
    """Let go of what has not been asked for longest, so that the cache does not grow without end."""
    try:
        found = [(p.stat().st_mtime, p.stat().st_size, p) for p in keep.parent.iterdir() if p != keep and p.is_file()]
        room = CACHE.bytes - (keep.stat().st_size if keep.exists() else 0)
        for _, size, path in sorted(found, reverse=True):
            room -= size
            if room < 0:
                path.unlink(missing_ok=True)
    except OSError:
        pass  # the cache is a convenience


def open_model(path: Path, options: OpenOptions | None = None, before: str = "") -> Building:
    """Open a model and wait for it, quicker where a state ``before``, by its digest, is known. Raises Problem."""
    job = OpenJob(path, options, before=before)
    while (building := job.poll(wait=0.2)) is None:
        pass
    return building
