"""Every way to make and change a cut, with mouse and keys in the real window, judged by what the picture shows."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialogButtonBox, QFileDialog, QPushButton

from anatome.app.base.ask import Ask
from anatome.app.panels.inspector.reach_box import ReachDialog, reach_words
from anatome.app.stage.tasks import MeasureFace
from anatome.cuts.clearance import clearance_at
from anatome.cuts.cut import SectionBox, SectionPlane, SteppedSection
from anatome.cuts.flat_view import flat_section
from anatome.cuts.plane import Plane
from anatome.scenes import edits
from helpers import poche_mask, projected

CTRL, SHIFT, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.AltModifier
FRONT = (4.6, -0.13, 4.0)


def ask() -> Ask:
    return next(w for w in QApplication.topLevelWidgets() if isinstance(w, Ask) and w.isVisible())


def different(a: np.ndarray, b: np.ndarray) -> float:
    """Share of the picture that is not the same."""
    return float((np.abs(a.astype(int) - b).max(axis=2) > 12).mean())


def element(session, words: str) -> int:
    return next(i for i, e in enumerate(session.building.elements) if words in e.name)


# Section planes --------------------------------------------------------------------------------------------------


def test_a_plane_across_an_axis_along_a_wall_and_through_three_points(hand) -> None:
    session, stage = hand.window.session, hand.stage
    hand.do("plane_axis")
    hand.hover(*hand.point_on(FRONT))
    assert hand.window.overlay.preview.plane.normal == pytest.approx((-1, 0, 0))  # towards the eye, to the left
    QTest.keyClick(stage, Qt.Key.Key_Tab)
    hand.hover(*hand.point_on(FRONT))
    hand.click(stage, *hand.point_on(FRONT))
    assert session.cut.plane.normal == pytest.approx((0, -1, 0)) and session.cut.plane.position == pytest.approx(-0.13, abs=0.02)
    hand.do("delete_cut")

    at = hand.point_on((0.9, -0.13, 4.2))
    hand.do("plane_along")
    hand.hover(*at)
    hand.click(stage, *at)
    axis = session.cut.plane
    assert abs(axis.normal[1]) == pytest.approx(1) and -0.2 < axis.position < 0.1
    hand.do("delete_cut")
    hand.do("plane_along")
    hand.click(stage, *at, modifiers=SHIFT)
    assert session.cut.plane.position < axis.position - 0.005  # its face lies nearer to the river than its axis
    hand.do("delete_cut")

    hand.do("plane_points")
    points = [(0.9, -0.13, 4.2), (1.1, -0.13, 0.6), (8.0, 2.5, 8.6)]
    for i, point in enumerate(points):
        hand.hover(*hand.point_on(point))
        assert f"{('first', 'second', 'third')[i]}" in hand.window.overlay.hint
        hand.click(stage, *hand.point_on(point))
    plane = session.cut.plane
    assert hand.window.stage_input.task is None and abs(plane.distance(np.array(points[0]))) < 0.3
    assert not plane.is_level and abs(plane.normal[0]) > 0.1  # the third point lies behind the wall of the first two


def test_a_plane_at_a_storey_and_a_parallel_copy(hand) -> None:
    session = hand.window.session
    hand.do("plane_storey")
    dialog = ask()
    assert dialog.lengths["Over its floor"].text() == "1.200 m"
    dialog.choices["Storey"].setCurrentIndex(dialog.choices["Storey"].findData(2))
    dialog.lengths["Over its floor"].setText("somewhere")
    dialog.go.click()
    assert dialog.isVisible() and "not a length" in dialog.problem.text()
    dialog.lengths["Over its floor"].setText("80 cm")
    dialog.go.click()
    assert session.cut.plane.is_level and session.cut.plane.position == pytest.approx(4.2)
    cut = hand.picture()
    hand.do("copy_cut")
    dialog = ask()
    dialog.lengths["Further on by"].setText("2.5")
    dialog.go.click()
    assert [c.on for c in session.stage.cuts] == [False, True]
    assert session.cut.plane.position == pytest.approx(1.7) and session.cut.name == f"Section {session.cut.mark}"
    assert different(cut, hand.picture()) > 0.03


def test_a_line_drawn_in_the_key_plan(hand) -> None:
    """Click, click, then the side to look at; Shift keeps to 15° and the building's own directions."""
    window, session, plan = hand.window, hand.window.session, hand.window.key_plan
    hand.do("plane_line")
    assert plan.task is not None and window.actions_["plane_line"].isChecked()
    a, b, side = (plan.to_pixels(np.array(p)) for p in ((-2.0, 6.0), (31.0, 6.6), (10.0, 12.0)))
    hand.click(plan, *a)
    QTest.mouseMove(plan, QPoint(*map(round, b)))
    hand.click(plan, *b, modifiers=SHIFT)
    hand.click(plan, *side)
    cut = session.cut
    assert isinstance(cut, SectionPlane) and plan.task is None and not window.actions_["plane_line"].isChecked()
    assert cut.plane.normal == pytest.approx((0, -1, 0), abs=1e-9)  # level with the plan, looking away from the river
    assert cut.plane.position == pytest.approx(6.0, abs=1.0 / plan._scale)
    hand.do("plane_line")
    hand.click(plan, *a)
    QTest.keyClick(plan, Qt.Key.Key_Escape)
    assert plan.task is None and len(session.stage.cuts) == 1


