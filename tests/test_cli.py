"""The command line, with no display: once as a program of its own, else within the process of the tests, which is quicker."""

from __future__ import annotations

import io
import json
import os
import re
import subprocess
import sys
import zipfile
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path

import ezdxf
import ifcopenshell.api.geometry
import ifcopenshell.api.root
import ifcopenshell.guid
import ifcopenshell.util.placement
import numpy as np
import pikepdf
import pytest
import shapely
import trimesh
from lxml import etree
from PIL import Image
from pydantic import TypeAdapter
from scipy.ndimage import binary_opening

from anatome.cli import main
from anatome.cuts.facts import CutFacts, facts_schema
from anatome.demo.shipped import PROJECT
from anatome.formats.project_files import open_project
from anatome.look.shipped import first_look
from anatome.model.meaning import Meaning, MeaningRule, Meanings, NamedGroup, PartFilter
from anatome.scenes.change_report import ChangeFacts, change_schema
from anatome.scenes.check_report import CheckFacts, check_schema
from anatome.scenes.meaning_edits import write_meanings
from anatome.scenes.scene_list import SceneListFacts, scene_list_schema
from anatome.scenes.storage import load_project
from anatome.words import plain_type
from helpers import close_to, svg_polygons


@pytest.fixture(autouse=True)
def few_samples(monkeypatch: pytest.MonkeyPatch) -> None:
    """What is in a picture shows in few samples too; how fine it is is judged in tests/render."""
    monkeypatch.setattr("anatome.render.pictures.EXPORT_SAMPLES", 2)


CALM = np.round(np.array(first_look().poche) * 255)
"""The fill of what new projects begin with."""


def program(*words: object, cwd: Path | None = None) -> subprocess.CompletedProcess[str]:
    """As a program of its own."""
    environment = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY")}
    return subprocess.run(
        [sys.executable, "-m", "anatome", *map(str, words)], capture_output=True, text=True, cwd=cwd, env=environment, timeout=240
    )


def run(*words: object, cwd: Path | None = None) -> subprocess.CompletedProcess[str]:
    """The same within this process, which has all libraries loaded already."""
    out, err = io.StringIO(), io.StringIO()
    with pytest.MonkeyPatch.context() as patch, redirect_stdout(out), redirect_stderr(err):
        patch.delenv("DISPLAY", raising=False)
        if cwd is not None:
            patch.chdir(cwd)
        try:
            status = main([str(word) for word in words])
        except SystemExit as end:  # as options nobody knows end it
            status = int(end.code or 0)
    return subprocess.CompletedProcess(list(words), status, out.getvalue(), err.getvalue())


def test_info(boathouse_ifc: Path) -> None:
    done = program("info", boathouse_ifc, "--json")
    facts = json.loads(done.stdout)
    assert done.returncode == 0 and facts["elements"] == sum(facts["types"].values()) > 600
    assert facts["triangles"] > 40_000 and facts["failed"] == [] and facts["unit"] == {"name": "metre", "metres": 1.0, "why": ""}
    assert [s["elevation"] for s in facts["storeys"]] == pytest.approx([-1.2, 0, 3.4, 6.4])
    assert np.array(facts["bounds"]["max"]) == pytest.approx([46, 38, 11.15], abs=0.01)
    assert "Ground floor" in run("info", boathouse_ifc).stdout


def test_a_project_of_a_model_without_meaning(blocks: Path, tmp_path: Path) -> None:
    """Rules from a file and guesses; the model stays where it is, beside the project by its name alone."""
    rules = Meanings(
        rules=(MeaningRule(id="r", who=PartFilter(), gives=Meaning(material="Clay", layer="All")),),
        groups=(NamedGroup(name="Every part", who=PartFilter()),),
    )
    write_meanings(rules, tmp_path / "r.meaning.json")
    model = tmp_path / blocks.name
    model.write_bytes(blocks.read_bytes())
    done = run("new", model, "--rules", tmp_path / "r.meaning.json", "--guess", "--out", tmp_path / "p.anatome")
    assert "parts" in done.stdout
    opened = open_project(tmp_path / "p.anatome")
    assert opened.stored.project.model.path == model.name
    assert {(e.material, e.layer, e.also) for e in opened.building.elements} == {("Clay", "All", ("Every part",))}
    for words, said in (
        (("new", model, "--out", tmp_path / "p.txt"), "ends with .anatome"),
        (("new", tmp_path / "p.anatome", "--out", tmp_path / "q.anatome"), "project already"),
        (("new", model, "--rules", model, "--out", tmp_path / "q.anatome"), "meaning"),
    ):
        failed = program(*words)
        assert failed.returncode == 2 and said in failed.stderr and not (tmp_path / "q.anatome").exists()


