"""The page of all scenes: sets, search, several picked, put in order, and fluid with five hundred."""

from __future__ import annotations

import time

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit

from anatome.app.base.picture_row import ID, PICTURE
from anatome.app.commands.many_scenes import NameDialog, SetDialog
from anatome.app.commands.more_scenes import LooksDialog
from anatome.app.panels.scenes.scene_model import STACK
from anatome.scenes import scene_sets
from anatome.scenes.scene_sets import groups_of
from anatome.scenes.variants import OFFERED

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
HOLD = 0.3
"""Seconds; what grows with the square of the scenes takes longer. How long it really takes is measured elsewhere."""


def spot(listed, scene: str) -> QPoint:
    """The middle of the picture of a scene in a list."""
    return listed.visualRect(listed.scenes.index(listed.scenes.row_of(scene))).center()


def click(listed, scene: str, modifiers=NONE) -> None:
    listed.scrollTo(listed.scenes.index(listed.scenes.row_of(scene)))
    QTest.mouseClick(listed.viewport(), LEFT, modifiers, spot(listed, scene))


def drop(listed, ids: list[str], at: QPoint) -> None:
    """Let go of scenes that are dragged over a list; Qt runs no drag in a test."""
    rows = [listed.scenes.index(listed.scenes.row_of(i)) for i in ids]
    dragged = listed.scenes.mimeData(rows)  # the event does not keep it
    event = QDropEvent(QPointF(at), Qt.DropAction.MoveAction, dragged, LEFT, NONE)
    listed.dropEvent(event)
    assert event.isAccepted() and event.dropAction() == Qt.DropAction.IgnoreAction
    QApplication.processEvents()


def opened(hand):
    hand.press(Qt.Key.Key_F4)
    page = hand.window.scene_page
    hand.qtbot.waitUntil(page.isVisible)
    QApplication.processEvents()
    return page


def asked(window, kind):
    return next(d for d in window.findChildren(kind) if d.isVisible())


def order(session) -> list[tuple[str, list[str]]]:
    return [(g.name, [s.id for s in g.scenes]) for g in groups_of(session.project)]


def test_scenes_are_picked_put_into_sets_folded_named_and_recalled(large) -> None:
    hand, window, session = large, large.window, large.window.session
    hand.pictured()
    page = opened(hand)
    listed = page.list
    click(listed, "long")
    click(listed, "sheet", CTRL)
    assert session.picked.scenes == ("long", "sheet") and window.inspector.many_scenes.isVisible()
    assert window.inspector.many_scenes.title.text() == "2 scenes" and session.project.current_scene != "sheet"
    hand.do("scenes_set")
    dialog = asked(window, SetDialog)
    dialog.set.setEditText("Sections")
    dialog.go.click()
    hand.qtbot.wait(50)
    assert ("Sections", ["long", "sheet"]) in order(session) and session.picked.scenes == ("long", "sheet")
    hand.do("scenes_name")
    dialog = asked(window, NameDialog)
    dialog.pattern.setText("{mark}, along")
    assert dialog.example.text() == "“A, along”, “B, along”"
    dialog.go.click()
    assert [session.project.scene(i).name for i in ("long", "sheet")] == ["A, along", "B, along"]
    # Its heading folds it, here and in the row at the foot; that is nothing to save, and no step.
    label = session.history.undo_label
    heading = next(i for i, row in enumerate(listed.scenes.rows) if row.scene is None and row.set == "Sections")
    listed.scrollTo(listed.scenes.index(heading))
    QTest.mouseClick(listed.viewport(), LEFT, NONE, listed.visualRect(listed.scenes.index(heading)).center())
    hand.qtbot.waitUntil(lambda: listed.scenes.row_of("long") is None)
    assert window.contact_sheet.scenes.row_of("long") is None and session.history.undo_label == label
    listed.fold("Sections")
    hand.qtbot.waitUntil(lambda: listed.scenes.row_of("long") is not None)
    # Dragged: before another one, and on to a heading. What is searched for is what is left.
    box = listed.visualRect(listed.scenes.index(listed.scenes.row_of("outside")))
    drop(listed, ["cross", "corner"], QPoint(box.left() + 4, box.center().y()))
    assert [s.id for s in session.project.scenes][:3] == ["cross", "corner", "outside"]
    heading = next(i for i, row in enumerate(listed.scenes.rows) if row.scene is None and row.set == "Sections")
    listed.scrollTo(listed.scenes.index(heading))
    drop(listed, ["cross"], listed.visualRect(listed.scenes.index(heading)).center())
    assert ("Sections", ["long", "sheet", "cross"]) in order(session)
    QTest.keyClicks(page.search, "sections")
    hand.qtbot.waitUntil(lambda: len(listed.scenes.rows) == 4)
    hand.press(Qt.Key.Key_Escape)
    assert not page.search.text() and page.isVisible()
    # A rectangle over empty paper picks what it touches.
    listed.scrollToTop()
    session.pick()
    hand.qtbot.wait(30)
    last = listed.visualRect(listed.scenes.index(1))
    view = listed.viewport()
    start = QPoint(view.width() - 30, last.center().y() + 20)
    assert not listed.indexAt(start).isValid()
    QTest.mousePress(view, LEFT, NONE, start)
    for x in (start.x() - 40, last.center().x() + 30, last.center().x()):
        QTest.mouseMove(view, QPoint(x, last.center().y()))
        hand.qtbot.wait(20)
    QTest.mouseRelease(view, LEFT, NONE, QPoint(last.center().x(), last.center().y()))
    assert listed.scenes.row(1).scene in session.picked.scenes
    # A double click puts one on the stage, and the page is gone.
    listed.scrollTo(listed.scenes.index(listed.scenes.row_of("cross")))
    QTest.mouseDClick(view, LEFT, NONE, spot(listed, "cross"))
    assert not page.isVisible() and session.project.current_scene == "cross" and not session.picked.scenes


