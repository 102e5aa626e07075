"""Cuts as the designer keeps them: each kind there is, and how files tell them apart."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import Discriminator, Tag

from anatome.cuts.kinds.section_box import SectionBox
from anatome.cuts.kinds.section_plane import SectionPlane
from anatome.cuts.kinds.section_prism import SectionPrism
from anatome.cuts.kinds.stepped_section import SteppedSection

__all__ = ["AnyCut", "Cut", "SectionBox", "SectionPlane", "SectionPrism", "SteppedSection", "next_mark"]


def _kind_of(value: Any) -> str:
    """Projects written before there were other kinds hold planes without saying so."""
    kind = value.get("kind", "plane") if isinstance(value, dict) else getattr(value, "kind", "plane")
    return str(kind)


AnyCut = SectionPlane | SectionBox | SteppedSection | SectionPrism
Cut = Annotated[
    Annotated[SectionPlane, Tag("plane")]
    | Annotated[SectionBox, Tag("box")]
    | Annotated[SteppedSection, Tag("stepped")]
    | Annotated[SectionPrism, Tag("prism")],
    Discriminator(_kind_of),
]


def next_mark(taken: set[str]) -> str:
    """Return the first free letter A…Z without I and O, which read as digits; then AA, BB and so on."""
    letters = "ABCDEFGHJKLMNPQRSTUVWXYZ"
    for repeat in range(1, 5):
        for letter in letters:
            if letter * repeat not in taken:
                return letter * repeat
    return "?"
