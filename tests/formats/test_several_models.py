"""Several models in one project: placed, named, on their storeys, saved beside the project, missing ones told."""

from __future__ import annotations

import shutil
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import trimesh
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.cuts.poche_rules import PocheRules
from anatome.cuts.reach import Reach
from anatome.formats.project_files import open_project
from anatome.model.building import WITHIN, Building, Storey
from anatome.model.options import OpenOptions
from anatome.model.selection import Selection
from anatome.model.several import between_origins, by_points
from anatome.scenes import edits, model_edits
from anatome.scenes.project import ModelReference, OtherModel
from anatome.scenes.storage import StoredProject, save_project
from anatome.scenes.whole import models_together
from helpers import box, made_of

FLOORS = (Storey("g", "Ground floor", 0.0), Storey("u", "Upper floor", 3.0))
HOUSE = replace(made_of(("Slab", "IfcSlab", "Concrete", box(0, 0, -0.2, 8, 6, 0))), storeys=FLOORS)
DESK = made_of(("Top", "Part", "Oak", box(0, 0, 0.7, 2, 1, 0.75)), ("Leg", "Part", "Steel", box(0, 0, 0, 0.1, 0.1, 0.7)))
DESK = replace(
    DESK,
    storeys=(Storey("1", "Level one", 0.1), Storey("9", "Attic", 9.0)),
    elements=(replace(DESK.elements[0], storey=0, group="Set"), replace(DESK.elements[1], storey=1)),
)


def other(**changes: object) -> OtherModel:
    return OtherModel.model_validate({"id": "d", "name": "Desks", "model": ModelReference(path="desk.glb"), **changes})


def area(building: Building, level: float, what: Selection | None = None) -> float:
    meant = np.ones(len(building.elements), bool) if what is None else what.mask(building)
    section = Cutter(building).free_section(Plane((0, 0, level), (0, 0, 1)), meant, PocheRules())
    return float(sum(polygon.area for polygon in section.polygons))


def test_a_model_stands_where_it_is_placed_under_its_name_on_the_storeys_of_the_first() -> None:
    whole = models_together(HOUSE, {"d": DESK}, [other(shift=(3.0, 2.0, 3.0), turn=90.0)])
    assert whole.elements[:1] == HOUSE.elements and whole.storeys == FLOORS
    assert [(e.id, e.group, e.storey) for e in whole.elements[1:]] == [
        ("d/Top", f"Desks{WITHIN}Set", 1),
        ("d/Leg", "Desks", None),
    ]
    assert whole.element_bounds[1] == pytest.approx(np.array([[2.0, 2.0, 3.7], [3.0, 4.0, 3.75]]))
    assert whole.links.closed.all() and whole.outward.all()
    assert area(whole, 3.72) == pytest.approx(2.0) and area(whole, -0.1) == pytest.approx(48.0)
    desks = Selection(groups=frozenset({"Desks"}))
    assert Reach(mode="only", what=desks).mask(whole).tolist() == [False, True, True] and area(
        whole, 3.1, desks
    ) == pytest.approx(0.01)
    assert models_together(HOUSE, {"d": DESK}, [other(on=False)]).elements == HOUSE.elements
    assert models_together(HOUSE, {}, [other()]).elements == HOUSE.elements  # one that was not found
    twice = models_together(HOUSE, {"d": DESK, "e": DESK}, [other(), other(id="e", name="More", shift=(0, 4, 0))])
    assert len({e.id for e in twice.elements}) == 5 and area(twice, 0.72) == pytest.approx(4.0)


def test_models_brought_near_from_one_grid_stand_as_they_did_there() -> None:
    """Each by hundreds of metres of its own; one without an origin far away stays where it is."""
    house, desk = replace(HOUSE, origin=(412_000.0, 5_310_100.0, 0.0)), replace(DESK, origin=(412_100.0, 5_310_000.0, 0.0))
    whole = models_together(house, {"d": desk}, [other()])
    assert whole.element_bounds[1, 0] == pytest.approx(DESK.element_bounds[0, 0] + [100, -100, 0])
    assert models_together(house, {"d": DESK}, [other()]).element_bounds[1] == pytest.approx(DESK.element_bounds[0])


