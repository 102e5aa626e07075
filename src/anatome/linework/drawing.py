"""A drawing as a value: areas and lines on named layers, in millimetres on paper. Writers in formats/ draw it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import PlainSerializer, PlainValidator

from anatome.look.look import Rgb
from anatome.look.pens import LineKind, Pen
from anatome.notes.marks import NotesDrawn, Words


def _places(told: object) -> NDArray[np.float64]:
    places = np.asarray(told, np.float64)
    if places.ndim != 2 or places.shape[1] != 2 or not np.isfinite(places).all():
        raise ValueError("places are rows of x and y")
    return places


Ring = Annotated[NDArray[np.float64], PlainValidator(_places), PlainSerializer(np.ndarray.tolist)]
"""(n, 2) millimetres on paper, x to the right, y upwards from the lower edge."""


TONES = "Tones"
"""The layer of what is seen as areas of flat tones."""


@dataclass(frozen=True)
class PatternLines:
    """Parallel lines without end, in mm on paper: one runs through ``at`` in the direction ``angle`` (degrees), each other one is
    the one before moved by ``step``; ``dashes`` are dash and gap in turn and begin at ``at``, nothing for whole lines."""

    at: tuple[float, float]
    angle: float
    step: tuple[float, float]
    dashes: tuple[float, ...] | None = None


@dataclass(frozen=True, eq=False)
class Area:
    """One element's polygons: each a tuple of rings, outer first, then holes; rings repeat their first point. With ``fades``,
    heights in mm, the fill is whole from the second upwards and nothing at the first."""

    element_id: str
    name: str
    polygons: tuple[tuple[Ring, ...], ...]
    fill: Rgb
    fades: tuple[float, float] | None = None
    pattern: tuple[PatternLines, ...] = ()
    """Its hatch, where it is seen true, for files that know hatches; others have its lines as strokes."""
    pattern_of: str = ""
    """What that pattern is called: strokes that are its lines say so too."""
    strength: float = 1.0
    """How much of what lies under it the fill covers."""


@dataclass(frozen=True, eq=False)
class Line:
    """An open line of an element."""

    element_id: str
    name: str
    points: Ring


@dataclass(frozen=True, eq=False)
class Strokes:
    """Lines drawn with one pen over all areas, on a layer of their own: (n, 2) each; of one ``kind``, in drawings of a model."""

    name: str
    pen: Pen
    lines: tuple[Ring, ...]
    kind: LineKind | None = None
    patterns: str = ""
    """What areas call the pattern whose lines these are; nothing for lines that are none of a pattern."""

    @property
    def of_patterns(self) -> bool:
        """Whether these are the lines of the patterns of areas."""
        return bool(self.patterns)


@dataclass(frozen=True, eq=False)
class Layer:
    """A layer by name, with what is drawn on it; ``classes`` are the types in the model's file of what it shows."""

    name: str
    areas: tuple[Area, ...] = ()
    lines: tuple[Line, ...] = ()
    labels: tuple[Words, ...] = ()
    classes: tuple[str, ...] = ()
    lies_over: bool = False
    """Whether it goes on lying over a picture that has the fills: its areas are no fills, they darken."""


@dataclass(frozen=True, eq=False)
class Drawing:
    """``width`` and ``height`` in mm; ``scale`` is the 50 of 1:50; ``line_width`` in mm, of the outlines of areas, 0 where
    ``strokes`` are drawn over them instead."""

    title: str
    width: float
    height: float
    scale: float
    line_width: float
    ink: Rgb
    layers: tuple[Layer, ...] = field(default=())
    strokes: tuple[Strokes, ...] = ()
    paper: Rgb | None = None
    """What it lies on, if lines could not be seen on white."""
    picture: bytes | None = None
    """A PNG as large as the paper, which lies under all of it."""
    notes: NotesDrawn | None = None
    """What is written on it, over all of it."""
    lost: tuple[str, ...] = ()
    """The ids of touching up that found nothing to hold on to."""

    def over(self, picture: bytes) -> Drawing:
        """Its lines over a picture, which has the fills."""
        return replace(self.lines_alone(), picture=picture, notes=self.notes)

    def lines_alone(self) -> Drawing:
        """Return what a picture without lines has not: lines, and what darkens edges; no fills, no paper, no notes."""
        layers = tuple(layer for layer in self.layers if layer.lies_over)
        return replace(self, layers=layers, paper=None, picture=None, notes=None)
