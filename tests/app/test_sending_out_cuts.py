"""Serial sections, drawings of every kind of cut and cut models, from the menus to the files."""

from __future__ import annotations

import json
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import shapely
import trimesh
from lxml import etree
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtWidgets import QApplication, QWidget
from shiboken6 import isValid

from anatome.app.base.ask import Ask
from anatome.app.send_out.drawings import DrawingDialog, SeriesDialog
from anatome.app.send_out.models import ModelDialog
from anatome.app.send_out.pictures import PictureDialog
from anatome.cuts.flat_view import flat_section
from anatome.scenes import edits
from anatome.words import plain_type
from helpers import accent_mask, svg_polygons


def dialog(kind: type[QWidget]) -> QWidget:
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, kind) and w.isVisible())


def place_series(hand, where: str, **lengths: str) -> None:
    hand.do("series")
    ask = dialog(Ask)
    ask.choices["Where"].setCurrentIndex(ask.choices["Where"].findData(where))
    for name, text in lengths.items():
        ask.lengths[name].setText(text)
    ask.go.click()


def test_serial_sections_from_the_dialog_to_the_files(hand, tmp_path: Path) -> None:
    session, page = hand.window.session, hand.window.inspector.series
    hand.do("view Axonometric, front left")
    whole = hand.picture()
    place_series(hand, "x", Apart="3 m")
    series = session.series
    assert series is not None and len(series.offsets) == 8 and series.reach.mode == "all but"
    picture = hand.picture()
    assert (np.abs(picture.astype(int) - whole).max(axis=2) > 12).mean() > 0.2  # the building is set aside
    page.fill()
    hand.qtbot.waitUntil(lambda: "m³" in page.volume.text(), timeout=30_000)
    result = session.series_work(series)()
    assert page.tree.topLevelItemCount() == 8
    assert page.tree.topLevelItem(2).text(1) == f"{result.areas[2]:.2f} m²"
    assert page.volume.text().startswith(f"{result.volume:.2f} m³")

    # One of them is picked on the stage and becomes a section plane.
    face = next(f for f in session.on_stage().cut_open.faces if f.name == "S5")
    for polygon in sorted(face.poche.polygons, key=lambda p: -p.area):
        spot = polygon.representative_point()
        at = hand.point_on(face.plane.raised(np.array([spot.x, spot.y])))
        found = hand.window.stage_input.under(QPointF(*at))
        if found is not None and found[1] is not None and found[1].name == "S5":
            break
    hand.click(hand.stage, *at)
    assert session.picked.cut == series.id and session.picked.member == 4
    assert page.tree.topLevelItem(4).isSelected() and page.make.isEnabled()

    for suffix in (".svg", ".dxf", ".json"):
        hand.do("send_series")
        sending = dialog(SeriesDialog)
        sending.path.setText(str(tmp_path / f"series{suffix}"))
        sending.scale.setCurrentText("1:100")
        hand.send(sending)
        assert not isValid(sending) or not sending.isVisible()
    root = etree.parse(str(tmp_path / "series.svg")).getroot()
    assert [g.get("id") for g in root.iterfind("{*}g")] == [f"S{i}" for i in range(1, 9)]
    document = ezdxf.readfile(tmp_path / "series.dxf")
    assert not document.audit().has_errors and {f"S{i}" for i in range(1, 9)} <= {x.dxf.name for x in document.layers}
    facts = json.loads((tmp_path / "series.json").read_text())
    assert facts["areas"] == pytest.approx(result.areas.tolist()) and facts["volume"] == pytest.approx(result.volume)
    hand.do("send_series")
    sending = dialog(SeriesDialog)
    sending.way.setCurrentIndex(1)
    sending.path.setText(str(tmp_path / "each.svg"))
    hand.send(sending)
    assert len(list(tmp_path.glob("each S*.svg"))) == 8

    # Curves only, with the building, and as a scene that comes back.
    for key in ("fills", "alone"):
        page.switches[key].click()
    curves = hand.picture()
    assert (np.abs(curves.astype(int) - picture).max(axis=2) > 12).mean() > 0.2
    hand.do("save_scene")
    saved = hand.picture()
    scene = session.project.scenes[-1]
    page.make.click()
    assert session.cut.plane == series.planes()[4] and not session.stage.series[0].on
    hand.window.contact_sheet.recall(scene.id)
    assert (hand.picture() == saved).all() and session.stage.series == scene.state.series
    session.pick(cut=series.id)
    page.count.setValue(3)
    page.spacing.entered.emit(5.0)
    page.heading.entered.emit(30.0)
    changed = session.series
    assert changed.offsets == pytest.approx((0, 5, 10)) and changed.plane.heading == pytest.approx(30)
    hand.do("delete_cut")
    assert session.stage.series == ()