def test_a_project_is_moved_with_its_models_and_says_which_is_missing(tmp_path: Path) -> None:
    """Formats and units of their own; what is missing leaves the others standing, and is looked for where it was."""
    folder = tmp_path / "work"
    folder.mkdir()
    for name, mesh in (("house.glb", box(0, 0, 0, 8, 6, 3)), ("desk.obj", box(0, 0, 0, 2000, 1000, 750))):
        scene = trimesh.Scene()
        scene.add_geometry(mesh, node_name=name, geom_name=name)
        scene.export(str(folder / name))
    project = edits.without_model("p").model_copy(update={"model": ModelReference(path="house.glb", options=OpenOptions(up="z"))})
    desk = ModelReference(path="desk.obj", options=OpenOptions(up="z", unit="millimetre"))
    project = model_edits.put_model(project, OtherModel(id="d", name="Desk", model=desk, shift=(1.0, 1.0, 0.0)))
    project = model_edits.put_model(project, OtherModel(id="x", name="Desk", model=desk.model_copy(update={"path": "gone.obj"})))
    assert [o.name for o in project.others] != ["Desk", "Desk"]
    save_project(folder / "p.anatome", StoredProject(project))
    shutil.move(folder, tmp_path / "elsewhere")
    opened = open_project(tmp_path / "elsewhere" / "p.anatome")
    assert [e.id for e in opened.model.elements] == ["house.glb", "d/desk.obj"]
    assert opened.model.element_bounds[1] == pytest.approx(np.array([[1, 1, 0], [3, 2, 0.75]]))
    assert opened.stored.project.others == project.others and set(opened.others) == {"d"}
    assert len(opened.left_out) == 1 and str(tmp_path / "elsewhere" / "gone.obj") in opened.left_out[0]


@settings(max_examples=60, deadline=None)
@given(
    numbers=st.lists(st.floats(-40, 40), min_size=12, max_size=12),
    turns=st.tuples(st.floats(-170, 170), st.floats(-170, 170)),
    far=st.booleans(),
)
def test_by_points_a_corner_comes_to_its_goal_and_a_second_one_into_its_direction(numbers, turns, far: bool) -> None:
    """Wherever it stood before, and however far their origins lie from one another."""
    first = replace(HOUSE, origin=(500_000.0, 10.0, 0.0)) if far else HOUSE
    more = replace(DESK, origin=(500_100.0, 30.0, 0.0)) if far else DESK
    shift, goal, way = np.array(numbers[:3]), np.array(numbers[3:6]), np.array(numbers[6:9])
    assume(np.hypot(*way[:2]) > 0.5)
    now = models_together(first, {"d": more}, [other(shift=tuple(shift), turn=turns[0])])
    corners = now.vertices[len(HOUSE.vertices) :]
    pairs = [(corners[0], goal), (corners[6], goal + way)]
    assume(np.hypot(*(corners[6] - corners[0])[:2]) > 0.1)
    for used in (pairs[:1], pairs):
        placed, turn = by_points(shift, turns[0], between_origins(more, first), used)
        there = models_together(first, {"d": more}, [other(shift=placed, turn=turn)]).vertices[len(HOUSE.vertices) :]
        assert there[0] == pytest.approx(goal, abs=1e-6)
        led = there[6] - there[0]
        if len(used) == 1:
            assert led == pytest.approx(corners[6] - corners[0], abs=1e-6)
        else:
            assert np.cross(led[:2], way[:2]) == pytest.approx(0, abs=1e-5) and led[:2] @ way[:2] > 0
        assert np.linalg.norm(led) == pytest.approx(np.linalg.norm(corners[6] - corners[0]), abs=1e-6)
