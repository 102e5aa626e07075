"""Opening models: what comes in, what is refused, progress, cancel and cache."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import time
from pathlib import Path

import ifcopenshell
import numpy as np
import pytest
import trimesh

from anatome.cuts.plane import Plane
from anatome.cuts.section import section
from anatome.formats.identity import identify
from anatome.formats.opening import OpenJob, cache_path, open_model
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.problems import Problem


def test_the_demo_building_written_and_read_again(
    boathouse_ifc: Path, boathouse: Building, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What is generated, what is read from IFC, and what is shipped are one building."""
    monkeypatch.setenv("ANATOME_CACHE", str(tmp_path))
    model = ifcopenshell.open(str(boathouse_ifc))
    assert model.schema == "IFC4"
    job = OpenJob(boathouse_ifc)
    shares = []
    while (building := job.poll(wait=0.05)) is None:
        shares.append(job.progress.share)
    assert shares == sorted(shares) and len(set(shares)) > 5 and not job.from_cache
    assert 600 <= len(building.elements) <= 2000 and 40_000 <= len(building.triangles) <= 120_000
    assert building.elements == boathouse.elements
    assert np.allclose(building.vertices, boathouse.vertices, atol=1e-6)
    assert building.place == boathouse.place and not building.failed

    assert [s.name for s in building.storeys] == ["Foundations", "Ground floor", "Upper floor", "Roof"]
    assert [s.elevation for s in building.storeys] == pytest.approx([-1.2, 0.0, 3.4, 6.4])
    assert {s.name for s in building.spaces} >= {"Boat hall", "Clubroom", "Training room"}
    drawn = {e.type for e in building.elements}
    assert drawn >= {"IfcWall", "IfcSlab", "IfcWindow", "IfcDoor", "IfcStairFlight", "IfcRailing", "IfcGeographicElement"}
    assert not drawn & {"IfcOpeningElement", "IfcSpace"}
    ids = {p.GlobalId: p for p in model.by_type("IfcElement")}
    for element in building.elements:
        assert ids[element.id].is_a() == element.type and len(element.id) == 22
    assert all(e.layer and e.material for e in building.elements)
    assert (building.styles[building.triangle_style, 3] < 255).any()  # glass

    began = time.perf_counter()
    again = OpenJob(boathouse_ifc)
    assert again.poll(wait=20) is not None and again.from_cache
    assert time.perf_counter() - began < 2.0
    assert open_model(boathouse_ifc).elements == building.elements


def test_generating_twice_gives_the_same_ids(boathouse_ifc: Path) -> None:
    from tools.boathouse.building import build

    def ids(model: ifcopenshell.file) -> list[str]:
        return [p.GlobalId for p in model.by_type("IfcRoot")]

    assert ids(build()) == ids(ifcopenshell.open(str(boathouse_ifc)))


