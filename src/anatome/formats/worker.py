"""What a process that reads a model does (``formats/readers.py``): it is told MODEL TARGET SCRATCH OPTIONS [--before BUILDING]
[--careful GIVEN_UP …], perhaps with what is kept of the state before, of which only what changed is then made anew.

Prints one JSON object a line: {"share", "doing"} and perhaps {"product"} while it works, {"part"}: where what was read so far is,
{"problem"} if it cannot, and at last {"result"}: where the building is. It ends with the process that started it.
"""

from __future__ import annotations

import ctypes
import gc
import json
import os
import signal
import time
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from anatome.formats.store import save_building
from anatome.model.building import DERIVED, Building
from anatome.model.options import IFC_SUFFIXES, OpenOptions
from anatome.pictures import forbid_other_formats
from anatome.problems import Problem

Keys = Mapping[str, str]
Careful = tuple[Path, list[str]]
EVERY = 0.1
"""Seconds between two reports."""


@dataclass(frozen=True)
class Job:
    """What to read, and where to keep it; what is kept of the state ``before``, if anything; how to be careful, if wanted."""

    path: Path
    target: Path
    scratch: Path
    options: OpenOptions
    before: Path | None
    careful: Careful | None


def told(arguments: list[str]) -> Job:
    """Return what the process is told to do."""
    path, target, scratch = (Path(a) for a in arguments[:3])
    rest = arguments[4:]
    before = Path(rest[1]) if rest[:1] == ["--before"] else None
    rest = rest[2:] if before else rest
    careful = (scratch / "shapes", rest[1:]) if rest[:1] == ["--careful"] else None
    return Job(path, target, scratch, OpenOptions.model_validate_json(arguments[3]), before, careful)


def say(**message: object) -> None:
    print(json.dumps(message), flush=True)


class Report:
    """Tells how far reading has come, often enough to show that it goes on."""

    def __init__(self) -> None:
        self._last = 0.0
        self._product = ""

    def __call__(self, share: float, doing: str, product: str = "") -> None:
        now = time.monotonic()
        if now - self._last >= EVERY or product != self._product:
            self._last, self._product = now, product
            say(share=share, doing=doing, **({"product": product} if product else {}))


def read(job: Job, report: Report) -> tuple[Building, Keys | None]:
    """Read with the reader that fits the suffix; of IFC also what tells the states of its products, where that can be."""
    # Each reader pulls in large libraries; only the one that is needed is loaded.
    if job.path.suffix.lower() in IFC_SUFFIXES:
        from anatome.formats.ifc_again import read_known

        def part(building: Building) -> None:
            place = job.scratch / f"{len(building.elements)}.part"
            try:
                save_building(building, place, derived=False)
            except (Problem, OSError):
                return  # it would only have been looked at meanwhile
            say(part=str(place))

        return read_known(job.path, job.options.near, job.before, job.scratch, report, job.careful, part)
    from anatome.formats.mesh import read_mesh

    return read_mesh(job.path, job.options, report), None


def derive(building: Building, report: Report) -> None:
    """Work out what is kept with a building: two things at a time, as NumPy mostly works without Python's lock."""
    # The longest first: what it needs besides is small.
    names = sorted(DERIVED, key=lambda name: name != "feature_edges")
    with ThreadPoolExecutor(2) as pool:
        for number, _ in enumerate(pool.map(lambda name: getattr(building, name), names)):
            report(0.95 + 0.04 * number / len(names), "Preparing it for cutting and drawing")


def end_with_parent() -> None:
    """Have the system end this process with the one that started it; so it does not go on reading for nobody."""
    parent = os.getppid()
    try:
        ctypes.CDLL(None).prctl(1, signal.SIGKILL)  # PR_SET_PDEATHSIG
    except (OSError, AttributeError):
        return
    if os.getppid() != parent:
        raise SystemExit(1)


def keep(building: Building, keys: Keys | None, place: Path) -> None:
    """Store a building, and what tells the states of its products. Raises Problem or OSError."""
    if keys is not None:
        from anatome.formats.ifc_again import save_keys

        save_keys(keys, place)
    save_building(building, place)


def run(arguments: list[str]) -> int:
    """Read what the process is told to read, and return the code it ends with."""
    end_with_parent()
    job = told(arguments)
    path, target, scratch = job.path, job.target, job.scratch
    report = Report()
    forbid_other_formats()
    try:
        say(share=0.01, doing="Reading the file")
        building, keys = read(job, report)
        gc.collect()  # the file's records, before memory is needed for what is derived
        derive(building, report)
        for place in (target, scratch / target.name):
            try:
                place.parent.mkdir(parents=True, exist_ok=True)
                keep(building, keys, place)
                say(result=str(place))
                return 0
            except (Problem, OSError):
                continue  # the cache is full or may not be written to: anywhere will do
        say(
            problem=f"What was read of “{path.name}” could not be kept: neither “{target.parent}” nor “{scratch.parent}” can be "
            "written to or has room. Free some space on the disk, and open it again."
        )
    except Problem as problem:
        say(problem=str(problem))
    except MemoryError:
        say(problem=f"“{path.name}” needs more memory than there is. Close other programs, or export the model with less detail.")
    return 2
