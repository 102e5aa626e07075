"""A view put on paper: what the steps of one drawing have in common."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.linework.divided import Side
from anatome.linework.feature_lines import NOBODY, Lines
from anatome.linework.occluders import Occluders, hiding_corners, in_picture, occluders
from anatome.look.pens import LineKind
from anatome.look.styles import Styles, resolve
from anatome.model.building import Building
from anatome.scenes.scene_view import View
from anatome.site.standing import Standing, standing

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

BIAS = 2e-6
"""Share of the size of all by which lines are taken to lie nearer, so that the faces they bound do not hide them."""


class OnPaper:
    """Of a view, or of what of it lies on one side of its divide."""

    def __init__(self, view: View, side: Side | None = None) -> None:
        self.view, self.viewport, self.side = view, view.on_paper(), side
        self.building: Building = view.opened.cut_open.building
        self.styles: Styles = resolve(view.look, self.building)
        self.standing: tuple[Standing, ...] = tuple(standing(view.figures, self.viewport))
        bounds = view.opened.bounds
        reach = 0.1 * (bounds[1] - bounds[0]) + 3.0  # trees stand beyond what is built
        self.depths = self.viewport.depth_range(np.stack([bounds[0] - reach, bounds[1] + reach]))
        self.bias = max(BIAS * float(np.linalg.norm(bounds[1] - bounds[0])), 2e-6)
        depth = self.viewport.flat(np.stack(np.meshgrid(*bounds.T), axis=-1).reshape(-1, 3))[1]
        self.near, self.far = max(float(np.nanmin(depth)), 0.0), float(np.nanmax(depth))

    def hiding(self) -> Occluders:
        """Return what hides lines."""
        return occluders(self.viewport, hiding_corners(self.view.opened, self.styles, self.standing), self.depths)

    def away(self, places: Array) -> Array:
        """Return (n,) how far off (n, 3) places in metres are, as a share of the depth of what is seen: 0 nearest, 1
        farthest."""
        depth = self.viewport.flat(places)[1]
        return np.clip((depth - self.near) / max(self.far - self.near, 1e-9), 0.0, 1.0)

    def figure_lines(self) -> Lines:
        """Return the outlines and strokes of people and trees."""
        found, kinds = [np.empty((0, 2, 3))], [np.empty(0, np.int64)]
        for figure in self.standing:
            for kind, flat in ((LineKind.WITHIN, figure.drawing.inner), (LineKind.FIGURE, figure.drawing.borders)):
                found.append(figure.raised(flat))
                kinds.append(np.full(len(flat), kind))
        ends = np.concatenate(found)
        return Lines(ends, np.concatenate(kinds), np.full(len(ends), NOBODY))

    def clipped(self, lines: Lines) -> Lines:
        """Return what of lines lies in the picture, before the eye, on the side that is drawn."""
        lines = lines if self.side is None else self.side.of(lines)
        rows = lines.ends @ self.viewport.matrix[:, :3].T + self.viewport.matrix[:, 3]
        x, y, depth, w = np.moveaxis(rows, -1, 0)
        low, high = np.zeros(len(x)), np.ones(len(x))
        aside = None if self.side is None else self.side.values(lines.ends)
        for inside in (w + x, w - x, w + y, w - y, depth - self.depths[0], *([] if aside is None else [aside])):
            a, b = inside[:, 0], inside[:, 1]
            with np.errstate(divide="ignore", invalid="ignore"):
                at = a / (a - b)
            low = np.where((a < 0) & (b >= 0), np.maximum(low, at), low)
            high = np.where((a >= 0) & (b < 0), np.minimum(high, at), high)
            high = np.where((a < 0) & (b < 0), -1.0, high)
        kept = high - low > 1e-12
        a, arm = lines.ends[kept, 0], lines.ends[kept, 1] - lines.ends[kept, 0]
        ends = np.stack([a + arm * low[kept, None], a + arm * high[kept, None]], axis=1)
        return Lines(ends, lines.kind[kept], lines.element[kept])

    def flat(self, lines: Lines) -> Array:
        """Return (n, 6) where the ends of lines are in the picture."""
        return in_picture(self.viewport, lines.ends, self.depths, self.bias).reshape(-1, 6)

    def on_paper(self, flat: Array) -> Array:
        """Return (..., 2) millimetres from the lower left of (..., 2) places −1..1."""
        return np.asarray((flat + 1) / 2 * [self.viewport.width, self.viewport.height])

    def pieces(self, flat: Array, of: Numbers, stretch: Array) -> Array:
        """Return (m, 2, 2) millimetres, the stretches of lines."""
        a, b = self.on_paper(flat[of][:, :2]), self.on_paper(flat[of][:, 3:5])
        return np.stack([a + (b - a) * stretch[:, :1], a + (b - a) * stretch[:, 1:]], axis=1)
