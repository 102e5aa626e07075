"""Viewpoints: against bcf-client and its classes of the published schemas, there and back, and files that are none."""

from __future__ import annotations

import io
import zipfile
from itertools import count
from pathlib import Path

import bcf.v2.model as v2
import bcf.v3.model as v3
import numpy as np
import pytest
from bcf.v2.bcfxml import BcfXml as Bcf2
from bcf.v3.bcfxml import BcfXml as Bcf3
from hypothesis import given, settings
from hypothesis import strategies as st
from xsdata.formats.dataclass.parsers import XmlParser
from xsdata.formats.dataclass.parsers.config import ParserConfig

from anatome.cli import main
from anatome.cuts.cut import SectionBox, SectionPlane
from anatome.cuts.kinds.box import Box
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.demo.shipped import PROJECT
from anatome.formats.bcf import VERSIONS, bcf_bytes, read_bcf
from anatome.look.look import Rule
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes.project import ModelReference, Project, Scene, StageState
from anatome.scenes.storage import load_project
from anatome.scenes.viewpoints import Viewpoint, scenes_of, viewpoint_of
from anatome.view.camera import Camera
from anatome.view.viewport import Frame, Viewport
from helpers import box, made_of

STRICT = ParserConfig(fail_on_unknown_properties=True, fail_on_unknown_attributes=True, fail_on_converter_warnings=True)
IDS = [f"0aBcDeFgHiJkLmNoPqRs{n:02d}" for n in range(4)]
BOX = Box((4.0, 3.0, 2.0), (5.0, 4.0, 3.0), 20.0)


@pytest.fixture(scope="module")
def house() -> Building:
    made = made_of(*((f"Wall {n}", "IfcWall", "", box(3 * n, 0, 0, 3 * n + 2, 5, 3)) for n in range(4)))
    elements = tuple(
        e.model_copy(update={"id": i}) if hasattr(e, "model_copy") else _renamed(e, i) for e, i in zip(made.elements, IDS)
    )
    return made.otherwise(elements=elements, origin=(1000.0, -2000.0, 50.0))


def _renamed(element, new_id: str):
    from dataclasses import replace

    return replace(element, id=new_id)


@pytest.fixture(scope="module")
def project() -> Project:
    plane = SectionPlane(id="a", name="Section A", mark="A", plane=Plane((0.0, 2.0, 0.0), (0.0, -1.0, 0.0)))
    some = plane.model_copy(
        update={
            "id": "b",
            "name": "Section B",
            "mark": "B",
            "reach": Reach(mode="only", what=Selection(types=frozenset({"IfcWall"}))),
        }
    )
    carved = SectionBox(id="c", name="Cutaway C", mark="C", box=BOX, carve=True)
    look = Rule(who=Selection(elements=frozenset(IDS[:2])), surface=(1.0, 0.5, 0.0))
    one = StageState(
        camera=Camera(eye=(-9, -12, 6), target=(4, 2, 1), field=40.0),
        cuts=(plane, some, carved),
        hidden=frozenset(IDS[3:]),
        overrides=(look,),
    )
    two = StageState(
        camera=Camera(eye=(20, 20, 20), target=(4, 2, 1), projection="parallel", field=35.0),
        cuts=(SectionBox(id="d", name="Box D", mark="D", box=BOX),),
    )
    scenes = tuple(
        Scene(id=i, name=n, state=s, frame=Frame(width=1500, height=1000))
        for i, n, s in (("1", "One & <first>", one), ("2", "Two", two))
    )
    return Project(name="House", model=ModelReference(path="m"), stage=one, scenes=scenes)


def written(project: Project, house: Building, path: Path, version) -> tuple[Viewpoint, ...]:
    found = tuple(viewpoint_of(scene, house, project) for scene in project.scenes)
    path.write_bytes(bcf_bytes(found, project.name, "A. Drawer", version=version))
    return found