def small_ifc(schema: str, path: Path, millimetres: bool = True) -> Path:
    """One wall of 2 × 0.2 × 3 m at 1 m above its storey, in a schema and unit."""
    model = ifcopenshell.file(schema=schema)
    k = 1000.0 if millimetres else 1.0

    def point(*xyz: float) -> ifcopenshell.entity_instance:
        return model.create_entity("IfcCartesianPoint", [float(c) * k for c in xyz])

    def placed(*xyz: float) -> ifcopenshell.entity_instance:
        return model.create_entity("IfcAxis2Placement3D", point(*xyz))

    guid = ifcopenshell.guid.new
    unit = model.create_entity("IfcSIUnit", None, "LENGTHUNIT", "MILLI" if millimetres else None, "METRE")
    units = model.create_entity("IfcUnitAssignment", [unit])
    context = model.create_entity("IfcGeometricRepresentationContext", None, "Model", 3, 1e-5, placed(0, 0, 0))
    extra = {}
    if schema == "IFC2X3":
        person = model.create_entity(
            "IfcPersonAndOrganization", model.create_entity("IfcPerson"), model.create_entity("IfcOrganization", Name="Club")
        )
        owner = model.create_entity(
            "IfcOwnerHistory",
            person,
            model.create_entity("IfcApplication", person.TheOrganization, "1", "Test", "test"),
            CreationDate=0,
            ChangeAction="ADDED",
        )
        extra = {"OwnerHistory": owner}
    project = model.create_entity("IfcProject", guid(), Name="P", RepresentationContexts=[context], UnitsInContext=units, **extra)
    storey = model.create_entity(
        "IfcBuildingStorey",
        guid(),
        Name="Level 1",
        Elevation=1.0 * k,
        CompositionType="ELEMENT",
        ObjectPlacement=model.create_entity("IfcLocalPlacement", None, placed(0, 0, 1)),
        **extra,
    )
    model.create_entity("IfcRelAggregates", guid(), RelatingObject=project, RelatedObjects=[storey], **extra)
    profile = model.create_entity(
        "IfcRectangleProfileDef",
        "AREA",
        None,
        model.create_entity("IfcAxis2Placement2D", model.create_entity("IfcCartesianPoint", [0.0, 0.0])),
        2.0 * k,
        0.2 * k,
    )
    up = model.create_entity("IfcDirection", [0.0, 0.0, 1.0])
    body = model.create_entity("IfcExtrudedAreaSolid", profile, placed(0, 0, 0), up, 3.0 * k)
    broken = model.create_entity("IfcFacetedBrep", model.create_entity("IfcClosedShell", []))
    walls = []
    for name, item in (("Good wall", body), ("Broken wall", broken)):
        shape = model.create_entity("IfcShapeRepresentation", context, "Body", "SweptSolid", [item])
        kind = "IfcWall" if schema != "IFC2X3" else "IfcBuildingElementProxy"
        walls.append(
            model.create_entity(
                kind,
                guid(),
                Name=name,
                **extra,
                ObjectPlacement=model.create_entity("IfcLocalPlacement", storey.ObjectPlacement, placed(0, 0, 0)),
                Representation=model.create_entity("IfcProductDefinitionShape", None, None, [shape]),
            )
        )
    model.create_entity("IfcRelContainedInSpatialStructure", guid(), RelatedElements=walls, RelatingStructure=storey, **extra)
    model.write(str(path))
    return path


@pytest.mark.parametrize("schema", ["IFC2X3", "IFC4", "IFC4X3_ADD2"])
@pytest.mark.parametrize("millimetres", [True, False])
def test_schemas_units_and_a_shape_that_fails(schema: str, millimetres: bool, tmp_path: Path) -> None:
    building = open_model(small_ifc(schema, tmp_path / "small.ifc", millimetres))
    assert [e.name for e in building.elements] == ["Good wall"]
    assert [f.name for f in building.failed] == ["Broken wall"]
    assert building.bounds == pytest.approx(np.array([[-1, -0.1, 1], [1, 0.1, 4]]), abs=1e-6)
    assert building.storeys[0].elevation == pytest.approx(1.0)
    assert building.elements[0].storey == 0
    assert building.unit.metres == (0.001 if millimetres else 1.0)
    assert section(building, Plane((0, 0, 2), (0, 0, 1))).areas.sum() == pytest.approx(0.4, rel=1e-9)


COLLADA = """<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
<asset><created>2026-01-01T00:00:00</created><modified>2026-01-01T00:00:00</modified><unit name="centimeter" meter="0.01"/>
<up_axis>Z_UP</up_axis></asset><library_geometries><geometry id="g" name="Slab"><mesh><source id="p">
<float_array id="a" count="24">{points}</float_array>
<technique_common><accessor source="#a" count="8" stride="3"><param name="X" type="float"/>
<param name="Y" type="float"/><param name="Z" type="float"/></accessor></technique_common></source><vertices id="v">
<input semantic="POSITION" source="#p"/></vertices><triangles count="12"><input semantic="VERTEX" source="#v" offset="0"/><p>
{faces}</p></triangles></mesh></geometry></library_geometries><library_visual_scenes><visual_scene id="s"><node id="Slab">
<instance_geometry url="#g"/></node></visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene>
</COLLADA>"""


