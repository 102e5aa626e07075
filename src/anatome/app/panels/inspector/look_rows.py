"""What can be changed of a look, as rows of a form: which field, in which words, from which choice or between which limits."""

from __future__ import annotations

from dataclasses import dataclass

from anatome.look.look import MOST_WAVER, WEIGHTS

_WEIGHTS: tuple[tuple[object, str], ...] = tuple((w, f"{w:.2f} mm") for w in WEIGHTS)


@dataclass(frozen=True)
class Choice:
    """One of several."""

    key: str
    words: str
    entries: tuple[tuple[object, str], ...]


@dataclass(frozen=True)
class Number:
    """A number with its unit; a step of the wheel; its limits."""

    key: str
    words: str
    unit: str
    step: float
    low: float = 0.0
    high: float = 1.0


@dataclass(frozen=True)
class Switch:
    """On or off."""

    key: str
    words: str
    tip: str


@dataclass(frozen=True)
class LookSection:
    """What is folded together."""

    words: str
    tip: str
    rows: tuple[Choice | Number, ...]
    switches: tuple[Switch, ...] = ()


PARTS = (
    LookSection(
        "The cut",
        "Fills, hatches and the lines round what is cut",
        (
            Choice(
                "fill_by",
                "Fill",
                (
                    ("one", "One colour"),
                    ("material", "By material"),
                    ("type", "By type"),
                    ("storey", "By storey"),
                    ("element", "Each part"),
                ),
            ),
            Choice("hatch", "Hatches", (("none", "None"), ("over", "Over the fill"), ("only", "Instead of the fill"))),
            Choice("cut_weight", "Outline of the cut", _WEIGHTS),
            Choice("part_weight", "Between parts", _WEIGHTS),
            Choice("hatch_weight", "Lines of hatches", _WEIGHTS),
            Number("hatch_ink", "Ink of hatches", "%", 0.05),
        ),
        (Switch("earth_to_frame", "Earth to the frame", "Earth that is cut goes down as far as the picture does"),),
    ),
    LookSection(
        "Surfaces and lines beyond",
        "Colours, patterns, glass, edges, depth",
        (
            Choice(
                "surfaces",
                "Surfaces",
                (
                    ("harmonised", "Pale, of one family"),
                    ("as modelled", "As modelled"),
                    ("white", "White"),
                    ("warm grey", "Warm grey"),
                    ("paper", "Like the paper"),
                    ("by storey", "By storey"),
                    ("by use", "By use of spaces"),
                    ("by type", "By type"),
                    ("by material", "By material"),
                ),
            ),
            Number("colour", "Their colour", "%", 0.1, 0.0, 3.0),
            Choice("edge_weight", "Edges", _WEIGHTS),
            Choice("silhouette_weight", "Silhouettes", _WEIGHTS),
            Choice("figures", "People and trees", (("toned", "Flat tones"), ("outlined", "Outlines"), ("clear", "Transparent"))),
            Number("recede", "Finer with distance", "%", 0.05),
            Number("haze", "Haze", "%", 0.05),
            Number("pattern_ink", "Ink of patterns", "%", 0.05),
            Number("reflections", "Glass reflects", "%", 0.05),
        ),
        (
            Switch("patterns", "Patterns at real size", "Boards, courses and tiles, where materials say what they are laid of"),
            Switch("hidden_lines", "Hidden lines, dashed", "Edges behind surfaces"),
            Switch(
                "join_planes",
                "No lines within one plane",
                "In linework, parts of one material that lie in one plane have no line between them",
            ),
        ),
    ),
    LookSection(
        "The hand",
        "How lines are drawn, and whether washes dry darker along their edges: in pictures, linework and on sheets alike",
        (
            Choice("manner", "Lines", (("ruled", "Ruled"), ("freehand", "Freehand"))),
            Number("waver", "Waver", "mm", 0.02, 0.0, MOST_WAVER),
            Number("pressure", "Pressure", "%", 0.05),
            Number("crossing", "Past corners", "mm", 0.2, 0.0, 5.0),
            Number("wash_edge", "Edges of washes", "%", 0.05),
            Number("hand", "Other strokes", "", 1, 0, 9999),
        ),
    ),
    LookSection(
        "Light",
        "Shadows, the sun, soft shade",
        (
            Number("shadows", "Cast shadows", "%", 0.05),
            Number("sun_size", "Their softness", "°", 0.5, 0.0, 30.0),
            Number("shade_strength", "Soft shade", "%", 0.05),
            Number("sun_turn", "Sun, to the right", "°", 5.0, -360.0, 360.0),
            Number("sun_height", "Sun, height", "°", 5.0, 3.0, 90.0),
        ),
        (Switch("unseen_shade", "What is cut away shades", "What cuts take and what is hidden casts its shadow all the same"),),
    ),
)
STILL = LookSection(
    "Still, ray-traced",
    "Light found by following rays: sun, sky, lamps, and what surfaces give back",
    (
        Number("still_sun", "The sun's share", "%", 0.05),
        Choice("lamps", "Lamps", (("lamps", "Those of the model"), ("rooms", "Rooms as a whole"), ("off", "None"))),
        Number("lamp_light", "Their light", "%", 0.25, 0.0, 50.0),
        Number("brightness", "Brighter, stops", "", 0.25, -4.0, 4.0),
    ),
)
COLOURS = (
    ("poche", "Cut"),
    ("poche_earth", "Earth"),
    ("paper", "Paper"),
    ("sky", "Sky"),
    ("ink", "Ink"),
    ("line_colour", "Lines beyond"),
)
SUNS = (("view", "It goes with the view"), ("stands", "It stands where it is said"), ("moment", "By day and hour"))
FIRST_MOMENT = "2026-06-21T15:00"
