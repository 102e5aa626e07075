"""The tones of people and trees in a look."""

from __future__ import annotations

from anatome.look.look import Look, Rgb
from anatome.site.figure_drawing import Tone

LEAF: Rgb = (0.80, 0.84, 0.76)
THROUGH = 0.66
"""How much of what lies behind a crown it takes."""
GLASSY = 0.3
"""The same of all that is drawn clear."""


def figure_tones(look: Look) -> dict[Tone, tuple[float, float, float, float]]:
    """Red, green, blue and how much it covers, of every tone in a look."""
    coloured = look.surfaces in ("as modelled", "harmonised")
    crown = LEAF if coloured else look.mixed(0.10)
    if look.figures == "outlined":
        return {"body": (*look.paper, 1.0), "crown": (*look.paper, 1.0), "wood": (*look.paper, 1.0)}
    if look.figures == "clear":
        return {"body": (*look.mixed(0.58), GLASSY), "crown": (*crown, GLASSY), "wood": (*look.mixed(0.42), GLASSY)}
    return {"body": (*look.mixed(0.58), 1.0), "crown": (*crown, THROUGH), "wood": (*look.mixed(0.42), 1.0)}
