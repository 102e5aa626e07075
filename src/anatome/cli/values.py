"""Reading planes, boxes, sizes and lists as they are typed after an option. All raise Problem."""

from __future__ import annotations

import math

from anatome.cuts.kinds.box import Box
from anatome.cuts.plane import Plane
from anatome.cuts.reach import EVERYTHING, Reach
from anatome.lengths import SCALE_RANGE
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.problems import Problem
from anatome.scenes.film import Film
from anatome.scenes.project import Project, Scene


def numbers(text: str) -> list[float]:
    """Numbers with commas between them; an empty list when there is anything else."""
    try:
        return [float(part) for part in text.split(",")]
    except ValueError:
        return []


def parse_plane(text: str) -> Plane:
    """Six numbers: a point and a normal."""
    values = numbers(text)
    if len(values) != 6:
        raise Problem(f"“{text}” is not a plane. Give six numbers, for example --plane 0,5.75,0,0,-1,0.")
    return Plane((values[0], values[1], values[2]), (values[3], values[4], values[5]))


def parse_box(text: str) -> Box:
    """Seven numbers: centre, sizes and the angle in degrees; without an angle it is 0."""
    values = numbers(text)
    if len(values) == 6:
        values.append(0.0)
    if len(values) != 7:
        raise Problem(f"“{text}” is not a box. Give centre, sizes and angle, for example --box 10,5,3,6,4,3,30.")
    return Box((values[0], values[1], values[2]), (values[3], values[4], values[5]), values[6])


def parse_series(text: str) -> tuple[int, float]:
    """Return how many sections, and the spacing in metres."""
    values = numbers(text)
    if len(values) != 2 or not all(map(math.isfinite, values)) or values[0] != int(values[0]):
        raise Problem(f"“{text}” is not a series. Give a number of sections and a spacing, for example --series 12,2.5.")
    return int(values[0]), values[1]


def parse_reach(building: Building, only: str | None, all_but: str | None) -> Reach:
    """Return what the cut reaches, by element types as the model calls them; upper and lower case do not matter."""
    if only is None and all_but is None:
        return EVERYTHING
    known = {name.lower(): name for name in building.type_counts}
    wanted = [part.strip() for part in (only or all_but or "").split(",") if part.strip()]
    if not wanted:
        raise Problem(f"Name at least one type to cut, or not to cut. The model has {', '.join(building.type_counts)}.")
    unknown = [name for name in wanted if name.lower() not in known]
    if unknown:
        raise Problem(f"The model has no “{unknown[0]}”. It has {', '.join(building.type_counts)}.")
    types = frozenset(known[name.lower()] for name in wanted)
    return Reach(mode="only" if only is not None else "all but", what=Selection(types=types))


def check_scale(scale: float) -> float:
    """Return the 50 of 1:50, if drawings can be made at it."""
    low, high = SCALE_RANGE
    if not low <= scale <= high:
        raise Problem(f"A drawing has a scale from 1:{low:g} to 1:{high:,.0f}, for example --scale 50; not {scale:g}.")
    return scale


def scene_named(project: Project, name: str) -> Scene:
    """Return the scene with a name. Raises Problem, saying which there are."""
    scene = next((s for s in project.scenes if s.name == name), None)
    if scene is None:
        names = ", ".join(f"“{s.name}”" for s in project.scenes)
        raise Problem(f"There is no scene “{name}”. There is {names}." if names else "The project has no scenes yet.")
    return scene


def film_named(project: Project, name: str) -> Film:
    """Find a film of a project."""
    found = next((film for film in project.films if film.name == name), None)
    if found is None:
        known = ", ".join(film.name for film in project.films) or "it has none yet"
        raise Problem(f"There is no film “{name}” in the project: {known}.")
    return found
