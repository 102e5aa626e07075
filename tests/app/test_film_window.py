"""A film made in the window: looked at by moments, drawn frame by frame, stopped and taken up again, read by a player."""

from __future__ import annotations

import re
from pathlib import Path

import av
import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox

from anatome.app.base.dragged import drag_scenes
from anatome.app.base.images import pixels_of
from anatome.app.document.preferences import set_workers_address
from anatome.app.send_out.film import FilmDialog
from anatome.app.window.settings_dialog import SettingsDialog

COPY, LEFT, NONE = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


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
    # It begins near the moment looked at first, and ends near the one looked at last.
    moments = [np.array(Image.fromarray(m.astype(np.uint8)).resize((160, 90), Image.Resampling.BOX), int) for m in (low, high)]
    nearest = [int(np.argmin([np.abs(frame - moment[..., :3]).mean() for moment in moments])) for frame in frames]
    assert nearest == sorted(nearest) and nearest[0] == 0 and nearest[-1] == 1
    assert [p.name for p in tmp_path.iterdir()] == ["rise.mp4"]


def test_what_was_stopped_goes_on_and_what_cannot_be_is_said(hand, dialog, tmp_path: Path) -> None:
    path = tmp_path / "turn.gif"
    small(dialog, path)
    choose(dialog.move_, "turn")
    assert dialog.degrees.isVisibleTo(dialog) and not dialog.look.isVisibleTo(dialog)
    dialog.go.click()
    folder = tmp_path / "turn.gif.frames"
    hand.qtbot.waitUntil(lambda: (folder / "0002.png").exists(), timeout=60_000)
    dialog.reject()
    assert dialog.isVisible() and "what is drawn so far is used" in dialog.problem.text()
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


def film_strip(hand):
    hand.do("new_film")
    window = hand.window
    hand.qtbot.waitUntil(lambda: window.player.timeline is not None, timeout=60_000)
    return window.film_strip, window.film_strip.row, window.film_desk, window.player


def words_of(desk) -> list[str]:
    return [shot.word for shot in desk.film.shots]


def middle_of(row, number: int) -> tuple[float, float]:
    centre = row.box_of(number).center()
    return centre.x(), centre.y()


def test_shots_are_put_in_order_trimmed_copied_and_taken_back(hand) -> None:
    strip, row, desk, _ = film_strip(hand)
    assert strip.isVisible() and not hand.window.scout.isVisible() and words_of(desk) == ["card", "rise", "hold"]
    # A scene dragged in from the row: the camera travels there and stands.
    scene = hand.window.session.project.scenes[2]
    mime = drag_scenes([scene.id])
    at = QPointF(row.box_of(2).right() - 3, row.height() / 2)
    for event in (QDragEnterEvent, QDropEvent):
        QApplication.sendEvent(row, event(at if event is QDropEvent else at.toPoint(), COPY, mime, LEFT, NONE))
    assert words_of(desk) == ["card", "rise", "hold", "travel", "hold"] and desk.film.shots[-1].scene == scene.id
    hand.drag(row, middle_of(row, 1), (row.box_of(4).right() - 8, middle_of(row, 1)[1]))
    assert words_of(desk) == ["card", "hold", "travel", "hold", "rise"] and desk.number == 4
    hand.drag(
        row, middle_of(row, 4), (row.box_of(0).left() + 3, middle_of(row, 1)[1]), modifiers=Qt.KeyboardModifier.ControlModifier
    )
    assert words_of(desk) == ["rise", "card", "hold", "travel", "hold", "rise"] and desk.number == 0
    before, box = desk.film.shots[2].seconds, row.box_of(2)
    hand.drag(row, (box.right(), box.center().y()), (box.right() + box.width(), box.center().y()))
    assert desk.film.shots[2].seconds == pytest.approx(2 * before, abs=0.2) and desk.number == 2
    hand.do("undo")
    assert desk.film.shots[2].seconds == before
    row.setFocus()
    hand.do("take_shot")
    assert words_of(desk) == ["rise", "card", "travel", "hold", "rise"]
    hand.do("copy_shot")
    hand.do("undo")
    hand.do("undo")
    assert words_of(desk) == ["rise", "card", "hold", "travel", "hold", "rise"]
    page = hand.window.inspector.film
    hand.click(row, *middle_of(row, 1))
    assert page.isVisible() and page.heading.text() == "{project}" and not page.scene.isVisible()
    hand.type_into(page.heading, "Built by hand")
    hand.click(row, *middle_of(row, 5))
    hand.type_into(page.seconds, "+1.5")
    page.resting.click()
    page.move_.setCurrentIndex(page.move_.findData("turn"))
    page.move_.activated.emit(page.move_.currentIndex())
    shot = desk.film.shots[5]
    assert (
        desk.film.shots[1].heading == "Built by hand" and (shot.word, shot.seconds) == ("turn", 7.5) and page.degrees.isVisible()
    )
    # Saved and read, it is the same film.
    hand.do("show_films")
    assert not strip.isVisible() and desk.film is None and page.isHidden()


