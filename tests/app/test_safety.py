"""Nothing is lost and nothing is kept quiet: undo, saving beside others, errors nobody expected, damaged things lying about."""

from __future__ import annotations

import gc
import json
import subprocess
import sys
import weakref
import zipfile
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QMessageBox

from anatome.app.base.ask import Ask
from anatome.app.base.picture_row import PICTURE
from anatome.app.base.trouble import TROUBLE, TroubleDialog
from anatome.app.base.work import RUNNING
from anatome.app.document.recent import Recent, settings_folder
from anatome.app.window.finder import Finder
from anatome.cli import main
from anatome.cuts.plane import Plane
from anatome.demo.shipped import PROJECT
from anatome.model.options import OpenOptions
from anatome.scenes import edits
from anatome.scenes.storage import load_project


def visible(kind: type) -> object:
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible())


def two_planes(hand) -> None:
    session = hand.window.session
    project = edits.add_plane(session.project, Plane((10, 6, 3), (1, 0, 0)), "one")
    session.apply(edits.add_plane(project, Plane((20, 6, 3), (1, 0, 0)), "two"), "Placed two")


def test_nudges_of_different_cuts_are_steps_of_their_own(hand) -> None:
    session = hand.window.session
    two_planes(hand)
    for cut in ("one", "two"):
        session.pick(cut=cut)
        for step in (0.1, 0.2, 0.3):
            hand.window.stage_input.number.nudged.emit(session.cut.plane.position + step)
    places = [session.stage.cut(c).plane.position for c in ("one", "two")]
    hand.do("undo")
    assert session.stage.cut("one").plane.position == places[0]
    assert session.stage.cut("two").plane.position == pytest.approx(20.0)
    hand.do("undo")
    assert session.stage.cut("one").plane.position == pytest.approx(10.0)


def test_escape_in_a_drag_keeps_redo_and_a_box_from_a_plane_is_one_step(hand) -> None:
    session = hand.window.session
    two_planes(hand)
    session.pick(cut="one")
    hand.do("turn_round")
    hand.do("undo")
    assert session.history.redo_label
    tip = hand.window.overlay.handles.tip
    hand.drag(hand.stage, tip, tip + np.array([40, 10]), release=False)
    hand.press(Qt.Key.Key_Escape)
    assert session.history.redo_label and hand.window.actions_["redo"].isEnabled()

    before = session.stage.cuts
    session.pick(cut="one")
    hand.do("box_from_plane")
    visible(Ask).go.click()
    assert len(session.stage.cuts) == 3 and not session.stage.cut("one").on
    hand.do("undo")
    assert session.stage.cuts == before


def test_undoing_replace_brings_back_the_picture_too(hand) -> None:
    session, window = hand.window.session, hand.window
    scene = session.scene
    before = session.pictures.get(scene)
    assert before
    session.look_from(session.stage.camera.orbited(30, 0))
    hand.do("replace_scene")
    hand.pictured()
    assert session.pictures.get(session.scene) != before
    hand.do("undo")
    assert session.pictures.get(session.project.scene(scene.id)) == before
    data = window.contact_sheet.scenes.index(0).data(PICTURE)
    assert data is not None and not data.isNull()


def test_a_scene_is_shown_whole_when_the_stage_gets_another_size(hand, tmp_path: Path) -> None:
    window, session = hand.window, hand.window.session
    path = tmp_path / "club.anatome"
    window.documents.save(path)
    hand.saved()
    window.contact_sheet.recall("long")
    window.documents.save(path)
    hand.saved()
    assert not session.unsaved
    wide = session.stage.camera.height
    window.resize(980, 900)
    hand.settle()
    assert session.stage.camera.height > wide * 1.05  # narrower: from further away, so that nothing is cropped
    assert not session.unsaved and not session.project.differs_from_scene


@pytest.mark.parametrize("answer, replaced", [("Replace it", True), ("Go on working", False)])
def test_what_somebody_else_saved_is_not_overwritten_silently(hand, tmp_path: Path, monkeypatch, answer, replaced) -> None:
    window, session = hand.window, hand.window.session
    path = tmp_path / "club.anatome"
    window.documents.save(path)
    hand.saved()
    path.write_bytes(path.read_bytes() + b"\0" * 9)  # somebody else's
    theirs = path.read_bytes()
    session.apply(edits.hide(session.project, {session.building.elements[0].id}), "Hidden")
    asked: list[str] = []

    def choose(box: QMessageBox) -> int:
        asked.append(box.text())
        button = next(b for b in box.buttons() if b.text() == answer)
        monkeypatch.setattr(QMessageBox, "clickedButton", lambda self: button)
        return 0

    monkeypatch.setattr(QMessageBox, "exec", choose)
    hand.do("save")
    hand.saved()
    assert "changed or removed" in asked[0] and (path.read_bytes() != theirs) is replaced


