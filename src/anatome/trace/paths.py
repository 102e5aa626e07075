"""Light that arrives at places: from the sun and lamps straight, from the sky, and from other surfaces that it falls on.

Surfaces are matt. A path goes on in a direction chosen by the cosine to the surface, so that light carries no weight but what
surfaces keep of it; where little is left it is broken off by lot, and those that go on carry more (Russian roulette, Arvo and
Kirk, 1990), so nothing is lost on average.
"""

from __future__ import annotations

import numpy as np

from anatome.trace.lights import Lights
from anatome.trace.scene import Floats, TracedScene

MOST = 64
"""Surfaces that light goes by way of at most."""
SURE = 1
"""How many of them before lots are drawn."""
BRIGHTEST = 6.0
"""A sample by way of other surfaces counts at most so much: single bright ones are grain that never goes away."""
NEAR = 0.08
"""Metres from a lamp within which it gives no more light than there."""


def light_at(
    scene: TracedScene, lights: Lights, places: Floats, normals: Floats, first: Floats, lots: np.random.Generator
) -> tuple[Floats, Floats]:
    """((n, 3) from the sun straight, (n, 3) all the rest): one sample of the light on (n, 3) places of surfaces that look along
    unit (n, 3) normals. ``first`` (n, 4) are numbers 0..1, evenly spread from sample to sample."""
    sun = from_sun(scene, lights, places, normals, first[:, :2])
    rest = from_lamps(scene, lights, places, normals, lots)
    going = np.arange(len(places))
    weight = np.ones((len(places), 3), np.float32)
    for turn in range(MOST):
        random = first[going, 2:] if turn == 0 else lots.random((len(going), 2), np.float32)
        directions = spread_by_cosine(normals, random)
        origins = places + normals * np.float32(scene.nudge)
        met, far = scene.nearest(origins, directions)
        passed = scene.through_glass(origins, directions, np.minimum(far, np.float32(1e30)))
        if passed is not None:
            weight = weight * passed
        out = met < 0
        rest[going[out]] += weight[out] * lights.of_sky(directions[out])
        met, directions, far = met[~out], directions[~out], far[~out]
        going, weight = going[~out], weight[~out] * scene.solid.albedo[met]
        places = origins[~out] + directions * far[:, None]
        normals = facing(scene.solid.normal[met], directions)
        # Lots are drawn before light is looked for, so only where paths go on.
        if turn >= SURE:
            chance = np.clip(weight.max(axis=1), 0.05, 0.95)
            lucky = lots.random(len(going), np.float32) < chance
            going, places, normals = going[lucky], places[lucky], normals[lucky]
            weight = weight[lucky] / chance[lucky, None]
        if not len(going):
            break
        found = from_sun(scene, lights, places, normals, lots.random((len(going), 2), np.float32))
        found += from_lamps(scene, lights, places, normals, lots)
        rest[going] += np.minimum(weight * found, np.float32(BRIGHTEST))
    return sun, rest


def from_sun(scene: TracedScene, lights: Lights, places: Floats, normals: Floats, random: Floats) -> Floats:
    """(n, 3) light that comes straight from the sun."""
    found = np.zeros((len(places), 3), np.float32)
    if not lights.sun.any():
        return found
    directions = lights.sun_rays(random)
    cosine = np.einsum("ij,ij->i", directions, normals)
    turned = np.flatnonzero((cosine > 0) & (directions[:, 2] > 0))
    origins = places[turned] + normals[turned] * np.float32(scene.nudge)
    far = np.full(len(turned), 1e30, np.float32)
    seen = ~scene.blocked(origins, directions[turned], far)
    turned, origins, far = turned[seen], origins[seen], far[seen]
    found[turned] = lights.sun * cosine[turned, None]
    passed = scene.through_glass(origins, directions[turned], far)
    if passed is not None:
        found[turned] *= passed
    return found


def from_lamps(scene: TracedScene, lights: Lights, places: Floats, normals: Floats, lots: np.random.Generator) -> Floats:
    """(n, 3) light that comes straight from one lamp for each place, chosen by lot, for all of them."""
    found = np.zeros((len(places), 3), np.float32)
    lamps = lights.lamps
    if lamps is None or not len(places):
        return found
    chosen = np.searchsorted(np.cumsum(lamps.share), lots.random(len(places))).clip(0, len(lamps.share) - 1)
    a, b = lots.random((2, len(places)), np.float32)
    root = np.sqrt(a)[:, None]
    corners = lamps.corners[chosen]
    # Evenly over a triangle (Turk, 1990).
    spot = (1 - root) * corners[:, 0] + root * (1 - b[:, None]) * corners[:, 1] + root * b[:, None] * corners[:, 2]
    arm = spot - places
    distance = np.linalg.norm(arm, axis=1)
    directions = arm / np.maximum(distance, 1e-6)[:, None]
    here = np.einsum("ij,ij->i", directions, normals)
    there = -np.einsum("ij,ij->i", directions, lamps.normal[chosen])
    there = np.where(lamps.both[chosen], np.abs(there), there)
    lit = np.flatnonzero((here > 0) & (there > 0) & (distance > 3 * scene.nudge))
    origins, directions = places[lit] + normals[lit] * np.float32(scene.nudge), directions[lit]
    far = distance[lit] * np.float32(1 - 1e-4) - np.float32(3 * scene.nudge)
    seen = ~scene.blocked(origins, directions, np.maximum(far, 0.0))
    lit, origins, directions, far = lit[seen], origins[seen], directions[seen], far[seen]
    number = chosen[lit]
    chance = (lamps.share[number] / lamps.area[number]).astype(np.float32)
    strength = here[lit] * there[lit] / (np.maximum(distance[lit], NEAR) ** 2 * chance)
    found[lit] = lamps.radiance[number] * strength[:, None]
    passed = scene.through_glass(origins, directions, np.maximum(far, 0.0))
    if passed is not None:
        found[lit] *= passed
    return found


def facing(normals: Floats, directions: Floats) -> Floats:
    """(n, 3) normals, turned towards where rays along (n, 3) directions come from."""
    along = np.einsum("ij,ij->i", normals, directions)
    return np.where(along[:, None] > 0, -normals, normals)


def spread_by_cosine(normals: Floats, random: Floats) -> Floats:
    """(n, 3) unit directions round normals, as many as the cosine to them; by (n, 2) numbers 0..1 (Malley's method).

    The frame round a normal is that of Duff and others, “Building an Orthonormal Basis, Revisited” (2017).
    """
    x, y, z = normals.T
    sign = np.where(z >= 0, np.float32(1), np.float32(-1))
    a = -1 / (sign + z)
    b = x * y * a
    radius, angle = np.sqrt(random[:, 0]), np.float32(2 * np.pi) * random[:, 1]
    p, q, r = radius * np.cos(angle), radius * np.sin(angle), np.sqrt(np.maximum(1 - random[:, 0], 0))
    return np.stack(
        [
            p * (1 + sign * x * x * a) + q * b + r * x,
            p * sign * b + q * (sign + y * y * a) + r * y,
            -p * sign * x - q * y + r * z,
        ],
        axis=1,
    )
