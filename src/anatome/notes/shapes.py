"""Lines and areas drawn by hand, on the paper or on what they are anchored to."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.look.hatch_lines import hatch_lines
from anatome.look.line_layers import PATTERNS
from anatome.notes.marks import NoteMarks, Stroke
from anatome.notes.note import Shape
from anatome.notes.view import GONE, NoteView

Array = NDArray[np.float64]
HATCHED = 0.13
"""Mm, of the lines of its hatch (ISO 128, value from memory)."""


def shape_marks(note: Shape, view: NoteView) -> NoteMarks | None:
    """Return a shape as it is drawn; None where all of what it is set to is cut away or hidden."""
    met = [view.met(anchor) for anchor in note.anchors]
    if any(one is None for one in met):
        return NoteMarks(note.id, gone=GONE)
    there = [one for one in met if one is not None]
    if not any(one.left for one in there):
        return None
    if note.points:
        points = view.flat(there[0]).spread(np.array(note.points))
    else:
        points = np.concatenate([view.flat(one).on_paper(one.place[None]) for one in there])
    if not np.isfinite(points).all() or len(points) < 2:
        return None
    ring = np.concatenate([points, points[:1]]) if note.closed else points
    strokes: list[Stroke] = []
    if note.closed and len(points) > 2:
        if note.fill is not None:
            strokes.append(Stroke(ring, 0.0, filled=True, ink=note.fill))
        strokes += [Stroke(line, HATCHED, ink=note.colour) for line in _hatch(note, points, view, there[0].place)]
    if note.outlined or not note.closed:
        dashes = None if note.dashes is None else PATTERNS[note.dashes]
        strokes.append(Stroke(ring, note.weight or view.style.weight, ink=note.colour, dashes=dashes))
    return NoteMarks(note.id, tuple(strokes)).if_seen()


def _hatch(note: Shape, points: Array, view: NoteView, place: Array) -> list[Array]:
    """The lines of its hatch, mm on paper."""
    hatch = view.hatches.get(note.hatch)
    if hatch is None:
        return []
    area = shapely.make_valid(shapely.Polygon(points))
    unit = note.hatch_scale * (1.0 if hatch.unit == "mm" else 1.0 / view.viewport.metres_per_pixel(place))
    lines = hatch_lines(hatch, area, unit, points[0])
    left = shapely.intersection(shapely.linestrings(lines), area) if len(lines) else np.empty(0, object)
    return [
        shapely.get_coordinates(p) for p in shapely.get_parts(left).tolist() if p.geom_type == "LineString" and not p.is_empty
    ]
