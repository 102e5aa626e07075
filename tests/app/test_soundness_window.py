"""A model with faults of its solids: they are listed with why, tinted, picked, and shown."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from anatome.cuts.plane import Plane
from anatome.model.options import OpenOptions
from anatome.scenes import edits
from helpers import box


@pytest.fixture
def faulty(held, tmp_path: Path):
    """A tub without its lid beside ten sound posts, one of them doubled, one turned inside out; open, with the page."""
    tub = box(0, 0, 0, 2, 3, 1)
    tub.update_faces(tub.face_normals[:, 2] < 0.5)
    posts = [box(4 + i, 0, 0, 4.2 + i, 0.2, 3) for i in range(10)]
    posts[3].invert()
    scene = trimesh.Scene()
    for name, mesh in (("tub", tub), *((f"post {i}", post) for i, post in enumerate(posts)), ("double", posts[7].copy())):
        scene.add_geometry(mesh, node_name=name, geom_name=name)
    scene.export(str(tmp_path / "m.glb"))
    window, session = held.window, held.window.session
    before = session.opened_as
    window.documents.open(tmp_path / "m.glb", OpenOptions(up="z", unit="metre"))
    held.qtbot.waitUntil(lambda: session.is_open and session.opened_as is not before, timeout=60_000)
    held.settle()
    held.do("soundness")
    held.qtbot.waitUntil(lambda: window.inspector.soundness.open.isVisible(), timeout=10_000)
    return held


def rows(kind) -> dict[str, QPushButton]:
    found = [kind.rows.itemAt(i).widget() for i in range(kind.rows.count())]
    return {row._words: row for row in found}


def test_faults_are_listed_tinted_picked_and_shown(faulty) -> None:
    window, session = faulty.window, faulty.window.session
    page, building = window.inspector.soundness, session.building
    names = {e.id: e.name for e in building.elements}
    assert page.facts.text().startswith("10 of 12 parts are closed")
    assert set(rows(page.open)) == {"tub"} and set(rows(page.inside_out)) == {"post"}
    assert list(rows(page.doubled)) in (["post and double  ·  2"], ["double and post  ·  2"])
    assert {names[i] for i in session.marked} == {"tub", "post 3", "post 7", "double"}
    untinted = faulty.picture()
    QTest.mouseClick(rows(page.open)["tub"], Qt.MouseButton.LeftButton)
    assert {names[i] for i in session.picked.elements} == {"tub"} and not session.marked
    assert page.isVisible() and "4 edges with one face alone, 10.00 m of them" in page.why.text()
    assert (np.abs(faulty.picture().astype(int) - untinted.astype(int)).max(axis=2) > 10).sum() > 200  # posts are plain again
    session.apply(edits.add_plane(session.project, Plane((0, 0, 0.5), (0, 0, 1)), "c"), "Cut")
    faulty.do("save_scene")
    session.pick(elements=frozenset({next(i for i, name in names.items() if name == "tub")}))
    session.apply(edits.change_cut(session.project, "c", plane=Plane((0, 1.5, 0), (0, 1, 0))), "Upright: it goes through the lid")
    assert not any(names[building.elements[e].id] == "tub" for f in session.left().faces for e in f.section.element.tolist())
    faulty.do("fill_outline")
    areas = session.left().faces[0].poche.areas
    assert areas.max() == pytest.approx(2.0)  # 2 m wide and 1 m high
    assert session.project.scenes[0].state.poche.filled == session.picked.elements
    faulty.do("leave_outline")
    assert session.left().faces[0].poche.areas.max(initial=0.0) < 2.0 and not session.stage.poche.filled
    faulty.do("meaning")  # one page about the model at a time
    assert window.inspector.meaning.isVisible() and not page.isVisible()
    faulty.do("meaning")
    assert not window.inspector.meaning.isVisible() and window.inspector.elements.isVisible() and not session.marked
