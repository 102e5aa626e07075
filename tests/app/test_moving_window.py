"""While things move the stage is a drawing: lines of its own size over coarse surfaces; then the fine picture fades in."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from scipy.ndimage import binary_dilation

from anatome.look.shipped import shipped_looks
from conftest import Hand


def lines_in(image: np.ndarray) -> np.ndarray:
    """(h, w) where a pixel is much darker than what lies two pixels to either side of it, across or upwards: a thin line."""
    dark = image.astype(int).sum(axis=2)
    across = np.minimum(np.roll(dark, 2, axis=1), np.roll(dark, -2, axis=1)) - dark
    upright = np.minimum(np.roll(dark, 2, axis=0), np.roll(dark, -2, axis=0)) - dark
    return np.maximum(across, upright) > 90


def test_lines_of_what_moves_are_as_thin_as_a_pixel_and_where_they_will_be(large: Hand, monkeypatch) -> None:
    monkeypatch.setattr("anatome.app.stage.stage.FADE", 2.0)  # so that it is not missed on a busy machine
    hand, stage, session = large, large.stage, large.window.session
    hand.window.contact_sheet.recall("long")
    session.apply(session.project.with_stage(look=shipped_looks()["Ink lines only"]), "lines")
    hand.settle()
    before = session.stage.camera
    stage._share = 3
    interval = stage._settle.interval()
    stage._settle.setInterval(1500)  # so that the sketch is looked at before it is fine
    QTest.mousePress(stage, Qt.MouseButton.RightButton, pos=QPoint(300, 300))
    for step in range(1, 6):
        QTest.mouseMove(stage, QPoint(300 + 6 * step, 300))
        hand.qtbot.wait(5)
    hand.qtbot.wait(100)  # moves come by way of the display

    def is_sketched() -> bool:
        """Whether a sketch of the camera as it stands is shown, not of one on the way."""
        return stage._shown is stage._moving and stage._moving_key == stage._key() and session.stage.camera != before

    hand.qtbot.waitUntil(is_sketched, timeout=20_000)
    assert stage._moving is not None and stage._moving.size[0] < stage.full()[0] and stage._moving.lines_size == stage.full()
    camera, sketch = session.stage.camera, hand.now()
    stage._settle.setInterval(interval)
    QTest.mouseRelease(stage, Qt.MouseButton.RightButton, pos=QPoint(330, 300))
    # The fine picture comes up over it: between, it is neither.
    hand.qtbot.waitUntil(lambda: stage._fades, timeout=20_000)
    assert not stage.settled
    between = hand.now().astype(int)
    hand.settle()
    fine = hand.now()
    away, off = (np.abs(between - image.astype(int)).max(axis=2) > 12 for image in (sketch, fine))
    assert off.sum() > 500 or away.sum() > 500
    assert session.stage.camera == camera
    thin, thick = lines_in(sketch), lines_in(fine)
    assert thin.sum() > 3_000
    # Lines of the sketch are lines of the picture, to a pixel or two.
    assert (thin & ~binary_dilation(fine.max(axis=2) < 215, iterations=2)).sum() < 0.06 * thin.sum()
    assert (thick & ~binary_dilation(sketch.max(axis=2) < 215, iterations=2)).sum() < 0.35 * thick.sum()
