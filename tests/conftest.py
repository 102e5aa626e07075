"""Fixtures that many tests share."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import Phase, settings

from anatome.demo.shipped import PROJECT, DemoJob, shipped
from anatome.formats.identity import identify
from anatome.formats.opening import cache_path
from anatome.formats.project_files import OpenedProject, open_project
from anatome.formats.store import save_building
from anatome.model.building import Building
from anatome.model.options import OpenOptions

# Shrinking a failure is for the one who looks into it, not for every run.
settings.register_profile("bounded", deadline=None, phases=[Phase.explicit, Phase.reuse, Phase.generate])
settings.load_profile("bounded")


SCREEN = "2600x1700x24"


def pytest_configure(config: pytest.Config) -> None:
    """A screen of its own for each process that runs tests, and one thread each for drawing and computing: processes that share
    them hinder one another."""
    if getattr(config.option, "dist", "no") != "no" and not hasattr(config, "workerinput"):
        return  # it only hands tests out
    for name in ("LP_NUM_THREADS", "OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "NUMBA_NUM_THREADS"):
        os.environ.setdefault(name, "1")
    os.environ["QT_QPA_PLATFORM"] = "xcb"
    os.environ.pop("WAYLAND_DISPLAY", None)
    read, write = os.pipe()
    command = ["Xvfb", "-displayfd", str(write), "-screen", "0", SCREEN, "-dpi", "96", "-nolisten", "tcp"]
    screen = subprocess.Popen(command, pass_fds=[write], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    os.close(write)
    with os.fdopen(read) as said:
        os.environ["DISPLAY"] = f":{said.readline().strip()}"
    config.add_cleanup(screen.kill)


@pytest.fixture(autouse=True, scope="session")
def own_folders(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """Keep cache and settings of the person running the tests out of it."""
    for name in ("ANATOME_CACHE", "ANATOME_SETTINGS", "ANATOME_STATE"):
        os.environ[name] = str(tmp_path_factory.mktemp(name.lower()))
    yield


@pytest.fixture(scope="session")
def boathouse() -> Building:
    """The demo building as shipped."""
    return shipped()


@pytest.fixture(scope="session")
def demo(tmp_path_factory: pytest.TempPathFactory) -> OpenedProject:
    """The demo project, opened once for all tests: it is a value, and what is worked out of its building is kept with that."""
    job = DemoJob(tmp_path_factory.mktemp("demo"))
    while job.poll(wait=0.05) is None:
        pass  # its model, as it is shipped, is in the cache of the tests now
    return open_project(PROJECT)


@pytest.fixture(scope="session")
def boathouse_ifc(tmp_path_factory: pytest.TempPathFactory, boathouse: Building) -> Path:
    """The demo building written anew as IFC; what is read of it, which is what is shipped, is in the cache of the tests."""
    from tools.boathouse.building import build

    path = tmp_path_factory.mktemp("ifc") / "boathouse.ifc"
    build().write(str(path))
    save_building(boathouse, cache_path(identify(path)[0], path.suffix, OpenOptions()))
    return path