def test_a_cleaned_temporary_folder_does_not_keep_one_from_saving(hand, tmp_path: Path) -> None:
    import shutil

    window = hand.window
    shutil.rmtree(window.documents._folder)
    path = tmp_path / "club.anatome"
    window.documents.save(path)
    hand.saved()
    assert load_project(path).model is not None
    window.commands.files.open_path(path)
    hand.qtbot.waitUntil(lambda: window.session.project_path == path, timeout=60_000)


def test_unexpected_errors_are_told_and_the_work_goes_on(hand, monkeypatch: pytest.MonkeyPatch) -> None:
    window, session = hand.window, hand.window.session
    project = session.project
    monkeypatch.setattr(TROUBLE, "_known", set())
    with hand.qtbot.captureExceptions():
        try:
            raise ZeroDivisionError("by the river")
        except ZeroDivisionError as error:
            TROUBLE.take(type(error), error, error.__traceback__)
        hand.qtbot.waitUntil(lambda: any(isinstance(w, TroubleDialog) for w in QApplication.topLevelWidgets()), timeout=5000)
        dialog = visible(TroubleDialog)
        dialog.copy.click()
        assert "by the river" in QGuiApplication.clipboard().text() and "Traceback" in dialog.details.toPlainText()
        dialog.reject()
        # Painting that breaks: the caption cannot be made, the stage and the window go on.
        monkeypatch.setattr("anatome.app.stage.overlay.caption", lambda session: 1 / 0)
        window.overlay.repaint()
        hand.qtbot.waitUntil(
            lambda: any(isinstance(w, TroubleDialog) and w.isVisible() for w in QApplication.topLevelWidgets()), timeout=5000
        )
        visible(TroubleDialog).reject()
    monkeypatch.undo()
    assert session.project == project and np.ptp(hand.picture()) > 150


def test_damaged_projects_among_the_recent_ones_keep_nobody_out(empty, tmp_path: Path) -> None:
    """A flipped byte in a deflated member, an unknown compression, an encrypted one, a name no file can have."""
    whole = PROJECT.read_bytes()
    paths = []
    for number, (place, value) in enumerate(((60, 0xFF), (8, 99), (6, 1))):
        broken = bytearray(whole)
        broken[place] = value
        central = broken.rfind(b"PK\x01\x02", 0, broken.find(b"PK\x01\x02") + 4)
        if place in (8, 6):
            broken[central + place + 2] = value
        path = tmp_path / f"broken {number}.anatome"
        path.write_bytes(bytes(broken))
        paths.append(str(path))
    good = tmp_path / "club.anatome"
    good.write_bytes(whole)
    settings_folder().mkdir(parents=True, exist_ok=True)
    (settings_folder() / "recent.json").write_text(json.dumps([*paths, "n" * 5000, "\0", 7, str(good)]))
    empty.window.welcome.refresh()
    assert len(Recent().entries()) == 4 and Recent().picture(good)
    assert not zipfile.is_zipfile(paths[0]) or Recent().picture(Path(paths[0])) is None