def test_section_as_json_and_svg_agree(boathouse_ifc: Path, tmp_path: Path) -> None:
    drawing = tmp_path / "cut.svg"
    done = run("section", boathouse_ifc, "--plane", "14,6.2,3,0,-1,0", "--json", "-", "--svg", drawing, "--scale", "50")
    assert done.returncode == 0, done.stderr
    whole = json.loads(done.stdout)
    TypeAdapter(CutFacts).validate_python(whole)
    (facts,) = whole["faces"]
    assert facts["open_outlines"] == [] and 0 < whole["seconds"] < 5 and whole["total_area"] == facts["total_area"]
    assert facts["total_area"] == pytest.approx(sum(e["area"] for e in facts["elements"]), rel=1e-12)
    shapes = svg_polygons(drawing)
    assert len(shapes) == len(facts["elements"]) > 50
    for element in facts["elements"]:
        points = np.array([p for polygon in element["polygons"] for ring in polygon for p in ring])
        assert points[:, 1] == pytest.approx(6.2, abs=1e-9)
        flat = [[[(x, z) for x, _, z in ring] for ring in polygon] for polygon in element["polygons"]]
        assert sum(shapely.Polygon(p[0], p[1:]).area for p in flat) == pytest.approx(element["area"], rel=1e-9)
        on_paper = shapes[f"{plain_type(element['type'])}/{element['id']}"].area
        assert on_paper * (50 / 1000) ** 2 == pytest.approx(element["area"], rel=1e-5, abs=1e-9)
    root = etree.parse(str(drawing)).getroot()
    assert root.get("width").endswith("mm") and root.get("viewBox").split()[2] == root.get("width")[:-2]
    layers = {g.get("id") for g in root.iterfind("{*}g")}
    assert layers - {"Between parts", "Outline of the cut"} == {plain_type(e["type"]) for e in facts["elements"]}
    classes = {name for g in root.iterfind("{*}g") for name in g.get("data-classes", "").split()}
    assert classes == {e["type"] for e in facts["elements"]}


def test_section_of_a_cube_removes_the_side_the_normal_points_to(tmp_path: Path) -> None:
    path = tmp_path / "cube.stl"
    cube = trimesh.creation.box((2, 2, 2))
    cube.export(str(path))
    found = json.loads(run("section", path, "--plane", "0,0,1,0,0,1", "--json", "-", "--unit", "metre").stdout)
    assert found["total_area"] == pytest.approx(4.0)  # the plane lies in the upper face; what is below is kept
    found = json.loads(run("section", path, "--plane", "0,0,1,0,0,-1", "--json", "-", "--unit", "metre").stdout)
    assert found["total_area"] == 0 and found["faces"] == []


@pytest.mark.parametrize(
    "view", [["square-on"], ["square-on", "--perspective", "25"], ["cavalier"], ["elevation-oblique-front-right:30:0.5"]], ids=str
)
def test_a_picture_at_a_scale_measures_true(tmp_path: Path, view: list[str]) -> None:
    """A wall 3.2 m wide and 2.5 m high, cut along, on paper at 1:20: 160 × 125 mm, whichever way it is drawn."""
    path, out = tmp_path / "block.stl", tmp_path / "block.png"
    trimesh.creation.box((3.2, 2.0, 2.5)).export(str(path))
    # Cut in the middle, where an oblique drawing has its true plane too.
    words = ["--cut", "plane:0,0,0,0,-1,0", "--view", *view, "--scale", "20", "--dpi", "180", "--unit", "metre", "--up", "z"]
    done = run("picture", path, *words, "--out", out)
    assert done.returncode == 0, done.stderr
    with Image.open(out) as picture:
        dpi, pixels = picture.info["dpi"], np.array(picture)
        assert done.stdout.startswith(f"{picture.width} × {picture.height}, 180 dpi, 1:20")
    assert dpi == pytest.approx((180, 180), abs=0.02)
    filled = close_to(pixels, CALM)
    # Its outline is drawn over the outermost part of the fill.
    width, height = (np.count_nonzero(along > along.max() / 2) / 180 * 25.4 for along in (filled.sum(axis=0), filled.sum(axis=1)))
    assert width == pytest.approx(160.0, abs=0.8) and height == pytest.approx(125.0, abs=0.8)


def test_pictures_of_models_and_projects_in_one_call(boathouse_ifc: Path, tmp_path: Path) -> None:
    out = tmp_path / "one.png"
    box = ["--cut", "box:24.5,2,6.5,13.5,8.5,12,0,carve", "--cut", "plane:0,0,9,0,0,1", "--all-but", "IfcFurniture,IfcRailing"]
    shots = {
        "carved": [boathouse_ifc, *box, "--view", "dimetric-front-right"],
        "below": [boathouse_ifc, *box, "--view", "plan-oblique:30", "--worms-eye", "--ground", "transparent"],
        "scene": [PROJECT, "--scene", "Long section", "--view", "square-on", "--perspective", "30"],
        "stage": [PROJECT],
        "whole": [boathouse_ifc, "--view", "isometric-front-left"],
        "apart": [boathouse_ifc, "--view", "isometric-front-left", "--explode", "5"],
    }
    seen: dict[str, np.ndarray] = {}
    for name, words in shots.items():
        done = run("picture", *words, "--size", "300x200", "--out", out)
        assert done.returncode == 0, done.stderr
        with Image.open(out) as picture:
            assert picture.size == (300, 200) and (picture.mode == "RGBA") == (name == "below")
            seen[name] = np.array(picture.convert("RGB")).astype(int)
    assert all(np.ptp(picture) > 120 for picture in seen.values())
    assert (np.abs(seen["carved"] - seen["below"]).max(axis=2) > 12).mean() > 0.2
    assert close_to(seen["scene"].astype(np.uint8), CALM).mean() > 0.012
    # The roof stands higher over the same ground, so all of it is drawn smaller.
    assert (np.abs(seen["whole"] - seen["apart"]).max(axis=2) > 12).mean() > 0.15
    path = tmp_path / "block.stl"
    trimesh.creation.box((3.2, 2.0, 2.5)).export(str(path))
    done = run("picture", path, "--explode", "2", "--unit", "metre", "--up", "z", "--out", out)
    assert done.returncode == 2 and "nothing to draw apart" in done.stderr


