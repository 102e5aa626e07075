"""Hatches on the graphics side: their families as numbers, their tiles as distances to the nearest line."""

from __future__ import annotations

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.look.hatches import LEAST, MOST_DASHES, Hatch, Tile
from anatome.render.programs import UNITS

HEAD, TEXELS = 4, 2 + MOST_DASHES // 4
"""Texels before the families of a hatch, and of each of them."""
TILE = 256
"""Texels of a tile each way."""


class HatchTextures:
    """Of some hatches, in their order."""

    def __init__(self, ctx: moderngl.Context, hatches: tuple[Hatch, ...]) -> None:
        most = max((len(hatch.families) for hatch in hatches), default=0)
        rows = np.zeros((max(len(hatches), 1), HEAD + TEXELS * most, 4), np.float32)
        tiles: list[Tile] = []
        for row, hatch in zip(rows, hatches):
            layer = -1
            if hatch.tile is not None:
                layer = tiles.index(hatch.tile) if hatch.tile in tiles else len(tiles)
                tiles += [hatch.tile] if layer == len(tiles) else []
            _write(row, hatch, layer)
        self._families = ctx.texture((rows.shape[1], len(rows)), 4, data=rows.tobytes(), dtype="f4")
        self._families.filter = moderngl.NEAREST, moderngl.NEAREST
        size = TILE if tiles else 1
        told = np.concatenate([_distances(tile).ravel() for tile in tiles]) if tiles else np.zeros(1, np.float32)
        self._tiles = ctx.texture_array((size, size, max(len(tiles), 1)), 1, data=told.tobytes(), dtype="f4")
        self._tiles.filter = moderngl.LINEAR, moderngl.LINEAR
        self._tiles.repeat_x = self._tiles.repeat_y = True

    def use(self) -> dict[str, float]:
        """Bind them, and return what the shader is told of them."""
        self._families.use(UNITS["families"])
        self._tiles.use(UNITS["tiles"])
        return {"least": LEAST}


def _write(row: NDArray[np.float32], hatch: Hatch, layer: int) -> None:
    """The texels of a hatch: its ink; how many families, weight, unit, how close its lines lie; its tile and whether it follows
    the paper; its shift; and for each family cos, sin, spacing, shift; stagger, start, how many dashes; dashes and gaps."""
    if hatch.ink is not None:
        row[0] = (*hatch.ink, 1.0)
    row[1] = len(hatch.families), -1.0 if hatch.weight is None else hatch.weight, float(hatch.unit == "m"), hatch.finest
    across, upward = (0.0, 0.0) if hatch.tile is None else hatch.tile.size
    row[2] = layer, across, upward, float(hatch.follows == "paper")
    row[3, :2] = hatch.shift
    for number, family in enumerate(hatch.families):
        at = HEAD + TEXELS * number
        angle, dashes = np.radians(family.angle), family.drawn_dashes or ()
        row[at] = np.cos(angle), np.sin(angle), family.spacing, family.shift
        row[at + 1, :3] = family.stagger, family.start, len(dashes)
        row[at + 2 : at + TEXELS].reshape(-1)[: len(dashes)] = dashes


def _distances(tile: Tile) -> NDArray[np.float32]:
    """(TILE, TILE) how far the middle of each texel is from the nearest line, in the units of the tile, those of its neighbours
    included; rows from below."""
    size, step = np.array(tile.size), max(tile.size) / TILE
    places = []
    for stroke in tile.strokes:
        points = np.array(stroke)
        for a, b in zip(points[:-1], points[1:]):
            count = max(int(np.hypot(*(b - a)) / (0.4 * step)) + 1, 2)
            places.append(a + np.linspace(0.0, 1.0, count)[:, None] * (b - a))
    x, y = np.meshgrid((np.arange(TILE) + 0.5) / TILE, (np.arange(TILE) + 0.5) / TILE)
    middles = np.stack([x.ravel(), y.ravel()], axis=1) * size
    # On a torus a place outside of the tile lies in it again.
    from scipy.spatial import cKDTree  # slow to load

    tree = cKDTree(np.concatenate(places) % size, boxsize=size)
    return np.asarray(tree.query(middles)[0], np.float32).reshape(TILE, TILE)
