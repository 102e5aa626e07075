"""A model whose file says no unit: how it was taken is told, and another unit is one step, scenes and all."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh

from anatome.app.base.ask import Ask
from anatome.cuts.plane import Plane
from anatome.model.options import OpenOptions
from anatome.scenes import edits

INCH = 0.0254


def room(path: Path) -> Path:
    """In inches, with a door of 82.5 of them."""
    scene = trimesh.Scene()
    for name, size, middle in (
        ("Floor", (200, 160, 8), (0, 0, -4)),
        ("Wall", (200, 8, 106), (0, 80, 53)),
        ("Door", (36, 2, 82.5), (40, 74, 41.25)),
    ):
        body = trimesh.creation.box(size, trimesh.transformations.translation_matrix(middle))
        scene.add_geometry(body, node_name=name, geom_name=name)
    path.write_text(trimesh.exchange.obj.export_obj(scene, digits=9))
    return path


def test_the_unit_is_told_and_changed_in_one_step_with_all_scenes(held, tmp_path: Path) -> None:
    window, session = held.window, held.window.session
    before = session.opened_as
    window.documents.open(room(tmp_path / "room.obj"), OpenOptions(up="z", near=True))
    held.qtbot.waitUntil(lambda: session.is_open and session.opened_as is not before, timeout=60_000)
    held.settle()
    assert "Lengths are taken for inches: a door is 82.5 high." in window.status.text()
    assert session.model.bounds[1, 2] == pytest.approx(106 * INCH)
    session.apply(edits.add_plane(session.project, Plane((0, 0, 1.2), (0, 0, 1)), "cut"), "Cut")
    held.do("save_scene")
    area = session.left().faces[0].poche.areas.sum()
    eye = np.array(session.stage.camera.eye)
    held.do("unit")
    asked = window.findChild(Ask)
    words = [asked.choices["Lengths"].itemText(i) for i in range(5)]
    assert words[0].startswith("Metres: 200") and asked.choices["Lengths"].currentText().startswith("Inches: 5.1 ")
    asked.choices["Lengths"].setCurrentIndex(next(i for i, w in enumerate(words) if w.startswith("Centimetres")))
    asked.go.click()
    held.qtbot.waitUntil(lambda: session.model.unit.name == "centimetre", timeout=60_000)
    factor = 0.01 / INCH
    assert session.model.bounds[1, 2] == pytest.approx(1.06)
    for state in (session.stage, session.project.scenes[0].state):
        assert state.cut("cut").plane.origin[2] == pytest.approx(1.2 * factor)
        assert np.array(state.camera.eye) == pytest.approx(eye * factor)
    held.settle()
    assert session.left().faces[0].poche.areas.sum() == pytest.approx(area * factor**2)
    held.do("undo")
    held.qtbot.waitUntil(lambda: session.is_built and session.model.unit.name == "inch", timeout=30_000)
    assert session.stage.cut("cut").plane.origin[2] == pytest.approx(1.2)