def test_suggestions_without_a_window(tmp_path: Path) -> None:
    done = run("suggest", PROJECT, "--show", "Clubroom", "--json", "-", "--out", tmp_path / "ideas", "--size", "240x160")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    found = told["suggestions"]
    assert told["of"] == "Clubroom" and len(found) == 8 and found[0]["parts"]["seen"] > 0.8
    assert all(s["words"].startswith("Shows ") and s["cuts"] and s["camera"]["eye"] for s in found)
    names = sorted(path.name for path in (tmp_path / "ideas").iterdir())
    assert len(names) == 8 and names[0].startswith(f"01 {found[0]['title']}")
    with Image.open(tmp_path / "ideas" / names[0]) as picture:
        assert picture.size == (240, 160) and np.ptp(np.array(picture.convert("L"))) > 120
    # What is suggested is what anatome picture takes too, and in text each is a line.
    done = run("suggest", PROJECT, "--show", "Clubroom")
    assert done.stdout.splitlines()[0] == f"1. {found[0]['title']} ({found[0]['score']:.2f}): {found[0]['words']}"
    done = run("suggest", PROJECT, "--show", "ballroom")
    assert done.returncode == 2 and "Nothing that is shown is called “ballroom”" in done.stderr


def test_a_film_of_one_move_in_parts_and_as_a_file(tmp_path: Path) -> None:
    """Two machines draw the frames of a turn into one folder; as a film it is written and leaves nothing beside it."""
    move = ("film", PROJECT, "--scene", "Long section", "--move", "turn", "--degrees", "30", "--seconds", "0.8", "--fps", "5")
    common = (*move, "--size", "240x160", "--samples", "1")
    for part, count in (("1/2", 2), ("2/2", 2)):
        done = run(*common, "--shard", part, "--out", tmp_path / "frames")
        assert done.returncode == 0 and f"{count} of 4 frames, 0.8 s at 5 a second" in done.stdout, done.stderr
    assert sorted(p.name for p in (tmp_path / "frames").iterdir()) == [
        "0001.png",
        "0002.png",
        "0003.png",
        "0004.png",
        "film.json",
    ]
    done = run(*common, "--out", tmp_path / "frames")
    assert done.returncode == 0 and "4 of 4 frames are there already" in done.stdout
    done = run(*common, "--out", tmp_path / "turn.mp4")
    assert done.returncode == 0 and "turn.mp4: 4 frames, 0.8 s, 240 × 160" in done.stdout, done.stderr
    assert [p.name for p in tmp_path.iterdir() if p.name.startswith("turn")] == ["turn.mp4"]
    for words, why in (
        ((*move[:4], "--out", tmp_path / "a.mp4"), "Say what moves"),
        (("film", PROJECT, "--film", "None of it", "--out", tmp_path / "a.mp4"), "There is no film"),
        ((*move[:6], "--out", tmp_path / "a.avi"), "ends with .mp4"),
        ((*move[:6], "--shard", "1/2", "--out", tmp_path / "a.mp4"), "frames in a folder"),
    ):
        done = run(*words)
        assert done.returncode == 2 and why in done.stderr, done.stderr


@pytest.mark.long
def test_export_one_and_all(tmp_path: Path) -> None:
    one = tmp_path / "long.png"
    done = run("export", PROJECT, "--scene", "Long section", "--size", "600x400", "--out", one)
    assert done.returncode == 0, done.stderr
    with Image.open(one) as picture:
        assert picture.size == (600, 400) and picture.mode == "RGBA" and picture.getextrema()[3] == (0, 255)
    done = run("export", PROJECT, "--all", "--size", "240", "--ground", "white", "--out", tmp_path / "all")
    assert done.returncode == 0, done.stderr
    names = sorted(p.name for p in (tmp_path / "all").iterdir())
    assert len(names) == 20 and names[1] == "02 Long section.png"
    with Image.open(tmp_path / "all" / names[0]) as picture:
        assert picture.size == (240, 160) and picture.mode == "RGB"


def test_notes_sheets_and_layers_from_the_command_line(tmp_path: Path) -> None:
    """A scene with its notes and without; a sheet as PDF and picture; layers of a solid."""
    pictures = []
    for flag in ("--notes", "--no-notes"):
        out = tmp_path / f"{flag}.png"
        done = run(
            "export", PROJECT, "--scene", "Long section, dressed", "--size", "900", "--ground", "white", flag, "--out", out
        )
        assert done.returncode == 0, done.stderr
        pictures.append(np.array(Image.open(out).convert("RGB")).astype(int))
    assert 0.005 < (np.abs(pictures[0] - pictures[1]).max(axis=2) > 60).mean() < 0.1
    done = run("sheets", PROJECT, "--sheet", "A-03", "--dpi", "40", "--pdf", tmp_path / "a.pdf", "--png", tmp_path / "png")
    assert done.returncode == 0 and "One cut in four looks: 4 scenes" in done.stdout, done.stderr
    with pikepdf.open(tmp_path / "a.pdf") as document:
        assert [float(v) * 25.4 / 72 for v in document.pages[0].MediaBox[2:]] == pytest.approx([420, 297], abs=0.01)
    with Image.open(tmp_path / "png" / "A-03 One cut in four looks.png") as picture:
        assert picture.size == (661, 468)
    trimesh.creation.icosphere(radius=20.0).export(tmp_path / "ball.stl")
    done = run(
        "layers", tmp_path / "ball.stl", "--scale", "400", "--thickness", "5", "--svg", tmp_path / "card", "--unit", "metre"
    )
    assert done.returncode == 0 and "20 layers on" in done.stdout, done.stderr


