"""What mesh files know is kept: names of objects and groups, materials, whole objects however many materials they have."""

from __future__ import annotations

import json
import struct
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh
from trimesh.visual.material import PBRMaterial, SimpleMaterial

from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.cuts.poche_rules import PocheRules
from anatome.formats.mesh import read_mesh
from anatome.formats.properties import PropertyReader
from anatome.model.building import WITHIN, Building
from anatome.model.grouping import DIRECTLY, grouped
from anatome.model.options import OpenOptions
from anatome.model.selection import Selection

BOX = trimesh.creation.box()


def read(path: Path) -> Building:
    return read_mesh(path, OpenOptions(up="z", unit="metre"), lambda *_: None)


def parts_of(building: Building) -> dict[str, tuple[str, str]]:
    return {e.name: (e.material, e.group) for e in building.elements}


def obj(path: Path, *lines: str) -> Path:
    """A unit cube: faces 1 to 12 stand for F1 … F12 in the lines."""
    faces = [" ".join(str(i + 1) for i in face) for face in BOX.faces.tolist()]
    for number in range(len(faces), 0, -1):
        lines = tuple(line.replace(f"F{number}", f"f {faces[number - 1]}") for line in lines)
    (path.parent / "m.mtl").write_text("newmtl Brick\nKd 0.7 0.3 0.2\nnewmtl Paint\nKd 0.9 0.9 0.9\n")
    vertices = [f"v {x} {y} {z}" for x, y, z in BOX.vertices.tolist()]
    path.write_text("\n".join(["mtllib m.mtl", *vertices, *lines, ""]))
    return path


CUBE = [f"F{i}" for i in range(1, 13)]


def test_an_object_in_two_materials_is_one_closed_part(tmp_path: Path) -> None:
    """Cut across both it is one filled area; it counts to the material it has most of."""
    path = obj(tmp_path / "wall.obj", "o Wall 1", "usemtl Brick", *CUBE[:8], "usemtl Paint", *CUBE[8:])
    building = read(path)
    assert parts_of(building) == {"Wall 1": ("Brick", "")} and building.links.closed.all()
    colours = {tuple(building.styles[s, :3].tolist()) for s in building.triangle_style.tolist()}
    assert colours == {(178, 76, 51), (230, 230, 230)}
    section = Cutter(building).free_section(Plane((0, 0, 0.1), (0, 0, 1)), np.ones(1, bool), PocheRules())
    assert float(np.sum([p.area for p in section.polygons])) == pytest.approx(1.0)


@pytest.mark.parametrize(
    "lines, wanted",
    [
        (("o A", "g Walls", *CUBE[:6], "o B", *CUBE[6:]), {"A": ("", "Walls"), "B": ("", "Walls")}),
        (("o House", "g Roof", *CUBE[:6], "g Door", *CUBE[6:]), {"Roof": ("", "House"), "Door": ("", "House")}),
        (("g North wall", "usemtl Paint", *CUBE), {"North wall": ("Paint", "")}),
        (("o A", "g default", *CUBE), {"A": ("", "")}),
        ((*CUBE,), {"plain": ("", "")}),
    ],
)
def test_objects_and_groups_of_obj(tmp_path: Path, lines: tuple[str, ...], wanted: dict[str, tuple[str, str]]) -> None:
    assert parts_of(read(obj(tmp_path / "plain.obj", *lines))) == wanted


