"""The drawing of a cut: every element's polygons filled and outlined, at scale, one layer for each element type."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.contours import contours
from anatome.cuts.polygons import polygon_parts
from anatome.cuts.section import Section
from anatome.linework.by_hand import by_hand
from anatome.linework.cut_areas import HatchLines, hatch_strokes, layers_of, pattern_name
from anatome.linework.drawing import Area, Drawing, Layer, Line, Ring, Strokes
from anatome.linework.patterns import pattern_on_paper
from anatome.look.hatch_lines import hatch_lines
from anatome.look.look import Look
from anatome.look.pens import LineKind, name_of, wash_of
from anatome.look.styles import resolve
from anatome.model.building import Building
from anatome.model.kinds import CONTEXT_TYPES
from anatome.notes.marks import Words
from anatome.problems import Problem

MARGIN = 10.0
"""Millimetres of clear paper round the drawing."""

CUT_LINE = 0.35
"""Width of the outlines of a series in mm, from the ISO 128 row of line widths (value from memory)."""

LETTERS = 3.5
"""Height of the labels of a series in mm, from the ISO 3098 row of lettering heights (value from memory)."""

BLEED = 1.0
"""Millimetres by which fills go on beyond paper that shows a crop, so that no outline runs along its edge."""

GUTTER = 8.0
"""Millimetres between the sections of a series."""

OnPaper = Callable[[NDArray[np.float64]], Ring]


def cut_drawing(
    building: Building, found: Section, scale: float, look: Look, title: str, extent: NDArray[np.float64] | None = None
) -> Drawing:
    """Draw a section at 1:``scale``, seen from the side that is cut away.

    With an ``extent``, (2, 2) metres in the plane's own axes, the paper shows just that, without a margin; else all that is cut.
    Raises Problem when the scale is no positive number, or the plane cuts nothing, there.
    """
    factor = _factor(scale)
    if extent is not None:
        found = within(found, extent + BLEED / factor * np.array([[-1.0], [1.0]]))
    box = _extent(found)
    if box is None:
        where = "in the crop" if extent is not None else "in the building"
        raise Problem(f"This plane cuts nothing {where}, so there is nothing to draw. Move it, or the crop.")
    (low, high), margin = (box, MARGIN) if extent is None else (extent, 0.0)

    def on_paper(points: NDArray[np.float64]) -> Ring:
        return np.asarray((points - low) * factor + margin)

    areas, lines = _areas(building, found, look, on_paper, factor), _lines(building, found, on_paper)
    layers = layers_of(building, areas, lines)
    width, height = (high - low) * factor + 2 * margin
    strokes = _strokes(building, found, look, on_paper, factor)
    return by_hand(Drawing(title, float(width), float(height), scale, 0.0, look.ink, layers, strokes), look)


def _strokes(building: Building, found: Section, look: Look, on_paper: OnPaper, factor: float) -> tuple[Strokes, ...]:
    """Hatches, then thin lines, then heavy ones over them, as the look has them and pictures draw them."""
    lines = contours(building, found)
    thin = lines.thin if look.earth_fades else np.concatenate([lines.thin, lines.ends])
    made = list(hatch_strokes(look, _hatches(building, found, look, on_paper, factor)))
    for kind, segments in ((LineKind.BETWEEN, thin), (LineKind.ROUND, lines.heavy)):
        pen = wash_of(look, kind).on(look.paper)
        made.append(Strokes(name_of(kind), pen, _joined(on_paper(found.plane.flat(segments))), kind))
    return tuple(strokes for strokes in made if strokes.lines)


def _hatches(building: Building, found: Section, look: Look, on_paper: OnPaper, factor: float) -> HatchLines:
    styles = resolve(look, building)
    base = on_paper(found.plane.flat(building.centre))
    lines = HatchLines({}, {})
    for polygon, element in zip(found.polygons, found.element.tolist()):
        hatch = styles.hatch_of(element)
        if hatch is not None:
            area = shapely.transform(polygon, on_paper)
            for line in hatch_lines(hatch, area, 1.0 if hatch.unit == "mm" else factor, base):
                lines.add(hatch, hatch.tile is None, line)
    return lines


def _joined(segments: NDArray[np.float64]) -> tuple[Ring, ...]:
    """Polylines of segments (n, 2, 2) that meet end to end."""
    merged = shapely.line_merge(shapely.multilinestrings(shapely.linestrings(segments))) if len(segments) else None
    return tuple(shapely.get_coordinates(line) for line in shapely.get_parts(merged)) if merged is not None else ()


def within(found: Section, extent: NDArray[np.float64]) -> Section:
    """Return what of a section lies in a rectangle (2, 2) of its plane."""
    box = shapely.box(*extent.ravel())
    shapes = shapely.intersection(found.polygons, box)
    pieces = [polygon_parts(shape) for shape in shapes]
    owners = np.repeat(found.element, [len(p) for p in pieces]).astype(np.int64)
    outlines = []
    for outline in found.open_outlines:
        line = shapely.intersection(shapely.linestrings(found.plane.flat(outline.points)), box)
        for part in shapely.get_parts(line):
            if part.geom_type == "LineString" and not part.is_empty:
                outlines.append(replace(outline, points=found.plane.raised(shapely.get_coordinates(part))))
    polygons = np.concatenate([np.empty(0, object), *pieces])
    return Section(found.plane, polygons, owners, tuple(outlines), found.gaps)


def series_drawing(
    building: Building, sections: Sequence[Section], labels: Sequence[str], scale: float, look: Look, title: str
) -> Drawing:
    """Serial sections in rows, each on a layer of its own with its label under it; those that cut nothing keep their label.

    Raises Problem when the scale is no positive number or none of them cuts anything.
    """
    factor = _factor(scale)
    extents = [box for found in sections if (box := _extent(found)) is not None]
    if not extents:
        raise Problem("None of the sections cuts anything, so there is nothing to draw. Move the series into the building.")
    # One frame for all, so that every section stands at the same place in its field.
    low = np.min([e[0] for e in extents], axis=0)
    high = np.max([e[1] for e in extents], axis=0)
    field = (high - low) * factor + np.array([GUTTER, GUTTER + 2 * LETTERS])
    columns = max(1, round(float(np.sqrt(len(sections) * field[1] / field[0]))))
    rows = -(-len(sections) // columns)
    kind = {element.id: element.type for element in building.elements}
    layers = []
    for number, (found, label) in enumerate(zip(sections, labels)):
        corner = np.array([number % columns, rows - 1 - number // columns]) * field + MARGIN
        origin = corner + np.array([0.0, 2 * LETTERS])

        def on_paper(points: NDArray[np.float64], origin: NDArray[np.float64] = origin) -> Ring:
            return np.asarray((points - low) * factor + origin)

        # Ground first, so that what is built lies over it.
        areas = sorted(_areas(building, found, look, on_paper), key=lambda area: kind[area.element_id] not in CONTEXT_TYPES)
        text = Words.level(label, (float(corner[0]), float(corner[1])), LETTERS)
        layers.append(Layer(label, tuple(areas), _lines(building, found, on_paper), (text,)))
    width, height = field * np.array([columns, rows]) + 2 * MARGIN
    return Drawing(title, float(width), float(height), scale, CUT_LINE, look.ink, tuple(layers))


def _factor(scale: float) -> float:
    """Millimetres on paper for a metre."""
    if not (np.isfinite(scale) and scale > 0):
        raise Problem("The scale of a drawing is a number above 0, for example 50 for 1:50.")
    return 1000.0 / scale


def _extent(found: Section) -> NDArray[np.float64] | None:
    """(2, 2) lower and upper corner in the plane of all that is cut."""
    points = [shapely.get_coordinates(found.polygons), *(found.plane.flat(o.points) for o in found.open_outlines)]
    together = np.concatenate(points)
    return np.stack([together.min(axis=0), together.max(axis=0)]) if len(together) else None


def _areas(building: Building, found: Section, look: Look, on_paper: OnPaper, factor: float | None = None) -> tuple[Area, ...]:
    """What is cut of each element; with the ``factor`` of the scale also the pattern it is hatched with."""
    areas, styles = [], resolve(look, building)
    base = on_paper(found.plane.flat(building.centre))
    for e in np.unique(found.element):
        element, hatch = building.elements[e], styles.hatch_of(e) if factor is not None else None
        whole = [shapely.transform(p, on_paper) for p in found.polygons[found.element == e]]
        red, green, blue, _ = (styles.fill[e] / 255.0).tolist()
        # What follows the long side of a polygon is another pattern in each.
        parts = [[p] for p in whole] if hatch is not None and hatch.follows == "long side" else [whole]
        for polygons in parts:
            rings = tuple(tuple(shapely.get_coordinates(r) for r in (p.exterior, *p.interiors)) for p in polygons)
            area = Area(element.id, element.name, rings, (red, green, blue))
            if hatch is not None and factor is not None and hatch.tile is None:
                pattern = pattern_on_paper(hatch, polygons[0], 1.0 if hatch.unit == "mm" else factor, base)
                area = replace(area, pattern=pattern, pattern_of=pattern_name(hatch))
            areas.append(area)
    return tuple(areas)


def _lines(building: Building, found: Section, on_paper: OnPaper) -> tuple[Line, ...]:
    elements = building.elements
    return tuple(
        Line(elements[o.element].id, elements[o.element].name, on_paper(found.plane.flat(o.points))) for o in found.open_outlines
    )
