"""Scenes made of a scene: for other storeys, by their real levels, and variants that are changed together."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from anatome.cuts.cut import SectionBox, SectionPlane, SectionPrism
from anatome.cuts.kinds.box import Box
from anatome.cuts.kinds.prism import Prism
from anatome.cuts.plane import Plane
from anatome.look.shipped import shipped_looks
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element, Space, Storey
from anatome.notes.anchors import anchored
from anatome.notes.note import Label, Level, NorthPoint
from anatome.problems import Problem
from anatome.scenes import edits, note_edits, variants
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.scenes.scene_parts import differing
from anatome.scenes.scene_sets import arranged, into_set
from anatome.scenes.storey_scenes import all_storeys, next_storey, storey_of
from anatome.view.camera import Camera
from anatome.view.viewport import Frame
from tests.helpers import box

FRAME = Frame(width=1500, height=1000)
CAMERA = Camera(eye=(0, -20, 12), target=(0, 0, 1))
LEVELS = (0.0, 4.5, 7.2, 12.0)
"""Of floors, of unequal heights, and of the roof."""
NAMES = ("Ground floor", "Upper floor", "Attic", "Roof")


@pytest.fixture(scope="module")
def house() -> Building:
    """Three storeys of 4.5, 2.7 and 4.8 m with a wall and a room each, and a roof."""
    assembly = BuildingAssembly("house")
    style = assembly.style((0.9, 0.9, 0.9, 1.0))
    storeys = [Storey(f"storey{i}", name, level) for i, (name, level) in enumerate(zip(NAMES, LEVELS))]
    for number, storey in enumerate(storeys):
        high = LEVELS[number + 1] if number < 3 else 12.5
        mesh = box(-3, -3, storey.elevation, 3, -2.7, high)
        element = Element(f"wall{number}", f"Wall {number}", "IfcWall", "Brick", storey=number)
        assembly.add(element, mesh.vertices, mesh.faces, style)
    spaces = [Space(f"room{i}", "Room", i, (-3.0, -2.7, LEVELS[i]), (3.0, 3.0, LEVELS[i + 1] - 0.3)) for i in range(3)]
    assembly.storeys, assembly.spaces = storeys, spaces
    return assembly.finish()


@pytest.fixture
def new_id():
    numbers = itertools.count(1)
    return lambda: f"new{next(numbers)}"


def saved(*cuts, name: str = "Ground floor from above", notes=()) -> Project:
    stage = StageState(camera=CAMERA, cuts=cuts, hidden=frozenset({"wall1", "wall2", "wall3"}))
    project = Project(name="House", model=ModelReference(path="h.ifc"), stage=stage)
    return edits.save_scene(note_edits.put_notes(project, notes) if notes else project, "s", FRAME, name)


LEVEL = SectionPlane(id="level", name="Section A", mark="A", plane=Plane((0, 0, 1.4), (0, 0, 1)))
UPRIGHT = SectionPlane(id="up", name="Section B", mark="B", plane=Plane((0, 0, 0), (0, -1, 0)))
BOX = SectionBox(id="box", name="Box C", mark="C", box=Box((0, 0, 2.0), (8, 8, 4.6)))
PRISM = SectionPrism(id="prism", name="Prism D", mark="D", prism=Prism(((-1, -1), (1, -1), (1, 1), (-1, 1)), 0.0, 4.2))


def test_a_scene_goes_to_the_next_storey_by_real_levels(house, new_id) -> None:
    notes = [
        Level(id="floor", anchors=(anchored(house, np.array([0.0, 0, 0]), "storey0"),)),
        Label(id="room", anchors=(anchored(house, np.array([0.0, 0, 1]), "room0"),), text="{name}"),
        NorthPoint(id="north"),
    ]
    project = saved(LEVEL, UPRIGHT, BOX, PRISM, notes=notes)
    scene = project.scene("s")
    assert storey_of(scene.state, house) == 0
    project, upper, left = next_storey(project, scene, house, True, new_id)
    assert [s.id for s in project.scenes] == ["s", upper.id] and project.scene("s") == scene
    assert upper.name == "Upper floor from above" and left == 1
    state = upper.state
    level, upright, cuts_box, prism = state.cuts
    assert level.axis.offset == pytest.approx(1.4 + 4.5) and upright == scene.state.cuts[1]
    # The box goes from 0.3 m under the floor to 0.2 m under the next one, on a storey that is lower.
    low, high = cuts_box.corners[:, 2].min(), cuts_box.corners[:, 2].max()
    assert (low, high) == pytest.approx((4.5 - 0.3, 7.2 - 0.2))
    assert (prism.prism.low, prism.prism.high) == pytest.approx((4.5, 7.2 - 0.3))
    assert np.array(state.camera.eye) - CAMERA.eye == pytest.approx([0, 0, 4.5])
    assert len({c.id for c in state.cuts} & {"level", "box", "prism"}) == 0  # other cuts, with letters of their own
    assert [c.mark for c in state.cuts] == ["E", "B", "F", "G"] and level.name == "Section E"
    moved = {n.id: n for n in state.notes}
    assert set(moved) == {"floor", "north"} and moved["floor"].anchors[0].place[2] == 4.5
    assert moved["floor"].anchors[0].on == "storey1" and "wall1" not in state.hidden and "wall2" in state.hidden
    # Further up, and back down again: where it was.
    project, attic, _ = next_storey(project, upper, house, True, new_id)
    assert attic.state.cuts[0].axis.offset == pytest.approx(7.2 + 1.4) and attic.name == "Attic from above"
    assert attic.state.cuts[2].corners[:, 2].max() == pytest.approx(12.0 - 0.2)
    project, again, _ = next_storey(project, upper, house, False, new_id)
    assert again.name == "Ground floor from above 2" and again.state.cuts[0].axis.offset == pytest.approx(1.4)
    assert again.state.camera.eye == pytest.approx(CAMERA.eye)
    assert again.state.cuts[2].corners == pytest.approx(BOX.corners)
    with pytest.raises(Problem, match="lowest"):
        next_storey(project, scene, house, False, new_id)
    only = saved(UPRIGHT)
    with pytest.raises(Problem, match="neither a level cut nor a box"):
        next_storey(only, only.scene("s"), house, True, new_id)


def test_all_storeys_arrive_in_a_set(house, new_id) -> None:
    project = saved(LEVEL, name="Opened")
    project, made = all_storeys(project, project.scene("s"), house, new_id)
    assert [s.name for s in made] == ["Opened, Upper floor", "Opened, Attic"]
    assert [(s.name, s.set) for s in project.scenes] == [
        (name, "Storeys") for name in ("Opened", "Opened, Upper floor", "Opened, Attic")
    ]
    assert len({s.state.cuts[0].mark for s in project.scenes}) == 3


def stacked(new_id) -> Project:
    project = saved(UPRIGHT, name="Section")
    looks = shipped_looks()
    wanted = [looks["Materials in colour"], looks["Technical, black and white"]]
    return variants.in_looks(project, project.scene("s"), wanted, new_id)


def test_variants_are_changed_together_but_for_what_is_their_own(new_id) -> None:
    project = stacked(new_id)
    first, colour, technical = project.scenes
    assert [s.name for s in project.scenes] == ["Section", "Section, materials in colour", "Section, technical, black and white"]
    assert len({s.stack for s in project.scenes}) == 1 and set(differing(first.state, colour.state)) == {"look", "light"}
    # What is kept in one goes into all, and its look stays its own.
    stage = edits.recall_scene(project, colour.id, 1.5)
    stage = edits.hide(edits.set_camera(stage, CAMERA.orbited(20, 5)), ["wall0"])
    stage = edits.set_look(stage, stage.stage.look.model_copy(update={"cut_weight": 1.4}))
    keeping = edits.keep_scene(edits.lock_scene(stage, technical.id, True), colour.id, FRAME)
    first, colour, locked = keeping.project.scenes
    assert keeping.variants == 1 and "1 variant followed" in keeping.words
    assert set(differing(first.state, colour.state)) == {"look", "light"} and "wall0" in first.state.hidden
    assert first.state.look.cut_weight != 1.4 and locked.state == technical.state
    # Let go, it goes its own way; a pair that loses one is none any more.
    project = variants.let_go(keeping.project, {first.id})
    assert not project.scene(first.id).stack and project.scene(colour.id).stack
    alone = edits.keep_scene(edits.show_all(edits.recall_scene(project, first.id, 1.5)), first.id, FRAME)
    assert alone.variants == 0 and alone.project.scene(colour.id).state.hidden
    assert not any(s.stack for s in variants.let_go(project, {colour.id}).scenes)
    assert not any(s.stack for s in edits.delete_scene(project, colour.id).scenes)
    assert not edits.duplicate_scene(keeping.project, colour.id, "copy").scene("copy").stack


def test_variants_by_cuts_share_their_look(new_id) -> None:
    project = saved(UPRIGHT, name="Section")
    other = SectionPlane(id="other", name="Section C", mark="C", plane=Plane((1, 0, 0), (1, 0, 0)))

    def seen(state: StageState, cut) -> StageState:
        return state.model_copy(update={"camera": CAMERA.orbited(90, 0)})

    project = variants.by_cuts(project, project.scene("s"), [UPRIGHT, other], seen, new_id)
    assert [s.name for s in project.scenes] == ["Section", "Section C"]
    own, made = project.scenes
    assert [c.id for c in made.state.active_cuts] == ["other"] and made.state.camera != own.state.camera
    stage = edits.set_look(edits.recall_scene(project, made.id, 1.5), shipped_looks()["White model"])
    after = edits.replace_scene(stage, made.id, FRAME)
    assert after.scene("s").state.look.name == "White model" and after.scene("s").state.cuts == own.state.cuts
    assert after.scene("s").state.camera == own.state.camera
    with pytest.raises(Problem, match="other variants"):
        variants.in_looks(after, after.scene("s"), [shipped_looks()["Night blue"]], new_id)
    with pytest.raises(Problem, match="Tick the looks"):
        variants.in_looks(after, after.scene("s"), [after.scene("s").state.look], new_id)


def test_variants_go_into_a_set_together_and_are_ordered_among_themselves(new_id) -> None:
    project = edits.save_scene(stacked(new_id), "last", FRAME)
    first, second, third, last = (s.id for s in project.scenes)
    moved = into_set(project, [second], "Set")
    assert [(s.id, s.set) for s in moved.scenes] == [(first, "Set"), (second, "Set"), (third, "Set"), (last, "")]
    assert [s.id for s in arranged(project, [last], first, "").scenes] == [last, first, second, third]
    assert [s.id for s in arranged(project, [third], last, "").scenes] == [first, second, third, last]
    assert [s.id for s in arranged(project, [second], None, "").scenes] == [last, first, second, third]
    assert [s.id for s in arranged(project, [third], first, "").scenes] == [third, first, second, last]
