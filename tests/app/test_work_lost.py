"""Nothing a user does is lost: saves that run while something else happens, what is cancelled, and what a crash leaves."""

from __future__ import annotations

import subprocess
import sys
import threading
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QDialog

from anatome.app.base.trouble import TROUBLE
from anatome.app.dialogs.recovery import Recovery, ago
from anatome.app.document.hold import Hold
from anatome.app.send_out.layers import LayersDialog
from anatome.app.send_out.models import ModelDialog
from anatome.app.send_out.sheets import SheetsDialog
from anatome.app.window.journaling import journal_folder
from anatome.demo.shipped import PROJECT
from anatome.scenes import edits
from anatome.scenes.project import Project
from anatome.scenes.storage import load_project, save_project
from anatome.sheets.sheet import Sheet


class Gate:
    """Holds a function back until it is opened."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch, where: str, real: object) -> None:
        self.reached, self._open = threading.Event(), threading.Event()

        def held(*words: object, **more: object) -> object:
            self.reached.set()
            assert self._open.wait(30)
            return real(*words, **more)  # type: ignore[operator]

        monkeypatch.setattr(where, held)

    def open(self) -> None:
        self._open.set()


def club(tmp_path: Path, name: str) -> Path:
    """A project file with a name of its own."""
    stored = load_project(PROJECT)
    path = tmp_path / f"{name}.anatome"
    save_project(path, type(stored)(stored.project.model_copy(update={"name": name}), stored.thumbnails, stored.model))
    return path


def visible(kind: type) -> QDialog:
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible())


# Saving ----------------------------------------------------------------------------------------------------------


def test_a_save_belongs_to_the_project_it_was_begun_for(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A second project is opened while the first is still being written."""
    window, session = hand.window, hand.window.session
    second, target = club(tmp_path, "second"), tmp_path / "first.anatome"
    gate = Gate(monkeypatch, "anatome.app.document.documents.save_project", save_project)
    session.apply(edits.hide(session.project, {"something"}), "Hidden")
    first = session.project
    window.documents.save(target)
    assert gate.reached.wait(10)
    window.documents.open(second)
    hand.qtbot.waitUntil(lambda: session.project_path == second, timeout=60_000)
    gate.open()
    hand.saved()
    assert load_project(target).project.stage.hidden == first.stage.hidden
    assert session.project_path == second and session.project.name == "second" and not session.unsaved
    session.apply(edits.hide(session.project, {"in the second"}), "Hidden")
    hand.do("save")
    hand.saved()
    assert load_project(second).project.stage.hidden >= {"in the second"}
    assert load_project(target).project.stage.hidden == first.stage.hidden


@pytest.mark.parametrize("fails", [False, True])
def test_the_window_waits_for_a_first_save(fresh, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, fails: bool) -> None:
    window = fresh.window
    del window.may_close  # as it is
    window.commands.files.open_demo()
    fresh.qtbot.waitUntil(lambda: window.session.is_open, timeout=60_000)
    target = tmp_path / ("nowhere" if fails else "") / "club.anatome"
    gate = Gate(monkeypatch, "anatome.app.document.documents.save_project", save_project)
    window.documents.save(target)
    assert gate.reached.wait(10)
    QTimer.singleShot(200, gate.open)
    window.close()
    assert window.isVisible() is fails and target.exists() is not fails
    assert not list(journal_folder().glob("*.journal"))
    window.may_close = lambda: True


