"""The look of a scene as a value: everything that decides how a picture is drawn, and nothing of what it shows.

Weights are millimetres on paper. Where no paper is said, a picture counts as one 210 mm high: an A4 sheet, lying.
"""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, field_validator

from anatome.look.hatches import Follows, Hatch, shipped_hatches, shipped_patterns
from anatome.look.laying import By
from anatome.model.kinds import EARTH_TYPES, NEIGHBOUR_TYPE
from anatome.model.selection import Selection
from anatome.values import Value

Channel = Annotated[float, Field(ge=0, le=1)]
Rgb = tuple[Channel, Channel, Channel]
Surfaces = Literal["as modelled", "harmonised", "white", "warm grey", "paper", "by storey", "by use", "by type", "by material"]
FillBy = Literal["one", "material", "type", "storey", "element"]
HatchMode = Literal["none", "over", "only"]
FigureManner = Literal["toned", "outlined", "clear"]
LineManner = Literal["ruled", "freehand"]
LampsFrom = Literal["off", "lamps", "rooms"]
MOST_PICTURE = 4_000_000
"""Letters of a picture in base 64."""
YEARS = (1900, 2100)
"""For which the sun is reckoned."""
WEIGHTS = (0.13, 0.18, 0.25, 0.35, 0.50, 0.70, 1.00, 1.40, 2.00)
"""Line widths in mm (ISO 128, value from memory)."""
FADES_OVER = 0.72
"""Share of the depth of earth, from where it ends upwards, over which it fades into the paper."""
DEEPEST = 200.0
"""Metres to which earth goes down that ends at the frame."""
TOWARDS_LIGHT = (-0.42, 0.62, 0.66)
"""Right, up and back from the picture: over the viewer's left shoulder, so that no cut face is in the dark."""
UNSAID_PAPER = 210.0
"""Millimetres a picture is high where no paper is said."""
Weight = Annotated[float, Field(ge=0.01, le=5.0)]
MOST_WAVER = 0.25
"""Mm by which a freehand line may stray from the ruled one."""
HatchShift = Annotated[float, Field(ge=-100_000, le=100_000)]


def rgb(code: str) -> Rgb:
    """“#4B4A4C” as a colour."""
    return (int(code[1:3], 16) / 255, int(code[3:5], 16) / 255, int(code[5:7], 16) / 255)


def hex_of(colour: Rgb) -> str:
    """Return a colour as “#4B4A4C”."""
    return "#" + "".join(f"{round(255 * channel):02X}" for channel in colour)


def mixed(paper: Rgb, ink: Rgb, strength: float) -> Rgb:
    """Return so much ink on paper, as a colour."""
    r, g, b = (p + (i - p) * strength for p, i in zip(paper, ink))
    return r, g, b


class Picture(Value):
    """A picture that may be laid on surfaces; it repeats. ``data`` is a PNG or JPEG file, in base 64."""

    name: str = Field(min_length=1, max_length=200)
    metres: float = Field(gt=0, le=1000, description="how wide it is on a surface")
    data: str = Field(max_length=MOST_PICTURE)


CHANGED = ", changed"
"""Behind the name of a look that was changed and not kept."""


def changed_name(name: str) -> str:
    """Return the name of a look once it was changed: that it was, unless it has no name."""
    return name if name.endswith(CHANGED) or not name else name + CHANGED


class Rule(Value):
    """What holds for some elements, over what the look says for all: each thing only if it is said."""

    who: Selection
    on: bool = True
    fill: Rgb | None = Field(default=None, description="where it is cut")
    hatch: str | None = Field(default=None, description="the name of a hatch, nothing for none")
    hatch_scale: float | None = Field(
        default=None, ge=0.001, le=1000, description="how many times as far apart the lines of its hatch lie"
    )
    hatch_unit: Literal["mm", "m"] | None = Field(default=None, description="whether that is on paper or in the model")
    hatch_angle: float | None = Field(default=None, ge=-360, le=360, description="degrees by which it is turned")
    hatch_follows: Follows | None = Field(default=None, description="what that is measured from")
    hatch_shift: tuple[HatchShift, HatchShift] | None = Field(default=None, description="along its own axes, in its unit")
    hatch_colour: Rgb | None = Field(default=None, description="of the lines of its hatch")
    hatch_weight: Weight | None = Field(default=None, description="of the lines of its hatch, mm on paper")
    surface: Rgb | None = Field(default=None, description="beyond the cut")
    pattern: str | None = Field(default=None, max_length=100, description="what its surfaces are laid of, nothing for none")
    picture: str | None = Field(default=None, max_length=200, description="the picture on its surfaces, nothing for none")
    lay_by: By | None = Field(default=None, description="by what pattern and picture are laid on its surfaces")
    lay_turn: float | None = Field(default=None, ge=-360, le=360, description="degrees by which they are turned there")
    lay_scale: float | None = Field(default=None, ge=0.001, le=1000, description="how many times as large they are")
    lay_shift: tuple[HatchShift, HatchShift] | None = Field(default=None, description="metres, along their own axes")
    clear: Channel | None = Field(default=None, description="how far one sees through it")
    lines: bool | None = Field(default=None, description="whether its edges are drawn")
    line_weight: Weight | None = Field(default=None, description="of its edges, mm on paper")
    line_colour: Rgb | None = Field(default=None, description="of its edges")


