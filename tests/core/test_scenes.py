"""The project as a value: edits, history, and the file it is kept in."""

from __future__ import annotations

import json
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anatome.cuts.plane import Plane
from anatome.demo.shipped import PROJECT
from anatome.files import distinct_names
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.history import History
from anatome.scenes.project import VERSION, ModelReference, Project, StageState
from anatome.scenes.scene_sets import arranged, into_set
from anatome.scenes.storage import StoredProject, load_project, pack_model, project_schema, save_project, unpack_model
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
    "add": lambda p, n: edits.add_plane(p, Plane((n, 0, 0), (1, 0, 0)), edits.new_id()),
    "change": lambda p, n: edits.change_cut(p, p.stage.cuts[0].id, on=bool(n % 2)) if p.stage.cuts else p,
    "delete": lambda p, n: edits.delete_cut(p, p.stage.cuts[-1].id) if p.stage.cuts else p,
    "save": lambda p, n: edits.save_scene(p, f"s{len(p.scenes)}-{n}", FRAME),
    "recall": lambda p, n: edits.recall_scene(p, p.scenes[n % len(p.scenes)].id, 1.5) if p.scenes else p,
    "replace": lambda p, n: edits.replace_scene(p, p.scenes[n % len(p.scenes)].id, FRAME) if p.scenes else p,
    "rename": lambda p, n: edits.rename_scene(p, p.scenes[0].id, f"View {n}") if p.scenes else p,
    "move": lambda p, n: arranged(p, [p.scenes[0].id], p.scenes[n % len(p.scenes)].id, "AB"[: n % 2]) if p.scenes else p,
    "set": lambda p, n: into_set(p, [s.id for s in p.scenes[n % 3 :: 2]], "ABC"[n % 3 : n % 3 + 1]),
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
        if history.apply(EDITS[name](history.present, n), name):
            states.append(history.present)
    listed = [stage for _, stage in history.steps()[0]]
    assert listed == [state.stage for state in states] and history.steps()[1] == len(states) - 1
    for number, state in reversed(list(enumerate(states[:-1]))):
        assert history.undo() is not None
        assert history.present == state
        # The list of steps stays the same, wherever in it one is.
        assert [stage for _, stage in history.steps()[0]] == listed and history.steps()[1] == number
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
    assert later.scene("kept").state == project.scene("kept").state
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


def test_looking_around_is_one_step_a_drag_and_never_costs_the_step_before() -> None:
    history = History(edits.add_plane(EMPTY, Plane((0, 0, 0), (1, 0, 0)), "c"))
    start = history.present
    history.apply(edits.change_cut(start, "c", name="Long section"), "Renamed")
    named = history.present
    for x in (5.0, 6.0, 7.0):
        camera = Camera(eye=(x, 5, 5), target=(0, 0, 0))
        history.look(edits.set_camera(history.present, camera), "Turned the view", "drag")
    history.end_merge()
    assert history.undo() == "Turned the view" and history.present == named
    # With something undone, looking around is none: what can be done again still can.
    history.look(edits.set_camera(history.present, Camera(eye=(9, 9, 9), target=(0, 0, 0))), "Turned the view", "drag")
    assert history.redo_label == "Turned the view" and history.redo() and history.present.stage.camera.eye[0] == 7.0
    # What is tried on keeps the view one has by then.
    history.apply(edits.hide(history.present, {"e1"}), "Tried on", keeps_view=True, merge="try")
    looked = Camera(eye=(1, 2, 3), target=(0, 0, 0))
    history.look_around(edits.set_camera(history.present, looked))
    assert history.cancel_merge("try") and history.present.stage.camera == looked and not history.present.stage.hidden


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


def test_escape_in_a_drag_leaves_what_can_be_done_again() -> None:
    history = History(edits.add_plane(EMPTY, Plane((0, 0, 0), (1, 0, 0)), "c"))
    history.apply(edits.hide(history.present, {"e1"}), "Hidden")
    history.undo()
    history.apply(edits.change_cut(history.present, "c", plane=Plane((1, 0, 0), (1, 0, 0))), "Moved", merge="drag 1")
    assert history.redo_label is None
    assert history.cancel_merge("drag 1") and history.redo_label == "Hidden"
    assert history.redo() == "Hidden" and history.present.stage.hidden == {"e1"}


