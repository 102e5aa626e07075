"""The look of a scene as a value."""

from __future__ import annotations

from pydantic import Field

from anatome.model.kinds import EARTH_TYPES, NEIGHBOUR_TYPE
from anatome.values import Value

Rgb = tuple[float, float, float]


def _rgb(code: str) -> Rgb:
    return (int(code[1:3], 16) / 255, int(code[3:5], 16) / 255, int(code[5:7], 16) / 255)


class Look(Value):
    """Colours are sRGB 0..1; line widths are pixels at a picture height of 800 and grow with the picture."""

    edges: bool = True
    ground: bool = True
    shade: bool = Field(default=True, description="soft shade where parts stand close to one another")
    colours: bool = Field(default=True, description="surface colours of the model; off: plain white")
    poche: Rgb = _rgb("#4B4A4C")
    poche_earth: Rgb = _rgb("#A59C8E")
    poche_beside: Rgb = _rgb("#D9D4C8")
    paper: Rgb = _rgb("#F6F4EE")
    ink: Rgb = _rgb("#22262B")
    shade_strength: float = Field(default=0.7, ge=0, le=1)
    edge_width: float = Field(default=0.7, ge=0.1, le=10)
    cut_width: float = Field(default=1.8, ge=0.1, le=20)

    def poche_of(self, element_type: str) -> Rgb:
        """Fill of a cut element: earth is lighter than what is built, neighbours are lighter still (common practice)."""
        if element_type == NEIGHBOUR_TYPE:
            return self.poche_beside
        return self.poche_earth if element_type in EARTH_TYPES else self.poche
