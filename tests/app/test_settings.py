"""Settings on one page: what is set holds at once and after a new start; keys of one's own never collide silently."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeySequence, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from shiboken6 import isValid

from anatome.app.base import units
from anatome.app.base.actions import Actions
from anatome.app.document import preferences as kept
from anatome.app.document.first_look import first_look
from anatome.app.panels.inspector.crop_box import CropBox
from anatome.app.stage.overlay import caption
from anatome.app.window.own_keys import OwnKeys
from anatome.app.window.settings_dialog import SettingsDialog
from anatome.formats.opening import CACHE, cache_used

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def page(hand):
    hand.do("settings")
    made = next(d for d in hand.window.findChildren(SettingsDialog) if d.isVisible())
    yield made
    if isValid(made):
        made._all_back()
        made.close()


def choose(box, text: str) -> None:
    box.setCurrentText(text)
    box.activated.emit(box.currentIndex())


def item(page, words: str):
    return next(i for i in page._items() if i.text(0) == words)


def test_what_is_set_holds_at_once_and_is_kept(hand, page) -> None:
    window = hand.window
    before = window.grab().toImage().pixelColor(4, 60).lightness()
    choose(page.theme, "Dark")
    assert window.is_dark and window.grab().toImage().pixelColor(4, 60).lightness() < before - 100
    choose(page.theme, "Light")
    choose(page.units, "Feet and inches")
    assert units.UNITS.feet
    choose(page.units, "Metric")
    choose(page.new_cut, "switches the others off")
    assert kept.new_cut_alone() and window.actions_["new_cut_alone"].isChecked()
    choose(page.new_cut, "leaves the others on, and offers")
    usual = first_look().name
    choose(page.look, "White model")
    assert first_look().name == "White model"
    choose(page.look, usual)
    page.limit.setValue(7)
    assert kept.cache_gigabytes() == 7 and CACHE.bytes == 7 * 10**9
    page.limit.setValue(kept.USUAL_CACHE)
    assert page.clear.text().startswith(f"{cache_used() / 1e9:.2f} GB")
    # A few letters narrow it, and what is not there is said.
    QTest.keyClicks(page.search, "theme")
    assert page.theme.isVisible() and not page.limit.isVisible()
    page.search.setText("ctrl+m")
    assert [i.text(0) for i in page._items() if not i.isHidden()][:1] == ["Save scene"]
    page.search.setText("xyzzy")
    assert page.nothing.isVisible() and not page.keys.isVisible()


def test_papers_and_scales_in_inches(hand, page) -> None:
    """What lists offer, the paper of a new sheet, and how a scale reads on the stage; either kind may be typed."""
    window, session = hand.window, hand.window.session
    session.apply(session.project.model_copy(update={"sheets": ()}), "No sheets")
    choose(page.papers, 'In inches, and 1/4" = 1\'-0"')
    page.close()
    hand.do("new_sheet")
    sheet = session.project.sheets[0]
    assert sheet.paper == pytest.approx((431.8, 279.4))
    offered = window.inspector.sheet.paper
    assert [offered.itemText(i) for i in range(3)] == ["ANSI A", "ANSI B", "ANSI C"] and offered.currentText() == "ANSI B"
    window.desk.close()
    hand.do("crop")
    crop = window.inspector.findChild(CropBox)
    crop.scale.showPopup()
    crop.scale.hidePopup()
    assert crop.scale.findText('1/4" = 1\'-0"') > 0 and crop.paper.itemText(1) == "ANSI A landscape"
    for typed, wanted, said in (("1/4\" = 1'", 48.0, '1/4" = 1\'-0"'), ("1:50", 50.0, "1:50")):
        crop.scale.setEditText(typed)
        crop._type_scale()
        assert session.stage.crop.scale == pytest.approx(wanted) and crop.scale.currentText() == said
        assert said in caption(session)[1]


def test_moving_about_as_one_likes(hand, page) -> None:
    session, stage = hand.window.session, hand.stage
    choose(page.drag, "shifts the view, with Shift turns it")
    choose(page.wheel, "backwards goes nearer")
    choose(page.turning, "fast")
    page.close()
    assert kept.turning() == kept.FAST
    before, middle = session.stage.camera, (stage.width() / 2, stage.height() / 2)

    def away(camera) -> float:
        return float(np.linalg.norm(np.subtract(camera.axes[2], before.axes[2])))

    hand.drag(stage, middle, (middle[0] + 60, middle[1]))
    assert away(session.stage.camera) < 1e-9 and session.stage.camera.target != before.target
    hand.drag(stage, middle, (middle[0] + 60, middle[1]), modifiers=SHIFT)
    chord = 2 * np.sin(np.radians(60 * 0.35 * kept.FAST) / 2) * np.cos(np.arcsin(before.axes[2][2]))
    assert away(session.stage.camera) == pytest.approx(chord, rel=0.05)
    near = session.stage.camera.distance
    at = QPoint(*map(round, middle))
    event = QWheelEvent(
        at, stage.mapToGlobal(at), QPoint(), QPoint(0, -120), Qt.MouseButton(0), Qt.KeyboardModifier(0), Qt.ScrollPhase(0), False
    )
    QApplication.sendEvent(stage, event)
    assert session.stage.camera.distance < near


def test_keys_of_ones_own_never_collide_silently(hand, page) -> None:
    window, session, actions = hand.window, hand.window.session, hand.window.actions_
    page.keys.setCurrentItem(item(page, "Flat section"))
    page.key.setKeySequence(QKeySequence("Ctrl+Alt+Shift+Q"))
    page._typed()
    assert actions["flat_section"].shortcut() == QKeySequence("Ctrl+Alt+Shift+Q") and not page.problem.isVisible()
    assert "Ctrl+Alt+Shift+Q" in actions["flat_section"].toolTip()
    # One that another command has is said, and changes nothing until it is taken.
    page.key.setKeySequence(QKeySequence("Ctrl+M"))
    page._typed()
    assert "Ctrl+M is the key of “Save scene”" in page.problem.text() and page.take.isVisible()
    assert actions["save_scene"].shortcut() == QKeySequence("Ctrl+M")
    page.take.click()
    assert actions["flat_section"].shortcut() == QKeySequence("Ctrl+M") and actions["save_scene"].shortcut().isEmpty()
    keys = [k.toString() for e in actions.entries() for k in actions[e.name].shortcuts()]
    assert {k for k in keys if keys.count(k) > 1} <= {"Del"}
    # Another start has them too.
    anew = Actions(window.contact_sheet, window.commands.entries())
    OwnKeys(anew)
    assert anew["flat_section"].shortcut() == QKeySequence("Ctrl+M") and anew["save_scene"].shortcut().isEmpty()
    for entry in anew.entries():
        window.contact_sheet.removeAction(anew[entry.name])
    # It does what it says; as it comes, it is asked for its key first.
    page.hide()
    window.activateWindow()
    hand.qtbot.waitUntil(window.isActiveWindow)
    window.contact_sheet.recall("cutaway")
    scenes = len(session.project.scenes)
    hand.press(Qt.Key.Key_M, CTRL)
    assert not session.stage.camera.is_perspective and len(session.project.scenes) == scenes
    assert np.abs(session.true_plane().n @ session.stage.camera.axes[2]) > 0.999
    page.show()
    page.keys.setCurrentItem(item(page, "Save scene"))
    page.back.click()
    assert "is the key of “Flat section”" in page.problem.text()
    page.take.click()
    assert actions["save_scene"].shortcut() == QKeySequence("Ctrl+M") and actions["flat_section"].shortcut().isEmpty()
    # So it is for the second of two keys a command comes with.
    page.keys.setCurrentItem(item(page, "Flat section"))
    page.key.setKeySequence(QKeySequence("Ctrl+Y"))
    page._typed()
    page.take.click()
    page.keys.setCurrentItem(item(page, actions.entry("redo").text))
    assert actions["redo"].shortcuts() == [QKeySequence("Ctrl+Shift+Z")]
    page.back.click()
    assert "Ctrl+Y is the key of “Flat section”" in page.problem.text()
    assert actions["redo"].shortcuts() == [QKeySequence("Ctrl+Shift+Z")]
    page._all_back()
    assert len(actions["redo"].shortcuts()) == 2
    assert actions["flat_section"].shortcut() == QKeySequence("Ctrl+Alt+X")
