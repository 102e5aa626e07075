"""Rays that are to be followed, and the places they meet, many at a time.

What NumPy would do in thirty passes over arrays takes as long as following the rays does; compiled it takes next to nothing.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.compiled import FLAGS, REAL, REALS, compiled

Floats = NDArray[np.float32]
Numbers = NDArray[np.int64]

_ROW, _ROWS, _STACK, _MET = ("float32", 1), ("float32", 2), ("float32", 3), ("int32", 1)


@compiled(_ROWS, _ROWS)
def spread_by_cosine(normals: Floats, random: Floats) -> Floats:
    """Return (n, 3) unit directions round (n, 3) normals, as many as the cosine to them; by (n, 2) numbers 0..1 (Malley's
    method).

    The frame round a normal is that of Duff and others, “Building an Orthonormal Basis, Revisited” (2017).
    """
    found = np.empty_like(normals)
    for i in range(len(normals)):
        x, y, z = normals[i, 0], normals[i, 1], normals[i, 2]
        sign = 1.0 if z >= 0 else -1.0
        a = -1.0 / (sign + z)
        b = x * y * a
        radius, angle = np.sqrt(random[i, 0]), 2 * np.pi * random[i, 1]
        p, q, r = radius * np.cos(angle), radius * np.sin(angle), np.sqrt(max(1.0 - random[i, 0], 0.0))
        found[i, 0] = p * (1 + sign * x * x * a) + q * b + r * x
        found[i, 1] = p * sign * b + q * (sign + y * y * a) + r * y
        found[i, 2] = -p * sign * x - q * y + r * z
    return found


@compiled(_ROWS, _ROWS, _ROWS, _ROWS, REAL, REAL)
def sun_rays(
    places: Floats, normals: Floats, random: Floats, axes: Floats, spread: float, nudge: float
) -> tuple[Numbers, Floats, Floats, Floats]:
    """Towards a point of the sun's disc, by (n, 2) numbers 0..1, from places that are turned to it.

    ``axes`` (3, 3): the direction to its middle and two across; ``spread`` how far off its edge is a metre away. Gives (m,) which
    places, (m, 3) origins and unit directions, (m,) the cosine to the normal.
    """
    count = len(places)
    which, cosine = np.empty(count, np.int64), np.empty(count, np.float32)
    origins, directions = np.empty((count, 3), np.float32), np.empty((count, 3), np.float32)
    made = 0
    for i in range(count):
        angle, radius = 2 * np.pi * random[i, 0], spread * np.sqrt(random[i, 1])
        p, q = radius * np.cos(angle), radius * np.sin(angle)
        x = axes[0, 0] + p * axes[1, 0] + q * axes[2, 0]
        y = axes[0, 1] + p * axes[1, 1] + q * axes[2, 1]
        z = axes[0, 2] + p * axes[1, 2] + q * axes[2, 2]
        length = np.sqrt(x * x + y * y + z * z)
        along = (x * normals[i, 0] + y * normals[i, 1] + z * normals[i, 2]) / length
        if along <= 0 or z <= 0:
            continue
        which[made], cosine[made] = i, along
        directions[made, 0], directions[made, 1], directions[made, 2] = x / length, y / length, z / length
        for k in range(3):
            origins[made, k] = places[i, k] + nudge * normals[i, k]
        made += 1
    return which[:made], origins[:made], directions[:made], cosine[:made]


@compiled(_ROWS, _ROWS, _ROWS, _STACK, _ROWS, FLAGS, REALS, _ROW, REAL, REAL)
def lamp_rays(
    places: Floats,
    normals: Floats,
    random: Floats,
    corners: Floats,
    facing: Floats,
    both: NDArray[np.bool_],
    upto: NDArray[np.float64],
    chance: Floats,
    nudge: float,
    near: float,
) -> tuple[Numbers, Floats, Floats, Floats, Numbers, Floats]:
    """To a point of one lamp for each place, by (n, 3) numbers 0..1; of those that face one another.

    ``corners`` (k, 3, 3) and ``facing`` (k, 3) are of the triangles that shine, ``both`` (k,) of those that do so on both sides;
    ``upto`` (k,) is the share of samples that falls on those so far, ``chance`` (k,) that by area; within ``near`` metres light
    grows no more. Gives (m,) which places, (m, 3) origins and unit directions, (m,) how far, (m,) to which triangle, (m,) how
    much of its radiance arrives.
    """
    count = len(places)
    which, number = np.empty(count, np.int64), np.empty(count, np.int64)
    origins, directions = np.empty((count, 3), np.float32), np.empty((count, 3), np.float32)
    far, strength = np.empty(count, np.float32), np.empty(count, np.float32)
    made = 0
    for i in range(count):
        chosen = min(np.searchsorted(upto, random[i, 0]), len(upto) - 1)
        # Evenly over a triangle (Turk, 1990).
        root, b = np.sqrt(random[i, 1]), random[i, 2]
        u, v, w = 1 - root, root * (1 - b), root * b
        x = u * corners[chosen, 0, 0] + v * corners[chosen, 1, 0] + w * corners[chosen, 2, 0] - places[i, 0]
        y = u * corners[chosen, 0, 1] + v * corners[chosen, 1, 1] + w * corners[chosen, 2, 1] - places[i, 1]
        z = u * corners[chosen, 0, 2] + v * corners[chosen, 1, 2] + w * corners[chosen, 2, 2] - places[i, 2]
        distance = np.sqrt(x * x + y * y + z * z)
        if distance < 3 * nudge:
            continue
        x, y, z = x / distance, y / distance, z / distance
        here = x * normals[i, 0] + y * normals[i, 1] + z * normals[i, 2]
        there = -(x * facing[chosen, 0] + y * facing[chosen, 1] + z * facing[chosen, 2])
        if both[chosen]:
            there = abs(there)
        if here <= 0 or there <= 0:
            continue
        which[made], number[made] = i, chosen
        directions[made, 0], directions[made, 1], directions[made, 2] = x, y, z
        for k in range(3):
            origins[made, k] = places[i, k] + nudge * normals[i, k]
        far[made] = max(distance * (1 - 1e-4) - 3 * nudge, 0.0)
        strength[made] = here * there / (max(distance, near) ** 2 * chance[chosen])
        made += 1
    return which[:made], origins[:made], directions[:made], far[:made], number[:made], strength[:made]


@compiled(_ROWS, _ROWS, _MET, _STACK, _ROWS)
def how_far(origins: Floats, directions: Floats, met: NDArray[np.int32], corners: Floats, normal: Floats) -> Floats:
    """Return (n,) metres to the planes of the triangles that rays meet; infinite where they meet none."""
    found = np.empty(len(origins), np.float32)
    for i in range(len(origins)):
        t = met[i]
        if t < 0:
            found[i] = np.inf
            continue
        above, along = 0.0, 0.0
        for k in range(3):
            above += (corners[t, 0, k] - origins[i, k]) * normal[t, k]
            along += directions[i, k] * normal[t, k]
        found[i] = max(above / along, 0.0) if abs(along) > 1e-12 else 0.0
    return found


@compiled(_ROWS, _ROWS)
def facing(normals: Floats, directions: Floats) -> Floats:
    """Return (n, 3) normals, turned towards where rays along (n, 3) directions come from."""
    found = np.empty_like(normals)
    for i in range(len(normals)):
        along = normals[i, 0] * directions[i, 0] + normals[i, 1] * directions[i, 1] + normals[i, 2] * directions[i, 2]
        side = -1.0 if along > 0 else 1.0
        for k in range(3):
            found[i, k] = side * normals[i, k]
    return found