def written(path: Path, data: dict) -> Path:
    """A project file with this content, whatever it is."""
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("project.json", json.dumps(data).encode("utf-8", "surrogatepass"))
    return path


def content(project: Project) -> dict:
    return json.loads(project.model_dump_json())


def test_what_a_newer_minor_version_adds_is_kept(tmp_path: Path) -> None:
    project = edits.save_scene(edits.add_plane(EMPTY, Plane((0, 0, 0), (1, 0, 0)), "c"), "s", FRAME)
    data = content(project)
    data["mood"] = {"weather": "rain"}
    data["stage"]["camera"]["lens"] = 35
    data["stage"]["cuts"][0]["colour"] = "red"
    data["scenes"][0]["notes"] = ["one"]
    first = load_project(written(tmp_path / "newer.anatome", data))
    changed = edits.set_camera(edits.hide(first.project, {"e1"}), first.project.stage.camera)
    save_project(tmp_path / "again.anatome", StoredProject(changed))
    again = json.loads(zipfile.ZipFile(tmp_path / "again.anatome").read("project.json"))
    assert again["mood"] == data["mood"] and again["stage"]["camera"]["lens"] == 35
    assert again["stage"]["cuts"][0]["colour"] == "red" and again["scenes"][0]["notes"] == ["one"]
    assert again["stage"]["hidden"] == ["e1"]


def test_projects_of_the_first_version_are_read(tmp_path: Path) -> None:
    project = edits.save_scene(EMPTY, "s", FRAME)
    data = content(project)
    data["version"] = 1
    scene = data["scenes"][0]
    del scene["frame"]
    scene["aspect"] = 1.6
    found = load_project(written(tmp_path / "first.anatome", data)).project
    assert found.version == VERSION and found.scenes[0].aspect == pytest.approx(1.6)
    assert found.scenes[0].state == project.scenes[0].state


STEPS = {"normal": [1, 0, 0], "offsets": [0] * 5000, "jogs": list(range(4999))}
HOSTILE: dict[str, tuple[tuple[str, ...], object]] = {
    "no number": (("stage", "camera", "eye"), [float("nan"), 0, 0]),
    "an eye in its target": (("stage", "camera", "eye"), [0, 0, 0]),
    "no up": (("stage", "camera", "up"), [0, 0, 0]),
    "beyond the sun": (("stage", "camera", "eye"), [1e300, 0, 0]),
    "endless depth": (("stage", "cuts", "0", "depth"), 1e300),
    "depth of nothing": (("stage", "cuts", "0", "depth"), 0),
    "a plane far off": (("stage", "cuts", "0", "plane", "origin"), [1e200, 0, 0]),
    "thousands of steps": (("stage", "cuts", "0"), {"kind": "stepped", "id": "a", "name": "", "mark": "", "line": STEPS}),
    "too many sections": (
        ("stage", "series"),
        [{"id": "s", "name": "", "mark": "", "plane": {"origin": [0, 0, 0], "normal": [1, 0, 0]}, "offsets": [0.0] * 9999}],
    ),
    "empty path of an embedded model": (("model",), {"path": "a.ifc", "embedded": True}),
    "a path with a zero": (("model", "path"), "a\x00.ifc"),
    "half a letter": (("model", "path"), "\ud800.ifc"),
    "a long name": (("model", "path"), "n" * 300 + ".ifc"),
    "a longer path": (("model", "path"), "n/" * 5000 + "a.ifc"),
    "version as text": (("version",), "2"),
    "version as a fraction": (("version",), 2.0),
    "no version": (("version",), None),
}


