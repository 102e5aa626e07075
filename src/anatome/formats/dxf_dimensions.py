"""Lengths, angles and radii as dimensions of a DXF, which measure what the note says, and text as its kinds of text want it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from anatome.notes.marks import Measured, MeasuredAngle, MeasuredRadius, NoteMarks, Words
from anatome.words import printable

if TYPE_CHECKING:
    from ezdxf.document import Drawing as Document
    from ezdxf.layouts import BlockLayout


def of_text(text: str) -> str:
    """Return text as the content of a TEXT, where %%d and the like are signs and ^ a control character (DXF reference, values
    from memory; checked against ezdxf in the tests)."""
    return " ".join(printable(text).split("\n")).replace("^", "^ ").replace("%%", "%%%%%%")


def of_mtext(text: str) -> str:
    """Return text as the content of an MTEXT, where \\ and braces are formats too."""
    plain = printable(text).replace("\\", "\\\\").replace("{", "\\{").replace("}", "\\}")
    return plain.replace("^", "^ ").replace("%%", "%%%%%%").replace("\n", "\\P")


def _of_dimension(text: str) -> str:
    """The same for a dimension, where <> is what it measures; an empty group between them keeps that from being read."""
    return of_mtext(text).replace("<>", "<{}>")


def is_measured(note: NoteMarks) -> bool:
    """Return whether dimensions of the file can say what a note says: not of angles in a plane seen aslant."""
    return bool(note.measured) or (note.angle is not None and note.angle.is_true) or note.radius is not None


def add_dimensions(document: Document, note: NoteMarks, style: str, layer: str) -> list[BlockLayout]:
    """Add the dimensions of a note. Return the block that shows each, for its words; strokes belong into the first."""
    space, own = document.modelspace(), {"layer": layer}
    made: list[tuple[Any, float, Words]] = []
    if note.angle is not None and note.angle.is_true:
        made.append((_angle(space, note.angle, style, own), math.radians(note.angle.degrees), note.angle.words))
    elif note.radius is not None:
        made.append((_radius(space, note.radius, style, own), note.radius.metres, note.radius.words))
    else:
        made += [(_length(space, measured, style, own), measured.metres, measured.words) for measured in note.measured]
    return [_shown_by_block(document, *one) for one in made]


def _length(space: Any, measured: Measured, style: str, own: dict[str, str]) -> Any:
    """A linear dimension that says what the note says and measures metres."""
    way = measured.line_end - measured.line
    return space.add_linear_dim(
        base=tuple(measured.line),
        p1=tuple(measured.start),
        p2=tuple(measured.end),
        location=tuple(_middle(measured.words)),
        angle=math.degrees(math.atan2(way[1], way[0])),
        text=_of_dimension(measured.words.text),
        override=_letters(measured.words, style, measured.metres / float(np.hypot(*way))),
        dxfattribs=own,
    )


def _angle(space: Any, measured: MeasuredAngle, style: str, own: dict[str, str]) -> Any:
    """An angular dimension, which measures radians."""
    first, second = measured.start - measured.corner, measured.end - measured.corner
    # It is measured anticlockwise from the first way to the second.
    turns_left = first[0] * second[1] - first[1] * second[0] > 0
    ways = (measured.start, measured.end) if turns_left else (measured.end, measured.start)
    return space.add_angular_dim_3p(
        base=tuple(measured.middle),
        center=tuple(measured.corner),
        p1=tuple(ways[0]),
        p2=tuple(ways[1]),
        text=_of_dimension(measured.words.text),
        override=_letters(measured.words, style, 1.0),
        dxfattribs=own,
    )


def _radius(space: Any, measured: MeasuredRadius, style: str, own: dict[str, str]) -> Any:
    """A dimension of a radius or a diameter, which measures metres."""
    way = measured.on - measured.centre
    size = float(np.hypot(*way))
    add = space.add_diameter_dim if measured.diameter else space.add_radius_dim
    return add(
        center=tuple(measured.centre),
        radius=size,
        angle=math.degrees(math.atan2(way[1], way[0])),
        text=_of_dimension(measured.words.text),
        override=_letters(measured.words, style, measured.metres / (2 * size if measured.diameter else size)),
        dxfattribs=own,
    )


def _letters(words: Words, style: str, factor: float) -> dict[str, Any]:
    """What a dimension says of its letters, and the metres a mm on paper is."""
    return {"dimlfac": factor, "dimtxt": words.height, "dimtxsty": style}


def _shown_by_block(document: Document, made: Any, measurement: float, words: Words) -> BlockLayout:
    """Have a dimension drawn by a block, so that it is as it is everywhere else. Return the block, which is empty yet."""
    made.commit()
    block = document.blocks.new_anonymous_block(type_char="D")
    made.dimension.dxf.geometry = block.name
    made.dimension.dxf.actual_measurement = measurement
    made.dimension.dxf.text_midpoint = (*_middle(words), 0.0)
    return block


def _middle(words: Words) -> Sequence[float]:
    found: list[float] = words.corners().mean(axis=0).tolist()
    return found
