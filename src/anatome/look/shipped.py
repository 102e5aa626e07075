"""The looks that come with Anatome, the first one what every new project begins with."""

from __future__ import annotations

from functools import cache

from anatome.look.look import Look, rgb

_WARM = {"paper": rgb("#F3EDE0"), "ink": rgb("#3A2E24"), "earth_fades": True}
_NIGHT = {"paper": rgb("#16202C"), "ink": rgb("#C9D6DF"), "sky": rgb("#22344A"), "earth_fades": True}
_SUN = {"shadows": 0.18, "sun_turn": -45.0, "sun_height": 35.26, "earth_fades": True}
"""From the upper left along the diagonal of a cube: shadows as long as what casts them (common practice)."""

_LOOKS = (
    Look(
        name="Calm section",
        colour=0.7,
        poche=rgb("#333438"),
        poche_earth=rgb("#DEDAD1"),
        poche_beside=rgb("#E4E1DA"),
        tones=(1.0, 0.99, 0.90, 0.965),
        shade_strength=0.5,
        **{**_SUN, "shadows": 0.24},
    ),
    Look(name="White model", surfaces="white", poche=rgb("#26282B"), poche_earth=rgb("#DCDAD6"), paper=rgb("#FFFFFF"), **_SUN),
    Look(
        name="Warm paper and ink",
        surfaces="paper",
        poche=rgb("#5A4535"),
        poche_earth=rgb("#D3C1A4"),
        poche_beside=rgb("#DCCDB4"),
        tones=(1.0, 0.97, 0.90, 0.93),
        shadows=0.22,
        **_WARM,
    ),
    Look(
        name="Laid at real size",
        surfaces="harmonised",
        patterns=True,
        pattern_ink=0.34,
        poche=rgb("#3F3D3F"),
        earth_fades=True,
        recede=0.7,
        haze=0.18,
        shadows=0.20,
        sun_turn=-45.0,
        sun_height=42.0,
    ),
    Look(
        name="Ink lines only",
        surfaces="paper",
        tones=(1.0, 1.0, 1.0, 1.0),
        shade=False,
        ground=False,
        paper=rgb("#FFFFFF"),
        ink=rgb("#111111"),
        poche=rgb("#FFFFFF"),
        poche_earth=rgb("#FFFFFF"),
        poche_beside=rgb("#FFFFFF"),
        cut_weight=0.70,
        part_weight=0.25,
    ),
    Look(
        name="Hatched by material",
        surfaces="white",
        hatch="only",
        paper=rgb("#FBFAF6"),
        tones=(1.0, 0.98, 0.93, 0.95),
        cut_weight=0.50,
        part_weight=0.25,
        shade_strength=0.5,
        earth_fades=True,
    ),
    Look(
        name="Materials in colour",
        surfaces="harmonised",
        colour=2.4,
        poche_earth=rgb("#CFC6B6"),
        fill_by="material",
        hatch="over",
        hatch_ink=0.42,
        cut_weight=0.50,
        part_weight=0.18,
        **_SUN,
    ),
    Look(
        name="Colour by storey",
        surfaces="by storey",
        fill_by="storey",
        poche_earth=rgb("#CFC8BB"),
        paper=rgb("#FFFFFF"),
        earth_fades=True,
    ),
    Look(
        name="Colour by use",
        earth_fades=True,
        surfaces="by use",
        poche=rgb("#3B3B3F"),
        paper=rgb("#FDFCF9"),
        tones=(1.0, 0.97, 0.90, 0.93),
        shade_strength=0.55,
    ),
    Look(
        name="Night blue",
        surfaces="paper",
        poche=rgb("#D9E3EA"),
        poche_earth=rgb("#3C4E63"),
        poche_beside=rgb("#4C6077"),
        tones=(1.0, 0.92, 0.80, 0.86),
        ground=False,
        shade_strength=0.55,
        edge_weight=0.20,
        **_NIGHT,
    ),
    Look(
        name="Technical, black and white",
        surfaces="white",
        tones=(1.0, 1.0, 1.0, 1.0),
        shade=False,
        ground=False,
        paper=rgb("#FFFFFF"),
        ink=rgb("#000000"),
        poche=rgb("#000000"),
        poche_earth=rgb("#8A8A8A"),
        poche_beside=rgb("#C8C8C8"),
        edge_weight=0.13,
        cut_weight=0.50,
        part_weight=0.13,
    ),
    Look(
        name="Evening",
        earth_fades=True,
        surfaces="warm grey",
        paper=rgb("#E9DCC9"),
        sky=rgb("#8FA0B4"),
        poche=rgb("#3A3440"),
        poche_earth=rgb("#7B6F6B"),
        poche_beside=rgb("#A79C98"),
        ink=rgb("#2A2530"),
        tones=(0.98, 1.0, 0.70, 0.86),
        shadows=0.46,
        sun_turn=-72.0,
        sun_height=17.0,
        sun_size=5.0,
        shade_strength=0.8,
        still_sun=0.35,
        lamp_light=3.0,
    ),
    Look(
        name="Noon, hard light",
        earth_fades=True,
        surfaces="warm grey",
        paper=rgb("#F7F7F5"),
        poche=rgb("#B4442F"),
        poche_earth=rgb("#C9BFB2"),
        shadows=0.40,
        sun_turn=-30.0,
        sun_height=58.0,
        sun_size=0.5,
        still_sun=0.8,
    ),
    Look(name="As modelled", surfaces="as modelled", tones=(1.0, 0.93, 0.80, 0.86), **_SUN),
)


@cache
def shipped_looks() -> dict[str, Look]:
    """By name, in the order in which they are offered."""
    return {look.name: look for look in _LOOKS}


def first_look() -> Look:
    """Return what a new project begins with."""
    return _LOOKS[0]
