"""The look of a scene as a value: everything that decides how a picture is drawn, and nothing of what it shows.

Weights are millimetres on paper. Where no paper is said, a picture counts as one 210 mm high: an A4 sheet, lying.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anatome.cuts.reach import Selection
from anatome.model.kinds import EARTH_TYPES, NEIGHBOUR_TYPE
from anatome.values import Value

Channel = Annotated[float, Field(ge=0, le=1)]
Rgb = tuple[Channel, Channel, Channel]
Surfaces = Literal["as modelled", "harmonised", "white", "warm grey", "paper", "by storey", "by use", "by type", "by material"]
FillBy = Literal["one", "material", "type", "storey", "element"]
HatchMode = Literal["none", "over", "only"]
UNSAID_PAPER = 210.0
"""Millimetres a picture is high where no paper is said."""
Weight = Annotated[float, Field(ge=0.01, le=5.0)]


def rgb(code: str) -> Rgb:
    """“#4B4A4C” as a colour."""
    return (int(code[1:3], 16) / 255, int(code[3:5], 16) / 255, int(code[5:7], 16) / 255)


class Rule(Value):
    """What holds for some elements, over what the look says for all: each thing only if it is said."""

    who: Selection
    on: bool = True
    fill: Rgb | None = Field(default=None, description="where it is cut")
    hatch: str | None = Field(default=None, description="the name of a hatch, nothing for none")
    surface: Rgb | None = Field(default=None, description="beyond the cut")


class Look(Value):
    """Colours are sRGB 0..1."""

    name: str = Field(default="", max_length=200)
    # Beyond the cut.
    surfaces: Surfaces = "harmonised"
    edges: bool = True
    edge_weight: Weight = 0.18
    tones: tuple[Channel, Channel, Channel, Channel] = Field(
        default=(1.0, 0.97, 0.89, 0.93), description="light on what faces up, the light, away from it, and down"
    )
    # The cut.
    poche: Rgb = rgb("#4B4A4C")
    poche_earth: Rgb = rgb("#A59C8E")
    poche_beside: Rgb = rgb("#D9D4C8")
    fill_by: FillBy = "one"
    hatch: HatchMode = "none"
    hatch_ink: Channel = Field(default=0.75, description="how strong hatches are, of full ink")
    hatch_weight: Weight = 0.13
    cut_weight: Weight = Field(default=0.50, description="round the whole of what is cut")
    part_weight: Weight = Field(default=0.13, description="between parts that are cut")
    earth_fades: bool = Field(default=False, description="earth fades into the paper downwards, and has no line there")
    # Light.
    shade: bool = Field(default=True, description="soft shade where parts stand close to one another")
    shade_strength: Channel = 0.6
    shadows: Channel = Field(default=0.0, description="how much of the light cast shadows take; 0: none are cast")
    sun_with_view: bool = Field(default=True, description="the sun goes with the eye; else it stands where it is said")
    sun_turn: float = Field(default=-45.0, ge=-360, le=360, description="degrees to the right of the viewer, or from north")
    sun_height: float = Field(default=45.0, ge=3, le=90, description="degrees over the horizon")
    sun_size: float = Field(default=2.0, ge=0, le=30, description="degrees across; the larger, the softer its shadows")
    ground: bool = Field(default=True, description="the darkness a building leaves on paper under it")
    # Paper.
    paper: Rgb = rgb("#F6F4EE")
    sky: Rgb | None = Field(default=None, description="what the paper becomes towards the top")
    ink: Rgb = rgb("#22262B")
    rules: tuple[Rule, ...] = Field(default=(), max_length=500)

    def poche_of(self, element_type: str) -> Rgb:
        """Fill of a cut element: earth is lighter than what is built, neighbours are lighter still (common practice)."""
        if element_type == NEIGHBOUR_TYPE:
            return self.poche_beside
        return self.poche_earth if element_type in EARTH_TYPES else self.poche

    def mixed(self, ink: float) -> Rgb:
        """So much ink on this paper."""
        r, g, b = (p + (i - p) * ink for p, i in zip(self.paper, self.ink))
        return r, g, b
