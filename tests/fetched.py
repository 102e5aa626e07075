"""Open data fetched once from the package registry into a cache of this machine; tests skip when it cannot be had."""

from __future__ import annotations

import os
import subprocess
import sys
import tarfile
from pathlib import Path

import platformdirs
import pytest

OPEN_HOUSE = "demo_3dtiles/Ifc2x3_Duplex_Architecture.ifc"


def cache_folder() -> Path:
    """Where fetched data is kept."""
    folder = Path(os.environ.get("ANATOME_TEST_DATA", platformdirs.user_cache_dir("anatome-test-data")))
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def fetched_package(name: str, version: str, pattern: str, *options: str) -> Path:
    """A package's archive by the pattern of its file name; skips the test when it cannot be fetched."""
    folder = cache_folder()
    done = subprocess.run(
        [sys.executable, "-m", "pip", "download", "-q", "--no-deps", *options, "-d", str(folder), f"{name}=={version}"],
        capture_output=True,
        text=True,
        timeout=300,
    )
    archives = sorted(folder.glob(pattern))
    if not archives:
        pytest.skip(f"{name} could not be fetched: {done.stderr.strip()[-200:]}")
    return archives[0]


def open_house() -> Path:
    """The open duplex house: a published IFC2x3 sample from the source archive of exterior-shell 2.2.0 on PyPI."""
    target = cache_folder() / "duplex.ifc"
    if target.exists():
        return target
    found = fetched_package("exterior-shell", "2.2.0", "exterior*shell-2.2.0.tar.gz", "--no-binary", "exterior-shell")
    with tarfile.open(found) as archive:
        member = next(m for m in archive.getmembers() if m.name.endswith(OPEN_HOUSE))
        stream = archive.extractfile(member)
        assert stream is not None
        target.write_bytes(stream.read())
    return target