@pytest.mark.usefixtures("large")
def test_depth_leaves_out_what_lies_further(hand) -> None:
    session, page = hand.window.session, hand.window.inspector.cut
    hand.place(*hand.point_on(FRONT))
    page.place.fields["move"].entered.emit(3.2)
    hand.do("square_on")
    whole = hand.picture()
    page.place.switches["far"].click()
    assert session.cut.depth is not None and hand.window.overlay.handles.knob("far") is not None
    page.place.fields["far"].entered.emit(1.0)
    shallow = hand.picture()
    assert different(whole, shallow) > 0.1
    far = hand.window.session.left().faces_of(session.cut.id)
    assert {f.name for f in far} == {"", "far end"}
    # The back wall of the hall, 8 m behind the cut, is not there any more; the cut face is as it was.
    inside, _ = projected(far[0].section, session.stage.camera, (whole.shape[1], whole.shape[0]))
    assert inside.sum() > 20_000 and (poche_mask(shallow) == poche_mask(whole))[inside].mean() > 0.99
    page.list.fill()
    assert page.list.total.text().endswith(f"{far[0].poche.areas.sum():.2f} m² in all")  # the far end does not count
    page.place.switches["far"].click()
    assert session.cut.depth is None and different(whole, hand.picture()) == 0


# Boxes -----------------------------------------------------------------------------------------------------------


def test_a_box_round_what_is_shown_is_pulled_moved_turned_and_typed(hand) -> None:
    window, session, page = hand.window, hand.window.session, hand.window.inspector.cut
    hand.do("view Axonometric, front left")
    hand.do("box_shown")
    cut = session.cut
    assert isinstance(cut, SectionBox)
    low, high = session.building.subject_bounds(session.shown())
    assert (cut.box.corners.min(axis=0) <= low + 1e-6).all() and (cut.box.corners.max(axis=0) >= high - 1e-6).all()
    closed = hand.picture()

    top = window.overlay.handles.knob("face 4")
    hand.drag(hand.stage, top.tip, top.tip + [0, 130])
    lowered = session.cut.box
    assert lowered.size[2] < cut.box.size[2] - 2 and lowered.planes[5] == cut.box.planes[5]  # the bottom stays
    opened = hand.picture()
    assert different(closed, opened) > 0.05 and poche_mask(opened).mean() > 0.02
    assert window.stage_input.number.text() == f"{lowered.size[2]:.3f} m"

    disc = window.overlay.handles.knob("whole")
    hand.drag(hand.stage, disc.tip, disc.tip + [70, -20])
    assert session.cut.box.size == lowered.size and session.cut.box.centre[2] == pytest.approx(lowered.centre[2])
    assert np.hypot(*np.subtract(session.cut.box.centre, lowered.centre)[:2]) > 1
    hand.do("undo")
    assert session.cut.box == lowered

    ring = window.overlay.handles.ring
    hand.drag(hand.stage, ring[0], ring[9])
    assert 5 < abs(session.cut.box.turn) < 120
    page.place.fields["turn"].entered.emit(0.0)
    assert session.cut.box.turn == pytest.approx(0)
    page.place.fields["size 2"].setFocus()
    page.place.fields["size 2"].selectAll()
    QTest.keyClicks(page.place.fields["size 2"], "4.5")
    QTest.keyClick(page.place.fields["size 2"], Qt.Key.Key_Return)
    page.place.fields["centre 0"].entered.emit(12.0)
    assert session.cut.box.size[2] == 4.5 and session.cut.box.centre[0] == 12.0

    # Two meanings; the graphic off with the effect kept, and still picked through list and key plan.
    kept = hand.picture()
    page.carve.buttons["carve"].click()
    assert session.cut.carve and different(kept, hand.picture()) > 0.1
    hand.do("turn_round")
    assert not session.cut.carve and different(kept, hand.picture()) == 0
    page.switches["graphic"].click()
    cut_id = session.cut.id
    assert different(kept, hand.picture()) == 0
    session.pick()
    plain = hand.screen()
    frame = window.key_plan.mark_of(session.stage.cut(cut_id)).strokes[0]
    at = window.key_plan.to_pixels(frame.points.mean(axis=0) * [1, 1]) + [0, 9]
    hand.click(window.key_plan, *window.key_plan.to_pixels(frame.points[0] * 0.8 + frame.points[1] * 0.2))
    assert session.picked.cut == cut_id, at
    assert different(plain, hand.screen()) > 0.001  # handles show for what is picked