def test_export_of_passes_layers_and_many_looks(tmp_path: Path) -> None:
    """Each picture in each look, by a pattern of names; passes and layers of the same size; one machine's share of a list."""
    out = tmp_path / "out"
    scene = ("export", PROJECT, "--scene", "Long section", "--size", "300", "--dpi", "200")
    done = run(*scene, "--look", "Night blue", "--look", "White model", "--passes", "colour,depth,elements", "--out", out)
    assert done.returncode == 0, done.stderr
    stems = [f"01 Long section, {look}" for look in ("Night blue", "White model")]
    ends = ("colour.png", "depth.png", "elements.png", "passes.json")
    assert sorted(p.name for p in out.iterdir()) == sorted(f"{stem}, {end}" for stem in stems for end in ends)
    with Image.open(out / f"{stems[0]}, depth.png") as depth, Image.open(out / f"{stems[0]}, colour.png") as colour:
        assert depth.size == colour.size == (300, 200) and depth.getextrema()[1] == 65535 and depth.getextrema()[0] == 0
        assert colour.info["dpi"] == pytest.approx((200, 200), abs=0.1)
    done = run(*scene, "--out", tmp_path / "a.tif", "--ora", tmp_path / "a.ora")
    assert done.returncode == 0, done.stderr
    with Image.open(tmp_path / "a.tif") as picture:
        assert picture.size == (300, 200) and picture.info["dpi"] == (200, 200)
    with zipfile.ZipFile(tmp_path / "a.ora") as file:
        assert {"mimetype", "stack.xml", "mergedimage.png", "Thumbnails/thumbnail.png"} <= set(file.namelist())
    shown = []
    for samples in ("3", "0"):
        done = run(*scene, "--still", samples, "--ground", "white", "--out", tmp_path / f"{samples}.png")
        assert done.returncode == 0, done.stderr
        shown.append(np.array(Image.open(tmp_path / f"{samples}.png").convert("L"), float))
    assert 2 < np.abs(shown[0] - shown[1]).mean() < 40
    pattern = ("--all", "--size", "60", "--name", "{scene} of {project}", "--shard", "2/6", "--out", out)
    done = run("export", PROJECT, *pattern)
    assert done.returncode == 0, done.stderr
    assert (out / "Long section of Boathouse.png").exists() and done.stdout.count("\n") == 4


@pytest.mark.long
def test_linework_of_scenes_and_of_models(blocks: Path, tmp_path: Path) -> None:
    """A scene on the paper it takes; two blocks of which one hides a part of the other, at a scale that is measured."""
    done = run(
        "linework", PROJECT, "--scene", "Perspective section, 1:50", "--pdf", tmp_path / "a.pdf", "--dxf", tmp_path / "a.dxf"
    )
    assert done.returncode == 0 and "420 × 297 mm" in done.stdout, done.stderr
    assert (tmp_path / "a.pdf").read_bytes()[:5] == b"%PDF-" and (tmp_path / "a.dxf").stat().st_size > 10_000
    done = run("linework", PROJECT, "--scene", "Long section", "--picture", "--no-beyond", "--svg", tmp_path / "b.svg")
    assert done.returncode == 0 and b"data:image/png" in (tmp_path / "b.svg").read_bytes(), done.stderr
    done = run("linework", blocks, "--view", "front", "--scale", "20", "--svg", tmp_path / "c.svg")
    assert done.returncode == 0, done.stderr
    numbers = re.findall(r"[ML]([\d.]+),([\d.]+)", (tmp_path / "c.svg").read_text())
    across = np.ptp(np.array(numbers, float)[:, 0])
    assert across == pytest.approx(np.ptp(trimesh.load(blocks).bounds[:, 0]) * 50, abs=0.01)


def test_section_of_a_project_by_its_scenes_and_by_planes(tmp_path: Path) -> None:
    """A scene's cuts with what it hides; the same plane given by hand cuts what is hidden there too."""
    by_scene = json.loads(run("section", PROJECT, "--scene", "Long section", "--json", "-", "--svg", tmp_path / "a.svg").stdout)
    plane = by_scene["faces"][0]["plane"]
    words = ",".join(map(str, (*plane["point"], *plane["normal"])))
    by_hand = json.loads(run("section", PROJECT, "--plane", words, "--json", "-").stdout)
    ids = [{e["id"] for face in found["faces"] for e in face["elements"]} for found in (by_scene, by_hand)]
    assert len(ids[0]) > 50 and ids[0] < ids[1]  # the starting rule keeps furniture whole
    assert by_scene["faces"][0]["cut"] == "along" and svg_polygons(tmp_path / "a.svg")
    assert json.loads((Path(__file__).parents[1] / "docs" / "section.schema.json").read_text()) == facts_schema()


def test_check_names_what_is_no_sound_solid(boathouse_ifc: Path, tmp_path: Path) -> None:
    """Of a model without meaning too, with the storeys that can be guessed; of a sound one it says that all is well."""
    scene = trimesh.Scene()
    for name, body in (("tub", trimesh.creation.box((2, 3, 1))), ("sound", trimesh.creation.box((1, 1, 1)))):
        if name == "tub":
            body.update_faces(body.face_normals[:, 2] < 0.5)
        scene.add_geometry(body, node_name=name, geom_name=name)
    scene.export(str(tmp_path / "m.glb"))
    facts = TypeAdapter(CheckFacts).validate_json(run("check", tmp_path / "m.glb", "--up", "z", "--json", "-").stdout)
    assert [part["name"] for part in facts["open"]] == ["tub"] and "10.00 m" in facts["open"][0]["why"]
    assert facts["size"] == pytest.approx([2, 3, 1]) and facts["inside_out"] == facts["doubled"] == []
    assert "tub: 4 edges with one face alone" in run("check", tmp_path / "m.glb", "--up", "z").stdout
    said = run("check", boathouse_ifc).stdout
    assert "Every part is a sound solid." in said and "Upper floor +3.40" in said
    assert json.loads((Path(__file__).parents[1] / "docs" / "check.schema.json").read_text()) == check_schema()


