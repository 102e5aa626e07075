"""Which part of a picture is drawn."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Window:
    """The part of a picture to draw: pixels of the whole, and the tile in it (x, y from the lower left)."""

    width: int
    height: int
    tile: tuple[int, int, int, int] | None = None

    @property
    def part(self) -> tuple[int, int, int, int]:
        """The tile, or all of it."""
        return self.tile or (0, 0, self.width, self.height)

    def clip(self, jitter: tuple[float, float]) -> tuple[float, float, float, float]:
        """Scale and shift of clip coordinates that fit the tile to the target, moved by ``jitter`` pixels."""
        x, y, w, h = self.part
        sx, sy = self.width / w, self.height / h
        return (
            sx,
            sy,
            sx - 1 - 2 * x / w + 2 * jitter[0] / w,
            sy - 1 - 2 * y / h + 2 * jitter[1] / h,
        )
