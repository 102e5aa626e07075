"""The site as a value: ground with a body, neighbours as blocks, rough bodies, people and trees for scale."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from anatome.model.place import Place
from anatome.site.relief import Relief
from anatome.values import FARTHEST, Value

Metres = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST)]
Point = tuple[Metres, Metres]
Ring = Annotated[tuple[Point, ...], Field(min_length=3, max_length=100_000)]

GROUND_ID = "site ground"
MOST_NEIGHBOURS = 20_000
MOST_FIGURES = 2_000
MOST_BODIES = 5_000
TALLEST = 1_000.0
"""Metres a neighbour may be high: the tallest of all buildings are not."""


class Ground(Value):
    """Earth whose top lies at ``level`` metres, or has a ``relief``, ``depth`` thick at the least, reaching so far ``beyond`` all
    that stands on it."""

    level: Metres = 0.0
    depth: float = Field(default=3.0, ge=0.05, le=200.0)
    beyond: float = Field(default=12.0, ge=0.0, le=10_000.0)
    relief: Relief | None = None


class Neighbour(Value):
    """A building nearby as a block: ``rings`` are its outline and its courtyards in metres, ``base`` the height of its foot
    (nothing: it stands on the ground), ``height`` metres from there to the top."""

    id: str = Field(min_length=1, max_length=200)
    name: str = Field(default="", max_length=500)
    rings: tuple[Ring, ...] = Field(min_length=1, max_length=1_000)
    base: Metres | None = None
    height: float = Field(gt=0.0, le=TALLEST)


class Neighbours(Value):
    """Blocks that came from one file, and where its origin lies in the model: moved by ``east`` and ``north`` metres after
    they were ``turned`` by degrees, anticlockwise seen from above."""

    name: str = Field(default="", max_length=500)
    blocks: tuple[Neighbour, ...] = Field(default=(), max_length=MOST_NEIGHBOURS)
    east: Metres = 0.0
    north: Metres = 0.0
    turned: float = Field(default=0.0, ge=-360.0, le=360.0)

    @field_validator("blocks")
    @classmethod
    def _ids_differ(cls, blocks: tuple[Neighbour, ...]) -> tuple[Neighbour, ...]:
        if len({b.id for b in blocks}) != len(blocks):
            raise ValueError("two neighbours have the same id")
        return blocks


class Figure(Value):
    """A person or a tree: the ``kind`` of drawing, where its foot stands in metres, how tall it is, whether it is mirrored, and
    the id of the element it stands ``on``, with which it is shown, hidden and displaced."""

    id: str = Field(min_length=1, max_length=200)
    kind: str = Field(max_length=100)
    place: tuple[Metres, Metres, Metres]
    height: float = Field(gt=0.05, le=100.0)
    mirrored: bool = False
    on: str | None = None


class RoughBody(Value):
    """A rough body of the project's own: a ``slab`` or a ``footing``, or a ``pit``, which is no body but missing earth. ``rings``
    are the outline and the holes in it, metres, upright between the levels ``low`` and ``high``."""

    id: str = Field(min_length=1, max_length=200)
    kind: Literal["slab", "footing", "pit"]
    name: str = Field(default="", max_length=500)
    material: str = Field(default="", max_length=500)
    rings: tuple[Ring, ...] = Field(min_length=1, max_length=1_000)
    low: Metres
    high: Metres

    @model_validator(mode="after")
    def _has_a_height(self) -> RoughBody:
        if self.high - self.low < 0.001:
            raise ValueError("a body reaches from one level up to a higher one")
        return self

    @property
    def element(self) -> str:
        """The id of the element it is."""
        return f"body {self.id}"


class Site(Value):
    """All of it."""

    ground: Ground | None = None
    neighbours: Neighbours = Neighbours()
    bodies: tuple[RoughBody, ...] = Field(default=(), max_length=MOST_BODIES, description="slabs, footings and pits of its own")
    figures: tuple[Figure, ...] = Field(default=(), max_length=MOST_FIGURES)
    place: Place | None = Field(default=None, description="where on earth it is, if not as the model's file says")

    @property
    def has_bodies(self) -> bool:
        """Whether there is anything that is cut like the building."""
        return self.ground is not None or bool(self.neighbours.blocks or self.bodies)

    @property
    def bodies_key(self) -> object:
        """What decides the bodies; the same for two sites that differ in their figures only."""
        return self.ground, self.neighbours, self.bodies

    def figure(self, figure_id: str | None) -> Figure | None:
        """Return the figure with this id, or None."""
        return next((f for f in self.figures if f.id == figure_id), None)


NO_SITE = Site()