def test_a_section_over_every_storey_and_from_a_plane(hand) -> None:
    session = hand.window.session
    place_series(hand, "storeys")
    assert [p.origin[2] for p in session.series.planes()] == pytest.approx([7.6, 4.6, 1.2, 0.0])
    hand.do("square_on")
    assert session.stage.camera.axes[2] == pytest.approx([0, 0, 1], abs=1e-9)
    hand.do("delete_cut")
    hand.window.contact_sheet.recall("cross")
    session.pick(cut="across")
    place_series(hand, "plane", Apart="1")
    planes = session.series.planes()
    assert planes[0] == session.stage.cut("across").plane and not session.stage.cut("across").on
    assert np.diff([p.origin[0] for p in planes]) == pytest.approx([-1.0] * 7)  # on to where the cut looks
    hand.do("series")
    ask = dialog(Ask)
    ask.lengths["Apart"].setText("0")
    ask.go.click()
    assert ask.isVisible() and "above 0" in ask.problem.text()
    ask.reject()


def test_drawings_of_a_box_and_of_a_stepped_section(hand, tmp_path: Path) -> None:
    session = hand.window.session
    building = session.building
    hand.window.contact_sheet.recall("stepped")
    session.pick(cut="steps")
    for name, scale in (("flat.svg", 50), ("flat.dxf", 100)):
        hand.do("send_drawing")
        sending = dialog(DrawingDialog)
        sending.scale.setCurrentText(f"1:{scale}")
        sending.path.setText(str(tmp_path / name))
        hand.send(sending)
    flat = flat_section(session.cut, session.left().faces)
    shapes = svg_polygons(tmp_path / "flat.svg")
    for e in np.unique(flat.element):
        own = building.elements[e]
        on_paper = shapes[f"{plain_type(own.type)}/{own.id}"].area * (50 / 1000) ** 2
        assert on_paper == pytest.approx(flat.areas[flat.element == e].sum(), rel=1e-5, abs=1e-9)
    assert not ezdxf.readfile(tmp_path / "flat.dxf").audit().has_errors

    hand.window.contact_sheet.recall("wing")
    session.pick(cut="wing")
    hand.do("send_drawing")
    sending = dialog(DrawingDialog)
    offered = [sending.cut.itemText(i) for i in range(sending.cut.count())]
    assert "Box D, front" in offered and "Box D, top" in offered
    sending.cut.setCurrentIndex(offered.index("Box D, top"))
    sending.path.setText(str(tmp_path / "top.bmp"))
    hand.send(sending)
    assert sending.isVisible() and ".svg, .pdf or .dxf" in sending.problem.text()
    sending.path.setText(str(tmp_path / "top.svg"))
    hand.send(sending)
    face = next(f for f in session.left().faces_of("wing") if f.name == "top")
    total = sum(s.area for s in svg_polygons(tmp_path / "top.svg").values()) * (50 / 1000) ** 2
    assert total == pytest.approx(face.poche.areas.sum(), rel=1e-5)


