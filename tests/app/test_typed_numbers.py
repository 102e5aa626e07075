"""Numbers as one types them: sums, more and less, feet and inches; and who has the keyboard afterwards."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QToolTip, QWidget

from anatome.app.base.numbers import amount_in, read_number
from anatome.app.base.units import read_length
from anatome.app.panels.inspector.page import Fold
from anatome.lengths import FOOT, INCH


@pytest.mark.parametrize(
    "text, place, size",
    [
        ("7.726+0.5", 8.226, 8.226),
        ("+0.5", 2.5, 2.5),
        ("-0.25", -0.25, 1.75),
        ("−25 cm", -0.25, 1.75),
        ("3 m - 20 cm", 2.8, 2.8),
        ("12'6\"", 12.5 * FOOT, 12.5 * FOOT),
        ("12'-6\"", 12.5 * FOOT, 12.5 * FOOT),
        ('5\' 6 1/2" + 3"', 5 * FOOT + 9.5 * INCH, 5 * FOOT + 9.5 * INCH),
        ("1+1-0,5+2", 3.5, 3.5),
        ("-1+3", 2.0, 4.0),
        *((text, None, None) for text in ("", "+", "-", "1+", "+-1", "1--1", "a", "1+x", "2*3")),
    ],
)
def test_amounts_are_read_as_they_are_typed(text: str, place: float | None, size: float | None) -> None:
    """Of a place a minus alone is below 0, of a size it is less than there is (2 m)."""
    for wanted, below_zero in ((place, True), (size, False)):
        found = amount_in(text, read_length, 2.0, below_zero)
        assert found is None if wanted is None else found == pytest.approx(wanted)


@given(st.lists(st.floats(0, 1000).map(lambda x: round(x, 3)), min_size=1, max_size=6), st.booleans())
def test_sums_are_sums(numbers: list[float], minus: bool) -> None:
    sign = "-" if minus else "+"
    found = amount_in(f" {sign} ".join(map(str, numbers)), read_number, 5.0, True)
    assert found == pytest.approx(numbers[0] + (-1 if minus else 1) * sum(numbers[1:]), abs=1e-6)


def wheel(widget: QWidget, delta: int) -> None:
    """The wheel turns over a widget; what it does not want goes to what it lies in, as it does with a real wheel."""
    none, keys, phase = Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase
    while widget is not None:
        at = QPointF(widget.width() / 2, widget.height() / 2)
        there = QPointF(widget.mapToGlobal(at.toPoint()))
        event = QWheelEvent(at, there, QPoint(), QPoint(0, delta), none, keys, phase, False)
        QApplication.sendEvent(widget, event)
        if event.isAccepted():
            return
        widget = widget.parentWidget()


def test_a_cut_is_moved_by_a_number_from_wherever_it_was_picked(large) -> None:
    window, session, stage = large.window, large.window.session, large.stage
    window.contact_sheet.recall("cutaway")
    window.activateWindow()
    button = window.inspector.overview.cuts.itemAt(0).layout().itemAt(1).widget()
    large.click(button, 20, 10)
    before = session.cut.plane
    assert session.cut is not None and QApplication.focusWidget() is stage
    large.qtbot.keyClick(stage, Qt.Key.Key_Up)  # arrows move it
    nudged = session.cut.plane
    assert nudged != before
    large.do("undo")
    # Typed on the stage: half a metre more.
    value = session.cut.value("move")
    large.qtbot.keyClicks(stage, "+")
    field = window.stage_input.number
    large.qtbot.keyClicks(field, "0.5")
    large.qtbot.keyClick(field, Qt.Key.Key_Return)
    assert session.cut.value("move") == pytest.approx(value + 0.5) and QApplication.focusWidget() is stage
    # Typed in the inspector, whose text a click marks; Return gives the keyboard back, so that undo is at hand.
    field = window.inspector.cut.place.fields["move"]
    large.click(field, 20, 10)
    assert field.selectedText() == field.text()
    large.qtbot.keyClicks(field, "7.726+0.5")
    large.qtbot.keyClick(field, Qt.Key.Key_Return)
    assert session.cut.value("move") == pytest.approx(8.226) and QApplication.focusWidget() is stage
    assert "sums such as" in field.toolTip() and "less than 0" in field.toolTip()
    # Tab takes a number over as well, and goes on to the next field.
    large.click(field, 20, 10)
    large.qtbot.keyClicks(field, "8.5")
    large.qtbot.keyClick(field, Qt.Key.Key_Tab)
    following = QApplication.focusWidget()
    assert session.cut.value("move") == pytest.approx(8.5) and following is not stage and following is not field
    large.do("undo")
    large.click(field, 20, 10)
    large.qtbot.keyClicks(field, "8 o'clock")
    large.qtbot.keyClick(field, Qt.Key.Key_Return)
    assert session.cut.value("move") == pytest.approx(8.226) and "is no number. Type one such as" in QToolTip.text()
    large.qtbot.keyClick(field, Qt.Key.Key_Escape)


def test_the_wheel_over_what_is_not_in_hand_scrolls_and_changes_nothing(large) -> None:
    window, session = large.window, large.window.session
    window.contact_sheet.recall("cutaway")
    session.pick(cut=session.stage.cuts[0].id)
    large.stage.setFocus()
    field, before = window.inspector.cut.place.fields["move"], session.stage
    wheel(field, 120)
    assert session.stage == before
    session.pick()
    folds = window.inspector.overview.findChildren(Fold)
    for fold in folds:
        fold.button.setChecked(True)
    QApplication.processEvents()
    boxes = [box for box in window.inspector.findChildren(QComboBox) if box.isVisible()]
    for box in boxes:
        shown = box.currentIndex()
        wheel(box, -120)
        assert box.currentIndex() == shown
    bar = window.inspector.verticalScrollBar()
    assert session.stage == before and len(boxes) > 4 and bar.value() > 0, (bar.maximum(), bar.value())
    for fold in folds:
        fold.button.setChecked(fold.open_at_first)
    session.pick(cut=session.stage.cuts[0].id)
    QTest.mouseClick(field, Qt.MouseButton.LeftButton, pos=QPoint(20, 10))
    wheel(field, 120)  # in hand it nudges
    assert session.stage != before
