"""Hatches as values: families of parallel lines, or a tile that is repeated, in millimetres on paper or in metres of the model.

The format is our own and small: a file of JSON with ``"format": "anatome-hatches"`` and a list of hatches, each with a name,
words for people, a unit (``mm`` on paper or ``m`` of the model) and families or a tile; docs/hatches.md explains the numbers.
"""

from __future__ import annotations

import math
from functools import cache
from importlib.resources import files
from typing import Annotated, Literal

import numpy as np
from pydantic import Field, model_validator

from anatome.values import Value

Share = Annotated[float, Field(ge=0, le=1)]
MOST_FAMILIES, MOST_DASHES = 64, 12
"""Families of a hatch, and numbers of the dashes of one."""
MOST_STROKES, MOST_PLACES = 500, 64
"""Lines of a tile, and places of one of them."""
DENSEST = 0.1
"""Mm on paper between the lines of a hatch in a file, at least."""
LEAST = 0.5
"""Mm on paper between lines that are drawn, at least: what is closer is thinned out, or prints grow grey."""
Follows = Literal["plane", "paper", "long side"]


class Family(Value):
    """Parallel lines: their ``angle`` in degrees, the ``spacing`` between them, how far the first is shifted off the origin;
    ``dashes`` are dash and gap in turn, a dash of no length being a dot, nothing for whole lines; they begin ``start`` along
    the first line, and ``stagger`` later on each further one."""

    angle: float = Field(ge=-360, le=360)
    spacing: float = Field(gt=0, le=1000)
    shift: float = Field(default=0.0, ge=-1000, le=1000)
    dashes: tuple[float, ...] | None = Field(default=None, min_length=2, max_length=MOST_DASHES)
    stagger: float = Field(default=0.0, ge=-1000, le=1000)
    start: float = Field(default=0.0, ge=-1000, le=1000)

    @property
    def drawn_dashes(self) -> tuple[float, ...] | None:
        """Dashes and gaps, nothing where they cannot be drawn: those are whole lines."""
        dashes = self.dashes
        if dashes is None or len(dashes) % 2 or min(dashes) < 0 or min(dashes[1::2]) <= 0:
            return None
        return dashes

    def scaled(self, factor: float) -> Family:
        """Return the same so many times as large; each number stays within what a family may have."""

        def held(value: float) -> float:
            return min(max(value * factor, -1000.0), 1000.0)

        dashes = None if self.dashes is None else tuple(d * factor for d in self.dashes)
        lengths = {key: held(getattr(self, key)) for key in ("spacing", "shift", "stagger", "start")}
        return self.model_copy(update={**lengths, "dashes": dashes})


Place = tuple[Annotated[float, Field(ge=-10_000, le=10_000)], Annotated[float, Field(ge=-10_000, le=10_000)]]


class Tile(Value):
    """Lines on a tile ``size`` wide and high that is repeated both ways; places are from its lower left corner."""

    size: tuple[Annotated[float, Field(gt=0, le=1000)], Annotated[float, Field(gt=0, le=1000)]]
    strokes: tuple[Annotated[tuple[Place, ...], Field(min_length=2, max_length=MOST_PLACES)], ...] = Field(
        min_length=1, max_length=MOST_STROKES
    )

    def scaled(self, factor: float) -> Tile:
        """Return the same so many times as large."""
        strokes = tuple(tuple((x * factor, y * factor) for x, y in stroke) for stroke in self.strokes)
        return Tile(size=(self.size[0] * factor, self.size[1] * factor), strokes=strokes)

    @property
    def length(self) -> float:
        """Of all its lines together."""
        return sum(float(np.hypot(*np.diff(np.array(stroke), axis=0).T).sum()) for stroke in self.strokes)


class Hatch(Value):
    """``follows`` the plane of the cut; or the paper, so that its angle is that of the picture however the plane is seen; or the
    long side of each area: layers of insulation, boards along their grain. ``turn`` in degrees and ``shift`` move all of it;
    ``ink`` is the colour of its lines (sRGB 0..1) and ``weight`` their mm on paper, if not those of the look."""

    name: str = Field(min_length=1, max_length=100)
    words: str = Field(default="", max_length=200)
    unit: Literal["mm", "m"] = "mm"
    follows: Follows = "plane"
    families: tuple[Family, ...] = Field(default=(), max_length=MOST_FAMILIES)
    tile: Tile | None = None
    turn: float = Field(default=0.0, ge=-360, le=360)
    shift: tuple[float, float] = (0.0, 0.0)
    ink: tuple[Share, Share, Share] | None = None
    weight: float | None = Field(default=None, ge=0.01, le=5.0)

    @model_validator(mode="after")
    def _has_lines(self) -> Hatch:
        if not self.families and self.tile is None:
            raise ValueError("a hatch has families of lines, or a tile")
        return self

    @property
    def finest(self) -> float:
        """How far apart its lines lie, where they lie closest; of a tile as lines of its length would."""
        apart = [family.spacing for family in self.families]
        if self.tile is not None:
            apart.append(self.tile.size[0] * self.tile.size[1] / max(self.tile.length, 1e-9))
        return min(apart)

    def thinning(self, millimetres: float) -> float:
        """Return how many times as large it is drawn where one of its units is so many mm on paper: 1, or a power of 2 with which
        its lines do not lie closer than LEAST."""
        apart = self.finest * millimetres
        return 1.0 if not 0.0 < apart < LEAST else 2.0 ** math.ceil(math.log2(LEAST / apart) - 1e-9)

    def scaled(self, factor: float) -> Hatch:
        """Return the same with its lines so many times as far apart."""
        tile = None if self.tile is None else self.tile.scaled(factor)
        return self.model_copy(update={"families": tuple(f.scaled(factor) for f in self.families), "tile": tile})

    def told_apart(self, number: int) -> Hatch:
        """Return the same for the ``number``th material that has it, so that neighbours differ (ISO 128, value from memory):
        turned by a right angle, then shifted too."""
        if number % 4 == 0:
            return self
        turn, shift = 90.0 * (number % 2 and self.follows == "plane"), 0.5 * (number % 4 >= 2)
        families = tuple(f.model_copy(update={"shift": f.shift + shift * f.spacing}) for f in self.families)
        return self.model_copy(update={"families": families, "turn": (self.turn + turn) % 360})


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
