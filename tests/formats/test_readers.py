"""Processes that read models: made by one that has loaded what they need, which may end at any time."""

from __future__ import annotations

import json
import os
import signal
import time
from pathlib import Path

import pytest
import trimesh

from anatome.formats import readers
from anatome.formats.opening import OpenJob, open_model
from anatome.problems import Problem


@pytest.fixture(autouse=True)
def another_maker(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """One for these tests alone, and nothing that was read before."""
    monkeypatch.setattr(readers, "_maker", None)
    monkeypatch.setenv("ANATOME_CACHE", str(tmp_path / "cache"))


def shed(folder: Path, wide: float) -> Path:
    path = folder / f"{wide}.stl"
    trimesh.creation.box((wide, 3, 2)).export(str(path))
    return path


def test_one_process_makes_all_readers_and_where_it_is_gone_another_does(tmp_path: Path) -> None:
    made = []
    for wide in (4.0, 5.0, 6.0):
        building = open_model(shed(tmp_path, wide))
        assert building.bounds[1, 0] - building.bounds[0, 0] == pytest.approx(wide)
        made.append(readers._maker._process.pid)
        if wide == 5.0:
            os.kill(made[-1], signal.SIGKILL)
    assert made[0] == made[1] != made[2]


def test_cancelled_while_libraries_are_loaded_it_holds_nobody(tmp_path: Path) -> None:
    """The first reader is there after a second or more; whoever does not want it any more does not wait for it."""
    job = OpenJob(shed(tmp_path, 4.0))
    time.sleep(0.2)
    began = time.perf_counter()
    job.cancel()
    assert time.perf_counter() - began < 0.5
    with pytest.raises(Problem, match="cancelled"):
        job.poll(wait=60)
    assert not list(tmp_path.glob("cache/*.building")) and (job.reader is None or not job.reader.is_there)


def test_a_reader_goes_on_when_nothing_else_is_wanted_for_long(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The process that makes readers, with which they end, waits for the last of them."""
    monkeypatch.setenv("ANATOME_READERS_IDLE", "0.05")
    (tmp_path / "sitecustomize.py").write_text(SLOW)
    monkeypatch.setenv("PYTHONPATH", str(tmp_path))
    assert len(open_model(shed(tmp_path, 4.0)).elements) == 1
    first = readers._maker._process
    assert first.wait(20) == 0  # after that one nothing was wanted
    assert len(open_model(shed(tmp_path, 5.0)).elements) == 1 and readers._maker._process is not first


SLOW = """
import sys, time
if any("formats.readers" in word for word in sys.orig_argv):
    import anatome.formats.mesh as mesh
    real = mesh.read_mesh
    def read(*what):
        time.sleep(1)
        return real(*what)
    mesh.read_mesh = read
"""


def test_a_reader_has_the_settings_of_now_and_says_so_until_it_ends(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for number, wanted in enumerate(("first", "second")):
        monkeypatch.setenv("ANATOME_CACHE", str(tmp_path / wanted))
        open_model(shed(tmp_path, 4.0 + number))
        assert len(list((tmp_path / wanted).glob("*.building"))) == 1
    model = [str(tmp_path / name) for name in ("none.stl", "none.building", "scratch")]
    reader = readers.start_reader([*model, '{"up":null,"unit":null,"near":false}'])
    with reader.said:
        said = [json.loads(line) for line in reader.said]
    assert list(said[-1]) == ["problem"] and "none.stl" in said[-1]["problem"] and all("share" in line for line in said[:-1])
    reader.kill()
    assert not reader.is_there
