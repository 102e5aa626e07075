"""The process that reads a model: ``python -m anatome.formats.worker MODEL TARGET SCRATCH OPTIONS [--careful GIVEN_UP …]``.

Prints one JSON object a line: {"share", "doing"} and perhaps {"product"} while it works, {"problem"} if it cannot, and at last
{"result"}: where the building is. It ends with the process that started it.
"""

from __future__ import annotations

import ctypes
import json
import os
import signal
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from anatome.formats.store import save_building
from anatome.model.building import DERIVED, Building
from anatome.model.options import IFC_SUFFIXES, OpenOptions
from anatome.pictures import forbid_other_formats
from anatome.problems import Problem

EVERY = 0.1
"""Seconds between two reports."""


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


def read(path: Path, options: OpenOptions, report: Report, careful: tuple[Path, list[str]] | None) -> Building:
    """Read with the reader that fits the suffix."""
    # Each reader pulls in large libraries; only the one that is needed is loaded.
    if path.suffix.lower() in IFC_SUFFIXES:
        from anatome.formats.ifc import read_ifc

        return read_ifc(path, report, careful, options.near)
    from anatome.formats.mesh import read_mesh

    return read_mesh(path, options, report)


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


def main() -> int:
    end_with_parent()
    path, target, scratch = (Path(a) for a in sys.argv[1:4])
    options = OpenOptions.model_validate_json(sys.argv[4])
    careful = (scratch / "shapes", sys.argv[6:]) if sys.argv[5:6] == ["--careful"] else None
    report = Report()
    forbid_other_formats()
    try:
        say(share=0.01, doing="Reading the file")
        building = read(path, options, report, careful)
        derive(building, report)
        for place in (target, scratch / target.name):
            try:
                save_building(building, place)
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


if __name__ == "__main__":
    raise SystemExit(main())
