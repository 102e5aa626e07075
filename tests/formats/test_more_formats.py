"""3D DXF, USD and CityJSON: surfaces, layers, groups, instances, materials and units as libraries of these formats write them."""

from __future__ import annotations

import json
import tarfile
from collections.abc import Callable
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import trimesh
from ezdxf import colors
from ezdxf.acis import api as acis
from ezdxf.render import MeshBuilder, forms
from pxr import Gf, Sdf, Usd, UsdGeom, UsdShade, Vt

from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.cuts.poche_rules import PocheRules
from anatome.formats.geojson import read_footprints
from anatome.formats.mesh import read_mesh
from anatome.model.building import WITHIN, Building
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from fetched import cache_folder, fetched_package


def read(path: Path, **options: object) -> Building:
    return read_mesh(path, OpenOptions.model_validate(options), lambda *_: None)


def volume(building: Building, name: str) -> float:
    """By the divergence theorem, so a face that is missing or turned the other way shows."""
    found = 0.0
    for number, element in enumerate(building.elements):
        if element.name == name:
            a, b, c = (
                building.vertices[building.triangles[slice(*building.triangle_start[number : number + 2])]][:, i]
                for i in range(3)
            )
            found += float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)
    return found


# The whole boathouse in each format -------------------------------------------------------------------------------


def parts(building: Building):
    for number, element in enumerate(building.elements):
        start, end = building.triangle_start[number : number + 2]
        used, faces = np.unique(building.triangles[start:end], return_inverse=True)
        yield element, building.vertices[used], faces.reshape(-1, 3), building.styles[building.triangle_style[start]]


def as_dxf(building: Building, path: Path) -> None:
    """In centimetres, a mesh each on the layer of its type."""
    drawing = ezdxf.new("R2010", units=ezdxf.units.CM)
    for element, vertices, faces, colour in parts(building):
        mesh = MeshBuilder()
        mesh.add_mesh(vertices=(vertices * 100).tolist(), faces=faces.tolist())
        made = mesh.render_mesh(drawing.modelspace(), dxfattribs={"layer": element.type})
        made.rgb = tuple(map(int, colour[:3]))
    drawing.saveas(path)


def as_usd(building: Building, path: Path) -> None:
    """Y up, in millimetres, in groups by type, each of a material with its name."""
    stage = Usd.Stage.CreateNew(str(path))
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.y)
    UsdGeom.SetStageMetersPerUnit(stage, 0.001)
    materials: dict[str, UsdShade.Material] = {}
    for number, (element, vertices, faces, _) in enumerate(parts(building)):
        mesh = UsdGeom.Mesh.Define(stage, f"/House/{element.type}/part_{number}")
        turned = vertices[:, [0, 2, 1]] * [1000, 1000, -1000]
        mesh.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(turned.astype("f4")))
        mesh.CreateFaceVertexCountsAttr([3] * len(faces))
        mesh.CreateFaceVertexIndicesAttr(faces.ravel().tolist())
        mesh.GetPrim().SetMetadata("displayName", element.name or "Part")
        name = Sdf.Path.StripNamespace(element.material or "Other")
        if name not in materials:
            materials[name] = UsdShade.Material.Define(stage, f"/Looks/m{len(materials)}")
            materials[name].GetPrim().SetMetadata("displayName", name)
        UsdShade.MaterialBindingAPI.Apply(mesh.GetPrim()).Bind(materials[name])
    stage.GetRootLayer().Save()


def as_cityjson(building: Building, path: Path) -> None:
    """Numbers in tenths of millimetres, moved, as version 2.0 has them."""
    corners = np.round((building.vertices - building.bounds[0]) * 1e4).astype(int)
    things = {
        element.id: {
            "type": "BuildingPart",
            "attributes": {"name": element.name},
            "geometry": [
                {"type": "MultiSurface", "lod": "3", "boundaries": [[face] for face in building.triangles[a:b].tolist()]}
            ],
        }
        for element, a, b in zip(building.elements, building.triangle_start.tolist(), building.triangle_start[1:].tolist())
    }
    transform = {"scale": [1e-4] * 3, "translate": building.bounds[0].tolist()}
    data = {"type": "CityJSON", "version": "2.0", "transform": transform, "CityObjects": things, "vertices": corners.tolist()}
    path.write_text(json.dumps(data))


