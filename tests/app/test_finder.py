"""Anything is found by a few letters, in whatever words the trade has for it, and Return goes there."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from anatome.app.panels.inspector.page import Fold
from anatome.app.window.finder import Finder
from anatome.app.window.synonyms import COMMANDS, SETTINGS

WANTED = {
    "line weight": "Outline of the cut",
    "units": "Feet and inches",
    "unit": "Feet and inches",
    "concrete": "Concrete",
    "hide": "Hide",
    "set aside": "Hide",
    "isolate": "Isolate",
    "bring back": "Show all",
    "elevation": "Front",
    "camera": "Angle and lens",
    "print": "Sheets…",
    "zoom": "Fit",
    "render": "Ray-traced still",
    "hatch": "Hatches",
    "field of view": "Angle and lens",
    "background": "Paper, colour",
    "shortcuts": "Keys…",
    "roof off": "Lift what lies above",
    "shadow": "Cast shadows",
    "poche": "Fill",
    "dressed": "Long section, dressed",
    "evening": "Evening",
    "pendant": "Pendant lamp",
    "one cut in": "One cut in four looks",
}
"""What is typed, and what is among the first six then."""


def opened(hand) -> Finder:
    hand.press(Qt.Key.Key_Space, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    hand.qtbot.waitUntil(lambda: any(isinstance(w, Finder) and w.isVisible() for w in QApplication.topLevelWidgets()))
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, Finder) and w.isVisible())


def listed(finder: Finder, words: str) -> list[str]:
    finder.field.clear()
    QTest.keyClicks(finder.field, words)
    return [finder.found.item(row).text() for row in range(finder.found.count())]


def go(hand, words: str, name: str) -> None:
    """Type, walk to a name, and press Return."""
    finder = opened(hand)
    place = listed(finder, words).index(name)
    while finder.found.currentRow() != place:
        QTest.keyClick(finder.field, Qt.Key.Key_Down)
    QTest.keyClick(finder.field, Qt.Key.Key_Return)


def test_the_words_of_the_trade_find_it(hand) -> None:
    finder = opened(hand)
    for words, wanted in WANTED.items():
        assert wanted in listed(finder, words)[:6], words
    # Best first, and nothing that shares two letters only.
    for words in ("line weight", "units", "concrete", "hide", "isolate"):
        assert listed(finder, words)[0] == WANTED[words]
    assert listed(finder, "zqxj") == [] and "Try another word" in finder.tip.text()
    for name in listed(finder, "is")[:8]:
        thing = next(t for t in finder._all if t.name == name)
        said = f"{thing.name} {thing.also} {thing.where} {thing.tip}".lower().replace("-", " ")
        assert any(part.startswith("is") for part in said.split())


def test_a_setting_is_gone_to_unfolded_and_in_hand(hand) -> None:
    window, inspector = hand.window, hand.window.inspector
    look = inspector.overview.look
    for fold in inspector.overview.findChildren(Fold):
        fold.button.setChecked(False)
    session = window.session
    session.pick(elements=frozenset({session.building.elements[0].id}))
    go(hand, "line weight", "Outline of the cut")
    field = look.choices["cut_weight"]
    hand.qtbot.waitUntil(lambda: window.focusWidget() is field)
    assert not session.picked.elements and field.isVisible() and field.property("found")
    place = field.mapTo(inspector.viewport(), field.rect().center())
    assert inspector.viewport().rect().contains(place)
    hand.qtbot.waitUntil(lambda: not field.property("found"), timeout=4_000)
    hand.press(Qt.Key.Key_Down)  # a list in hand goes on
    assert field.currentIndex() >= 0


def test_scenes_looks_sheets_and_parts_are_gone_to(hand) -> None:
    window, session = hand.window, hand.window.session
    go(hand, "cross", "Cross section, clubroom")
    assert session.project.current_scene == "cross"
    go(hand, "night", "Night blue")
    assert session.stage.look.name == "Night blue" and session.history.undo_label == "Look: Night blue"
    go(hand, "four looks", "One cut in four looks")
    assert window.desk.sheet is not None and window.desk.sheet.name == "One cut in four looks"
    go(hand, "concrete", "Concrete")
    assert window.desk.sheet is None
    picked = {session.building.elements[session.building.index_of[i]].material for i in session.picked.elements}
    assert picked == {"Concrete"} and f"{len(session.picked.elements)} parts" in window.status.text()


@pytest.mark.usefixtures("hand")
def test_other_words_are_of_what_there_is(hand) -> None:
    assert set(COMMANDS) <= {entry.name for entry in hand.window.actions_.entries()}
    hand.window.session.pick()
    there = {setting.words for setting in hand.window.inspector.settings()}
    hand.do("crop")
    there |= {setting.words for setting in hand.window.inspector.settings()}
    assert set(SETTINGS) <= there
