"""Ground, neighbours, people and trees in the real window."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
import shapely
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from anatome.app.base.ask import Ask
from anatome.cuts.pieces import pick_placed
from anatome.cuts.plane import Plane
from anatome.look.look import Look
from anatome.scenes import edits
from anatome.site.figure_tones import figure_tones
from anatome.site.site import GROUND_ID, NO_SITE
from anatome.site.standing import standing
from helpers import POCHE_EARTH, accent_mask, close_to

CTRL_ALT = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
BODY = np.round(255 * np.array(figure_tones(Look())["body"][:3]))


@pytest.fixture
def bare(hand):
    """The demo without its own site."""
    session = hand.window.session
    session.apply(session.project.model_copy(update={"site": NO_SITE}), "Nothing round it")
    built(hand)
    return hand


def built(hand) -> None:
    hand.qtbot.waitUntil(lambda: hand.window.session.is_built, timeout=30_000)
    hand.settle()


def on_floor(hand, x: tuple[float, float], y: tuple[float, float], z: float, count: int) -> list[np.ndarray]:
    """Places on the stage, well apart, that lie on a floor within a rectangle of the model, with nothing before it."""
    found: list[np.ndarray] = []
    for place in ((a, b, z) for a in np.linspace(*x, 9) for b in np.linspace(*y, 9)):
        at = hand.point_on(place)
        met = pick_placed(hand.window.session.on_stage().parts, *hand.stage.viewport.ray(*at))
        if met is not None and np.allclose(met[0].point, place, atol=0.02) and all(np.hypot(*(at - f)) > 60 for f in found):
            found.append(at)
    assert len(found) >= count
    return found[:count]


def body_at(hand, number: int = -1) -> np.ndarray:
    """The middle of a figure on the stage."""
    figure = hand.window.session.figures()[number]
    (one,) = standing((figure,), hand.stage.viewport)
    return hand.stage.viewport.pixels(one.raised(np.array([0.0, 0.62])))


@pytest.mark.usefixtures("large")
def test_people_are_placed_picked_moved_and_taken_away(bare) -> None:
    hand = bare
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("oblique")
    hand.settle()
    without = hand.picture()
    buttons = window.inspector.overview.site.figures.buttons
    buttons["standing"].click()
    assert buttons["standing"].isChecked() and "click a floor" in window.stage_input.task.hint
    there, beside = on_floor(hand, (21, 29), (5, 11), 3.4, 2)
    hand.hover(*there)
    assert accent_mask(hand.screen()).sum() > 60  # its outline before it is placed
    hand.click(hand.stage, *there)
    hand.press(Qt.Key.Key_Tab)
    hand.hover(*beside)
    hand.click(hand.stage, *beside)
    hand.press(Qt.Key.Key_Escape)
    first, second = session.project.site.figures
    assert (first.mirrored, second.mirrored) == (False, True) and abs(first.place[2] - 3.4) < 0.02
    assert session.building.elements[session.building.index_of[first.on]].storey is not None
    x, y = map(round, body_at(hand, 0))
    picture = hand.picture()
    assert close_to(picture[y : y + 1, x : x + 1], BODY, 12).all() and not close_to(without[y : y + 1, x : x + 1], BODY, 12).any()

    hand.click(hand.stage, x, y)
    page = window.inspector.figure
    assert session.picked.figure == first.id and page.isVisible() and page.title.text() == "Standing"
    hand.type_into(page.height_field, "1.6")
    page.kinds.buttons["child"].click()
    assert session.figure.kind == "child" and session.figure.height == pytest.approx(1.18 * 1.6 / 1.76)
    hand.do("undo")

    # It goes along with the pointer over the floor, in one step; Escape puts it back.
    before = session.figure.place
    start, end = body_at(hand, 0), body_at(hand, 0) + [-18, -9]
    hand.drag(hand.stage, start, end)
    assert session.history.undo_label == "Moved a figure" and np.linalg.norm(np.subtract(session.figure.place, before)) > 0.3
    assert abs(session.figure.place[2] - 3.4) < 0.02
    hand.do("undo")
    assert session.figure.place == before
    hand.drag(hand.stage, start, end, release=False)
    hand.press(Qt.Key.Key_Escape)
    assert session.figure.place == before

    # The cut that goes before it takes it whole; hiding its floor hides it.
    hand.press(Qt.Key.Key_Delete)
    assert [f.id for f in session.project.site.figures] == [second.id] and session.picked.figure is None
    hand.do("undo")
    session.pick(elements=frozenset({first.on}))
    hand.do("hide")
    assert not session.figures()
    hand.do("undo")
    session.pick(figure=first.id)
    hand.do("hide_figure")
    assert [f.id for f in session.figures()] == [second.id] and first.id in session.stage.hidden
    hand.do("show_all")
    assert len(session.figures()) == 2


def test_a_click_on_a_wall_stands_before_it(bare) -> None:
    hand = bare
    session = hand.window.session
    hand.window.contact_sheet.recall("long")
    hand.settle()
    hand.do("place walking")
    wall = hand.point_on((8.0, 11.88, 2.6))
    met = hand.window.stage_input.under(QPointF(*wall))
    assert met is not None and abs(met[0].normal[2]) < 0.5
    hand.hover(*wall)
    hand.click(hand.stage, *wall)
    (figure,) = session.project.site.figures
    assert (
        abs(figure.place[2]) < 0.02 and 0.2 < np.hypot(figure.place[0] - met[0].point[0], figure.place[1] - met[0].point[1]) < 0.5
    )
    hand.press(Qt.Key.Key_Escape)


@pytest.mark.long
def test_ground_and_neighbours_stand_round_the_model(bare, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    hand = bare
    window, session = hand.window, hand.window.session
    parts = len(session.building.elements)
    session.pick(elements=frozenset(e.id for e in session.building.elements if e.type == "IfcGeographicElement"))
    hand.do("hide")
    hand.do("view Front")
    camera = session.stage.camera
    hand.press(Qt.Key.Key_B, CTRL_ALT)
    built(hand)
    box = window.inspector.overview.site
    assert len(session.building.elements) == parts + 1 and box.ground.isChecked() and box.fields["level"].shown == -0.15
    assert session.stage.camera == camera
    hand.type_into(box.fields["level"], "-0.3")
    hand.type_into(box.fields["depth"], "4")
    built(hand)
    assert np.allclose(session.building.element_bounds[session.building.index_of[GROUND_ID]][:, 2], [-4.3, -0.3])
    # Cut, it is earth; the rest of the picture is what it was.
    hand.do("fit")
    hand.place(*hand.point_on((15.0, -1.0, 3.0)))
    hand.do("square_on")
    hand.settle()
    assert close_to(hand.picture(), POCHE_EARTH).sum() > 5_000
    hand.do("delete_cut")

    # A file dropped on the window is asked about, read, and stands there; picked blocks go with a click.
    rings = [[[x, 60.0], [x + 9, 60.0], [x + 9, 70.0], [x, 70.0], [x, 60.0]] for x in (0.0, 20.0)]
    features = [
        {"type": "Feature", "properties": {"height": 11}, "geometry": {"type": "Polygon", "coordinates": [ring]}}
        for ring in rings
    ]
    path = tmp_path / "near.geojson"
    path.write_text(json.dumps({"type": "FeatureCollection", "features": features}))
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    action, left = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton
    window.dropEvent(QDropEvent(QPointF(300, 300), action, data, left, Qt.KeyboardModifier.NoModifier))
    hand.qtbot.waitUntil(lambda: any(isinstance(w, Ask) and w.isVisible() for w in window.findChildren(Ask)))
    (ask,) = [w for w in window.findChildren(Ask) if w.isVisible()]
    ask.go.click()
    hand.qtbot.waitUntil(lambda: len(session.project.site.neighbours.blocks) == 2, timeout=10_000)
    built(hand)
    assert session.building.index_of["site 1"] and box.read.text() == "2 from near.geojson"
    hand.type_into(box.fields["turned"], "90")
    built(hand)
    assert session.building.element_bounds[session.building.index_of["site 1"]][0, 0] == pytest.approx(-70)
    session.pick(elements=frozenset({"site 1"}))
    hand.do("take_blocks")
    built(hand)
    assert "site 1" not in session.building.index_of and "site 2" in session.building.index_of
    hand.do("undo")
    built(hand)
    assert "site 1" in session.building.index_of

    # All of it is saved with the project, and opened with it.
    saved = tmp_path / "site.anatome"
    window.documents.save(saved)
    hand.saved()
    site = session.project.site
    window.commands.files.open_path(saved)
    hand.qtbot.waitUntil(lambda: session.project_path == saved and not window.documents.busy, timeout=60_000)
    hand.settle()
    assert session.project.site == site and len(session.building.elements) == parts + 3
    hand.do("ground_body")
    built(hand)
    assert GROUND_ID not in session.building.index_of

    told = []
    monkeypatch.setattr(window, "tell", lambda text, title="": told.append(text))
    path.write_text('{"type": "FeatureCollection", "features": []}')
    window.commands.site.read_neighbours(path)
    hand.qtbot.waitUntil(lambda: bool(told), timeout=10_000)
    assert "holds no areas" in told[0] and len(session.project.site.neighbours.blocks) == 2


@pytest.mark.long
@pytest.mark.usefixtures("large")
def test_a_tree_is_a_symbol_in_the_key_plan_and_scenes_are_pictured_with_it(bare) -> None:
    hand = bare
    window, session = hand.window, hand.window.session
    window.commands.scenes._rest.setInterval(50)
    hand.qtbot.waitUntil(lambda: all(session.pictures.is_current(s) for s in session.project.scenes), timeout=60_000)
    scene = session.project.scenes[0]
    before = session.pictures.get(scene)
    hand.do("place broad tree")
    at = QPoint(520, 420)
    while (found := window.stage_input.under(QPointF(at))) is None or found[0].normal[2] < 0.9:
        at += QPoint(0, 6)
    QTest.mouseClick(hand.stage, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
    hand.press(Qt.Key.Key_Escape)
    assert len(session.project.site.figures) == 1
    hand.qtbot.waitUntil(lambda: all(session.pictures.is_current(s) for s in session.project.scenes), timeout=60_000)
    assert session.pictures.get(scene) != before
    hand.do("undo")
    assert session.pictures.get(scene) == before  # the picture without it comes back with it


def test_ground_follows_heights_from_a_file_and_is_cut_where_they_are(hand, tmp_path: Path, monkeypatch) -> None:
    window, session = hand.window, hand.window.session
    low, high = session.subject_bounds()
    # A slope up to the east, counted from the sea, in the coordinates of the model: 1 m in 10.
    y, x = np.mgrid[low[1] - 60 : high[1] + 60 : 2.0, low[0] - 60 : high[0] + 60 : 2.0]
    path = tmp_path / "slope.xyz"
    np.savetxt(path, np.column_stack([x.ravel(), y.ravel(), 57.0 + 0.1 * x.ravel()]), "%.3f")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    hand.do("relief")
    hand.qtbot.waitUntil(lambda: session.project.site.ground is not None, timeout=10_000)
    built(hand)
    box, middle = window.inspector.overview.site, (low + high) / 2
    assert "so that the building stands on it" in window.status.text() and "slope.xyz" in box.relief_read.text()
    relief = session.project.site.ground.relief
    assert relief.heights_at(middle[None, :2]) == pytest.approx([-0.15], abs=1e-3)
    assert not box.fields["level"].isVisibleTo(box) and box.fields["relief up"].isVisibleTo(box)

    def top() -> float:
        return float(session.building.element_bounds[session.building.index_of[GROUND_ID]][1, 2])

    steep = top()
    hand.type_into(box.fields["relief up"], f"{relief.up + 0.5:.3f}")
    built(hand)
    assert top() == pytest.approx(steep + 0.5, abs=1e-3)
    # Cut along the slope, the line of the earth rises in the picture as the slope does.
    others = [e.id for e in session.building.elements if e.id != GROUND_ID]
    session.apply(edits.hide(session.project, others), "Only the ground")
    plane = Plane((float(middle[0]), float(low[1]) - 20.0, 0.0), (0.0, -1.0, 0.0))
    session.apply(edits.add_plane(session.project, plane, "a"), "A cut")
    (face,) = session.left().faces_of("a")
    for x_at in (low[0], middle[0], high[0]):
        ring = shapely.union_all(face.poche.polygons)
        flat = [face.plane.flat(np.array([x_at, plane.origin[1], z])) for z in (-100.0, 100.0)]
        height = face.plane.raised(shapely.get_coordinates(shapely.intersection(ring, shapely.LineString(flat))))[:, 2].max()
        assert height == pytest.approx(float(relief.heights_at(np.array([[x_at, plane.origin[1]]]))[0]) + 0.5, abs=1e-6)
    box.level_again.click()
    built(hand)
    assert session.project.site.ground.relief is None and box.fields["level"].isVisibleTo(box)
    path.write_text("nothing of the kind")
    told = []
    monkeypatch.setattr(window, "tell", lambda text, title="": told.append(text))
    hand.do("relief")
    hand.qtbot.waitUntil(lambda: bool(told), timeout=10_000)
    assert "three numbers" in told[0] and session.project.site.ground is not None
