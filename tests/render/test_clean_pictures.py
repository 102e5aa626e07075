"""Pictures are clean: what is cut has no cracks and does not leak, what is shaded has no grain."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import label
from test_looks_drawn import PLAIN

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.formats.opening import open_model
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.model.building import Building
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import View
from anatome.view.camera import Camera, square_on
from fetched import open_house
from helpers import box, close_to, made_of, projected

SIZE = (480, 320)
CLEAR = PLAIN.model_copy(
    update={"poche_earth": PLAIN.poche, "poche_beside": PLAIN.poche, "cut_weight": 0.25, "part_weight": 0.13}
)


@pytest.mark.parametrize("which", ["boathouse", "open house"])
def test_flooding_what_is_cut_from_inside_a_wall_never_leaks(which: str, boathouse: Building) -> None:
    """Ten planes through each of two buildings: from a place inside each large polygon, fill and line alone lead nowhere but to
    what the section says is cut, and inside of it every pixel is fill or line."""
    building = boathouse if which == "boathouse" else open_model(open_house())
    maker, cutter = PictureMaker.standalone(building), Cutter(building)
    bounds = building.subject_bounds(np.ones(len(building.elements), bool))
    chance, flooded = np.random.default_rng(5), 0
    for number in range(10):
        turn = chance.uniform(0, 2 * np.pi)
        normal = (np.cos(turn), np.sin(turn), 0.0) if number % 3 else (0.0, 0.0, 1.0)
        at = bounds[0] + (bounds[1] - bounds[0]) * chance.uniform(0.3, 0.7, 3)
        cut = SectionPlane(id="a", name="A", mark="A", plane=Plane(tuple(at), normal))
        opened = ShownBuilding(cutter.dissect([cut], np.ones(len(building.elements), bool)))
        start = Camera(eye=(0, -50, 0), target=(0, 0, 0), projection="parallel" if number % 2 else "perspective", field=30.0)
        camera = square_on(cut.plane, bounds, SIZE[0] / SIZE[1], start)
        picture = maker.picture(View(camera, opened, CLEAR), SIZE, "white", 4)
        found = opened.cut_open.faces[0].poche
        inside, outside = projected(found, camera, SIZE)
        # From halfway between fill and ink to either, antialiased edges against white left out.
        cut_pixels = (picture[..., :3].astype(int).max(axis=2) < 0x80) | close_to(
            picture, np.round(np.array(CLEAR.poche) * 255), 12
        )
        assert cut_pixels[inside].all(), number
        regions, _ = label(cut_pixels)
        reached = np.isin(regions, np.setdiff1d(np.unique(regions[inside]), [0]))
        assert not (reached & outside).any(), number
        flooded += int(inside.sum())
    assert flooded > 10_000


@pytest.mark.parametrize("name", [name for name, look in shipped_looks().items() if look.shade])
def test_shade_and_shadow_have_no_grain(name: str) -> None:
    """Half a step of 255 at most about a smooth surface through a shaded patch beside a wall, and one in full shadow."""
    corner = made_of(
        ("floor", "IfcSlab", "", box(-4, -4, -0.3, 4, 4, 0.0)),
        ("wall", "IfcWall", "", box(-4, 1.0, 0.0, 4, 1.3, 3.0)),
    )
    look = shipped_looks()[name]
    # The sun of most looks, so that the patches lie in the light or in full shadow.
    sun = {"sun_turn": -45.0, "sun_height": 35.0}
    plain: Look = look.model_copy(update={"edges": False, "ground": False, "patterns": False, "haze": 0.0, **sun})
    opened = ShownBuilding(Cutter(corner).dissect([], np.ones(2, bool)))
    camera = Camera(eye=(0, -9, 5.5), target=(0, 0.2, 0.6), field=26.0)
    picture = PictureMaker.standalone(corner).picture(View(camera, opened, plain), (600, 400), "white", 16)[..., :3].astype(float)
    y, x = np.mgrid[-1:1:40j, -1:1:40j]
    basis = np.stack([x**i * y**j for i in range(5) for j in range(5 - i)], axis=-1).reshape(-1, 15)
    for rows, columns in (((250, 290), (280, 320)), ((120, 160), (280, 320))):
        patch = picture[slice(*rows), slice(*columns)].mean(axis=2).reshape(-1)
        fitted = basis @ np.linalg.lstsq(basis, patch, rcond=None)[0]
        assert (patch - fitted).std() < 0.5