def test_a_command_is_found_by_a_few_letters(hand) -> None:
    window = hand.window
    QTest.keyClick(hand.stage, Qt.Key.Key_Space, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    finder = visible(Finder)
    hand.qtbot.keyClicks(finder.field, "soft sh")
    assert finder.found.item(0).text().startswith("Soft shade")
    before = window.session.stage.look.shade
    QTest.keyClick(finder.field, Qt.Key.Key_Return)
    assert window.session.stage.look.shade is not before and window.actions_["look_shade"].isChecked() is not before
    hand.do("find")
    finder = visible(Finder)
    hand.qtbot.keyClicks(finder.field, "delete the cut")
    assert "Not possible now" in finder.found.item(0).toolTip()
    QTest.keyClick(finder.field, Qt.Key.Key_Return)
    assert finder.isVisible()
    finder.reject()


def test_the_reach_task_shows_as_active_while_it_is(hand) -> None:
    two_planes(hand)
    hand.window.session.pick(cut="one")
    hand.do("reach_pick")
    assert hand.window.actions_["reach_pick"].isChecked()
    hand.press(Qt.Key.Key_Escape)
    assert not hand.window.actions_["reach_pick"].isChecked()


def test_the_camera_of_a_parallel_view_leaves_the_key_plan_legible(hand) -> None:
    hand.do("view Axonometric, front left")
    hand.settle()
    plan = hand.window.key_plan
    drawn = plan.grab().toImage()
    plain = plan._image
    assert plain is not None
    dark = sum(drawn.pixelColor(x, y).lightness() < 60 for x in range(0, plan.width(), 3) for y in range(0, plan.height(), 3))
    alone = sum(
        plain.pixelColor(int(x * plain.width() / plan.width()), int(y * plain.height() / plan.height())).lightness() < 60
        for x in range(0, plan.width(), 3)
        for y in range(0, plan.height(), 3)
    )
    assert dark < alone + 0.01 * plan.width() * plan.height() / 9


def test_closing_a_project_lets_go_of_its_building(fresh) -> None:
    hand, session = fresh, fresh.window.session
    hand.window.commands.files.open_demo()
    hand.qtbot.waitUntil(lambda: session.is_open, timeout=60_000)
    hand.window.contact_sheet.recall("long")
    session.pick(cut=session.stage.cuts[0].id)
    hand.settle()
    hand.qtbot.waitUntil(lambda: hand.window.scout.up_to_date, timeout=30_000)
    building = weakref.ref(session.building)
    hand.do("close_project")
    hand.qtbot.waitUntil(lambda: not RUNNING, timeout=30_000)
    # What is on its way through other threads and the event loop may hold it for a moment, on a busy machine for longer.
    hand.qtbot.waitUntil(lambda: gc.collect() >= 0 and building() is None, timeout=15_000)


def test_a_project_can_be_begun_without_a_model_and_given_one(empty, wait_open, tmp_path: Path, monkeypatch, capsys) -> None:
    window, path = empty.window, tmp_path / "Boat club.anatome"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(path), ""))
    empty.do("new_project")
    empty.qtbot.waitUntil(lambda: window.documents.waiting is not None)
    assert load_project(path).model is None and "Boat club" in window.welcome.hero.text() and window.title.text() == "Boat club"
    assert main(["section", str(path), "--scene", "any", "--json", "-"]) == 2 and "no model yet" in capsys.readouterr().err

    empty.click(window.welcome.leave, 10, 10)
    assert window.documents.waiting is None and not window.welcome.leave.isVisible()
    wait_open(path)
    assert window.welcome.leave.isVisible() and not window.session.is_open
    broken = tmp_path / "broken.ply"
    broken.write_bytes(b"ply\nnothing")
    window.documents.open(broken, OpenOptions())
    empty.qtbot.waitUntil(lambda: not window.documents.busy, timeout=60_000)
    assert window.documents.waiting is not None  # nothing is lost by a model that cannot be read

    shed = tmp_path / "shed.ply"
    trimesh.creation.box((8, 5, 3)).export(shed)
    window.documents.open(shed, OpenOptions())
    empty.qtbot.waitUntil(lambda: window.session.is_open, timeout=60_000)
    assert window.session.project_path == path and window.session.unsaved and window.documents.waiting is None
    empty.do("save")
    empty.saved()
    stored = load_project(path)
    assert not window.session.unsaved and stored.model is not None and stored.project.name == "Boat club"


CLOSING = """
import random, time
from PySide6.QtCore import QCoreApplication, QEvent, QObject
from anatome.app.base.work import RUNNING, Work

app = QCoreApplication([])

def work(told):
    end = time.perf_counter() + 0.002 * random.random()
    while time.perf_counter() < end:
        told(0.5)

for _ in range(500):
    asking = QObject()
    for _ in range(4):
        Work(asking).run(work, lambda result: None, lambda error: None)
    app.processEvents()
    asking.deleteLater()
    app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    app.processEvents()
end = time.perf_counter() + 10
while RUNNING and time.perf_counter() < end:
    app.processEvents()
print(len(RUNNING))
"""


def test_what_asked_for_work_may_go_while_a_thread_tells_how_far_it_is() -> None:
    """A dialog that is closed the moment its work is given up; in a program of its own, for a fault here ends it."""
    done = subprocess.run([sys.executable, "-c", CLOSING], capture_output=True, text=True, timeout=120)
    assert done.returncode == 0 and done.stdout.strip() == "0", done.stderr


ENDING = """
import sys, threading
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication
from anatome.app import main
from anatome.app.window.main_window import MainWindow

after, command = float(sys.argv[1]), sys.argv[2]

def end():
    window = next(w for w in QApplication.topLevelWidgets() if isinstance(w, MainWindow))
    window.may_close = lambda: True
    if command and not window.session.is_open:
        QTimer.singleShot(50, end)  # what it does is done with something open
        return
    if command:
        window.actions_[command].trigger()
    QTimer.singleShot(30, window.close)

real = QApplication.exec
def run(*_):
    QTimer.singleShot(round(1000 * after), end)
    return real()
QApplication.exec = run
code = main.run(main.Start(demo=True))
print([t.name for t in threading.enumerate() if t is not threading.main_thread() and not t.name.startswith("pydev")])
sys.exit(code)
"""


LATER = [pytest.param(0.5, command, marks=pytest.mark.long) for command in ("lined", "still")]


@pytest.mark.parametrize(("after", "command"), [(0.05, ""), (1.5, ""), (0.5, "suggest"), *LATER])
def test_the_program_ends_whenever_it_is_closed_and_leaves_no_threads(after: float, command: str) -> None:
    done = subprocess.run([sys.executable, "-c", ENDING, str(after), command], capture_output=True, text=True, timeout=120)
    assert done.returncode == 0 and done.stdout.strip() in ("[]", ""), done.stdout + done.stderr
    assert not [line for line in done.stderr.splitlines() if "Traceback" in line or "Error" in line], done.stderr
