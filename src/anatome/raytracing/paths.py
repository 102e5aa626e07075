"""Light that arrives at places: from the sun and lamps straight, from the sky, and from other surfaces that it falls on.

Surfaces are matt. A path goes on in a direction chosen by the cosine to the surface, so that light carries no weight but what
surfaces keep of it; where little is left it is broken off by lot, and those that go on carry more (Russian roulette, Arvo and
Kirk, 1990), so nothing is lost on average.
"""

from __future__ import annotations

import numpy as np

from anatome.raytracing.lights import Lights
from anatome.raytracing.rays import facing, lamp_rays, spread_by_cosine, sun_rays
from anatome.raytracing.scene import Floats, TracedScene

MOST = 64
"""Surfaces that light goes by way of at most."""
SURE = 1
"""How many of them before lots are drawn."""
BRIGHTEST = 6.0
"""A sample by way of other surfaces counts at most so much: single bright ones are grain that never goes away."""
NEAR = 0.08
"""Metres from a lamp within which it gives no more light than there."""


def light_at(
    scene: TracedScene, lights: Lights, places: Floats, normals: Floats, first: Floats, generator: np.random.Generator
) -> tuple[Floats, Floats]:
    """Return ((n, 3) from the sun straight, (n, 3) all the rest): one sample of the light on (n, 3) places of surfaces that
    look along unit (n, 3) normals. ``first`` (n, 4) are numbers 0..1, evenly spread from sample to sample."""
    sun = from_sun(scene, lights, places, normals, first[:, :2])
    rest = from_lamps(scene, lights, places, normals, generator)
    going = np.arange(len(places))
    weight = np.ones((len(places), 3), np.float32)
    for turn in range(MOST):
        random = first[going, 2:] if turn == 0 else generator.random((len(going), 2), np.float32)
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
            lucky = generator.random(len(going), np.float32) < chance
            going, places, normals = going[lucky], places[lucky], normals[lucky]
            weight = weight[lucky] / chance[lucky, None]
        if not len(going):
            break
        found = from_sun(scene, lights, places, normals, generator.random((len(going), 2), np.float32))
        found += from_lamps(scene, lights, places, normals, generator)
        rest[going] += np.minimum(weight * found, np.float32(BRIGHTEST))
    return sun, rest


def from_sun(scene: TracedScene, lights: Lights, places: Floats, normals: Floats, random: Floats) -> Floats:
    """Return (n, 3) light that comes straight from the sun."""
    found = np.zeros((len(places), 3), np.float32)
    if not lights.sun.any():
        return found
    turned, origins, directions, cosine = sun_rays(places, normals, random, lights.axes, lights.spread, scene.nudge)
    far = np.full(len(turned), 1e30, np.float32)
    seen = ~scene.blocked(origins, directions, far)
    turned, origins, directions, far = turned[seen], origins[seen], directions[seen], far[seen]
    found[turned] = lights.sun * cosine[seen, None]
    passed = scene.through_glass(origins, directions, far)
    if passed is not None:
        found[turned] *= passed
    return found


def from_lamps(scene: TracedScene, lights: Lights, places: Floats, normals: Floats, generator: np.random.Generator) -> Floats:
    """Return (n, 3) light that comes straight from one lamp for each place, chosen by lot, for all of them."""
    found = np.zeros((len(places), 3), np.float32)
    lamps = lights.lamps
    if lamps is None or not len(places):
        return found
    lit, origins, directions, far, number, strength = lamp_rays(
        places,
        normals,
        generator.random((len(places), 3), np.float32),
        lamps.corners,
        lamps.normal,
        lamps.both,
        lamps.upto,
        lamps.chance,
        scene.nudge,
        NEAR,
    )
    seen = ~scene.blocked(origins, directions, far)
    lit, origins, directions, far = lit[seen], origins[seen], directions[seen], far[seen]
    found[lit] = lamps.radiance[number[seen]] * strength[seen, None]
    passed = scene.through_glass(origins, directions, far)
    if passed is not None:
        found[lit] *= passed
    return found
