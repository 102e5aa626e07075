"""A still on the stage: begun, watched, stopped, taken up, left by looking round, saved with its scene, and sent out."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from test_sending_out_pictures import dialog

from anatome.app.send_out.pictures import PictureDialog
from helpers import POCHE, close_to


@pytest.fixture(autouse=True)
def few_samples(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("anatome.app.commands.look.USUAL_SAMPLES", 4)


def test_a_still_comes_on_the_stage_and_goes(hand) -> None:
    hand.window.contact_sheet.recall("cross")
    drawn = hand.picture()
    QTest.keyClick(hand.stage, Qt.Key.Key_Y, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    tracing, box = hand.stage.tracing, hand.window.inspector.overview.look.still
    assert hand.window.session.stage.still == 4 and not hand.stage.settled
    traced = hand.picture()
    assert tracing.samples == 4 and box.on.isChecked() and "Finished: 4 samples" in box.note.text()
    # The cut is what it was, to the pixel; the rooms behind it are not.
    cut = close_to(drawn, POCHE, 1)
    assert cut.sum() > 1000 and (np.abs(drawn.astype(int) - traced).max(axis=2)[cut] <= 2).mean() > 0.97
    assert (np.abs(drawn.astype(int) - traced).max(axis=2) > 12).mean() > 0.05
    # Looking round lets go of the light, and it is found anew where one stays.
    session = hand.window.session
    session.look_from(session.stage.camera.orbited(8, 0))
    hand.qtbot.waitUntil(lambda: tracing.samples == 0, timeout=20_000)
    hand.settle()
    assert tracing.samples == 4
    hand.do("undo")  # the view
    hand.do("undo")  # the still
    assert session.stage.still == 0 and not box.on.isChecked()
    hand.settle()
    assert tracing.samples == 0


def test_it_is_stopped_and_goes_on(hand) -> None:
    hand.window.contact_sheet.recall("long")
    hand.settle()
    hand.do("still")
    box, tracing = hand.window.inspector.overview.look.still, hand.stage.tracing
    box.samples.setValue(400)
    hand.qtbot.waitUntil(lambda: tracing.samples >= 1, timeout=60_000)
    assert box.pause.text() == "Stop" and box.bar.maximum() == 1000
    hand.do("still_stop")
    hand.settle()
    held = tracing.samples
    assert tracing.stopped and 1 <= held < 400 and "Stopped after" in box.note.text() and box.pause.text() == "Go on"
    hand.do("still_stop")
    hand.qtbot.waitUntil(lambda: tracing.samples > held, timeout=60_000)
    box.samples.setValue(tracing.samples)
    hand.do("still")
    hand.settle()
    assert not tracing.at_work


@pytest.mark.long
def test_a_still_is_saved_with_its_scene_and_sent_out(hand, tmp_path: Path) -> None:
    session = hand.window.session
    hand.window.contact_sheet.recall("cross")
    hand.do("still")
    hand.settle()
    hand.do("save_scene")
    scene = session.project.scenes[-1] if session.scene is None else session.scene
    assert scene.state.still == 4
    hand.window.contact_sheet.recall("long")
    assert session.stage.still == 0
    hand.window.contact_sheet.recall(scene.id)
    hand.settle()
    assert session.stage.still == 4 and hand.stage.tracing.samples == 4
    pictures = []
    for samples in (4, 0):
        hand.do("send_picture")
        sending = dialog(PictureDialog)
        assert sending.still.value() == 4
        sending.still.setValue(samples)
        sending.width_px.setValue(360)
        sending.ground.setCurrentIndex(sending.ground.findData("white"))
        sending.path.setText(str(tmp_path / f"{samples}.png"))
        hand.send(sending)
        pictures.append(np.array(Image.open(tmp_path / f"{samples}.png").convert("RGB")).astype(int))
    assert (np.abs(pictures[0] - pictures[1]).max(axis=2) > 12).mean() > 0.05
