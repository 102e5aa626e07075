"""Scenes in sets, in order, named by patterns, many at once."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anatome.cuts.plane import Plane
from anatome.problems import Problem
from anatome.scenes import edits, scene_sets
from anatome.scenes.history import History
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.scenes.scene_sets import arranged, groups_of, into_set, named_by, together
from anatome.view.camera import Camera
from anatome.view.viewport import Frame

FRAME = Frame(width=1500, height=1000)


def project_of(sets: list[str]) -> Project:
    """Scenes s0, s1 …, in these sets."""
    camera = Camera(eye=(0, -10, 5), target=(0, 0, 0))
    project = Project(name="Boathouse", model=ModelReference(path="b.ifc"), stage=StageState(camera=camera))
    for number, name in enumerate(sets):
        project = into_set(edits.save_scene(project, f"s{number}", FRAME), [f"s{number}"], name)
    return project


def order(project: Project) -> str:
    """Names of sets with the numbers of their scenes."""
    return " ".join(f"{g.name}({','.join(s.id[1:] for s in g.scenes)})" for g in groups_of(project))


names = st.lists(st.sampled_from(["", "A", "B", "C"]), min_size=1, max_size=9)


@given(names, st.data())
def test_scenes_of_a_set_stand_together_whatever_is_moved_where(sets: list[str], data: st.DataObject) -> None:
    project = project_of(sets)
    ids = [s.id for s in project.scenes]
    for _ in range(4):
        moved = data.draw(st.sets(st.sampled_from(ids), min_size=1))
        into = data.draw(st.sampled_from(["", "A", "B", "New"]))
        before = data.draw(st.sampled_from([None, *ids]))
        found = arranged(project, moved, before, into)
        named = [g.name for g in groups_of(found) if g.name]
        assert len(named) == len(set(named)) and sorted(s.id for s in found.scenes) == sorted(ids)
        assert all(s.set == into for s in found.scenes if s.id in moved)
        # What was not moved, and what was, keep their order among themselves within their sets.
        for some in (moved, set(ids) - moved):
            for name in {s.set for s in found.scenes if s.id in some}:
                there = [s.id for s in found.scenes if s.id in some and s.set == name]
                assert there == [s.id for s in project.scenes if s.id in there]
        assert together(found) == found
        project = found


def test_scenes_go_where_they_are_dropped() -> None:
    project = project_of(["", "A", "A", "", "B"])
    assert order(project) == "(0) A(1,2) (3) B(4)"
    assert order(arranged(project, ["s3", "s0"], "s2", "A")) == "A(1,0,3,2) B(4)"
    assert order(arranged(project, ["s1"], None, "B")) == "(0) A(2) (3) B(4,1)"
    assert order(arranged(project, ["s4"], "s3", "")) == "(0) A(1,2) (4,3)"
    assert order(arranged(project, ["s1"], "s1", "A")) == order(project)
    assert order(into_set(project, ["s3", "s4"], "New")) == "(0) A(1,2) New(3,4)"
    assert order(scene_sets.rename_set(project, "A", "B")) == "(0) B(1,2,4) (3)"
    assert order(scene_sets.rename_set(project, "A", "")) == "(0,1,2,3) B(4)"


def test_how_sets_are_folded_is_no_step_and_survives_undo() -> None:
    history = History(project_of(["A", "A", "B"]))
    history.apply(edits.rename_scene(history.present, "s0", "Other"), "Renamed")
    history.fitted(scene_sets.fold_set(history.present, "A", True))
    assert history.undo() == "Renamed" and history.present.folded_sets == {"A"} and history.present.scenes[0].name == "Scene 1"
    assert not scene_sets.fold_set(history.present, "A", False).folded_sets
    assert not scene_sets.fold_set(history.present, "Gone", True).folded_sets - {"A"}


def test_names_by_a_pattern(boathouse) -> None:
    project = project_of(["Sections", "Sections", "", ""])
    for number, plane in (
        (0, Plane((5, 5, 1), (1, 0, 0))),
        (1, Plane((0, 6, 1), (0, -1, 0))),
        (2, Plane((5, 5, 4.6), (0, 0, 1))),
    ):
        stage = edits.recall_scene(project, f"s{number}", 1.5)
        project = edits.replace_scene(edits.add_plane(stage, plane, f"c{number}"), f"s{number}", FRAME)
    named = [s.name for s in named_by(project, ["s0", "s1", "s3"], "Section {mark}", boathouse).scenes]
    assert named == ["Section A", "Section B", "Scene 3", "Section"]
    assert named_by(project, ["s2"], "{storey}, {number}", boathouse).scenes[2].name == "Upper floor, 1"
    twice = [s.name for s in named_by(project, ["s0", "s1", "s2", "s3"], "{set} view", boathouse).scenes]
    assert twice == ["Sections view", "Sections view 2", "view", "view 2"]
    locked = edits.lock_scene(project, "s0", True)
    assert named_by(locked, ["s0", "s1"], "{number}/{look}", boathouse).scenes[0].name == "Scene 1"
    for wrong, said in (("", "Type what"), ("{nothing}", "has no “{nothing}”"), ("{", "no pattern")):
        with pytest.raises(Problem, match=said):
            named_by(project, ["s0"], wrong, boathouse)


def test_many_at_once_and_locked_ones_left_alone() -> None:
    project = scene_sets.lock_scenes(project_of(["", "A", "A"]), ["s1"], True)
    with pytest.raises(Problem, match="“Scene 2” is locked"):
        scene_sets.delete_scenes(project, ["s0", "s1"])
    left = scene_sets.delete_scenes(project, ["s0", "s2"])
    assert [s.id for s in left.scenes] == ["s1"] and left.current_scene is None
    assert [s.lines_kept for s in scene_sets.keep_lines_of(project, ["s0", "s1"], True).scenes] == [True, True, False]
