"""A second model in the window: added, placed by numbers, switched off and on, used by a cut, undone, saved and found again."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtWidgets import QPushButton

from anatome.app.base.ask import Ask
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