@pytest.mark.parametrize("version", VERSIONS)
def test_other_programs_read_what_is_written(project: Project, house: Building, tmp_path: Path, version) -> None:
    path = tmp_path / "house.bcf"
    written(project, house, path, version)
    model, parser = (v2, v3)[version == "3.0"], XmlParser(config=STRICT)
    kinds = {"bcf.version": model.Version, "markup.bcf": model.Markup, "viewpoint.bcfv": model.VisualizationInfo}
    kinds["project.bcfp"] = model.ProjectExtension if version == "2.1" else model.ProjectInfo
    kinds |= {"extensions.xml": model.Extensions} if version == "3.0" else {}
    with zipfile.ZipFile(path) as packed:
        names = packed.namelist()
        for name in names:
            parser.from_bytes(packed.read(name), kinds[name.split("/")[-1]])
    assert len(names) == len(set(names)) == 2 + 4 + (version == "3.0")
    with (Bcf2, Bcf3)[version == "3.0"](path) as client:
        assert client.version.version_id == version and client.project.name == "House"
        topics = sorted(client.topics.values(), key=lambda topic: topic.topic.title)
        assert [topic.topic.title for topic in topics] == ["One & <first>", "Two"]
        assert topics[0].topic.creation_author == "A. Drawer"
        assert (
            "Cutaway C, which planes cannot say" in topics[0].topic.description
            and "Section B, which affects" in topics[0].topic.description
        )
        (first,), (second,) = (list(topic.viewpoints.values()) for topic in topics)
        view = first.visualization_info
        eye = view.perspective_camera.camera_view_point
        assert (eye.x, eye.y, eye.z) == pytest.approx((991.0, -2012.0, 56.0)) and view.perspective_camera.field_of_view == 40.0
        (clip,) = view.clipping_planes.clipping_plane
        assert (clip.location.x, clip.location.y, clip.direction.y) == (1000.0, -1998.0, -1.0)  # towards what is not shown
        hidden = view.components.visibility
        assert hidden.default_visibility and [c.ifc_guid for c in hidden.exceptions.component] == IDS[3:]
        (colour,) = view.components.coloring.color
        coloured = colour.component if version == "2.1" else colour.components.component
        assert colour.color == "FF8000" and [c.ifc_guid for c in coloured] == IDS[:2]
        parallel = second.visualization_info.orthogonal_camera
        assert parallel.view_to_world_scale == pytest.approx(project.scenes[1].state.camera.height)
        assert len(second.visualization_info.clipping_planes.clipping_plane) == 6


@pytest.mark.parametrize("version", VERSIONS)
def test_scenes_come_back_as_they_were(project: Project, house: Building, tmp_path: Path, version) -> None:
    path = tmp_path / "house.bcf"
    sent = written(project, house, path, version)
    back = read_bcf(path)
    assert {one.guid for one in back} == {one.guid for one in sent}
    numbers = count()
    scenes = scenes_of(sorted(back, key=lambda one: one.title), project, house, "From elsewhere", lambda: f"new {next(numbers)}")
    assert [scene.name for scene in scenes] == ["One & <first>", "Two"] and {scene.set for scene in scenes} == {"From elsewhere"}
    for scene, own in zip(scenes, project.scenes):
        aspect = own.aspect if version == "3.0" else 1.5
        assert scene.aspect == pytest.approx(aspect)
        a, b = (Viewport.of(one.state.camera, 1500, 1000).pixels(house.bounds) for one in (scene, own))
        assert a == pytest.approx(b, abs=1e-3)
    assert [cut.id for cut in scenes[0].state.cuts] == ["a"] and scenes[0].state.hidden == frozenset(IDS[3:])
    assert [cut.id for cut in scenes[1].state.cuts] == ["d"]  # six planes are the box that stands there
    (rule,) = scenes[0].state.overrides[1:]
    assert rule.surface == pytest.approx((1.0, 0.5, 0.0), abs=1 / 255) and rule.who.elements == frozenset(IDS[:2])


sizes = st.tuples(*[st.floats(0.2, 30)] * 3)
places = st.tuples(*[st.floats(-50, 50)] * 3)


@settings(max_examples=80, deadline=None)
@given(places, sizes, st.floats(-180, 180), st.permutations(range(6)))
def test_six_planes_of_a_box_are_a_box_again(centre, size, turn: float, order: list[int]) -> None:
    house = made_of(("Wall", "IfcWall", "", box(0, 0, 0, 1, 1, 1)))
    wanted = Box(centre, size, turn)
    planes = tuple(wanted.planes[number] for number in order)
    view = Viewpoint("g", "t", "", (0.0, -9.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0), 60.0, None, 1.5, planes)
    own = Project(name="p", model=ModelReference(path="m"), stage=StageState(camera=Camera(eye=(0, -9, 0), target=(0, 0, 0))))
    (scene,) = scenes_of((view,), own, house)
    (cut,) = scene.state.cuts
    apart = np.linalg.norm(cut.box.corners[:, None] - wanted.corners[None], axis=2)
    assert apart.min(axis=0).max() < 1e-5 and apart.min(axis=1).max() < 1e-5
    # Turned inwards they keep nothing, and are what they are: planes.
    inwards = tuple(Plane(p.origin, tuple(-c for c in p.normal)) for p in planes)
    (scene,) = scenes_of((view.__class__(**{**vars(view), "planes": inwards}),), own, house)
    assert len(scene.state.cuts) == 6


