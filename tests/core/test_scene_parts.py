"""Parts of scenes, each by itself."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anatome.cuts.plane import Plane
from anatome.look.shipped import shipped_looks
from anatome.notes.note import NorthPoint
from anatome.scenes import apart, edits, note_edits
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.scenes.scene_parts import (
    FIELDS,
    LIGHT,
    PARTS,
    as_saved,
    differing,
    recalled_parts,
    stage_differs_in,
    taken_over,
    with_parts,
)
from anatome.view.camera import Camera
from anatome.view.viewport import Frame

FRAME = Frame(width=1500, height=1000)
CAMERA = Camera(eye=(0, -10, 5), target=(0, 0, 0))
EMPTY = Project(name="Boathouse", model=ModelReference(path="b.ifc"), stage=StageState(camera=CAMERA))
CHANGES = {
    "view": lambda p: edits.set_camera(p, CAMERA.orbited(30, 0)),
    "cuts": lambda p: edits.add_plane(p, Plane((3, 0, 0), (1, 0, 0)), "new"),
    "shown": lambda p: edits.hide(p, {"e1"}),
    "apart": lambda p: apart.set_opening(p, 0.4),
    "look": lambda p: edits.set_look(p, p.stage.look.model_copy(update={"cut_weight": 1.4})),
    "light": lambda p: edits.set_look(p, p.stage.look.model_copy(update={"sun_turn": 80.0, "shadows": 0.5})),
    "notes": lambda p: note_edits.put_notes(p, [NorthPoint(id="n")]),
}
"""Something that changes one part of the stage and no other."""
some = st.sets(st.sampled_from(PARTS))


def saved() -> Project:
    project = edits.add_plane(EMPTY, Plane((0, 0, 0), (1, 0, 0)), "a")
    return edits.save_scene(edits.save_scene(project, "one", FRAME), "two", FRAME)


def test_every_field_of_a_state_is_in_one_part_and_every_name_of_light_is_one() -> None:
    fields = [field for part in PARTS for field in FIELDS[part]]
    assert sorted([*fields, "look"]) == sorted(StageState.model_fields) and len(fields) == len(set(fields))
    assert set(type(EMPTY.stage.look).model_fields) >= LIGHT


@given(some, some)
def test_the_stage_says_where_it_differs_and_takes_parts_over_and_puts_them_back(changed, chosen) -> None:
    start = saved()
    project = start
    for part in changed:
        project = CHANGES[part](project)
    assert set(stage_differs_in(project)) == changed
    # Put back: those are as they were saved, the others as they are now.
    back = recalled_parts(project, project.scene("two"), chosen, 1.5)
    assert set(stage_differs_in(back)) == changed - chosen and back.scenes == project.scenes
    # Taken over: the scene has them, the stage keeps everything, and other scenes nothing but a cut they share.
    keeping = taken_over(project, {"two"}, chosen, FRAME)
    taken = keeping.project
    assert set(stage_differs_in(taken)) == changed - chosen
    assert set(differing(taken.scene("two").state, start.scene("two").state)) == changed & chosen
    assert differing(taken.stage, project.stage) == () and taken.scene("one") == start.scene("one") and not keeping.followed
    again = edits.recall_scene(taken, "two", 1.5)
    assert set(differing(again.stage, project.stage)) == changed - chosen
    # Into another scene, that is locked or is not.
    given_ = taken_over(project, {"one"}, chosen, FRAME).project
    assert set(differing(given_.scene("one").state, start.scene("one").state)) == changed & chosen
    assert given_.stage == project.stage and given_.scene("two") == start.scene("two")
    assert (
        taken_over(edits.lock_scene(project, "one", True), {"one"}, PARTS, FRAME).project.scene("one").state
        == start.scene("one").state
    )


def test_taking_over_a_cut_that_moved_takes_its_other_scenes_along() -> None:
    project = edits.change_cut(CHANGES["look"](saved()), "a", plane=Plane((2, 0, 0), (1, 0, 0)))
    keeping = taken_over(project, {"two"}, {"cuts"}, FRAME)
    taken = keeping.project
    assert keeping.followed[0].scenes == 2 and taken.scene("one").state.cut("a").plane.position == 2.0
    assert stage_differs_in(taken) == ("look",)


def test_light_of_one_look_on_another() -> None:
    looks = shipped_looks()
    a, b = (EMPTY.stage.model_copy(update={"look": looks[name]}) for name in ("White model", "Noon, hard light"))
    lit = with_parts(a, b, {"light"}).look
    assert all(getattr(lit, name) == getattr(b.look, name) for name in LIGHT) and lit.poche == a.look.poche
    assert lit.name == "White model, changed"
    assert with_parts(a, b, {"look", "light"}).look == b.look and with_parts(a, a, {"light"}).look == a.look


def test_a_scene_that_remembers_some_parts_leaves_the_others_as_they_are() -> None:
    project = edits.remember(saved(), "one", {"view", "cuts"})
    for part in ("look", "shown", "view"):
        project = CHANGES[part](project)
    stage = project.stage
    recalled = edits.recall_scene(project, "one", 1.5)
    assert set(differing(recalled.stage, stage)) == {"view"} and not recalled.differs_from_scene
    assert recalled.current_scene == "one" and recalled.stage.camera == CAMERA
    assert recalled.scene("one").forgets == set(PARTS) - {"view", "cuts"}


@pytest.mark.parametrize("part", PARTS)
def test_graphics_of_cuts_are_no_difference(part) -> None:
    project = saved()
    shown = edits.change_cut(project, "a", graphic=True)
    assert differing(shown.stage, project.stage) == () and stage_differs_in(CHANGES[part](shown)) == (part,)
    assert not any(cut.graphic for cut in as_saved(shown.stage).cuts)
