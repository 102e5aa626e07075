"""Who has a project file open: one window at a time may save over it. What a program held goes with it, however it ends."""

from __future__ import annotations

import fcntl
import hashlib
import os
from pathlib import Path
from typing import IO

from anatome.app.document.recent import state_folder


class Hold:
    """On one project file, by a lock on a file of its own; the project's own folder may be read-only."""

    def __init__(self, path: Path, lock: IO[str]) -> None:
        self.path, self._lock = path, lock

    @classmethod
    def take(cls, path: Path) -> Hold | None:
        """Hold a project file; None when another window has it."""
        target = path.resolve()
        folder = state_folder() / "open"
        folder.mkdir(parents=True, exist_ok=True)
        name = hashlib.blake2b(str(target).encode(), digest_size=16).hexdigest()
        lock = (folder / f"{name}.lock").open("a+", encoding="utf-8")
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            lock.close()
            return None
        lock.truncate(0)
        lock.write(f"{os.getpid()} {target}\n")
        lock.flush()
        return cls(target, lock)

    def is_of(self, path: Path) -> bool:
        """Return whether it is on this file."""
        return path.resolve() == self.path

    def let_go(self) -> None:
        """Let another window have it."""
        self._lock.close()
