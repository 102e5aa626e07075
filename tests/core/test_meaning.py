"""Meaning given to parts by rules, and what is guessed of their shape, against what the IFC files say."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from anatome.cuts.plan_level import plan_level
from anatome.cuts.rooms import closed_rooms
from anatome.demo.shipped import PROJECT
from anatome.formats.ifc import read_ifc
from anatome.look.look import Rule
from anatome.model.building import DERIVED, WITHIN, Building
from anatome.model.grouping import grouped
from anatome.model.guessing import guessed_storeys, guessed_types
from anatome.model.meaning import (
    BY_LEVEL,
    FACINGS,
    GivenStorey,
    Meaning,
    MeaningRule,
    Meanings,
    PartFilter,
    facing_of,
    with_meaning,
)
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes import meaning_edits, model_edits
from anatome.scenes.guesses import Guess, with_guesses
from anatome.scenes.project import ModelReference, OtherModel
from anatome.scenes.storage import load_project, save_project
from fetched import open_house
from helpers import box, made_of


def rule(gives: Meaning, **who: object) -> MeaningRule:
    return MeaningRule(id=f"{gives}{who}"[:60], who=PartFilter.model_validate(who), gives=gives)


def without_meaning(building: Building) -> Building:
    """As a general modeller would have it: shapes alone."""
    elements = tuple(replace(e, type="Part", material="", layer="", storey=None) for e in building.elements)
    return replace(building, elements=elements, storeys=(), spaces=())


HOUSE = (
    ("slab", "Part", "", box(0, 0, -0.2, 8, 6, 0)),
    ("wall a", "Part", "", box(0, 0, 0, 8, 0.3, 2.8)),
    ("wall b", "Part", "", box(0, 5.7, 0, 8, 6, 2.8)),
    ("post", "IfcColumn", "Oak", box(4, 3, 0, 4.2, 3.2, 2.8)),
)


def test_rules_give_what_they_say_to_those_they_are_for_later_ones_over_earlier_ones() -> None:
    house = made_of(*HOUSE)
    meanings = Meanings(
        storeys=(GivenStorey(id="g", name="Ground", elevation=0.0), GivenStorey(id="u", name="Upper", elevation=2.8)),
        rules=(
            rule(Meaning(type="IfcWall", material="Brick"), facing="upright", untyped=True),
            rule(Meaning(type="IfcSlab"), facing="level", untyped=True),
            rule(Meaning(storey=BY_LEVEL), nowhere=True),
            rule(Meaning(material="Clay"), what=Selection(words=frozenset({"wall b"}))),
            rule(Meaning(layer="Structure"), what=Selection(types=frozenset({"IfcWall"})), least=3.0),
            rule(Meaning(storey="u"), above=1.3, most=3.0),
        ),
    )
    found = {e.name: e for e in with_meaning(house, meanings).elements}
    assert [(e.type, e.material, e.layer, e.storey) for e in found.values()] == [
        ("IfcSlab", "", "", 0),
        ("IfcWall", "Brick", "Structure", 0),
        ("IfcWall", "Clay", "Structure", 0),
        ("IfcColumn", "Oak", "", 1),
    ]
    off = meanings.model_copy(update={"rules": tuple(r.model_copy(update={"on": False}) for r in meanings.rules)})
    assert [e.type for e in with_meaning(house, off).elements] == [e.type for e in house.elements]
    assert with_meaning(house, Meanings()) is house
    # Below: nobody is both over 100 m long and there.
    assert not PartFilter(least=100.0).mask(house).any() and PartFilter(below=0.0).mask(house).tolist() == [
        True,
        False,
        False,
        False,
    ]


def test_geometry_and_what_is_derived_of_it_is_shared(boathouse: Building) -> None:
    _ = boathouse.clusters, boathouse.links
    given = with_meaning(boathouse, Meanings(rules=(rule(Meaning(layer="All")),)))
    assert given.vertices is boathouse.vertices and {e.layer for e in given.elements} == {"All"}
    kept = [name for name in DERIVED if name in boathouse.__dict__]
    assert len(kept) >= 2 and all(given.__dict__[name] is boathouse.__dict__[name] for name in kept)
    assert [s.id for s in given.storeys] == [s.id for s in boathouse.storeys]


def test_given_again_it_takes_the_place_of_what_was_given(tmp_path: Path) -> None:
    """Property by property, for the same parts; guesses lie under what is said by hand. Files hold all of it."""
    project = load_project(PROJECT).project
    who = PartFilter(what=Selection(groups=frozenset({"House / Roof"})))
    project = meaning_edits.give(project, who, Meaning(type="IfcRoof"))
    project = meaning_edits.give(project, who, Meaning(material="Tiles"))
    (only,) = project.meanings.rules
    assert only.gives == Meaning(type="IfcRoof", material="Tiles")
    project = meaning_edits.give_types(project, [("IfcWall", frozenset({"a", "b"}))])
    project = meaning_edits.give_types(project, [("IfcSlab", frozenset({"a"}))])
    assert [(r.guessed, r.gives.type) for r in project.meanings.rules] == [(True, "IfcSlab"), (False, "IfcRoof")]
    project = meaning_edits.give_storeys(project, [GivenStorey(id="g", name="Ground", elevation=0.0)])
    assert [r.gives.storey for r in project.meanings.rules] == [BY_LEVEL, None, None]
    switched = meaning_edits.switch_rule(project, only.id, False)
    assert not next(r for r in switched.meanings.rules if r.id == only.id).on
    assert len(meaning_edits.take_rule(project, only.id).meanings.rules) == 2
    path = tmp_path / "house.meaning.json"
    meaning_edits.write_meanings(project.meanings, path)
    assert meaning_edits.read_meanings(path) == project.meanings
    path.write_text('{"format": "anatome-look", "look": {}}')
    with pytest.raises(Problem, match="holds no meaning"):
        meaning_edits.read_meanings(path)
    stored = load_project(PROJECT)
    save_project(tmp_path / "p.anatome", replace(stored, project=project))
    assert load_project(tmp_path / "p.anatome").project.meanings == project.meanings


def test_groups_of_a_project_are_meant_like_types_and_materials() -> None:
    """By their names, whatever else parts are; a part may stand in several; more parts join a group that is there."""
    house, project = made_of(*HOUSE), load_project(PROJECT).project
    walls = PartFilter(what=Selection(words=frozenset({"wall"})))
    project = meaning_edits.put_group(project, "Envelope", walls)
    project = meaning_edits.put_group(project, "Envelope", PartFilter(what=Selection(words=frozenset({"slab"}))))
    project = meaning_edits.put_group(project, " South ", PartFilter(what=Selection(words=frozenset({"wall a"}))))
    found = with_meaning(house, project.meanings)
    assert {e.name: e.also for e in found.elements} == {
        "slab": ("Envelope",),
        "wall a": ("Envelope", "South"),
        "wall b": ("Envelope",),
        "post": (),
    }
    for names, meant in (({"Envelope"}, 3), ({"South"}, 1), ({"South", "Envelope"}, 3), ({"North"}, 0)):
        assert int(Selection(groups=frozenset(names)).mask(found).sum()) == meant
    tree = grouped(found, "group")
    assert [(g.name, len(g.members)) for g in tree] == [("Envelope", 3), ("In no group", 1)]
    # Groups see the meaning rules give.
    typed = meaning_edits.give(project, walls, Meaning(type="IfcWall"))
    typed = meaning_edits.put_group(typed, "All walls", PartFilter(what=Selection(types=frozenset({"IfcWall"}))))
    assert sum("All walls" in e.also for e in with_meaning(house, typed.meanings).elements) == 2
    left = meaning_edits.take_group(typed, "Envelope")
    assert [g.name for g in left.meanings.groups] == ["South", "All walls"]
    for bad, said in (("  ", "needs a name"), ("House / Roof", "Choose a name without it")):
        with pytest.raises(Problem, match=said):
            meaning_edits.put_group(project, bad, walls)
    with pytest.raises(Problem, match="another kind of rule"):
        meaning_edits.put_group(project, "South", PartFilter(untyped=True))


# Guesses -------------------------------------------------------------------------------------------------------


def family(kind: str, facing: int) -> str:
    """Walls, floors and roofs, with the layers they are built of by which way those lie."""
    if kind.startswith("IfcWall"):
        return "wall"
    if kind in ("IfcSlab", "IfcRoof"):
        return "roof" if FACINGS[facing] == "sloping" else "floor"
    return {"level": "floor", "upright": "wall", "sloping": "roof"}[FACINGS[facing]] if kind == "IfcCovering" else kind


SAID = {"IfcWall": "wall", "IfcSlab": "floor", "IfcRoof": "roof"}


def the_boathouse(boathouse: Building) -> Building:
    return boathouse


def the_duplex_house(_: Building) -> Building:
    return read_ifc(open_house(), lambda *_: None)


@pytest.mark.parametrize("house", [the_boathouse, the_duplex_house])
def test_guesses_are_right_for_nine_tenths_of_walls_floors_and_roofs(
    house: Callable[[Building], Building], boathouse: Building
) -> None:
    """By area, against the classes of the IFC file; and nearly all that is said to be one is one. Floors lie where storeys do."""
    told = house(boathouse)
    bare = without_meaning(told)
    floors = guessed_storeys(bare)
    types = guessed_types(bare, floors)
    facing, area = facing_of(told), np.array([told.measures_of(i)[0] for i in range(len(told.elements))])
    truth = np.array([family(e.type, f) for e, f in zip(told.elements, facing.tolist())])
    said = np.array([SAID.get(kind, "") for kind in types])
    for kind in ("wall", "floor", "roof"):
        is_one, is_said = truth == kind, said == kind
        if is_one.any():
            assert area[is_one & is_said].sum() > 0.9 * area[is_one].sum(), kind
            assert area[is_one & is_said].sum() > 0.95 * area[is_said].sum(), kind
    # Storeys one walks on: foundations are none, and a roof storey hangs on its eaves.
    walked = [s.elevation for s in told.storeys if s.elevation > -1.0 and "roof" not in s.name.lower()]
    assert all(min(abs(f.elevation - level) for f in floors) < 0.05 for level in walked)
    assert len(floors) <= len(walked) + 1


def test_nothing_is_guessed_of_what_has_no_walls() -> None:
    ball = made_of(("a", "Part", "", box(0, 0, 0, 1, 1, 1)))
    assert (guessed_storeys(ball) == () and guessed_types(ball, ()) == ["IfcFurniture"]) or guessed_types(ball, ()) == [""]


def test_a_plan_of_a_model_without_storeys_is_cut_over_its_ground_and_through_its_walls(boathouse: Building) -> None:
    """Deep earth, footings and slabs lie below; a body without a floor is cut near its foot."""
    level = plan_level(replace(boathouse, storeys=()), None)
    assert 0.5 < level < 2.2 and plan_level(boathouse, 1) == pytest.approx(boathouse.storeys[1].elevation + 1.2)
    block = made_of(("b", "Part", "", box(0, 0, 95, 4, 4, 104)))
    low, high = block.bounds[:, 2]
    assert plan_level(block, None) == pytest.approx(min(low + 1.2, (low + high) / 2))


def test_what_means_a_group_by_name_follows_when_it_is_called_otherwise() -> None:
    """Cuts of scenes, rules of looks, other groups of its file's path too; a name that is taken is refused."""
    project = load_project(PROJECT).project
    who = PartFilter(what=Selection(types=frozenset({"IfcBeam"})))
    for name in ("Frame", "Boats"):
        project = meaning_edits.put_group(project, name, who)
    inner = Selection(groups=frozenset({"Frame", f"Frame{WITHIN}Roof", "Frames"}))
    rule = Rule(who=inner, clear=0.5)
    project = project.with_stage(overrides=(rule,))
    called = meaning_edits.rename_group(project, "Frame", "Skeleton")
    assert called.stage.overrides[0].who.groups == {"Skeleton", f"Skeleton{WITHIN}Roof", "Frames"}
    assert [g.name for g in called.meanings.groups] == ["Skeleton", "Boats"] and called.scenes is project.scenes
    for name, why in (("Boats", "already"), ("  ", "needs a name"), (f"a{WITHIN}b", "without it")):
        with pytest.raises(Problem, match=why):
            meaning_edits.rename_group(project, "Frame", name)
    desks = OtherModel(id="d", name="Frame", model=ModelReference(path="d.glb"))
    placed = model_edits.change_model(model_edits.put_model(project, desks), "d", name="Desks")
    assert placed.stage.overrides[0].who.groups == {"Desks", f"Desks{WITHIN}Roof", "Frames"}