def test_boxes_round_parts_rooms_and_storeys(hand) -> None:
    session = hand.window.session
    pontoon = frozenset(e.id for e in session.building.elements if e.layer == "L-PONTOON")
    session.pick(elements=pontoon)
    hand.do("box_picked")
    assert session.cut.box.corners.max(axis=0)[0] > 30
    assert {session.building.elements[e].layer for e in np.flatnonzero(session.left().shown)} >= {"L-PONTOON", "L-TERRAIN"}
    hand.do("delete_cut")
    hand.do("box_space")
    dialog = ask()
    dialog.choices["Room"].setCurrentIndex(dialog.choices["Room"].findText("Clubroom"))
    dialog.choices["The box"].setCurrentIndex(1)
    dialog.choices["Top"].setCurrentIndex(1)
    dialog.go.click()
    space = next(s for s in session.building.spaces if s.name == "Clubroom")
    assert session.cut.carve and np.array(session.cut.box.size) == pytest.approx(np.subtract(space.upper, space.lower) + 0.6)
    hand.do("delete_cut")
    hand.do("box_storey")
    dialog = ask()
    dialog.choices["Storey"].setCurrentIndex(dialog.choices["Storey"].findData(1))
    dialog.go.click()
    heights = session.cut.box.corners[:, 2]
    assert heights.min() == pytest.approx(-0.3) and 2.2 < heights.max() < 2.7  # under the ceiling of the changing rooms
    hand.do("delete_cut")
    hand.do("box_storey")
    dialog = ask()
    dialog.choices["Storey"].setCurrentIndex(dialog.choices["Storey"].findData(1))
    dialog.choices["Up to"].setCurrentIndex(1)
    dialog.go.click()
    heights = session.cut.box.corners[:, 2]
    assert (heights.min(), heights.max()) == pytest.approx((-0.3, 3.1))
    hand.do("delete_cut")
    hand.place(*hand.point_on(FRONT))
    hand.do("box_from_plane")
    dialog = ask()
    dialog.lengths["Depth"].setText("2")
    dialog.go.click()
    assert session.cut.box.size[1] == pytest.approx(2.0) and [c.on for c in session.stage.cuts] == [False, True]
    hidden = edits.hide(session.project, [e.id for e in session.building.elements])
    session.apply(hidden, "All hidden")
    hand.do("box_shown")
    assert len(session.stage.cuts) == 2 and "nothing to put a box round" in hand.window.status.text()


@pytest.mark.usefixtures("large")
def test_a_box_drawn_in_the_key_plan_and_matched_to_the_wing(hand) -> None:
    session, plan = hand.window.session, hand.window.key_plan
    hand.do("box_plan")
    a, b = (plan.to_pixels(np.array(p)) for p in ((21.0, 14.0), (33.0, 26.0)))
    hand.drag(plan, a, b)
    box = session.cut.box
    assert box.centre[:2] == pytest.approx((27, 20), abs=0.3) and box.size[:2] == pytest.approx((12, 12), abs=0.4)
    assert plan.task is None
    hand.do("view Axonometric, front right")
    wall = element(session, "Wing, east wall, larch")
    low, high = session.building.element_bounds[wall]
    at = hand.point_on((low + high) / 2 - [0, 0, 1.2])
    hand.do("match")
    hand.click(hand.stage, *at)
    assert (session.cut.box.turn - 66.0) % 90 == pytest.approx(0, abs=0.5) or (session.cut.box.turn - 66) % 90 > 89.5
    turned = session.cut.box
    # Sides of the turned box are pulled in the plan, its top in the elevation.
    mark = plan.mark_of(session.cut)
    knob = next(k for k in mark.knobs if k.hold == "face 0")
    place = plan.knob_place(knob)
    hand.drag(plan, place, place + knob.points_to * [1, -1] * -20)
    assert session.cut.box.size[0] == pytest.approx(turned.size[0] - 20 / plan._scale, abs=1.5 / plan._scale)
    elevation = hand.window.key_elevation
    top = next(k for k in elevation.mark_of(session.cut).knobs if k.hold == "face 4")
    place = elevation.knob_place(top)
    hand.drag(elevation, place, place + [0, 14])
    assert session.cut.box.size[2] == pytest.approx(turned.size[2] - 14 / elevation._scale, abs=0.5)
    hand.do("box_plan")
    hand.drag(plan, a, a + [20, 0])
    assert "no size" in hand.window.status.text()


