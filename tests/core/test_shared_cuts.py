"""Cuts that several scenes have, locks and marks: random steps against rules told otherwise, and single truths."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from anatome.cuts.cut import SectionPlane
from anatome.cuts.parting import Parting
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.model.selection import Selection
from anatome.notes.anchors import Anchor
from anatome.notes.note import Level, SectionMark
from anatome.problems import Problem
from anatome.scenes import edits, note_edits, shared_cuts
from anatome.scenes.history import History
from anatome.scenes.marks import free_mark, marks_in, renumbered
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.view.camera import Camera
from anatome.view.viewport import Frame

FRAME = Frame(width=1500, height=1000)
EMPTY = Project(
    name="Boathouse", model=ModelReference(path="b.ifc"), stage=StageState(camera=Camera(eye=(0, -10, 5), target=(0, 0, 0)))
)


def at(x: float) -> Plane:
    return Plane((x, 0, 0), (1, 0, 0))


def shared(scenes: int = 3) -> Project:
    """Section A in scenes s0, s1 …, all saved from one stage; the last is on it."""
    project = edits.add_plane(EMPTY, at(0), "a")
    for number in range(scenes):
        project = edits.save_scene(project, f"s{number}", FRAME)
    return project


def where(project: Project, scene_id: str, cut_id: str = "a") -> float | None:
    scene = project.scene(scene_id)
    cut = None if scene is None else scene.state.cut(cut_id)
    return None if cut is None else float(cut.axis.position)


class ScenesTogether(RuleBasedStateMachine):
    """The project beside a plain table: of each scene where its cuts stand, and whether it is locked. Cuts differ by x alone."""

    @initialize()
    def begin(self) -> None:
        self.history = History(EMPTY)
        self.states = [EMPTY]
        self.scenes: dict[str, dict[str, float]] = {}
        self.locked: set[str] = set()
        self.tables = [({}, frozenset())]
        self.ids, self.place = itertools.count(), 0

    @property
    def project(self) -> Project:
        return self.history.present

    def step(self, project: Project) -> None:
        if self.history.apply(edits.freed(project), "step"):
            table = {i: dict(cuts) for i, cuts in self.scenes.items()}, frozenset(self.locked)
            self.states = [*self.states[: self.place + 1], self.history.present]
            self.tables = [*self.tables[: self.place + 1], table]
            self.place += 1

    def on_stage(self) -> dict[str, float]:
        return {cut.id: float(cut.axis.position) for cut in self.project.stage.cuts}

    @rule(x=st.integers(-3, 3))
    def place_cut(self, x: int) -> None:
        self.step(edits.add_plane(self.project, at(x), f"c{next(self.ids)}"))

    @precondition(lambda self: self.project.stage.cuts)
    @rule(data=st.data(), by=st.integers(1, 4))
    def move(self, data: st.DataObject, by: int) -> None:
        cut = data.draw(st.sampled_from(self.project.stage.cuts))
        self.step(edits.put_cut(self.project, cut.moved(np.array([by, 0.0, 0.0]))))

    @precondition(lambda self: self.project.stage.cuts)
    @rule(data=st.data())
    def switch(self, data: st.DataObject) -> None:
        cut = data.draw(st.sampled_from(self.project.stage.cuts))
        self.step(edits.change_cut(self.project, cut.id, on=not cut.on))

    def expect_kept(self, scene_id: str) -> None:
        """The rule once more: what stood as it came to the stage goes along."""
        now, shown = self.on_stage(), self.project.scene_as_shown
        then = {} if shown is None else {cut.id: float(cut.axis.position) for cut in shown.cuts}
        for cut_id, x in now.items():
            others = [cuts[cut_id] for i, cuts in self.scenes.items() if cut_id in cuts]
            before = then.get(cut_id, max(others, key=others.count) if others else None)
            for other, cuts in self.scenes.items():
                if other not in self.locked and other != scene_id and before is not None and cuts.get(cut_id) == before:
                    cuts[cut_id] = x
        self.scenes[scene_id] = now

    @rule()
    def save(self) -> None:
        scene_id = f"s{next(self.ids)}"
        project = edits.save_scene(self.project, scene_id, FRAME)
        self.expect_kept(scene_id)
        self.step(project)

    @precondition(lambda self: self.scenes)
    @rule(data=st.data())
    def replace(self, data: st.DataObject) -> None:
        scene_id = data.draw(st.sampled_from(sorted(self.scenes)))
        if scene_id in self.locked:
            with pytest.raises(Problem, match="locked"):
                edits.replace_scene(self.project, scene_id, FRAME)
            return
        project = edits.replace_scene(self.project, scene_id, FRAME)
        self.expect_kept(scene_id)
        self.step(project)

    @precondition(lambda self: self.scenes)
    @rule(data=st.data())
    def recall(self, data: st.DataObject) -> None:
        self.step(edits.recall_scene(self.project, data.draw(st.sampled_from(sorted(self.scenes))), 1.5))

    @precondition(lambda self: self.scenes)
    @rule(data=st.data(), lock=st.booleans())
    def lock(self, data: st.DataObject, lock: bool) -> None:
        scene_id = data.draw(st.sampled_from(sorted(self.scenes)))
        project = edits.lock_scene(self.project, scene_id, lock)
        (self.locked.add if lock else self.locked.discard)(scene_id)
        self.step(project)

    @precondition(lambda self: self.scenes and self.project.stage.cuts)
    @rule(data=st.data())
    def put(self, data: st.DataObject) -> None:
        cut = data.draw(st.sampled_from(self.project.stage.cuts))
        chosen = data.draw(st.sets(st.sampled_from(sorted(self.scenes))))
        project = shared_cuts.put_into(self.project, [cut.id], chosen)
        for scene_id in chosen - self.locked:
            self.scenes[scene_id][cut.id] = float(cut.axis.position)
        self.step(project)

    @precondition(lambda self: self.project.stage.cuts)
    @rule(data=st.data())
    def make_own(self, data: st.DataObject) -> None:
        cut = data.draw(st.sampled_from(self.project.stage.cuts))
        self.step(shared_cuts.only_here(self.project, [cut.id], lambda: f"o{next(self.ids)}"))

    @rule()
    def undo(self) -> None:
        if self.history.undo() is not None:
            self._went(self.place - 1)

    @rule()
    def redo(self) -> None:
        if self.history.redo() is not None:
            self._went(self.place + 1)

    def _went(self, place: int) -> None:
        self.place = place
        assert self.project == self.states[place]
        table, locked = self.tables[place]
        self.scenes, self.locked = {i: dict(cuts) for i, cuts in table.items()}, set(locked)

    @invariant()
    def scenes_are_what_the_rules_say(self) -> None:
        if not hasattr(self, "history"):
            return
        found = {scene.id: {cut.id: float(cut.axis.position) for cut in scene.state.cuts} for scene in self.project.scenes}
        assert found == self.scenes
        assert {scene.id for scene in self.project.scenes if scene.locked} == self.locked
        current = self.project.scene(self.project.current_scene)
        assert current is None or not current.locked or not self.project.differs_from_scene

    def teardown(self) -> None:
        if hasattr(self, "history"):
            while self.history.undo() is not None:
                pass
            assert self.project == EMPTY
            while self.history.redo() is not None:
                pass
            assert self.project == self.states[-1]


TestScenesTogether = ScenesTogether.TestCase
TestScenesTogether.settings = settings(max_examples=300, stateful_step_count=30, deadline=None)


def test_one_cut_moves_in_all_scenes_that_have_it_but_locked_ones_and_those_where_it_stands_elsewhere() -> None:
    project = shared(8)
    for locked in ("s1", "s4"):
        project = edits.lock_scene(project, locked, True)
    moved = edits.put_cut(project, project.stage.cuts[0].moved(np.array([2.5, 0, 0])))
    assert [where(moved, f"s{i}") for i in range(8)] == [0.0] * 8  # trying out leaks into none
    keeping = edits.keep_scene(moved, "s7", FRAME)
    kept = keeping.project
    assert [where(kept, f"s{i}") for i in range(8)] == [2.5, 0.0, 2.5, 2.5, 0.0, 2.5, 2.5, 2.5]
    assert keeping.words == "Section A moved in 6 scenes; 2 locked scenes keep it as it was"
    assert not kept.differs_from_scene
    # Unlocked, one is where it was, and goes its own way until the cut is put into it.
    apart = edits.lock_scene(kept, "s1", False)
    again = edits.replace_scene(edits.put_cut(apart, apart.stage.cuts[0].moved(np.array([1, 0, 0]))), "s7", FRAME)
    assert where(again, "s1") == 0.0 and where(again, "s0") == 3.5
    assert where(shared_cuts.put_into(again, ["a"], ["s1", "s4"]), "s1") == 3.5
    assert where(shared_cuts.put_into(again, ["a"], ["s1", "s4"]), "s4") == 0.0


def test_what_is_a_scenes_own_stays_its_own() -> None:
    project = shared(2)
    own = edits.change_cut(edits.recall_scene(project, "s0", 1.5), "a", on=False, parting=Parting())
    project = edits.recall_scene(edits.replace_scene(own, "s0", FRAME), "s1", 1.5)
    reach = Reach(mode="only", what=Selection(types=frozenset({"IfcRoof"})))
    changed = edits.change_cut(project, "a", name="Long section", reach=reach, plane=at(1.5))
    keeping = edits.keep_scene(changed, "s1", FRAME)
    kept, followed = keeping.project, keeping.followed
    cut = kept.scene("s0").state.cut("a")
    assert (cut.on, cut.parting, cut.name, cut.reach, cut.plane) == (False, Parting(), "Long section", reach, at(1.5))
    assert followed[0].moved and followed[0].scenes == 2
    # Renamed alone it is said to have changed, and a scene that lets it affect other parts keeps that.
    other = edits.change_cut(edits.recall_scene(kept, "s0", 1.5), "a", reach=Reach())
    kept = edits.replace_scene(other, "s0", FRAME)
    keeping = edits.keep_scene(edits.change_cut(edits.recall_scene(kept, "s0", 1.5), "a", name="Along"), "s0", FRAME)
    renamed = keeping.project
    assert keeping.words == "Along changed in 2 scenes" and renamed.scene("s1").state.cut("a").name == "Along"


def test_only_here_gives_the_others_theirs_back_and_takes_notes_along() -> None:
    project = shared(3)
    level = Level(id="n", anchors=(Anchor(place=(0, 0, 1), cut="a"),))
    project = note_edits.put_notes(project, [level, SectionMark(id="m", cut="a")])
    before = edits.put_cut(project, project.stage.cuts[0].moved(np.array([4, 0, 0])))
    keeping = edits.keep_scene(before, "s2", FRAME)
    kept = keeping.project
    assert [where(kept, f"s{i}") for i in range(3)] == [4.0, 4.0, 4.0]
    own = shared_cuts.kept_only_here(before, kept, "s2", keeping.led, lambda: "b")
    assert [where(own, f"s{i}") for i in range(3)] == [0.0, 0.0, None] and where(own, "s2", "b") == 4.0
    state = own.scene("s2").state
    assert (state.cuts[0].mark, state.cuts[0].name) == ("B", "Section B")
    assert state.notes[0].anchors[0].cut == "b" and state.notes[1].cut == "b"
    assert not own.differs_from_scene and own.stage.cut("b") is not None
    # Made its own before it is kept, nothing follows at all.
    first = edits.put_cut(
        shared_cuts.only_here(project, ["a"], lambda: "b"), SectionPlane(id="b", name="", mark="B", plane=at(9))
    )
    keeping = edits.keep_scene(first, "s2", FRAME)
    kept = keeping.project
    assert not keeping.followed and where(kept, "s0") == 0.0 and where(kept, "s2", "b") == 9.0


def test_cuts_go_from_scene_to_scene_with_the_notes_that_hold_on_to_them() -> None:
    project = edits.save_scene(edits.add_plane(EMPTY, at(0), "a"), "first", FRAME)
    project = edits.save_scene(edits.delete_cut(project, "a"), "plain", FRAME)
    project = edits.recall_scene(project, "first", 1.5)
    notes = [Level(id="n", anchors=(Anchor(place=(0, 0, 1), cut="a"),)), Level(id="free", anchors=(Anchor(place=(0, 0, 0)),))]
    project = note_edits.put_notes(project, notes)
    camera, look = project.scene("plain").state.camera, project.scene("plain").state.look
    put = shared_cuts.put_into(project, ["a"], ["plain"], on=False, notes=True).scene("plain").state
    assert put.cut("a").on is False and [n.id for n in put.notes] == ["n"] and (put.camera, put.look) == (camera, look)
    assert not shared_cuts.put_into(project, ["a"], ["plain"]).scene("plain").state.notes
    stage = shared_cuts.bring(edits.recall_scene(project, "plain", 1.5), "first", ["a"]).stage
    assert stage.cut("a").on and stage.cut("a").plane == at(0)


def test_a_cut_that_was_brought_still_leads_the_scenes_it_came_from() -> None:
    project = edits.save_scene(edits.delete_cut(shared(2), "a"), "plain", FRAME)
    project = shared_cuts.bring(project, "s0", ["a"])
    project = edits.put_cut(project, project.stage.cut("a").moved(np.array([3, 0, 0])))
    assert where(edits.save_scene(project, "new", FRAME), "s1") == 3.0


def test_marks_are_given_once_in_a_project() -> None:
    project = edits.save_scene(edits.add_plane(EMPTY, at(0), "a"), "one", FRAME)
    project = edits.delete_cut(project, "a")
    project = edits.add_plane(project, at(3), "b")  # A is in a scene, if not on the stage
    assert project.stage.cuts[0].name == "Section B" and free_mark(project) == "C"
    project = edits.save_scene(edits.add_plane(project, Plane((0, 5, 0), (0, -1, 0)), "c"), "two", FRAME)
    project = edits.save_scene(edits.add_plane(project, Plane((0, 0, 2), (0, 0, 1)), "d"), "three", FRAME)
    assert marks_in(project) == {"A", "B", "C", "D"}
    by_place = renumbered(project, "place")
    # The one across the building first, then those along it from the west, then the level one.
    assert {c.id: c.mark for c in by_place.stage.cuts} == {"c": "A", "b": "C", "d": "D"}
    assert by_place.scene("one").state.cuts[0].name == "Section B"
    assert renumbered(by_place, "scenes").scene("one").state.cuts[0].mark == "A"
    # A locked scene keeps its letter, and nobody else gets it.
    held = renumbered(edits.lock_scene(project, "one", True), "place")
    assert held.scene("one").state.cuts[0].mark == "A" and {c.mark for c in held.stage.cuts} == {"B", "C", "D"}
    assert not held.differs_from_scene or held.current_scene != "one"


def test_a_locked_scene_stays_as_it_is() -> None:
    project = edits.lock_scene(shared(2), "s1", True)
    for refused in (
        lambda: edits.replace_scene(project, "s1", FRAME),
        lambda: edits.delete_scene(project, "s1"),
        lambda: edits.rename_scene(project, "s1", "Other"),
    ):
        with pytest.raises(Problem, match="“Scene 2” is locked"):
            refused()
    assert edits.rename_scene(project, "s1", "Scene 2") == project
    tried = edits.freed(edits.hide(project, ["wall"]))
    assert tried.current_scene is None and edits.freed(project).current_scene == "s1"
    assert edits.duplicate_scene(project, "s1", "copy").scene("copy").locked is False
    assert note_edits.replace_notes_of_scene(project, "s1", [SectionMark(id="m", cut="a")]) == project


def test_a_cut_moved_in_another_scene_moves_where_it_stood_and_on_a_stage_that_has_it() -> None:
    project = edits.lock_scene(shared(4), "s1", True)
    apart = edits.replace_scene(
        edits.change_cut(edits.recall_scene(edits.lock_scene(project, "s0", True), "s3", 1.5), "a", plane=at(9)), "s3", FRAME
    )
    project = edits.recall_scene(edits.lock_scene(apart, "s0", False), "s2", 1.5)
    assert [where(project, f"s{i}") for i in range(4)] == [0.0, 0.0, 9.0, 9.0]
    keeping = shared_cuts.moved_in(project, "s3", project.scene("s3").state.cut("a").moved(np.array([1.0, 0, 0])))
    assert [where(keeping.project, f"s{i}") for i in range(4)] == [0.0, 0.0, 10.0, 10.0]
    assert keeping.project.stage.cut("a").plane == at(10) and not keeping.project.differs_from_scene
    other = shared_cuts.moved_in(project, "s0", project.scene("s0").state.cut("a").moved(np.array([2.0, 0, 0])))
    assert [where(other.project, f"s{i}") for i in range(4)] == [2.0, 0.0, 9.0, 9.0] and other.project.stage == project.stage
    assert other.words == "Section A: 1 locked scene keeps it as it was"