@settings(max_examples=60, deadline=None)
@given(places, places, st.floats(5, 120), st.booleans(), st.floats(0.3, 3.0))
def test_any_camera_comes_back(eye, target, field: float, perspective: bool, aspect: float) -> None:
    if np.linalg.norm(np.subtract(eye, target)) < 0.5:
        return
    house = made_of(("Wall", "IfcWall", "", box(0, 0, 0, 1, 1, 1)))
    projection = "perspective" if perspective else "parallel"
    camera = Camera(eye=eye, target=target, field=field, projection=projection)
    scene = Scene(id="s", name="S", state=StageState(camera=camera), frame=Frame(width=1000 * aspect, height=1000))
    own = Project(name="p", model=ModelReference(path="m"), stage=scene.state, scenes=(scene,))
    held = io.BytesIO(bcf_bytes([viewpoint_of(scene, house, own)], "p", version="3.0"))
    (back,) = scenes_of(read_bcf(held), own, house)
    before = np.array(eye) - camera.axes[2] * np.array([[3.0], [12.0]]) + camera.axes[0] * 0.7 + camera.axes[1] * 0.4
    a, b = (Viewport.of(one.state.camera, 1000 * aspect, 1000).pixels(before) for one in (scene, back))
    assert a == pytest.approx(b, rel=1e-4, abs=0.01) and back.aspect == pytest.approx(aspect)


def test_what_others_write_is_read_and_what_is_none_is_said(tmp_path: Path) -> None:
    path = tmp_path / "other.bcf"
    with Bcf2.create_new("Other") as other:
        topic = other.add_topic("Beam too low", "Look here", "someone")
        topic.add_viewpoint_from_point_and_guids(np.array([3.0, 4.0, 5.0]), IDS[0])
        other.add_topic("Only words", "Nothing to see", "someone")
        other.save(path)
    (view,) = read_bcf(path)
    assert view.title == "Beam too low" and view.words == "Look here" and view.field is not None
    assert np.linalg.norm(view.direction) == pytest.approx(1.0) and abs(np.dot(view.direction, view.up)) < 1e-9

    def packed(**files: str) -> Path:
        bad = tmp_path / "bad.bcf"
        with zipfile.ZipFile(bad, "w") as archive:
            for name, content in files.items():
                archive.writestr(name.replace("__", "/").replace("_", "."), content)
        return bad

    version = '<Version VersionId="2.1"/>'
    markup = '<Markup><Topic Guid="g"/><Viewpoints Guid="v"><Viewpoint>view.bcfv</Viewpoint></Viewpoints></Markup>'
    entity = '<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/hostname">]><VisualizationInfo>&x;</VisualizationInfo>'
    parts = [
        f"<Camera{name}><X>{x}</X><Y>{y}</Y><Z>{z}</Z></Camera{name}>"
        for name, x, y, z in (("ViewPoint", "{0}", 0, 0), ("Direction", 0, "{1}", 0), ("UpVector", 0, 0, 1))
    ]
    camera = "".join(parts)
    broken = [
        f"<VisualizationInfo><PerspectiveCamera>{camera.format(x, y)}</PerspectiveCamera></VisualizationInfo>"
        for x, y in (("nan", 1), ("1", 0), ("x", 1))
    ]
    with pytest.raises(Problem, match="does not say its version"):
        read_bcf(packed(a_txt="x"))
    for content, why in (("<Version", "damaged"), ('<Version VersionId="1.0"/>', "version 1.0 cannot be read")):
        with pytest.raises(Problem, match=why):
            read_bcf(packed(bcf_version=content))
    with pytest.raises(Problem, match="no viewpoints"):
        read_bcf(packed(bcf_version=version, g__markup_bcf=markup, g__view_bcfv=entity))
    for content in broken:
        with pytest.raises(Problem, match="damaged"):
            read_bcf(packed(bcf_version=version, g__markup_bcf=markup, g__view_bcfv=content))
    (tmp_path / "noise.bcf").write_bytes(bytes(range(256)))
    with pytest.raises(Problem, match="no BCF file"):
        read_bcf(tmp_path / "noise.bcf")
    with pytest.raises(Problem, match="could not be read"):
        read_bcf(tmp_path / "missing.bcf")


def test_from_the_command_line_there_and_back(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out, copy = tmp_path / "boathouse.bcf", tmp_path / "copy.anatome"
    assert (
        main(
            [
                "bcf",
                str(PROJECT),
                "--scene",
                "Long section",
                "--scene",
                "The wing by itself",
                "--version",
                "3.0",
                "--out",
                str(out),
            ]
        )
        == 0
    )
    assert "2 viewpoints, BCF 3.0" in capsys.readouterr().out
    views = read_bcf(out)
    assert all(view.snapshot is not None and view.snapshot.startswith(b"\x89PNG") for view in views)
    assert main(["bcf", str(PROJECT), "--from", str(out), "--out", str(copy)]) == 0
    before, after = load_project(PROJECT).project, load_project(copy).project
    own = {scene.name: scene for scene in before.scenes}
    new = [scene for scene in after.scenes if scene.set == "boathouse"]
    assert len(new) == 2 and after.scenes[: len(before.scenes)] == before.scenes
    for scene in new:
        # The same cuts, being one thing in the project.
        assert [cut.id for cut in scene.state.cuts] == [cut.id for cut in own[scene.name].state.active_cuts]
    for arguments, why in (
        (["--out", str(tmp_path / "x.zip")], "ends with .bcf"),
        (["--from", str(out), "--out", str(out)], "scenes of a project"),
    ):
        assert main(["bcf", str(PROJECT), *arguments]) == 2 and why in capsys.readouterr().err
