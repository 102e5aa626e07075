"""Many steps in any order: nothing breaks, undo goes all the way back, redo all the way forth, memory stays."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from anatome.app.base.trouble import TROUBLE
from benchmarks.walk import Walk, same

GROSS = 2.0
"""Seconds. What is wanted is half of one, which scripts/bench measures on a machine that has nothing else to do."""


@pytest.mark.parametrize("seed, steps", [(5, 40), pytest.param(3, 300, marks=pytest.mark.long)])
def test_a_walk_through_the_window(held, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, seed: int, steps: int) -> None:
    told: list[BaseException] = []
    monkeypatch.setattr(TROUBLE, "report", told.append)
    session = held.window.session
    start = session.project
    walk = Walk(held.window, seed, tmp_path)
    walk.run(steps)
    assert not told and len(set(walk.done)) > 15
    slowest = max(walk.holds, key=lambda name: walk.holds[name])
    assert walk.holds[slowest] < GROSS, f"{slowest}: {walk.holds[slowest]:.2f} s"

    held.window.desk.close()
    end = session.project
    while session.history.undo_label is not None:
        session.undo()
    assert same(session.project, start)
    while session.history.redo_label is not None:
        session.redo()
    assert same(session.project, end)
    if steps > 250:  # after the first hundred actions all kinds of buffers are there
        first, last = np.median(walk.memory[90:110]), np.median(walk.memory[-20:])
        assert last < 1.25 * first, f"{first:.0f} MB after a hundred actions, {last:.0f} MB at the end"
