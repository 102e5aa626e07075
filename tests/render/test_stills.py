"""Stills as pictures: light lies on surfaces in register and nowhere else, and is true."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.ndimage import binary_dilation
from test_passes import SIZE, maker, passes, view  # noqa: F401

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.formats.project_files import OpenedProject
from anatome.look.look import Look
from anatome.problems import Problem
from anatome.raytracing.still import Still
from anatome.render.pictures import PictureMaker
from anatome.render.shared import shown_evenly
from anatome.render.stills import lit, still_of
from anatome.scenes.scene_view import View
from anatome.view.camera import Camera
from helpers import box, made_of


def with_factors(of: View, factor_of) -> View:
    """A still with made up light: a factor for each number of places, told (h, w, 3) where they are in the model."""
    traced = still_of(of, SIZE).traced()
    places = traced.seen.place + traced.centre
    return replace(of, traced=replace(traced, factor=np.repeat(factor_of(places)[..., None], 3, axis=2).astype(np.float32)))


@pytest.mark.parametrize("scene", ["Long section", "Axonometric cutaway", "Split axonometric"])
def test_light_lies_on_surfaces_in_register_and_on_nothing_else(demo: OpenedProject, maker: PictureMaker, scene: str) -> None:  # noqa: F811
    """Light that changes at a height: nowhere a pixel of the wrong side, and cut faces as in the picture without it."""
    of = view(demo, scene)
    plain = replace(of, look=shown_evenly(of.look))
    height = 3.1
    striped = with_factors(of, lambda places: np.where(places[..., 2] > height, 1.0, 0.5))
    names = ("colour", "cut-fill", "cut-lines", "elements", "light", "shadow")
    bare, shown = (passes(maker, v, names, False, "white", 4) for v in (plain, striped))
    cut = shown.images["cut-fill"][..., 3] == 255
    assert cut.sum() > 400 and (bare.colour[cut] == shown.colour[cut]).all()
    assert (shown.images["shadow"] == 255).all() and (bare.images["light"] == 255).all()
    # Where the picture shows one element alone, light is that of one side or the other, but for a pixel beside the stripe.
    light = shown.images["light"][..., 0].astype(float) / 255
    codes = shown.images["elements"][..., :3].astype(int) @ [65536, 256, 1]
    nothing = codes == 0
    edges = binary_dilation(np.abs(np.diff(codes, axis=1, append=0)) > 0) | binary_dilation(
        np.abs(np.diff(codes, axis=0, append=0)) > 0
    )
    mixed = (light > 0.53) & (light < 0.97) & ~edges & ~cut & ~nothing
    assert mixed.mean() < 0.02
    assert (light[nothing & ~binary_dilation(~nothing, iterations=2)] == 1.0).all()
    # At edges between elements that lie on different sides it is as sharp: the neighbours of an edge are not in between.
    beside = edges & ~binary_dilation(cut, iterations=2) & ~binary_dilation(nothing, iterations=2)
    assert ((light > 0.6) & (light < 0.9))[beside].mean() < 0.1


def test_a_room_with_a_window_by_a_drawn_and_a_traced_picture() -> None:
    """Cut open from above, a wall throws its shadow where the sun's height says; what is cut away shades only if it is to."""
    parts = made_of(
        ("floor", "IfcSlab", "", box(-6, -6, -0.2, 6, 6, 0)),
        ("wall", "IfcWall", "", box(-0.1, -6, 0, 0.1, 6, 4)),
    )
    towards = Look(shadows=0.5, sun_with_view=False, sun_turn=90.0, sun_height=45.0, sun_size=0.0, still_sun=1.0, edges=False)
    top = Camera(eye=(0, 0, 40), target=(0, 0, 0), up=(0, 1, 0), projection="parallel", field=20.0)
    plane = SectionPlane(id="a", name="A", mark="A", plane=Plane((0, 0, 1.0), (0, 0, 1.0)))

    def light(look: Look) -> np.ndarray:
        opened = ShownBuilding(Cutter(parts).dissect([plane], np.ones(2, bool)))
        still = still_of(View(top, opened, look), (400, 400), 1)
        for _ in range(4):
            assert still.add()
        return still.light(smooth=False)[still.light().shape[0] // 2, :, 0]

    metres = 2 * 40 * np.tan(np.radians(10))

    def shadow(row: np.ndarray) -> float:
        """How far from the wall the sun comes back, on its far side from the sun."""
        x = (np.arange(len(row)) + 0.5) / len(row) * metres - metres / 2
        dark = (row < 0.5) & (x < -0.1) & (x > -5.9)
        return float(-x[dark].min() - 0.1)

    assert shadow(light(towards)) == pytest.approx(1.0, abs=0.06)  # a metre of wall is left: h / tan 45°
    assert shadow(light(towards.model_copy(update={"unseen_shade": True}))) == pytest.approx(4.0, abs=0.06)


def test_a_still_is_stopped_taken_up_again_and_cancelled(demo: OpenedProject) -> None:
    """What was stopped in the middle of a sample is as if that had not been begun, and goes on to the same light."""
    of = view(demo, "Cross section, clubroom")

    def still() -> Still:
        return still_of(of, (240, 160), 1)

    whole, stopped = still(), still()
    for _ in range(3):
        assert whole.add()
    assert stopped.add()
    before = stopped.light(smooth=False)
    assert not stopped.add(lambda share: False)
    assert stopped.samples == 1 and (stopped.light(smooth=False) == before).all()
    assert stopped.add() and stopped.add()
    assert np.abs(stopped.light(smooth=False) - whole.light(smooth=False)).max() < 1e-5
    with pytest.raises(Problem, match="cancelled"):
        lit(of, (240, 160), 4, lambda share: share < 0.3)
    assert lit(of, (240, 160), 0) is of
