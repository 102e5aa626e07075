"""Pictures drawn by two workers of an engine, one of which is killed: nothing missing, nothing double, the same bytes as here."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from anatome.cli import main
from anatome.demo.shipped import PROJECT
from anatome.filming.frames import FrameFolder, FrameSettings, draw_frames
from anatome.formats.project_files import OpenedProject
from anatome.page.contents import ClientPage, PageItem
from anatome.problems import Problem
from anatome.render.pictures import PictureMaker
from anatome.scenes.film import Film, Hold, Rise
from anatome.work.engine import draw_on
from anatome.work.here import draw_all
from anatome.work.jobs import FilmJob, PageJob

SETTINGS = FrameSettings((160, 90), 8.0, "paper", 2)
DASK = [sys.executable, "-m", "dask"]


def running(*arguments: str, logs: Path) -> subprocess.Popen:
    with logs.open("wb") as out:
        return subprocess.Popen([*DASK, *arguments], stdout=out, stderr=subprocess.STDOUT, start_new_session=True)


@pytest.fixture(scope="module")
def engine(tmp_path_factory) -> Iterator[tuple[str, list[subprocess.Popen]]]:
    pytest.importorskip("distributed", reason="the optional package: pip install anatome[workers]")
    folder = tmp_path_factory.mktemp("engine")
    processes = [running("scheduler", "--host", "127.0.0.1", "--port", "0", "--no-dashboard", logs=folder / "scheduler")]
    try:
        end = time.monotonic() + 60
        while not (found := re.search(r"Scheduler at:\s*(tcp://\S+)", (folder / "scheduler").read_text())):
            assert time.monotonic() < end and processes[0].poll() is None
            time.sleep(0.1)
        plain = ("--nthreads", "1", "--no-nanny", "--no-dashboard", "--local-directory", str(folder))
        for number in range(2):
            processes.append(running("worker", found[1], *plain, logs=folder / f"worker{number}"))
        yield found[1], processes
    finally:
        for process in processes:
            if process.poll() is None:
                os.killpg(process.pid, signal.SIGKILL)
        for process in processes:
            process.wait(20)


@pytest.fixture
def opened(demo: OpenedProject) -> OpenedProject:
    return demo


def test_a_worker_dies_and_the_film_is_the_same(engine, opened, tmp_path: Path) -> None:
    address, processes = engine
    project, building = opened.stored.project, opened.building
    film = Film(id="f", name="Rise", shots=(Rise(scene="cutaway", seconds=1), Hold(scene="cutaway", seconds=0.25)))
    job = FilmJob(project, building, film=film, settings=SETTINGS)
    count = job.timeline.frames(SETTINGS.rate)
    from distributed import Client

    with Client(address, set_as_default=False) as client:
        client.wait_for_workers(2, timeout=60)
    there = FrameFolder(tmp_path / "there", job.told, count)
    heard: list[tuple[int, int]] = []

    def told(done: int, of: int) -> bool:
        heard.append((done, of))
        if done == 4:
            os.killpg(processes[1].pid, signal.SIGKILL)
        return True

    draw_on(address, job, there, range(count), told)
    assert heard == [(n, count) for n in range(1, count + 1)] and processes[1].wait(20) == -signal.SIGKILL
    here = FrameFolder(tmp_path / "here", job.told, count)
    maker = PictureMaker.standalone(building)
    draw_frames(here, lambda number: job.draw(maker, number), range(count))
    names = sorted(path.name for path in (tmp_path / "here").iterdir())
    assert sorted(path.name for path in (tmp_path / "there").iterdir()) == names and len(names) == count + 1
    assert all((tmp_path / "there" / name).read_bytes() == (tmp_path / "here" / name).read_bytes() for name in names)

    # What is there is not drawn again; a page's pictures are tasks like any others; it stops when it is told to.
    draw_on(address, job, there, range(count), lambda done, of: pytest.fail("nothing was missing"))
    page = PageJob(project, building, page=ClientPage(items=(PageItem(scene="plan"),), width=320))
    pictures = FrameFolder(tmp_path / "page", page.told, len(page.pictures.wanted))
    with pytest.raises(Problem, match="was stopped"):
        draw_all(page, pictures, range(len(page.pictures.wanted)), address, lambda done, of: False)
    draw_all(page, pictures, range(len(page.pictures.wanted)), address)
    assert not pictures.missing() and len(page.pictures.wanted) > 1


def test_what_is_wrong_with_an_engine_is_said(engine, opened, tmp_path: Path, monkeypatch, capsys) -> None:
    address, _ = engine
    monkeypatch.setattr("anatome.work.engine.PATIENCE", 1)
    common = [
        "film",
        str(PROJECT),
        "--scene",
        "Ground floor plan",
        "--move",
        "rise",
        "--seconds",
        "1",
        "--fps",
        "2",
        "--size",
        "64x40",
    ]
    assert main([*common, "--on", "tcp://127.0.0.1:9", "--out", str(tmp_path / "no")]) == 2
    assert "No engine answers at “tcp://127.0.0.1:9”" in capsys.readouterr().err
    assert main([*common, "--on", address, "--samples", "1", "--out", str(tmp_path / "rise.gif")]) == 0
    assert "2 frames, 1 s" in capsys.readouterr().out and (tmp_path / "rise.gif").exists()
    one = ["export", str(PROJECT), "--scene", "Ground floor plan", "--size", "90x60", "--out"]
    assert main([*one, str(tmp_path / "there.webp"), "--on", address]) == main([*one, str(tmp_path / "here.webp")]) == 0
    assert (tmp_path / "there.webp").read_bytes() == (tmp_path / "here.webp").read_bytes()
    assert main([*one, str(tmp_path / "x.png"), "--layers", str(tmp_path / "x.tif"), "--on", address]) == 2
