"""Grain taken out of light, without smearing what it falls on, nor shadows that are sharp.

The edge-avoiding à-trous transform (Dammertz and others, 2010), steered by the variance of what it smooths (Schied and others,
2017): rounds of a five by five kernel whose taps lie ever farther apart. A tap counts as far as it lies in the same plane,
faces the same way, and differs by no more than grain would.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.compiled import REAL, compiled
from anatome.raytracing.scene import Floats
from anatome.raytracing.seen_places import SeenPlaces

ROUNDS = 5
WITHIN = 3.0
"""Standard deviations of grain by which light may differ and still be the same."""

_FLAGS, _PLANE, _SPACE, _STEP = ("boolean", 2), ("float32", 2), ("float32", 3), ("int64", 0)


def smoothed(light: Floats, variance: Floats, seen: SeenPlaces, rounds: int = ROUNDS) -> Floats:
    """Return (h, w, 3) light without its grain, of which (h, w) is the variance of the mean of its colours."""
    held = _spread_variance(variance, seen.there)
    for number in range(rounds):
        light, held = _round(light, held, seen.there, seen.place, seen.normal, seen.spacing, 1 << number, WITHIN)
    return light


@compiled(_PLANE, _FLAGS)
def _spread_variance(variance: Floats, there: NDArray[np.bool_]) -> Floats:
    """The variance of few samples says little of itself: its mean over three by three."""
    height, width = variance.shape
    found = np.zeros_like(variance)
    for y in range(height):
        for x in range(width):
            total, weights = 0.0, 0.0
            for j in range(max(y - 1, 0), min(y + 2, height)):
                for i in range(max(x - 1, 0), min(x + 2, width)):
                    if there[j, i]:
                        weight = (2.0 if j == y else 1.0) * (2.0 if i == x else 1.0)
                        total += weight * variance[j, i]
                        weights += weight
            found[y, x] = total / weights if weights > 0 else 0.0
    return found


@compiled(_SPACE, _PLANE, _FLAGS, _SPACE, _SPACE, _PLANE, _STEP, REAL)
def _round(
    light: Floats,
    variance: Floats,
    there: NDArray[np.bool_],
    place: Floats,
    normal: Floats,
    spacing: Floats,
    step: int,
    within: float,
) -> tuple[Floats, Floats]:
    height, width = variance.shape
    found, left = light.copy(), variance.copy()
    kernel = np.array([0.0625, 0.25, 0.375, 0.25, 0.0625])
    for y in range(height):
        for x in range(width):
            if not there[y, x]:
                continue
            own = (light[y, x, 0] + light[y, x, 1] + light[y, x, 2]) / 3
            play = within * np.sqrt(max(variance[y, x], 0.0)) + 1e-4
            thick = spacing[y, x] * (0.75 + 0.25 * step)
            red, green, blue, total, spread = 0.0, 0.0, 0.0, 0.0, 0.0
            for j in range(5):
                yy = y + (j - 2) * step
                if yy < 0 or yy >= height:
                    continue
                for i in range(5):
                    xx = x + (i - 2) * step
                    if xx < 0 or xx >= width or not there[yy, xx]:
                        continue
                    along = (
                        normal[y, x, 0] * normal[yy, xx, 0]
                        + normal[y, x, 1] * normal[yy, xx, 1]
                        + normal[y, x, 2] * normal[yy, xx, 2]
                    )
                    if along < 0.8:
                        continue
                    off = abs(
                        normal[y, x, 0] * (place[yy, xx, 0] - place[y, x, 0])
                        + normal[y, x, 1] * (place[yy, xx, 1] - place[y, x, 1])
                        + normal[y, x, 2] * (place[yy, xx, 2] - place[y, x, 2])
                    )
                    if off > 3 * thick:
                        continue
                    other = (light[yy, xx, 0] + light[yy, xx, 1] + light[yy, xx, 2]) / 3
                    weight = kernel[j] * kernel[i] * along**16 * np.exp(-off / thick - abs(other - own) / play)
                    red += weight * light[yy, xx, 0]
                    green += weight * light[yy, xx, 1]
                    blue += weight * light[yy, xx, 2]
                    spread += weight * weight * variance[yy, xx]
                    total += weight
            if total > 0:
                found[y, x, 0], found[y, x, 1], found[y, x, 2] = red / total, green / total, blue / total
                left[y, x] = spread / (total * total)
    return found, left
