"""Colours brought into one family, in a space where equal steps look equal.

OKLab (Ottosson, 2020): lightness L, and a and b across; chroma is the distance from grey, hue the angle. Its matrices are values
from memory; the tests hold them against a second library.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_LMS, _FROM_LAB = np.linalg.inv(_TO_LMS), np.linalg.inv(_TO_LAB)

LIGHTEST, DARKEST = 0.955, 0.74
"""Lightness of harmonised colours, of white and of black before."""
MOST_CHROMA = 0.045
"""Chroma that even the loudest colour keeps at most; grey stays grey."""


def linear(srgb: Array) -> Array:
    """Light of sRGB values 0..1 (IEC 61966-2-1)."""
    return np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4)


def encoded(light: Array) -> Array:
    """sRGB values of light 0..1."""
    held = np.clip(light, 0.0, 1.0)
    return np.where(held <= 0.0031308, held * 12.92, 1.055 * held ** (1 / 2.4) - 0.055)


def to_oklab(srgb: Array) -> Array:
    """Return (..., 3) L, a, b of (..., 3) sRGB values 0..1."""
    return np.asarray(np.cbrt(linear(np.asarray(srgb, float)) @ _TO_LMS.T) @ _TO_LAB.T)


def from_oklab(lab: Array) -> Array:
    """Return (..., 3) sRGB values 0..1; what no screen shows is clipped."""
    return np.asarray(encoded((np.asarray(lab, float) @ _FROM_LAB.T) ** 3 @ _FROM_LMS.T))


def harmonised(srgb: Array, most_chroma: float = MOST_CHROMA) -> Array:
    """Return (..., 3) the same hues, pale and of even lightness: what was light stays lighter than what was dark.

    Chroma grows ever more slowly with what it was, towards the most, so no colour of a model is loud.
    """
    lab = to_oklab(srgb)
    lightness = DARKEST + (LIGHTEST - DARKEST) * lab[..., 0].clip(0.0, 1.0)
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    kept = most_chroma * chroma / np.maximum(chroma + most_chroma, 1e-9)
    scale = np.divide(kept, chroma, out=np.zeros_like(chroma), where=chroma > 1e-9)
    return from_oklab(np.stack([lightness, lab[..., 1] * scale, lab[..., 2] * scale], axis=-1))


def distinct(count: int, lightness: float = 0.86, chroma: float = 0.046) -> Array:
    """Return (count, 3) colours told apart by hue alone; neighbours in the list lie far apart on the circle (golden angle)."""
    hue = np.radians(35.0 + 137.508 * np.arange(count))
    return from_oklab(np.stack([np.full(count, lightness), chroma * np.cos(hue), chroma * np.sin(hue)], axis=-1))
