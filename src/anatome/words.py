"""How things of the model are called. Beside the rooms, since the window and the notes both say them."""

from __future__ import annotations

import re
from collections.abc import Collection
from functools import lru_cache

# Control characters, halves of characters, and what Unicode says is no character: files of text cannot hold them.
UNPRINTABLE = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\ufffe\uffff]")


def printable(text: str) -> str:
    """Return text with a space in the place of each character that is no letter or sign, ends of lines and tabs kept."""
    return UNPRINTABLE.sub(" ", text)


NUMBERED = re.compile(r"[\s:#_.-]*\d+$")
"""The number that many programs put behind the name of a part."""


def unnumbered(name: str) -> str:
    """Return a name without the number at its end: “East wall 3” as “East wall”."""
    return NUMBERED.sub("", name)


@lru_cache(maxsize=1000)
def plain_type(name: str) -> str:
    """Return the name of a type as people say it: “IfcStairFlight” as “Stair flight”, “IfcWallStandardCase” as “Wall”."""
    if name == "IfcGeographicElement":
        return "Ground and planting"
    # Older files tell usual and composed parts from others by their class.
    bare = name.removeprefix("Ifc").removesuffix("StandardCase").removesuffix("ElementedCase")
    words = re.findall(r"[A-Z][a-z0-9]*", bare)
    return " ".join([words[0], *(w.lower() for w in words[1:])]) if words else name


def unlike(name: str, taken: Collection[str]) -> str:
    """Return a name none of those that are taken is like: itself, or with the first number from 2 on that makes it so."""
    number, found = 2, name
    while found in taken:
        found, number = f"{name} {number}", number + 1
    return found
