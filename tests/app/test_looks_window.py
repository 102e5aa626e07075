"""Looks in the real window: tried on in the foot, changed in the inspector, taken to a file and back."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from anatome.look.shipped import shipped_looks
from helpers import close_to


def test_looks_are_tried_on_taken_back_and_kept(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("cross")
    hand.settle()
    before, steps, picture = session.stage, session.history.undo_label, hand.picture()
    hand.press(Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    tried, strip = window.look_round, window.looks
    assert strip.isVisible() and not window.contact_sheet.isVisible() and strip.title.text() == "Looks"
    hand.qtbot.waitUntil(lambda: len(tried.images) == tried.count, timeout=60_000)
    assert [look.name for look in tried.looks][: len(shipped_looks())] == list(shipped_looks())
    assert len({bytes(image.constBits()) for image in tried.images.values()}) == tried.count  # no two look alike

    def click(name: str) -> None:
        number = [look.name for look in tried.looks].index(name)
        strip.row.scrollToItem(strip.row.item(number))
        at = strip.row.visualItemRect(strip.row.item(number)).center()
        hand.click(strip.row.viewport(), at.x(), at.y())

    click("Night blue")
    look = shipped_looks()["Night blue"]
    assert session.stage.look == look and session.stage.cuts == before.cuts
    night = hand.picture()
    paper = np.round(np.array(look.paper) * 255)
    # The paper is dark at the foot, and becomes the sky's colour upwards; the cut stands out pale.
    assert close_to(night[-3:], paper, 6).any() and close_to(night, np.round(np.array(look.poche) * 255)).sum() > 1_000
    assert np.abs(night.astype(int) - picture).max(axis=2).mean() > 60
    # One may look round meanwhile, and go from one to the next; it stays one step.
    hand.do("view Axonometric, front left")
    camera = session.stage.camera
    click("Hatched by material")
    assert session.stage.camera == camera and session.stage.look.name == "Hatched by material"
    hand.press(Qt.Key.Key_Escape)
    assert session.stage.look == before.look and tried.active and session.history.undo_label == steps
    click("White model")
    click("White model")
    assert not tried.active and window.contact_sheet.isVisible() and session.stage.look == shipped_looks()["White model"]
    hand.do("undo")
    assert session.stage.look == before.look
    # A scene keeps what it was saved with, whatever is tried on.
    assert session.project.scene("cross").state.look == before.look


def test_a_look_is_changed_saved_and_loaded(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    window, session = hand.window, hand.window.session
    box = window.inspector.overview.look
    box.fold.button.click()
    window.contact_sheet.recall("cross")
    session.pick_cut(None)
    for key, value in (("hatch", "only"), ("cut_weight", 1.0), ("surfaces", "white")):
        choice = box.choices[key]
        choice.setCurrentIndex(choice.findData(value))
        choice.activated.emit(choice.currentIndex())
    hand.type_into(box.numbers["shadows"], "35")
    hand.type_into(box.numbers["sun_height"], "120")
    look = session.stage.look
    assert (look.hatch, look.cut_weight, look.surfaces, look.shadows, look.sun_height) == ("only", 1.0, "white", 0.35, 90.0)
    shaded = hand.picture()
    hand.type_into(box.numbers["shadows"], "0")
    assert hand.picture().astype(int).sum() > shaded.astype(int).sum()
    hand.do("undo")
    path = tmp_path / "mine.look.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(path), ""))
    hand.do("save_look")
    box.switches["edges"].click()
    assert not session.stage.look.edges
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    hand.do("load_look")
    assert session.stage.look == look.model_copy(update={"name": "mine"}) and box.name.text() == "mine"
    box.switches["shade"].click()
    assert session.stage.look.name == "mine, changed"
    told = []
    monkeypatch.setattr(window, "tell", lambda text, title="": told.append(text))
    path.write_text("{}")
    hand.do("load_look")
    assert "holds no look" in told[0] and session.stage.look.name == "mine, changed"
