"""Models that need other files: read with them, told apart by them, kept whole in projects; and other files that mean harm."""

from __future__ import annotations

import json
import os
import time
from pathlib import Path

import ifcopenshell
import numpy as np
import pytest
import trimesh
from PIL import Image

from anatome.formats.identity import identify, model_files
from anatome.formats.ifc_place import read_place
from anatome.formats.mesh import read_mesh
from anatome.formats.opening import OpenJob, open_model
from anatome.formats.project_files import open_project
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.project import ModelReference
from anatome.scenes.storage import StoredProject, load_project, pack_model, save_project

RED, BLUE = (200, 30, 20), (20, 40, 190)


def picture(path: Path, colour: tuple[int, int, int]) -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    Image.new("RGB", (8, 8), colour).save(path)
    return path


def textured(folder: Path, suffix: str, colour: tuple[int, int, int] = RED) -> Path:
    """A square with a picture that lies in a folder beside it, as exporters of each format write it."""
    folder.mkdir(parents=True, exist_ok=True)
    image, path = picture(folder / "maps" / "wood.png", colour), folder / f"board{suffix}"
    corners, uv = [(0, 0, 0), (2, 0, 0), (2, 2, 0), (0, 2, 0)], [(0, 0), (1, 0), (1, 1), (0, 1)]
    if suffix == ".obj":
        (folder / "board.mtl").write_text("newmtl wood\nKd 1 1 1\nmap_Kd -s 1 1 1 maps/wood.png\n")
        lines = ["mtllib board.mtl", *(f"v {x} {y} {z}" for x, y, z in corners), *(f"vt {u} {v}" for u, v in uv)]
        path.write_text("\n".join([*lines, "usemtl wood", "f 1/1 2/2 3/3", "f 1/1 3/3 4/4", ""]))
    elif suffix == ".ply":
        head = "ply\nformat ascii 1.0\ncomment TextureFile maps/wood.png\nelement vertex 4\nproperty float x\nproperty float y\n"
        head += "property float z\nproperty float s\nproperty float t\nelement face 2\n"
        head += "property list uchar int vertex_indices\nend_header\n"
        rows = [" ".join(map(str, (*c, *t))) for c, t in zip(corners, uv)]
        path.write_text(head + "\n".join([*rows, "3 0 1 2", "3 0 2 3", ""]))
    else:
        visual = trimesh.visual.TextureVisuals(
            uv=np.array(uv, float), material=trimesh.visual.material.PBRMaterial(baseColorTexture=Image.open(image))
        )
        mesh = trimesh.Trimesh(corners, [[0, 1, 2], [0, 2, 3]], visual=visual, process=False)
        for name, data in mesh.export(file_type="gltf").items():
            told = json.loads(data) if name.endswith(".gltf") else None
            if told is not None:
                told["images"] = [{"uri": "maps/wood.png"}]
            (folder / (path.name if told is not None else name)).write_bytes(data if told is None else json.dumps(told).encode())
    return path


def colour_of(building: Building) -> np.ndarray:
    return building.styles[building.triangle_style[0]][:3]


@pytest.mark.parametrize("suffix", [".obj", ".ply", ".gltf"])
def test_what_a_model_needs_is_part_of_what_it_is_and_goes_with_it(suffix: str, tmp_path: Path) -> None:
    path = textured(tmp_path / "one", suffix)
    files = model_files(path)
    assert picture(tmp_path / "one/maps/wood.png", RED) in files.others and files.root == path.parent
    # As the window opens it, from a copy, and as the command line does.
    job = OpenJob(path, keep=tmp_path / "kept")
    building = job.poll(wait=60)
    assert building is not None and abs(colour_of(building) - RED).max() < 3 and abs(colour_of(open_model(path)) - RED).max() < 3
    # Another picture is another model.
    before = identify(path)[0]
    picture(tmp_path / "one/maps/wood.png", BLUE)
    assert identify(path)[0] != before and abs(colour_of(open_model(path)) - BLUE).max() < 3
    # The copy has what was opened, and all of it goes into a project.
    assert job.kept is not None
    kept = model_files(job.kept)
    project = edits.with_model(
        edits.without_model("board"), ModelReference(path=path.name, embedded=True), edits.without_model("").stage.camera
    )
    save_project(tmp_path / "board.anatome", StoredProject(project, {}, pack_model(kept.main, kept.others, kept.root)))
    for file in sorted((tmp_path / "one").rglob("*"), reverse=True):
        file.rmdir() if file.is_dir() else file.unlink()
    assert abs(colour_of(open_project(tmp_path / "board.anatome").model) - RED).max() < 3


