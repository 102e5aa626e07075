"""The journal: what was written down comes back exactly, whatever becomes of the program or of the file's end."""

from __future__ import annotations

import os
import random
import time
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anatome.demo.shipped import PROJECT
from anatome.scenes import edits
from anatome.scenes.journal import NO_BASE, Base, Journal, left_behind
from anatome.scenes.project import Project
from anatome.scenes.storage import StoredProject, load_project, save_project
from benchmarks.kills import killed_once


@pytest.fixture(autouse=True)
def soon(monkeypatch: pytest.MonkeyPatch) -> None:
    """What is noted is written at once, but by programs that are killed."""
    monkeypatch.setattr("anatome.scenes.journal.DELAY", 0.002)


@pytest.fixture(scope="module")
def demo() -> Project:
    return load_project(PROJECT).project


def written(journal: Journal, project: Project, changes: int = 1, unsaved: bool = True) -> None:
    journal.note(project, changes, unsaved)
    until = time.monotonic() + 10
    while not journal.is_written(project):
        assert time.monotonic() < until
        time.sleep(0.005)


def crash(journal: Journal) -> Path:
    """What the system does with the files of a program that ended."""
    assert journal._file is not None
    journal._file.close()
    return journal._path


def test_what_was_noted_is_what_comes_back(demo: Project, tmp_path: Path) -> None:
    base = Base("/club/house.anatome", False, None)
    journal = Journal(tmp_path, base)
    written(journal, demo)
    first = journal._path.stat().st_size
    changed = edits.recall_scene(demo, demo.scenes[3].id, 1.5)
    for step in range(4):
        changed = edits.hide(changed, {f"part {step}"})
        written(journal, changed, step + 2)
    assert journal._path.stat().st_size - first < 4 * 4000 < first  # values that are new, not all of it again
    assert left_behind(tmp_path) == []  # whoever runs is not offered to others
    crash(journal)
    (left,) = left_behind(tmp_path)
    assert left.last.project == changed and left.last.changes == 5 and left.base == base and time.time() - left.last.at < 60
    assert left_behind(tmp_path) == []  # and one that is offered is offered once
    left.keep()
    (left,) = left_behind(tmp_path)
    left.discard()
    assert list(tmp_path.iterdir()) == []


def test_what_is_saved_or_closed_leaves_nothing(demo: Project, tmp_path: Path) -> None:
    journal = Journal(tmp_path, NO_BASE)
    written(journal, edits.hide(demo, {"a"}))
    written(journal, demo, 2, unsaved=False)  # undone again
    crash(journal)
    assert left_behind(tmp_path) == [] and list(tmp_path.iterdir()) == []
    journal = Journal(tmp_path, NO_BASE)
    written(journal, demo)
    journal.close()
    assert list(tmp_path.iterdir()) == []


def test_a_long_journal_is_begun_anew(demo: Project, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("anatome.scenes.journal.MOST_BYTES", 90_000)
    journal, project = Journal(tmp_path, NO_BASE), demo
    for number in range(40):
        project = edits.hide(project, {f"{number}" * 300})
        written(journal, project, number)
    assert journal._path.stat().st_size < 150_000
    crash(journal)
    (left,) = left_behind(tmp_path)
    assert left.last.project == project


@given(st.data())
def test_damage_costs_nothing_but_what_comes_after_it(
    demo: Project, tmp_path_factory: pytest.TempPathFactory, data: st.DataObject
) -> None:
    folder = tmp_path_factory.mktemp("journals")
    journal = Journal(folder, NO_BASE)
    states = [demo]
    for number in range(3):
        states.append(edits.hide(states[-1], {f"part {number}"}))
        written(journal, states[-1], number)
    path = crash(journal)
    content = path.read_bytes()
    at = int(data.draw(st.floats(0, 1, exclude_max=True)) * len(content))
    if data.draw(st.booleans()):
        path.write_bytes(content[:at])
    else:
        path.write_bytes(content[:at] + bytes([content[at] ^ data.draw(st.integers(1, 255))]) + content[at + 1 :])
    (folder / "foreign.journal").write_bytes(data.draw(st.binary(max_size=50)))
    found = left_behind(folder)
    assert all(one.last.project in states for one in found)
    for one in found:
        one.discard()
    assert (folder / "foreign.journal").exists()


def test_a_disk_that_takes_nothing_is_told_once(demo: Project, tmp_path: Path) -> None:
    (tmp_path / "in the way").write_text("")
    told: list[OSError] = []
    journal = Journal(tmp_path / "in the way", NO_BASE, told.append)
    for number in range(3):
        journal.note(edits.hide(demo, {str(number)}), 1, True)
        time.sleep(0.05)
    assert len(told) == 1
    journal.close()


def test_killed_at_any_moment_at_most_the_last_second_is_lost(tmp_path: Path) -> None:
    """Two kills; benchmarks/kills.py does a hundred."""
    rng = random.Random(7)
    for number in range(2):
        folder = tmp_path / str(number)
        lost, count = killed_once(folder, rng.uniform(0.8, 2.5))
        assert lost <= 1.0 and count > 5


def test_the_version_before_a_saving_is_kept(demo: Project, tmp_path: Path) -> None:
    path = tmp_path / "club.anatome"
    for name in ("first", "second", "third"):
        save_project(path, StoredProject(demo.model_copy(update={"name": name, "model": edits.without_model("x").model})))
    assert load_project(path).project.name == "third" and load_project(tmp_path / "club.anatome~").project.name == "second"
    assert sorted(os.listdir(tmp_path)) == ["club.anatome", "club.anatome~"]