@pytest.mark.parametrize("scene, suffix", [("corner", ".glb"), ("wing", ".stl")])
def test_the_model_as_cut_is_written_and_closed(hand, tmp_path: Path, scene: str, suffix: str) -> None:
    session = hand.window.session
    hand.window.contact_sheet.recall(scene)
    hand.do("send_model")
    sending = dialog(ModelDialog)
    target = tmp_path / f"cut{suffix}"
    sending.path.setText(str(target))
    hand.send(sending)
    assert target.exists() and "Wrote" in hand.window.status.text()
    mesh = trimesh.load(str(target), force="mesh")
    cells = session.left().cells
    points = np.asarray(mesh.vertices)
    if suffix == ".glb":
        points = np.column_stack([points[:, 0], -points[:, 2], points[:, 1]])  # glTF stands Y up
    assert not any(cell.holds(points, 1e-3).any() for cell in cells)
    area_vectors = np.asarray(mesh.area_faces)[:, None] * mesh.face_normals
    assert np.linalg.norm(area_vectors.sum(axis=0)) < 2e-3 * mesh.area
    hand.do("send_model")
    sending = dialog(ModelDialog)
    sending.path.setText(str(tmp_path / "cut.obj"))


@pytest.mark.usefixtures("large")
def test_a_picture_of_a_box_on_clear_ground(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The cutaway comes out as on the stage, and no frame or handle with it."""
    monkeypatch.setattr("anatome.render.pictures.EXPORT_SAMPLES", 12)
    session = hand.window.session
    hand.window.contact_sheet.recall("corner")
    session.pick(cut="corner")
    hand.do("cut_graphic")
    assert accent_mask(hand.screen()).sum() > 500  # so much of it there is to come out
    hand.do("send_picture")
    sending = dialog(PictureDialog)
    sending.scene.setCurrentIndex(0)
    sending.width_px.setValue(hand.stage.width())
    sending.ground.setCurrentIndex(0)
    sending.path.setText(str(tmp_path / "corner.png"))
    hand.send(sending)
    with Image.open(tmp_path / "corner.png") as opened:
        picture = np.array(opened)
    assert picture[..., 3].min() == 0 and not (accent_mask(picture) & (picture[..., 3] > 0)).any()
    session.pick()
    stage = hand.picture()
    alpha = picture[..., 3:] / 255.0
    paper = np.array([0xF6, 0xF4, 0xEE])
    composed = picture[..., :3] * alpha + paper * (1 - alpha)
    rows = min(len(stage), len(composed))
    off = np.abs(composed[:rows] - stage[:rows]).max(axis=2)
    assert (off > 40).mean() < 0.02


def test_poche_rules_change_the_fill(hand) -> None:
    """Merging by material makes one area of neighbours; lines between them there are none in either picture."""
    session, overview = hand.window.session, hand.window.inspector.overview
    hand.window.contact_sheet.recall("long")
    before = hand.picture()
    faces = session.left().faces[0].poche
    session.pick()
    overview.cutting.merge.click()
    merged = session.left().faces[0].poche
    assert len(merged.polygons) < len(faces.polygons)
    assert shapely.area(shapely.union_all(merged.polygons)) == pytest.approx(
        shapely.area(shapely.union_all(faces.polygons)), rel=1e-4
    )
    after = hand.picture()
    dark = (before.astype(int).sum(axis=2) < 130).sum(), (after.astype(int).sum(axis=2) < 130).sum()
    assert abs(dark[1] - dark[0]) < 0.02 * dark[0]
    overview.cutting._rule("sheet", "Sheets are", 0.05)
    overview.cutting._rule("earth", "Ground goes down", 2.0)
    assert (session.stage.poche.sheet, session.stage.poche.earth) == (0.05, 2.0)
    overview.cutting.gap.entered.emit(0.004)
    assert session.stage.poche.gap == 0.004 and overview.cutting.gap_by_size.isEnabled()
    overview.cutting.gap_by_size.click()
    assert session.stage.poche.gap is None
    for _ in range(2):
        hand.do("undo")
    assert session.stage.poche == session.project.scene("long").state.poche
    assert edits.peel_of(session.project, "none") == []
    assert hand.stage.focusPolicy() == Qt.FocusPolicy.StrongFocus
