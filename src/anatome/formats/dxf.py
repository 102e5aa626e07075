"""Writing a drawing as DXF in millimetres: areas as solid hatches, patterns as hatches of the file, words as text."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from anatome.formats.dxf_dimensions import add_dimensions, is_measured, of_mtext, of_text
from anatome.linework.drawing import TONES, Area, Drawing, Ring
from anatome.linework.plotting import THIN, Fill, Owner, Rings, is_closed, plot
from anatome.look.look import Rgb
from anatome.look.pens import Pen
from anatome.notes.lettering import font_file
from anatome.notes.marks import NoteMarks, Words
from anatome.words import printable

DIMENSIONS = "Dimensions"
"""The layer of lengths, angles and radii that the file knows as such."""
LONGEST_NAME = 255
FORBIDDEN = re.compile(r'[<>/\\":;?*|=`\n\r\t]+')
"""Characters a layer name may not have."""
STYLES = {False: "NOTES", True: "NOTES_STRONG"}
MIDDLE_LEFT = 4
"""Where an MTEXT is held: the middle of a capital, at the left end."""


def dxf_bytes(drawing: Drawing) -> bytes:
    """Return a drawing as DXF R2010. The same drawing gives the same bytes."""
    plotter = DxfPlotter(drawing.paper or (1.0, 1.0, 1.0))
    plot(drawing, plotter)
    return plotter.finished((drawing.width, drawing.height))


class DxfPlotter:
    """A file that is written. Pictures and the colour of the paper stay out of it; the outline of each area is in it, to go on
    drawing with."""

    def __init__(self, paper: Rgb) -> None:
        # A large library, wanted by those who write such a file.
        import ezdxf
        from ezdxf import units

        ezdxf.options.write_fixed_meta_data_for_testing = True  # no time of writing, no new ids; set once and never back
        self._document = ezdxf.new("R2010", units=units.MM)
        self._space = self._document.modelspace()
        self._into: Any = self._space
        self._block_of: dict[int, Any] = {}
        """The block a line of text of a dimension belongs into."""
        self._paper = paper
        self._layer = "0"
        self._around = ""
        self._weight = 0
        self._own: dict[str, Any] = {}
        """What lines of a further pen say, on a layer that has another."""

    def begin_layer(self, name: str, pen: Pen | None, classes: Sequence[str] = ()) -> None:
        """Begin a layer, which has the weight, the colour and the dashes of its lines."""
        self._layer = FORBIDDEN.sub("_", printable(name)).strip()[:LONGEST_NAME] or "0"
        self._own = {}
        if self._layer in self._document.layers:
            self._be_of(pen)
            return
        self._weight = _in_row(THIN if pen is None else pen.weight)
        made = self._document.layers.add(self._layer, lineweight=self._weight)
        if classes:
            made.description = printable(" ".join(classes))[:LONGEST_NAME]
        if pen is not None:
            made.dxf.true_color = _true(pen.ink)
            made.dxf.linetype = self._linetype(pen)

    def _be_of(self, pen: Pen | None) -> None:
        """A further pen on a layer there is: its lines say what of it is not as the layer has it."""
        layer = self._document.layers.get(self._layer).dxf
        self._weight = layer.lineweight
        if pen is not None:
            told = {"true_color": _true(pen.ink), "linetype": self._linetype(pen)}
            self._own = {key: value for key, value in told.items() if value != layer.get(key, None)}

    def end_layer(self) -> None:
        """Go on with no layer."""
        self._layer, self._own = "0", {}

    def ground(self, size: tuple[float, float], colour: Rgb) -> None:
        """Go on: whoever opens the file has a colour of their own."""

    def picture(self, png: bytes, size: tuple[float, float]) -> None:
        """Go on: there are no pictures in the file."""

    def area(self, polygons: Rings, fill: Fill, pen: Pen | None, owner: Owner | None) -> None:
        """Fill polygons with a solid hatch, whose style “normal” is the even-odd rule, and draw the outlines of an element."""
        if fill.alpha < 1 and owner is None:  # a veil behind words; there is none here
            return
        if fill.alpha < 1:
            self._hatch(polygons, fill.colour).transparency = 1.0 - fill.alpha
            return
        if fill.fades is None:
            self._hatch(polygons, None if owner is None else fill.colour)
        else:
            self._fading(polygons, fill.colour, fill.fades)
        if owner is not None and self._layer != TONES:
            for ring in (ring for rings in polygons for ring in rings):
                self._into.add_lwpolyline(ring[:-1].tolist(), close=True, dxfattribs={"layer": self._layer})

    def hatch(self, areas: Sequence[Area]) -> bool:
        """Hatch areas, with our own lines for the definitions of their patterns."""
        for area in areas:
            lines = [[p.angle, p.at, p.step, [-d if i % 2 else d for i, d in enumerate(p.dashes or ())]] for p in area.pattern]
            self._hatch(area.polygons, None).set_pattern_fill("ANATOME", definition=lines)
        return True

    def lines(self, lines: Sequence[Ring], pen: Pen, owner: Owner | None) -> None:
        """Draw polylines, which have the weight of their layer unless their own is another."""
        weight = _in_row(pen.weight)
        own = {"layer": self._layer, **self._own} | ({} if weight == self._weight else {"lineweight": weight})
        for points in lines:
            closed = is_closed(points)
            self._into.add_lwpolyline(points[: len(points) - closed].tolist(), close=closed, dxfattribs=own)

    def words(self, words: Words, ink: Rgb) -> None:
        """Draw a line of text: as MTEXT where it is drawn as it is read; where it lies in a plane seen aslant, as TEXT that
        leans as it does."""
        own = {"layer": self._layer, "style": self._style(words.strong)}
        into = self._block_of.get(id(words), self._into)
        if words.is_flat:
            at = words.at + words.up * words.height / 2
            made = into.add_mtext(
                of_mtext(words.text), dxfattribs=own | {"char_height": words.height, "attachment_point": MIDDLE_LEFT}
            )
            made.dxf.insert = (*at, 0.0)
            made.dxf.text_direction = (*words.right, 0.0)
            return
        wide = float(np.hypot(*words.right))
        along = words.right / wide
        high = float(words.up @ [-along[1], along[0]])
        lean = math.degrees(math.atan2(float(words.up @ along), high))
        text = into.add_text(of_text(words.text), height=words.height * high, dxfattribs=own)
        text.dxf.insert = (*words.at, 0.0)
        text.dxf.rotation = math.degrees(math.atan2(along[1], along[0]))
        text.dxf.width = wide / max(high, 1e-6)
        text.dxf.oblique = max(min(lean, 85.0), -85.0)

    def begin_note(self, note: NoteMarks) -> None:
        """Draw what is measured as dimensions of the file, whose strokes and words go into the blocks that show them."""
        if not is_measured(note):
            return
        self._around, self._layer = self._layer, DIMENSIONS
        if DIMENSIONS not in self._document.layers:
            like = self._document.layers.get(self._around).dxf
            self._document.layers.add(DIMENSIONS, lineweight=like.lineweight, true_color=like.true_color)
        blocks = add_dimensions(self._document, note, self._style(False), DIMENSIONS)
        self._into = blocks[0]
        self._block_of = {id(measured.words): block for measured, block in zip(note.measured, blocks)}

    def end_note(self) -> None:
        """Go on in the model space."""
        if self._into is not self._space:
            self._into, self._layer, self._block_of = self._space, self._around, {}

    def finished(self, size: tuple[float, float]) -> bytes:
        """Return the file. Its extent is the paper, which holds all of it; programs zoom to it."""
        document = self._document
        document.header["$EXTMIN"], document.header["$EXTMAX"] = (0.0, 0.0, 0.0), (*size, 0.0)
        self._space.reset_extents((0.0, 0.0, 0.0), (*size, 0.0))
        document.set_modelspace_vport(size[1], (size[0] / 2, size[1] / 2))
        # They come from a set, in an order that is another one each time the program runs.
        document.classes.add_required_classes(document.dxfversion)
        document.classes.classes = dict(sorted(document.classes.classes.items()))
        out = io.StringIO()
        document.write(out)
        return out.getvalue().encode("utf-8")

    def _hatch(self, polygons: Rings, colour: Rgb | None) -> Any:
        """A solid hatch, in the colour of its layer if it has none of its own."""
        from ezdxf import colors

        hatch = self._into.add_hatch(dxfattribs={"layer": self._layer, "hatch_style": 0})
        if colour is not None:
            hatch.rgb = colors.RGB(*_bytes(colour))
        for rings in polygons:
            for number, ring in enumerate(rings):
                hatch.paths.add_polyline_path(ring[:-1].tolist(), is_closed=True, flags=1 if number == 0 else 16)
        return hatch

    def _fading(self, polygons: Rings, colour: Rgb, fades: tuple[float, float]) -> None:
        """A solid hatch, and under it one with a gradient into the colour of the paper: from end to end of what it fills."""
        from ezdxf import colors

        low, high = fades
        whole = shapely.union_all(shapely.make_valid([shapely.Polygon(rings[0], rings[1:]) for rings in polygons]))
        left, _, right, top = whole.bounds
        upper = _rings_of(whole.intersection(shapely.box(left, high, right, max(top, high) + 1.0)))
        band = whole.intersection(shapely.box(left, low, right, high))
        if upper:
            self._hatch(upper, colour)
        if rings := _rings_of(band):
            ends = [(y - low) / (high - low) for y in (band.bounds[1], band.bounds[3])]
            shades = [_bytes(tuple(p + (c - p) * end for p, c in zip(self._paper, colour))) for end in ends]
            hatch = self._hatch(rings, None)
            hatch.set_gradient(colors.RGB(*shades[0]), colors.RGB(*shades[1]), rotation=90.0, name="LINEAR")

    def _linetype(self, pen: Pen) -> str:
        if pen.dashes is None:
            return "Continuous"
        dash, gap = pen.dashes
        name = f"DASHES_{dash:g}_{gap:g}"
        if name not in self._document.linetypes:
            self._document.linetypes.add(name, [dash + gap, dash, -gap], description=f"{dash:g} mm and {gap:g} mm")
        return name

    def _style(self, strong: bool) -> str:
        """The name of the style of letters, which the file knows from when it is first wanted."""
        name = STYLES[strong]
        if name not in self._document.styles:
            self._document.styles.add(name, font=font_file(strong).name)
        return name


def _rings_of(shape: shapely.Geometry) -> list[list[Ring]]:
    """The polygons of a shape as rings."""
    parts = [p for p in shapely.get_parts(shape).tolist() if p.geom_type == "Polygon" and p.area > 1e-6]
    return [[shapely.get_coordinates(ring) for ring in (p.exterior, *p.interiors)] for p in parts]


def _in_row(weight: float) -> int:
    """Hundredths of a millimetre, of the widths DXF has the nearest."""
    from ezdxf.lldxf.const import VALID_DXF_LINEWEIGHTS

    return int(min((w for w in VALID_DXF_LINEWEIGHTS if w >= 0), key=lambda w: abs(w - 100 * weight)))


def _true(ink: Rgb) -> int:
    from ezdxf import colors

    return colors.rgb2int(_bytes(ink))


def _bytes(colour: tuple[float, ...]) -> tuple[int, int, int]:
    red, green, blue = (round(255 * c) for c in colour)
    return red, green, blue