def test_an_oblique_is_true_to_a_cut_across_a_turned_wing(tmp_path: Path) -> None:
    """Drawn at a scale, the cut face is the same in oblique and flat section, pixel by pixel, and as large as it is in mm."""
    way = np.radians(27.0)
    turn = np.array([[np.cos(way), -np.sin(way), 0, 0], [np.sin(way), np.cos(way), 0, 0], [0, 0, 1, 0], [0, 0, 0, 1]])
    wing = trimesh.util.concatenate(
        [trimesh.creation.box((8, 0.4, 3), trimesh.transformations.translation_matrix((0, y, 1.5))) for y in (-2, 2)]
        + [trimesh.creation.box((8, 4.4, 0.3), trimesh.transformations.translation_matrix((0, 0, 3.15)))]
    )
    wing.apply_transform(turn).export(tmp_path / "wing.stl")
    normal = f"{np.cos(way):.9f},{np.sin(way):.9f},0"
    common = (
        "--cut",
        f"plane:0,0,0,{normal}",
        "--up",
        "z",
        "--unit",
        "metre",
        "--scale",
        "50",
        "--dpi",
        "150",
        "--look",
        "White model",
    )
    faces, areas, measured = {}, {}, {}
    for name in ("square-on", "cabinet@A", "elevation-oblique-front-right:30:0.7@A"):
        done = run("picture", tmp_path / "wing.stl", *common, "--view", name, "--out", tmp_path / "p.png")
        assert done.returncode == 0, done.stderr
        with Image.open(tmp_path / "p.png") as picture:
            dark = binary_opening(np.asarray(picture.convert("L")).astype(int) < 90, iterations=3)  # no thin lines
        rows, columns = np.flatnonzero(dark.any(axis=1)), np.flatnonzero(dark.any(axis=0))
        areas[name] = dark.sum() * (50 * 25.4 / 150 / 1000) ** 2
        faces[name] = dark[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
        on_paper = [*common[: common.index("--dpi")], "--view", name, "--svg", tmp_path / "p.svg"]
        drawn = run("linework", tmp_path / "wing.stl", *on_paper)
        assert drawn.returncode == 0, drawn.stderr
        measured[name] = sum(shape.area for shape in svg_polygons(tmp_path / "p.svg").values()) * (50 / 1000) ** 2
    true = 2 * 0.4 * 3 + 4.4 * 0.3
    assert measured == pytest.approx(dict.fromkeys(measured, true), rel=1e-3)
    flat, outlined = faces.pop("square-on"), areas.pop("square-on")
    assert true < outlined < 1.12 * true  # its outline lies half outside
    for name, face in faces.items():
        assert areas[name] == pytest.approx(outlined, rel=0.02), name
        high, wide = (min(a, b) for a, b in zip(face.shape, flat.shape))
        assert max(abs(a - b) for a, b in zip(face.shape, flat.shape)) <= 2
        assert (face[:high, :wide] == flat[:high, :wide]).mean() > 0.97, name
    wrong = run("picture", tmp_path / "wing.stl", *common, "--view", "cabinet@Q", "--out", tmp_path / "q.png")
    assert wrong.returncode == 2 and "no cut “Q”" in wrong.stderr
    boxed = ("--cut", "box:0,0,1.5,6,6,2,27", "--up", "z", "--unit", "metre", "--size", "90x60", "--out", tmp_path / "q.png")
    assert run("picture", tmp_path / "wing.stl", *boxed, "--view", "cavalier@A.front").returncode == 0
    assert "or a level one" in run("picture", tmp_path / "wing.stl", *boxed, "--view", "cavalier@A.top").stderr


def test_the_scenes_of_a_project_are_listed() -> None:
    facts = TypeAdapter(SceneListFacts).validate_json(run("scenes", PROJECT, "--json", "-").stdout)
    project = load_project(PROJECT).project
    assert [scene["id"] for scene in facts["scenes"]] == [scene.id for scene in project.scenes]
    held = next(scene for scene in facts["scenes"] if scene["name"] == "Perspective section, 1:50")
    assert held["scale"] == "1:50" and held["cuts"][0]["kind"] == "Section" and held["drawn"] == "one-point perspective"
    flat = next(scene for scene in facts["scenes"] if scene["name"] == "Ground floor plan")
    assert flat["drawn"] == "flat section" and flat["sheets"] and flat["camera"]["height"] > 0 and flat["camera"]["field"] is None
    said = run("scenes", PROJECT).stdout.splitlines()
    assert len(said) == len(project.scenes) and said[1].startswith("Long section: Section A, one-point perspective")
    assert json.loads((Path(__file__).parents[1] / "docs" / "scenes.schema.json").read_text()) == scene_list_schema()


def test_a_project_takes_over_the_next_state_of_its_model(boathouse_ifc: Path, tmp_path: Path) -> None:
    """What was done to the file is in the report, and a project of the file that has it now is written; it keeps its scenes."""
    model = ifcopenshell.open(str(boathouse_ifc))
    moved, lost = model.by_type("IfcFurniture")[:2]
    here = ifcopenshell.util.placement.get_local_placement(moved.ObjectPlacement)
    here[:3, 3] += [0.25, 0.0, 0.0]
    ifcopenshell.api.geometry.edit_object_placement(model, product=moved, matrix=here)
    gone = lost.GlobalId
    ifcopenshell.api.root.remove_product(model, product=model.by_guid(gone))
    storey = model.by_type("IfcBuildingStorey")[1]
    was, storey.GlobalId = storey.GlobalId, ifcopenshell.guid.new()
    door = model.by_type("IfcDoor")[0]
    door.Name = "Door with another name"
    model.write(str(tmp_path / "next.ifc"))
    done = run("relink", PROJECT, tmp_path / "next.ifc", "--out", tmp_path / "p.anatome", "--report", tmp_path / "r.json")
    assert done.returncode == 0, done.stderr
    facts = TypeAdapter(ChangeFacts).validate_json((tmp_path / "r.json").read_text())
    assert (facts["new"], facts["gone"], facts["reshaped"], facts["restyled"]) == ([], [gone], [], [])
    assert facts["moved"] == [moved.GlobalId] and facts["renamed"] == [door.GlobalId]
    assert facts["shifts"][moved.GlobalId] == pytest.approx([0.25, 0, 0]) and facts["ids"] == {was: storey.GlobalId}
    opened = open_project(tmp_path / "p.anatome")
    before = load_project(PROJECT)
    assert [s.id for s in opened.stored.project.scenes] == [s.id for s in before.project.scenes]
    assert gone not in opened.model.index_of and opened.stored.project.model.embedded
    told = {scene["id"] for scene in facts["scenes"]}
    assert told and set(opened.stored.thumbnails) == set(before.thumbnails) - told
    assert "1 gone, 1 moved, 1 renamed" in done.stdout
    assert json.loads((Path(__file__).parents[1] / "docs" / "relink.schema.json").read_text()) == change_schema()
    for words, reason in (
        (("relink", PROJECT, PROJECT, "--out", tmp_path / "q.anatome"), "that is a project"),
        (("relink", PROJECT, tmp_path / "next.ifc", "--out", tmp_path / "q.txt"), "ends with .anatome"),
        (("relink", PROJECT, tmp_path / "no.ifc", "--out", tmp_path / "q.anatome"), "There is no file"),
    ):
        bad = run(*words)
        assert bad.returncode == 2 and reason in bad.stderr and not (tmp_path / "q.anatome").exists()


def test_the_usage_comes_at_once() -> None:
    """What needs no geometry loads none of the large libraries."""
    words = "import sys; from anatome.cli import main; main(['section', '--nothing']); print(sorted(set(sys.modules) & set(%r)))"
    large = ["numpy", "scipy", "shapely", "trimesh", "ifcopenshell", "pydantic", "PySide6"]
    done = subprocess.run([sys.executable, "-c", words % large], capture_output=True, text=True, timeout=60)
    assert done.stdout.strip() == "[]" and "See anatome section --help" in done.stderr


@pytest.fixture
def blocks(tmp_path: Path) -> Path:
    """A 4 m cube and, beside it, a 2 m one, as two named parts of a GLB."""
    scene = trimesh.Scene()
    for name, size, x in (("large", 4.0, 0.0), ("small", 2.0, 5.0)):
        made = trimesh.creation.box((size, size, size))
        made.apply_translation((x, 0, 0))
        scene.add_geometry(made, node_name=name, geom_name=name)
    path = tmp_path / "blocks.glb"
    scene.export(str(path))
    return path


def areas(facts: dict) -> list[float]:
    return sorted(round(f["filled_area"], 6) for f in facts["faces"])


@pytest.mark.parametrize("angle", [0, 30])
def test_section_by_a_box(blocks: Path, angle: int) -> None:
    """A 1 × 2 × 3 m box in the large cube: its six sides are what is cut, kept or carved."""
    for extra in ([], ["--carve"]):
        done = run("section", blocks, "--box", f"0,0,0,1,2,3,{angle}", *extra, "--json", "-")
        facts = json.loads(done.stdout)
        assert areas(facts) == [2, 2, 3, 3, 6, 6] and facts["filled_area"] == pytest.approx(22)
        assert {f["face"] for f in facts["faces"]} == {"front", "back", "left", "right", "top", "bottom"}


def test_section_with_reach_as_csv(boathouse_ifc: Path, tmp_path: Path) -> None:
    plane = ["--plane", "14,6.2,3,0,-1,0"]
    rows: dict[str, set[str]] = {}
    for name, words in (("all", []), ("only", ["--only", "ifcwall,IfcSlab"]), ("but", ["--all-but", "IfcWall,IfcSlab"])):
        target = tmp_path / f"{name}.csv"
        done = run("section", boathouse_ifc, *plane, *words, "--csv", target)
        assert done.returncode == 0, done.stderr
        rows[name] = {line.split(",")[1] for line in target.read_text().splitlines()[1:]}
        kinds = {t for t in ("IfcWall", "IfcSlab") if t in target.read_text()}
        assert bool(kinds) is (name != "but")
    assert rows["only"] | rows["but"] == rows["all"] and not rows["only"] & rows["but"]


def test_section_as_a_series(blocks: Path, tmp_path: Path) -> None:
    """Five level cuts, from 1.9 m over the middle down: 16 m² each, 20 with the small cube, whose top one of them lies in."""
    files = [tmp_path / name for name in ("s.json", "s.svg", "s.dxf", "s.csv")]
    done = run(
        "section", blocks, "--plane", "0,0,1.9,0,0,1", "--series", "5,0.9", "--scale", "100",
        "--json", files[0], "--svg", files[1], "--dxf", files[2], "--csv", files[3],
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    facts = json.loads(files[0].read_text())
    assert facts["areas"] == pytest.approx([16, 20, 20, 20, 16])
    TypeAdapter(CutFacts).validate_python(facts)
    assert [s["face"] for s in facts["faces"]] == ["S1", "S2", "S3", "S4", "S5"]
    root = etree.parse(str(files[1])).getroot()
    assert [g.get("id") for g in root.iterfind("{*}g")] == ["S1", "S2", "S3", "S4", "S5"]
    assert not ezdxf.readfile(files[2]).audit().has_errors
    assert len(files[3].read_text().splitlines()) == 1 + 8


def test_export_of_the_model_as_cut(tmp_path: Path) -> None:
    for scene, suffix in (("Corner carved out", "glb"), ("Stepped section", "stl")):
        target = tmp_path / f"kept.{suffix}"
        done = run("export", PROJECT, "--scene", scene, f"--{suffix}", target)
        assert done.returncode == 0, done.stderr
        assert "parts in" in done.stdout
        loaded = trimesh.load(str(target))
        parts = list(loaded.geometry.values()) if suffix == "glb" else [loaded]
        if suffix == "glb":
            closed = [p.is_watertight for p in parts]
            assert len(parts) > 300 and np.mean(closed) > 0.85
        assert sum(p.area for p in parts) > 500


BAD: dict[str, list[str]] = {
    "no file": ["info", "nowhere.ifc"],
    "a folder": ["info", "."],
    "no plane": ["section", "cube.stl", "--json", "-"],
    "five numbers": ["section", "cube.stl", "--plane", "0,0,1,0,0", "--json", "-"],
    "words": ["section", "cube.stl", "--plane", "a,b,c,d,e,f", "--json", "-"],
    "no normal": ["section", "cube.stl", "--plane", "0,0,0,0,0,0", "--json", "-"],
    "infinite": ["section", "cube.stl", "--plane", "inf,0,0,0,0,1", "--json", "-"],
    "no output": ["section", "cube.stl", "--plane", "0,0,0,0,0,1"],
    "scale of nothing": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--svg", "a.svg", "--scale", "0"],
    "box of six": ["section", "cube.stl", "--box", "0,0,0,1", "--json", "-"],
    "box of nothing": ["section", "cube.stl", "--box", "0,0,0,1,0,1,0", "--json", "-"],
    "carve a plane": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--carve", "--json", "-"],
    "no such type": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--only", "IfcRoof", "--json", "-"],
    "both reaches": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--only", "Part", "--all-but", "Part", "--json", "-"],
    "series of words": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--series", "many", "--json", "-"],
    "series of none": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--series", "0,1", "--json", "-"],
    "series of a box": ["section", "cube.stl", "--box", "0,0,0,1,1,1,0", "--series", "3,1", "--json", "-"],
    "nothing kept": ["export", str(PROJECT), "--all", "--glb", "a.glb"],
    "cuts nothing": ["section", "cube.stl", "--plane", "0,0,9,0,0,1", "--svg", "a.svg"],
    "nowhere to write": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--json", "no/such/place.json"],
    "damaged project": ["export", "broken.anatome", "--all", "--out", "out"],
    "no such scene": ["export", str(PROJECT), "--scene", "Attic", "--out", "a.png"],
    "which scene": ["export", str(PROJECT), "--out", "a.png"],
    "size": ["export", str(PROJECT), "--all", "--size", "big", "--out", "out"],
    "size of nothing": ["export", str(PROJECT), "--all", "--size", "0x10", "--out", "out"],
    "series without end": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--series", "nan,1", "--json", "-"],
    "only nothing": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--only", "", "--json", "-"],
    "scale of all": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--svg", "a.svg", "--scale", "1e300"],
    "long name": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--json", "n" * 300],
    "a pipe": ["section", "cube.stl", "--plane", "0,0,0,0,0,1", "--json", "pipe"],
    "scene of a model": ["section", "cube.stl", "--scene", "Long section", "--json", "-"],
    "no such scene to cut": ["section", str(PROJECT), "--scene", "Attic", "--json", "-"],
    "a thread": ["export", str(PROJECT), "--scene", "Long section", "--size", "1x30000", "--out", "a.png"],
    "no such pass": ["export", str(PROJECT), "--scene", "Long section", "--passes", "fog", "--out", "out"],
    "passes nowhere": ["export", str(PROJECT), "--scene", "Long section", "--passes", "depth", "--ora", "a.ora"],
    "a pattern of nothing": ["export", str(PROJECT), "--all", "--name", "{client}", "--out", "out"],
    "less than no samples": ["export", str(PROJECT), "--scene", "Long section", "--still", "-3", "--out", "a.png"],
    "lines nowhere": ["linework", str(PROJECT), "--scene", "Long section"],
    "a picture in a DXF": ["linework", str(PROJECT), "--scene", "Long section", "--picture", "--dxf", "a.dxf"],
    "lines of nothing": ["linework", "cube.stl", "--svg", "a.svg", "--scale", "0"],
    "no such sheet": ["sheets", str(PROJECT), "--sheet", "Attic", "--pdf", "a.pdf"],
    "sheets nowhere": ["sheets", str(PROJECT)],
    "sheets of too many dots": ["sheets", str(PROJECT), "--pdf", "a.pdf", "--dpi", "1e9"],
    "layers nowhere": ["layers", "cube.stl"],
    "layers across nothing": ["layers", "cube.stl", "--svg", "out", "--across", "0,0,0"],
    "layers of no sheet": ["layers", "cube.stl", "--svg", "out", "--sheet", "large"],
    "layers as thick as air": ["layers", "cube.stl", "--svg", "out", "--thickness", "0"],
    "a part too many": ["export", str(PROJECT), "--all", "--shard", "5/4", "--out", "out"],
    "unknown option": ["info", "cube.stl", "--colour"],
    "no display": ["cube.stl"],
    "view of nothing": ["picture", "cube.stl", "--out", "a.png", "--view", "sideways"],
    "view past the pole": ["picture", "cube.stl", "--out", "a.png", "--view", "plan-oblique:120"],
    "two ratios": ["picture", "cube.stl", "--out", "a.png", "--view", "cavalier:45:0.5"],
    "square on to nothing": ["picture", "cube.stl", "--out", "a.png", "--view", "square-on"],
    "a cut of no kind": ["picture", "cube.stl", "--out", "a.png", "--cut", "sphere:0,0,0,1"],
    "scale without dots": ["picture", "cube.stl", "--out", "a.png", "--scale", "50"],
    "a sheet of a kilometre": ["picture", "cube.stl", "--out", "a.png", "--scale", "0.02", "--dpi", "1200"],
    "wide of the mark": ["picture", "cube.stl", "--out", "a.png", "--perspective", "170"],
    "from below a side": ["picture", "cube.stl", "--out", "a.png", "--view", "front", "--worms-eye"],
}


@pytest.mark.parametrize("words", BAD.values(), ids=BAD.keys())
def test_bad_input_ends_with_status_2_and_one_line(words: list[str], tmp_path: Path) -> None:
    trimesh.creation.box((2, 2, 2)).export(str(tmp_path / "cube.stl"))
    (tmp_path / "broken.anatome").write_bytes(b"PK\x03\x04 not really")
    os.mkfifo(tmp_path / "pipe")
    done = run(*words, cwd=tmp_path)
    assert done.returncode == 2
    lines = done.stderr.strip().splitlines()
    assert len(lines) == 1 and lines[0].startswith("anatome: ") and "Traceback" not in done.stderr
    assert not (tmp_path / "a.svg").exists() and not (tmp_path / "a.png").exists()


def test_what_cannot_be_written_out_is_told_and_names_steer_no_terminal(tmp_path: Path) -> None:
    path = tmp_path / "\x1b[31mred.stl"
    trimesh.creation.box((2, 2, 2)).export(str(path), file_type="stl")
    done = program("info", path)
    assert done.returncode == 0 and "\x1b" not in done.stdout + done.stderr
    done = program("info", tmp_path / "\x1b[2Jnone.stl")
    assert done.returncode == 2 and "\x1b" not in done.stderr
    with open("/dev/full", "w") as full:
        words = [sys.executable, "-m", "anatome", "section", str(PROJECT), "--scene", "Long section", "--json", "-"]
        done = subprocess.run(words, stdout=full, stderr=subprocess.PIPE, text=True, timeout=240)
    assert done.returncode == 2 and "Traceback" not in done.stderr and len(done.stderr.strip().splitlines()) == 1


def test_a_folder_may_have_a_dot_in_its_name(tmp_path: Path) -> None:
    words = [
        "export",
        PROJECT,
        "--scene",
        "Long section",
        "--passes",
        "depth",
        "--size",
        "60x40",
        "--out",
        tmp_path / "passes.v2",
    ]
    assert run(*words).returncode == 0
    assert (tmp_path / "passes.v2").is_dir() and len(list((tmp_path / "passes.v2").glob("*.png"))) == 1


def test_prisms_from_the_command_line(boathouse_ifc: Path, tmp_path: Path) -> None:
    """What one keeps another one carves: the same faces. A pass with its kind and numbers gives the same as an option."""
    outline = "0.517,3.213,4.014,2.041,16.032,2.041,16.032,6.021,9.017,6.021,9.017,10.039,4.014,10.039"
    areas = []
    for more in ((), ("--carve",)):
        done = run("section", boathouse_ifc, "--prism", outline, *more, "--json", "-", "--svg", tmp_path / "cut.svg")
        assert done.returncode == 0, done.stderr
        areas.append(json.loads(done.stdout)["total_area"])
    assert areas[0] == pytest.approx(areas[1], rel=1e-6) and areas[0] > 0.5
    done = run("section", boathouse_ifc, "--round", "-0.5,9,10,6,3", "--carve", "--csv", "-")
    assert done.returncode == 0 and len(done.stdout.splitlines()) > 20
    pictures = []
    for cut in ("round:-0.5,12,10,6,3,carve", "round:-0.5,12,10,6,3"):
        out = tmp_path / "cut.png"
        done = run("picture", boathouse_ifc, "--cut", cut, "--view", "isometric", "--size", "240x160", "--out", out)
        assert done.returncode == 0, done.stderr
        pictures.append(np.asarray(Image.open(out).convert("RGB")).astype(int))
    white = [(picture == 255).all(axis=2).mean() for picture in pictures]
    assert white[1] > white[0] + 0.4  # of the one nothing is left but a bite, of the other the bite is gone
    for wrong, words in (
        (("--prism", "0,3,1,1,5,1"), "three corners or more"),
        (("--prism", "0,3,0,0,4,4,4,0,0,4"), "must not cross itself"),
        (("--round", "3,0,1,1,2"), "up to a higher one"),
        (("--round", "0,3,1,1"), "centre and radius"),
        (("--plane", "0,0,1,0,0,1", "--carve"), "--box or --prism or --round"),
    ):
        done = run("section", boathouse_ifc, *wrong, "--csv", "-")
        assert done.returncode == 2 and words in done.stderr and "Traceback" not in done.stderr, done.stderr


def test_a_drawing_has_the_same_bytes_in_every_run(blocks: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """In programs of their own, in which sets have another order."""
    found = []
    for seed in ("1", "2"):
        monkeypatch.setenv("PYTHONHASHSEED", seed)
        out = tmp_path / f"{seed}.dxf"
        assert program("section", blocks, "--plane", "0,0,0,0,-1,0", "--dxf", out).returncode == 0
        found.append(out.read_bytes())
    assert found[0] == found[1]
