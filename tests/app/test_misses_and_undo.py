"""What a new user's hand does: small misses, a view turned by chance, Ctrl+Z. With real mouse and keys."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt

from anatome.app.dialogs.steps import StepsDialog
from anatome.cuts.pieces import cut_places
from anatome.view.camera import is_square

SHIFT = Qt.KeyboardModifier.ShiftModifier


def undo(hand) -> None:
    hand.do("undo")


def test_turning_the_view_is_a_step_and_takes_no_other_with_it(large) -> None:
    session, stage = large.window.session, large.stage
    large.window.contact_sheet.recall("cutaway")
    cut = session.stage.cuts[0]
    session.pick(cut=cut.id)
    large.qtbot.keyClick(stage, Qt.Key.Key_Up)
    moved, before = session.stage.cuts[0], session.stage.camera
    assert moved != cut
    large.drag(stage, (60, 520), (220, 480))
    large.drag(stage, (60, 520), (90, 430))
    twice = session.stage.camera
    assert twice != before and session.history.undo_label == "Turned the view"
    undo(large)
    undo(large)
    assert session.stage.camera == before and session.stage.cuts[0] == moved  # one step each, and the cut still stands
    large.do("redo")
    large.do("redo")
    assert session.stage.camera == twice
    for _ in range(2):
        undo(large)
    undo(large)
    assert session.stage.cuts[0] == cut
    # The step before is another scene: that is named first, and done when it is asked for again.
    scene = session.project.current_scene
    said: list[str] = []
    session.said.connect(said.append)
    undo(large)
    assert session.project.current_scene == scene and "From the river" in said[-1] and "Undo once more" in said[-1]
    undo(large)
    assert session.project.current_scene == "outside"
    # Escape gives up a turn under way.
    before, label = session.stage.camera, session.history.undo_label
    large.drag(stage, (60, 520), (220, 480), release=False)
    assert session.stage.camera != before
    large.qtbot.keyClick(stage, Qt.Key.Key_Escape)
    assert session.stage.camera == before and session.history.undo_label == label  # as if it had not been begun


@pytest.mark.parametrize("away, holds", [(6, True), (12, True), (20, False)])
def test_a_press_beside_a_handle_takes_hold_or_does_nothing(large, away: int, holds: bool) -> None:
    session, stage = large.window.session, large.stage
    large.window.contact_sheet.recall("cutaway")
    session.pick(cut=session.stage.cuts[0].id)
    handles = large.window.overlay.handles
    knob = handles.knobs[0]
    turns = np.radians(np.arange(0, 360, 10))
    ways = [np.array([np.cos(t), np.sin(t)]) for t in turns]
    # All places nearby take hold; farther off some lie on the ring, which is a handle too.
    held = [handles.under(*(knob.tip + away * way)) is not None for way in ways]
    assert all(held) if holds else not all(held)
    out = ways[held.index(holds)]
    start = knob.tip + away * out
    camera, cuts, picked = session.stage.camera, session.stage.cuts, session.picked
    large.drag(stage, start, start + 60 * out)
    assert session.stage.camera == camera and session.picked == picked
    assert (session.stage.cuts != cuts) == holds
    # Far from it the view turns as it did.
    large.drag(stage, (60, 520), (160, 500))
    assert session.stage.camera != camera


def test_a_square_view_stays_square_unless_one_says_otherwise(large) -> None:
    """A section's picture is moved by a drag; with Shift it turns, one press on a part still picks it."""
    session, stage = large.window.session, large.stage
    large.window.contact_sheet.recall("long")
    large.settle()
    before = session.stage.camera
    assert session.stage.true_plane() is not None
    large.drag(stage, (370, 200), (430, 260))
    moved = session.stage.camera
    assert moved != before and np.allclose(moved.axes, before.axes) and is_square(moved, [0.0])
    assert session.history.undo_label == "Moved the view" and "with Shift it turns" in large.window.status.text()
    large.drag(stage, (370, 200), (430, 230), modifiers=SHIFT)
    assert not np.allclose(session.stage.camera.axes, before.axes)
    undo(large)
    assert session.stage.camera == moved
    undo(large)
    assert session.stage.camera == before
    large.window.commands.view.look_from("Top")
    plan = session.stage.camera
    large.drag(stage, (370, 200), (330, 260))
    assert np.allclose(session.stage.camera.axes, plan.axes) and session.stage.camera != plan


