"""A model whose file is written anew while it is open: noticed, compared, seen before and after, taken over, undone, kept."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from anatome.app.base.images import pixels_of
from anatome.cuts.plane import Plane
from anatome.formats.opening import clear_cache
from anatome.model.options import OpenOptions
from anatome.notes.anchors import anchored
from anatome.notes.note import Label
from anatome.scenes import edits, note_edits
from anatome.scenes.change_look import tint
from anatome.scenes.sheet_frames import box_of
from anatome.sheets.sheet import PictureBlock, TextBlock

PARTS = {
    "Slip": ((8, 5, 0.3), (0, 0, 0.15)),
    "North wall": ((8, 0.2, 3), (0, 2.4, 1.8)),
    "Bench": ((1.5, 0.5, 0.5), (-2, 1.5, 0.55)),
    "Post": ((0.3, 0.3, 3), (2.5, 1.5, 1.8)),
}
TARGETS = {"Post": ((0.3, 0.3, 3), (3.2, 1.5, 1.8)), "Crane": ((0.6, 0.6, 2.4), (0, 1.2, 1.5))}
"""What the next state has besides: the post stands elsewhere, a crane is new; the bench is gone."""


def written(path: Path, parts: dict[str, tuple[tuple[float, ...], tuple[float, ...]]]) -> Path:
    """As a modeller saves: under another name first, then put in the place of the old one."""
    scene = trimesh.Scene()
    for name, (size, middle) in parts.items():
        body = trimesh.creation.box(size, trimesh.transformations.translation_matrix(middle))
        scene.add_geometry(body, node_name=name, geom_name=name)
    scene.export(str(path.with_name(f"new {path.name}")))
    shutil.move(path.with_name(f"new {path.name}"), path)
    return path


def next_state(path: Path) -> Path:
    return written(path, {name: part for name, part in (PARTS | TARGETS).items() if name != "Bench"})


def opened(hand, path: Path, options: OpenOptions | None = None) -> None:
    session = hand.window.session
    before = session.opened_as
    hand.window.documents.open(path, options)
    hand.qtbot.waitUntil(lambda: session.is_open and session.opened_as is not before, timeout=60_000)
    hand.settle()


@pytest.fixture
def slip(held, tmp_path: Path):
    """A project of a model outside it, saved with two scenes: a section through the post, and the bench hidden."""
    hand, session = held, held.window.session
    model = written(tmp_path / "slip.glb", PARTS)
    opened(hand, model, OpenOptions(up="z"))
    session.apply(edits.set_embedded(session.project, False), "Outside")
    camera = session.stage.camera.placed(np.array([0.0, -14.0, 3.0]), np.array([0.0, 0.0, 1.5]))
    session.apply(edits.set_camera(session.project, camera), "View")
    session.apply(edits.add_plane(session.project, Plane((0, 1.45, 0), (0, -1, 0)), "cut"), "Cut")
    hand.do("save_scene")
    bench = next(e.id for e in session.model.elements if e.name == "Bench")
    session.apply(edits.hide(edits.delete_cut(session.project, "cut"), {bench}), "Hidden")
    hand.do("save_scene")
    hand.window.documents.save(tmp_path / "slip.anatome")
    hand.saved()
    return hand, model


def noticed(hand) -> None:
    hand.qtbot.waitUntil(lambda: hand.window.newer_mark.isVisible(), timeout=20_000)


def compared(hand) -> None:
    hand.window.newer_mark.click()
    hand.qtbot.waitUntil(lambda: hand.window.newer.compared is not None, timeout=60_000)


def names(window) -> set[str]:
    return {e.name for e in window.session.model.elements}


def listed(page) -> dict[str, list[str]]:
    """What the page says, by kinds that are shown."""
    lists = {kind: found.rows for kind, found in {**page.kinds, **page.other}.items() if found.isVisible()}
    return {kind: [rows.itemAt(i).widget().text() for i in range(rows.count())] for kind, rows in lists.items()}


def test_a_newer_file_is_noticed_and_listed_and_nothing_is_kept_before_it_is_taken_over(slip) -> None:
    hand, model = slip
    window, session = hand.window, hand.window.session
    project, building = session.project, session.building
    assert not window.newer_mark.isVisible()
    next_state(model)
    noticed(hand)
    compared(hand)
    page = window.inspector.changes
    assert listed(page) == {"new": ["Crane"], "gone": ["Bench"], "moved": ["Post"]}
    assert "1 new, 1 gone, 1 moved" in page.facts.text()
    assert session.project is project and session.building is building and not session.unsaved
    page.later.click()
    assert not page.isVisible() and window.newer_mark.isVisible() and window.newer.compared is not None


def test_taking_over_keeps_scenes_marks_those_touched_and_can_be_undone(slip) -> None:
    hand, model = slip
    window, session = hand.window, hand.window.session
    before, scenes = session.building, session.project.scenes
    next_state(model)
    noticed(hand)
    compared(hand)
    hand.do("take_model")
    hand.qtbot.waitUntil(lambda: "Crane" in names(window), timeout=30_000)
    assert names(window) == {"Slip", "North wall", "Post", "Crane"} and not window.newer_mark.isVisible()
    section, hidden = session.project.scenes
    assert [s.id for s in (section, hidden)] == [s.id for s in scenes]
    assert section.touched == ("3 parts changed where it is cut",) and hidden.touched == ("1 hidden part gone",)
    # The picture is of the new state: the crane stands where nothing stood.
    assert not np.array_equal(hand.picture()[:, :, 0], 0)
    page = window.inspector.overview.touched
    hand.do("model_changes")  # put the page away
    assert page.isVisible() and "1 hidden part gone" in page.words.text()
    page.over.click()
    assert session.project.scenes[1].touched == () and session.project.scenes[0].touched
    hand.do("undo")
    hand.do("undo")
    hand.qtbot.waitUntil(lambda: session.is_built and "Bench" in names(window), timeout=30_000)
    assert session.building.elements == before.elements and session.project.scenes == scenes
    assert window.newer_mark.isVisible()  # the file is newer again
    hand.do("redo")
    hand.qtbot.waitUntil(lambda: session.is_built and "Crane" in names(window), timeout=30_000)
    window.documents.save(session.project_path)
    hand.saved()
    opened(hand, session.project_path)
    assert "Crane" in names(window) and session.project.scenes[0].touched


def test_before_and_after_are_wiped_tinted_saved_and_put_on_a_sheet(slip, tmp_path: Path, monkeypatch) -> None:
    hand, model = slip
    window, session = hand.window, hand.window.session
    next_state(model)
    noticed(hand)
    compared(hand)
    session.recall_scene(session.project.scenes[1].id, window.stage.aspect)
    session.apply(edits.show_all(session.project), "All shown")
    window.inspector.changes.both.click()
    view = window.before_after

    def settled() -> None:
        hand.qtbot.waitUntil(lambda: view.settled and None not in view.both.images, timeout=60_000)

    def shares(kind: str) -> tuple[float, float]:
        """How many pixels of a tint, however shaded, lie left and right of the middle."""
        shown = pixels_of(view.both.grab().toImage())[..., :3].astype(float)
        wanted = np.array(tint(kind))
        direction = shown / np.maximum(np.linalg.norm(shown, axis=2, keepdims=True), 1.0)
        alike = (direction @ (wanted / np.linalg.norm(wanted)) > 0.995) & (shown.max(axis=2) - shown.min(axis=2) > 40)
        middle = alike.shape[1] // 2
        return float(alike[:, :middle].sum()), float(alike[:, middle:].sum())

    settled()
    view.both.wipe_to(1.0)
    assert sum(shares("gone")) > 100 and sum(shares("new")) == 0  # all of it is before
    at = QPoint(view.both.width() - 1, view.both.height() // 2)
    QTest.mousePress(view.both, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseMove(view.both, QPoint(2, at.y()))
    QTest.mouseRelease(view.both, Qt.MouseButton.LeftButton, pos=QPoint(2, at.y()))
    assert view.both.share < 0.02 and sum(shares("new")) > 100 and sum(shares("gone")) == 0
    view.beside.click()
    hand.qtbot.wait(100)
    settled()
    assert shares("gone")[0] > 50 and shares("gone")[1] == 0 == shares("new")[0] and shares("new")[1] > 50
    # What is written on the stage is written on both, where its part is in each.
    plain = [pixels_of(image)[..., :3].astype(int) for image in view.both.images]
    part = next(e for e in session.building.elements if e.id in {o.id for o in window.newer.compared.change.after.elements})
    middle = session.building.element_bounds[session.building.index_of[part.id]].mean(axis=0)
    label = Label(id="n", anchors=(anchored(session.building, middle, part.id),), text="THE SLIP", leader=False)
    session.apply(note_edits.put_notes(session.project, [label]), "A label")

    def changed() -> list[np.ndarray]:
        """(n, 2) the pixels that are others than before, of either picture; none while they are made anew."""
        if not view.settled or None in view.both.images:
            return []
        now = [pixels_of(image)[..., :3].astype(int) for image in view.both.images]
        return [np.argwhere(np.abs(a - b).max(axis=2) > 60) for a, b in zip(now, plain, strict=True)]

    hand.qtbot.waitUntil(lambda: len(found := changed()) == 2 and min(map(len, found)) > 20, timeout=60_000)
    for places, before in zip(changed(), plain, strict=True):
        assert (np.ptp(places, axis=0) < np.array(before.shape[:2]) / 3).all()
    monkeypatch.setattr("anatome.app.before_after.view.SEND_WIDE", 700)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "both.png"), ""))
    view.save.click()
    hand.qtbot.waitUntil((tmp_path / "both.png").exists, timeout=60_000)
    assert Image.open(tmp_path / "both.png").width > 2 * 680
    view.sheet.click()
    hand.qtbot.waitUntil(lambda: window.desk.sheet is not None, timeout=60_000)
    sheet = window.desk.sheet
    pictures = [b for b in sheet.blocks if isinstance(b, PictureBlock)]
    words = [b.text for b in sheet.blocks if isinstance(b, TextBlock)]
    assert len(pictures) == 2 and words == ["Before", "After: 1 new, 1 gone, 1 moved"] and not view.isVisible()
    left, right = (box_of(p, session.project, sheet) for p in pictures)
    assert left[2] <= right[0] and left[1] == right[1]


def test_a_project_whose_model_was_written_anew_meanwhile_opens_as_it_was_saved(slip) -> None:
    """As long as that state is still known; the newer one is offered. An embedded model looks where it was taken from."""
    hand, model = slip
    window, session = hand.window, hand.window.session
    path = session.project_path
    session.close()
    next_state(model)
    opened(hand, path)
    assert "Bench" in names(window)
    noticed(hand)
    compared(hand)
    assert listed(window.inspector.changes)["gone"] == ["Bench"]
    session.apply(edits.set_embedded(session.project, True), "Inside")
    hand.do("take_model")
    hand.qtbot.waitUntil(lambda: "Crane" in names(window), timeout=30_000)
    window.documents.save(path)
    hand.saved()
    written(model, PARTS)
    opened(hand, path)
    assert "Crane" in names(window)
    noticed(hand)  # the bench is back in the file it was taken from


def test_where_the_state_it_was_saved_with_is_not_known_that_is_said(slip) -> None:
    """As on another machine: the model is as its file is."""
    hand, model = slip
    path = hand.window.session.project_path
    hand.window.session.close()
    next_state(model)
    clear_cache()
    opened(hand, path)
    assert "Crane" in names(hand.window) and "what it was is not known here" in hand.window.status.text()


def test_a_file_that_cannot_be_read_is_told_and_the_project_stays(slip) -> None:
    hand, model = slip
    window, session = hand.window, hand.window.session
    project = session.project
    model.write_bytes(b"glTF but not really")
    noticed(hand)
    window.newer_mark.click()
    page = window.inspector.changes
    hand.qtbot.waitUntil(lambda: bool(window.newer.problem), timeout=30_000)
    assert page.facts.text() == window.newer.problem and "Export" in page.facts.text() and session.project is project
    next_state(model)
    hand.qtbot.waitUntil(lambda: page.again.isVisible(), timeout=20_000)
    page.again.click()
    hand.qtbot.waitUntil(lambda: window.newer.compared is not None, timeout=30_000)
    assert listed(page)["new"] == ["Crane"]