def test_collada_says_its_axis_and_unit(tmp_path: Path) -> None:
    box = trimesh.creation.box((400, 300, 20))
    points, faces = (" ".join(map(str, values.ravel())) for values in (box.vertices, box.faces))
    path = tmp_path / "slab.dae"
    path.write_text(COLLADA.format(points=points, faces=faces))
    building = open_model(path)
    assert building.unit.name == "centimetre"
    assert building.bounds[1] - building.bounds[0] == pytest.approx([4.0, 3.0, 0.2])


@pytest.mark.parametrize("suffix", [".glb", ".obj", ".stl", ".ply"])
def test_mesh_files(suffix: str, tmp_path: Path) -> None:
    """Two boxes, a table of 2 × 1 × 0.75 m and a cube on it, in every mesh format."""
    table = trimesh.creation.box((2.0, 1.0, 0.75))
    table.apply_translation((0, 0, 0.375))
    cube = trimesh.creation.box((0.2, 0.2, 0.2))
    cube.apply_translation((0.5, 0, 0.85))
    path = tmp_path / f"table{suffix}"
    upright = np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1.0]])  # Z up to Y up
    scene = trimesh.Scene()
    for name, mesh in (("Table", table), ("Cube", cube)):
        if suffix in (".glb", ".obj"):
            mesh.apply_transform(upright)
        scene.add_geometry(mesh, node_name=name, geom_name=name)
    (scene if suffix in (".glb", ".obj") else scene.to_mesh()).export(str(path))
    building = open_model(path)
    assert building.bounds == pytest.approx(np.array([[-1, -0.5, 0], [1, 0.5, 0.95]]), abs=1e-6)
    if suffix in (".glb", ".obj"):
        assert sorted(e.name for e in building.elements) == ["Cube", "Table"]
    assert section(building, Plane((0, 0, 0.3), (0, 0, 1))).areas.sum() == pytest.approx(2.0, rel=1e-6)

    lying = open_model(path, OpenOptions(up="z" if suffix in (".glb", ".obj") else "y", unit="foot"))
    size = lying.bounds[1] - lying.bounds[0]
    assert sorted(size) == pytest.approx(sorted(np.array([2.0, 1.0, 0.95]) * 0.3048), rel=1e-6)
    assert size[2] == pytest.approx(0.3048, rel=1e-6)


def test_large_numbers_are_taken_for_small_units(tmp_path: Path) -> None:
    path = tmp_path / "house.stl"
    trimesh.creation.box((12_000, 8_000, 6_000)).export(str(path))
    building = open_model(path)
    assert building.unit.name == "millimetre"
    assert building.bounds[1] - building.bounds[0] == pytest.approx([12, 8, 6])