@pytest.mark.parametrize(
    "suffix, write, exact, way",
    (
        (".dxf", as_dxf, 1e-6, lambda e: (e.layer if e.type == "Part" else e.type, "")),
        (".usdc", as_usd, 2e-5, lambda e: (e.group.split(WITHIN)[-1] if e.type == "Part" else e.type, e.material or "Other")),
        (".json", as_cityjson, 2e-4, lambda e: ("", "")),
    ),
)
def test_ten_cuts_of_the_boathouse_have_the_areas_they_have(
    boathouse: Building, tmp_path: Path, suffix: str, write: Callable, exact: float, way: Callable
) -> None:
    """By layer, group and material, to what the numbers of each format can say; nobody has to give a unit or an axis."""
    write(boathouse, tmp_path / f"house{suffix}")
    other = read(tmp_path / f"house{suffix}")
    assert other.bounds == pytest.approx(boathouse.bounds, abs=1e-3) and len(other.elements) == len(boathouse.elements)
    low, high = boathouse.bounds
    rng = np.random.default_rng(4)

    def areas(building: Building, plane: Plane) -> dict[tuple[str, str], float]:
        section = Cutter(building).free_section(plane, np.ones(len(building.elements), bool), PocheRules())
        found: dict[tuple[str, str], float] = {}
        for polygon, element in zip(section.polygons, section.element.tolist()):
            key = way(building.elements[element])
            found[key] = found.get(key, 0.0) + float(polygon.area)
        return found

    for _ in range(10):
        normal = rng.normal(size=3)
        plane = Plane(tuple(low + rng.uniform(0.3, 0.7, 3) * (high - low)), tuple(normal))
        one, two = areas(boathouse, plane), areas(other, plane)
        assert two.keys() == one.keys() and sum(one.values()) > 1
        assert two == pytest.approx(one, rel=exact, abs=50 * exact)


# What each format has besides ---------------------------------------------------------------------------------------


def test_dxf_meshes_polyfaces_solids_faces_and_blocks_on_their_layers(tmp_path: Path) -> None:
    """What is off is left out and counted; a block put in twice, once turned and mirrored, is two closed parts in a group."""
    drawing = ezdxf.new("R2018", units=ezdxf.units.FT)
    drawing.layers.add("Walls", color=colors.RED)
    drawing.layers.add("Old").off()
    space = drawing.modelspace()
    cube = forms.cube()
    cube.render_mesh(space, dxfattribs={"layer": "Walls"})
    forms.cube().translate(3, 0, 0).render_polyface(space, dxfattribs={"layer": "Poly"})
    forms.cube().translate(6, 0, 0).render_3dfaces(space, dxfattribs={"layer": "Faces"})
    forms.cube().translate(9, 0, 0).render_mesh(space, dxfattribs={"layer": "Old"})
    body = acis.body_from_mesh(forms.cube().translate(12, 0, 0))
    acis.export_dxf(space.add_3dsolid(dxfattribs={"layer": "Solids"}), [body])
    block = drawing.blocks.new("Bench")
    forms.cube().render_3dfaces(block, dxfattribs={"layer": "Seats"})
    forms.cube().translate(0, 0, 1).render_mesh(block, dxfattribs={"layer": "Backs"})
    space.add_blockref("Bench", (0, 10, 0), dxfattribs={"rotation": 30})
    space.add_blockref("Bench", (5, 10, 0), dxfattribs={"xscale": -1, "yscale": 2})
    space.add_line((0, 0), (1, 1))
    drawing.saveas(tmp_path / "m.dxf")
    building = read(tmp_path / "m.dxf")
    assert building.unit.name == "foot" and building.links.closed.all()
    assert any("1 shapes on layers that are off" in remark for remark in building.remarks)
    foot = 0.3048**3
    for layer in ("Walls", "Poly", "Faces", "Solids"):
        assert abs(volume(building, layer)) == pytest.approx(foot, rel=1e-6)
    assert [(e.layer, e.group) for e in building.elements if e.name == "Bench"] == [("Backs", "Bench"), ("Seats", "Bench")] * 2
    assert abs(volume(building, "Bench")) == pytest.approx(6 * foot, rel=1e-6)
    walls = next(i for i, e in enumerate(building.elements) if e.layer == "Walls")
    assert building.styles[building.triangle_style[building.triangle_start[walls]], :3].tolist() == [255, 0, 0]
    ezdxf.new().saveas(tmp_path / "empty.dxf")
    with pytest.raises(Problem, match="no faces to draw"):
        read(tmp_path / "empty.dxf")
    (tmp_path / "bad.dxf").write_text("nothing of the kind")
    with pytest.raises(Problem, match="Export it again"):
        read(tmp_path / "bad.dxf")