def test_any_moment_is_on_the_stage_and_the_film_that_is_sent_out_shows_the_same(hand, tmp_path: Path) -> None:
    strip, row, desk, player = film_strip(hand)
    project = hand.window.session.project
    still = hand.picture()
    hand.click(row, row.x_of(1.0), 4)
    assert player.is_shown and player.time == pytest.approx(1.0, abs=0.05)
    title = hand.screen()
    box = player.picture_box()
    inside = title[round(box.top()) + 4 : round(box.bottom()) - 4, round(box.left()) + 4 : round(box.right()) - 4].astype(int)
    paper = np.round(255 * np.array(desk_look(hand).paper)).astype(int)
    assert (np.abs(inside - paper).max(axis=2) < 3).mean() > 0.9 and (inside.sum(axis=2) < 300).sum() > 100  # words on paper
    hand.drag(row, (row.x_of(3.6), 4), (row.x_of(7.5), 4))
    assert player.time == pytest.approx(7.5, abs=0.1) and strip.time.text() == "0:07.5 of 0:11.0"
    grown = hand.picture()
    assert (np.abs(grown.astype(int) - still).max(axis=2) > 20).mean() > 0.01
    # A press on the stage gives the project's own back; nothing was done to it.
    hand.click(hand.stage, 30, 30)
    assert not player.is_shown and hand.window.session.project.stage == project.stage
    assert (np.abs(hand.picture().astype(int) - still).max(axis=2) > 8).mean() < 1e-3
    # It runs by the clock, and stands at its end.
    row.setFocus()
    for shot, number in zip(desk.film.shots, range(3)):
        desk.put_shot(shot.model_copy(update={"seconds": 0.4}), "Shorter", number=number)
    hand.qtbot.waitUntil(lambda: player.timeline is not None, timeout=60_000)
    hand.press(Qt.Key.Key_Home)
    hand.press(Qt.Key.Key_Space)
    assert player.is_running
    hand.qtbot.waitUntil(lambda: not player.is_running, timeout=20_000)
    assert player.time == pytest.approx(1.2) and player.is_shown
    hand.press(Qt.Key.Key_Left)
    assert player.time == pytest.approx(1.16)

    hand.do("send_film")
    dialog = next(d for d in hand.window.findChildren(FilmDialog) if d.isVisible())
    assert dialog.film.currentText() == desk.film.name and not dialog.move_.isVisibleTo(dialog) and not player.is_shown
    for field, value in ((dialog.wide, 640), (dialog.high, 360), (dialog.rate, 5)):
        field.setValue(value)
    dialog.proof.setChecked(True)
    choose(dialog.way, "frames")
    dialog.path.setText(str(tmp_path / "frames"))
    hand.send(dialog)
    frames = sorted(p.name for p in (tmp_path / "frames").glob("*.png"))
    assert frames == [f"{n:04d}.png" for n in range(1, 7)] and "Wrote 6 frames, 160 × 90" in hand.window.status.text()
    with Image.open(tmp_path / "frames" / "0001.png") as image:
        words = np.asarray(image.convert("RGB")).astype(int)
    assert words.shape == (90, 160, 3) and (np.abs(words - paper).max(axis=2) < 3).mean() > 0.9


def desk_look(hand):
    return hand.window.session.project.scene(hand.window.film_desk.film.shots[1].scene).state.look


def test_a_walk_is_drawn_in_the_key_plan_and_what_goes_through_a_wall_is_told(hand) -> None:
    _, _, desk, player = film_strip(hand)
    plan, before = hand.window.key_plan, len(desk.film.shots)
    hand.qtbot.waitUntil(lambda: plan.drawn, timeout=60_000)
    for way, told in ((((3.0, 3.0), (9.0, 3.0)), ""), (((3.0, 3.0), (3.0, 60.0)), "no floor|through a wall")):
        hand.do("shot_walk")
        assert plan.task is not None
        places = [plan.to_pixels(np.array(place, float)) for place in way]
        for place in places:
            QTest.mouseClick(plan, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, QPoint(*map(round, place)))
        QTest.keyClick(plan, Qt.Key.Key_Return)
        assert plan.task is None
        shot = desk.shot
        assert shot.word == "walk" and len(shot.path) == 2 and shot.path[0][:2] == pytest.approx(way[0], abs=0.3)
        hand.qtbot.waitUntil(lambda: player.timeline is not None or player.problem != "", timeout=60_000)
        assert (re.search(told, player.problem) is not None) if told else not player.problem
        if not told:
            player.go_to(desk.film.begins(desk.number) + 0.5 * shot.seconds)
            camera = hand.window.session.stage.camera
            assert (
                camera.is_perspective
                and camera.eye[2] == pytest.approx(1.6, abs=0.3)
                and camera.eye[0] == pytest.approx(6, abs=1)
            )
    assert len(desk.film.shots) == before + 2
    hand.do("take_shot")
    hand.qtbot.waitUntil(lambda: player.timeline is not None, timeout=60_000)
    assert not player.problem


def test_where_an_engine_is_set_its_workers_draw(hand, dialog, tmp_path: Path, monkeypatch) -> None:
    asked = []

    def draw_on(address, job, folder, numbers, told) -> None:
        asked.append((address, job.film.shots[0].word, list(numbers)))
        for done, number in enumerate(numbers, 1):
            folder.put(number, np.full((90, 160, 4), 40 * number, np.uint8))
            assert told(done, len(numbers))

    monkeypatch.setattr("anatome.work.engine.draw_on", draw_on)
    dialog.reject()
    hand.do("settings")
    hand.type_into(hand.window.findChild(SettingsDialog).workers, "tcp://127.0.0.1:1")
    hand.window.findChild(SettingsDialog).close()
    try:
        hand.do("send_film")
        again = next(d for d in hand.window.findChildren(FilmDialog) if d.isVisible())
        small(again, tmp_path / "far.gif")
        hand.send(again)
    finally:
        set_workers_address("")
    assert asked == [("tcp://127.0.0.1:1", "rise", [0, 1, 2, 3, 4, 5])]
    with Image.open(tmp_path / "far.gif") as film:
        assert film.n_frames == 6