def bad_files(folder: Path, boathouse_ifc: Path) -> dict[str, Path]:
    ifc = boathouse_ifc.read_bytes()
    cube = trimesh.creation.box((1, 1, 1))
    glb = cube.export(file_type="glb")
    contents = {
        "cut.ifc": ifc[: len(ifc) // 2],
        "head.ifc": ifc[:300],
        "noise.ifc": bytes(range(256)) * 40,
        "text.ifc": b"hello",
        "cut.glb": glb[: len(glb) // 2],
        "noise.glb": b"glTF" + bytes(range(200)),
        "empty.obj": b"",
        "words.obj": b"v a b c\nf 1 2 3\n",
        "points.obj": b"v 0 0 0\nv 1 0 0\n",
        "beyond.obj": b"v 0 0 0\nf 1 2 9\n",
        "cut.stl": cube.export(file_type="stl")[:100],
        "cut.ply": cube.export(file_type="ply")[:80],
        "flat.obj": b"v 0 0 0\nv 1 0 0\nv 2 0 0\nf 1 2 3\n",
        "nan.obj": b"v nan nan nan\nv 1 0 0\nv 2 1 0\nf 1 2 3\n",
        "model.xyz": b"1 2 3",
        "nothing.ifc": b"ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\n"
        b"FILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n",
    }
    made = {}
    for name, content in contents.items():
        made[name] = folder / name
        made[name].write_bytes(content)
    made["missing"] = folder / "missing.ifc"
    made["folder"] = folder / "a folder.ifc"
    made["folder"].mkdir()
    return made


def test_bad_files_are_refused_in_plain_words(tmp_path: Path, boathouse_ifc: Path) -> None:
    for name, path in bad_files(tmp_path, boathouse_ifc).items():
        try:
            building = open_model(path)
        except Problem as problem:
            text = str(problem)
            assert "Traceback" not in text and text.endswith((".", ")")) and len(text) < 400, f"{name}: {text}"
        else:  # half a file may still hold whole parts; what is shown must then be real
            assert name.startswith("cut") and len(building.triangles) > 0, name


def test_cancelling_ends_the_worker_at_once_and_leaves_nothing(boathouse_ifc: Path, tmp_path: Path) -> None:
    path = tmp_path / "another.ifc"
    shutil.copyfile(boathouse_ifc, path)
    path.write_text(path.read_text() + "\n")  # other bytes, so not in the cache
    job = OpenJob(path)
    while job.progress.share < 0.1:
        assert job.poll(wait=0.05) is None
    began = time.perf_counter()
    job.cancel()
    assert time.perf_counter() - began < 2.0
    assert job.reader is not None and not job.reader.is_there
    assert not cache_path(identify(path)[0], ".ifc", OpenOptions()).exists()


def test_a_file_written_while_it_is_read_leaves_no_wrong_building_behind(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Too large to be copied as it is read, so it is looked at once more when it was read."""
    monkeypatch.setattr("anatome.formats.identity.KEEP_UP_TO", 10)
    monkeypatch.setenv("ANATOME_CACHE", str(tmp_path / "cache"))
    path = tmp_path / "shed.stl"
    trimesh.creation.box((4, 3, 2)).export(str(path))
    before = path.read_bytes()
    real = OpenJob._read

    def meanwhile(self: OpenJob, model: Path, *rest: object) -> Path:
        trimesh.creation.box((9, 9, 9)).export(str(path))
        return real(self, model, *rest)  # type: ignore[arg-type]

    monkeypatch.setattr(OpenJob, "_read", meanwhile)
    with pytest.raises(Problem, match="written to while it was read"):
        open_model(path)
    path.write_bytes(before)
    monkeypatch.setattr(OpenJob, "_read", real)
    building = open_model(path)
    assert building.bounds[1] - building.bounds[0] == pytest.approx([4, 3, 2])


def test_what_a_small_model_was_when_it_was_opened_is_kept(tmp_path: Path) -> None:
    path = tmp_path / "shed.stl"
    trimesh.creation.box((4, 3, 2)).export(str(path))
    before = path.read_bytes()
    job = OpenJob(path, keep=tmp_path / "kept")
    assert job.poll(wait=60) is not None
    path.write_bytes(b"something else")
    assert job.kept is not None and job.kept.read_bytes() == before


def test_a_damaged_cache_entry_is_read_anew(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("ANATOME_CACHE", str(tmp_path / "cache"))
    path = tmp_path / "shed.stl"
    trimesh.creation.box((4, 3, 2)).export(str(path))
    open_model(path)
    (entry,) = (tmp_path / "cache").iterdir()
    broken = bytearray(entry.read_bytes())
    broken[len(broken) // 2] ^= 1
    entry.write_bytes(bytes(broken))
    job = OpenJob(path)
    building = job.poll(wait=60)
    assert building is not None and not job.from_cache and building.bounds[1][0] == pytest.approx(2)
    again = OpenJob(path)
    assert again.poll(wait=60) is not None and again.from_cache


def test_a_cache_that_cannot_be_written_keeps_no_model_from_opening(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "not a folder").write_text("in the way")
    monkeypatch.setenv("ANATOME_CACHE", str(tmp_path / "not a folder"))
    path = tmp_path / "shed.stl"
    trimesh.creation.box((4, 3, 2)).export(str(path))
    assert len(open_model(path).elements) == 1


@pytest.mark.long
def test_products_the_reader_hangs_on_are_given_up_by_name(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """One without a GlobalId, and one whose shape takes for ever (an infinite direction); the rest opens."""
    monkeypatch.setenv("ANATOME_STALL", "6")
    monkeypatch.setenv("ANATOME_CACHE", str(tmp_path / "cache"))
    whole = small_ifc("IFC4", tmp_path / "whole.ifc").read_text()
    lines = whole.splitlines()
    wall = next(i for i, line in enumerate(lines) if "IFCWALL(" in line and "Broken" in line)
    lines[wall] = re.sub(r"IFCWALL\('[^']+'", "IFCWALL($", lines[wall])
    path = tmp_path / "nameless.ifc"
    path.write_text("\n".join(lines))
    building = open_model(path)
    assert [e.name for e in building.elements] == ["Good wall"]
    assert [(f.name, "GlobalId" in f.reason) for f in building.failed] == [("Broken wall", True)]

    # A reader that does not come back from one product, whatever the reason.
    (tmp_path / "sitecustomize.py").write_text(HANGING)
    monkeypatch.setenv("PYTHONPATH", str(tmp_path))
    monkeypatch.setattr("anatome.formats.readers._maker", None)  # readers are made by another process from here on
    path = tmp_path / "hanging.ifc"
    path.write_text(whole.replace("Broken wall", "Endless wall"))
    job = OpenJob(path)
    while (building := job.poll(wait=0.5)) is None:
        pass
    assert [e.name for e in building.elements] == ["Good wall"]
    assert [(f.name, "too long" in f.reason) for f in building.failed] == [("Endless wall", True)]


HANGING = """
import sys, time
if any("formats.readers" in word for word in sys.orig_argv):
    import ifcopenshell.geom as geom
    real_shape, real_iterator = geom.create_shape, geom.iterator
    def shape(settings, product, **more):
        while product.Name == "Endless wall":
            time.sleep(1)
        return real_shape(settings, product, **more)
    class Iterator(real_iterator):
        def next(self):
            time.sleep(3600)
    geom.create_shape, geom.iterator = shape, Iterator
"""


def test_files_without_units_or_with_empty_layers_are_drawn(tmp_path: Path) -> None:
    text = small_ifc("IFC4", tmp_path / "whole.ifc", millimetres=False).read_text()
    text = re.sub(r"(IFCPROJECT\(.*),#\d+\);", r"\1,$);", text)
    text = text.replace("ENDSEC;\nEND-ISO", "#9001=IFCPRESENTATIONLAYERASSIGNMENT('Empty',$,(),$);\nENDSEC;\nEND-ISO")
    path = tmp_path / "plain.ifc"
    path.write_text(text)
    building = open_model(path)
    assert [e.name for e in building.elements] == ["Good wall"] and building.unit.metres == 1.0


def is_running(pid: int) -> bool:
    try:
        return "Z" not in Path(f"/proc/{pid}/stat").read_text().split()[2]
    except FileNotFoundError:
        return False


def test_the_reader_ends_with_who_asked_for_it(tmp_path: Path, boathouse_ifc: Path) -> None:
    path = tmp_path / "other.ifc"
    path.write_text(boathouse_ifc.read_text() + "\n\n\n")
    words = (
        "import sys, time; from pathlib import Path; from anatome.formats.opening import OpenJob\n"
        f"job = OpenJob(Path({str(path)!r}))\n"
        "while job.reader is None: time.sleep(0.01)\n"
        "from anatome.formats import readers\n"
        "print(job.reader.pid, readers._maker._process.pid, flush=True); time.sleep(60)"
    )
    asking = subprocess.Popen([sys.executable, "-c", words], stdout=subprocess.PIPE, text=True)
    assert asking.stdout is not None
    processes = [int(pid) for pid in asking.stdout.readline().split()]
    time.sleep(1.0)
    asking.kill()
    asking.wait()
    until = time.monotonic() + 10
    while any(is_running(pid) for pid in processes):
        assert time.monotonic() < until
        time.sleep(0.1)
