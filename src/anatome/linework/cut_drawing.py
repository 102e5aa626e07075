"""The drawing of a cut: every element's polygons filled and outlined, at scale, one layer for each element type."""

from __future__ import annotations

import numpy as np
import shapely

from anatome.cuts.section import Section
from anatome.linework.drawing import Area, Drawing, Layer, Line
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.problems import Problem

MARGIN = 10.0
"""Millimetres of clear paper round the drawing."""

CUT_LINE = 0.35
"""Width of the cut outline in mm, from the ISO 128 row of line widths (value from memory)."""


def cut_drawing(building: Building, found: Section, scale: float, look: Look, title: str) -> Drawing:
    """Draw a section at 1:``scale``, seen from the side that is cut away.

    Raises Problem when the scale is no positive number or the plane cuts nothing.
    """
    if not (np.isfinite(scale) and scale > 0):
        raise Problem("The scale of a drawing is a number above 0, for example 50 for 1:50.")
    open_lines = [(o.element, found.plane.flat(o.points)) for o in found.open_outlines]
    if not len(found.polygons) and not open_lines:
        raise Problem("This plane cuts nothing, so there is nothing to draw. Move it into the building.")
    extents = [shapely.total_bounds(found.polygons)] if len(found.polygons) else []
    extents += [np.concatenate([p.min(axis=0), p.max(axis=0)]) for _, p in open_lines]
    boxes = np.array(extents)
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    factor = 1000.0 / scale

    def on_paper(points: np.ndarray) -> np.ndarray:
        return np.asarray((points - low) * factor + MARGIN)

    layers = []
    types = sorted({building.elements[e].type for e in [*found.element.tolist(), *(e for e, _ in open_lines)]})
    for kind in types:
        areas = []
        for e in np.unique(found.element):
            element = building.elements[e]
            if element.type != kind:
                continue
            polygons = tuple(
                tuple(on_paper(np.asarray(ring.coords)) for ring in (p.exterior, *p.interiors))
                for p in found.polygons[found.element == e]
            )
            areas.append(Area(element.id, element.name, polygons, look.poche_of(kind)))
        lines = [
            Line(building.elements[e].id, building.elements[e].name, on_paper(points))
            for e, points in open_lines
            if building.elements[e].type == kind
        ]
        layers.append(Layer(kind, tuple(areas), tuple(lines)))
    # Ground first, so that what is built lies over it.
    layers.sort(key=lambda layer: look.poche_of(layer.name) != look.poche_earth)
    width, height = (high - low) * factor + 2 * MARGIN
    return Drawing(title, float(width), float(height), scale, CUT_LINE, look.ink, tuple(layers))
