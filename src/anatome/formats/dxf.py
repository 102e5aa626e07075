"""Writing a drawing as DXF in millimetres: for each area its outline and a solid hatch, on the drawing's layers."""

from __future__ import annotations

import io
import re
from typing import TYPE_CHECKING

from anatome.formats.dxf_notes import add_notes, one_line
from anatome.linework.drawing import TONES, Area, Drawing
from anatome.look.look import Rgb
from anatome.words import printable

if TYPE_CHECKING:
    from ezdxf.entities import Hatch
    from ezdxf.layouts import Modelspace

THIN = 0.13
"""mm, of the outlines of areas over which strokes are drawn."""
LONGEST_NAME = 255
FORBIDDEN = re.compile(r'[<>/\\":;?*|=`\n\r\t]+')
"""Characters a layer name may not have."""


def dxf_bytes(drawing: Drawing) -> bytes:
    """The drawing as DXF R2010. The same drawing gives the same bytes."""
    # A large library, wanted by those who write such a file.
    import ezdxf
    from ezdxf import units

    ezdxf.options.write_fixed_meta_data_for_testing = True  # no time of writing, no new ids; set once and never back
    document = ezdxf.new("R2010", units=units.MM)
    space = document.modelspace()
    weight = round(100 * (drawing.line_width or THIN))
    for layer in drawing.layers:
        name = _layer_name(layer.name)
        if name not in document.layers:
            document.layers.add(name, lineweight=weight)
        for area in layer.areas:
            _area(space, area, name, outlined=layer.name != TONES)
        for line in layer.lines:
            space.add_lwpolyline(line.points.tolist(), dxfattribs={"layer": name})
        for label in layer.labels:
            space.add_text(one_line(label.text), height=label.height, dxfattribs={"layer": name, "insert": label.at})
    for strokes in drawing.strokes:
        name = _layer_name(strokes.name)
        if name not in document.layers:
            kind = "Continuous"
            if strokes.dashes:
                dash, gap = strokes.dashes
                kind = f"DASHES_{dash:g}_{gap:g}"
                if kind not in document.linetypes:
                    document.linetypes.add(kind, [dash + gap, dash, -gap], description=f"{dash:g} mm and {gap:g} mm")
            weight_of = _row(strokes.weight)
            document.layers.add(name, lineweight=weight_of, true_color=_true(strokes.ink), linetype=kind)
        if strokes.of_patterns:
            for layer in drawing.layers:
                for area in layer.areas:
                    _pattern(space, area, name)
            continue
        for points in strokes.lines:
            closed = len(points) > 3 and bool((points[0] == points[-1]).all())
            space.add_lwpolyline(points[: len(points) - closed].tolist(), close=closed, dxfattribs={"layer": name})
    if drawing.notes is not None:
        add_notes(document, drawing.notes)
    # The paper, which holds all of it; programs zoom to it.
    document.header["$EXTMIN"], document.header["$EXTMAX"] = (0.0, 0.0, 0.0), (drawing.width, drawing.height, 0.0)
    space.reset_extents((0.0, 0.0, 0.0), (drawing.width, drawing.height, 0.0))
    document.set_modelspace_vport(drawing.height, (drawing.width / 2, drawing.height / 2))
    # They come from a set, in an order that is another one each time the program runs.
    document.classes.add_required_classes(document.dxfversion)
    document.classes.classes = dict(sorted(document.classes.classes.items()))
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode("utf-8")


def _layer_name(name: str) -> str:
    return FORBIDDEN.sub("_", printable(name)).strip()[:LONGEST_NAME] or "0"


def _row(weight: float) -> int:
    """Hundredths of a millimetre, of the widths DXF has the nearest."""
    from ezdxf.lldxf.const import VALID_DXF_LINEWEIGHTS

    return int(min((w for w in VALID_DXF_LINEWEIGHTS if w >= 0), key=lambda w: abs(w - 100 * weight)))


def _true(ink: Rgb) -> int:
    from ezdxf import colors

    red, green, blue = (round(255 * c) for c in ink)
    return colors.rgb2int((red, green, blue))


def _area(space: Modelspace, area: Area, layer: str, outlined: bool) -> None:
    """Outlines, if wanted, over a solid hatch with holes; the even-odd rule is what the hatch style “normal” means."""
    from ezdxf import colors

    hatch = space.add_hatch(dxfattribs={"layer": layer, "hatch_style": 0})
    hatch.rgb = colors.RGB(*(round(255 * c) for c in area.fill))
    _bounded(hatch, area)
    for ring in (ring for polygon in area.polygons for ring in polygon if outlined):
        space.add_lwpolyline(ring[:-1].tolist(), close=True, dxfattribs={"layer": layer})


def _pattern(space: Modelspace, area: Area, layer: str) -> None:
    """The hatch of an area as a hatch of the file, with our own lines for its definition."""
    if not area.pattern:
        return
    hatch = space.add_hatch(dxfattribs={"layer": layer, "hatch_style": 0})
    lines = [[p.angle, p.at, p.step, [] if p.dashes is None else [p.dashes[0], -p.dashes[1]]] for p in area.pattern]
    hatch.set_pattern_fill("ANATOME", definition=lines)
    _bounded(hatch, area)


def _bounded(hatch: Hatch, area: Area) -> None:
    """The rings of an area as the paths of a hatch."""
    for polygon in area.polygons:
        for number, ring in enumerate(polygon):
            hatch.paths.add_polyline_path(ring[:-1].tolist(), is_closed=True, flags=1 if number == 0 else 16)
