"""Pictures on surfaces: those a model brings lie where it says, those a look lays on are as large as said."""

from __future__ import annotations

import base64
import io
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image
from test_surfaces_drawn import ACROSS, FLAT, SIZE, picture

from anatome.cuts.pieces import uncut
from anatome.formats.opening import open_model
from anatome.formats.store import building_in, save_building
from anatome.look.look import Look, Picture, Rule
from anatome.look.pictures import read_picture
from anatome.model.building import Building
from anatome.model.joining import joined
from anatome.model.selection import Selection
from anatome.printing.pages import picture_of
from anatome.problems import Problem
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import View
from anatome.view.camera import Camera, standard_view
from helpers import box, made_of

RED, GREEN, BLUE, WHITE = (200, 30, 30), (30, 160, 60), (40, 60, 200), (250, 250, 250)


def quarters() -> Image.Image:
    """Upper left red, upper right green, lower left blue, lower right white."""
    image = Image.new("RGB", (64, 64))
    for at, colour in zip(((0, 0), (32, 0), (0, 32), (32, 32)), (RED, GREEN, BLUE, WHITE)):
        image.paste(colour, (*at, at[0] + 32, at[1] + 32))
    return image


@pytest.fixture
def textured(tmp_path: Path) -> Path:
    """A wall two metres square in x and z with the quarters on it once, written as GLB by another library."""
    corners = np.array([[-1, 0, -1], [1, 0, -1], [1, 0, 1], [-1, 0, 1]], float)
    material = trimesh.visual.material.PBRMaterial(baseColorTexture=quarters())
    visual = trimesh.visual.TextureVisuals(uv=np.array([[0, 0], [1, 0], [1, 1], [0, 1]], float), material=material)
    wall = trimesh.Trimesh(corners, [[0, 1, 2], [0, 2, 3]], visual=visual, process=False)
    # glTF has Y up.
    wall.apply_transform(trimesh.transformations.rotation_matrix(-np.pi / 2, (1, 0, 0)))
    path = tmp_path / "wall.glb"
    trimesh.Scene({"wall": wall}).export(str(path))
    return path


def near(colour: np.ndarray, wanted: tuple[int, int, int]) -> bool:
    """Whether it is that one, calmed as a model\'s own colours are."""
    grey = np.dot(wanted, [0.299, 0.587, 0.114])
    calmed = grey + 0.75 * (np.array(wanted) - grey)
    return bool(np.abs(colour - (calmed + 0.22 * (255 - calmed))).max() < 12)


def corners_of(shown: np.ndarray) -> list[np.ndarray]:
    """The colours half a metre off the middle: upper left, upper right, lower left, lower right."""
    step, middle = round(0.5 * SIZE[0] / ACROSS), SIZE[0] // 2
    return [shown[middle + step * y, middle + step * x] for y, x in ((-1, -1), (-1, 1), (1, -1), (1, 1))]


def test_pictures_of_a_model_lie_where_it_says(textured: Path, tmp_path: Path) -> None:
    building = open_model(textured)
    look = FLAT.model_copy(update={"surfaces": "as modelled"})
    for wall in (building, joined(building, far_box()), stored(building, tmp_path / "kept")):
        seen = corners_of(picture(wall, look))
        assert all(near(colour, wanted) for colour, wanted in zip(seen, (RED, GREEN, BLUE, WHITE)))
    # In other looks it has the mean of its picture, and no picture.
    plain = picture(building, look.model_copy(update={"surfaces": "harmonised"}))
    middle = plain[150:450, 150:450].reshape(-1, 3)
    assert np.ptp(middle, axis=0).max() <= 2 and len(building.textures.images) == 1


def far_box() -> Building:
    return made_of(("far", "IfcBuilding", "", box(40, 40, 0, 41, 41, 1)))


def stored(building: Building, path: Path) -> Building:
    save_building(building, path)
    found = building_in(path.read_bytes())
    assert found is not None
    return found


def test_pictures_laid_on_are_as_large_as_said_on_walls_and_floors(tmp_path: Path) -> None:
    """Half a metre wide on walls two metres off one another in height and turn: a wave of half a metre, by Fourier transform."""
    quarters().save(tmp_path / "tiles.png")
    tiles = read_picture(tmp_path / "tiles.png", 0.5)
    rule = Rule(who=Selection(types=frozenset({"IfcWall"})), picture="tiles")
    look = FLAT.model_copy(update={"surfaces": "white", "pictures": (tiles,), "rules": (rule,)})
    wall = made_of(("a", "IfcWall", "", box(-4, -1, -4, 4, 1, 4)), ("b", "IfcSlab", "", box(-1, -1.2, -0.2, 1, -1.05, 0.2)))
    shown = picture(wall, look)
    rows = shown[40:200, :, 0].mean(axis=0)
    waves = np.abs(np.fft.rfft(rows - rows.mean(), 1 << 14))
    assert (1 << 14) / waves.argmax() * ACROSS / SIZE[0] == pytest.approx(0.5, rel=0.02)
    assert np.abs(shown[300, 300] - 255).max() < 3  # the other part has none
    above = Camera(eye=(0, 0, 30), target=(0, 0, 0), up=(0, 1, 0), projection="parallel", field=20.0)
    assert np.ptp(picture(wall, look, camera=above)[100:300, 100:300, 0]) > 100
    none = picture(wall, look.model_copy(update={"rules": (rule, rule.model_copy(update={"picture": ""}))}))
    assert np.ptp(none[40:200, 40:560]) <= 2
    slanted = standard_view("Axonometric, front left", wall.bounds, 1.0)
    assert np.ptp(picture(wall, look, camera=slanted)) > 100


def test_what_is_no_picture_is_told(tmp_path: Path) -> None:
    (tmp_path / "a.png").write_bytes(b"\\x89PNG not really")
    with pytest.raises(Problem, match="no picture"):
        read_picture(tmp_path / "a.png", 1.0)
    out = io.BytesIO()
    quarters().save(out, "JPEG")
    (tmp_path / "b.jpg").write_bytes(out.getvalue())
    assert read_picture(tmp_path / "b.jpg", 1e9).metres == 1000.0


def test_damaged_pictures_in_looks_and_on_sheets_are_left_out(boathouse: Building) -> None:
    """A look or a project may come from anybody: what is no picture is grey, or not there, and the rest is drawn."""
    bad = [base64.b64encode(b"\x89PNG\r\n\x1a\nnothing").decode(), "no base 64!", ""]
    pictures = tuple(Picture(name=f"bad {i}", metres=1.0, data=data) for i, data in enumerate(bad))
    who = Selection(types=frozenset({"IfcWall", "IfcSlab", "IfcRoof"}))
    for one in pictures:
        look = Look(pictures=(one,), rules=(Rule(who=who, picture=one.name),))
        camera = standard_view("Axonometric, front left", boathouse.bounds, 1.5)
        maker = PictureMaker.standalone(boathouse)
        assert np.ptp(maker.picture(View(camera, uncut(boathouse), look), (90, 60), samples=1)) > 100
        assert picture_of(one.data) is None
