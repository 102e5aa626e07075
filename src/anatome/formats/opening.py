"""Opening a model in a process of its own, with progress, cancel and a cache.

A broken or hostile file may bring down that process, never the window. The worker writes the finished building into
the cache; the next opening of the same bytes takes it from there.
"""

from __future__ import annotations

import hashlib
import json
import os
import queue
import shutil
import subprocess
import sys
import tempfile
import threading
from dataclasses import dataclass
from pathlib import Path

import platformdirs

from anatome.formats.store import VERSION, load_building
from anatome.model.building import Building
from anatome.model.options import MODEL_SUFFIXES, OpenOptions
from anatome.problems import Problem

# Part of every cache name: raise it whenever a reader changes what it makes of a file.
READER_VERSION = 2


@dataclass(frozen=True)
class Progress:
    """How far opening has come: ``share`` 0..1 and what is being done."""

    share: float
    doing: str


def cache_folder() -> Path:
    """Where opened models are remembered; ANATOME_CACHE overrides the usual place."""
    chosen = os.environ.get("ANATOME_CACHE")
    return Path(chosen) if chosen else Path(platformdirs.user_cache_dir("anatome")) / "models"


def check_model_path(path: Path) -> None:
    """Raise Problem unless ``path`` is a file of a kind we can open."""
    if not path.exists():
        raise Problem(f"There is no file “{path}”. Check the name, or whether it was moved.")
    if path.is_dir():
        raise Problem(f"“{path}” is a folder. Choose a model file in it.")
    if path.suffix.lower() not in MODEL_SUFFIXES:
        known = ", ".join(s[1:].upper() for s in MODEL_SUFFIXES)
        raise Problem(f"“{path.name}” is not a kind of model Anatome opens. It opens {known}.")
    if path.stat().st_size == 0:
        raise Problem(f"“{path.name}” is empty. Export it again.")


def cache_path(path: Path, options: OpenOptions) -> Path:
    """Where the building made of these bytes with these options is kept."""
    digest = hashlib.sha256(f"{VERSION}/{READER_VERSION}/{path.suffix.lower()}/{options.model_dump_json()}/".encode())
    try:
        with path.open("rb") as stream:
            while block := stream.read(1 << 20):
                digest.update(block)
    except OSError as error:
        raise Problem(f"“{path}” cannot be read: {error.strerror}.") from error
    return cache_folder() / f"{digest.hexdigest()[:40]}.npz"


class OpenJob:
    """One opening under way. Ask :meth:`poll` now and then; :meth:`cancel` ends it at once.

    Raises Problem on creation when the path cannot be a model.
    """

    def __init__(self, path: Path, options: OpenOptions | None = None) -> None:
        self.path = path
        self.progress = Progress(0.0, "Looking for the file")
        check_model_path(path)
        self._options = options or OpenOptions()
        self._target = cache_path(path, self._options)
        self._cached = load_building(self._target)
        self.from_cache = self._cached is not None
        self._process: subprocess.Popen[str] | None = None
        self._lines: queue.Queue[str | None] = queue.Queue()
        if not self.from_cache:
            self._start()

    def _start(self) -> None:
        self._scratch = tempfile.TemporaryDirectory(prefix="anatome-")
        self._result = Path(self._scratch.name) / "building.npz"
        command = [
            sys.executable,
            "-m",
            "anatome.formats.worker",
            str(self.path),
            str(self._result),
            self._options.model_dump_json(),
        ]
        self._process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
        threading.Thread(target=self._listen, daemon=True).start()

    def _listen(self) -> None:
        assert self._process is not None and self._process.stdout is not None
        for line in self._process.stdout:
            self._lines.put(line)
        self._lines.put(None)

    def poll(self, wait: float = 0.0) -> Building | None:
        """The building once it is there, else None; waits up to ``wait`` seconds for news.

        Raises Problem when opening failed.
        """
        if self._cached is not None:
            return self._cached
        assert self._process is not None
        while True:
            try:
                line = self._lines.get(timeout=wait) if wait else self._lines.get_nowait()
            except queue.Empty:
                return None
            if line is None:
                return self._finish()
            try:
                message = json.loads(line)
            except ValueError:
                continue  # a library inside the worker printed something of its own
            if "problem" in message:
                self.cancel()
                raise Problem(message["problem"])
            self.progress = Progress(message["share"], message["doing"])

    def _finish(self) -> Building:
        assert self._process is not None
        status = self._process.wait()
        building = load_building(self._result) if status == 0 else None
        if building is None:
            self._scratch.cleanup()
            raise Problem(
                f"Reading “{self.path.name}” broke off. The file is damaged in a way that stops the reader; "
                "nothing you had open was touched. Export the model again."
            )
        try:
            self._target.parent.mkdir(parents=True, exist_ok=True)
            partial = self._target.with_name(f".{self._target.name}.{os.getpid()}")
            shutil.copyfile(self._result, partial)
            partial.replace(self._target)
        except OSError:
            pass  # the cache is a convenience; a full disk must not keep the model from opening
        self._scratch.cleanup()
        self._cached = building
        return building

    def cancel(self) -> None:
        """Stop at once and leave nothing behind."""
        if self._process is not None and self._process.poll() is None:
            self._process.kill()
            self._process.wait()
        if self._process is not None:
            self._scratch.cleanup()


def open_model(path: Path, options: OpenOptions | None = None) -> Building:
    """Open a model and wait for it. Raises Problem."""
    job = OpenJob(path, options)
    while (building := job.poll(wait=0.2)) is None:
        pass
    return building