def glb(path: Path) -> Path:
    """Two walls of one mesh with two materials, in a group in a group; written by hand as exporters do."""
    corners, faces = BOX.vertices.astype("<f4"), BOX.faces.astype("<u4")
    parts = [corners.tobytes(), faces[:8].tobytes(), faces[8:].tobytes()]
    views = [{"buffer": 0, "byteOffset": sum(map(len, parts[:i])), "byteLength": len(p)} for i, p in enumerate(parts)]
    limits = {"min": corners.min(axis=0).tolist(), "max": corners.max(axis=0).tolist()}
    told: dict[str, Any] = {
        "asset": {"version": "2.0"},
        "scenes": [{"nodes": [0]}],
        "nodes": [
            {"name": "House", "children": [1]},
            {"name": "Ground floor", "children": [2, 3]},
            {"name": "Wall 1", "mesh": 0, "extras": {"Fire": "F30", "Load": 2.5}},
            {"name": "Wall 2", "mesh": 0, "translation": [3, 0, 0]},
        ],
        "meshes": [
            {
                "name": "Wall",
                "extras": {"Kind": "Cavity"},
                "primitives": [
                    {"attributes": {"POSITION": 0}, "indices": 1, "material": 0},
                    {"attributes": {"POSITION": 0}, "indices": 2, "material": 1},
                ],
            }
        ],
        "materials": [{"name": "Brick"}, {"name": "Paint"}],
        "buffers": [{"byteLength": sum(map(len, parts))}],
        "bufferViews": views,
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": len(corners), "type": "VEC3", **limits},
            {"bufferView": 1, "componentType": 5125, "count": 24, "type": "SCALAR"},
            {"bufferView": 2, "componentType": 5125, "count": 12, "type": "SCALAR"},
        ],
    }
    head, body = json.dumps(told).encode(), b"".join(parts)
    head, body = head + b" " * (-len(head) % 4), body + b"\0" * (-len(body) % 4)
    chunks = struct.pack("<I4s", len(head), b"JSON") + head + struct.pack("<I4s", len(body), b"BIN\0") + body
    path.write_bytes(struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks)
    return path


def test_nodes_of_gltf_are_parts_in_their_groups_with_ids_that_stay(tmp_path: Path) -> None:
    """A mesh of several primitives is one part, of the same name each time the file is read; extras are its properties."""
    path = glb(tmp_path / "house.glb")
    building, again = read(path), read(path)
    group = f"House{WITHIN}Ground floor"
    assert parts_of(building) == {"Wall 1": ("Brick", group), "Wall 2": ("Brick", group)} and building.links.closed.all()
    assert [e.id for e in building.elements] == [e.id for e in again.elements]
    reader = PropertyReader(path)
    try:
        assert reader.sets_of("Wall 1") == {"Node": {"Fire": "F30", "Load": 2.5}, "Mesh": {"Kind": "Cavity"}}
        assert reader.sets_of("Wall 2") == {"Mesh": {"Kind": "Cavity"}} and reader.sets_of("no such") == {}
    finally:
        reader.close()


COLLADA = """<?xml version="1.0"?><COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
<asset><unit meter="1" name="meter"/><up_axis>Z_UP</up_axis></asset>
<library_effects><effect id="e"><profile_COMMON><technique sid="t"><lambert><diffuse><color>0.7 0.3 0.2 1</color></diffuse>
</lambert></technique></profile_COMMON></effect></library_effects>
<library_materials><material id="m" name="Brick"><instance_effect url="#e"/></material></library_materials>
<library_geometries><geometry id="g" name="Slab"><mesh>
<source id="p"><float_array id="pa" count="12">0 0 0 1 0 0 1 1 0 0 1 0</float_array>
<technique_common><accessor source="#pa" count="4" stride="3"><param name="X" type="float"/><param name="Y" type="float"/>
<param name="Z" type="float"/></accessor></technique_common></source>
<vertices id="v"><input semantic="POSITION" source="#p"/></vertices>
<polylist count="1" material="sym"><input semantic="VERTEX" source="#v" offset="0"/><vcount>4</vcount><p>0 1 2 3</p>
</polylist></mesh></geometry></library_geometries>
<library_visual_scenes><visual_scene id="s"><node id="n1" name="Level 1"><translate>0 0 3</translate>
<node id="n2" name="Floor slab"><instance_geometry url="#g"><bind_material><technique_common>
<instance_material symbol="sym" target="#m"/></technique_common></bind_material></instance_geometry></node></node>
</visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene></COLLADA>"""


def test_nodes_of_collada_keep_names_groups_and_materials(tmp_path: Path) -> None:
    path = tmp_path / "level.dae"
    path.write_text(COLLADA)
    building = read_mesh(path, OpenOptions(), lambda *_: None)
    assert parts_of(building) == {"Floor slab": ("Brick", "Level 1")}
    assert building.bounds.tolist() == [[0, 0, 3], [1, 1, 3]] and building.styles[0].tolist() == [178, 76, 51, 255]