# Stepped sections ------------------------------------------------------------------------------------------------


@pytest.mark.usefixtures("large")
def test_a_stepped_section_is_drawn_and_reads_as_one_plane_from_the_front(hand) -> None:
    session, plan = hand.window.session, hand.window.key_plan
    hand.do("stepped")
    for point in ((-2.0, 3.0), (19.5, 3.0), (19.5, 5.75), (31.0, 5.75)):
        hand.click(plan, *plan.to_pixels(np.array(point)))
    QTest.keyClick(plan, Qt.Key.Key_Return)
    hand.click(plan, *plan.to_pixels(np.array((8.0, 9.0))))
    cut = session.cut
    assert isinstance(cut, SteppedSection) and len(cut.line.offsets) == 2
    assert np.array([p.position for p in cut.line.planes]) == pytest.approx([3.0, 5.75], abs=0.25)

    hand.do("square_on")
    session.look_from(edits.set_projection(session.project, "parallel").stage.camera)
    session.pick()
    picture = hand.picture()
    jog = cut.line.along * cut.line.jogs[0] + np.array([0, cut.line.planes[0].origin[1], -1.4])
    x, y = map(round, hand.point_on(jog))
    earth = poche_mask(picture)[y - 4 : y + 5, x - 12 : x + 13]
    assert earth.all()  # no line where the steps meet
    session.look_from(session.stage.camera.orbited(25, 0, np.array(session.stage.camera.target)))
    x, y = map(round, hand.point_on(jog))
    oblique = poche_mask(hand.picture())[y - 4 : y + 5, x - 12 : x + 13]
    assert not oblique.all()  # aslant one sees the fold

    session.pick(cut=cut.id)
    page = hand.window.inspector.cut
    assert [name for name in page.place.fields if name.startswith("step")] == ["step 0", "step 1"]
    page.place.fields["step 1"].entered.emit(6.5)
    assert session.cut.line.planes[1].position == pytest.approx(6.5)
    stroke = next(s for s in plan.mark_of(session.cut).strokes if s.hold == "jog 0")
    place = plan.to_pixels(stroke.points.mean(axis=0))
    before = session.cut.line.jogs[0]
    hand.drag(plan, place, place + [18, 0])
    assert session.cut.line.jogs[0] - before == pytest.approx(18 / plan._scale, abs=0.35)
    flat = flat_section(session.cut, session.left().faces)
    assert shapely.is_valid(flat.polygons).all() and flat.areas.sum() > 20


# Reach, treatments, peel -----------------------------------------------------------------------------------------


