"""Hatches as families of parallel lines, in millimetres on paper or in metres of the model.

The format is our own and small: a file of JSON with ``"format": "anatome-hatches"`` and a list of hatches, each with a name,
words for people, a unit (``mm`` on paper or ``m`` of the model) and up to four families; docs/hatches.md explains the numbers.
"""

from __future__ import annotations

import json
from functools import cache
from importlib.resources import files
from pathlib import Path
from typing import Annotated, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field, ValidationError

from anatome.problems import Problem
from anatome.values import Value

Array = NDArray[np.float64]
Share = Annotated[float, Field(ge=0, le=1)]
MOST_FAMILIES = 4
MOST_LINES = 20_000
"""Lines of one family in one area: more would be grey anyway."""
ORIGIN = np.zeros(2)
DENSEST = 0.1
"""Mm on paper between lines, at least: half of what the finest pen leaves free."""
LONG = 2.0
"""Times as long as wide from which an area has a long side to follow."""


class Family(Value):
    """Parallel lines: their ``angle`` in degrees, the ``spacing`` between them, how far the first is shifted off the origin;
    ``dashes`` a dash and a gap, both nothing for whole lines; each further line's dashes begin ``stagger`` later."""

    angle: float = Field(ge=-360, le=360)
    spacing: float = Field(gt=0, le=1000)
    shift: float = Field(default=0.0, ge=-1000, le=1000)
    dashes: tuple[float, float] | None = None
    stagger: float = Field(default=0.0, ge=-1000, le=1000)

    @property
    def drawn_dashes(self) -> tuple[float, float] | None:
        """Dash and gap, nothing where one of them has no length: those are whole lines."""
        return self.dashes if self.dashes is not None and min(self.dashes) > 0 else None


class Hatch(Value):
    """``follows`` the plane of the cut, or the long side of each area: layers of insulation, boards along their grain. ``ink`` is
    the colour of its lines (sRGB 0..1), if not that of the look."""

    name: str = Field(min_length=1, max_length=100)
    words: str = Field(default="", max_length=200)
    unit: Literal["mm", "m"] = "mm"
    follows: Literal["plane", "long side"] = "plane"
    families: tuple[Family, ...] = Field(min_length=1, max_length=MOST_FAMILIES)
    ink: tuple[Share, Share, Share] | None = None

    def scaled(self, factor: float) -> Hatch:
        """Return the same with its lines so many times as far apart; each number stays within what a family may have."""

        def held(value: float) -> float:
            return min(max(value * factor, -1000.0), 1000.0)

        def scaled(f: Family) -> Family:
            dashes = None if f.dashes is None else (f.dashes[0] * factor, f.dashes[1] * factor)
            changed = {"spacing": held(f.spacing), "shift": held(f.shift), "dashes": dashes, "stagger": held(f.stagger)}
            return f.model_copy(update=changed)

        return self.model_copy(update={"families": tuple(scaled(f) for f in self.families)})

    def told_apart(self, number: int) -> Hatch:
        """Return the same for the ``number``th material that has it, so that neighbours differ (ISO 128, value from memory):
        turned by a right angle, then shifted too."""
        if number % 4 == 0:
            return self
        turn, shift = 90.0 * (number % 2 and self.follows == "plane"), 0.5 * (number % 4 >= 2)
        families = tuple(
            f.model_copy(update={"angle": (f.angle + turn) % 360, "shift": f.shift + shift * f.spacing}) for f in self.families
        )
        return self.model_copy(update={"families": families})


class HatchFile(Value):
    """A file of them."""

    format: Literal["anatome-hatches"]
    version: int = Field(ge=1)
    hatches: tuple[Hatch, ...] = Field(max_length=1000)


@cache
def shipped_hatches() -> dict[str, Hatch]:
    """Return those of cut faces that come with Anatome, by name."""
    return _shipped("hatches.json")


@cache
def shipped_patterns() -> dict[str, Hatch]:
    """Return those of surfaces, at real size."""
    return _shipped("patterns.json")


def _shipped(name: str) -> dict[str, Hatch]:
    text = (files("anatome.look") / "data" / name).read_text()
    return {hatch.name: hatch for hatch in HatchFile.model_validate_json(text).hatches}


def read_hatches(path: Path) -> tuple[Hatch, ...]:
    """Return the hatches in a file. Raises Problem when it is none of ours."""
    try:
        found = HatchFile.model_validate(json.loads(path.read_bytes())).hatches
        for hatch in found:
            _check(hatch, path.name)
        return found
    except OSError as error:
        raise Problem(f"“{path.name}” cannot be read: {error.strerror or error}.") from error
    except (ValidationError, ValueError, RecursionError) as error:
        first = error.errors()[0] if isinstance(error, ValidationError) else None
        where = ".".join(map(str, first["loc"])) + ": " + first["msg"] if first else str(error)
        raise Problem(f"“{path.name}” holds no hatches of the form docs/hatches.md describes. {where}") from error


