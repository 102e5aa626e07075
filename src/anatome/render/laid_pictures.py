"""Pictures on surfaces, on the graphics side: those a model brings, and those a look lays on."""

from __future__ import annotations

import base64
import math
from collections import OrderedDict
from collections.abc import Sequence

import moderngl
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from anatome.look.laying import By, part_axis
from anatome.look.styles import Styles
from anatome.model.building import Building
from anatome.pictures import on_white, open_picture
from anatome.problems import Problem

SIDE = 512
"""Pixels on a side of every picture: they lie in one stack."""
UNITS = {"textures": 5, "maps": 6, "pictures": 7, "laid": 8}
NONE = {**UNITS, "textured": 0, "pictured": 0, "turned": 0}
"""What surface.frag is told where nothing of it is wanted."""
KEPT = 3
"""Looks whose pictures are kept at a time: a divided picture draws with two by turns."""
BY: tuple[By, ...] = ("face", "box", "part")
"""As surface.frag counts them."""
ROW = 1024
"""Texels in a line of a table; surface.frag knows it too."""


class LaidPictures:
    """Textures for surface.frag. ``use`` binds them; what is missing is a single texel that nobody asks for."""

    def __init__(self, ctx: moderngl.Context, building: Building, centre: NDArray[np.float64]) -> None:
        self._ctx, self._building = ctx, building
        textures = building.textures
        self._textures = _stack(ctx, [] if textures is None else list(textures.images))
        rows = np.zeros((1, 3, 4)) if textures is None else np.zeros((len(textures.maps), 3, 4))
        if textures is not None:
            rows[:, :2] = textures.maps
            # Places are told from the centre.
            rows[:, :2, 3] += textures.maps[:, :, :3] @ centre
            rows[:, :2, 3] -= np.floor(rows[:, :2, 3])
            rows[:, 2, 0] = textures.picture
        self._maps = _table(ctx, rows.reshape(-1, 4).astype(np.float32))
        # By the styles, which are held so that another one is not taken for them.
        self._kept: OrderedDict[int, tuple[Styles, moderngl.TextureArray, moderngl.Texture]] = OrderedDict()

    def use(self, styles: Styles) -> dict[str, int]:
        """Bind what a look lays on; returns the uniforms that say where."""
        if id(styles) not in self._kept:
            pictures = _stack(self._ctx, [_told(p.data) for p in styles.pictures])
            # For each element which picture, how many metres wide and high it is, how level surfaces are turned; how it is laid.
            sizes = np.array([_metres(p.data, p.metres) for p in styles.pictures] or [(1.0, 1.0)])
            rows = np.zeros((len(styles.picture), 4, 4), np.float32)
            rows[:, 0, 0] = styles.picture
            rows[:, 0, 1:3] = sizes[np.maximum(styles.picture, 0)]
            rows[:, 0, 3] = self._building.level_turn
            self._lay(rows, styles)
            self._kept[id(styles)] = styles, pictures, _table(self._ctx, rows.reshape(-1, 4))
            while len(self._kept) > KEPT:
                self._kept.popitem(last=False)
        self._kept.move_to_end(id(styles))
        _, pictures, laid = self._kept[id(styles)]
        self._textures.use(UNITS["textures"])
        self._maps.use(UNITS["maps"])
        pictures.use(UNITS["pictures"])
        laid.use(UNITS["laid"])
        return {**UNITS, "textured": int(styles.textured), "pictured": int((styles.picture >= 0).any()), "turned": 1}

    def _lay(self, rows: NDArray[np.float32], styles: Styles) -> None:
        """By what, how many times as large, turned how; shifted; along what."""
        told = [(BY.index(one.by), one.scale, *_turn(one.turn)) for one in styles.layings]
        rows[:, 1] = np.array(told, np.float32)[styles.laying]
        rows[:, 2, :2] = np.array([one.shift for one in styles.layings], np.float32)[styles.laying]
        along = np.array([one.by == "part" for one in styles.layings])[styles.laying]
        for element in np.flatnonzero(along).tolist():
            rows[element, 3, :3] = part_axis(self._building, element)


def _turn(degrees: float) -> tuple[float, float]:
    return math.cos(math.radians(degrees)), math.sin(math.radians(degrees))


def wanted(styles: Styles) -> bool:
    """Return whether a look shows any, or patterns, which lie as they do."""
    return styles.textured or bool(styles.patterns) or bool((styles.picture >= 0).any())


def _opened(data: bytes) -> Image.Image:
    """A picture, or a grey one in place of what is none."""
    try:
        return on_white(open_picture(data))
    except Problem:
        return Image.new("RGB", (1, 1), (200, 200, 200))


def _told(data: str) -> bytes:
    """The bytes of a picture kept as base64; none where it is not even that."""
    try:
        return base64.b64decode(data, validate=True)
    except ValueError:
        return b""


def _metres(data: str, width: float) -> tuple[float, float]:
    picture = _opened(_told(data))
    return width, width * picture.height / picture.width


def _stack(ctx: moderngl.Context, images: Sequence[bytes]) -> moderngl.TextureArray:
    """All of one size, their lowest rows first."""
    made = [np.asarray(_opened(data).resize((SIDE, SIDE)).transpose(Image.Transpose.FLIP_TOP_BOTTOM)) for data in images]
    whole = np.stack(made) if made else np.zeros((1, 1, 1, 3), np.uint8)
    count, height, width, _ = whole.shape
    texture = ctx.texture_array((width, height, count), 3, np.ascontiguousarray(whole).tobytes(), alignment=1)
    texture.build_mipmaps()
    texture.filter = moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR
    return texture


def _table(ctx: moderngl.Context, rows: NDArray[np.float32]) -> moderngl.Texture:
    whole = np.zeros((max(1, -(-len(rows) // ROW)) * ROW, 4), np.float32)
    whole[: len(rows)] = rows
    made = ctx.texture((ROW, len(whole) // ROW), 4, whole.tobytes(), dtype="f4")
    made.filter = moderngl.NEAREST, moderngl.NEAREST
    return made
