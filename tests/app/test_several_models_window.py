"""A second model in the window: added, placed by numbers, switched off and on, used by a cut, undone, saved and found again."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QPushButton

from anatome.app.base.ask import Ask
from anatome.app.stage.measuring import point_under
from anatome.formats.identity import identify
from anatome.model.options import OpenOptions


def crate(path: Path) -> Path:
    """Two crates, in centimetres, 1 m wide."""
    scene = trimesh.Scene()
    for number in range(2):
        body = trimesh.creation.box((100, 100, 100), trimesh.transformations.translation_matrix((0, 150 * number, 50)))
        scene.add_geometry(body, node_name=f"Crate {number + 1}", geom_name=f"Crate {number + 1}")
    path.write_text(trimesh.exchange.obj.export_obj(scene))
    return path


def crates(session) -> np.ndarray:
    """Boxes of the crates on the stage."""
    numbers = [i for i, e in enumerate(session.building.elements) if e.name.startswith("Crate")]
    return session.building.element_bounds[numbers]


def place_by_points(hand) -> tuple[np.ndarray, np.ndarray]:
    """Click a corner of the first crate and one of another part; returns both places."""
    session, other = hand.window.session, hand.window.session.project.others[0]
    own = {e.id for e in session.building.elements if e.name.startswith("Crate")}
    hand.window.commands.models._change(other, "Moved out", shift=(-4.0, 9.0, 0.5))  # where they can be seen
    hand.qtbot.waitUntil(lambda: session.is_built and crates(session)[0, 0, 0] < -3, timeout=30_000)
    hand.do("view Axonometric, front left")
    hand.settle()
    hand.window.commands.models.pick_place(session.project.others[0])
    task = hand.window.stage_input.task
    for is_own in (True, False):
        assert ("corner of crates" in task.hint) == is_own
        hand.qtbot.waitUntil(lambda: hand.stage.settled, timeout=60_000)
        hand.click(hand.stage, *corner_in_sight(hand, own, is_own))
    points = [np.array(point) for point in task._points]
    hand.press(Qt.Key.Key_Return)
    hand.qtbot.waitUntil(lambda: not hand.window.commands.models.busy and session.is_built, timeout=30_000)
    return points[0], points[1]


def corner_in_sight(hand, own: set[str], is_own: bool) -> tuple[float, float]:
    """Where on the stage a click means a corner of a crate, or of something else: it is in front, and nothing hides it."""
    session, viewport = hand.window.session, hand.stage.viewport
    for number, element in enumerate(session.building.elements):
        if (element.id in own) != is_own or element.type in ("IfcGeographicElement", "IfcBuilding"):
            continue
        start, end = session.building.triangle_start[number : number + 2]
        for place in session.building.vertices[np.unique(session.building.triangles[start:end])][:12]:
            x, y = viewport.pixels(place).round()
            inside = 20 < x < hand.stage.width() - 20 and 20 < y < hand.stage.height() - 20
            for dx, dy in ((0, 4), (0, -4), (4, 0), (-4, 0)) if inside else ():
                pointer = hand.window.stage_input._pointer(QPointF(x + dx, y + dy), False)
                found = point_under(session, pointer)
                same = found is not None and session.building.elements[pointer.found[0].element].id == element.id
                if same and np.linalg.norm(found.place - place) < 1e-6:
                    return float(x + dx), float(y + dy)
    raise AssertionError("no corner is in sight")


def test_another_model_is_added_placed_switched_undone_and_found_again(held, tmp_path: Path) -> None:
    hand, window, session = held, held.window, held.window.session
    parts = len(session.model.elements)
    window.commands.models.add(crate(tmp_path / "crates.obj"), OpenOptions(up="z", unit="centimetre", near=True))
    hand.qtbot.waitUntil(lambda: len(crates(session)) == 2, timeout=60_000)
    assert len(session.model.elements) == parts + 2 and crates(session)[0, 1, 2] == pytest.approx(1.0)
    box = window.inspector.overview.models

    def widget(place: int):
        return box.rows.itemAt(0).layout().itemAt(place).widget()

    widget(1).click()
    ask = window.findChild(Ask)
    for name, metres in (("Along X", 4.0), ("Along Y", 2.0), ("Up", 0.5)):
        ask.lengths[name].show_value(metres)
    ask.texts["Turned, degrees"].setText("90")
    ask.go.click()
    hand.qtbot.waitUntil(lambda: crates(session)[0, 0, 2] > 0.4, timeout=30_000)
    assert crates(session).mean(axis=1) == pytest.approx(np.array([[4, 2, 1], [2.5, 2, 1]]))
    hand.qtbot.waitUntil(lambda: box.isEnabled())

    # By points: a corner of a crate comes to a corner of another part, both clicked on the stage.
    corner, goal = place_by_points(hand)
    assert np.abs(crates(session).reshape(-1, 3) - goal).min(axis=0).max() < 1e-6, (corner, goal)
    assert session.project.others[0].turn == 90.0 and session.history.undo_label == "Placed crates"
    while session.project.others[0].shift != (4.0, 2.0, 0.5):
        hand.do("undo")
        hand.qtbot.waitUntil(lambda: session.is_built, timeout=30_000)
    assert crates(session).mean(axis=1) == pytest.approx(np.array([[4, 2, 1], [2.5, 2, 1]]))
    widget(0).click()
    hand.qtbot.waitUntil(lambda: len(session.building.elements) > 0 and len(crates(session)) == 0, timeout=30_000)
    hand.do("undo")
    hand.qtbot.waitUntil(lambda: session.is_built and len(crates(session)) == 2, timeout=30_000)
    hand.do("save_scene")
    window.documents.save(tmp_path / "p.anatome")
    hand.saved()
    (tmp_path / "moved").mkdir()
    for name in ("p.anatome", "crates.obj"):
        shutil.move(tmp_path / name, tmp_path / "moved" / name)
    before = session.opened_as
    window.documents.open(tmp_path / "moved" / "p.anatome")
    hand.qtbot.waitUntil(lambda: session.opened_as is not before and len(crates(session)) == 2, timeout=60_000)
    assert crates(session).mean(axis=1) == pytest.approx(np.array([[4, 2, 1], [2.5, 2, 1]])) and not session.unsaved
    window.commands.models.take(session.project.others[0])
    hand.qtbot.waitUntil(lambda: not session.project.others and len(crates(session)) == 0, timeout=30_000)
    hand.do("undo")
    hand.qtbot.waitUntil(lambda: session.is_built and len(crates(session)) == 2, timeout=30_000)
    # A newer file of it is noticed, and read anew by a button.
    text = (tmp_path / "moved" / "crates.obj").read_text()
    (tmp_path / "moved" / "crates.obj").write_text("\n".join(line for line in text.splitlines() if "Crate 2" not in line))
    box = window.inspector.overview.models
    hand.qtbot.waitUntil(lambda: bool(window.newer.outdated), timeout=20_000)
    next(b for b in box.findChildren(QPushButton) if "newer" in b.text()).click()
    hand.qtbot.waitUntil(lambda: not window.newer.outdated and not window.commands.models.busy, timeout=30_000)
    assert session.project.others[0].model.digest == identify(tmp_path / "moved" / "crates.obj")[0].digest
    (tmp_path / "moved" / "crates.obj").unlink()
    before = session.opened_as
    window.documents.open(tmp_path / "moved" / "p.anatome")
    hand.qtbot.waitUntil(lambda: session.opened_as is not before and session.is_open, timeout=60_000)
    assert len(crates(session)) == 0 and "is left out" in window.status.text() and len(session.project.others) == 1