def _check(hatch: Hatch, file: str) -> None:
    """Raise Problem for what could be drawn by nobody."""
    for family in hatch.families:
        if family.dashes is not None and min(family.dashes) <= 0:
            raise Problem(f"The hatch “{hatch.name}” in “{file}” has a dash or a gap without length. Both are above 0.")
        if hatch.unit == "mm" and family.spacing < DENSEST:
            raise Problem(
                f"The lines of the hatch “{hatch.name}” in “{file}” are {family.spacing:g} mm apart on paper; "
                f"{DENSEST:g} mm is the least."
            )


def long_side(polygon: shapely.Geometry) -> float | None:
    """Radians in which the long side of an area runs, None where it has none."""
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(polygon))
    if len(corners) < 4:
        return None
    sides = np.diff(corners[:3], axis=0)
    lengths = np.hypot(*sides.T)
    if lengths.max() < LONG * lengths.min():
        return None
    x, y = sides[int(np.argmax(lengths))]
    return float(np.arctan2(y, x)) % np.pi


def frame_of(hatch: Hatch, polygon: shapely.Geometry, base: Array) -> tuple[float, Array]:
    """Return (radians by which the hatch is turned in an area, (2,) its origin there).

    What follows the plane begins at one ``base`` (2,) in all areas, so that it goes on from one into the next.
    """
    turned = long_side(polygon) if hatch.follows == "long side" else None
    if turned is None:
        return 0.0, base
    # From a corner of the area, so that all areas of a size look alike.
    return turned, shapely.get_coordinates(shapely.minimum_rotated_rectangle(polygon))[0]


def hatch_lines(hatch: Hatch, polygon: shapely.Geometry, unit: float, base: Array = ORIGIN, millimetre: float = 1.0) -> Array:
    """Return (n, 2, 2) the lines of a hatch in an area, in the area's own measure, of which ``unit`` is one unit of the hatch
    and ``millimetre`` one on paper. Families closer than DENSEST on paper have none: they would be an even tone, and without
    end."""
    turned, origin = frame_of(hatch, polygon, base)
    found = [np.empty((0, 2, 2))]
    for family in hatch.families:
        if family.spacing * unit < DENSEST * millimetre:
            continue
        lines = _family_lines(family, polygon, unit, turned, origin, DENSEST * millimetre)
        if len(lines):
            kept = shapely.get_parts(shapely.intersection(shapely.multilinestrings(shapely.linestrings(lines)), polygon))
            points = [shapely.get_coordinates(line) for line in kept if line.geom_type == "LineString"]
            found += [np.stack([p[:-1], p[1:]], axis=1) for p in points if len(p) > 1]
    return np.concatenate(found)


def hatch_rows(
    hatch: Hatch, polygon: shapely.Geometry, unit: float, base: Array = ORIGIN
) -> list[tuple[Array, Array, Array, tuple[float, float] | None]]:
    """Return the same as lines without end, for each family: (2,) a place on one, the (2,) unit direction of all, the (2,) way
    from one to the next with what its dashes are moved by, and its dash and gap."""
    turned, origin = frame_of(hatch, polygon, base)
    found = []
    for family in hatch.families:
        angle = turned + np.radians(family.angle)
        along, across = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
        dashes = None if family.drawn_dashes is None else (family.drawn_dashes[0] * unit, family.drawn_dashes[1] * unit)
        step = family.spacing * unit * across + (0.0 if dashes is None else family.stagger * unit) * along
        found.append((origin + family.shift * unit * across, along, step, dashes))
    return found


def _family_lines(family: Family, polygon: shapely.Geometry, unit: float, turned: float, origin: Array, least: float) -> Array:
    """(n, 2, 2) whole lines or dashes that cover the bounds of an area."""
    angle = turned + np.radians(family.angle)
    along, across = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
    left, low, right, high = shapely.bounds(polygon)
    corners = np.array([[left, low], [right, low], [right, high], [left, high]]) - origin
    spacing, shift = family.spacing * unit, family.shift * unit
    first = int(np.ceil(((corners @ across).min() - shift) / spacing))
    last = int(np.floor(((corners @ across).max() - shift) / spacing))
    begin, end = float((corners @ along).min()), float((corners @ along).max())
    if last < first or last - first > MOST_LINES:
        return np.empty((0, 2, 2))
    rows = np.arange(first, last + 1)
    feet = origin + (rows * spacing + shift)[:, None] * across
    if family.drawn_dashes is None or sum(family.drawn_dashes) * unit < least:
        return np.stack([feet + begin * along, feet + end * along], axis=1)
    dash, period = family.drawn_dashes[0] * unit, sum(family.drawn_dashes) * unit
    starts = rows * family.stagger * unit
    count = int((end - begin) / period) + 2
    if len(rows) * count > MOST_LINES * 10:
        return np.empty((0, 2, 2))
    offset = starts + np.floor((begin - starts) / period) * period
    at = (offset[:, None] + period * np.arange(count)).ravel()
    own = np.repeat(feet, count, axis=0)
    return np.stack([own + at[:, None] * along, own + (at + dash)[:, None] * along], axis=1)