def test_a_run_of_the_wheel_is_one_step(large) -> None:
    from PySide6.QtCore import QPoint, QPointF
    from PySide6.QtGui import QWheelEvent

    session, stage = large.window.session, large.stage
    before, label = session.stage.camera, session.history.undo_label
    at = QPointF(stage.width() / 2, stage.height() / 2)

    def turn(delta: int) -> None:
        buttons, keys, phase = Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase
        large.window.stage_input._wheel(QWheelEvent(at, at, QPoint(), QPoint(0, delta), buttons, keys, phase, False))

    for _ in range(3):
        turn(120)
    nearer = session.stage.camera
    large.qtbot.wait(1000)  # the run is over
    turn(-120)
    undo(large)
    assert session.stage.camera == nearer
    undo(large)
    assert session.stage.camera == before and session.history.undo_label == label


def test_the_crop_begins_round_what_is_built_and_is_fitted_by_one_press(large) -> None:
    session, window, stage = large.window.session, large.window, large.stage
    window.contact_sheet.recall("cross")
    if session.stage.crop is not None:
        large.do("crop")
    window.commands.view.look_from("Axonometric, front left")

    def shares(places: np.ndarray) -> np.ndarray:
        """Where places are in the crop, 0 to 1 across and up."""
        crop, size = session.stage.crop, np.array([session.stage.crop.width, session.stage.crop.height])
        flat = (stage.viewport.pixels(places) - [stage.width() / 2, stage.height() / 2]) / stage.height() * [1, -1]
        return (flat - crop.at) / size + 0.5

    large.do("crop")
    inside = shares(session.left_corners())
    assert session.picked.crop and inside.min() > 0.02 and inside.max() < 0.98 and np.ptp(inside, axis=0).min() > 0.85
    large.do("crop_cut")
    cut = shares(cut_places(session.on_stage()))
    assert cut.min() > 0.02 and cut.max() < 0.98 and np.ptp(cut, axis=0).min() > 0.85
    assert session.stage.crop.reach(stage.aspect) == 1.0  # all of it is on the stage
    undo(large)
    assert shares(session.left_corners()) == pytest.approx(inside, abs=1e-6)
    session.pick()
    large.drag(stage, (370, 300), (420, 330))
    assert session.stage.crop is not None and not session.picked.crop  # looking around lets go of it, and it is there again


def test_one_jumps_in_the_list_of_what_was_done(hand) -> None:
    window, session = hand.window, hand.window.session
    start = session.project
    for scene in ("cross", "ground", "cutaway"):
        window.contact_sheet.recall(scene)
        hand.settle()
        hand.qtbot.wait(40)
    hand.press(Qt.Key.Key_8, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    dialog = next(d for d in window.findChildren(StepsDialog) if d.isVisible())
    listed = dialog.list
    assert [listed.item(i).text() for i in range(listed.count())][:3] == [
        "Recalled Axonometric cutaway",
        "Recalled Ground floor from above",
        "Recalled Cross section, clubroom",
    ]
    assert window.step_pictures.get(session.stage) is not None  # the picture of the step one is at
    last = session.project
    listed.itemClicked.emit(listed.item(2))
    assert session.project.current_scene == "cross" and "Gone 2 steps back" in window.status.text()
    listed.itemClicked.emit(listed.item(listed.count() - 1))
    assert session.history.undo_label is None and session.project.scenes == start.scenes
    listed.itemClicked.emit(listed.item(0))
    assert session.project.current_scene == "cutaway" and session.stage == last.stage
    dialog.close()
