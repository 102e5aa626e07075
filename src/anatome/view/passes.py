"""A picture taken apart for retouching: passes that register with it pixel by pixel, and layers that make it up."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

Image = NDArray[np.uint8]
Pass = Literal[
    "colour", "cut-fill", "cut-lines", "lines", "ambient", "shadow", "light", "notes", "depth", "elements", "materials", "masks"
]
PASSES: tuple[Pass, ...] = get_args(Pass)
SAYS: Mapping[Pass, str] = {
    "colour": "the picture itself",
    "cut-fill": "the fill of what is cut, over nothing",
    "cut-lines": "the lines round what is cut and between its parts, over nothing",
    "lines": "the lines beyond, over nothing",
    "ambient": "soft shade, to be multiplied",
    "shadow": "cast shadows, to be multiplied",
    "light": "the light of a still, in colour, to be multiplied; white where the picture is drawn",
    "notes": "what is written on the picture, over nothing",
    "depth": "how far off, light is near, 16 bits",
    "elements": "a colour for each part",
    "materials": "a colour for each material",
    "masks": "white where a type is seen, one for each type",
}


@dataclass(frozen=True, eq=False)
class PictureLayer:
    """``image`` (h, w, 4) RGBA, not premultiplied; put over what lies under it, or multiplied with it."""

    name: str
    image: Image
    multiplies: bool = False


@dataclass(frozen=True, eq=False)
class Passes:
    """All of one picture. ``colour`` (h, w, 4); ``images`` the other passes by name, (h, w, 4) or grey (h, w) of 8 or 16 bits;
    ``layers`` from the paper up, none if they were not asked for; ``tables`` what the colours of a pass mean."""

    colour: Image
    images: dict[str, NDArray[np.uint8] | NDArray[np.uint16]]
    layers: tuple[PictureLayer, ...] = ()
    tables: dict[str, object] = field(default_factory=dict)


def layer_between(before: NDArray[np.floating], after: NDArray[np.floating], cover: NDArray[np.floating]) -> Image:
    """Return (h, w, 4) the layer that put over ``before`` (h, w, 3) gives ``after``, both 0..1, with ``cover`` (h, w) alpha or
    more.

    It has more where no colour would do with less: at an edge that several layers share, each sample saw only one of them.
    """
    change = after - before
    room = np.where(change > 0, 1.0 - before, before)
    needed = np.divide(np.abs(change), room, out=np.zeros_like(change), where=room > 1e-6).max(axis=-1)
    # What would not be seen is left alone, so that layers stay clean where they have nothing.
    needed[np.abs(change).max(axis=-1) < 0.75 / 255] = 0.0
    alpha = np.ceil(np.clip(np.maximum(cover, needed), 0.0, 1.0) * 255 - 1e-6) / 255
    colour = before + np.divide(change, alpha[..., None], out=np.zeros_like(change), where=alpha[..., None] > 0)
    return np.round(np.concatenate([colour, alpha[..., None]], axis=-1).clip(0.0, 1.0) * 255).astype(np.uint8)


def laid_over(before: NDArray[np.floating], image: Image, multiplies: bool) -> NDArray[np.floating]:
    """Return (h, w, 3) 0..1 a layer put over what is under it (W3C Compositing and Blending: source over, multiply)."""
    colour, alpha = image[..., :3] / np.float32(255.0), image[..., 3:] / np.float32(255.0)
    return before + alpha * ((colour * before if multiplies else colour) - before)