def test_names_that_lead_elsewhere_are_not_followed(tmp_path: Path) -> None:
    """A texture by its whole path is looked for beside the model; what no model needs, and what is no file, is left alone."""
    secret = tmp_path / "secret.txt"
    secret.write_text("nobody's business")
    path = textured(tmp_path / "one", ".obj")
    (path.parent / "board.mtl").write_text(
        f"newmtl wood\nmap_Kd C:\\textures\\wood.png\nmap_Ks {secret}\nmap_Ns ../secret.txt\nmap_d pipe.png\n"
    )
    os.rename(path.parent / "maps/wood.png", path.parent / "wood.png")
    os.mkfifo(path.parent / "pipe.png")
    assert [f.name for f in model_files(path).others] == ["board.mtl", "wood.png"]
    began = time.monotonic()
    assert len(open_model(path).elements) == 1 and time.monotonic() - began < 30  # nobody waits at the pipe


def test_a_project_that_unpacks_elsewhere_is_damaged(tmp_path: Path) -> None:
    path = textured(tmp_path / "one", ".obj")
    files = model_files(path)
    packed = pack_model(files.main, files.others, files.root)
    project = edits.with_model(
        edits.without_model("x"), ModelReference(path=path.name, embedded=True), edits.without_model("").stage.camera
    )
    target = tmp_path / "x.anatome"
    save_project(target, StoredProject(project, {}, packed))
    assert len(load_project(target).model.files) == 3  # type: ignore[union-attr]
    # The same length, so that the directory of the archive stays right.
    target.write_bytes(target.read_bytes().replace(b"model/board.mtl", b"model/../rd.mtl"))
    with pytest.raises(Problem, match="damaged"):
        load_project(target)


def test_damaged_pictures_leave_a_model_plain(tmp_path: Path) -> None:
    path = textured(tmp_path / "one", ".ply")
    whole = Image.effect_noise((400, 400), 90).convert("RGB")
    whole.save(path.parent / "maps/wood.png")
    content = (path.parent / "maps/wood.png").read_bytes()
    (path.parent / "maps/wood.png").write_bytes(content[: len(content) // 2])
    building = open_model(path)
    assert len(building.elements) == 1 and building.textures is None and any("damaged" in remark for remark in building.remarks)


def test_groups_in_groups_without_end_are_refused_at_once(tmp_path: Path) -> None:
    nodes = [{"children": [i + 1]} for i in range(20_000)] + [{"mesh": 0}]
    told = {"asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": nodes, "meshes": []}
    path = tmp_path / "deep.gltf"
    path.write_text(json.dumps(told))
    began = time.monotonic()
    with pytest.raises(Problem, match="groups in groups"):
        read_mesh(path, OpenOptions(), lambda share, doing: None)
    assert time.monotonic() - began < 5
    path.write_text('{"nodes":' + "[" * 100_000)
    assert model_files(path).others == ()


def test_north_is_that_of_the_map_where_nothing_else_is_said() -> None:
    """IfcMapConversion (ISO 16739): the model's X axis lies along (abscissa, ordinate) of east and north."""
    model = ifcopenshell.file(schema="IFC4")
    context = model.create_entity("IfcGeometricRepresentationContext", None, "Model", 3)
    model.create_entity("IfcSite", ifcopenshell.guid.new(), RefLatitude=(48, 0, 0), RefLongitude=(11, 30, 0))
    turn = np.radians(30.0)
    crs = model.create_entity("IfcProjectedCRS", "EPSG:25832")
    model.create_entity("IfcMapConversion", context, crs, 0.0, 0.0, 0.0, float(np.cos(turn)), float(np.sin(turn)))
    place = read_place(model)
    # X turned 30° from east towards north: north lies 30° clockwise of Y.
    assert place is not None and place.north == pytest.approx(30.0) and place.longitude == pytest.approx(11.5)
    context.TrueNorth = model.create_entity("IfcDirection", (0.0, 1.0))
    assert read_place(model).north == 0.0  # type: ignore[union-attr]
    assert read_place(ifcopenshell.file(schema="IFC2X3")) is None