def test_what_is_picked_is_locked_dressed_laid_out_and_deleted_as_one(hand) -> None:
    window, session = hand.window, hand.window.session
    row = window.contact_sheet
    window.contact_sheet.recall("long")
    before = session.project
    QApplication.processEvents()
    click(row, "outside")
    assert session.project.current_scene == "outside" and not session.picked.scenes  # one alone is recalled
    click(row, "cutaway", SHIFT)
    assert session.picked.scenes == ("outside", "long", "cutaway") and session.project.current_scene == "outside"
    look = session.stage.look.model_copy(update={"name": "Heavy", "cut_weight": 1.4})
    session.apply(session.project.with_stage(look=look), "Heavier")
    session.pick(scenes=["long", "cutaway"])
    hand.do("scenes_look")
    assert [session.project.scene(i).state.look.name for i in ("long", "cutaway")] == ["Heavy", "Heavy"]
    hand.do("scenes_lock")
    assert session.project.scene("long").locked and session.project.scene("cutaway").locked
    QTest.keyClick(row, Qt.Key.Key_Delete)
    assert "2 of these scenes are locked" in window.status.text() and session.project.scene("long") is not None
    hand.do("scenes_lock")
    hand.do("scenes_sheet")
    sheet = window.desk.sheet
    assert sheet is not None and [f.scene for f in sheet.frames] == ["long", "cutaway"]
    window.desk.close()
    session.pick(scenes=["long", "cutaway"])
    hand.do("scenes_delete")
    assert session.project.scene("long") is None and session.project.scene("cutaway") is None
    for _ in range(12):
        if session.project.scenes == before.scenes:
            break
        hand.do("undo")
        hand.do("undo") if "Undo once more" in window.status.text() else None
    assert session.project.scenes == before.scenes
    # Renamed where it stands.
    hand.qtbot.wait(30)
    listed = opened(hand).list
    listed.setCurrentIndex(listed.scenes.index(listed.scenes.row_of("long")))
    QTest.keyClick(listed, Qt.Key.Key_F2)
    editor = listed.findChild(QLineEdit)
    editor.selectAll()
    QTest.keyClicks(editor, "Along the river")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    hand.qtbot.waitUntil(lambda: session.project.scene("long").name == "Along the river")


