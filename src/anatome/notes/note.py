"""Notes as values: what is said, of which places of the building, and where it stands on the paper."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from anatome.cuts.plane import Vector
from anatome.look.line_layers import Dashes
from anatome.look.look import Rgb, Weight
from anatome.notes.anchors import Anchor
from anatome.values import Value

Corner = Literal["lower left", "lower right", "upper left", "upper right"]
Offset = tuple[float, float]
"""Millimetres on paper, to the right and up."""


VALUE = "{value}"
"""What a dimension says that says nothing else; the field is filled with what it measures."""
MOST_WORDS = 500
Unit = Literal["m", "cm", "mm", "ft"]
Fraction = Literal[1, 2, 4, 8, 16, 32, 64]
Ends = Literal["slash", "arrow", "dot"]


class NoteStyle(Value):
    """How notes are written, all of a scene or one that has a style of its own: capitals so many mm high, lengths in a unit with
    so many decimals, lines so many mm wide; with a ``veil`` of paper behind the words, so that they can be read on anything. One
    that is kept has a ``name``."""

    name: str = Field(default="", max_length=100)
    height: float = Field(default=2.5, gt=0.5, le=50)
    unit: Unit = "m"
    decimals: int = Field(default=2, ge=0, le=4)
    fraction: Fraction | None = Field(
        default=None, description="the part of an inch feet and inches are told to, as its 16 of 1/16"
    )
    weight: float = Field(default=0.18, gt=0, le=2)
    veil: bool = True
    ends: Ends = Field(default="slash", description="of dimensions; leaders end in dots, or in arrows too")
    colour: Rgb | None = Field(default=None, description="of lines and words, nothing for the ink of the look")


class NoteSwitches(Value):
    """What every note has; a ``style`` of its own in place of that of all, and ``height`` mm of capitals in place of the style's.
    ``dressed`` is for which height of the
    picture in mm it was placed by dressing; nothing where it was written, moved or changed by hand."""

    id: str
    style: NoteStyle | None = None
    height: float | None = Field(default=None, gt=0.5, le=100)
    dressed: float | None = Field(default=None, gt=0, le=1e5)


class Dimension(NoteSwitches):
    """A linear dimension, or with more than two anchors a chain of them.

    Lengths are measured ``along`` a direction (unit length). The line lies ``offset`` metres from the first anchor, across that
    direction, in the plane with the normal ``plane``, or square to the view. With ``overall`` a second line says the whole.
    """

    kind: Literal["dimension"] = "dimension"
    anchors: tuple[Anchor, ...] = Field(min_length=2, max_length=200)
    along: Vector
    plane: Vector | None = None
    offset: Vector
    overall: bool = False
    text: str = Field(default=VALUE, max_length=MOST_WORDS, description="what each part says; {value} is its length")
    whole: str = Field(default=VALUE, max_length=MOST_WORDS, description="what the whole says")

    @field_validator("along")
    @classmethod
    def _leads_somewhere(cls, along: Vector) -> Vector:
        if not 0.99 < sum(x * x for x in along) < 1.01:
            raise ValueError("a direction has unit length")
        return along


class Angle(NoteSwitches):
    """The angle at the first anchor between the ways to the other two, on an arc ``radius`` metres from it."""

    kind: Literal["angle"] = "angle"
    anchors: tuple[Anchor, Anchor, Anchor]
    radius: float = Field(gt=0, le=1e6)
    text: str = Field(default=VALUE, max_length=MOST_WORDS)


class Radius(NoteSwitches):
    """Of the circle through three anchors, told at the second."""

    kind: Literal["radius"] = "radius"
    anchors: tuple[Anchor, Anchor, Anchor]
    diameter: bool = False
    text: str = Field(default=VALUE, max_length=MOST_WORDS)


class Level(NoteSwitches):
    """A height mark at an anchor. ``text`` may have fields; ``shift`` mm along its line, to the right or to the left. It stands
    upright in the plane with the normal ``plane``, or lies flat in the picture."""

    kind: Literal["level"] = "level"
    anchors: tuple[Anchor]
    text: str = Field(default="{level}", max_length=500)
    plane: Vector | None = None
    shift: float = 6.0


class Label(NoteSwitches):
    """Words, with a ``leader`` from their anchors or without. Fields in braces say what the part has, and stay true.

    The leader goes through ``bends``, told as ``offset`` is, and on through all anchors; as a ``fan`` to each of them from the
    last bend, or from the words. ``each`` says the words once for every anchor, a line each. ``offset`` leads from the first
    anchor to the words: in mm on paper, or in mm along the plane with the normal ``plane``.
    """

    kind: Literal["label"] = "label"
    anchors: tuple[Anchor, ...] = Field(min_length=1, max_length=50)
    text: str = Field(max_length=2000)
    each: bool = False
    leader: bool = True
    offset: Offset = (0.0, 0.0)
    plane: Vector | None = None
    bends: tuple[Offset, ...] = Field(default=(), max_length=20)
    fan: bool = False


class ScaleBar(NoteSwitches):
    """How long metres are in the plane that is seen true, ``offset`` mm inwards from a corner of the picture."""

    kind: Literal["scale bar"] = "scale bar"
    corner: Corner = "lower right"
    offset: Offset = (12.0, 8.0)


class NorthPoint(NoteSwitches):
    """Where north is, as the picture shows it."""

    kind: Literal["north point"] = "north point"
    corner: Corner = "upper right"
    offset: Offset = (12.0, 12.0)


class SectionMark(NoteSwitches):
    """Both ends of a cut's line with the way it looks, in a picture that looks down on it or sees it edge on; the cut may be
    off."""

    kind: Literal["section mark"] = "section mark"
    cut: str


class Shape(NoteSwitches):
    """A line drawn by hand from corner to corner, or an area within it where it is ``closed``.

    Its corners are its anchors; or, drawn on the paper, ``points`` in mm from the one anchor it goes along with. It has the ink
    and lines of all notes unless it says otherwise; ``fill`` and ``hatch`` are of areas.
    """

    kind: Literal["shape"] = "shape"
    anchors: tuple[Anchor, ...] = Field(min_length=1, max_length=200)
    points: tuple[Offset, ...] = Field(default=(), max_length=200)
    closed: bool = False
    weight: Weight | None = Field(default=None, description="mm of its line")
    outlined: bool = Field(default=True, description="whether an area has a line round it")
    dashes: Dashes | None = None
    colour: Rgb | None = Field(default=None, description="of its line and its hatch")
    fill: Rgb | None = None
    hatch: str = Field(default="", max_length=100, description="the name of a hatch, nothing for none")
    hatch_scale: float = Field(default=1.0, ge=0.001, le=1000)


Note = Annotated[
    Dimension | Angle | Radius | Level | Label | ScaleBar | NorthPoint | SectionMark | Shape,
    Field(discriminator="kind"),
]
AnyNote = Dimension | Angle | Radius | Level | Label | ScaleBar | NorthPoint | SectionMark | Shape
WithWords = Label | Level | Dimension | Angle | Radius
"""Notes whose words can be typed."""
Placed = ScaleBar | NorthPoint
"""Notes that hold on to the paper."""


def anchors_of(note: AnyNote) -> tuple[Anchor, ...]:
    """Return what a note holds on to in the building."""
    return () if isinstance(note, ScaleBar | NorthPoint | SectionMark) else note.anchors
