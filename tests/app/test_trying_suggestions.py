"""Suggestions in the real window: asked for, tried on, taken back, kept."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from anatome.app.base.ask import Ask
from anatome.app.base.picture_row import PICTURE
from anatome.model.bounds import corners_of
from anatome.view.viewport import Viewport
from helpers import poche_mask

CTRL_ALT = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier


def ask_for(hand, words: str):
    """By the key and the dialog, as a newcomer would; returns the strip when all its pictures are there."""
    hand.press(Qt.Key.Key_S, CTRL_ALT)
    dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Ask) and w.isVisible())
    box = dialog.choices["Show"]
    box.setCurrentIndex(box.findText(words))
    QTest.mouseClick(dialog.go, Qt.MouseButton.LeftButton)
    suggester, strip = hand.window.suggester, hand.window.suggestions
    assert strip.isVisible() and not hand.window.contact_sheet.isVisible()
    hand.qtbot.waitUntil(lambda: bool(suggester.found) and len(suggester.images) == len(suggester.found), timeout=60_000)
    return strip


def click(hand, strip, number: int) -> None:
    at = strip.row.visualItemRect(strip.row.item(number)).center()
    hand.click(strip.row.viewport(), at.x(), at.y())


def test_a_suggestion_is_tried_on_taken_back_and_kept(hand) -> None:
    window, session = hand.window, hand.window.session
    before, undo, plain = session.stage, session.history.undo_label, hand.picture()
    strip = ask_for(hand, "Clubroom")
    assert strip.row.count() == 8 and strip.title.text() == "Suggestions for Clubroom" and strip.progress.isHidden()
    pictures = [strip.row.item(i).data(PICTURE) for i in range(8)]
    assert all(isinstance(p, QPixmap) and not p.isNull() for p in pictures)
    assert len({p.toImage().copy().bits().tobytes() for p in pictures}) == 8  # no two of them alike

    # Those of one kind are told apart; the house is left whole; the keyboard is in the list.
    names = [strip.row.item(i).text() for i in range(8)]
    assert len(set(names)) == 8 and any(name.startswith("Clubroom, ") for name in names), names
    sections = [s for s in window.suggester.found if s.kind == "section"]
    for one in sections:
        face = next(f for f in one.shown.cut_open.faces if f.plane == one.cuts[0].axis).built_bounds()
        spots = Viewport.of(one.camera, 150, 100).pixels(corners_of(face))
        assert (spots > -0.5).all() and (spots < [150.5, 100.5]).all()
    assert window.focusWidget() is strip.row and strip.row.currentRow() == 0
    hand.press(Qt.Key.Key_Return)
    hand.settle()
    first = hand.picture()
    assert session.stage.cuts and strip.words.text().startswith("Shows ") and strip.row.frames.current_id == "0"
    assert poche_mask(first).mean() > 0.01 and (np.abs(first.astype(int) - plain).max(axis=2) > 12).mean() > 0.3
    click(hand, strip, 2)
    hand.settle()
    assert (np.abs(hand.picture().astype(int) - first).max(axis=2) > 12).mean() > 0.1
    hand.press(Qt.Key.Key_Escape)
    assert session.stage == before and strip.isVisible() and session.history.undo_label == undo
    assert (hand.picture() == plain).all()

    # A second click keeps it: one step, and the scenes are back in the foot.
    click(hand, strip, 1)
    click(hand, strip, 1)
    assert not strip.isVisible() and window.contact_sheet.isVisible() and len(session.stage.active_cuts) == 1
    assert session.history.undo_label is not None and session.history.undo_label.startswith("Tried on: ")
    # What was kept is an ordinary cut: it has handles and can be moved.
    session.pick(cut=session.stage.cuts[0].id)
    assert window.overlay.handles is not None and window.actions_["square_on"].isEnabled()
    session.pick()
    hand.do("undo")
    assert session.stage.cuts == before.cuts


@pytest.mark.long
def test_whoever_works_on_has_kept_it_and_escape_closes(hand) -> None:
    window, session = hand.window, hand.window.session
    session.pick(elements=frozenset(e.id for e in session.building.elements if e.type == "IfcStairFlight"))
    hand.do("suggest_picked")
    suggester, strip = window.suggester, window.suggestions
    hand.qtbot.waitUntil(lambda: bool(suggester.found), timeout=60_000)
    click(hand, strip, 0)
    QTest.keyClick(strip.row, Qt.Key.Key_Return)
    assert not strip.isVisible() and session.stage.active_cuts
    strip = ask_for(hand, "The whole building")
    click(hand, strip, 3)
    cut = session.stage.active_cuts[0]
    session.pick(cut=cut.id)
    hand.do("turn_round")
    assert not suggester.active and window.contact_sheet.isVisible()
    hand.do("undo")
    assert cut in session.stage.cuts
    session.pick()
    strip = ask_for(hand, "The whole building")
    hand.press(Qt.Key.Key_Escape)
    assert not strip.isVisible()
    hand.do("close_project")  # in the midst of a round nothing is left behind
