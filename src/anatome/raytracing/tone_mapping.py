"""From light to what of a surface's colour is left in the picture."""

from __future__ import annotations

import numpy as np

from anatome.raytracing.scene import Floats
from anatome.raytracing.seen_places import SeenPlaces

GREY = 0.60
"""What light of middling strength becomes: a surface in it keeps so much of its light."""
WHITE_FROM = 99.0
"""Per cent of places that are no lighter than what becomes white."""
LEAST, MOST = 0.05, 40.0
BALANCE = 0.6
"""How much of the light's own hue is taken out, as eyes do: rooms of wood are warm all the same."""
GAMMA = 2.2
"""Of sRGB, nearly: so that light multiplies colours as they are written."""


def tone_mapped(light: Floats, seen: SeenPlaces, stops: float = 0.0) -> Floats:
    """Return (h, w, 3) factors 0..1 for colours as written in sRGB, from (h, w, 3) light; lamps stay as light as they are.

    Strong light is held back (Reinhard and others, 2002, with a white point), by the brightness alone, so that hues stay.
    """
    found = np.ones_like(light)
    there = seen.there & ~seen.shines
    if not there.any():
        return found
    shown = light[there]
    hue = shown.mean(axis=0, dtype=float)
    shown = shown / (np.maximum(hue, 1e-4) / max(float(hue.mean()), 1e-4)).astype(np.float32) ** np.float32(BALANCE)
    bright = shown.mean(axis=1)
    middle = float(np.exp(np.log(np.clip(bright, 1e-3, None)).mean()))
    # Of middling light this makes grey, and of the lightest white.
    exposure = float(np.clip(GREY / (1 - GREY) / max(middle, 1e-4), LEAST, MOST)) * 2.0**stops
    scaled = exposure * bright
    white = max(float(np.percentile(scaled, WHITE_FROM)), 1.0)
    kept = scaled * (1 + scaled / white**2) / (1 + scaled)
    factor = np.divide(exposure * kept, scaled, out=np.full_like(scaled, exposure), where=scaled > 0)
    found[there] = np.clip(shown * factor[:, None], 0.0, 1.0) ** np.float32(1 / GAMMA)
    return found
