"""In which unit a model is drawn whose file does not say: the one in which it, its parts and its doors are as large as buildings,
parts and doors are."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.model.units import UNITS

Array = NDArray[np.float64]

USUAL = {
    "height": (7.0, 0.9),
    "across": (22.0, 1.0),
    "part": (1.3, 0.9),
    "thin": (0.1, 1.2),
    "door": (2.15, 0.12),
}
"""Metres a model is high, across in plan, most of its parts are long and thick, and doors are high; and by what natural logarithm
they vary. Our own, from houses and halls we looked at; door heights by common practice."""
SELDOM = {"metre": 0.0, "millimetre": 0.2, "centimetre": 1.0, "inch": 2.0, "foot": 2.5}
"""How seldom models come in a unit, as a natural logarithm: without a door, feet are hardly told from metres."""
DOOR = re.compile(r"door|tür|tuer|porte\b|puerta|porta\b|deur|dør|dörr|ovi\b", re.IGNORECASE)
DOORS = 1.2, 6.0
"""How many times as high as wide what is called a door may be; frames, handles and pairs of leaves are not."""
FEWEST = 8
"""Parts that say anything by their sizes."""
SAID = {"height": "it is {} high", "across": "it is {} across", "door": "a door is {} high"}


@dataclass(frozen=True)
class UnitGuess:
    """The ``unit`` by its name, and ``why`` it, in words with a number as the file has it."""

    unit: str
    why: str


def guess_unit(boxes: Array, names: Sequence[str]) -> UnitGuess:
    """Guess the unit of a model by (n, 2, 3) the boxes of its parts, Z up, as the file has them, and their names.

    Each unit is weighed by how far what is measured lies from what is usual, as the logarithm of a normal distribution, and by
    how seldom it is.
    """
    sizes = measured(boxes, names)
    if not sizes:
        return UnitGuess("metre", "")

    def against(unit: str) -> float:
        off = (((math.log(size * UNITS[unit]) - math.log(USUAL[name][0])) / USUAL[name][1]) for name, size in sizes.items())
        return SELDOM[unit] + sum(o * o / 2 for o in off)

    unit = min(UNITS, key=against)
    told = next(name for name in ("door", "across", "height") if name in sizes)
    return UnitGuess(unit, SAID[told].format(f"{sizes[told]:,.4g}" if sizes[told] < 1000 else f"{sizes[told]:,.0f}"))


def measured(boxes: Array, names: Sequence[str]) -> dict[str, float]:
    """Return what of a model says something of its unit, by its name in :data:`USUAL`, as the file has it."""
    finite = np.asarray(np.isfinite(boxes).all(axis=(1, 2)) if len(boxes) else np.zeros(0), bool)
    boxes = boxes[finite]
    if not len(boxes):
        return {}
    size = boxes[:, 1] - boxes[:, 0]
    whole = boxes[:, 1].max(axis=0) - boxes[:, 0].min(axis=0)
    found = {"height": float(whole[2]), "across": float(np.hypot(whole[0], whole[1]))}
    if len(boxes) >= FEWEST:
        found["part"] = float(np.median(size.max(axis=1)))
        found["thin"] = float(np.median(size.min(axis=1)))
    doors_named = [bool(DOOR.search(name)) for name in names] or [False] * len(finite)
    called: NDArray[np.bool_] = np.array(doors_named, bool)[finite]
    upright = size[:, 2] / np.maximum(np.maximum(size[:, 0], size[:, 1]), 1e-12)
    doors = size[called & (upright > DOORS[0]) & (upright < DOORS[1]), 2]
    if len(doors):
        found["door"] = float(np.median(doors))
    return {name: length for name, length in found.items() if length > 0}
