"""Large buildings: towers from 2,000 to 100,000 parts opened, drawn, searched and walked through, to see how the cost grows.

``python -m benchmarks.large [PARTS …]``
"""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import ifcopenshell

from anatome.formats.identity import identify
from anatome.formats.opening import OpenJob, cache_path
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from benchmarks.moving import compare
from benchmarks.opening import bare_iterator
from benchmarks.tower import write_tower

TOWERS = (2_000, 10_000, 40_000, 100_000)


def say(text: str) -> None:
    print(f"  {text}", flush=True)


def opened(path: Path, before: str = "") -> tuple[float, Building]:
    """Seconds to open, where the state ``before`` is known by its digest perhaps, and the building."""
    began = time.perf_counter()
    job = OpenJob(path, before=before)
    while (building := job.poll(wait=0.05)) is None:
        pass
    return time.perf_counter() - began, building


def changed(path: Path, one: Path, other: Path) -> float:
    """Write a model as a program does, and once more with every hundredth part called otherwise; returns the share."""
    model = ifcopenshell.open(str(path))
    model.write(str(one))
    parts = model.by_type("IfcElement")
    for part in parts[::100]:
        part.Name = f"{part.Name}, changed"
    model.write(str(other))
    return len(parts[::100]) / len(parts)


def walk(path: Path | None) -> None:
    """The journey through the window, in a process of its own, on a virtual screen if there is none."""
    command = [sys.executable, "-m", "benchmarks.large", "--walk", *([str(path)] if path else [])]
    if not os.environ.get("DISPLAY"):
        command = ["xvfb-run", "-a", "-s", "-screen 0 1600x1000x24", *command]
    done = subprocess.run(command, capture_output=True, text=True, timeout=900)
    for line in done.stdout.splitlines():
        say(line)
    if done.returncode:
        say(f"the walk broke off: {done.stderr.strip().splitlines()[-1:]}")


def walk_here(path: Path | None) -> None:
    from PySide6.QtGui import QSurfaceFormat
    from PySide6.QtWidgets import QApplication

    from anatome.app.base import theme
    from anatome.app.stage.stage import surface_format

    QSurfaceFormat.setDefaultFormat(surface_format())
    app = QApplication([])
    app.setStyle("Fusion")
    theme.install_font()
    theme.use(theme.LIGHT)
    from anatome.app.main import load_ahead
    from anatome.app.window.main_window import MainWindow

    load_ahead()
    from benchmarks.journey import Journey

    with tempfile.TemporaryDirectory() as folder:
        os.environ["ANATOME_SETTINGS"] = folder
        window = MainWindow()
        window.may_close = lambda: True  # type: ignore[method-assign]
        window.show()
        journey = Journey(window, path, Path(folder))
        journey.run()
        window.documents.close()
    print("in the window, from the cache: " + ", ".join(f"{k} after {v:.2f} s" for k, v in journey.times.items()))
    holds = sorted(journey.watchdog.holds.items(), key=lambda hold: -hold[1])
    print("longest holds: " + ", ".join(f"{name} {seconds * 1000:.0f} ms" for name, seconds in holds[:6]))
    peak = re.search(r"VmHWM:\s+(\d+)", Path("/proc/self/status").read_text())
    if peak:
        print(f"memory at most {int(peak.group(1)) / 1e6:.2f} GB")


def run(towers: tuple[int, ...] = TOWERS) -> None:
    """Print the figures for the demo and every tower."""
    with tempfile.TemporaryDirectory() as folder:
        os.environ["ANATOME_CACHE"] = str(Path(folder) / "cache")
        print("\nThe demo, walked through\n")
        walk(None)
        for parts in towers:
            path = Path(folder) / f"tower {parts}.ifc"
            write_tower(path, parts)
            print(f"\nA tower of {parts:,} parts, {path.stat().st_size / 1e6:.1f} MB of IFC\n")
            bare = bare_iterator(path, "hybrid-cgal-simple-opencascade")
            cold, building = opened(path)
            say(f"{len(building.triangles):,} triangles")
            say(f"cold {cold:.1f} s, the bare hybrid iterator {bare:.1f} s: {cold / bare:.2f} (wanted: at most 1.20)")
            warm, building = opened(path)
            say(f"from the cache {warm:.2f} s: {warm / bare:.3f} of the bare iterator")
            one, other = Path(folder) / "one week.ifc", Path(folder) / "the next.ifc"
            share = changed(path, one, other)
            whole, _ = opened(one)
            again, _ = opened(other, identify(one)[0].digest)
            say(f"{100 * share:.1f} % changed, read again {again:.1f} s: {again / whole:.3f} of all of it (wanted: at most 0.10)")
            compare(cache_path(identify(path)[0], ".ifc", OpenOptions()), building, say)
            del building
            walk(path)
            path.unlink()


if __name__ == "__main__":
    if sys.argv[1:2] == ["--walk"]:
        walk_here(Path(sys.argv[2]) if len(sys.argv) > 2 else None)
    else:
        run(tuple(map(int, sys.argv[1:])) or TOWERS)
