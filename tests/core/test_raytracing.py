"""Light found by following rays, against what is known of light in closed form."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from numpy.testing import assert_allclose

from anatome.raytracing.denoise import smoothed
from anatome.raytracing.lights import Lamps, Lights
from anatome.raytracing.paths import from_lamps, from_sun, light_at
from anatome.raytracing.scene import Surface, TracedScene, surface
from anatome.raytracing.seen_places import SeenPlaces

NONE = np.zeros(3, np.float32)
ONE = np.ones(3, np.float32)
UP = np.array([0.0, 0.0, 1.0], np.float32)
STEPS = np.array([0.8566748839, 0.7338918566, 0.6287067210, 0.5385972572])


def sky_alone(below: np.ndarray = NONE) -> Lights:
    return Lights(NONE, UP, 0.01, ONE, below)


def rectangle(a, b, c, d) -> np.ndarray:
    return np.array([[a, b, c], [a, c, d]], float)


def mean_light(scene: TracedScene, lights: Lights, place, normal, samples: int = 40_000) -> np.ndarray:
    """(3,) the light at one place, from so many paths."""
    first = (np.arange(samples)[:, None] * STEPS % 1.0).astype(np.float32)
    places, normals = np.tile(np.array(place, np.float32), (samples, 1)), np.tile(np.array(normal, np.float32), (samples, 1))
    sun, rest = light_at(scene, lights, places, normals, first, np.random.default_rng(5))
    return (sun + rest).astype(float).mean(axis=0)


WIDE = rectangle((-500, -500, 0), (500, -500, 0), (500, 500, 0), (-500, 500, 0))


def test_open_ground_sees_all_of_the_sky_and_the_foot_of_a_high_wall_half_of_it() -> None:
    """Irradiance of a uniform sky is π L on open level ground, half of it at the foot of a wall (view factors, handbook)."""
    ground = surface(WIDE, 0.0)
    assert_allclose(mean_light(TracedScene(ground), sky_alone(), (3, 3, 0), UP), 1.0, atol=1e-3)
    wall = rectangle((0, -900, 0), (0, 900, 0), (0, 900, 900), (0, -900, 900))
    both = TracedScene(surface(np.concatenate([WIDE, wall]), 0.0))
    assert_allclose(mean_light(both, sky_alone(), (0.02, 0, 0), UP), 0.5, atol=2e-3)
    # A wall of height h seen from d before its foot takes (1 − cos(atan(h / d))) / 2 of the light.
    low = rectangle((0, -900, 0), (0, 900, 0), (0, 900, 3), (0, -900, 3))
    expected = 1 - (1 - np.cos(np.arctan(3 / 4))) / 2
    assert_allclose(
        mean_light(TracedScene(surface(np.concatenate([WIDE, low]), 0.0)), sky_alone(), (4, 0, 0), UP), expected, atol=3e-3
    )


def test_in_a_white_furnace_nothing_shows() -> None:
    """What gives back all light in light that is the same from everywhere cannot be seen: the light on it is that light."""
    niche = trimesh.creation.box((2, 2, 2)).triangles
    niche = niche[np.abs(niche[:, :, 2] - 1).max(axis=1) > 1e-6]  # a box without its lid
    ball = trimesh.creation.icosphere(2, 0.4).triangles
    scene = TracedScene(surface(np.concatenate([niche, ball]), 1.0))
    for place, normal in (((0.9, 0.9, -1), UP), ((0, 0.9, -1), UP), ((0, 1, 0.2), (0, -1, 0)), ((0, 0, 1), UP)):
        assert_allclose(mean_light(scene, sky_alone(ONE), place, normal, 20_000), 1.0, atol=0.02)


def test_light_in_an_integrating_sphere() -> None:
    """All round inside a sphere of reflectance ρ the light that was given back at least once is Φ ρ / (A (1 − ρ)) (handbook)."""
    walls = trimesh.creation.icosphere(4, 1.0).triangles[:, ::-1]
    rho = 0.6
    area = float(np.linalg.norm(np.cross(walls[:, 1] - walls[:, 0], walls[:, 2] - walls[:, 0]), axis=1).sum() / 2)
    radius = 0.05
    bulb = trimesh.creation.icosphere(2, radius).triangles
    lamp_area = np.linalg.norm(np.cross(bulb[:, 1] - bulb[:, 0], bulb[:, 2] - bulb[:, 0]), axis=1) / 2
    radiance = 3.0
    flux = np.pi * radiance * lamp_area.sum()
    solid = surface(walls, rho)
    normals = surface(bulb, 0.0).normal
    shining, one_sided = np.full((len(bulb), 3), radiance, np.float32), np.zeros(len(bulb), bool)
    lamps = Lamps(bulb.astype(np.float32), normals, shining, lamp_area.astype(np.float32), one_sided)
    lights = Lights(NONE, UP, 0.01, NONE, NONE, lamps)
    place = walls[100].mean(axis=0)
    direct = flux / area  # from its middle, on all of the sphere alike
    found = mean_light(TracedScene(solid), lights, 0.999 * place, -place / np.linalg.norm(place))
    assert_allclose(found, direct + flux * rho / (area * (1 - rho)), rtol=0.02)


def test_a_small_lamp_and_the_sun_by_cosines() -> None:
    """E = L A cos cos / d² from a small lamp; the sun by its cosine, and not at all behind something."""
    scene = TracedScene(surface(WIDE, 0.0))
    panel = rectangle((-0.05, -0.05, 2), (-0.05, 0.05, 2), (0.05, 0.05, 2), (0.05, -0.05, 2))  # looks down
    made = surface(panel, 0.0)
    lamps = Lamps(
        made.corners,
        made.normal,
        np.full((2, 3), 8.0, np.float32),
        np.full(2, 0.005, np.float32),
        np.zeros(2, bool),
    )
    lights = Lights(NONE, UP, 0.0, NONE, NONE, lamps)
    places = np.tile(np.array([[0, 0, 0], [1.5, 0, 0]], np.float32), (2000, 1))
    found = from_lamps(scene, lights, places, np.tile(UP, (4000, 1)), np.random.default_rng(0)).reshape(2000, 2, 3).mean(axis=0)
    below, aside = 8 * 0.01 / 4, 8 * 0.01 * (2 / 2.5) ** 2 / 2.5**2
    assert_allclose(found[:, 0], [below, aside], rtol=0.01)
    towards = np.array([0.6, 0.0, 0.8], np.float32)
    sun = Lights(2 * ONE, towards, 0.0, NONE, NONE)
    roof = TracedScene(surface(np.concatenate([WIDE, rectangle((0, -5, 4), (9, -5, 4), (9, 5, 4), (0, 5, 4))]), 0.0))
    spots = np.array([[-3.1, 0, 0], [-2.9, 0, 0], [6.1, 0, 0]], np.float32)  # the roof's shadow lies 3 m to the left of it
    assert_allclose(
        from_sun(roof, sun, spots, np.tile(UP, (3, 1)), np.zeros((3, 2), np.float32))[:, 0], [1.6, 0.0, 1.6], atol=1e-5
    )


@pytest.mark.parametrize("panes", [1, 2])
def test_glass_lets_through_what_each_face_does(panes: int) -> None:
    faces = [rectangle((-900, -900, z), (900, -900, z), (900, 900, z), (-900, 900, z)) for z in np.arange(2 * panes) * 0.01 + 0.5]
    glass = surface(np.concatenate(faces), np.array([0.9, 0.8, 0.7]))
    found = mean_light(TracedScene(surface(WIDE, 0.0), glass), sky_alone(), (0, 0, 0), UP, 4000)
    assert_allclose(found, np.array([0.9, 0.8, 0.7]) ** (2 * panes), atol=2e-3)


def test_grain_goes_and_edges_stay() -> None:
    """A floor, a wall with other light on it, and a sharp shadow on the floor, all as noisy."""
    rng = np.random.default_rng(2)
    height, width, spread, samples = 96, 128, 0.25, 16
    clean = np.full((height, width), 0.8)
    clean[48:] = 0.5  # the wall
    clean[:48, 64:] = 0.25  # the shadow
    noise = rng.normal(scale=spread / np.sqrt(samples), size=(height, width))
    light = np.repeat((clean + noise)[..., None], 3, axis=2).astype(np.float32)
    place, normal = np.zeros((height, width, 3), np.float32), np.zeros((height, width, 3), np.float32)
    place[..., 0] = np.arange(width) * 0.01
    place[:48, :, 1], place[48:, :, 2] = np.arange(48)[:, None] * 0.01, np.arange(48)[:, None] * 0.01
    normal[:48, :, 2], normal[48:, :, 1] = 1.0, -1.0
    there = np.ones((height, width), bool)
    seen = SeenPlaces(there, place, normal, ~there, np.full((height, width), 0.01, np.float32))
    found = smoothed(light, np.full((height, width), spread**2 / samples, np.float32), seen)[..., 0]
    for part in (np.s_[4:44, 4:56], np.s_[4:44, 72:124], np.s_[52:92, 4:124]):
        assert found[part].std() < 0.25 * noise[part].std()
    # The crease and the shadow's edge are as sharp as before, to the pixel.
    assert np.abs(found[47] - clean[47]).max() < 0.12 and np.abs(found[48] - clean[48]).max() < 0.08
    assert np.abs(found[4:44, 63].mean() - 0.8) < 0.04 and np.abs(found[4:44, 64].mean() - 0.25) < 0.04


def test_what_is_nowhere_is_never_met() -> None:
    kinds = (((3, 3), "f4"), ((3,), "f4"), ((3,), "f4"), ((), bool), ((), np.int64), ((), np.int64))
    nothing = Surface(*(np.zeros((0, *shape), kind) for shape, kind in kinds))
    assert_allclose(mean_light(TracedScene(nothing), sky_alone(), (0, 0, 0), UP, 100), 1.0)
