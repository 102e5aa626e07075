"""A changed IFC file, of which only what changed is read anew: the same building, to the last bit, as reading all of it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable
from dataclasses import fields
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.guid
import numpy as np
import pytest

from anatome.formats.identity import identify
from anatome.formats.ifc import read_ifc
from anatome.formats.ifc_again import Known, keys_of, read_again, state_of
from anatome.formats.opening import open_model
from anatome.formats.step_text import step_text
from anatome.model.building import DERIVED, Building
from anatome.model.clusters import Clusters
from anatome.model.edges import FeatureEdges
from anatome.model.solids import Links
from anatome.model.taking import taken
from fetched import open_house

Model = Any


def quiet(*_: object) -> None:
    """Nobody listens."""


def different(one: Building, other: Building) -> list[str]:
    """In what two buildings differ, of all that is said and derived; colours by what they are."""

    def alike(a: Any, b: Any) -> bool:
        if isinstance(a, np.ndarray):
            return a.dtype == b.dtype and np.array_equal(a, b)
        if isinstance(a, Links | Clusters | FeatureEdges):
            return all(alike(getattr(a, f.name), getattr(b, f.name)) for f in fields(a))
        return bool(a == b)

    told = ("name", "elements", "storeys", "spaces", "unit", "failed", "place", "vertices", "triangles", "triangle_start")
    derived = [name for name in DERIVED if name not in ("centre", "display_mesh")]
    found = [name for name in (*told, *derived) if not alike(getattr(one, name), getattr(other, name))]
    colours = np.array_equal(one.styles[one.triangle_style], other.styles[other.triangle_style])
    return found if colours and len(one.styles) <= len(other.styles) else [*found, "colours"]


def drawn(building: Building) -> np.ndarray:
    """(T, 7) the middles of what a graphics card draws, in metres, and the colours."""
    mesh = building.display_mesh
    corners = mesh.vertices[mesh.triangles]
    middles = corners["position"].astype(float).mean(axis=1) + building.centre
    return np.column_stack([middles, building.styles[corners["style"][:, 2]]])


# What people do between two weeks -----------------------------------------------------------------------------------


def elements(model: Model, kind: str) -> list[Any]:
    return [e for e in model.by_type(kind) if e.Representation]


def moved(model: Model) -> None:
    for wall in elements(model, "IfcFurniture")[:7]:
        there = wall.ObjectPlacement.RelativePlacement
        x, y, z = there.Location.Coordinates
        point = model.create_entity("IfcCartesianPoint", (x + 0.35, y, z))
        axes = model.create_entity("IfcAxis2Placement3D", point, there.Axis, there.RefDirection)
        wall.ObjectPlacement = model.create_entity("IfcLocalPlacement", wall.ObjectPlacement.PlacementRelTo, axes)


def renamed(model: Model) -> None:
    for window in elements(model, "IfcWindow")[:5]:
        window.Name = "Another window"


def gone(model: Model) -> None:
    for beam in elements(model, "IfcBeam")[:4]:
        model.remove(beam)


def storeys_called_otherwise(model: Model) -> None:
    for number, storey in enumerate(model.by_type("IfcBuildingStorey")):
        storey.Name = f"Level {number}"


def other_storey(model: Model) -> None:
    relations = model.by_type("IfcRelContainedInSpatialStructure")
    first, last = relations[0], relations[-1]
    going = first.RelatedElements[0]
    first.RelatedElements = first.RelatedElements[1:]
    last.RelatedElements = (*last.RelatedElements, going)


def other_material(model: Model) -> None:
    relation = model.by_type("IfcRelAssociatesMaterial")[0]
    relation.RelatingMaterial = model.create_entity("IfcMaterial", "Slate")


def other_colour(model: Model) -> None:
    colour = model.by_type("IfcColourRgb")[0]
    colour.Red, colour.Green, colour.Blue = 0.1, 0.9, 0.2


def layer_called_otherwise(model: Model) -> None:
    model.by_type("IfcPresentationLayerAssignment")[0].Name = "Z-OTHER"


def opening_moved(model: Model) -> None:
    opening = model.by_type("IfcRelVoidsElement")[0].RelatedOpeningElement
    there = opening.ObjectPlacement.RelativePlacement
    x, y, z = there.Location.Coordinates
    point = model.create_entity("IfcCartesianPoint", (x + 0.11, y, z))
    axes = model.create_entity("IfcAxis2Placement3D", point, there.Axis, there.RefDirection)
    opening.ObjectPlacement = model.create_entity("IfcLocalPlacement", opening.ObjectPlacement.PlacementRelTo, axes)


def opening_closed(model: Model) -> None:
    model.remove(model.by_type("IfcRelVoidsElement")[0])


def one_more(model: Model) -> None:
    like = elements(model, "IfcSlab")[0]
    product = model.create_entity("IfcSlab", ifcopenshell.guid.new(), None, "New slab")
    product.ObjectPlacement, product.Representation = like.ObjectPlacement, like.Representation
    relation = model.by_type("IfcRelContainedInSpatialStructure")[0]
    relation.RelatedElements = (*relation.RelatedElements, product)


def without_shape(model: Model) -> None:
    chosen = elements(model, "IfcFurniture")[9]
    empty = model.create_entity(
        "IfcShapeRepresentation", model.by_type("IfcGeometricRepresentationContext")[0], "Body", "Brep", ()
    )
    chosen.Representation = model.create_entity("IfcProductDefinitionShape", None, None, (empty,))


CHANGES: tuple[Callable[[Model], None], ...] = (
    *(moved, renamed, gone, storeys_called_otherwise, other_storey, other_material, other_colour, layer_called_otherwise),
    *(opening_moved, opening_closed, one_more, without_shape),
)
FEW = {storeys_called_otherwise: 4, renamed: 5, gone: 0, layer_called_otherwise: 400, other_colour: 400, other_material: 400}
"""How many products are read anew at the most, where that is told by what was done."""


EACH, PIERCED, FINE = 10, 2, 400
"""How many products of a kind are enough to change some of them and leave others; how many of what openings are cut from, which
take long; and the most triangles of one."""


def known_of(path: Path) -> Known:
    """What is kept of a file that was read."""
    building, state = read_ifc(path, quiet), state_of(path)
    for name in DERIVED:
        getattr(building, name)
    return Known(building, keys_of(state))


@pytest.fixture(scope="module")
def before(boathouse: Building, boathouse_ifc: Path, tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Known]:
    """Some of the demo building as a program writes it, and as it was read: a few of each kind, and all that they name."""
    path = tmp_path_factory.mktemp("again") / "before.ifc"
    model = ifcopenshell.open(str(boathouse_ifc))
    kept: Counter[str] = Counter()
    for element, triangles in zip(boathouse.elements, np.diff(boathouse.triangle_start)):
        kept[element.type] += triangles <= FINE
        if triangles > FINE or kept[element.type] > (PIERCED if element.type in ("IfcWall", "IfcCovering") else EACH):
            model.remove(model.by_guid(element.id))
    model.write(str(path))
    return path, known_of(path)


def changed(path: Path, change: Callable[[Model], None], to: Path) -> Path:
    model = ifcopenshell.open(str(path))
    change(model)
    model.write(str(to))
    return to


@pytest.mark.parametrize("change", CHANGES, ids=lambda change: change.__name__)
def test_what_changed_is_read_anew_and_all_is_as_if_read_as_a_whole(before, change, tmp_path: Path) -> None:
    path, known = before
    now = changed(path, change, tmp_path / "now.ifc")
    state = state_of(now)
    keys = keys_of(state)
    again, whole = read_again(now, state, keys, known, tmp_path, quiet), read_ifc(now, quiet)
    assert again is not None and different(again, whole) == []
    assert np.abs(drawn(again) - drawn(whole)).max() < 1e-5  # single precision, about another middle
    anew = sum(known.keys.get(name) != key for name, key in keys.items())
    assert anew <= FEW.get(change, 20) and (anew or change is gone)


@pytest.mark.long
def test_many_changes_at_once_of_the_whole_building(boathouse_ifc: Path, tmp_path: Path) -> None:
    path = tmp_path / "before.ifc"
    ifcopenshell.open(str(boathouse_ifc)).write(str(path))
    known = known_of(path)

    def all_of_them(model: Model) -> None:
        for change in CHANGES:
            change(model)

    now = changed(path, all_of_them, tmp_path / "now.ifc")
    state = state_of(now)
    again, whole = read_again(now, state, keys_of(state), known, tmp_path, quiet), read_ifc(now, quiet)
    assert again is not None and different(again, whole) == []


def test_the_open_house_is_read_again_too(tmp_path: Path) -> None:
    """An IFC2x3 file of another program: mapped shapes, types with properties, walls in layers, records in no order."""
    path = open_house()
    building, state = read_ifc(path, quiet), state_of(path)
    known = Known(building, keys_of(state))
    text = path.read_text(encoding="latin-1")
    wall = next(line for line in text.splitlines() if "IFCWALLSTANDARDCASE(" in line)
    now = tmp_path / "now.ifc"
    now.write_text(text.replace(wall, wall.replace("'Basic Wall:", "'Plain wall:", 1)), encoding="latin-1")
    again_state = state_of(now)
    keys = keys_of(again_state)
    again = read_again(now, again_state, keys, known, tmp_path, quiet)
    assert again is not None and different(again, read_ifc(now, quiet)) == []
    assert 0 < sum(known.keys[name] != key for name, key in keys.items()) < 8


def test_several_weeks_in_a_row_end_where_one_reading_does(before, tmp_path: Path) -> None:
    path, known = before
    for number, change in enumerate((moved, one_more, other_storey, gone, opening_moved, renamed)):
        path = changed(path, change, tmp_path / f"{number}.ifc")
        state = state_of(path)
        keys = keys_of(state)
        again = read_again(path, state, keys, known, tmp_path, quiet)
        known = Known(again, keys)
    assert different(known.building, read_ifc(path, quiet)) == []


def test_a_file_written_anew_with_other_numbers_and_dates_is_the_same(before, tmp_path: Path) -> None:
    path, known = before
    text = path.read_text()
    head, body = text.split("DATA;")
    other = tmp_path / "other.ifc"
    renumbered = re.sub(r"#(\d+)", lambda name: f"#{int(name.group(1)) + 70_000}", body)
    renumbered = re.sub(r"(IFCOWNERHISTORY\(.*),\d+\)", r"\1,1800000000)", renumbered).replace("=IFC", " = \n IFC")
    other.write_text(f"{head}DATA;{renumbered}")
    assert keys_of(state_of(other)) == known.keys


def test_records_are_told_as_they_stand() -> None:
    data = b"""ISO-10303-21; HEADER; FILE_NAME('a;#1=B('); ENDSEC; DATA; /* #9=NO(); */
    #3= IFCWALL('it''s #4; (', #1 ,(#1,#7), /* ; */ 2.5); #1=IfcSlab($,"0F;");
    ENDSEC; END-ISO-10303-21;"""
    found = step_text(data)
    assert found.number.tolist() == [3, 1] and found.refs.tolist() == [1, 1, -1] and found.first.tolist() == [0, 3, 3]
    assert found.are(["IFCWALL"]).tolist() == [True, False] and found.are(["IFCSLAB"]).tolist() == [False, True]
    assert step_text(data.replace(b"#1=IfcSlab", b"#3=IfcSlab")) is None  # one number twice
    assert step_text(b"") is None and step_text(b"#1=A(\xff") is None
    # One that leads to itself is told all the same.
    assert len(step_text(b"#1=A(#2);#2=B(#1);").number) == 2


def test_where_it_is_no_help_all_is_read(before, tmp_path: Path, monkeypatch) -> None:
    path, known = before
    state = state_of(path)
    keys = keys_of(state)
    # More than a part has changed; the state before is of something else; the witness does not agree.
    assert read_again(path, state, keys, Known(known.building, {}), tmp_path, quiet) is None
    assert read_again(path, state, keys, Known(known.building, dict.fromkeys(keys, "?")), tmp_path, quiet) is None
    shifted = known.building.otherwise(vertices=known.building.vertices + 1.0)
    del shifted.__dict__["element_bounds"]
    assert read_again(path, state, keys, Known(shifted, known.keys), tmp_path, quiet) is None
    twice = tmp_path / "twice.ifc"
    wall = next(line for line in path.read_text().splitlines() if "IFCWALL(" in line)
    twice.write_text(path.read_text().replace(wall, wall + "\n" + re.sub(r"^#\d+", "#999999", wall)))
    assert state_of(twice) is None  # one id twice: nobody knows which is which

    # The worker does the same by itself; what came before is found by its digest.
    monkeypatch.setenv("ANATOME_CACHE", str(tmp_path / "cache"))
    now = changed(path, moved, tmp_path / "now.ifc")
    open_model(path)
    again = open_model(now, before=identify(path)[0].digest)
    assert again.elements == read_ifc(now, quiet).elements
    assert len(list((tmp_path / "cache").glob("*.keys"))) == 2
    # Where what is kept is damaged, it is read as a whole.
    for kept in (tmp_path / "cache").glob("*.keys"):
        kept.write_bytes(b"{")
    other = changed(path, renamed, tmp_path / "other.ifc")
    assert open_model(other, before=identify(path)[0].digest).elements == read_ifc(other, quiet).elements


def test_some_elements_in_another_order_are_what_they_were(boathouse: Building) -> None:
    building = boathouse
    assert len(building.links.twin)
    order = np.random.default_rng(2).permutation(len(building.elements))[:300]
    some = taken(building, order)
    assert [e.id for e in some.elements] == [building.elements[i].id for i in order]
    for here, there in enumerate(order.tolist()):
        a, b = (building.triangle_start[there : there + 2], some.triangle_start[here : here + 2])
        corners = [x.vertices[x.triangles[slice(*y)]] for x, y in ((building, a), (some, b))]
        assert np.array_equal(*corners)
    fresh = some.otherwise()
    for name in ("links", "clusters", "feature_edges", "outward", "plain_solids", "element_bounds"):
        fresh.__dict__.pop(name)
    assert np.array_equal(fresh.links.twin, some.links.twin) and np.array_equal(fresh.clusters.order, some.clusters.order)
    assert np.array_equal(fresh.feature_edges.ends, some.feature_edges.ends)
    assert np.array_equal(fresh.outward, some.outward) and np.array_equal(fresh.plain_solids, some.plain_solids)
