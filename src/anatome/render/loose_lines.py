"""Lines that are no edges of the model: between pieces, and where parts run through one another."""

from __future__ import annotations

from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.look.pens import Wash
from anatome.render.cut_buffers import Lines
from anatome.render.model_buffers import LINE_TRIANGLES, line_corners
from anatome.render.programs import Programs, set_uniforms


class LooseLines:
    """(n, 2, 3) segments in metres from the centre of what is drawn, on a context."""

    def __init__(self, ctx: moderngl.Context, programs: Programs, segments: NDArray[np.float64]) -> None:
        self._programs = programs
        order = (np.arange(len(segments))[:, None] * 4 + LINE_TRIANGLES).astype(np.uint32)
        buffers = (line_corners(segments).tobytes(), order.tobytes()) if len(segments) else ()
        first, second = (ctx.buffer(data) for data in buffers) if buffers else (None, None)
        self._lines = Lines(ctx, first, second)

    def draw(self, common: dict[str, Any], wash: Wash, width: float, nearer: float, fades_under: float = 0.0) -> None:
        """So many pixels wide; those shorter than ``fades_under`` grow fainter."""
        program = self._programs.get("line.vert", "line.frag", "PLANES 0")
        set_uniforms(
            program,
            **common,
            ink=(*wash.colour, wash.strength),
            width=width,
            silhouette=1.0,
            nearer=nearer,
            fades_under=fades_under,
            faintest=0.2 if fades_under else 0.0,
        )
        self._lines.draw(program, False)