def test_reach_is_picked_on_the_stage_and_from_lists(hand) -> None:
    session, box = hand.window.session, hand.window.inspector.cut.reach
    hand.window.contact_sheet.recall("cross")
    session.pick(cut="across")
    sliced = hand.picture()
    faces = session.left().faces[0]
    slab = next(e for e in faces.section.element if session.building.elements[e].type == "IfcFooting")
    spot = faces.section.polygons[faces.section.element == slab][0].representative_point()
    at = hand.point_on(faces.plane.raised(np.array([spot.x, spot.y])))
    assert poche_mask(sliced)[round(at[1]), round(at[0])]
    hand.do("reach_pick")
    hand.click(hand.stage, *at)
    footing = session.building.elements[slab]
    assert session.cut.reach.mode == "all but" and session.cut.reach.what.elements == {footing.id}
    assert slab not in session.left().faces[0].section.element  # whole again: it stands out before the cut
    assert session.marked == {footing.id} and different(sliced, hand.picture()) > 0.0005
    QTest.keyClick(hand.stage, Qt.Key.Key_Return)
    assert hand.window.stage_input.task is None and not session.marked
    assert footing.name in box.words.text() and "1 part" in box.words.text()

    box.lists.click()
    dialog = next(w for w in QApplication.topLevelWidgets() if isinstance(w, ReachDialog) and w.isVisible())
    dialog.modes.buttons["only"].click()
    row = next(i for i in range(dialog.lists["types"].count()) if "Wall" in dialog.lists["types"].item(i).text())
    dialog.lists["types"].item(row).setCheckState(Qt.CheckState.Checked)
    dialog.words.setText("tiles, batten")
    dialog.picked.setChecked(True)
    next(b for b in dialog.findChild(QDialogButtonBox).buttons() if b.text() == "Use these").click()
    reach = session.cut.reach
    assert (reach.mode, reach.what.words, reach.what.elements) == ("only", {"tiles", "batten"}, frozenset())
    cut = {session.building.elements[e] for f in session.left().faces for e in f.section.element}
    assert cut and all(e.type == "IfcWall" or "tiles" in e.name or "batten" in e.name for e in cut)
    assert reach_words(reach, session.building).startswith("Affects only wall")
    box.modes.buttons["everything"].click()
    assert different(sliced, hand.picture()) == 0


def test_what_a_cut_does_to_a_type_and_to_a_part(hand) -> None:
    session, overview = hand.window.session, hand.window.inspector.overview
    hand.window.contact_sheet.recall("cross")
    start = hand.picture()
    session.pick()
    overview.cutting.treated.button.click()
    assert [row.name for row in session.stage.treatments.rows] == ["Furniture", "Railings", "Trees"]
    assert not any(session.building.elements[e].type == "IfcFurniture" for f in session.left().faces for e in f.section.element)
    overview.cutting._treat(session.stage.treatments.rows[0].model_copy(update={"does": "slice"}))
    assert any(session.building.elements[e].type == "IfcFurniture" for f in session.left().faces for e in f.section.element)
    sliced = hand.picture()
    assert different(start, sliced) > 0.0005
    overview.cutting._add_type(overview.cutting.add_type.findData("IfcSlab"))
    assert session.stage.treatments.rows[-1].does == "keep whole"
    overview.cutting._untreat("Slab")
    assert different(sliced, hand.picture()) == 0

    face = session.left().faces[0].section
    wall = next(e for e in face.element if session.building.elements[e].type == "IfcWall")
    session.pick(elements=frozenset({session.building.elements[wall].id}))
    page = hand.window.inspector.elements
    page.treatment.setCurrentIndex(page.treatment.findData("leave out"))
    page.treatment.activated.emit(page.treatment.currentIndex())
    assert not session.left().shown[wall]
    page.treatment.activated.emit(0)
    assert session.left().shown[wall] and len(session.stage.treatments.rows) == 3


def test_a_roof_is_peeled_and_spaced(hand) -> None:
    session, page = hand.window.session, hand.window.inspector.cut
    whole = hand.picture()
    hand.do("peel")
    hand.click(hand.stage, *hand.point_on((14.0, 2.5, 8.6)))
    peel = edits.peel_of(session.project, session.cut.peel)
    assert len(peel) == 5 and "A-ROOF-TILE" in peel[0].name
    assert different(whole, hand.picture()) > 0.01
    assert np.diff([c.plane.offset for c in peel]) == pytest.approx([0.6] * 4)
    page.spacing.entered.emit(1.5)
    peel = edits.peel_of(session.project, session.cut.peel)
    assert np.diff([c.plane.offset for c in peel]) == pytest.approx([1.5] * 4)
    # One is moved, all go with it.
    before = [c.plane.offset for c in peel]
    page.place.fields["move"].entered.emit(session.cut.plane.position + 2.0)
    after = [c.plane.offset for c in edits.peel_of(session.project, session.cut.peel)]
    assert np.abs(np.subtract(after, before)) == pytest.approx([2.0] * 5)
    page.spacing.entered.emit(-1.0)
    assert "above 0" in hand.window.status.text()
    hand.do("delete_cut")
    assert session.stage.cuts == () and different(whole, hand.picture()) == 0


# Staying put, nudging, snapping ----------------------------------------------------------------------------------


