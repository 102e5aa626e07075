"""Slabs, footings and pits of the project's own: their sections and volumes against closed forms, and where they stand."""

from __future__ import annotations

import math

import numpy as np
import pytest

from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.cuts.poche_rules import PocheRules
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes.carrying import carried
from anatome.site.bodies import with_site
from anatome.site.rough import footing_under, moved, pit_at, slab_under
from anatome.site.site import GROUND_ID, Ground, Site
from helpers import box, made_of

HOUSE = made_of(
    ("Floor", "IfcSlab", "", box(0, 0, 0, 8, 6, 0.2)),
    ("Wall", "IfcWall", "", box(0, 0, 0.2, 8, 0.3, 3)),
    ("Post", "IfcColumn", "", box(9, 5, 0.4, 9.2, 5.2, 3)),
    ("Roof", "IfcRoof", "", box(-2, -2, 3, 11, 8, 3.2)),
)
ALL = np.ones(len(HOUSE.elements), bool)


def area(building: Building, name: str, level: float) -> float:
    section = Cutter(building).free_section(Plane((0, 0, level), (0, 0, 1)), np.ones(len(building.elements), bool), PocheRules())
    of = [building.elements[i].name for i in section.element.tolist()]
    return float(sum(polygon.area for polygon, own in zip(section.polygons, of) if own == name))


def test_a_slab_lies_under_what_stands_on_the_ground_and_not_under_the_eaves() -> None:
    slab = slab_under(HOUSE, ALL & [True, True, False, True], "s", 0.4, 0.5, 0.0)
    whole = with_site(HOUSE, Site(bodies=(slab,)))
    assert area(whole, "Slab", -0.2) == pytest.approx(9 * 7) and (slab.low, slab.high) == (-0.4, 0.0)
    made = whole.elements[-1]
    assert (made.id, made.type, made.material) == ("body s", "IfcSlab", "Concrete") and not whole.context[-1]
    assert whole.links.closed.all() and whole.elements[:-1] == HOUSE.elements
    with pytest.raises(Problem, match="Show the building"):
        slab_under(HOUSE, ~ALL, "s", 0.4, 0.0, 0.0)


def test_footings_lie_under_the_feet_of_parts() -> None:
    post, wall = (footing_under(HOUSE, number, str(number), 0.2, 0.6) for number in (2, 1))
    assert (post.low, post.high, post.name) == (pytest.approx(-0.2), pytest.approx(0.4), "Footing, Post")
    whole = with_site(HOUSE, Site(bodies=(post, wall)))
    assert area(whole, "Footing, Post", 0.1) == pytest.approx(0.6 * 0.6)
    assert area(whole, "Footing, Wall", 0.1) == pytest.approx(8.4 * 0.7)


@pytest.mark.parametrize("size", ((3.0, 2.0), 2.5))
def test_pits_are_missing_from_the_ground_by_their_volume(size: tuple[float, float] | float) -> None:
    """A round one has the area of its circle, though it has corners."""
    ground = Ground(level=0.0, depth=3.0, beyond=5.0)
    pit = pit_at((20.0, 20.0), size, 0.0, 1.5, "p")
    without, dug = (with_site(HOUSE, Site(ground=ground, bodies=bodies)) for bodies in ((), (moved(pit, -18.0, -18.5, 0.0),)))
    assert [e.name for e in dug.elements] == [e.name for e in without.elements]
    covers = size[0] * size[1] if isinstance(size, tuple) else math.pi * size**2 / 4
    for level, missing in ((-0.7, covers), (-2.0, 0.0)):
        assert area(without, "Ground", level) - area(dug, "Ground", level) == pytest.approx(missing, abs=1e-3)
    assert GROUND_ID in dug.index_of and dug.links.closed[dug.index_of[GROUND_ID]]


def test_they_go_along_with_a_model_that_is_larger_and_lies_elsewhere() -> None:
    slab = slab_under(HOUSE, ALL, "s", 0.4, 0.0, 0.0)
    there = carried(slab, np.array([5.0, 6.0, 7.0]), 2.0)
    assert np.array(there.rings[0]) == pytest.approx(np.array(slab.rings[0]) * 2 + [5, 6])
    assert (there.low, there.high) == (pytest.approx(6.2), pytest.approx(7.0))
