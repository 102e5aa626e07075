"""A large model in the window: its first parts are shown while the rest is read, turned and cut, and nothing is lost."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import shapely

from anatome.cuts.plane import Plane
from anatome.formats.ifc import read_ifc
from anatome.scenes import edits
from benchmarks.tower import BAY, write_tower

PARTS = 4000


@pytest.fixture(scope="module")
def tower(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("tower") / "tower.ifc"
    write_tower(path, PARTS, storeys=8)
    return path


@pytest.fixture
def soon(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    """Nothing is known of any model, and the first part comes after a moment."""
    monkeypatch.setenv("ANATOME_CACHE", str(tmp_path / "cache"))
    monkeypatch.setenv("ANATOME_FIRST_PART", "0.1")


def opening(hand, tower: Path) -> int:
    """Open it; returns how many parts are there at first."""
    window, session = hand.window, hand.window.session
    before = session.opened_as if session.is_open else None
    window.documents.open(tower)
    hand.qtbot.waitUntil(lambda: session.is_open and session.opened_as is not before, timeout=60_000)
    assert window.documents.reading and not window.documents.busy and window.pages.currentWidget() is not window.opening
    first = len(session.building.elements)
    assert 0 < first < 0.8 * PARTS and "parts so far" in window.status.text()
    return first


def test_parts_are_cut_while_the_rest_is_read(held, soon, tower: Path) -> None:
    hand, window, session = held, held.window, held.window.session
    opening(hand, tower)
    hand.qtbot.waitUntil(lambda: "Reading the rest" in window.overlay.said or not window.documents.reading)
    # Through the middle of the walls of its first row, which are there from the first part on; between rows nothing stands.
    plane = Plane((0.0, BAY / 2, 0.0), (0.0, -1.0, 0.0))
    session.apply(edits.add_plane(session.project, plane, "a"), "A cut")
    camera = session.stage.camera
    assert window.documents.reading
    hand.qtbot.waitUntil(lambda: not window.documents.reading, timeout=120_000)
    hand.qtbot.waitUntil(lambda: session.is_built and len(session.building.elements) == PARTS, timeout=60_000)
    hand.settle()
    # It is the whole model, as it is read at once; the cut goes through all of it, and the view stayed.
    whole = read_ifc(tower, lambda *_: None)
    assert session.model.elements == whole.elements and np.array_equal(session.model.vertices, whole.vertices)
    assert session.stage.camera == camera and session.history.undo_label == "A cut"
    hand.qtbot.waitUntil(lambda: session.is_cut, timeout=60_000)
    (face,) = session.left().faces_of("a")
    top = face.plane.raised(shapely.get_coordinates(face.poche.polygons))[:, 2].max()
    assert top == pytest.approx(whole.bounds[1, 2], abs=0.5)
    assert window.overlay.said == "" and f"{PARTS:,} parts" in window.status.text()
    # The key plan and key elevation show all of it too.
    assert np.allclose(window.key_elevation._fitted[1], session.subject_bounds())
    hand.do("undo")
    assert not session.stage.cuts and len(session.building.elements) == PARTS


@pytest.mark.long
def test_untouched_it_is_framed_anew(held, soon, tower: Path) -> None:
    hand, window, session = held, held.window, held.window.session
    opening(hand, tower)
    camera = session.stage.camera
    hand.qtbot.waitUntil(lambda: not window.documents.reading, timeout=120_000)
    assert len(session.building.elements) == PARTS and session.stage.camera != camera and not session.history.undo_label


def test_stopped_it_stays_as_it_is_and_closed_nothing_goes_on(held, soon, tower: Path) -> None:
    hand, window, session = held, held.window, held.window.session
    first = opening(hand, tower)
    hand.do("stop_reading")
    assert not window.documents.reading and "the rest of the model is missing" in window.status.text()
    hand.qtbot.wait(300)
    assert first <= len(session.building.elements) < PARTS and session.is_open and window.overlay.said == ""
    hand.do("stop_reading")
    assert window.status.text() == "Nothing is being read"
    session.close()
    opening(hand, tower)
    session.close()
    assert not window.documents.reading and not window.documents.busy
    hand.qtbot.wait(500)
    assert not session.is_open and window.pages.currentWidget() is window.welcome
