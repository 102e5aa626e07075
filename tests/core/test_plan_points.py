"""Where lines drawn in a plan like to begin and end."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.plan_points import PlanPoints
from anatome.cuts.plane import Plane
from anatome.model.building import Building


@pytest.fixture(scope="module")
def points(boathouse: Building) -> PlanPoints:
    cut = SectionPlane(id="k", name="", mark="", plane=Plane((0, 0, 1.2), (0, 0, 1)))
    shown = ~boathouse.context
    return PlanPoints.of(Cutter(boathouse).dissect([cut], shown))


def test_corners_axes_and_faces_of_the_hall(points: PlanPoints) -> None:
    """The hall is 30 × 12 m between outer corners (0, 0) and (30, 12); its walls are told by shapely's own distances."""
    assert any(np.allclose(c, (0, 0), atol=1e-6) for c in points.corners)
    at, what = points.nearest(np.array([0.1, -0.12]), 0.25)
    assert what == "corner" and np.allclose(at, (0, 0), atol=1e-6)
    # The axes of the front and the left wall cross inside the corner, where no face is as near.
    walls = [axis for axis in points.axes if np.ptp(axis[:, 0]) > 15 and abs(axis[:, 1]).max() < 0.6]
    assert walls and abs(walls[0][0, 1] - walls[0][1, 1]) < 1e-6
    middle = float(walls[0][0, 1])
    free = next(x for x in np.arange(2.0, 28.0, 0.1) if np.abs(points.corners - [x, middle]).max(axis=1).min() > 0.3)
    at, what = points.nearest(np.array([free, middle + 0.03]), 0.08)
    assert what == "axis" and np.allclose(at, (free, middle), atol=1e-6)
    assert points.nearest(np.array([-30.0, -30.0]), 0.5) is None


@given(x=st.floats(-2, 34), y=st.floats(-3, 28), within=st.floats(0.02, 0.5))
def test_what_is_meant_is_as_near_as_said_and_lies_on_what_is_said(points: PlanPoints, x: float, y: float, within: float) -> None:
    at = np.array([x, y])
    found = points.nearest(at, within)
    place = shapely.Point(at)
    corners = shapely.MultiPoint(points.corners)
    if found is None:
        for lines in (points.faces, points.axes):
            assert shapely.distance(place, shapely.MultiLineString(list(lines))) > within - 1e-9
        assert shapely.distance(place, corners) > within - 1e-9
        return
    there = shapely.Point(found[0])
    assert place.distance(there) <= within + 1e-9
    on = {
        "corner": corners,
        "face": shapely.MultiLineString(list(points.faces)),
        "axis": shapely.MultiLineString(list(points.axes)),
    }
    if found[1] in on:
        assert shapely.distance(there, on[found[1]]) < 1e-9
    if found[1] != "corner":
        assert shapely.distance(place, corners) > within - 1e-9
