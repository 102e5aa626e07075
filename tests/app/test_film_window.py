"""A film made in the window: looked at by moments, drawn frame by frame, stopped and taken up again, read by a player."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest
from PySide6.QtWidgets import QComboBox

from anatome.app.base.images import pixels_of
from anatome.app.send_out.film import FilmDialog


def choose(box: QComboBox, key: str) -> None:
    box.setCurrentIndex(box.findData(key))


def small(dialog: FilmDialog, path: Path) -> None:
    """Six frames of 160 × 90."""
    for box, value in ((dialog.wide, 160), (dialog.high, 90), (dialog.seconds, 1), (dialog.rate, 6)):
        box.setValue(value)
    dialog.path.setText(str(path))


@pytest.fixture
def dialog(hand) -> FilmDialog:
    hand.do("view Axonometric, front left")
    hand.settle()
    hand.do("send_film")
    (found,) = hand.window.findChildren(FilmDialog)
    return found


def looked_at(hand, dialog: FilmDialog, at: int) -> np.ndarray:
    dialog.moment.setValue(at)
    dialog.picture.clear()
    hand.qtbot.waitUntil(lambda: not dialog.picture.pixmap().isNull(), timeout=60_000)
    return pixels_of(dialog.picture.pixmap().toImage())[..., :3].astype(int)


def test_moments_are_looked_at_and_the_film_is_what_they_promise(hand, dialog, tmp_path: Path) -> None:
    small(dialog, tmp_path / "rise.mp4")
    low, high = (looked_at(hand, dialog, at) for at in (200, 900))
    ink = [(np.abs(picture - picture[0, 0]).max(axis=2) > 30).mean() for picture in (low, high)]
    assert ink[1] > ink[0] and (np.abs(high - low).max(axis=2) > 30).mean() > 0.03  # the building has grown
    before = hand.window.session.project
    hand.send(dialog)
    assert "Wrote a film of 6 frames, 160 × 90 pixels" in hand.window.status.text() and hand.window.session.project is before
    with av.open(str(tmp_path / "rise.mp4")) as container:
        frames = [frame.to_ndarray(format="rgb24").astype(int) for frame in container.decode(video=0)]
    assert len(frames) == 6 and frames[0].shape == (90, 160, 3)
    shares = [(np.abs(frame - frame[0, 0]).max(axis=2) > 40).mean() for frame in frames]
    assert shares[-1] > shares[0] and [p.name for p in tmp_path.iterdir()] == ["rise.mp4"]


def test_what_was_stopped_goes_on_and_what_cannot_be_is_said(hand, dialog, tmp_path: Path) -> None:
    path = tmp_path / "turn.gif"
    small(dialog, path)
    choose(dialog.move_, "turn")
    assert dialog.degrees.isVisibleTo(dialog) and not dialog.look.isVisibleTo(dialog)
    dialog.go.click()
    folder = tmp_path / "turn.gif.frames"
    hand.qtbot.waitUntil(lambda: (folder / "0002.png").exists(), timeout=60_000)
    dialog.reject()
    assert dialog.isVisible() and "the frames drawn so far are used" in dialog.problem.text()
    hand.qtbot.wait(100)
    kept = {p.name: p.stat().st_mtime_ns for p in folder.glob("*.png")}
    assert 2 <= len(kept) < 6
    hand.send(dialog)
    assert path.exists() and not folder.exists() and "6 frames" in hand.window.status.text()

    hand.do("send_film")
    again = next(d for d in hand.window.findChildren(FilmDialog) if d.isVisible())
    small(again, tmp_path / "odd.mp4")
    again.wide.setValue(161)
    again.go.click()
    hand.qtbot.waitUntil(again.problem.isVisible)
    assert "even number" in again.problem.text() and not list(tmp_path.glob("odd*"))
    choose(again.move_, "day")
    again.begins.setValue(20)
    again.ends.setValue(9)
    again.go.click()
    hand.qtbot.waitUntil(lambda: "go forward" in again.problem.text())
    again.reject()