# The boathouse through other formats ---------------------------------------------------------------------------


def exported(building: Building, path: Path) -> Path:
    """A building written by trimesh: parts in nodes by storey, each in its material."""
    scene = trimesh.Scene()
    materials: dict[str, Any] = {}
    for number, e in enumerate(building.elements):
        start, end = building.triangle_start[number : number + 2]
        used, faces = np.unique(building.triangles[start:end], return_inverse=True)
        name = e.material or "Other"
        if name not in materials:
            shade = [60, 8 * len(materials), 120, 255]  # trimesh takes materials of one colour for one
            is_gltf = path.suffix == ".glb"
            materials[name] = (
                PBRMaterial(name=name, baseColorFactor=shade) if is_gltf else SimpleMaterial(name=name, diffuse=shade)
            )
        mesh = trimesh.Trimesh(building.vertices[used], faces.reshape(-1, 3), process=False)
        mesh.visual = trimesh.visual.TextureVisuals(material=materials[name])
        scene.add_geometry(mesh, node_name=f"{e.name} {number}", geom_name=f"{e.name} {number}")
    if path.suffix == ".glb":
        path.write_bytes(trimesh.exchange.gltf.export_glb(scene))
        return path
    text, files = trimesh.exchange.obj.export_obj(scene, return_texture=True, digits=12, mtl_name="m.mtl")
    path.write_text(text)
    for name, data in files.items():
        (path.parent / name).write_bytes(data)
    return path


@pytest.mark.parametrize("suffix", [".glb", ".obj"])
def test_ten_cuts_have_the_same_areas_by_material_in_every_format(tmp_path: Path, boathouse: Building, suffix: str) -> None:
    """To a millionth where the format keeps the digits; glTF has single precision."""
    path = exported(boathouse, tmp_path / f"boathouse{suffix}")
    up = "z"
    other = read_mesh(path, OpenOptions(up=up, unit="metre"), lambda *_: None)
    assert len(other.elements) == len(boathouse.elements)
    low, high = boathouse.bounds
    planes = [Plane((0, 0, float(z)), (0, 0, 1)) for z in np.linspace(low[2], high[2], 7)[1:-1] + 0.0137]
    planes += [Plane((float(x), 0, 0), (1, 0, 0)) for x in np.linspace(low[0], high[0], 7)[1:-1] + 0.0137]

    def areas(building: Building, plane: Plane) -> dict[str, float]:
        section = Cutter(building).free_section(plane, np.ones(len(building.elements), bool), PocheRules())
        found: dict[str, float] = {}
        for polygon, element in zip(section.polygons, section.element.tolist()):
            material = building.elements[element].material
            name = "" if material == "Other" else material
            found[name] = found.get(name, 0.0) + float(polygon.area)
        return found

    for plane in planes:
        one, two = areas(boathouse, plane), areas(other, plane)
        assert two == pytest.approx(one, rel=1e-6 if suffix == ".obj" else 2e-5, abs=1e-6 if suffix == ".obj" else 1e-4)


# Groups as what is meant ---------------------------------------------------------------------------------------


def test_groups_are_meant_with_all_in_them_and_listed_as_they_stand(tmp_path: Path) -> None:
    building = read(glb(tmp_path / "house.glb"))
    for path, meant in (("House", 2), (f"House{WITHIN}Ground floor", 2), ("Ground floor", 0), ("Hou", 0)):
        assert int(Selection(groups=frozenset({path})).mask(building).sum()) == meant
    assert not Selection(groups=frozenset({"House"})).is_empty
    (house,) = grouped(building, "group")
    (floor,) = house.inner
    assert (house.name, floor.name, len(house.members), len(floor.members)) == ("House", "Ground floor", 2, 2)
    path = obj(tmp_path / "mixed.obj", "o A", "g Walls", *CUBE[:6], "o B", *CUBE[6:9], "g", "o C", *CUBE[9:])
    groups = grouped(read(path), "group")
    assert sum(len(g.members) for g in groups) == 3 and DIRECTLY not in {g.name for g in groups}
