"""Parts of the window by themselves: hands on the stage, key plan, parts, scenes, opening, themes."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMessageBox, QPushButton

from anatome.app.base.numbers import read_number
from anatome.app.base.units import read_length
from anatome.app.dialogs.open_options import OptionsDialog
from anatome.app.panels.opening import OpeningPage
from anatome.app.panels.welcome import Welcome
from anatome.scenes.scene_sets import arranged
from helpers import accent_mask, poche_mask

SHIFT = Qt.KeyboardModifier.ShiftModifier


def test_looking_round(hand) -> None:
    """Orbit keeps what is under the pointer under its pivot's distance, pan and wheel keep the point under the pointer."""
    session, stage = hand.window.session, hand.stage
    front = (4.6, -0.13, 4.0)
    at = hand.point_on(front)
    start = session.stage.camera
    hand.drag(stage, at, at + [60, 20])
    turned = session.stage.camera
    assert turned != start and np.linalg.norm(np.subtract(turned.eye, front)) == pytest.approx(
        np.linalg.norm(np.subtract(start.eye, front)), rel=1e-3
    )
    at = hand.point_on(front)
    hand.drag(stage, at, at + [40, -25], button=Qt.MouseButton.RightButton)
    assert hand.point_on(front) == pytest.approx(at + [40, -25], abs=2.5)
    at = hand.point_on(front)
    wheel = QWheelEvent(
        QPointF(*at),
        stage.mapToGlobal(QPointF(*at)),
        QPoint(),
        QPoint(0, 240),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(stage, wheel)
    assert hand.point_on(front) == pytest.approx(at, abs=1.5)
    assert session.stage.camera.distance < turned.distance
    assert session.history.undo_label == "Went nearer or farther"  # looking round is a step to undo
    hand.press(Qt.Key.Key_Home)
    hand.do("projection")
    assert session.stage.camera.projection == "parallel"
    for name in ("Top", "Back", "Axonometric, back right"):
        hand.do(f"view {name}")
        assert (hand.picture() != hand.picture()[0, 0]).any(axis=2).mean() > 0.05


def test_placing_follows_the_pointer_and_shift_keeps_the_direction(hand) -> None:
    window, session = hand.window, hand.window.session
    hand.do("place")
    front, side = hand.point_on((4.6, -0.13, 4.0)), hand.point_on((-0.13, 3.0, 2.0))
    hand.hover(*front)
    first = window.overlay.preview.plane
    hand.hover(*side)
    second = window.overlay.preview.plane
    assert first.normal == pytest.approx((0, -1, 0), abs=1e-6) and second.normal == pytest.approx((-1, 0, 0), abs=1e-6)
    window.stage_input.hover_at(QPointF(*front), False)
    window.stage_input.hover_at(QPointF(*side), True)
    kept = window.overlay.preview.plane
    assert kept.normal == pytest.approx((0, -1, 0), abs=1e-6)
    assert abs(kept.distance(np.array(second.origin))) < 0.05  # the old direction, through the new place
    hand.press(Qt.Key.Key_Escape)
    assert window.stage_input.task is None and session.cut is None and window.overlay.preview is None
    hand.do("place")
    hand.click(hand.stage, 4, 4)  # on nothing
    assert window.stage_input.task is not None and session.cut is None


def test_escape_in_a_drag_takes_it_back(hand) -> None:
    session = hand.window.session
    hand.place(*hand.point_on((4.6, -0.13, 4.0)))
    start = session.cut.plane
    handles = hand.window.overlay.handles
    hand.drag(hand.stage, handles.tip, handles.tip + 60, release=False)
    assert session.cut.plane != start
    hand.press(Qt.Key.Key_Escape)
    assert session.cut.plane == start
    hand.press(Qt.Key.Key_Escape)
    assert session.cut is None and len(session.stage.cuts) == 1
    session.pick(cut=session.stage.cuts[0].id)
    hand.press(Qt.Key.Key_Delete)
    assert session.stage.cuts == ()
    hand.do("undo")
    assert len(session.stage.cuts) == 1


def test_handles_keep_their_size_and_win_over_the_model(hand) -> None:
    session = hand.window.session
    hand.place(*hand.point_on((4.6, -0.13, 4.0)))
    for factor in (1.0, 0.25, 6.0):
        session.look_from(session.stage.camera.zoomed(factor, np.array([9.0, 0.0, 3.0])))
        handles = hand.window.overlay.handles
        assert handles is not None
        assert 0 <= handles.foot[0] <= hand.stage.width() and 0 <= handles.foot[1] <= hand.stage.height()
        assert 20 <= np.hypot(*(handles.tip - handles.foot)) <= 60
        assert handles.under(*(handles.tip + 11)) is None or handles.under(*(handles.tip + 8)) == "move"
        assert handles.under(*(handles.tip + [12, 0])) == "move"  # a hit zone of at least 24 px


def test_three_switches(hand) -> None:
    """Plane, cut and poché are independent of one another, on the picture too."""
    session, page = hand.window.session, hand.window.inspector.cut
    hand.place(*hand.point_on((4.6, -0.13, 4.0)))
    page.place.fields["move"].entered.emit(6.2)
    cut = hand.picture()
    framed = hand.screen()
    page.switches["graphic"].click()
    assert (hand.picture() == cut).all() and accent_mask(framed).sum() > accent_mask(hand.screen()).sum() + 300
    page.switches["poche"].click()
    plain = hand.picture()
    assert poche_mask(cut).mean() > poche_mask(plain).mean() + 0.03
    page.switches["on"].click()
    whole = hand.picture()
    assert (np.abs(whole.astype(int) - plain).max(axis=2) > 12).mean() > 0.1
    assert not session.cut.on and not session.cut.poche and not session.cut.graphic
    for _ in range(3):
        hand.do("undo")
    assert session.cut.on and session.cut.poche and session.cut.graphic and (hand.picture() == cut).all()


def test_key_plan_and_stage_edit_the_same_cut(hand) -> None:
    window, session, plan = hand.window, hand.window.session, hand.window.key_plan
    hand.place(*hand.point_on((4.6, -0.13, 4.0)))
    window.inspector.cut.place.fields["move"].entered.emit(6.2)
    cut_id = session.cut.id
    hand.press(Qt.Key.Key_Escape)
    assert session.cut is None
    line = plan.to_pixels(plan.mark_of(session.stage.cuts[0]).strokes[0].points)
    middle = line.mean(axis=0) + [17, 0]
    hand.drag(plan, middle, middle + [0, 12])
    assert session.picked.cut == cut_id and window.overlay.handles is not None  # picked here is picked there
    moved = session.cut.plane
    assert moved.position == pytest.approx(6.2 - 12 / plan._scale, abs=1.2 / plan._scale)
    assert moved.normal == pytest.approx((0, -1, 0), abs=1e-9)
    line = plan.to_pixels(plan.mark_of(session.cut).strokes[0].points)
    hand.drag(plan, line[1], line[1] + [0, -24])
    turned = session.cut.plane
    assert 3 < (turned.heading - moved.heading) % 360 < 40
    hand.do("undo")
    hand.do("undo")
    assert session.cut.plane.position == pytest.approx(6.2)

    camera = session.stage.camera
    eye, aim = plan.camera_places()
    hand.drag(plan, eye, eye + [14, 0])
    shifted = session.stage.camera
    assert np.subtract(shifted.eye, camera.eye) == pytest.approx([14 / plan._scale, 0, 0], abs=1.5 / plan._scale)
    assert np.subtract(shifted.eye, camera.eye) == pytest.approx(np.subtract(shifted.target, camera.target))
    eye, aim = plan.camera_places()
    hand.drag(plan, aim, aim + [0, -20])
    assert session.stage.camera.eye == pytest.approx(shifted.eye) and session.stage.camera.target != shifted.target
    hand.do("delete_cut")
    window.contact_sheet.recall("ground")  # a level cut has no line in a plan, but a note to pick it by
    level, _, place = plan.notes()[0]
    hand.click(plan, place.center().x(), place.center().y())
    assert session.picked.cut == level.id and level.plane.is_level and window.overlay.handles.ring is None
    plan._scale *= 3
    QTest.mouseDClick(plan, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(5, 5))
    window.key_plan_panel.choice.setCurrentIndex(1)
    window.key_plan_panel.choice.activated.emit(1)
    hand.settle()
    assert plan.level == pytest.approx(4.6)


@pytest.mark.usefixtures("large")
def test_parts_hidden_and_shown_again(hand) -> None:
    window, session = hand.window, hand.window.session
    whole = hand.picture()
    at = hand.point_on((8.0, 2.5, 8.6))
    hand.click(hand.stage, *at)
    (picked,) = session.picked.elements
    assert session.building.elements[session.building.index_of[picked]].layer == "A-ROOF-TILE"
    parts, model = window.parts, window.parts.model

    def listed() -> set[str]:
        return {session.building.elements[i].id for i in parts.selected()}

    assert listed() == {picked}
    parts.way.setCurrentIndex(parts.way.findData("material"))
    parts.fill()
    hand.window.set_dark(True)
    hand.window.set_dark(False)
    assert session.picked.elements == {picked} == listed()  # neither another order nor another theme lets go of it
    parts.way.setCurrentIndex(0)
    parts.fill()
    hand.do("hide")
    changed = (np.abs(hand.picture().astype(int) - whole) > 8).any(axis=2)
    low, high = session.building.element_bounds[session.building.index_of[picked]]
    corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
    x, y = hand.point_on(corners).T
    inside = np.zeros_like(changed)
    inside[int(y.min()) - 2 : int(y.max()) + 3, int(x.min()) - 2 : int(x.max()) + 3] = True
    assert session.stage.hidden == {picked} and changed[inside].sum() > 200
    assert changed[inside].sum() > 0.8 * changed.sum()  # the rest is the shade it threw
    top = model.index(0, 0)
    state = Qt.ItemDataRole.CheckStateRole
    assert model.data(top) == "Roof" and model.data(top, state) == Qt.CheckState.PartiallyChecked
    parts.tree.collapseAll()
    parts.tree.scrollToTop()
    box = parts.tree.visualRect(top)
    hand.click(parts.tree.viewport(), box.left() + 10, box.center().y())
    assert model.data(top, state) == Qt.CheckState.Checked and not session.stage.hidden
    hand.click(parts.tree.viewport(), box.left() + 10, box.center().y())
    assert len(session.stage.hidden) > 200 and model.data(top, state) == Qt.CheckState.Unchecked
    assert "hidden" in window.parts.aside.text()
    window.parts.aside.click()
    assert window.parts.sheet.isVisible()
    window.parts.sheet.close()
    hand.do("show_all")
    assert not session.stage.hidden and (hand.picture() == whole).all()
    for way in ("type", "layer", "space", "storey"):
        parts.way.setCurrentIndex(parts.way.findData(way))
        parts.search.setText("trainer")
        parts.fill()
        members = np.concatenate([model.members(model.index(row, 0)) for row in range(model.rowCount())])
        found = [session.building.elements[i] for i in members]
        assert found and all("trainer" in e.name.lower() for e in found)
    inner = model.index(0, 0, model.index(0, 0))
    parts.tree.scrollTo(model.index(0, 0, inner))
    first = parts.tree.visualRect(model.index(0, 0, inner)).center()
    hand.click(parts.tree.viewport(), first.x(), first.y())
    for _ in range(2):
        QTest.keyClick(parts.tree, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert len(session.picked.elements) == 3 and session.picked.elements <= {e.id for e in found}
    hand.do("isolate")
    assert len(session.stage.hidden) == len(session.building.elements) - 3


def test_scenes_rename_reorder_replace_duplicate_delete(hand) -> None:
    window, session = hand.window, hand.window.session
    first = session.project.scenes[0]
    window.commands.scenes.duplicate_scene(first.id)
    assert [s.name for s in session.project.scenes][:2] == ["From the river", "From the river copy"]
    names = window.contact_sheet.scenes
    hand.qtbot.waitUntil(lambda: names.index(1).data() == "From the river copy")
    assert names.setData(names.index(1), "From the bank")
    copy = session.project.scenes[1]
    assert copy.name == "From the bank"
    session.apply(arranged(session.project, [copy.id], session.project.scenes[5].id, ""), "Reordered the scenes")
    hand.qtbot.waitUntil(lambda: names.index(4).data() == "From the bank")
    assert session.project.scenes[4].id == copy.id
    window.contact_sheet.recall(copy.id)
    hand.do("view Front")
    assert session.project.differs_from_scene
    front = hand.picture()
    hand.do("replace_scene")
    hand.press(Qt.Key.Key_PageUp)
    assert session.project.current_scene != copy.id
    hand.press(Qt.Key.Key_PageDown)
    assert (hand.picture() == front).all()
    window.commands.scenes.delete_scene(copy.id)
    assert copy.id not in {s.id for s in session.project.scenes}
    hand.do("undo")
    assert session.project.scene(copy.id).state.camera.projection == "parallel"


def test_bad_files_change_nothing_and_say_what_to_do(hand, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    window, session = hand.window, hand.window.session
    project, picture = session.project, hand.picture()
    for name, content in (("a.ifc", b"ISO-10303-21;\nHEADER"), ("b.anatome", b"no zip"), ("c.glb", b"glTF"), ("d.txt", b"x")):
        path = tmp_path / name
        path.write_bytes(content)
        if path.suffix == ".glb":
            window.documents.open(path)
        else:
            window.commands.files.open_path(path)
        hand.qtbot.waitUntil(lambda: not window.documents.busy, timeout=60_000)
        box = next(w for w in window.findChildren(QMessageBox) if w.isVisible())
        assert box.text().endswith((".", ")")) and name in box.text()
        box.close()
        box.deleteLater()
        hand.qtbot.wait(10)
        assert session.project == project
    assert (hand.picture() == picture).all()
    said: list[str] = []
    monkeypatch.setattr(window, "tell", lambda text, title="": said.append(text))
    window.commands.files.write(tmp_path / "no such folder" / "x.anatome")
    hand.saved()
    assert "could not be written" in said[0]


def test_opening_shows_progress_and_can_be_cancelled(empty, boathouse_ifc: Path, tmp_path: Path) -> None:
    window = empty.window
    path = tmp_path / "large.ifc"
    path.write_text(boathouse_ifc.read_text() + "\n\n")
    window.commands.files.open_path(path)
    assert isinstance(window.pages.currentWidget(), OpeningPage)
    empty.qtbot.waitUntil(lambda: window.opening.bar.value() > 80, timeout=30_000)
    window.opening.cancel.click()
    assert not window.documents.busy and isinstance(window.pages.currentWidget(), Welcome)
    window.commands.files.open_path(path)
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not window.documents.busy and isinstance(window.pages.currentWidget(), Welcome)


def test_a_dropped_mesh_file_is_asked_about_and_opened(empty, tmp_path: Path) -> None:
    path = tmp_path / "shed.stl"
    trimesh.creation.box((4, 3, 2.5)).export(str(path))
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    drop = QDropEvent(QPointF(50, 50), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)

    def answer() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, OptionsDialog)
        dialog.unit.setCurrentText("In feet")
        next(b for b in dialog.findChildren(QPushButton) if b.text() == "Open").click()

    from PySide6.QtCore import QTimer

    QTimer.singleShot(300, answer)
    empty.window.dropEvent(drop)
    empty.qtbot.waitUntil(lambda: empty.window.session.is_open, timeout=60_000)
    building = empty.window.session.building
    assert building.bounds[1] - building.bounds[0] == pytest.approx(np.array([4, 3, 2.5]) * 0.3048, rel=1e-6)
    empty.place(*empty.point_on(building.bounds.mean(axis=0)))
    assert empty.window.session.cut is not None


def test_dark_theme_leaves_the_picture_alone(hand) -> None:
    light = hand.picture()
    hand.window.set_dark(True)
    assert (hand.picture() == light).all()
    shell = hand.window.picture_of_window().pixelColor(10, 300)
    assert shell.lightness() < 80
    hand.window.set_dark(False)


def test_stage_alone_and_back(hand) -> None:
    wide = hand.stage.width()
    hand.stage.setFocus()
    hand.press(Qt.Key.Key_Space)
    hand.qtbot.waitUntil(lambda: hand.stage.width() > wide + 300)
    hand.press(Qt.Key.Key_Escape)
    hand.qtbot.waitUntil(lambda: hand.stage.width() == wide)


def test_numbers_as_people_type_them() -> None:
    lengths = {"3": 3, "1,25": 1.25, "-0.5 m": -0.5, "80 cm": 0.8, "2500mm": 2.5, "−4": -4, ".5": 0.5}
    assert {t: read_length(t) for t in lengths} == pytest.approx(lengths)
    assert [read_number(t) for t in ("90°", "12,5 %", "35 mm", "−4")] == [90, 12.5, 35, -4]
    assert all(read(t) is None for read in (read_number, read_length) for t in ("", "x", "1.2.3", "3 yards", "--2"))


def test_undo_takes_back_the_view_before_the_cut(hand) -> None:
    session = hand.window.session
    hand.place(*hand.point_on((4.6, -0.13, 4.0)))
    cut, before = session.project, session.stage.camera
    session.look_from(before.orbited(20, 5))
    hand.do("undo")
    assert session.project == cut and session.stage.camera == before
    hand.do("undo")
    assert session.stage.camera == before and not session.stage.cuts


def test_a_key_drawing_and_the_stage_change_places(hand) -> None:
    window, session, stage = hand.window, hand.window.session, hand.stage
    window.contact_sheet.recall("long")
    session.pick(cut="along")
    hand.settle()
    large, small, before = stage.size(), window.key_plan.size(), hand.picture()
    panel = window.key_plan_panel
    hand.click(panel.grow, 8, 8)
    hand.settle()
    assert window.key_plan.size() == large and stage.size().width() == small.width() and panel.words.text() == "Stage"
    assert poche_mask(hand.picture()).mean() > 0.05  # the small stage goes on showing the cut

    # The cut is moved in the large plan as in the small one, and the stage follows.
    plan, cut = window.key_plan, session.cut
    middle = plan.to_pixels(plan.sheet.flat(np.array([8.0, 6.2, 0.0])))
    hand.drag(plan, middle, middle + [0, -60])
    assert session.cut.plane.offset != cut.plane.offset and session.cut.plane.normal == cut.plane.normal
    hand.do("undo")

    # The other drawing takes its turn, folding the panels and the stage alone put all back.
    hand.press(Qt.Key.Key_F7)
    assert window.key_elevation.size() == large and window.key_plan.parentWidget() is panel
    hand.press(Qt.Key.Key_F9)
    hand.press(Qt.Key.Key_F9)
    window.contact_sheet.recall("long")
    session.pick(cut="along")
    hand.settle()
    assert stage.size() == large and (hand.picture() == before).all()
