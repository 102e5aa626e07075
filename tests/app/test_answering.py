"""The window goes on answering whatever is done in it: a walk through it with a watchdog."""

from __future__ import annotations

from pathlib import Path

import pytest

from anatome.demo.shipped import shipped
from anatome.formats.project_files import open_project
from benchmarks.journey import Journey
from benchmarks.tower import write_tower

GROSS = 1.0
"""Seconds. What is wanted is a tenth, which scripts/bench measures; here only what nobody could call slow machinery fails."""


@pytest.mark.long
@pytest.mark.parametrize("parts", [None, 10_000])
def test_no_step_of_a_journey_holds_the_window(fresh, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, parts) -> None:
    monkeypatch.setattr("anatome.app.document.lookups.PATIENCE", 0.02)
    model = None
    if parts is not None:
        model = tmp_path / "tower.ifc"
        write_tower(model, parts)
    journey = Journey(fresh.window, model, tmp_path)
    journey.run()
    if journey.watchdog.longest[1] >= GROSS:  # the machine may have been at something else: what is slow is slow twice
        journey = Journey(fresh.window, model, tmp_path)
        journey.run()
    assert set(journey.watchdog.holds) >= {"open", "refine", "turn the view", "cut", "drag the cut", "save", "send out"}
    phase, seconds = journey.watchdog.longest
    assert seconds < GROSS, f"{phase}: {seconds:.2f} s"
    kept = open_project(tmp_path / "watched.anatome")
    own = parts or len(shipped().elements) + 3  # and the neighbours
    assert len(kept.building.elements) == own and any(c.id == "watched" for c in kept.stored.project.stage.cuts)
