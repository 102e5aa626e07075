"""Points a pointer means, on a block whose corners are known."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.picking import pick
from anatome.cuts.plane import Plane
from anatome.view.camera import Camera
from anatome.view.snap_points import angle_between, face_area, snap_point
from anatome.view.viewport import Frame, Viewport
from helpers import building_of

BLOCK = trimesh.creation.box((4.0, 2.0, 3.0))
CUT = SectionPlane(id="a", name="A", mark="A", plane=Plane((0, 0, 0.5), (0, 0, 1)))


@pytest.mark.parametrize("projection", ["perspective", "parallel"])
def test_corners_middles_and_edges_of_what_is_left(projection: str) -> None:
    building = building_of((BLOCK.vertices, BLOCK.faces))
    camera = Camera(eye=(9, -14, 8), target=(0, 0, 0), projection=projection, field=30)
    viewport = Viewport(camera, Frame(width=800, height=600))
    everything = np.ones(1, bool)
    for cuts, top in (([], 1.5), ([CUT], 0.5)):
        left = Cutter(building).dissect(cuts, everything)

        def meant(place, aside=(0.0, 0.0), left=left):
            at = viewport.pixels(np.array(place, float)) + aside
            met = pick(left, *viewport.ray(*at))
            assert met is not None, place
            return snap_point(left, *met, viewport, tuple(at), 8.0), met

        # A little inside the faces, so that the ray meets the block; the corner is what is meant.
        for corner, inside in (((2, -1, top), (1.97, -0.99, top)), ((2, -1, top), (1.99, -1, top - 0.04))):
            found, _ = meant(inside)
            assert found.what == "corner" and found.place == pytest.approx(corner, abs=1e-8)
        found, met = meant((0.0, -0.98, top))
        assert found.what == "middle" and found.place == pytest.approx((0, -1, top), abs=1e-9)
        assert face_area(left, *met) == pytest.approx(8.0, rel=1e-9)  # the top, cut or not, is 4 by 2
        found, _ = meant((1.0, -0.985, top))
        assert found.what == "edge" and found.place[1:] == pytest.approx((-1, top), abs=1e-9)
        assert abs(found.place[0] - 1.0) < 0.05
        found, met = meant((1.1, 0.3, top))
        assert found.what == "surface" and found.place == pytest.approx((1.1, 0.3, top), abs=1e-6)
        # Where an upright edge is cut, what is left of it goes on being one.
        found, _ = meant((1.97, -1, -0.3))
        assert found.what == "edge" and found.place[:2] == pytest.approx((2, -1), abs=1e-9)
        _, met = meant((2, 0.2, 0.1))
        assert face_area(left, *met) == pytest.approx(6.0)


def test_angles() -> None:
    assert angle_between(np.array([1.0, 0, 0]), np.zeros(3), np.array([0, 3.0, 0])) == pytest.approx(90)
    assert angle_between(np.array([1.0, 0, 0]), np.zeros(3), np.array([-2.0, 0, 0])) == pytest.approx(180)