def test_locked_cuts_stay_and_arrows_nudge(hand) -> None:
    session = hand.window.session
    hand.place(*hand.point_on(FRONT))
    hand.window.inspector.cut.place.fields["move"].entered.emit(6.2)
    hand.stage.setFocus()
    for key, modifiers, place in (
        (Qt.Key.Key_Up, Qt.KeyboardModifier.NoModifier, 6.3),
        (Qt.Key.Key_Down, CTRL, 6.29),
        (Qt.Key.Key_Up, SHIFT, 7.29),
    ):
        QTest.keyClick(hand.stage, key, modifiers)
        assert session.cut.plane.position == pytest.approx(place)
    hand.do("cut_locked")
    tip = hand.window.overlay.handles.tip
    start = session.cut.plane
    hand.drag(hand.stage, tip, tip + [60, 40])
    QTest.keyClick(hand.stage, Qt.Key.Key_Up)
    QTest.keyClick(hand.stage, Qt.Key.Key_5)
    hand.do("turn_round")
    assert session.cut.plane == start and not hand.window.stage_input.number.isVisible()
    assert "locked" in hand.window.status.text()
    plan = hand.window.key_plan
    line = plan.to_pixels(plan.mark_of(session.cut).strokes[0].points).mean(axis=0) + [17, 0]
    hand.drag(plan, line, line + [0, 20])
    assert session.cut.plane == start
    hand.do("cut_locked")
    hand.do("box_shown")
    box = session.cut.box
    hand.stage.setFocus()
    QTest.keyClick(hand.stage, Qt.Key.Key_Right, SHIFT)
    QTest.keyClick(hand.stage, Qt.Key.Key_Up, ALT)
    assert np.subtract(session.cut.box.centre, box.centre) == pytest.approx([1.0, 0, 0.1])


def test_a_dragged_cut_stops_at_storeys_and_ctrl_lets_it_go_on(hand) -> None:
    session, elevation = hand.window.session, hand.window.key_elevation
    hand.window.contact_sheet.recall("ground")
    session.pick(cut="plan")
    hand.window.inspector.cut.place.fields["move"].entered.emit(2.0)
    stops = sorted({round(s.offset, 6) for s in session.lookups.stops(session.cut.plane, session.shown())})
    stroke = elevation.mark_of(session.cut).strokes[0]
    start = elevation.to_pixels(stroke.points).mean(axis=0) + [25, 0]

    def dragged_to(height: float, modifiers) -> float:
        target = start + [0, -(height - 2.0) * elevation._scale]
        QTest.mousePress(elevation, Qt.MouseButton.LeftButton, modifiers, QPoint(*map(round, start)))
        for share in (0.5, 1.0):
            event = QPoint(*map(round, start + share * (target - start)))
            move = QMouseEvent(
                QEvent.Type.MouseMove,
                QPointF(event),
                elevation.mapToGlobal(QPointF(event)),
                Qt.MouseButton.NoButton,
                Qt.MouseButton.LeftButton,
                modifiers,
            )
            QApplication.sendEvent(elevation, move)
        QTest.mouseRelease(elevation, Qt.MouseButton.LeftButton, modifiers, QPoint(*map(round, target)))
        found = session.cut.plane.position
        hand.do("undo")
        return found

    near = dragged_to(3.4, Qt.KeyboardModifier.NoModifier)
    assert min(abs(near - s) for s in stops) < 1e-5
    free = dragged_to(3.4, CTRL)
    assert abs(free - 3.4) < 1.0 / elevation._scale
    assert elevation.mark_of(session.cut).strokes  # a level cut is a line in the elevation
    assert hand.window.key_plan.notes()


def test_key_elevation_moves_the_camera_and_the_cut_that_is_level(hand) -> None:
    session, elevation = hand.window.session, hand.window.key_elevation
    camera = session.stage.camera
    eye, _ = elevation.camera_places()
    hand.drag(elevation, eye, eye + [0, -10])
    moved = session.stage.camera
    assert np.subtract(moved.eye, camera.eye) == pytest.approx([0, 0, 10 / elevation._scale], abs=1.2 / elevation._scale)
    _, aim = elevation.camera_places()
    hand.drag(elevation, aim, aim + [0, 12])
    assert session.stage.camera.eye == pytest.approx(moved.eye) and session.stage.camera.axes[2][2] > moved.axes[2][2]
    front = elevation.grab().toImage()
    hand.window.key_elevation_panel.choice.setCurrentIndex(1)
    hand.window.key_elevation_panel.choice.activated.emit(1)
    hand.settle()
    assert elevation.side == "Right" and elevation.grab().toImage() != front


# Lists, readouts, scout ------------------------------------------------------------------------------------------


