"""The project as a value: edits, history, and the file it is kept in."""

from __future__ import annotations

import json
import zipfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anatome.cuts.plane import Plane
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.history import History
from anatome.scenes.project import VERSION, ModelReference, Project, StageState
from anatome.scenes.storage import StoredProject, load_project, project_schema, save_project
from anatome.view.camera import Camera
from anatome.view.viewport import Frame

FRAME = Frame(width=1500, height=1000)
CAMERA = Camera(eye=(0, -10, 5), target=(0, 0, 0))
EMPTY = Project(name="Boathouse", model=ModelReference(path="boathouse.ifc"), stage=StageState(camera=CAMERA))

# Each step is an edit with its number as the source of what it does.
EDITS = {
    "camera": lambda p, n: edits.set_camera(p, Camera(eye=(n + 1, -10, 5), target=(0, 0, 0))),
    "hide": lambda p, n: edits.hide(p, {f"e{n}"}),
    "show": lambda p, n: edits.show(p, {f"e{n}"}),
    "isolate": lambda p, n: edits.isolate(p, {f"e{n}"}, {f"e{i}" for i in range(6)}),
    "add": lambda p, n: edits.add_plane(p, Plane((n, 0, 0), (1, 0, 0)), f"c{len(p.stage.cuts)}-{n}"),
    "change": lambda p, n: edits.change_cut(p, p.stage.cuts[0].id, on=bool(n % 2)) if p.stage.cuts else p,
    "delete": lambda p, n: edits.delete_cut(p, p.stage.cuts[-1].id) if p.stage.cuts else p,
    "save": lambda p, n: edits.save_scene(p, f"s{len(p.scenes)}-{n}", FRAME),
    "recall": lambda p, n: edits.recall_scene(p, p.scenes[n % len(p.scenes)].id, 1.5) if p.scenes else p,
    "replace": lambda p, n: edits.replace_scene(p, p.scenes[n % len(p.scenes)].id, FRAME) if p.scenes else p,
    "rename": lambda p, n: edits.rename_scene(p, p.scenes[0].id, f"View {n}") if p.scenes else p,
    "move": lambda p, n: edits.move_scene(p, p.scenes[0].id, n) if p.scenes else p,
    "duplicate": lambda p, n: edits.duplicate_scene(p, p.scenes[0].id, f"d{len(p.scenes)}-{n}") if p.scenes else p,
    "drop": lambda p, n: edits.delete_scene(p, p.scenes[-1].id) if p.scenes else p,
}
steps = st.lists(st.tuples(st.sampled_from(sorted(EDITS)), st.integers(0, 5)), max_size=25)


def after(project: Project, done: list[tuple[str, int]]) -> Project:
    for name, n in done:
        project = EDITS[name](project, n)
    return project


@given(steps)
def test_undo_walks_back_through_every_state_and_redo_forth(done) -> None:
    history = History(EMPTY)
    states = [EMPTY]
    for name, n in done:
        if history.apply(EDITS[name](history.present, n), name, moves_camera=True):
            states.append(history.present)
    for state in reversed(states[:-1]):
        assert history.undo() is not None
        assert history.present == state
    assert history.undo() is None
    for state in states[1:]:
        assert history.redo() is not None
        assert history.present == state


@given(steps, steps)
def test_what_is_tried_after_saving_a_scene_never_reaches_it(before, tried) -> None:
    project = edits.save_scene(after(EMPTY, before), "kept", FRAME, "Kept")
    stage = project.stage
    assert not project.differs_from_scene
    harmless = [step for step in tried if step[0] not in ("replace", "rename", "drop")]
    later = after(project, harmless)
    assert later.scene("kept") == project.scene("kept")
    back = edits.recall_scene(later, "kept", 1.5)
    assert back.stage == stage and not back.differs_from_scene
    assert not any(cut.graphic for cut in back.stage.cuts)  # frames of planes are never part of a scene


