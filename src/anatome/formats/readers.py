"""Processes that read models, each made of one that has loaded the large libraries already: only the first waits for them.

The process that makes them (``python -m anatome.formats.readers SOCKET``) gets one message for each: what the reader is told, its
settings, and a pipe for what it says. It ends with the program that started it, or when nothing was read for a while; readers end
with it.
"""

from __future__ import annotations

import gc
import json
import os
import select
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Sequence
from typing import TextIO

from anatome.model.options import IFC_SUFFIXES

IDLE = float(os.environ.get("ANATOME_READERS_IDLE", 300.0))
"""Seconds without a model to read after which the process that makes readers ends: it holds some 200 MB."""
ENDS_WITHIN = 2.0
"""Seconds within which the system has ended a process, unless a disk does not answer."""
MOST = 1 << 20
"""Bytes of a message at the most."""


def _is_there(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    return True


class Reader:
    """A process that reads one model. What it says, line by line, is :attr:`said`; that ends when it does."""

    def __init__(self, pid: int, said: TextIO) -> None:
        self.pid, self.said = pid, said
        self._over = False

    @property
    def is_there(self) -> bool:
        """Whether it has not ended yet."""
        self._over = self._over or not _is_there(self.pid)
        return not self._over

    def kill(self) -> None:
        """End it, if it has not ended, and wait until it has."""
        until = time.monotonic() + ENDS_WITHIN
        while self.is_there and time.monotonic() < until:
            try:
                os.kill(self.pid, signal.SIGKILL)
            except ProcessLookupError:
                pass
            time.sleep(0.002)


class _Maker:
    """The process that makes readers, as the program that started it knows it."""

    def __init__(self) -> None:
        own, its = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        none = subprocess.DEVNULL
        with its:
            command = [sys.executable, "-m", "anatome.formats.readers", str(its.fileno())]
            self._process = subprocess.Popen(command, pass_fds=[its.fileno()], stdin=none, stdout=none, stderr=none)
        self._socket = own

    def make(self, message: bytes) -> Reader | None:
        """Return a reader that is told this; None if there is no such process any more."""
        read, write = os.pipe()
        try:
            socket.send_fds(self._socket, [message], [write])
            answer = self._socket.recv(100)
        except OSError:
            answer = b""
        finally:
            os.close(write)
        if not answer:
            os.close(read)
            return None
        return Reader(int(answer), os.fdopen(read, "r", errors="replace"))

    def close(self) -> None:
        self._socket.close()
        self._process.wait()


_LOCK = threading.Lock()
_maker: _Maker | None = None


def start_reader(arguments: Sequence[str]) -> Reader:
    """Start a process that reads a model, told what :mod:`anatome.formats.worker` says. Raises OSError if there can be none."""
    global _maker
    settings = {name: value for name, value in os.environ.items() if name.startswith("ANATOME_")}
    message = json.dumps({"arguments": list(arguments), "settings": settings}).encode()
    with _LOCK:
        for _ in range(2):  # the one there was may just have ended
            if _maker is None:
                _maker = _Maker()
            found = _maker.make(message)
            if found is not None:
                return found
            _maker.close()
            _maker = None
    raise OSError("no process to read it could be started")


def _load(is_ifc: bool) -> None:
    """Load what reads IFC files, or meshes, so that every reader has it from its first moment."""
    from anatome import compiled

    if is_ifc:
        import anatome.formats.ifc_again
    else:
        import anatome.formats.mesh  # noqa: F401
    compiled.prepare()


def _serve(own: socket.socket) -> None:
    """Make readers until nobody is there who wants any."""
    from anatome.formats import worker

    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # nobody asks how they ended: what they said tells
    loaded: set[bool] = set()
    readers: list[int] = []
    while True:
        if not select.select([own], [], [], IDLE)[0]:
            readers = [pid for pid in readers if _is_there(pid)]
            if readers:
                continue  # a large model takes its time, and its reader ends with this process
            return
        message, pipes, _, _ = socket.recv_fds(own, MOST, 1)
        if not message:
            return
        told, (write,) = json.loads(message), pipes
        is_ifc = os.path.splitext(told["arguments"][0])[1].lower() in IFC_SUFFIXES
        if is_ifc not in loaded:
            _load(is_ifc)
            loaded.add(is_ifc)
            gc.freeze()
        made = os.fork()
        if made == 0:
            own.close()
            signal.signal(signal.SIGCHLD, signal.SIG_DFL)
            os.dup2(write, 1)
            os.close(write)
            sys.stdout = os.fdopen(1, "w", closefd=False)
            for name in [name for name in os.environ if name.startswith("ANATOME_")]:
                del os.environ[name]
            os.environ.update(told["settings"])
            code = 1
            try:
                code = worker.run(told["arguments"])
                sys.stdout.flush()
            finally:
                os._exit(code)
        os.close(write)
        readers.append(made)
        own.send(str(made).encode())


if __name__ == "__main__":
    _serve(socket.socket(fileno=int(sys.argv[1])))
