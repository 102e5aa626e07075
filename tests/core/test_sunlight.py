"""Where the sun stands, against a published example; and looks that scenes share, change and lay over."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anatome.demo.shipped import PROJECT
from anatome.look.look import Look, Rule, rgb
from anatome.look.shipped import shipped_looks
from anatome.look.styles import resolve
from anatome.model.building import Building
from anatome.model.place import Place
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes import look_edits
from anatome.scenes.storage import load_project
from anatome.site.site import Site
from anatome.site.sunlight import lit, sun_at


def test_the_sun_of_a_published_example() -> None:
    """Reda and Andreas, Solar Position Algorithm (NREL/TP-560-34302), its worked example: Golden, Colorado, 17 October 2003,
    12:30:30 at UTC − 7: azimuth 194.340°, zenith 50.112° (values from memory)."""
    golden = Place(latitude=39.742476, longitude=-105.1786, zone=-7)
    before, after = (np.array(sun_at(golden, f"2003-10-17T12:{m}")) for m in (30, 31))
    azimuth, height = (before + after) / 2
    assert azimuth == pytest.approx(194.340, abs=0.1) and height == pytest.approx(90 - 50.112, abs=0.05)


@given(st.floats(-60, 60), st.floats(-180, 180))
def test_noon_at_the_solstice_is_in_the_south_as_high_as_geometry_says(latitude: float, longitude: float) -> None:
    """At its highest the sun stands 90° − |latitude − 23.44°| over the horizon (obliquity of the ecliptic)."""
    place = Place(latitude=latitude, longitude=longitude, zone=0.0)

    def height(minute: int) -> float:
        return sun_at(place, f"2026-06-21T{minute % 1440 // 60:02d}:{minute % 60:02d}")[1]

    about = max(range(0, 1440, 20), key=height)
    assert max(map(height, range(about - 20, about + 20))) == pytest.approx(90 - abs(latitude - 23.44), abs=0.6)


def test_a_look_in_the_light_of_its_hour() -> None:
    """North turns the sun with it; at night nothing casts a shadow; without a place the look stays as it is."""
    look = Look(shadows=0.3, sun_moment="2026-03-20T09:00")
    place = Place(latitude=52.5, longitude=9.0)
    assert place.hours_ahead == 1.0 and lit(look, None) is look
    one, turned = lit(look, place), lit(look, place.model_copy(update={"north": 30.0}))
    assert not one.sun_with_view and one.sun_height == turned.sun_height and 10 < one.sun_height < 40
    assert (turned.sun_turn - one.sun_turn) % 360 == pytest.approx(30.0) and 90 < one.sun_turn < 180
    assert lit(look.model_copy(update={"sun_moment": "2026-03-20T02:00"}), place).shadows == 0.0


@pytest.mark.parametrize("moment", ["2026-02-30T12:00", "2026-06-21T25:00", "0001-01-01T00:00", "9999-12-31T23:59", "noon"])
def test_what_is_no_moment_is_found_when_it_is_read(moment: str) -> None:
    with pytest.raises(ValueError, match="sun_moment"):
        Look(sun_moment=moment)


def test_an_ifc_model_says_where_it_stands(boathouse: Building) -> None:
    """Degrees, minutes and seconds of IfcSite, and TrueNorth, as they were read from the file (tests/formats/test_opening.py)."""
    found = boathouse.place
    assert found is not None
    assert (found.latitude, found.longitude) == (52.5, 9.0) and found.north == pytest.approx(-20.0, abs=0.02)


def test_looks_are_shared_kept_and_laid_over() -> None:
    project = load_project(PROJECT).project
    using = look_edits.users(project, "Calm section")
    assert len(using) > 2
    mine = project.stage.look.model_copy(update={"cut_weight": 1.0, "name": "Calm section" + look_edits.CHANGED})
    project = project.model_copy(update={"stage": project.stage.model_copy(update={"look": mine})})
    kept = look_edits.keep_look(project, "Bold", frozenset(shipped_looks()))
    assert [look.name for look in kept.looks] == ["Bold"] and kept.stage.look.name == "Bold"
    assert look_edits.users(kept, "Calm section") == using
    for name in ("", "Bold", "White model"):
        with pytest.raises(Problem):
            look_edits.keep_look(kept, name, frozenset(shipped_looks()))
    for_all = look_edits.change_for_all(project)
    assert {s.state.look.cut_weight for s in for_all.scenes if s.state.look.name == "Calm section"} == {1.0}
    others = [(a, b) for a, b in zip(project.scenes, for_all.scenes) if a.state.look.name != "Calm section"]
    assert others and all(a == b for a, b in others) and for_all.stage.look.name == "Calm section"
    assert look_edits.drop_look(kept, "Bold").looks == ()


def test_a_later_rule_leaves_what_it_does_not_speak_of(boathouse: Building) -> None:
    walls = Selection(types=frozenset({"IfcWall"}))
    rules = Rule(who=walls, clear=0.6), Rule(who=walls, surface=rgb("#336699")), Rule(who=walls, lines=False)
    styles = resolve(Look(rules=rules), boathouse)
    mask = walls.mask(boathouse)
    assert styles.clear[mask].all() and not styles.clear[~mask].any() and not styles.lined[mask].any()
    assert {tuple(c) for c in styles.palette[styles.surface[mask]].tolist()} == {(0x33, 0x66, 0x99, 102)}


def test_what_is_laid_over_a_look_is_drawn_and_leaves_the_look_alone(boathouse: Building) -> None:
    project = look_edits.set_overrides(load_project(PROJECT).project, ())
    red = Rule(who=Selection(types=frozenset({"IfcWall"})), fill=rgb("#FF0000"))
    state = look_edits.set_overrides(project, (red,)).stage
    drawn = look_edits.drawn_look(state, Site(), boathouse)
    assert drawn.rules == (*state.look.rules, red) and state.look == project.stage.look
    assert look_edits.drawn_look(project.stage, Site(), boathouse) == project.stage.look