def test_one_drag_is_one_step_and_escape_takes_it_back() -> None:
    history = History(edits.add_plane(EMPTY, Plane((0, 0, 0), (1, 0, 0)), "c"))
    start = history.present
    for x in (1.0, 2.0, 3.0):
        history.apply(edits.change_cut(history.present, "c", plane=Plane((x, 0, 0), (1, 0, 0))), "Moved", merge="drag 1")
    history.end_merge()
    history.apply(edits.change_cut(history.present, "c", plane=Plane((9, 0, 0), (1, 0, 0))), "Moved", merge="drag 2")
    assert history.cancel_merge("drag 2")
    cut = history.present.stage.cut("c")
    assert cut is not None and cut.plane.position == 3.0
    assert history.undo() == "Moved" and history.present == start and history.undo() is None
    looked = Camera(eye=(5, 5, 5), target=(0, 0, 0))
    history.look_around(edits.set_camera(history.present, looked))
    history.redo()
    assert history.present.stage.camera == looked  # undo and redo leave the view where it is


@given(steps)
def test_a_saved_project_comes_back_as_it_was(tmp_path_factory, done) -> None:
    path = tmp_path_factory.mktemp("project") / "club.anatome"
    project = after(EMPTY, done)
    stored = StoredProject(project, {s.id: b"picture" for s in project.scenes}, None)
    save_project(path, stored)
    first = path.read_bytes()
    assert load_project(path) == stored
    save_project(path, load_project(path))
    assert path.read_bytes() == first


def test_damaged_newer_and_foreign_files_are_refused_in_plain_words(tmp_path: Path) -> None:
    good = tmp_path / "good.anatome"
    save_project(good, StoredProject(EMPTY))
    whole = good.read_bytes()
    data = json.loads(zipfile.ZipFile(good).read("project.json"))

    def written(name: str, **changes: object) -> Path:
        path = tmp_path / name
        with zipfile.ZipFile(path, "w") as archive:
            archive.writestr("project.json", json.dumps(data | changes))
        return path

    cases = {
        "cut short": (tmp_path / "short.anatome", "damaged"),
        "noise": (tmp_path / "noise.anatome", "damaged"),
        "newer": (written("newer.anatome", version=VERSION + 1), "newer Anatome"),
        "foreign": (written("foreign.anatome", format="other"), "not an Anatome project"),
        "wrong values": (written("wrong.anatome", stage={"camera": 3}), "cannot be: stage › camera"),
        "model missing": (written("missing.anatome", model={"path": "a.ifc", "embedded": True}), "damaged"),
        "folder": (tmp_path, "folder"),
        "nothing": (tmp_path / "nothing.anatome", "no file"),
    }
    cases["cut short"][0].write_bytes(whole[: len(whole) // 2])
    cases["noise"][0].write_bytes(bytes(range(256)) * 9)
    for name, (path, words) in cases.items():
        with pytest.raises(Problem, match=words):
            load_project(path)
            pytest.fail(name)
    for cut in range(0, len(whole), 37):  # bytes damaged anywhere never give anything but the project or a Problem
        broken = bytearray(whole)
        broken[cut] ^= 0x5A
        path = tmp_path / "broken.anatome"
        path.write_bytes(bytes(broken))
        try:
            load_project(path)
        except Problem:
            pass


def test_a_file_that_cannot_be_written_leaves_the_old_one(tmp_path: Path) -> None:
    with pytest.raises(Problem, match="could not be written"):
        save_project(tmp_path / "no such folder" / "a.anatome", StoredProject(EMPTY))
    with pytest.raises(Problem, match="folder"):
        save_project(tmp_path, StoredProject(EMPTY))
    assert list(tmp_path.iterdir()) == []


def test_the_published_schema_is_the_one_in_use() -> None:
    published = Path(__file__).parents[2] / "docs" / "project.schema.json"
    assert json.loads(published.read_text()) == project_schema()
