"""A section plane as the designer keeps it: a plane with a name, a mark letter and its switches."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from anatome.cuts.plane import Plane


class SectionPlane(BaseModel):
    """``on``: it cuts. ``poche``: what it cuts is filled. ``graphic``: the plane itself is shown while working."""

    model_config = ConfigDict(frozen=True)

    id: str
    name: str
    mark: str = Field(max_length=4)
    plane: Plane
    on: bool = True
    poche: bool = True
    graphic: bool = True


def next_mark(taken: set[str]) -> str:
    """The first free letter A…Z without I and O, which read as digits; then AA, BB and so on."""
    letters = "ABCDEFGHJKLMNPQRSTUVWXYZ"
    for repeat in range(1, 5):
        for letter in letters:
            if letter * repeat not in taken:
                return letter * repeat
    return "?"