def test_published_dxf_files_are_read_or_refused_in_words(tmp_path: Path) -> None:
    """Those of the integration tests in the source archive of ezdxf 1.4.5: old, damaged and binary ones, of several programs."""
    found = fetched_package("ezdxf", "1.4.5", "ezdxf-1.4.5.tar.gz", "--no-binary", "ezdxf")
    assert found.parent == cache_folder()
    with tarfile.open(found) as archive:
        members = [m for m in archive.getmembers() if m.name.lower().endswith(".dxf") and m.size < 3_000_000]
        for member in members:
            stream = archive.extractfile(member)
            assert stream is not None
            (tmp_path / Path(member.name).name).write_bytes(stream.read())
    outcomes = {"read": 0, "refused": 0}
    for path in sorted(tmp_path.iterdir()):
        try:
            outcomes["read"] += len(read(path, unit="metre").elements) > 0
        except Problem as problem:
            assert "Export" in str(problem) or "Check" in str(problem)
            outcomes["refused"] += 1
    assert sum(outcomes.values()) == len(members) > 25, outcomes


def test_usd_instances_subsets_and_hidden_things(tmp_path: Path) -> None:
    """An instance is a part of its own where it stands; faces of a subset have its material; what is hidden is left out."""
    stage = Usd.Stage.CreateNew(str(tmp_path / "m.usda"))
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z)
    UsdGeom.SetStageMetersPerUnit(stage, 0.01)
    box = trimesh.creation.box((100, 100, 100))

    def mesh(where: str) -> UsdGeom.Mesh:
        made = UsdGeom.Mesh.Define(stage, where)
        made.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(box.vertices.astype("f4")))
        made.CreateFaceVertexCountsAttr([3] * 12)
        made.CreateFaceVertexIndicesAttr(box.faces.ravel().tolist())
        return made

    wall = mesh("/House/Walls/North/mesh")
    oak = UsdShade.Material.Define(stage, "/Looks/Oak")
    shader = UsdShade.Shader.Define(stage, "/Looks/Oak/s")
    shader.CreateIdAttr("UsdPreviewSurface")
    shader.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f).Set(Gf.Vec3f(0.2140411, 0.0, 1.0))
    oak.CreateSurfaceOutput().ConnectToSource(shader.ConnectableAPI(), "surface")
    subset = UsdGeom.Subset.CreateGeomSubset(wall, "front", UsdGeom.Tokens.face, [0, 1], UsdShade.Tokens.materialBind)
    UsdShade.MaterialBindingAPI.Apply(subset.GetPrim()).Bind(oak)
    UsdGeom.Scope.Define(stage, "/Prototypes")
    UsdGeom.Xform.Define(stage, "/Prototypes/Chair")
    mesh("/Prototypes/Chair/Seat")
    UsdGeom.Imageable(stage.GetPrimAtPath("/Prototypes")).MakeInvisible()
    for number in range(2):
        chair = UsdGeom.Xform.Define(stage, f"/House/Chair_{number}")
        chair.GetPrim().GetReferences().AddInternalReference("/Prototypes/Chair")
        chair.GetPrim().SetInstanceable(True)
        chair.AddTranslateOp().Set(Gf.Vec3d(300 * number, 500, 0))
        if number:
            chair.AddScaleOp().Set(Gf.Vec3f(-1, 1, 2))
    UsdGeom.Sphere.Define(stage, "/House/Ball")
    stage.GetRootLayer().Save()
    building = read(tmp_path / "m.usda")
    assert [(e.name, e.group) for e in building.elements] == [
        ("North", f"House{WITHIN}Walls"),
        ("Seat", f"House{WITHIN}Chair_0"),
        ("Seat", f"House{WITHIN}Chair_1"),
    ]
    assert building.unit.name == "centimetre" and building.links.closed.all() and building.outward.all()
    assert volume(building, "Seat") == pytest.approx(3.0) and building.element_bounds[2, :, 0] == pytest.approx([2.5, 3.5])
    assert [127, 0, 255] in [style[:3].tolist() for style in building.styles] and any("Sphere" in r for r in building.remarks)
    (tmp_path / "bad.usdc").write_bytes(b"PXR-USDC but not really")
    with pytest.raises(Problem, match="Export it again"):
        read(tmp_path / "bad.usdc")