class Look(Value):
    """Colours are sRGB 0..1."""

    name: str = Field(default="", max_length=200)
    # Beyond the cut.
    surfaces: Surfaces = "harmonised"
    colour: float = Field(default=1.0, ge=0, le=3, description="how much of their colour pale surfaces of one family keep")
    edges: bool = True
    edge_weight: Weight = 0.18
    silhouette_weight: Weight = Field(default=0.25, description="where one surface ends before another")
    recede: Channel = Field(default=0.5, description="how much thinner and lighter lines are at the far end than at the near one")
    line_colour: Rgb | None = Field(default=None, description="of lines beyond the cut, if it is not the ink's")
    figures: FigureManner = Field(default="toned", description="how people and trees are drawn")
    hidden_lines: bool = Field(default=False, description="edges behind surfaces are drawn dashed")
    join_planes: bool = Field(
        default=False, description="in linework, parts of one material that lie in one plane have no line between them"
    )
    patterns: bool = Field(
        default=False, description="surfaces show the boards, courses and tiles they are laid of, at real size"
    )
    pattern_ink: Channel = Field(default=0.3, description="how strong patterns are, of full ink")
    reflections: Channel = Field(default=0.3, description="how much of the sky glass shows")
    haze: Channel = Field(default=0.0, description="how much of its colour what is far off gives to the paper")
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
    earth_to_frame: bool = Field(default=False, description="earth goes down as far as the picture does")
    # The hand.
    manner: LineManner = Field(default="ruled", description="how lines are drawn")
    waver: float = Field(default=0.14, ge=0, le=MOST_WAVER, description="mm by which freehand lines stray")
    pressure: Channel = Field(default=0.5, description="how much heavier and lighter freehand lines become on their way")
    crossing: float = Field(default=0.0, ge=0, le=5, description="mm by which lines run past one another at corners")
    wash_edge: Channel = Field(default=0.0, description="how much darker areas dry along their edges, as washes do")
    hand: int = Field(default=1, ge=0, le=9999, description="another number, other strokes of the same hand")
    # Light.
    shade: bool = Field(default=True, description="soft shade where parts stand close to one another")
    shade_strength: Channel = 0.6
    shadows: Channel = Field(default=0.0, description="how much of the light cast shadows take; 0: none are cast")
    sun_with_view: bool = Field(default=True, description="the sun goes with the eye; else it stands where it is said")
    sun_turn: float = Field(default=-45.0, ge=-360, le=360, description="degrees to the right of the viewer, or from north")
    sun_height: float = Field(default=45.0, ge=3, le=90, description="degrees over the horizon")
    sun_moment: str | None = Field(
        default=None,
        pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d$",
        description="where the site's place is known: year, month, day and its local time, instead of the two before",
    )
    sun_size: float = Field(default=2.0, ge=0, le=30, description="degrees across; the larger, the softer its shadows")
    unseen_shade: bool = Field(default=False, description="what is cut away or hidden goes on casting its shadow")
    ground: bool = Field(default=True, description="the darkness a building leaves on paper under it")
    # Light in a still.
    still_sun: Channel = Field(default=0.6, description="the sun's share of the light in the open, where shadows are cast")
    lamps: LampsFrom = Field(default="lamps", description="whether lamps shine, or rooms as a whole")
    lamp_light: float = Field(default=0.3, ge=0, le=50, description="light two metres from a lamp, against that in the open")
    brightness: float = Field(default=0.0, ge=-4, le=4, description="stops brighter than it would be")
    # Paper.
    paper: Rgb = rgb("#F6F4EE")
    sky: Rgb | None = Field(default=None, description="what the paper becomes towards the top")
    ink: Rgb = rgb("#22262B")
    rules: tuple[Rule, ...] = Field(default=(), max_length=500)
    pictures: tuple[Picture, ...] = Field(default=(), max_length=16, description="that its rules may lay on surfaces")
    hatches: tuple[Hatch, ...] = Field(default=(), max_length=200, description="its own, besides those that are shipped")

    @field_validator("sun_moment")
    @classmethod
    def _is_a_moment(cls, moment: str | None) -> str | None:
        """A 30th of February is a fault in the file, and found now, not when it is drawn."""
        if moment is not None and not YEARS[0] <= datetime.fromisoformat(moment).year <= YEARS[1]:
            raise ValueError(f"the sun is reckoned for the years {YEARS[0]} to {YEARS[1]}")
        return moment

    @property
    def known_hatches(self) -> dict[str, Hatch]:
        """Of cut faces, by name: its own over those that are shipped."""
        return shipped_hatches() | {hatch.name: hatch for hatch in self.hatches}

    @property
    def known_patterns(self) -> dict[str, Hatch]:
        """Of surfaces: those that are shipped, and its own that are in metres of the model."""
        return shipped_patterns() | {hatch.name: hatch for hatch in self.hatches if hatch.unit == "m"}

    def poche_of(self, element_type: str) -> Rgb:
        """Fill of a cut element: earth is lighter than what is built, neighbours are lighter still (common practice)."""
        if element_type == NEIGHBOUR_TYPE:
            return self.poche_beside
        return self.poche_earth if element_type in EARTH_TYPES else self.poche

    @property
    def by_hand(self) -> bool:
        """Whether its lines, or the edges of its washes, are other than ruled ones; then they are those of its linework."""
        return self.manner != "ruled" or self.crossing > 0 or self.wash_edge > 0

    @property
    def line_ink(self) -> Rgb:
        """Of lines beyond the cut."""
        return self.line_colour or self.ink

    def mixed(self, ink: float) -> Rgb:
        """So much ink on this paper."""
        return mixed(self.paper, self.ink, ink)