@pytest.mark.usefixtures("large")
def test_what_is_cut_is_listed_marked_copied_and_saved(hand, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    session = hand.window.session
    hand.window.contact_sheet.recall("long")
    session.pick(cut="along")
    cut_list = hand.window.inspector.cut.list
    hand.qtbot.waitUntil(lambda: bool(cut_list.rows), timeout=5000)
    filled = session.left().faces_of("along")[0].poche
    hand.qtbot.waitUntil(lambda: sum(r.area for r in cut_list.rows) == pytest.approx(filled.areas.sum()), timeout=5000)
    top = cut_list.tree.topLevelItem(0)
    assert top.text(0).startswith("Earth") and top.text(1).endswith("m²")
    start = hand.picture()
    top.child(0).setSelected(True)
    assert session.marked and session.picked.cut == "along" and different(start, hand.picture()) > 0.005
    camera = session.stage.camera
    cut_list.tree.itemDoubleClicked.emit(top.child(0), 0)
    assert session.stage.camera != camera
    cut_list.copy.click()
    assert len(QGuiApplication.clipboard().text().splitlines()) == len(cut_list.rows) + 1
    target = tmp_path / "cut.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(target), ""))
    cut_list.save.click()
    assert len(target.read_text().splitlines()) == len(cut_list.rows) + 1


def test_gaps_are_listed_and_a_click_goes_there(empty, wait_open, tmp_path: Path) -> None:
    """A tube whose last corner stays 5 mm open, among a house-sized wall."""
    ring = np.array([[0, 0], [1, 0], [1, 1], [0, 1], [0, 0.005]])
    lines = [f"v {x} {z} {y}" for z in (0, 3) for x, y in ring]
    lines += [f"f {i + 1} {i + 2} {i + 7}\nf {i + 1} {i + 7} {i + 6}" for i in range(4)]
    lines += ["v 9 0 9", "v 10 0 9", "v 9 3 9", "o sheet", "f 11 12 13"]
    path = tmp_path / "gap.obj"
    path.write_text("\n".join(lines))
    empty.window.documents.open(path)
    empty.qtbot.waitUntil(lambda: not empty.window.documents.busy, timeout=60_000)
    session = empty.window.session
    height = float(session.building.bounds[:, 2].mean())
    session.apply(edits.add_plane(session.project, plane_at(height), "c"), "Cut")
    session.pick(cut="c")
    cut_list = empty.window.inspector.cut.list
    cut_list.fill()
    assert cut_list.gaps.isVisible() or not cut_list.gaps.isHidden()
    assert "did" not in cut_list.gaps.button.text() and "2" in cut_list.gaps.button.text()
    buttons = [cut_list.gap_rows.itemAt(i).widget() for i in range(cut_list.gap_rows.count())]
    assert any("open" in b.text() for b in buttons)
    camera = session.stage.camera
    buttons[0].click()
    assert session.stage.camera.distance < camera.distance
    empty.window.inspector.overview.cutting._rule("gap", "Gaps", 0.01)
    cut_list.fill()
    assert "1 mended" in cut_list.gaps.button.text()
    assert session.left().faces[0].section.areas.sum() == pytest.approx(1.0, rel=0.01)


def plane_at(height: float) -> Plane:
    return Plane((0.0, 0.0, height), (0.0, 0.0, 1.0))


def test_clear_heights_and_distances_are_read_off_the_cut_face(hand) -> None:
    session, overlay = hand.window.session, hand.window.overlay
    hand.window.contact_sheet.recall("cross")
    session.pick(cut="across")
    hand.do("measure")
    spot = (24.4, 4.0, 4.5)
    hand.hover(*hand.point_on(spot))
    assert isinstance(hand.window.stage_input.task, MeasureFace)
    section = flat_section(session.cut, session.left().faces)
    place = session.cut.plane.flat(np.array(spot))
    clear = clearance_at(section, place)
    texts = [m.text for m in overlay.preview.measures]
    shown = [float(t.split()[0]) for t in texts]
    assert shown == pytest.approx([clear.height, clear.width], abs=0.05)
    corners = shapely.get_coordinates(section.polygons)
    low = session.cut.plane.raised(corners[np.argmin(np.hypot(*(corners - place).T))])
    for point in (low, low + [0, 2.0, 1.0]):
        hand.hover(*hand.point_on(point))
        hand.click(hand.stage, *hand.point_on(point))
    assert overlay.preview.measures[0].text.startswith("2.2") and "Distance" in hand.window.status.text()
    hand.press(Qt.Key.Key_Escape)
    assert hand.window.stage_input.task is None and overlay.preview is None


def test_the_scout_comes_up_tells_and_moves_the_cut(hand) -> None:
    session, strip = hand.window.session, hand.window.scout
    assert not strip.isVisible()
    size = hand.stage.size()
    hand.window.contact_sheet.recall("cross")
    session.pick(cut="across")
    hand.qtbot.waitUntil(lambda: strip.up_to_date and strip.found is not None, timeout=10_000)
    assert strip.isVisible() and hand.stage.size() == size  # the stage never loses its place
    found, chart = strip.found, strip.chart
    target = float(found.suggestions[1])
    hand.click(chart, chart.x_of(target) + 3, 30)
    assert session.cut.plane.offset == pytest.approx(target)  # drawn to the clean position
    real = [f.section for f in session.left().faces_of("across")]
    built = [a for s in real for a, e in zip(s.areas, s.element) if session.building.elements[e].type != "IfcGeographicElement"]
    shown = float(strip.readout.text().split("·")[1].split()[0])
    assert shown == pytest.approx(sum(built), rel=0.06, abs=0.06)
    start = session.history.undo_label
    hand.drag(chart, (chart.x_of(target), 30), (chart.x_of(target) + 60, 30))
    assert session.cut.plane.offset == pytest.approx(chart.offset_at(chart.x_of(target) + 60), abs=0.4)
    hand.do("undo")
    assert session.cut.plane.offset == pytest.approx(target) and session.history.undo_label == start
    hand.do("turn_round")
    hand.qtbot.waitUntil(lambda: strip.up_to_date, timeout=10_000)
    assert found.plane.normal == pytest.approx(-np.array(strip.found.plane.normal))
    hand.do("box_shown")
    hand.qtbot.waitUntil(lambda: strip.up_to_date, timeout=10_000)
    assert strip.side.itemText(0) == "Front side"
    strip.side.setCurrentIndex(strip.side.findData("face 4"))
    strip.side.activated.emit(strip.side.currentIndex())
    hand.qtbot.waitUntil(lambda: strip.up_to_date, timeout=10_000)
    height = session.cut.box.planes[4].origin[2]
    hand.click(chart, chart.x_of(height) - 60, 30)
    assert session.cut.box.planes[4].origin[2] < height - 0.3
    hand.press(Qt.Key.Key_Escape)
    assert not strip.isVisible()


def test_scenes_carry_every_kind_of_cut(hand) -> None:
    """What was saved is what returns, pixel by pixel, after all of it has been changed."""
    session = hand.window.session
    for scene in ("corner", "stepped", "peel", "wing"):
        hand.window.contact_sheet.recall(scene)
        first = hand.picture()
        state = session.project.scene(scene).state
        for cut in session.stage.cuts:
            session.pick(cut=cut.id)
            hand.do("cut_on")
        hand.do("box_shown")
        overview = hand.window.inspector.overview
        overview.cutting._merge("merge", "", True)
        assert session.project.differs_from_scene and different(first, hand.picture()) > 0.01
        hand.window.contact_sheet.recall(scene)
        assert (hand.picture() == first).all() and session.project.scene(scene).state == state
        assert all(not c.graphic for c in session.stage.cuts)
    buttons = [b.text() for b in hand.window.inspector.overview.findChildren(QPushButton)]
    assert any("Box D" in b for b in buttons)


def test_a_model_without_storeys_or_rooms_says_what_to_do(empty, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    path = tmp_path / "shed.glb"
    trimesh.creation.box((4, 3, 2.5)).export(str(path))
    empty.window.documents.open(path)
    empty.qtbot.waitUntil(lambda: not empty.window.documents.busy, timeout=60_000)
    said: list[str] = []
    monkeypatch.setattr(empty.window, "tell", lambda text, title="": said.append(text))
    for name in ("plane_storey", "box_storey", "box_space"):
        empty.do(name)
    assert len(said) == 3 and all("key plan" in text for text in said)
    assert not [w for w in QApplication.topLevelWidgets() if isinstance(w, Ask) and w.isVisible()]
    empty.do("series")
    dialog = ask()
    assert dialog.choices["Where"].findData("storeys") == -1
    dialog.counts["Sections"].setValue(3)
    dialog.lengths["Apart"].setText("0.5")
    dialog.go.click()
    empty.window.inspector.series.fill()
    assert empty.window.session.series is not None
    empty.do("box_shown")
    assert isinstance(empty.window.session.cut, SectionBox)
