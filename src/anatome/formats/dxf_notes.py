"""Notes in DXF: lengths as dimensions, words as text of the file, strokes as polylines; all of it in register with the lines."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

import numpy as np

from anatome.notes.lettering import font_file
from anatome.notes.marks import Measured, MeasuredAngle, MeasuredRadius, NoteMarks, NotesDrawn, Stroke, Words
from anatome.words import printable

if TYPE_CHECKING:
    from ezdxf.document import Drawing as Document
    from ezdxf.layouts import BaseLayout

NOTES, DIMENSIONS = "Notes", "Dimensions"
STYLES = {False: "NOTES", True: "NOTES_STRONG"}
MIDDLE_LEFT = 4
"""Where an MTEXT is held: the middle of a capital, at the left end."""


def add_notes(document: Document, notes: NotesDrawn) -> None:
    """Put the notes into the model space, on layers of their own."""
    from ezdxf import colors

    red, green, blue = (round(255 * c) for c in notes.ink)
    for name in (NOTES, DIMENSIONS):
        document.layers.add(name, lineweight=18, true_color=colors.rgb2int((red, green, blue)))
    for strong, name in STYLES.items():
        document.styles.add(name, font=font_file(strong).name)
    space = document.modelspace()
    for note in notes.sound:
        _note(document, space, note)


def _note(document: Document, space: BaseLayout, note: NoteMarks) -> None:
    if (note.angle is not None and note.angle.is_true) or note.radius is not None:
        block = document.blocks.new_anonymous_block(type_char="D")
        for stroke in note.strokes:
            _stroke(block, stroke, DIMENSIONS)
        for words in note.words:
            _words(block, words, DIMENSIONS)
        if note.angle is not None:
            _angle(space, note.angle, block.name)
        elif note.radius is not None:
            _radius(space, note.radius, block.name)
        return
    if not note.measured:
        for stroke in note.strokes:
            _stroke(space, stroke, NOTES)
        for words in note.words:
            _words(space, words, NOTES)
        return
    # The lengths of a chain are dimensions of their own; what they are drawn of lies in the block of the first.
    for number, measured in enumerate(note.measured):
        block = document.blocks.new_anonymous_block(type_char="D")
        for stroke in note.strokes if number == 0 else ():
            _stroke(block, stroke, DIMENSIONS)
        _words(block, measured.words, DIMENSIONS)
        _dimension(space, measured, block.name)


def one_line(text: str) -> str:
    """Return text as the content of a TEXT, where %%d and the like are signs and ^ a control character (DXF reference, values
    from memory; checked against ezdxf in the tests)."""
    return " ".join(printable(text).split("\n")).replace("^", "^ ").replace("%%", "%%%%%%")


def _formatted(text: str) -> str:
    """The same for an MTEXT, where \\ and braces are formats too."""
    plain = printable(text).replace("\\", "\\\\").replace("{", "\\{").replace("}", "\\}")
    return plain.replace("^", "^ ").replace("%%", "%%%%%%").replace("\n", "\\P")


def _measured(text: str) -> str:
    """The same for a dimension, where <> is what it measures; an empty group between them keeps that from being read."""
    return _formatted(text).replace("<>", "<{}>")


def _dimension(space: Any, measured: Measured, block: str) -> None:
    """A linear dimension that says what the note says and measures metres."""
    way = measured.line_end - measured.line
    angle = math.degrees(math.atan2(way[1], way[0]))
    size = float(np.hypot(*way))
    middle = measured.words.corners().mean(axis=0)
    made = space.add_linear_dim(
        base=tuple(measured.line),
        p1=tuple(measured.start),
        p2=tuple(measured.end),
        location=tuple(middle),
        angle=angle,
        text=_measured(measured.words.text),
        override=_style(measured.words, measured.metres / size),
        dxfattribs={"layer": DIMENSIONS},
    )
    _drawn_as(made, block, measured.metres, middle)


def _angle(space: Any, measured: MeasuredAngle, block: str) -> None:
    """An angular dimension, which measures radians."""
    first, second = measured.start - measured.corner, measured.end - measured.corner
    # It is measured anticlockwise from the first way to the second.
    turns_left = first[0] * second[1] - first[1] * second[0] > 0
    ways = (measured.start, measured.end) if turns_left else (measured.end, measured.start)
    made = space.add_angular_dim_3p(
        base=tuple(measured.middle),
        center=tuple(measured.corner),
        p1=tuple(ways[0]),
        p2=tuple(ways[1]),
        text=_measured(measured.words.text),
        override=_style(measured.words, 1.0),
        dxfattribs={"layer": DIMENSIONS},
    )
    _drawn_as(made, block, math.radians(measured.degrees), measured.words.corners().mean(axis=0))


def _radius(space: Any, measured: MeasuredRadius, block: str) -> None:
    """A dimension of a radius or a diameter, which measures metres."""
    way = measured.on - measured.centre
    size = float(np.hypot(*way))
    add = space.add_diameter_dim if measured.diameter else space.add_radius_dim
    made = add(
        center=tuple(measured.centre),
        radius=size,
        angle=math.degrees(math.atan2(way[1], way[0])),
        text=_measured(measured.words.text),
        override=_style(measured.words, measured.metres / (2 * size if measured.diameter else size)),
        dxfattribs={"layer": DIMENSIONS},
    )
    _drawn_as(made, block, measured.metres, measured.words.corners().mean(axis=0))


def _style(words: Words, factor: float) -> dict[str, Any]:
    """What a dimension says of its letters, and the metres a mm on paper is."""
    return {"dimlfac": factor, "dimtxt": words.height, "dimtxsty": STYLES[False]}


def _drawn_as(made: Any, block: str, measurement: float, middle: Any) -> None:
    """Have a dimension drawn by a block, so that it is as it is everywhere else."""
    made.commit()
    made.dimension.dxf.geometry = block
    made.dimension.dxf.actual_measurement = measurement
    made.dimension.dxf.text_midpoint = (*middle, 0.0)


def _stroke(space: BaseLayout, stroke: Stroke, layer: str) -> None:
    if stroke.filled:
        hatch = space.add_hatch(dxfattribs={"layer": layer})
        hatch.paths.add_polyline_path(stroke.points.tolist(), is_closed=True)
        return
    space.add_lwpolyline(stroke.points.tolist(), dxfattribs={"layer": layer})


def _words(space: BaseLayout, words: Words, layer: str) -> None:
    """As MTEXT where it is drawn as it is read; leaning, where it lies in a plane seen aslant, as TEXT with the same slope."""
    style = STYLES[words.strong]
    if words.is_flat:
        at = words.at + words.up * words.height / 2
        made = space.add_mtext(
            _formatted(words.text),
            dxfattribs={"layer": layer, "style": style, "char_height": words.height, "attachment_point": MIDDLE_LEFT},
        )
        made.dxf.insert = (*at, 0.0)
        made.dxf.text_direction = (*words.right, 0.0)
        return
    wide = float(np.hypot(*words.right))
    along = words.right / wide
    across = np.array([-along[1], along[0]])
    high = float(words.up @ across)
    lean = math.degrees(math.atan2(float(words.up @ along), high))
    text = space.add_text(one_line(words.text), height=words.height * high, dxfattribs={"layer": layer, "style": style})
    text.dxf.insert = (*words.at, 0.0)
    text.dxf.rotation = math.degrees(math.atan2(along[1], along[0]))
    text.dxf.width = wide / max(high, 1e-6)
    text.dxf.oblique = max(min(lean, 85.0), -85.0)
