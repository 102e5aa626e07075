"""Metres, and feet and inches, as people type and read them."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from anatome.app.base import units
from anatome.app.base.papers import papers, scales
from anatome.app.window.settings_dialog import SettingsDialog
from anatome.notes.facts import area as note_area
from anatome.notes.facts import length as note_length
from anatome.notes.facts import level
from helpers import accent_mask


@pytest.fixture(autouse=True)
def metric_again() -> Iterator[None]:
    yield
    units.UNITS.feet = False


@pytest.mark.parametrize(
    ("text", "inches"),
    [
        ("5' 6 1/2\"", 66.5),
        ("5′ 6½″".replace("½", " 1/2"), 66.5),
        ("5'6\"", 66),
        ("5 ft 6 in", 66),
        ("5.5 ft", 66),
        ("66 in", 66),
        ('7/8"', 0.875),
        ("-2' 3\"", -27),
        ("12'-0 3/8\"", 144.375),
        ("5'", 60),
        ("3' 4", 40),
    ],
)
def test_feet_and_inches_are_read_whatever_is_set(text: str, inches: float) -> None:
    for units.UNITS.feet in (False, True):
        assert units.read_length(text) == pytest.approx(inches * 0.0254)


def test_metres_are_read_whatever_is_set_and_bare_numbers_as_it_is_set() -> None:
    for units.UNITS.feet in (False, True):
        assert units.read_length("1,25 m") == 1.25 and units.read_length("80 cm") == pytest.approx(0.8)
        assert all(units.read_length(wrong) is None for wrong in ("", "x", "5 6", "1/2", "5' x", '1/0"', "m", "'", "--3 m"))
    units.UNITS.feet = False
    assert units.read_length("10") == 10
    units.UNITS.feet = True
    assert units.read_length("10") == pytest.approx(3.048)


@given(count=st.integers(-(10**6), 10**6))
def test_what_is_written_is_read_again(count: int) -> None:
    """To the sixteenth of an inch, with the fraction in lowest terms and inches under twelve."""
    units.UNITS.feet = True
    metres = count / 16 * 0.0254
    text = units.length(metres)
    assert units.read_length(text) == pytest.approx(metres, abs=1e-9)
    feet, _, rest = text.lstrip("-").partition("' ")
    inches = (rest or feet).rstrip('"').split()
    whole = sum((Fraction(part) for part in inches), Fraction(0))
    assert 0 <= whole < 12 and all(Fraction(part).denominator == int(part.split("/")[1]) for part in inches if "/" in part)
    units.UNITS.feet = False
    assert units.read_length(units.length(metres)) == pytest.approx(metres, abs=0.000501)


def test_areas_and_volumes() -> None:
    """A foot is 0.3048 m, so 100 m² are 1076.39 ft² and 1 m³ is 35.315 ft³ (conversions of the 1959 agreement)."""
    units.UNITS.feet = True
    assert (units.area(100.0), units.volume(1.0)) == ("1,076.4 ft²", "35.3 ft³")
    assert (units.length(0.0), units.length(-0.001), units.length(3.048, 2, signed=True)) == ('0"', '-1/16"', "+10' 0\"")
    units.UNITS.feet = False
    assert (units.length(-0.0001), units.length(0.0, 2, signed=True), units.area(2.0)) == ("0.000 m", "+0.00 m", "2.00 m²")


def test_the_whole_window_speaks_feet_and_inches(hand) -> None:
    window, session = hand.window, hand.window.session
    hand.place(*hand.point_on((12.0, 0.0, 2.0)))
    depth = window.stage_input.number
    assert depth.text().endswith(" m")
    hand.do("feet")
    assert '"' in depth.text() and " m" not in depth.text() and window.actions_["feet"].isChecked()
    hand.type_into(depth, "3' 6\"")
    assert session.cut.plane.position == pytest.approx(1.0668) or abs(session.cut.plane.position) == pytest.approx(1.0668)
    page = window.inspector.cut
    texts = [w.text() for w in page.findChildren(type(depth)) if w.isVisible() and w._unit == "m"]
    assert texts and all("'" in t or '"' in t for t in texts if t != "all there is")
    assert '+0"' in window.key_plan_panel.choice.currentText()
    hand.do("measure")
    hand.hover(*hand.point_on((12.0, session.cut.plane.origin[1] - 0.01, 2.0)))
    preview = window.stage_input._overlay.preview
    assert preview is not None and any('"' in m.text for m in preview.measures)
    assert accent_mask(hand.screen()).any()
    hand.press(Qt.Key.Key_Escape)
    hand.do("feet")
    assert depth.text().endswith(" m")


def test_a_project_speaks_its_own_units_whoever_opens_it(hand, tmp_path) -> None:
    """Chosen in the settings for this project: lengths, papers, scales and scale bars, saved with it; other projects stay as they
    are. Papers and scales are those of CHECKS (ANSI, Arch; 1/4" = 1'-0" is 1:48)."""
    window, session = hand.window, hand.window.session
    window.show_settings()
    dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, SettingsDialog) and w.isVisible())
    dialog.own_units.setCurrentText("Feet and inches")
    dialog.own_units.activated.emit(dialog.own_units.currentIndex())
    dialog.close()
    assert session.project.units == "imperial" and units.UNITS.feet and units.UNITS.inch_papers
    assert session.stage.note_style.unit == "ft" and '+0"' in window.key_plan_panel.choice.currentText()
    assert units.paper((431.8, 279.4)) == "17 × 11 in" and units.paper((914.4, 609.6)) == "36 × 24 in"
    assert {"ANSI D", "Arch D"} <= set(papers()) and scales()['1/4" = 1\'-0"'] == 48.0
    box = window.inspector.overview.notes
    session.pick()
    box.fraction.setCurrentIndex(box.fraction.findData(8))
    box.fraction.activated.emit(box.fraction.currentIndex())
    style = session.stage.note_style
    assert note_length(3.5, style) == "11' 5 3/4\"" and note_length(0.0127 + 0.0254 / 8, style) == '5/8"'  # to the nearest eighth
    assert note_area(100.0, style) == "1,076.4 ft²" and level(-1.2192, style) == "-4' 0\""
    hand.do("new_sheet")
    page, paper = window.inspector.sheet, window.desk.sheet.paper
    page._set_paper(page.paper.findData("ANSI B"))
    assert window.desk.sheet.paper == pytest.approx((431.8, 279.4)) and paper != window.desk.sheet.paper
    assert (page.wide.text(), page.high.text()) == ("17.00 in", "11.00 in")
    page.wide.editingFinished.emit()
    assert window.desk.sheet.paper == pytest.approx((431.8, 279.4))  # left again, it stays what it is
    hand.type_into(page.wide.lineEdit(), "18")
    assert window.desk.sheet.paper == pytest.approx((457.2, 279.4))
    for _ in range(3):
        hand.do("undo")
    path = tmp_path / "imperial.anatome"
    window.documents.save(path)
    hand.saved()
    hand.do("undo")
    hand.do("undo")
    assert not units.UNITS.feet and session.project.units == ""
    window.commands.files.open_path(path)
    hand.qtbot.waitUntil(lambda: session.project_path == path and session.project.units == "imperial", timeout=30_000)
    assert units.UNITS.feet and units.UNITS.inch_papers
