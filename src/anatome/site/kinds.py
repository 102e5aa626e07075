"""The kinds of figures there are: how they are called, how tall they are at first, and their drawings."""

from __future__ import annotations

import zlib
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import lru_cache

from anatome.site import people, trees
from anatome.site.figure_drawing import FigureDrawing
from anatome.site.site import Figure

_PEOPLE: dict[str, Callable[[], FigureDrawing]] = {
    "standing": people.standing,
    "walking": people.walking,
    "talking": people.talking,
    "rower": people.rower,
    "sitting": people.sitting,
    "child": people.child,
}


@dataclass(frozen=True)
class Kind:
    """``height`` metres at first."""

    name: str
    words: str
    height: float

    @property
    def is_tree(self) -> bool:
        return self.name in trees.HABITS


KINDS = {
    kind.name: kind
    for kind in (
        Kind("standing", "Standing", 1.76),
        Kind("walking", "Walking", 1.72),
        Kind("talking", "Talking", 1.68),
        Kind("rower", "With an oar", 1.84),
        Kind("sitting", "Sitting", 1.28),
        Kind("child", "Child", 1.18),
        Kind("broad tree", "Broad tree", 8.0),
        Kind("slender tree", "Slender tree", 11.0),
        Kind("wide tree", "Wide tree", 9.0),
        Kind("young tree", "Young tree", 4.5),
        Kind("shrub", "Shrub", 1.4),
    )
}


def is_known(kind: str) -> bool:
    """Return whether this version can draw it; a file of a later one may name others."""
    return kind in KINDS


@lru_cache(maxsize=512)
def drawn(kind: str, figure_id: str) -> FigureDrawing:
    """Return a figure as one stands before it, one unit high. Trees differ by their id."""
    return _PEOPLE[kind]() if kind in _PEOPLE else trees.upright(kind, _seed(figure_id))


@lru_cache(maxsize=512)
def symbol(kind: str, figure_id: str) -> FigureDrawing:
    """Return the same in plan, for a height of one unit."""
    return people.from_above() if kind in _PEOPLE else trees.from_above(kind, _seed(figure_id))


def prepare_figures(figures: Iterable[Figure]) -> None:
    """Work out the drawings of figures now: a tree takes some hundredths of a second."""
    for figure in figures:
        if is_known(figure.kind):
            for own in (drawn(figure.kind, figure.id), symbol(figure.kind, figure.id)):
                _ = own.triangles, own.borders, own.inner


def _seed(figure_id: str) -> int:
    return zlib.crc32(figure_id.encode())