def test_cityjson_solids_with_holes_meanings_parts_and_templates(tmp_path: Path) -> None:
    """The finest geometry counts; a solid with a courtyard keeps it; a tree of a template stands where it is put."""
    ring = [(0, 0), (10, 0), (10, 10), (0, 10)]
    court = [(4, 4), (4, 6), (6, 6), (6, 4)]
    vertices = [[x * 1000, y * 1000, z * 1000] for z in (0, 3) for x, y in ring + court]
    bottom, top = [[3, 2, 1, 0], [7, 6, 5, 4]], [[8, 9, 10, 11], [12, 13, 14, 15]]
    sides = [[[i, (i + 1) % 4, 8 + (i + 1) % 4, 8 + i]] for i in range(4)]
    sides += [[[4 + i, 4 + (i + 1) % 4, 12 + (i + 1) % 4, 12 + i]] for i in range(4)]
    solid = {
        "type": "Solid",
        "lod": "2.2",
        "boundaries": [[bottom, top, *sides]],
        "semantics": {
            "surfaces": [{"type": "GroundSurface"}, {"type": "RoofSurface"}, {"type": "WallSurface"}],
            "values": [[0, 1, *[2] * 8]],
        },
    }
    coarse = {"type": "MultiSurface", "lod": "1", "boundaries": [[[0, 1, 2, 3]]]}
    tree = {"type": "MultiSurface", "lod": "1", "boundaries": [[[0, 1, 2]], [[0, 2, 3]]]}
    instance = {
        "type": "GeometryInstance",
        "lod": "1",
        "template": 0,
        "boundaries": [2],
        "transformationMatrix": np.eye(4).ravel().tolist(),
    }
    data = {
        "type": "CityJSON",
        "version": "1.1",
        "transform": {"scale": [0.001] * 3, "translate": [412_000.0, 5_310_000.0, 30.0]},
        "vertices": vertices,
        "geometry-templates": {"templates": [tree], "vertices-templates": [[0, 0, 0], [1, 0, 0], [1, 0, 4], [0, 0, 4]]},
        "CityObjects": {
            "b1": {"type": "Building", "attributes": {"name": "Hall"}, "children": ["p1"]},
            "p1": {"type": "BuildingPart", "parents": ["b1"], "geometry": [coarse, solid]},
            "t1": {"type": "SolitaryVegetationObject", "geometry": [instance]},
        },
    }
    path = tmp_path / "town.city.json"
    path.write_text(json.dumps(data))
    building = read(path, near=True)
    assert [(e.id, e.type, e.group, e.material) for e in building.elements] == [
        ("p1", "Building part", "Hall", "Wall surface"),
        ("t1", "Solitary vegetation object", "", ""),
    ]
    assert building.links.closed[0] and volume(building, "p1") == pytest.approx(96 * 3)
    assert building.origin[:2] == pytest.approx((412_000, 5_310_000), abs=100) and building.bounds[1, 2] == pytest.approx(34.0)
    (block,) = read_footprints(path).neighbours.blocks
    assert (block.name, block.base, block.height) == ("Hall", pytest.approx(30.0), pytest.approx(3.0))
    assert [len(ring) for ring in block.rings] == [4, 4]  # with its courtyard
    for broken, why in (
        (
            {**data, "CityObjects": {"x": {"type": "Building", "geometry": [{**solid, "boundaries": [[[[0, 1, 99]]]]}]}}},
            "no sound",
        ),
        ({**data, "metadata": {"referenceSystem": "https://www.opengis.net/def/crs/EPSG/0/4979"}}, "degrees"),
        ({"type": "FeatureCollection", "features": []}, "Open the building first"),
    ):
        path.write_text(json.dumps(broken))
        with pytest.raises(Problem, match=why):
            read(path)
