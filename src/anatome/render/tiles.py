"""A large picture, tile by tile."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from anatome.problems import Problem
from anatome.render.window import Window

TILE = 2040
"""Pixels across at most, and a multiple of all that probes of ambient occlusion span, so that they lie in one grid."""
LARGEST = 30_000
LONGEST = 49
"""Times that a picture may be longer than high, or higher than long."""


@dataclass(frozen=True)
class Tile:
    """Pixels (x, y, w, h) of the whole, from its lower left, drawn with up to ``pad`` more on every side within the whole."""

    place: tuple[int, int, int, int]
    pad: int
    whole: tuple[int, int]

    @property
    def drawn(self) -> tuple[int, int, int, int]:
        """Pixels (x, y, w, h) of what is drawn, with the pad."""
        x, y, w, h = self.place
        left, low = max(x - self.pad, 0), max(y - self.pad, 0)
        return left, low, min(x + w + self.pad, self.whole[0]) - left, min(y + h + self.pad, self.whole[1]) - low

    @property
    def size(self) -> tuple[int, int]:
        """Of what is drawn."""
        return self.drawn[2:]

    @property
    def window(self) -> Window:
        """What is drawn, in the whole."""
        return Window(*self.whole, self.drawn)

    @property
    def heights(self) -> tuple[float, float]:
        """Shares of the whole picture's height between which what is drawn lies."""
        return self.drawn[1] / self.whole[1], (self.drawn[1] + self.drawn[3]) / self.whole[1]

    @property
    def own(self) -> tuple[int, int, int, int]:
        """Pixels (x, y, w, h) of what is drawn that are no pad."""
        x, y, w, h = self.place
        return x - self.drawn[0], y - self.drawn[1], w, h

    @property
    def rows(self) -> slice:
        """In an image with its top row first."""
        _, y, _, h = self.place
        return slice(self.whole[1] - y - h, self.whole[1] - y)

    @property
    def columns(self) -> slice:
        x, _, w, _ = self.place
        return slice(x, x + w)

    @property
    def inside(self) -> tuple[slice, slice]:
        """Rows and columns of what is drawn, the lowest row first, that are not pad."""
        x, y, w, h = self.own
        return slice(y, y + h), slice(x, x + w)


def tiles(size: tuple[int, int], pad: int, most: int = 0) -> Iterator[Tile]:
    """Yield all tiles of a picture of this size, each ``most`` pixels across. Raises Problem for sizes no picture has."""
    most = most or TILE
    width, height = size
    if not (1 <= width <= LARGEST and 1 <= height <= LARGEST):
        raise Problem(f"A picture of {width} × {height} pixels cannot be made. Each side may be 1 to {LARGEST}.")
    if not 1 / LONGEST < width / height < LONGEST:
        raise Problem(f"A picture of {width} × {height} pixels cannot be made: it may be {LONGEST} times as long as high.")
    for y in range(0, height, most):
        for x in range(0, width, most):
            yield Tile((x, y, min(most, width - x), min(most, height - y)), pad, size)
