"""Drawings with two looks: what of lines and areas lies on which side of a divide."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.linework.drawing import Area, Drawing, Layer
from anatome.linework.feature_lines import Lines
from anatome.look.divide import Divide
from anatome.look.look import Rgb
from anatome.model.building import Building
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Side:
    """What lies where ``row`` · (x, y, z, 1) is more than nothing, in metres where it is shown; or, where there is no row, what
    is of the elements of an (E,) mask, with what is of none if ``nobodys``."""

    row: Array | None
    elements: NDArray[np.bool_] | None = None
    nobodys: bool = True

    def of(self, lines: Lines) -> Lines:
        """Return the lines of its elements."""
        return lines if self.elements is None else lines.some(self.holds(lines.element, lines.ends[:, 0]))

    def holds(self, elements: NDArray[np.int64], places: Array) -> NDArray[np.bool_]:
        """Return (n,) whether places of (n,) elements, negative ones of none, are on this side."""
        values = self.values(places)
        if values is not None:
            return np.asarray(values > 0)
        assert self.elements is not None
        return np.append(self.elements, self.nobodys)[np.maximum(elements, -1)]

    def values(self, places: Array) -> Array | None:
        """Return (...) of (..., 3) places, more than nothing on this side."""
        return None if self.row is None else np.asarray(places @ self.row[:3] + self.row[3])

    def of_plane(self, corners: Array, bounds: tuple[float, float, float, float]) -> shapely.Polygon | None:
        """Return what of a rectangle in a plane lies on this side; ``corners`` (3, 3) are where the plane's 0,0 and 1,0 and 0,1
        are."""
        values = self.values(corners)
        if values is None:
            return None
        box = np.array([(bounds[i], bounds[j]) for i, j in ((0, 1), (2, 1), (2, 3), (0, 3), (0, 1))])
        heights = values[0] + box @ (values[1:] - values[0])
        found: list[Array] = []
        for (a, b), (here, there) in zip(zip(box, box[1:]), zip(heights, heights[1:])):
            if here > 0:
                found.append(a)
            if (here > 0) != (there > 0):
                found.append(a + (b - a) * here / (here - there))
        return shapely.Polygon(found) if len(found) > 2 else shapely.Polygon()


def sides(divide: Divide, viewport: Viewport, building: Building) -> tuple[Side, Side] | None:
    """Return (the side of the look itself, that of the other look); None where the divide is not in the picture."""
    if divide.by == "parts":
        mask = divide.parts.mask(building)
        return Side(None, ~mask), Side(None, mask, False)
    row = viewport.matrix[2] - [0.0, 0.0, 0.0, divide.depth]
    if divide.by == "line":
        ends = None if divide.line is None else viewport.flat(np.array(divide.line))[0]
        if ends is None or not np.isfinite(ends).all() or np.allclose(*ends):
            return None
        (ax, ay), (dx, dy) = ends[0], ends[1] - ends[0]
        x, y, _, w = viewport.matrix
        row = dy * (x - ax * w) - dx * (y - ay * w)  # how far right of it, times the divisor of the picture
    return Side(-row), Side(row)


def across(row: Array, corners: Array) -> Array:
    """Return (n, 2, 3) where triangles (m, 3, 3) cross the plane row · (x, y, z, 1) = 0."""
    heights = corners @ row[:3] + row[3]
    above = heights > 0
    found = []
    for lone in range(3):  # the corner that is alone on its side
        a, b = (lone + 1) % 3, (lone + 2) % 3
        own = (above[:, lone] != above[:, a]) & (above[:, a] == above[:, b])
        ends = []
        for other in (a, b):
            share = heights[own, lone] / (heights[own, lone] - heights[own, other])
            ends.append(corners[own, lone] + (corners[own, other] - corners[own, lone]) * share[:, None])
        found.append(np.stack(ends, axis=1))
    return np.concatenate(found)


def put_together(first: Drawing, second: Drawing, divide: Divide, viewport: Viewport, papers: tuple[Rgb, Rgb]) -> Drawing:
    """Return one drawing of what is in either look, with the paper of the other under its side of a line."""
    layers = {layer.name: layer for layer in first.layers}
    for layer in second.layers:
        there = layers.get(layer.name, Layer(layer.name, classes=layer.classes))
        layers[layer.name] = replace(there, areas=there.areas + layer.areas)
    below: tuple[Layer, ...] = ()
    if divide.by == "line" and papers[0] != papers[1]:
        ring = paper_beyond(divide, viewport)
        below = (Layer("Paper", (Area("paper", "Paper of the other look", ((ring,),), papers[1]),)),) if len(ring) else ()
    strokes = tuple(replace(s, name=f"{s.name}, other look") for s in second.strokes)
    together = sorted((*strokes, *first.strokes), key=lambda s: s.kind is not None and s.kind.is_of_cut)
    lost = tuple(name for name in first.lost if name in second.lost)
    return replace(first, layers=(*below, *layers.values()), strokes=tuple(together), lost=lost)


def paper_beyond(divide: Divide, viewport: Viewport) -> Array:
    """Return (n, 2) mm, the ring of what of the paper lies to the right of the line of a divide."""
    wide, high = viewport.width, viewport.height
    (ax, ay), (bx, by) = viewport.pixels(np.array(divide.line)) * [1, -1] + [0, high]
    right = Side(np.array([by - ay, ax - bx, 0.0, -(by - ay) * ax + (bx - ax) * ay]))
    plane = np.array([[0.0, 0.0, 0.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]])
    found = right.of_plane(plane, (0.0, 0.0, wide, high))
    return np.empty((0, 2)) if found is None or found.is_empty else shapely.get_coordinates(found.exterior)