@pytest.mark.parametrize("place, value", HOSTILE.values(), ids=HOSTILE.keys())
def test_hostile_values_are_refused_in_one_line(tmp_path: Path, place: tuple[str, ...], value: object) -> None:
    data = content(edits.add_plane(EMPTY, Plane((0, 0, 0), (1, 0, 0)), "c"))
    inner = data
    for key in place[:-1]:
        inner = inner[int(key)] if key.isdigit() else inner[key]
    inner[int(place[-1]) if place[-1].isdigit() else place[-1]] = value
    with pytest.raises(Problem) as refused:
        load_project(written(tmp_path / "hostile.anatome", data))
    assert len(str(refused.value)) < 600 and "\n" not in str(refused.value)


def test_members_that_say_they_are_huge_are_not_read(tmp_path: Path) -> None:
    path = tmp_path / "bomb.anatome"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive, archive.open("project.json", "w") as stream:
        for _ in range(300):
            stream.write(b" " * 1_000_000)
    with pytest.raises(Problem, match="damaged"):
        load_project(path)


def test_saving_respects_links_modes_and_protection(tmp_path: Path) -> None:
    real, link = tmp_path / "real.anatome", tmp_path / "link.anatome"
    save_project(real, StoredProject(EMPTY))
    real.chmod(0o640)
    link.symlink_to(real)
    save_project(link, StoredProject(edits.hide(EMPTY, {"e1"})))
    assert link.is_symlink() and real.stat().st_mode & 0o777 == 0o640
    assert load_project(real).project.stage.hidden == {"e1"}
    real.chmod(0o440)
    before = real.read_bytes()
    with pytest.raises(Problem, match="write-protected"):
        save_project(link, StoredProject(EMPTY))
    assert real.read_bytes() == before and sorted(p.name for p in tmp_path.iterdir()) == [
        "link.anatome",
        "real.anatome",
        "real.anatome~",
    ]


def test_the_model_is_carried_over_as_it_was_packed(tmp_path: Path) -> None:
    source = tmp_path / "house.ifc"
    source.write_bytes(b"ISO-10303-21;" * 5000)
    embedded = EMPTY.model_copy(update={"model": ModelReference(path="house.ifc", embedded=True)})
    first, second, out = tmp_path / "a.anatome", tmp_path / "b.anatome", tmp_path / "out"
    save_project(first, StoredProject(embedded, {}, pack_model(source)))
    stored = load_project(first)
    save_project(second, stored)
    assert second.read_bytes() == first.read_bytes()
    with zipfile.ZipFile(second) as archive:
        assert archive.testzip() is None and archive.read("model/house.ifc") == source.read_bytes()
    assert stored.model is not None
    assert unpack_model(stored.model, out).read_bytes() == source.read_bytes()


@pytest.mark.long
def test_fuzzed_files_get_a_clear_answer() -> None:
    """A short run of the script that is run for long by hand, in a process of its own as it limits its memory."""
    root = Path(__file__).parents[2]
    command = [sys.executable, "-m", "benchmarks.fuzz", "150", "7"]
    done = subprocess.run(command, cwd=root, capture_output=True, text=True, timeout=300)
    assert done.returncode == 0, done.stdout + done.stderr


def test_looking_at_a_scene_is_nothing_to_save() -> None:
    project = load_project(PROJECT).project
    history = History(project)
    history.apply(edits.recall_scene(project, project.scenes[2].id, 1.5), "Recalled")
    assert not history.unsaved
    history.apply(edits.hide(history.present, {"anything"}), "Hidden")
    assert history.unsaved
    history.apply(edits.recall_scene(history.present, project.scenes[4].id, 1.5), "Recalled")
    assert not history.unsaved
    renamed = tuple(s.model_copy(update={"name": f"{s.name}!"}) for s in history.present.scenes)
    history.apply(history.present.model_copy(update={"scenes": renamed}), "Renamed")
    assert history.unsaved


@given(st.lists(st.text(max_size=300), min_size=1, max_size=8))
def test_any_names_make_as_many_files(tmp_path_factory: pytest.TempPathFactory, names: list[str]) -> None:
    folder = tmp_path_factory.mktemp("names")
    for name in distinct_names(names):
        assert Path(name).name == name
        (folder / f"{name}, passes.json").write_text("x")
    assert len(list(folder.iterdir())) == len(names)
