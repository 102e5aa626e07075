"""From scene to scene: transitions that any input stops, and scenes shown full screen."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from anatome.app.document import preferences
from anatome.scenes import edits

LEFT, RIGHT = Qt.MouseButton.LeftButton, Qt.MouseButton.RightButton


@pytest.fixture
def slow(held, monkeypatch: pytest.MonkeyPatch):
    """The window on its first scene, with transitions that take long enough to be stopped."""
    held.window.contact_sheet.recall("outside")
    preferences.set_transition_seconds(1.5)
    held.settle()
    return held


def between(hand, share: float) -> None:
    """Wait until so much of the way lies behind."""
    passage = hand.window.passage
    hand.qtbot.waitUntil(lambda: passage._way is not None and passage._share > share, timeout=30_000)


def wheel(widget) -> None:
    """A notch, forwards."""
    at, none = QPoint(200, 150), Qt.KeyboardModifier.NoModifier
    way = at, widget.mapToGlobal(at), QPoint(), QPoint(0, 120)
    QApplication.sendEvent(widget, QWheelEvent(*way, Qt.MouseButton.NoButton, none, Qt.ScrollPhase.NoScrollPhase, False))


# From scene to scene -------------------------------------------------------------------------------------------


def test_scenes_are_there_at_once_unless_one_wants_transitions(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    assert not window.passage.is_under_way and session.stage == session.project.stage
    hand.do("transitions")
    assert "under way" in window.status.text() and window.actions_["transitions"].isChecked()
    window.contact_sheet.recall("outside")
    assert window.passage.is_under_way
    hand.do("transitions")
    assert not preferences.transition_seconds()
    window.passage.end()


def test_the_stage_is_under_way_and_arrives_exactly_at_the_scene(slow) -> None:
    """Camera and cut are between both while it goes; afterwards nothing is changed, and one undo goes back."""
    window, session = slow.window, slow.window.session
    start, picture = session.stage, slow.now()
    window.contact_sheet.recall("long")
    assert session.project.current_scene == "long" and session.stage == start  # the stage sets out from where it is
    between(slow, 0.4)
    slow.qtbot.waitUntil(lambda: session.stage.cuts != start.cuts and session.stage.camera != start.camera)
    end = session.project.stage
    (cut,), (wanted,) = session.stage.cuts, end.cuts
    assert cut.id == wanted.id and cut.plane.offset > wanted.plane.offset  # it enters from before the building
    slow.qtbot.waitUntil(lambda: not window.passage.is_under_way)
    assert session.stage == end == edits.recall_scene(session.project, "long", slow.stage.aspect).stage
    assert not session.project.differs_from_scene and not session.is_for_now
    assert (np.abs(slow.picture().astype(int) - picture).max(axis=2) > 12).mean() > 0.2
    session.undo()
    session.undo()
    assert session.stage == start


@pytest.mark.parametrize("by", ["wheel", "key", "press"])
def test_any_input_stops_it_where_it_is(slow, by: str) -> None:
    window, session, stage = slow.window, slow.window.session, slow.stage
    window.contact_sheet.recall("long")
    between(slow, 0.3)
    if by == "wheel":
        wheel(stage)
    elif by == "key":
        QTest.keyClick(stage, Qt.Key.Key_Control)
    else:
        QTest.mouseClick(stage, RIGHT, pos=QPoint(5, 5))
    assert not window.passage.is_under_way and session.stage == session.project.stage and not session.is_for_now
    stopped, goal = session.stage, session.project.scene("long").state
    (cut,) = stopped.cuts
    assert goal.cuts[0].plane.offset < cut.plane.offset < goal.cuts[0].plane.offset + 200
    assert session.project.differs_from_scene and session.project.scene("long").state == goal
    while session.project.differs_from_scene:
        session.undo()
    assert session.project.current_scene == "long" and session.stage.cuts == goal.cuts


def test_a_click_on_another_scene_goes_on_from_where_it_is(slow) -> None:
    window, session = slow.window, slow.window.session
    window.contact_sheet.recall("long")
    between(slow, 0.3)
    steps = session.history.undo_label
    window.contact_sheet.recall("cross")
    assert window.passage.is_under_way and session.project.current_scene == "cross"
    assert steps == "Recalled Long section" and session.history.undo_label.startswith("Recalled")
    slow.qtbot.waitUntil(lambda: not window.passage.is_under_way)
    assert session.stage == session.project.stage and not session.project.differs_from_scene


# Presenting ----------------------------------------------------------------------------------------------------


@pytest.fixture
def shown(hand):
    """Scenes being shown, from the long section on, with the next one drawn ahead."""
    window = hand.window
    window.contact_sheet.recall("long")
    hand.settle()
    hand.press(Qt.Key.Key_F11)
    hand.qtbot.waitUntil(lambda: window.curtain.isVisible() and window.curtain.hasFocus())
    ahead(hand)
    yield hand
    window.presentation.leave()


def ahead(hand) -> None:
    stage = hand.stage
    hand.qtbot.waitUntil(lambda: stage.settled and not stage.ahead.busy and not hand.window.passage.is_under_way, timeout=90_000)


def key(hand, which: Qt.Key) -> None:
    QTest.keyClick(hand.window.curtain, which)


def test_the_next_scene_stands_at_once_and_whole(shown) -> None:
    """Drawn ahead: with the first picture after the key it is as fine as it gets, forward and back."""
    window, session, stage = shown.window, shown.window.session, shown.stage
    project = session.project
    assert window.isFullScreen() and stage.size() == window.size() and window.presentation.scene.id == "long"
    order = [scene.id for scene in project.scenes]
    pictures = []
    for which, goes in ((Qt.Key.Key_Right, "long+1"), (Qt.Key.Key_PageUp, "long")):
        drawn: list[bool] = []
        stage.drawn.connect(lambda drawn=drawn: drawn.append(stage._shown is stage._fine))
        key(shown, which)
        shown.qtbot.waitUntil(lambda drawn=drawn: bool(drawn))
        assert drawn[0] and stage.settled
        stage.drawn.disconnect()
        number = order.index("long") + (goes != "long")
        assert window.presentation.scene.id == order[number]
        pictures.append(shown.now())
        ahead(shown)
        # What was drawn ahead is what the stage would have drawn.
        assert (np.abs(shown.now().astype(int) - pictures[-1]).max(axis=2) > 12).mean() < 0.01
    assert (np.abs(pictures[0].astype(int) - pictures[1]).max(axis=2) > 12).mean() > 0.2
    assert session.project is project


def test_a_drag_moves_the_cut_while_the_scene_is_shown_and_no_longer(shown) -> None:
    window, session, curtain = shown.window, shown.window.session, shown.window.curtain
    project, before = session.project, shown.now()
    wheel(curtain)  # it does nothing
    assert session.project is project and session.is_for_now
    cut = window.presentation.cut
    middle = np.array([curtain.width() / 2, curtain.height() / 2])
    shown.drag(curtain, middle, middle - [0, 90])
    moved = window.presentation.cut
    assert moved.id == cut.id and moved.plane.offset < cut.plane.offset - 0.5  # upwards is away
    ahead(shown)
    assert (np.abs(shown.now().astype(int) - before).max(axis=2) > 12).mean() > 0.05
    key(shown, Qt.Key.Key_Right)
    key(shown, Qt.Key.Key_Left)
    assert window.presentation.cut == cut and session.project is project
    shown.click(curtain, *middle)  # a click goes on
    assert window.presentation.scene.id != "long"
    key(shown, Qt.Key.Key_Escape)
    assert not window.presentation.is_on and not curtain.isVisible() and not window.isFullScreen()
    shown.settle()
    assert session.project.scenes == project.scenes and not session.project.differs_from_scene
    assert session.stage.cut(cut.id) == cut
    assert window.header.isVisible() and session.history.undo_label == "Recalled Long section"


def test_the_pen_black_and_the_caption(shown) -> None:
    """Strokes are on the picture, in the accent, and gone with the next scene; Escape steps back one by one."""
    window, curtain = shown.window, shown.window.curtain

    def greens() -> int:
        return int((np.abs(shown.whole().astype(int) - [47, 127, 115]).max(axis=2) < 12).sum())

    curtain.bar.hide()
    bare = greens()
    shown.drag(curtain, (150, 120), (420, 200), button=RIGHT)
    assert len(curtain.strokes) == 1 and greens() > bare + 300
    key(shown, Qt.Key.Key_Tab)
    assert curtain.bar.pen.isChecked()
    shown.drag(curtain, (200, 300), (380, 320))
    assert len(curtain.strokes) == 2 and window.presentation.scene.id == "long"
    key(shown, Qt.Key.Key_Period)
    assert (
        shown.whole().astype(int).max() == 0 or (shown.whole().astype(int).max(axis=2) == 0).mean() > 0.9
    )  # the bar may lie on it
    key(shown, Qt.Key.Key_Escape)
    assert not window.presentation.black and len(curtain.strokes) == 2
    key(shown, Qt.Key.Key_Right)
    assert curtain.strokes == [] and window.presentation.scene.id != "long"
    named = shown.whole().astype(int)
    curtain.bar.words.click()
    at = slice(-90, -20), slice(30, 220)
    assert (np.abs(shown.whole().astype(int)[at] - named[at]).max(axis=2) > 40).sum() > 200  # the name is gone
    curtain.bar.words.click()
    key(shown, Qt.Key.Key_Escape)
    assert not curtain.bar.pen.isChecked() and window.presentation.is_on
    key(shown, Qt.Key.Key_Escape)
    assert not window.presentation.is_on


def test_some_scenes_with_transitions(hand) -> None:
    """Of several picked only those are shown; on the way a key stops, the next goes on."""
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    session.pick(scenes=("outside", "long", "cross"))
    hand.do("present")
    hand.qtbot.waitUntil(window.curtain.isVisible)
    assert window.presentation.place == (2, 3)
    ahead(hand)
    preferences.set_transition_seconds(1.5)
    key(hand, Qt.Key.Key_End)
    assert window.passage.is_under_way and window.presentation.scene.id == "cross" and session.scene.id == "cross"
    between(hand, 0.3)
    key(hand, Qt.Key.Key_Shift)
    assert not window.passage.is_under_way and session.is_for_now
    key(hand, Qt.Key.Key_Home)
    hand.qtbot.waitUntil(lambda: not window.passage.is_under_way, timeout=30_000)
    assert session.stage == edits.recall_scene(session.project, "outside", hand.stage.aspect).stage
    window.presentation.leave()
    assert session.project.current_scene == "long"
