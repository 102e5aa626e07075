"""Pictures drawn by the workers of an engine that runs already (dask.distributed, an optional package)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from anatome.filming.frames import FrameFolder, frame_png
from anatome.problems import Problem
from anatome.render.pictures import PictureMaker
from anatome.work.jobs import Job

PATIENCE = 20
"""Seconds after which an engine that does not answer is given up."""
TRIES = 4
"""How often a picture is begun whose worker died."""
HAND = ThreadPoolExecutor(1, "drawing")
"""A worker has any number of threads, a context to draw on belongs to one: all pictures of a process are drawn on this."""


def draw_on(
    address: str, job: Job, folder: FrameFolder, numbers: Sequence[int], told: Callable[[int, int], bool] | None = None
) -> None:
    """Have those of some pictures of a job drawn that are not in a folder yet. The job, with its model, goes to each worker once;
    a task is a number, its result a PNG. ``told`` hears how many of how many are done, and may return False to stop. Raises
    Problem."""
    try:
        from distributed import Client, as_completed
        from distributed.scheduler import KilledWorker
    except ImportError as error:
        raise Problem("Working with an engine needs a package more. Install it: pip install anatome[workers]") from error
    missing = folder.missing(numbers)
    if not missing:
        return
    try:
        client = Client(address, timeout=PATIENCE, set_as_default=False)
    except (OSError, ValueError, TimeoutError) as error:
        raise Problem(f"No engine answers at “{address}”. Start one with “dask scheduler” and workers, or check it.") from error
    with client, client.as_current():
        if not client.scheduler_info()["workers"]:
            raise Problem(f"The engine at “{address}” has no workers. Start some: dask worker {address}")
        there = client.scatter(job, broadcast=True, hash=False)
        futures = client.map(_drawn, missing, [there] * len(missing), pure=False, retries=TRIES)
        try:
            for done, future in enumerate(as_completed(futures), 1):
                number, content = _result(future, KilledWorker)
                folder.put_png(number, content)
                if told is not None and not told(done, len(missing)):
                    raise Problem("It was stopped; the pictures there are will be used when it is made again.")
        finally:
            client.cancel(futures, force=True)


def _result(future: Any, killed: type[Exception]) -> tuple[int, bytes]:
    """What a task gives. Raises Problem."""
    try:
        number, content = future.result()
    except killed as error:
        raise Problem(
            "Workers died again and again over one picture: they may have too little memory. Try fewer at once."
        ) from error
    return int(number), bytes(content)


def _drawn(number: int, job: Job) -> tuple[int, bytes]:
    """In a worker: draw a picture."""
    return number, HAND.submit(lambda: frame_png(job.draw(PictureMaker.standalone(job.building), number))).result()