def test_five_hundred_scenes_hold_the_window_for_no_moment(hand) -> None:
    window, session = hand.window, hand.window.session
    hand.pictured()
    project = session.project
    many = [
        scene.model_copy(update={"id": f"{scene.id}{n}", "name": f"{scene.name} {n}", "set": f"Set {n % 12}"})
        for n in range(30)
        for scene in project.scenes
    ]
    session.apply(scene_sets.together(project.model_copy(update={"scenes": (*project.scenes, *many[:484])})), "Many")
    hand.qtbot.wait(300)
    page = opened(hand)
    listed, longest = page.list, 0.0
    hand.qtbot.wait(200)
    assert len(session.project.scenes) > 495 and listed.scenes.rowCount() > 440

    def timed(action) -> None:
        nonlocal longest
        start = time.thread_time()  # what the window's own thread is busy, whatever else the machine does
        action()
        QApplication.processEvents()
        longest = max(longest, time.thread_time() - start)

    bar = listed.verticalScrollBar()
    for value in np.linspace(0, bar.maximum(), 40).astype(int).tolist():
        timed(lambda value=value: bar.setValue(value))
    listed.scrollToTop()
    hand.qtbot.wait(50)
    for letter in "cross":
        timed(lambda letter=letter: QTest.keyClick(page.search, letter))
    assert all("cross" in f"{listed.scenes.index(i).data()} {r.set}".lower() for i, r in enumerate(listed.scenes.rows) if r.scene)
    page.search.clear()
    hand.qtbot.wait(50)
    some = [r.scene for r in listed.scenes.rows if r.scene][20:30]
    timed(lambda: drop(listed, some, QPoint(30, 60)))
    # A cut that is dragged does not make the list look through all of them.
    page.leave()
    window.contact_sheet.recall("long")
    hand.settle()
    listed.scenes.dataChanged.connect(lambda *_: changed.append(1))
    changed: list[int] = []
    session.pick(cut="along")
    for number in range(5):
        session.apply(session.project.with_stage(opening=0.1 * number + 0.1), "Moved", merge="x")
        QApplication.processEvents()
    assert not changed
    assert longest < HOLD, longest
    assert window.contact_sheet.scenes.index(0).data(ID) and window.contact_sheet.scenes.index(0).data(PICTURE) is not None


def test_variants_are_a_stack_and_a_scene_goes_up_a_storey(hand) -> None:
    window, session = hand.window, hand.window.session
    row = window.contact_sheet
    window.contact_sheet.recall("ground")
    hand.press(Qt.Key.Key_PageUp, CTRL | Qt.KeyboardModifier.AltModifier)
    assert session.scene.name == "Upper floor from above 2" and session.stage.active_cuts[0].axis.position > 4
    assert [s.id for s in session.project.scenes].index(session.scene.id) == [s.id for s in session.project.scenes].index(
        "ground"
    ) + 1
    window.contact_sheet.recall("long")
    hand.press(Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.AltModifier)
    dialog = asked(window, LooksDialog)
    assert [dialog.looks.item(i).text() for i in dialog.looks.ticked()] == list(OFFERED["Shaded, in colour, black and white"])
    dialog.offered.setCurrentText("White, hatched, night")
    dialog.go.click()
    hand.qtbot.wait(40)
    own = [s for s in session.project.scenes if s.stack and s.stack == session.project.scene("long").stack]
    assert len(own) == 4 and [row.scenes.row_of(s.id) for s in own] == [row.scenes.row_of("long")] * 4
    index = row.scenes.index(row.scenes.row_of("long"))
    assert index.data(STACK) == 4
    # Changed once, all follow; each keeps its look.
    session.pick(cut="along")
    hand.type_into(window.inspector.cut.place.fields["move"], "7")
    hand.do("replace_scene")
    assert "3 variants followed" in window.status.text()
    variants = [session.project.scene(s.id) for s in own]
    assert {s.state.cut("along").axis.position for s in variants} == {7.0} and len({s.state.look.name for s in variants}) == 4
    # Its badge unfolds it; another one recalled and folded again is the one that stands for all.
    badge = row.itemDelegate().badge(row.visualRect(index)).center()
    QTest.mouseClick(row.viewport(), LEFT, NONE, badge)
    hand.qtbot.waitUntil(lambda: len({row.scenes.row_of(s.id) for s in own}) == 4)
    row.recall(own[2].id)
    row.unfold(own[0].stack)
    hand.qtbot.waitUntil(lambda: len({row.scenes.row_of(s.id) for s in own}) == 1)
    assert row.scenes.row(row.scenes.row_of("long")).scene == own[2].id
    # Picked on the page, all of it is picked.
    listed = opened(hand).list
    hand.qtbot.wait(30)
    click(listed, "long")
    assert len(session.picked.scenes) == 4
    window.scene_page.leave()
    hand.do("variants_free")
    assert not session.scene.stack and sum(bool(s.stack == own[0].stack) for s in session.project.scenes) == 3
