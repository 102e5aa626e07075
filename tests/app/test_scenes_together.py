"""One cut for many scenes, locks, marks and tilting, in the real window with real keys and mouse."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from anatome.app.commands.scene_parts import PartsDialog
from anatome.app.commands.shared_cuts import BringDialog, PutDialog
from anatome.app.document.preferences import new_cut_alone, set_new_cut_alone, set_other_scenes_drawn
from anatome.cuts.plane import Plane
from anatome.scenes import edits
from anatome.scenes.shared_cuts import scenes_with

CTRL, ALT, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier
ALONG = ("long", "cutaway", "oblique", "divided", "dressed")
"""The scenes of the demo that section A is on in."""


def dialog(window, kind):
    return next(d for d in window.findChildren(kind) if d.isVisible())


def positions(session) -> dict[str, float]:
    return {s.id: s.state.cut("along").axis.position for s in scenes_with(session.project, "along")}


def test_moving_a_cut_and_keeping_it_moves_it_in_all_its_scenes_or_only_here(hand) -> None:
    window, session = hand.window, hand.window.session
    hand.pictured()
    window.contact_sheet.recall("long")
    start, project = positions(session), session.project
    before = {i: session.pictures.get(session.project.scene(i)) for i in ("cutaway", "wing")}
    assert set(start) == {*ALONG, "plan", "cross"} and set(start.values()) == {6.2}
    session.pick(cut="along")
    buttons = window.inspector.cut.scenes.findChildren(QPushButton)
    rows = [b for b in buttons if b.toolTip().endswith("Go to this scene") and not b.isHidden()]
    assert [b.text() for b in rows][:2] == ["Long section", "Axonometric cutaway"] and len(rows) == 7
    assert "off" in rows[next(i for i, b in enumerate(rows) if b.text().startswith("Ground"))].text()
    hand.type_into(window.inspector.cut.place.fields["move"], "6.8")
    assert positions(session) == start and session.stage.cut("along").axis.position == pytest.approx(6.8)
    hand.press(Qt.Key.Key_M, CTRL | SHIFT)
    assert "Section A moved in 7 scenes" in window.status.text() and window.status.offered.isVisible()
    assert set(positions(session).values()) == {6.8}
    # Its pictures are drawn anew behind the window; others are left alone.
    assert session.pictures.get(session.project.scene("cutaway")) is None
    hand.pictured()
    assert session.pictures.get(session.project.scene("cutaway")) != before["cutaway"]
    assert session.pictures.get(session.project.scene("wing")) == before["wing"]
    hand.do("undo")
    assert positions(session) == start
    hand.do("redo")
    # Once more, and only here: the others get theirs back, and it is another cut.
    window.contact_sheet.recall("long")
    session.pick(cut="along")
    hand.type_into(window.inspector.cut.place.fields["move"], "7.2")
    hand.press(Qt.Key.Key_M, CTRL | SHIFT)
    hand.click(window.status.offered, 20, 8)
    own = session.project.scene("long").state.cuts[0]
    assert set(positions(session)) == {"cutaway", "oblique", "divided", "dressed", "plan", "cross"}
    assert set(positions(session).values()) == {6.8} and own.axis.position == pytest.approx(7.2)
    marks = {c.mark for s in session.project.scenes for c in s.state.cuts if c.id != own.id}
    assert own.id != "along" and own.mark not in marks and session.picked.cut == own.id
    assert not session.project.differs_from_scene and not window.status.offered.isVisible()
    for _ in range(10):
        if session.project == project:
            break
        hand.do("undo")
    assert positions(session) == start


def test_a_cut_is_put_into_other_scenes_and_brought_from_them(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    session.pick(cut="along")
    session.apply(edits.lock_scene(session.project, "cross", True), "Locked")
    hand.press(Qt.Key.Key_J, CTRL | ALT)
    put = dialog(window, PutDialog)
    names = [put.scenes.item(i).text() for i in range(put.scenes.count())]
    assert names[0] == "From the river" and not any(name.startswith("Long section ") for name in names[:1])
    assert "locked" in names[names.index(next(n for n in names if n.startswith("Cross section")))]
    put.go.click()
    assert put.problem.isVisible() and "Tick" in put.problem.text()
    put.scenes.item(0).setCheckState(Qt.CheckState.Checked)
    hand.qtbot.wait(20)
    put.go.click()
    state = session.project.scene("outside").state
    assert state.cut("along").on and "Put Section A into 1 scene" in window.status.text()
    window.contact_sheet.recall("wing")
    hand.do("bring_cuts")
    bring = dialog(window, BringDialog)
    bring.scene.setCurrentIndex(bring.scene.findText("Cross section, clubroom"))
    bring.go.click()
    assert {c.id for c in session.stage.cuts} == {"wing", "across"} and session.picked.cut == "across"


def test_a_new_cut_offers_to_switch_the_others_off_or_does_so(hand) -> None:
    window, session = hand.window, hand.window.session
    assert not new_cut_alone()
    window.contact_sheet.recall("long")
    taken = {c.mark for s in session.project.scenes for c in s.state.cuts}
    hand.do("box_shown")
    new = session.cut
    assert new.mark not in taken and len(session.stage.active_cuts) == 2
    assert window.status.offered.isVisible() and window.status.offered.text().startswith("Switch the others off")
    hand.click(window.status.offered, 20, 8)
    assert [c.id for c in session.stage.active_cuts] == [new.id] and not window.status.offered.isVisible()
    try:
        hand.press(Qt.Key.Key_U, CTRL | SHIFT)
        assert new_cut_alone() and window.actions_["new_cut_alone"].isChecked()
        hand.do("box_shown")
        assert [c.id for c in session.stage.active_cuts] == [session.cut.id] and "1 other off" in window.status.text()
        hand.press(Qt.Key.Key_I, CTRL | ALT)
        assert {c.id for c in session.stage.active_cuts} == {new.id, session.cut.id}
    finally:
        set_new_cut_alone(False)


def test_a_locked_scene_is_not_changed_by_anything(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    hand.settle()
    hand.press(Qt.Key.Key_K, CTRL | ALT)
    scene, camera = session.project.scene("long"), session.stage.camera
    assert scene.locked and window.actions_["lock_scene"].isChecked()
    row = window.contact_sheet
    hand.qtbot.wait(30)
    item = row.scenes.index(row.scenes.row_of("long"))
    assert not item.flags() & Qt.ItemFlag.ItemIsEditable
    picture = row.viewport().grab(row.visualRect(item)).toImage()
    corner = np.array([[picture.pixelColor(x, y).value() for x in range(11, 24)] for y in range(72, 86)])
    assert corner.min() < 60  # a small lock is seen in the corner of its picture
    # A stray drag leaves it where it is, and says so.
    hand.drag(hand.stage, (300, 160), (380, 200))
    assert session.stage.camera == camera and "locked" in window.status.text() and session.scene == scene
    hand.qtbot.wait(20)
    QTest.mouseClick(window.status.offered, Qt.MouseButton.LeftButton)
    assert session.scene is None and session.stage.camera == camera
    hand.drag(hand.stage, (300, 160), (380, 200))
    assert session.stage.camera != camera and session.project.scene("long") == scene
    # Trying something on it makes a free stage, said plainly; what follows a cut does not change it either.
    window.contact_sheet.recall("long")
    session.pick(cut="along")
    hand.type_into(window.inspector.cut.place.fields["move"], "7")
    assert session.scene is None and "free stage" in window.status.text()
    hand.press(Qt.Key.Key_M, CTRL)
    assert "1 locked scene keeps it as it was" in window.status.text()
    assert session.project.scene("long") == scene and session.project.scene("cutaway").state.cut("along").axis.position == 7.0
    # Neither replaced nor deleted nor renamed, until it is unlocked.
    window.commands.scenes.replace_scene("long")
    assert "is locked" in window.status.text()
    window.commands.scenes.delete_scene("long")
    assert session.project.scene("long") == scene
    window.contact_sheet.recall("long")
    hand.press(Qt.Key.Key_K, CTRL | ALT)
    hand.drag(hand.stage, (300, 160), (380, 200))
    assert session.stage.camera != camera and session.scene is not None


def test_a_plane_is_tilted_by_its_arch_by_a_number_and_in_the_key_elevation(large) -> None:
    hand, window, session = large, large.window, large.window.session
    window.contact_sheet.recall("cutaway")
    session.pick(cut="along")
    hand.settle()
    handles = window.overlay.handles
    start, end = handles.arch[8], handles.arch[15]
    assert handles.under(*start) == "tilt" and handles.under(*handles.ring[0]) == "turn"
    hand.drag(hand.stage, start, end, modifiers=CTRL)
    tilted = session.cut.axis
    assert 20 < tilted.tilt < 60 and tilted.heading == pytest.approx(90) and "Tilted Section A" in window.status.text()
    face = next(f for f in session.left().faces if f.cut.id == "along")
    assert face.plane == tilted  # what is cut is cut along it
    hand.type_into(window.inspector.cut.place.fields["tilt"], "0")
    assert session.cut.axis.tilt == pytest.approx(0, abs=1e-9) and session.cut.axis.position == pytest.approx(
        -tilted.offset / tilted.normal[1], abs=20
    )
    # At the slope of the roof it stops, and says what is there.
    handles = window.overlay.handles
    slope = 90 - float(np.degrees(np.arctan(0.70)))
    angles = np.radians([30.0, 30.0 + slope - 0.9])
    step = handles.viewport.metres_per_pixel(handles.centre) * 60.0
    ahead = np.cross(session.cut.axis.level_axis, [0, 0, 1])
    spots = [
        handles.viewport.pixels(handles.centre + step * (np.cos(a) * ahead + np.sin(a) * np.array([0, 0, 1]))) for a in angles
    ]
    hand.drag(hand.stage, spots[0], spots[1], release=False)
    assert abs(abs(session.cut.axis.tilt) - slope) < 0.01 and window.overlay.snap == "along the roof"
    QTest.mouseRelease(hand.stage, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(*map(round, spots[1])))
    # In the elevation that sees it edge on its ends tilt it.
    drawing = window.key_elevation
    across = Plane((14.0, 6.2, 3.0), tuple(drawing.sheet.right.tolist()))
    session.apply(edits.change_cut(session.project, "along", plane=across), "Across")
    QApplication.processEvents()
    assert drawing.mark_of(session.cut).knobs[0].hold == "tilt"
    hand.settle()
    knob = drawing.knob_place(drawing.mark_of(session.cut).knobs[0])
    hand.drag(drawing, knob, knob + [14, 2], modifiers=CTRL)
    assert abs(session.cut.axis.tilt) > 2 and abs(session.cut.axis.n @ drawing.sheet.towards) < 1e-9


def test_parts_are_taken_over_put_back_recalled_and_given_by_themselves(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    start = session.project.scene("long").state
    strip = window.parts_strip
    assert not strip.isVisible()
    hand.drag(hand.stage, (300, 160), (380, 200), button=Qt.MouseButton.RightButton)
    session.apply(edits.set_look(session.project, start.look.model_copy(update={"cut_weight": 1.4})), "Heavier")
    hand.qtbot.waitUntil(strip.isVisible)
    assert strip.words.text() == "Not as in Long section: view, look"
    menu = strip.put.menu()
    menu.aboutToShow.emit()
    assert [a.text() for a in menu.actions() if a.text()] == ["All of it", "View", "Look"]
    next(a for a in menu.actions() if a.text() == "View").trigger()
    assert session.stage.camera == session.project.scene_as_shown.camera and session.stage.look.cut_weight == 1.4
    menu = strip.take.menu()
    menu.aboutToShow.emit()
    next(a for a in menu.actions() if a.text() == "Look").trigger()
    assert session.project.scene("long").state.look.cut_weight == 1.4 and not strip.isVisible()
    assert session.project.scene("long").state.cuts == start.cuts and "took over: look" in window.status.text()
    # The look of one scene in others, and nothing else of it.
    hand.do("give_parts")
    asked = dialog(window, PartsDialog)
    names = [asked.scenes.item(i).text() for i in range(asked.scenes.count())]
    for name in ("Cross section, clubroom", "Stepped section"):
        asked.scenes.item(names.index(name)).setCheckState(Qt.CheckState.Checked)
    cross = session.project.scene("cross").state
    asked.go.click()
    given = session.project.scene("cross").state
    assert given.look.cut_weight == 1.4 and given.camera == cross.camera and given.cuts == cross.cuts
    # A scene that remembers its view alone.
    hand.do("save_parts")
    asked = dialog(window, PartsDialog)
    asked.name.setText("View of the hall")
    for i in range(1, asked.ticks.count()):
        asked.ticks.item(i).setCheckState(Qt.CheckState.Unchecked)
    asked.go.click()
    view = session.project.scenes[-1]
    assert view.name == "View of the hall" and "which remembers: view" in window.status.text()
    window.contact_sheet.recall("exploded")
    shown = session.stage
    window.contact_sheet.recall(view.id)
    assert session.stage.exploded == shown.exploded and session.stage.camera.target == view.state.camera.target


def test_other_scenes_are_picked_and_moved_in_the_key_plan(large) -> None:
    hand, window, session = large, large.window, large.window.session
    window.contact_sheet.recall("long")
    hand.settle()
    plan, scene = window.key_plan, session.project.scene("cross")
    assert plan.others.under(QPointF(*plan.to_pixels(np.array([24.4, 3.0])))) is None  # not drawn yet
    hand.do("other_scenes")
    try:
        plan.fit()
        eye, _ = plan.others._camera(scene)
        spot = np.clip(eye, 6, [plan.width() - 6, plan.height() - 6])
        plan.shift_to(plan.centre + (eye - spot) * [1, -1] * plan.metres_per_pixel)
        eye, _ = plan.others._camera(scene)
        hand.drag(plan, eye, eye + [-9, 0])
        moved = session.project.scene("cross").state
        assert session.picked.scenes == ("cross",) and moved.camera.eye[0] < scene.state.camera.eye[0] - 0.5
        assert moved.cuts == scene.state.cuts and session.project.current_scene == "long"
        # Its cut, with every scene that has it; one press of undo each.
        plan.fit()
        line = plan.to_pixels(np.array([24.4, 10.0]))
        assert plan.others.under(QPointF(*line)).cut.id == "across", plan._under(QPointF(*line))
        hand.drag(plan, line, line + [12, 0])
        across = {s.id: s.state.cut("across").axis.position for s in scenes_with(session.project, "across")}
        assert len(set(across.values())) == 1 and across["cross"] > 24.9 and "Section B moved in 4 scenes" in window.status.text()
        hand.do("undo")
        hand.do("undo")
        assert session.project.scene("cross") == scene
        session.apply(edits.lock_scene(session.project, "cross", True), "Locked")
        hand.drag(plan, plan.others._camera(scene)[0], eye + [-30, 0])
        assert session.project.scene("cross").state == scene.state and "is locked" in window.status.text()
    finally:
        set_other_scenes_drawn(False)
