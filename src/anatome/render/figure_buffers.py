"""People and trees on the graphics side: flat tones and strokes where a picture shows them."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.look.look import Look
from anatome.look.pens import LineKind, Pen, Wash, wash_of
from anatome.render.cut_buffers import CONTENT, CORNER, NAMES
from anatome.render.model_buffers import LINE_TRIANGLES, line_corners
from anatome.render.programs import Programs, set_uniforms
from anatome.site.figure_drawing import TONES
from anatome.site.figure_tones import figure_tones
from anatome.site.standing import OFF_THE_FLOOR, Standing

NEARER = 0.6
RINGS, AROUND = 10, 28
"""Of the shade at a foot."""
BODILY, CROWNED = 0.42, 0.24
"""How dark it is in the middle, under a body and under a crown."""
BROAD, SPREAD = 0.2, 1.15
"""Half the breadth, in shares of the height, from which a figure has a crown; and of which the shade reaches so much."""


class FigureBuffers:
    """Standing figures, the farthest first, as triangles and lines relative to a centre in metres."""

    def __init__(
        self,
        ctx: moderngl.Context,
        figures: Sequence[Standing],
        look: Look,
        centre: NDArray[np.float64],
        shaded: bool = False,
        lined: bool = True,
    ) -> None:
        self._ctx, self._look = ctx, look
        self._fill: moderngl.Buffer | None = None
        self._shade: moderngl.Buffer | None = None
        self._lines: list[tuple[moderngl.Buffer, moderngl.Buffer, Wash]] = []
        if not figures:
            return
        colours = np.array([figure_tones(look)[tone] for tone in TONES])
        if shaded:
            self._shade = self._shade_of(figures, look, centre)
        corners, colour, borders, strokes = [], [], [], []
        for one in figures:
            triangles, tone = one.drawing.triangles
            corners.append(one.raised(triangles))
            colour.append(np.repeat(tone, 3))
            borders.append(one.raised(one.drawing.borders))
            strokes.append(one.raised(one.drawing.inner))
        places = np.concatenate(corners).reshape(-1, 3)
        made = np.zeros(len(places), CORNER)
        made["position"], made["hatching"][:, 2] = places - centre, -1.0
        made["colour"] = np.round(255 * colours[np.concatenate(colour)])
        self._fill = ctx.buffer(made.tobytes())
        for kind, segments in ((LineKind.WITHIN, np.concatenate(strokes)), (LineKind.FIGURE, np.concatenate(borders))):
            if len(segments) and lined:
                order = (np.arange(len(segments))[:, None] * 4 + LINE_TRIANGLES).astype(np.uint32)
                self._lines.append(
                    (ctx.buffer(line_corners(segments - centre).tobytes()), ctx.buffer(order.tobytes()), wash_of(look, kind))
                )

    def _shade_of(self, figures: Sequence[Standing], look: Look, centre: NDArray[np.float64]) -> moderngl.Buffer:
        """Where each stands: rings round its foot, fainter outwards."""
        turn = np.linspace(0.0, 2.0 * np.pi, AROUND + 1)
        circle = np.stack([np.cos(turn), np.sin(turn), np.zeros(AROUND + 1)], axis=1)
        inner, outer = np.arange(RINGS) / RINGS, (np.arange(RINGS) + 1) / RINGS
        a, b = inner[:, None, None] * circle, outer[:, None, None] * circle
        quads = np.stack([a[:, :-1], b[:, :-1], b[:, 1:], a[:, :-1], b[:, 1:], a[:, 1:]], axis=2).reshape(-1, 3)
        faint = np.repeat((1.0 - (inner + outer) / 2) ** 2, 6 * AROUND)
        made = np.zeros((len(figures), len(quads)), CORNER)
        for row, one in zip(made, figures):
            height = float(np.linalg.norm(one.upward))
            dark = CROWNED if one.half_width > BROAD else BODILY
            row["position"] = one.foot + [0.0, 0.0, OFF_THE_FLOOR / 2] + quads * one.half_width * SPREAD * height - centre
            row["colour"][:, :3] = np.round(255 * np.array(look.ink))
            row["colour"][:, 3] = np.round(255 * dark * faint)
        made["nearer"], made["hatching"][..., 2] = NEARER, -1.0
        return self._ctx.buffer(made.tobytes())

    def fills(self, programs: Programs, common: dict[str, Any]) -> Iterator[Callable[[], None]]:
        """Yield what draws their shade and tones, one after the other."""
        for triangles in (self._shade, self._fill):
            if triangles is not None:
                yield partial(self._draw_fill, programs, common, triangles)

    def lines(self, programs: Programs, common: dict[str, Any], millimetre: float) -> Iterator[Callable[[], None]]:
        """Yield what draws their strokes and borders, where a millimetre on paper is so many pixels."""
        for corners, order, wash in self._lines:
            pen = wash.on(self._look.paper)
            yield partial(self._draw_lines, programs, common, corners, order, pen, max(pen.weight * millimetre, 1.0))

    def _draw_fill(self, programs: Programs, common: dict[str, Any], triangles: moderngl.Buffer) -> None:
        program = programs.get("cap.vert", "cap.frag", "PLANES 0")
        set_uniforms(program, **common)
        content = [(triangles, CONTENT, *NAMES)]
        self._ctx.vertex_array(program, content, skip_errors=True).render(moderngl.TRIANGLES)

    def _draw_lines(
        self,
        programs: Programs,
        common: dict[str, Any],
        corners: moderngl.Buffer,
        order: moderngl.Buffer,
        pen: Pen,
        width: float,
    ) -> None:
        program = programs.get("line.vert", "line.frag", "PLANES 0")
        colour = (*pen.ink, 1.0)
        set_uniforms(program, **common, ink=colour, width=width, silhouette=1.0, nearer=NEARER, fades_under=0.0, faintest=0.0)
        content = [(corners, "3f4 3f4 4f1 4f1", "first", "second", "one_side", "other_side")]
        self._ctx.vertex_array(program, content, index_buffer=order, skip_errors=True).render(moderngl.TRIANGLES)
