"""Framing a picture in the real window: projections chosen by their pictures, framing numbers typed, cuts moved in obliques."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh
from lxml import etree
from PIL import Image
from PySide6.QtCore import QPoint, QPointF, QSizeF, Qt
from PySide6.QtGui import QNativeGestureEvent, QPointingDevice, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from scipy.ndimage import binary_erosion, label
from trimesh.ray.ray_triangle import RayMeshIntersector

from anatome.app.base.ask import Ask
from anatome.app.panels.inspector.view_chooser import ViewButton
from anatome.app.send_out.drawings import DrawingDialog
from anatome.app.send_out.pictures import PictureDialog
from anatome.app.stage.crop_frame import CropFrame
from anatome.app.stage.overlay import caption
from anatome.scenes import edits
from anatome.view.crop import Crop
from anatome.view.framing import drawn_as, lens_of
from anatome.view.projections import TRUE, projection_of
from anatome.view.viewport import Viewport
from helpers import POCHE, accent_mask, close_to, poche_mask, projected, svg_polygons


def choose(hand, name: str) -> None:
    """Open the sheet by its key and click a picture."""
    hand.press(Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    sheet = hand.window.inspector.overview.chooser.sheet
    assert sheet.isVisible()
    button = sheet.buttons[name]
    hand.click(button, button.width() / 2, 20)
    assert not sheet.isVisible()


def wheel(at: QPointF, angle: int) -> QWheelEvent:
    none, pixels = Qt.MouseButton.NoButton, QPoint(0, 0)
    return QWheelEvent(
        at, at, pixels, QPoint(0, angle), none, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False
    )


def test_views_are_chosen_by_pictures_of_the_building(hand) -> None:
    window, session = hand.window, hand.window.session
    chooser = window.inspector.overview.chooser
    window.contact_sheet.recall("long")
    hand.settle()
    window.actions_["all_views"].trigger()
    buttons: dict[str, ViewButton] = chooser.sheet.buttons
    hand.qtbot.waitUntil(lambda: all(b.drawn for b in buttons.values()), timeout=60_000)
    images = {name: chooser.pictures.image(name) for name in buttons if name not in TRUE}  # this cut is the front anyway
    assert len({bytes(image.constBits()) for image in images.values()}) == len(images) - 1  # isometric is from the front left
    chooser.sheet.close()
    choose(hand, "Plan oblique, 45°")
    found = projection_of(session.stage.camera)
    assert found is not None and found.kind == "plan oblique" and found.corner == (-1, -1)
    assert chooser.front[0].name == "Plan oblique, 45°"
    # A corner keeps the projection; one of the last views is a click away.
    choose(hand, "Axonometric, front right")
    turned = projection_of(session.stage.camera)
    assert turned is not None and turned.kind == "plan oblique" and turned.corner == (1, -1)
    hand.click(chooser.front[1], 20, 20)
    again = projection_of(session.stage.camera)
    assert again is not None and (again.kind, again.corner) == ("plan oblique", (1, -1))


@pytest.mark.usefixtures("large")
@pytest.mark.parametrize("name", ["Plan oblique, 45°", "Cavalier"])
def test_cuts_are_filled_picked_and_moved_in_oblique_drawings(hand, name: str) -> None:
    window, session, stage = hand.window, hand.window.session, hand.stage
    window.contact_sheet.recall("long")
    choose(hand, name)
    face = session.on_stage().cut_open.faces[0]
    picture = hand.picture()
    inside, outside = projected(face.poche, session.stage.camera, (stage.width(), stage.height()))
    filled = poche_mask(picture, beside=True)
    assert filled[inside].mean() > 0.95 and filled[outside].mean() < 0.1

    # What is picked is what a library's ray meets first of what the cut leaves.
    spots = stage.viewport.pixels(np.array([[9.0, 9.5, 0.1], [9.0, 11.5, 3.0], [4.0, 11.5, 4.5]]))
    spot = next(s for s in spots if not filled[round(s[1]), round(s[0])])
    origin, direction = stage.viewport.ray(*spot)
    building = session.building
    mesh = trimesh.Trimesh(building.vertices, building.triangles, process=False)
    places, _, triangles = RayMeshIntersector(mesh).intersects_location([origin], [direction])
    left = session.stage.cuts[0].plane.distance(places) < 0
    first = triangles[left][np.argmin((places[left] - origin) @ direction)]
    hand.click(stage, *spot)
    assert session.picked.elements == {building.elements[building.element_of_triangle[first]].id}

    # The handle stays under the hand.
    session.pick(cut="along")
    hand.settle()
    tip = window.overlay.handles.tip
    before = session.cut.plane
    along = stage.viewport.pixels(window.overlay.handles.centre - before.n * 2.0) - stage.viewport.pixels(
        window.overlay.handles.centre
    )
    QTest.keyPress(stage, Qt.Key.Key_Control)
    hand.drag(stage, tip, tip + along)
    QTest.keyRelease(stage, Qt.Key.Key_Control)
    moved = before.offset - session.cut.plane.offset
    assert moved == pytest.approx(2.0, abs=0.4)
    assert np.hypot(*(window.overlay.handles.tip - (tip + along))) < 12


def test_a_perspective_section_in_one_action_and_its_numbers(hand) -> None:
    window, session, stage = hand.window, hand.window.session, hand.stage
    framing = window.inspector.overview.framing
    window.contact_sheet.recall("cutaway")
    session.pick(cut="along")
    hand.do("perspective_section")
    camera = session.stage.camera
    assert drawn_as(camera) == "one-point perspective" and window.actions_["projection"].isChecked()
    face = session.on_stage().cut_open.faces[0]
    low, high = face.built_bounds()
    corners = np.array([[low[0], 6.2, low[2]], [high[0], 6.2, high[2]]])
    at = stage.viewport.pixels(corners)
    assert (at > 10).all() and (at[:, 0] < stage.width() - 10).all() and np.abs(np.diff(at[:, 0])) > 0.75 * stage.width()

    session.pick()
    first = hand.picture()
    hand.type_into(framing.fields["distance"], "25 m")
    assert session.stage.camera.distance == pytest.approx(25.0)
    hand.type_into(framing.fields["eye"], "2.1")
    hand.type_into(framing.fields["lens"], "28 mm")
    assert session.stage.camera.eye[2] == pytest.approx(2.1)
    assert lens_of(session.stage.camera.field, stage.aspect) == pytest.approx(28.0)
    assert stage.viewport.pixels(corners) == pytest.approx(at, abs=0.01)  # the cut is where it was
    second = hand.picture()
    inside, _ = projected(face.poche, camera, (stage.width(), stage.height()))
    assert poche_mask(first)[inside].mean() > 0.97 and poche_mask(second)[inside].mean() > 0.97
    assert (np.abs(first.astype(int) - second).max(axis=2) > 12).mean() > 0.1  # what lies beyond is not
    hand.type_into(framing.fields["up"], "10 %")
    assert session.stage.camera.shift[1] == pytest.approx(0.1)
    assert stage.viewport.pixels(corners)[:, 0] == pytest.approx(at[:, 0], abs=0.01)
    hand.do("undo")
    assert session.stage.camera.shift[1] != pytest.approx(0.1) and drawn_as(session.stage.camera) == "one-point perspective"
    while session.history.undo_label == "Framed the picture":  # numbers typed soon after one another are one step
        hand.do("undo")
    assert drawn_as(session.stage.camera) == "one-point perspective" and session.stage.camera == camera
    hand.do("undo")  # and the section was the one before
    assert not session.stage.camera.is_perspective


def test_verticals_are_straightened_and_a_worms_eye_view_is_a_click_away(hand) -> None:
    window, session, framing = hand.window, hand.window.session, hand.window.inspector.overview.framing
    window.contact_sheet.recall("outside")
    edge = np.array([[0.0, -0.15, 0.3], [0.0, -0.15, 4.5]])
    leaning = hand.point_on(edge)
    assert abs(leaning[0, 0] - leaning[1, 0]) > 1.0
    hand.click(framing.straighten, 20, 10)
    upright = hand.point_on(edge)
    assert upright[0, 0] == pytest.approx(upright[1, 0], abs=1e-6) and not framing.straighten.isVisible()
    window.actions_["straighten"].trigger()
    choose(hand, "Isometric")
    hand.type_into(framing.fields["first"], "7.18")
    hand.type_into(framing.fields["second"], "41.41")
    assert projection_of(session.stage.camera).name == "dimetric"
    assert "Dimetric" in window.inspector.overview.projection.button.text()
    hand.click(framing.below, 8, 8)
    assert projection_of(session.stage.camera).below and session.stage.camera.axes[2][2] < 0


def test_a_crop_with_handles_proportions_and_a_scale_that_is_held(hand, tmp_path: Path) -> None:
    """From the frame on the stage to paper: what lies in it is the picture, and a metre of the cut is 10 mm at 1:100."""
    window, session, stage = hand.window, hand.window.session, hand.stage
    box = window.inspector.overview.crop
    window.contact_sheet.recall("long")
    session.pick(cut="along")
    hand.do("perspective_section")
    hand.do("crop")
    assert session.picked.crop and session.cut is None
    frame = CropFrame(session.stage.crop, QSizeF(stage.size()))
    before = frame.box
    # A side is pulled, the whole moved by its line; each is a step, and Escape in a pull takes it back.
    corner = frame.handle("upper left")
    hand.drag(stage, (corner.x(), corner.y()), (corner.x() + 40, corner.y() + 30))
    pulled = CropFrame(session.stage.crop, frame.size).box
    assert (pulled.left() - before.left(), pulled.top() - before.top()) == pytest.approx((40, 30), abs=1.5)
    assert (pulled.right(), pulled.bottom()) == pytest.approx((before.right(), before.bottom()), abs=0.5)
    edge = (pulled.left() + 60, pulled.top())
    hand.drag(stage, edge, (edge[0], edge[1] + 120), release=False)
    hand.press(Qt.Key.Key_Escape)
    QTest.mouseRelease(stage, Qt.MouseButton.LeftButton)
    assert CropFrame(session.stage.crop, frame.size).box == pulled
    hand.drag(stage, edge, (edge[0] - 20, edge[1] - 25))
    moved = CropFrame(session.stage.crop, frame.size).box
    assert (moved.left() - pulled.left(), moved.top() - pulled.top()) == pytest.approx((-20, -25), abs=1.5)
    hand.do("undo")
    hand.do("undo")
    assert CropFrame(session.stage.crop, frame.size).box == before
    # Out of hand a drag on its line is no more than a look round; a click takes it in hand again.
    hand.press(Qt.Key.Key_Escape)
    assert not session.picked.crop
    side, camera = (before.left(), before.top() + 30), session.stage.camera
    hand.drag(stage, side, (side[0] + 40, side[1]))
    assert CropFrame(session.stage.crop, frame.size).box == before and session.stage.camera != camera
    session.look_from(camera)
    hand.click(stage, *side)
    assert session.picked.crop
    box.proportion.setCurrentIndex(box.proportion.findText("Square"))
    box.proportion.activated.emit(box.proportion.currentIndex())
    side = CropFrame(session.stage.crop, frame.size)
    grip = side.handle("right")
    hand.drag(stage, (grip.x(), grip.y()), (grip.x() - 50, grip.y()))
    assert session.stage.crop.aspect == pytest.approx(1.0)

    # A paper and a scale: the caption says so, and going nearer changes the paper, not the scale.
    box.scale.setEditText("1:100")
    QTest.keyClick(box.scale.lineEdit(), Qt.Key.Key_Return)
    box.paper.setCurrentIndex(box.paper.findText("A3 landscape"))
    box.paper.activated.emit(box.paper.currentIndex())
    assert caption(session)[1].startswith("Section A, one-point perspective, 1:100 at the cut, 420 × 297 mm")
    middle = QPointF(stage.width() / 2, stage.height() / 2)
    hand.qtbot.wait(50)
    window.stage_input._wheel(wheel(middle, 240))
    assert session.stage.crop.scale == 100.0 and float(box.width_mm.shown) < 350
    hand.type_into(box.width_mm, "420")
    assert (box.width_mm.shown, box.height_mm.shown) == pytest.approx((420, 297), abs=0.2)

    # Measured on the picture that is sent out, to the dot.
    session.pick()
    hand.do("send_picture")
    sending = next(w for w in QApplication.topLevelWidgets() if isinstance(w, PictureDialog) and w.isVisible())
    assert "1:100 on 420 × 297 mm" in sending.sizes.note.text() and not sending.width_px.isEnabled()
    sending.scene.setCurrentIndex(0)
    sending.dpi.setValue(72)
    sending.path.setText(str(tmp_path / "cut.png"))
    hand.send(sending)
    with Image.open(tmp_path / "cut.png") as opened:
        assert opened.size == (1191, 842) and opened.info["dpi"] == pytest.approx((72, 72), abs=0.01)
        picture = np.array(opened)
    face = session.on_stage().cut_open.faces[0]
    built = face.poche.polygons[~session.building.context[face.poche.element]]
    # The largest piece of fill: the slab with the walls and the roof on it. One pixel is taken off all round, as lines mix to
    # the same grey here and there, and given back.
    pieces, _ = label(binary_erosion(close_to(picture, POCHE)))
    columns = np.flatnonzero((pieces == np.bincount(pieces[pieces > 0]).argmax()).any(axis=0))
    slab = max(shapely.get_parts(shapely.union_all(shapely.buffer(built, 1e-4))), key=lambda polygon: polygon.area)
    wide = slab.bounds[2] - slab.bounds[0]
    assert (np.ptp(columns) + 3) / 72 * 25.4 == pytest.approx(wide * 10, abs=1.0)
    assert not accent_mask(picture).any()  # neither line nor thirds nor handles

    # As a scene it comes back cropped, small picture and all; undoing the crop gives the whole stage back.
    hand.do("save_scene")
    scene = session.scene
    assert scene.aspect == pytest.approx(420 / 297, rel=1e-3)
    window.contact_sheet.recall("outside")
    assert session.stage.crop is None
    window.contact_sheet.recall(scene.id)
    assert session.stage.crop is not None and not session.project.differs_from_scene
    hand.do("crop")
    assert session.stage.crop is None and not box.content.isVisible()


def test_going_to_a_room_and_back_to_the_views_before(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    window.commands.going.note()
    first = session.stage.camera
    hand.press(Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier)
    ask = next(w for w in QApplication.topLevelWidgets() if isinstance(w, Ask) and w.isVisible())
    room = session.building.spaces[0]
    ask.choices["Place"].setCurrentIndex(ask.choices["Place"].findText(room.name))
    ask.choices["Look"].setCurrentIndex(1)
    ask.go.click()
    within = session.stage.camera
    assert within.is_perspective and within.eye[2] == pytest.approx(room.lower[2] + 1.6) == within.target[2]
    eye = np.array(within.eye)
    assert (eye > room.lower).all() and (eye < room.upper).all() and drawn_as(within) == "one-point perspective"
    hand.do("view Top")
    hand.do("last_view")
    assert session.stage.camera == within
    hand.do("last_view")
    assert session.stage.camera == first
    hand.do("last_view")
    assert session.stage.camera.eye != within.eye or session.stage.camera == first
    while session.stage.camera != within:
        hand.do("next_view")
    hand.do("next_view")
    assert session.stage.camera.axes[2] == pytest.approx([0, 0, 1], abs=1e-9)
    hand.do("next_view")
    assert "last view" in window.status.text()


def test_walking_by_keys_and_looking_square_at_the_wing(hand) -> None:
    window, session, stage = hand.window, hand.window.session, hand.stage
    window.contact_sheet.recall("ground")
    hand.settle()
    hand.press(Qt.Key.Key_W, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
    assert window.actions_["walk"].isChecked()
    hall = next(s for s in session.building.spaces if s.name == "Boat hall")
    middle = np.append(np.mean([hall.lower[:2], hall.upper[:2]], axis=0), hall.lower[2])
    hand.click(stage, *hand.point_on(middle + [0, -2.5, 0]))
    camera = session.stage.camera
    assert camera.is_perspective and camera.eye[2] == pytest.approx(hall.lower[2] + 1.6, abs=0.05)
    ahead = -camera.axes[2]
    hand.press(Qt.Key.Key_Up)
    assert np.subtract(session.stage.camera.eye, camera.eye) == pytest.approx(0.5 * ahead, abs=0.02)
    hand.press(Qt.Key.Key_Left)
    assert session.stage.camera.eye == pytest.approx(np.add(camera.eye, 0.5 * ahead), abs=0.02)
    assert np.degrees(np.arccos(-session.stage.camera.axes[2] @ ahead)) == pytest.approx(7.5, abs=0.01)
    for _ in range(60):  # whichever way it goes, one stays in the hall or leaves it by a door
        hand.press(Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert "wall" in window.status.text() or "floor" in window.status.text()
    hand.drag(stage, (300, 300), (340, 300))
    assert session.stage.camera.eye[2] == pytest.approx(hall.lower[2] + 1.6, abs=0.3)
    hand.press(Qt.Key.Key_Escape)

    window.contact_sheet.recall("outside")
    hand.do("view Top")
    hand.do("view Axonometric, front right")
    hand.settle()
    hand.do("look_square")
    spots = [(x, y) for x in range(40, stage.width(), 7) for y in range(60, stage.height() - 60, 7)]
    at = next(s for s in spots if (f := window.stage_input.under(QPointF(*s))) is not None and wing_face(session, f))
    hand.click(stage, *at)
    camera = session.stage.camera
    assert camera.projection == "parallel" and abs(camera.axes[2][2]) < 1e-9
    angle = np.degrees(np.arctan2(*camera.axes[2][1::-1])) % 90
    assert min(angle, 90 - angle) == pytest.approx(24, abs=0.01)


def wing_face(session, found) -> bool:
    """Whether an upright face of the wing was met."""
    name, normal = session.building.elements[found[0].element].name, found[0].normal
    return name.startswith("Wing") and abs(normal[2]) < 0.01 and min(abs(np.array(normal[:2]))) > 0.3


# The camera and what is drawn in the key drawings ----------------------------------------------------------------


@pytest.mark.usefixtures("large")
def test_the_cone_is_opened_and_the_plane_of_the_picture_moved_in_the_key_plan(hand) -> None:
    session, plan = hand.window.session, hand.window.key_plan
    hand.window.contact_sheet.recall("cross")
    session.pick()
    hand.settle()
    before, mark = session.stage.camera, plan.camera_mark()
    aim = mark.aim
    # To where no handle of a cut lies, for those come first; their lines do not.
    ways = [(end, end + more * (end - aim)) for end in mark.ends() for more in (0.6, 0.75, 0.5)]
    end, wider = next((a, b) for a, b in ways if plan._under(QPointF(*b))[0] in ("pan", "move"))
    hand.drag(plan, end, wider)
    opened = session.stage.camera
    assert opened.eye == before.eye and opened.field > before.field * 1.3
    assert min(np.hypot(*(e - np.round(wider))) for e in plan.camera_mark().ends()) < 2.0
    hand.drag(plan, min(plan.camera_mark().ends(), key=lambda e: np.hypot(*(e - wider))), end)
    assert session.stage.camera.field == pytest.approx(before.field, rel=0.03)

    # The plane of the picture goes along the sight, and the picture stays. In the line of a cut the cut comes first.
    session.look_from(before.placed(np.array(before.eye), np.array(before.target) + [5.0, 0.0, 0.0], before.up))
    picture, mark, camera = hand.picture(), plan.camera_mark(), session.stage.camera
    held = 0.5 * (mark.aim + mark.ends()[0])
    along = (mark.aim - mark.eye) / np.hypot(*(mark.aim - mark.eye))
    hand.drag(plan, held, held + 22 * along)
    moved = session.stage.camera
    assert moved.eye == camera.eye and moved.field == camera.field and moved.distance > camera.distance * 1.1
    assert (np.abs(hand.picture().astype(int) - picture).max(axis=2) > 40).mean() < 0.004
    # In a parallel view the ends of the bracket say how much is shown.
    hand.do("projection")
    mark, height = plan.camera_mark(), session.stage.camera.height
    end = mark.ends()[0]
    hand.drag(plan, end, mark.eye + 0.5 * (end - mark.eye))
    assert session.stage.camera.height == pytest.approx(0.5 * height, rel=0.1)


@pytest.mark.usefixtures("large")
def test_a_section_drawn_in_the_grown_plan_goes_to_corners_and_axes(hand) -> None:
    session, plan = hand.window.session, hand.window.key_plan
    hand.press(Qt.Key.Key_F6)
    hand.settle()
    hand.do("plane_line")
    near = plan.to_pixels(np.array([0.0, 0.0])) + [2, 1]
    QTest.mouseMove(plan, QPoint(*map(round, near)))
    hand.qtbot.waitUntil(lambda: plan.plan_points() is not None, timeout=10_000)
    QTest.mouseMove(plan, QPoint(*map(round, near)))
    QTest.mouseMove(plan, QPoint(*map(round, near)) + QPoint(1, 0))
    assert plan.task.snapped == "corner"
    hand.click(plan, *near)
    far = plan.to_pixels(np.array([24.3, 9.87]))
    QTest.mouseClick(plan, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, QPoint(*map(round, far)))
    first, second = plan.task.points
    assert np.allclose(first, (0, 0), atol=1e-6)
    assert np.abs(second - plan.to_sheet(QPointF(*np.round(far)))).max() < 1e-9  # with Ctrl just where the pointer is
    hand.click(plan, *plan.to_pixels(np.array([4.0, 9.0])))
    assert session.cut is not None and abs(float(session.cut.plane.distance(np.array([0.0, 0.0, 1.0])))) < 1e-6


def test_two_fingers_zoom_and_turn(hand) -> None:
    """What a touchpad sends, as Qt hands it on; the hardware was not at hand."""
    stage, session = hand.stage, hand.window.session
    pad, at = QPointingDevice.primaryPointingDevice(), QPointF(stage.width() / 2, stage.height() / 2)

    def gesture(kind: Qt.NativeGestureType, value: float) -> None:
        QApplication.sendEvent(stage, QNativeGestureEvent(kind, pad, 2, at, at, at, value, QPointF()))

    met = hand.window.stage_input.under(at)
    assert met is not None
    pivot, before = np.array(met[0].point), session.stage.camera
    gesture(Qt.NativeGestureType.ZoomNativeGesture, 0.25)
    near = session.stage.camera
    assert np.linalg.norm(np.array(near.eye) - pivot) == pytest.approx(np.linalg.norm(np.array(before.eye) - pivot) / 1.25)
    gesture(Qt.NativeGestureType.RotateNativeGesture, 20.0)
    turned = session.stage.camera
    assert turned.eye[2] == pytest.approx(near.eye[2]) and turned.distance == pytest.approx(near.distance)
    assert np.degrees(np.arccos(turned.axes[0] @ near.axes[0])) == pytest.approx(20.0)


def test_a_drawing_shows_what_the_crop_shows(hand, tmp_path: Path) -> None:
    """The paper of the SVG is the crop at its scale, and what lies on it is where the picture has it."""
    session = hand.window.session
    hand.window.contact_sheet.recall("sheet")
    hand.settle()
    hand.do("send_drawing")
    dialog = next(d for d in hand.window.findChildren(DrawingDialog) if d.isVisible())
    assert dialog.cropped.isChecked() and dialog.scale.currentText() == "1:50"
    path = tmp_path / "cropped.svg"
    dialog.path.setText(str(path))
    hand.send(dialog)
    root = etree.parse(str(path)).getroot()
    assert (float(root.get("width")[:-2]), float(root.get("height")[:-2])) == pytest.approx((420, 297), abs=0.05)
    united = shapely.union_all(list(svg_polygons(path).values()))
    assert np.allclose(united.bounds[0::2], (-1, 421), atol=0.1)  # earth goes on beyond both edges
    # A tenth of a millimetre on paper is as much on the picture: corners of cut parts, measured both ways.
    crop, camera = session.stage.crop, session.stage.camera
    viewport = Viewport(camera, crop.frame(2970.0))
    (face,) = session.left().faces_of("across")
    corners = face.plane.raised(shapely.get_coordinates(face.poche.polygons[~session.building.context[face.poche.element]]))
    on_paper = viewport.pixels(corners) / 10
    inside = ((on_paper > 0) & (on_paper < [420, 297])).all(axis=1)
    spots = shapely.points(on_paper[inside])
    assert len(spots) > 50 and shapely.distance(spots, shapely.boundary(united)).min() < 0.02
    assert shapely.distance(spots, united).max() < 0.02


@pytest.mark.usefixtures("large")
def test_another_kind_of_view_lets_go_of_the_crop_and_finds_it_again(hand) -> None:
    window, session = hand.window, hand.window.session
    window.contact_sheet.recall("long")
    hand.settle()
    hand.do("crop")
    crop, camera = session.stage.crop, session.stage.camera
    assert crop is not None
    hand.qtbot.wait(800)  # a view one rested at
    hand.do("view Top")
    assert session.stage.crop is None and "crop waits" in window.status.text()
    hand.do("last_view")
    assert (session.stage.camera, session.stage.crop) == (camera, crop)
    hand.do("next_view")
    assert session.stage.crop is None
    hand.do("crop")  # the plan has one of its own
    above = session.stage.camera, session.stage.crop
    hand.do("view Front")
    assert session.stage.crop is None
    hand.do("view Top")
    assert (session.stage.camera, session.stage.crop) == above and "cropped as before" in window.status.text()
    hand.do("undo")
    assert session.stage.crop is None
    # Turning the view by hand keeps what one composes.
    hand.do("redo")
    hand.drag(hand.stage, (200, 200), (240, 210), modifiers=Qt.KeyboardModifier.ShiftModifier)
    assert session.stage.crop == above[1]


@pytest.mark.usefixtures("large")
def test_the_handles_of_a_crop_lie_over_the_caption(hand) -> None:
    session, stage = hand.window.session, hand.stage
    hand.window.contact_sheet.recall("long")
    hand.settle()
    # Its lower left corner lies in the caption.
    half = (0.5 * stage.width() - 60) / stage.height(), 0.5 - 20 / stage.height()
    crop = Crop(aspect=half[0] / half[1], height=2 * half[1])
    session.apply(edits.set_crop(session.project, crop), "Cropped")
    session.pick(crop=True)
    shown = hand.screen()
    x, y = 60, stage.height() - 20
    assert close_to(shown[y - 3 : y + 4, x - 3 : x + 4], (0x2F, 0x7F, 0x73), 12).mean() > 0.6


def test_a_section_across_the_house_is_drawn_true_in_an_oblique(hand) -> None:
    """The cut face is seen as in the flat section, pixel by pixel in scale; angle and length of what recedes are typed."""
    session = hand.window.session
    hand.window.contact_sheet.recall("cross")
    (cut,) = session.stage.active_cuts
    session.pick(cut=cut.id)
    page = hand.window.inspector.cut
    page._true_fold.button.setChecked(True)
    page.true_views["Cabinet, true to the cut, to the right"].click()
    camera = session.stage.camera
    found = projection_of(camera)
    assert (found.kind, found.name, found.ratio) == ("elevation oblique", "cabinet", 0.5)
    assert camera.axes[2] == pytest.approx(cut.plane.n) and session.stage.true_plane() == cut.plane
    u, v = (axis * 3.0 for axis in cut.plane.axes)
    origin = np.array(cut.plane.origin)
    places = hand.stage.viewport.pixels(np.stack([origin, origin + u, origin + v, origin - 4.0 * cut.plane.n]))
    across, upward, into = places[1:] - places[0]
    assert abs(across[1]) < 1e-6 and abs(upward[0]) < 1e-6 and np.hypot(*across) == pytest.approx(np.hypot(*upward))
    assert np.hypot(*into) / np.hypot(*across) == pytest.approx(0.5 * 4 / 3) and into[0] > 0 > into[1]
    assert f"cabinet true to {cut.mark}" in caption(session)[1]
    session.pick()
    ratio = hand.window.inspector.overview.framing.fields["ratio"]
    hand.window.inspector.overview.projection.button.setChecked(True)
    hand.type_into(ratio, "0.8")
    assert projection_of(session.stage.camera).ratio == pytest.approx(0.8)
    assert session.stage.camera.axes[2] == pytest.approx(cut.plane.n)  # still true to it
    # Where no face is upright there is nothing to be true to.
    hand.window.contact_sheet.recall("plan")
    hand.window.commands.view._last_cut = ""
    assert hand.window.commands.view.front is None
    hand.window.contact_sheet.recall("corner")
    assert hand.window.commands.view.front is not None  # a side of a box