@pytest.mark.parametrize("house", ("boathouse", "open house"))
def test_rooms_are_guessed_where_walls_close_round_them(boathouse: Building, house: str) -> None:
    """Against the spaces of the IFC file: every room between walls is found, its floor within five per cent; what lies open to
    another room is one with it. The space over a hall is none, for it has no floor."""
    building = boathouse if house == "boathouse" else read_ifc(open_house(), lambda *_: None)
    found = closed_rooms(building, [s.elevation for s in building.storeys])
    truth = [s for s in building.spaces if s.storey is not None and s.name not in ("Roof", "Hallway", "Stair", "Room")]
    open_plan = ("Kitchen", "Foyer", "Living Room")
    walled = [s for s in truth if s.name not in open_plan]
    for space in walled:
        middle = (np.array(space.lower) + space.upper) / 2
        there = [room for room in found if (np.array(room.lower) <= middle).all() and (middle <= np.array(room.upper)).all()]
        assert there and min(abs(room.floor / space.floor_area - 1) for room in there) < 0.07, space.name
    merged = 2 if house == "open house" else 0
    landings = 2 if house == "open house" else 0
    assert len(walled) + merged + landings <= len(found) <= len(walled) + merged + landings + 1
    project = load_project(PROJECT).project
    guess = Guess(rooms=tuple(found))
    given = with_meaning(replace(building, spaces=()), with_guesses(project, [guess]).meanings)
    assert [s.storey is not None and abs(building.storeys[s.storey].elevation - s.lower[2]) < 1e-6 for s in given.spaces]
    assert given.spaces[0].name == "Room 1" and given.spaces[0].floor_area == found[0].floor
    taken = with_guesses(project, [guess])
    first = taken.meanings.spaces[0]
    called = meaning_edits.change_room(taken, first.id, name="Hall", use="Sport").meanings.spaces
    assert (called[0].name, called[0].use, called[1:]) == ("Hall", "Sport", taken.meanings.spaces[1:])
    assert meaning_edits.take_rooms(taken, [first.id]).meanings.spaces == taken.meanings.spaces[1:]