def test_neighbours_go_to_the_project_they_were_read_for(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from anatome.formats.geojson import read_footprints

    window, session = hand.window, hand.window.session
    path, second = tmp_path / "n.geojson", club(tmp_path, "second")
    ring = [[0, 0], [5, 0], [5, 5], [0, 5], [0, 0]]
    path.write_text(f'{{"type": "Polygon", "coordinates": [{ring}]}}')
    gate = Gate(monkeypatch, "anatome.formats.geojson.read_footprints", read_footprints)
    window.commands.site.read_neighbours(path)
    assert gate.reached.wait(10)
    window.documents.open(second)
    hand.qtbot.waitUntil(lambda: session.project_path == second, timeout=60_000)
    before = session.project.site
    gate.open()
    hand.qtbot.waitUntil(lambda: not window.commands.site._reading.busy, timeout=10_000)
    hand.qtbot.wait(50)
    assert session.project.site == before and not session.unsaved


# Cancelling ------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", [ModelDialog, LayersDialog])
def test_what_was_cancelled_is_not_written_later(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, kind: type) -> None:
    """Cancelled in the midst of the work: what was there before stays, and no folder is left."""
    model = kind is ModelDialog
    where = "anatome.app.send_out.models.mesh_bytes" if model else "anatome.app.send_out.layers.cutting_files"
    real = __import__(where.rpartition(".")[0], fromlist=["x"]).__dict__[where.rpartition(".")[2]]
    gate = Gate(monkeypatch, where, real)
    dialog = kind(hand.window, hand.window.session, tmp_path)
    target = tmp_path / ("house.stl" if model else "layers")
    if model:
        target.write_bytes(b"somebody's")
    dialog.path.setText(str(target))
    dialog.show()
    dialog.go.click()
    assert gate.reached.wait(20)
    dialog.reject()
    assert "nothing was written" in dialog.problem.text() and not dialog.busy
    gate.open()
    from anatome.app.base.work import RUNNING

    hand.qtbot.waitUntil(lambda: not RUNNING, timeout=60_000)
    assert (target.read_bytes() == b"somebody's") if model else not target.exists()
    dialog.reject()


def test_writing_sheets_is_given_up_and_the_dialog_closed_at_once(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    window = hand.window
    told: list[BaseException] = []
    monkeypatch.setattr(TROUBLE, "report", told.append)
    for wait in (0, 60, 250):
        dialog = SheetsDialog(window, window.session, window.stage, tmp_path)
        dialog.dpi.setValue(30)
        dialog.show()
        dialog.go.click()
        hand.qtbot.wait(wait)
        dialog.reject()
        dialog.reject()
    hand.qtbot.wait(400)  # whatever would still have been told
    assert not told and not list(tmp_path.iterdir())


def test_sheets_of_one_name_are_as_many_files(hand, tmp_path: Path) -> None:
    window, session = hand.window, hand.window.session
    sheets = tuple(Sheet(id=f"s{i}", name="Plan/s", number="01", paper=(100, 80), bordered=False) for i in range(3))
    session.apply(session.project.model_copy(update={"sheets": sheets}), "Sheets")
    dialog = SheetsDialog(window, session, window.stage, tmp_path)
    dialog.way.setCurrentIndex(1)
    dialog.path.setText(str(tmp_path / "out"))
    dialog.show()
    hand.send(dialog)
    assert sorted(p.name for p in (tmp_path / "out").iterdir()) == ["01 Plan_s 2.pdf", "01 Plan_s 3.pdf", "01 Plan_s.pdf"]


def test_names_of_scenes_are_no_paths(hand, tmp_path: Path) -> None:
    session = hand.window.session
    scenes = (session.project.scenes[0].model_copy(update={"name": "/etc/../plan ½"}), *session.project.scenes[1:])
    session.apply(session.project.model_copy(update={"scenes": scenes}), "Renamed")
    dialog = ModelDialog(hand.window, session, tmp_path)
    assert Path(dialog.path.text()) == tmp_path / "_etc_.._plan ½ cut.glb"
    dialog.reject()


def test_what_others_make_of_a_picture_is_no_fault_of_the_stage(hand, monkeypatch: pytest.MonkeyPatch) -> None:
    told: list[BaseException] = []
    monkeypatch.setattr(TROUBLE, "report", told.append)
    hand.settle()
    before, stage, got = hand.now(), hand.stage, []

    def breaks(pixels: np.ndarray) -> None:
        raise ZeroDivisionError("by the river")

    for done in (breaks, got.append):
        stage.pictures.picture(stage._view(), (60, 40), "paper", done, told.append, 1)
    hand.qtbot.waitUntil(lambda: bool(got), timeout=20_000)
    hand.settle()
    assert [type(error) for error in told] == [ZeroDivisionError] and (hand.now() == before).all()


# The journal -----------------------------------------------------------------------------------------------------


def crashed(hand) -> Project:
    """Have what is open end without being closed; the project as it was then."""
    journaling, session = hand.window.journaling, hand.window.session
    journal, project = journaling._journal, session.project
    hand.qtbot.waitUntil(lambda: journal.is_written(project), timeout=10_000)
    hand.qtbot.waitUntil(lambda: journal.picture.exists(), timeout=30_000)
    journal._file.close()  # as the system does
    journaling._journal = None
    session.close()
    return project


@pytest.mark.parametrize("choice", ["go on", "both", "saved"])
def test_what_was_not_saved_is_offered_after_a_crash(hand, tmp_path: Path, choice: str) -> None:
    window, session = hand.window, hand.window.session
    path = club(tmp_path, "club")
    window.documents.open(path)
    hand.qtbot.waitUntil(lambda: session.project_path == path, timeout=60_000)
    saved = load_project(path).project
    assert not list(journal_folder().glob("*"))  # nothing is written before something is changed
    for number in range(3):
        session.apply(edits.hide(session.project, {session.building.elements[number].id}), "Hidden")
    lost = crashed(hand)

    window.offer_recovery()
    dialog = visible(Recovery)
    assert len(dialog.buttons) == 1
    dialog.buttons[0][choice].click()
    hand.qtbot.waitUntil(lambda: session.is_open and not window.documents.busy, timeout=60_000)
    if choice == "saved":
        assert session.project.scenes == saved.scenes and session.stage.hidden == saved.stage.hidden and not session.unsaved
    else:
        assert session.stage == lost.stage and session.project.scenes == lost.scenes and session.unsaved
        assert session.project_path == (path if choice == "go on" else None)
        assert session.project.name == ("club" if choice == "go on" else "club, recovered")
    assert load_project(path).project.stage.hidden == saved.stage.hidden  # the saved one is as it was
    # What was recovered is safe again, and what it was recovered from is gone once it is.
    hand.qtbot.waitUntil(lambda: len(list(journal_folder().glob("*.journal"))) == (choice != "saved"), timeout=30_000)
    if choice == "go on":
        hand.do("save")
        hand.saved()
        assert load_project(path).project.stage.hidden == lost.stage.hidden
    session.close()
    hand.qtbot.waitUntil(lambda: not list(journal_folder().glob("*")), timeout=10_000)


def test_what_a_crash_left_needs_the_model_and_not_the_project_file(hand, tmp_path: Path) -> None:
    window, session = hand.window, hand.window.session
    model, path = tmp_path / "shed.obj", tmp_path / "shed.anatome"
    trimesh.creation.box((4.0, 3.0, 2.5)).export(model)
    window.documents.open(model)
    hand.qtbot.waitUntil(lambda: session.model_path == model, timeout=60_000)
    window.documents.save(path)
    hand.saved()
    window.commands.scenes.save_scene()
    lost = crashed(hand)
    path.unlink()
    window.offer_recovery()
    visible(Recovery).buttons[0]["go on"].click()
    hand.qtbot.waitUntil(lambda: session.is_open and not window.documents.busy, timeout=60_000)
    assert session.project.scenes == lost.scenes and session.unsaved and session.model_path == model


def test_a_project_never_saved_comes_back_and_what_is_decided_later_stays(hand) -> None:
    window, session = hand.window, hand.window.session
    hand.do("place")
    hand.click(hand.stage, *hand.point_on((4.6, -0.13, 4.0)))
    window.commands.scenes.save_scene()
    lost = crashed(hand)
    window.offer_recovery()
    visible(Recovery).reject()
    assert len(list(journal_folder().glob("*.journal"))) == 1
    window.offer_recovery()
    visible(Recovery).buttons[0]["go on"].click()
    hand.qtbot.waitUntil(lambda: session.is_open, timeout=60_000)
    assert session.project.scenes == lost.scenes and session.stage.cuts == lost.stage.cuts and session.project_path is None


def test_ages_in_words() -> None:
    assert [ago(s) for s in (3, 60, 150, 3600, 90_000, 200_000)] == [
        *("just now", "1 minute ago", "2 minutes ago", "1 hour ago", "1 day ago", "2 days ago")
    ]


def test_the_version_before_is_opened_as_one_of_its_own(hand, tmp_path: Path) -> None:
    window, session = hand.window, hand.window.session
    path = club(tmp_path, "club")
    window.documents.open(path)
    hand.qtbot.waitUntil(lambda: session.project_path == path, timeout=60_000)
    before = session.stage.hidden
    session.apply(edits.hide(session.project, {session.building.elements[0].id}), "Hidden")
    hand.do("save")
    hand.saved()
    hand.do("open_before")
    hand.qtbot.waitUntil(lambda: session.project_path is None and not window.documents.busy, timeout=60_000)
    assert session.stage.hidden == before and session.unsaved and session.project.name == "club, before"


def test_recalling_is_nothing_to_save_and_there_is_one_sign(hand, tmp_path: Path) -> None:
    window, session = hand.window, hand.window.session
    window.documents.save(tmp_path / "club.anatome")
    hand.saved()
    for scene in ("long", "corner"):
        window.contact_sheet.recall(scene)
    assert "•" not in window.title.text() and window.windowTitle() == "club – Anatome"
    session.apply(edits.hide(session.project, {"x"}), "Hidden")
    assert window.title.text() == "club •" and window.windowTitle() == "club • – Anatome"


def test_a_cut_that_takes_long_says_so(hand, monkeypatch: pytest.MonkeyPatch) -> None:
    import anatome.app.document.recutting as recutting

    monkeypatch.setattr("anatome.app.document.lookups.PATIENCE", 0.01)
    monkeypatch.setattr("anatome.app.stage.overlay.is_ready", lambda: True)
    gate = Gate(monkeypatch, "anatome.app.document.recutting.recut", recutting.recut)
    session = hand.window.session
    session.apply(edits.hide(session.project, {session.building.elements[5].id}), "Hidden")
    session.on_stage()
    assert hand.window.overlay.said == ""
    hand.qtbot.waitUntil(lambda: hand.window.overlay.said == "Cutting…", timeout=5_000)
    monkeypatch.setattr("anatome.app.stage.overlay.is_ready", lambda: False)
    assert "first cut" in hand.window.overlay.said
    gate.open()
    hand.qtbot.waitUntil(lambda: session.is_cut and hand.window.overlay.said == "", timeout=10_000)


def test_a_second_window_may_look_at_a_project_but_not_save_over_it(hand, tmp_path: Path) -> None:
    window, session, documents = hand.window, hand.window.session, hand.window.documents
    path = tmp_path / "club.anatome"
    documents.save(path)
    hand.saved()
    assert not documents.only_looks and Hold.take(path) is None  # this window has it
    documents.let_go()
    # Another program has it open.
    code = "import sys, time; from pathlib import Path; from anatome.app.document.hold import Hold; "
    code += "held = Hold.take(Path(sys.argv[1])); print(held is not None, flush=True); time.sleep(60)"
    other = subprocess.Popen([sys.executable, "-c", code, str(path)], stdout=subprocess.PIPE, text=True)
    try:
        assert other.stdout.readline().strip() == "True"
        before = path.read_bytes()
        documents.open(path)
        hand.qtbot.waitUntil(lambda: not documents.busy and session.project_path == path, timeout=30_000)
        assert documents.only_looks and "open in another window" in window.status.text()
        assert "open elsewhere" in window.title.text()
        told: list[str] = []
        documents.save_failed.connect(told.append)
        window.commands.scenes.save_scene()
        documents.save(path)
        hand.qtbot.waitUntil(lambda: bool(told))
        assert "under another name" in told[0] and path.read_bytes() == before and session.unsaved
        documents.save(tmp_path / "mine.anatome")
        hand.saved()
        assert not documents.only_looks and not session.unsaved and path.read_bytes() == before
    finally:
        other.kill()
        other.wait()
        documents.save_failed.disconnect(told.append)
    # A program that was killed holds nothing.
    documents.open(path)
    hand.qtbot.waitUntil(lambda: not documents.busy and session.project_path == path, timeout=30_000)
    assert not documents.only_looks
