"""How dark cast shadows are drawn."""

from __future__ import annotations

LEAST_SHADE, ENOUGH_SUN = 0.4, 0.35
"""Where hardly anything lies in the sun, as in a room, the rest has so much of the shade it would have, or it would be dark all
over; from such a share of sun on it has all of it."""
GRAZED = 0.02
"""Cosine to the sun under which a surface counts as turned away from it."""


def shadow_strength(whole: float, lit: float) -> float:
    """Return how dark shadows are that would take ``whole`` of the light, where a share ``lit`` of what is seen lies in the
    sun."""
    t = min(lit / ENOUGH_SUN, 1.0)
    return whole * (LEAST_SHADE + (1.0 - LEAST_SHADE) * t * t * (3 - 2 * t))
