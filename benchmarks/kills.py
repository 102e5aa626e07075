"""Kills a program that edits, again and again, and says how much work each kill cost: ``python -m benchmarks.kills [TIMES]``."""

from __future__ import annotations

import random
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from anatome.demo.shipped import PROJECT
from anatome.scenes.journal import left_behind

# Edits as fast as a hand, each with its number in the project's name.
EDITING = """
import sys, time
from pathlib import Path
from anatome.scenes import edits
from anatome.scenes.journal import Base, Journal
from anatome.scenes.storage import load_project
project = load_project(Path(sys.argv[2])).project
journal = Journal(Path(sys.argv[1]), Base(sys.argv[2]))
for number in range(1, 100000):
    project = edits.hide(project, {f"part {number}"}).model_copy(update={"name": str(number)})
    if number % 7 == 0:
        project = project.model_copy(update={"scenes": (*project.scenes[1:], project.scenes[0])})
    journal.note(project, number, True)
    print(number, time.time(), flush=True)
    time.sleep(0.02)
"""


def killed_once(folder: Path, after: float) -> tuple[float, int]:
    """Return (seconds of work that are lost, edits that were made) when the program is killed ``after`` some seconds.

    Raises AssertionError when what is left behind is not exactly a state there was.
    """
    command = [sys.executable, "-c", EDITING, str(folder), str(PROJECT)]
    program = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert program.stdout is not None
    program.stdout.readline()  # it is at work
    time.sleep(after)
    program.send_signal(signal.SIGKILL)
    ended = time.time()
    told = [line.split() for line in program.stdout.read().splitlines() if len(line.split()) == 2]
    program.wait()
    found = left_behind(folder)
    if not found:  # killed before anything was written
        return (ended - float(told[0][1]) if told else after), len(told)
    (left,) = found
    known = int(left.last.project.name)
    assert left.last.changes == known and f"part {known}" in left.last.project.stage.hidden
    left.discard()
    lost = [float(at) for number, at in told if int(number) > known]
    return (ended - min(lost) if lost else 0.0), len(told)


def main() -> None:
    """Kill it, and print the worst."""
    times = int(sys.argv[1]) if len(sys.argv) > 1 else 100
    rng = random.Random(1)
    worst, edits = 0.0, 0
    with tempfile.TemporaryDirectory() as folder:
        for number in range(times):
            lost, count = killed_once(Path(folder) / str(number), rng.uniform(0.05, 3.0))
            worst, edits = max(worst, lost), edits + count
    print(f"{times} kills among {edits} edits: at most {worst:.2f} s of work was lost")


if __name__ == "__main__":
    main()
