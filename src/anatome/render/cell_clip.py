"""Clipping while drawing: what the cuts take away of each group of clusters.

Cells with one plane use clip distances, up to eight of them; all other cells are tested for every fragment, from a
small texture of planes, so there is no limit to how many there are.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.render.programs import Programs, set_uniforms

DISTANCES = (0, 1, 2, 4, 8)
"""How many clip distances a program may write; each count in use is a program of its own."""
CLIP_DISTANCE = 0x3000
"""GL_CLIP_DISTANCE0; the following seven come after it."""
CELL_UNIT = 3


@dataclass(frozen=True)
class _Clip:
    """``planes``: bytes for the ``count`` clip distances; ``first``, ``rest``: the rows of the texture of a group."""

    planes: bytes
    count: int
    first: int
    rest: int

    @property
    def defines(self) -> tuple[str, ...]:
        return (f"PLANES {self.count}", *(("CELLS",) if self.rest else ()))


class CellClip:
    """The groups of a dissection for the shaders. Positions are relative to ``centre``."""

    def __init__(self, ctx: moderngl.Context, groups: Sequence[tuple[Cell, ...]], centre: NDArray[np.float64]) -> None:
        self._ctx = ctx
        self._clips: list[_Clip] = []
        rows: list[NDArray[np.float64]] = []
        for cells in groups:
            single = [c for c in cells if len(c.planes) == 1][: DISTANCES[-1]]
            others = [c for c in cells if c not in single]
            count = next(n for n in DISTANCES if n >= len(single))
            planes = np.tile(np.array([0.0, 0.0, 0.0, 1.0], "f4"), (count, 1))
            planes[: len(single)] = _rows(single, centre)[:, :4]
            found = _rows(others, centre)
            self._clips.append(_Clip(planes.tobytes(), count, sum(len(r) for r in rows), len(found)))
            rows.append(found)
        table = np.concatenate(rows) if rows else np.empty((0, 8))
        self._texture: moderngl.Texture | None = None
        if len(table):
            # Two texels a plane: the plane itself, and whether it is the last of its cell.
            self._texture = ctx.texture((2, len(table)), 4, table.astype("f4").tobytes(), dtype="f4")
            self._texture.filter = moderngl.NEAREST, moderngl.NEAREST

    def program(self, programs: Programs, group: int, vertex: str, fragment: str, *defines: str) -> moderngl.Program:
        """Return the program that draws a group, its clipping set up; :meth:`stop` when it is drawn."""
        clip = self._clips[group]
        program = programs.get(vertex, fragment, *clip.defines, *defines)
        if clip.count:
            set_uniforms(program, planes=clip.planes)
        if clip.rest and self._texture is not None:
            self._texture.use(CELL_UNIT)
            set_uniforms(program, cells=CELL_UNIT, first_cell=clip.first, cell_rows=clip.rest)
        for i in range(clip.count):
            self._ctx.enable_direct(CLIP_DISTANCE + i)
        return program

    def stop(self, group: int) -> None:
        """No more clipping."""
        for i in range(self._clips[group].count):
            self._ctx.disable_direct(CLIP_DISTANCE + i)


def _rows(cells: Sequence[Cell], centre: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 8) normal, offset, 1 where the plane is the last of its cell, and three zeros."""
    rows = [
        [*plane.normal, -float(plane.distance(centre)), float(i == len(cell.planes) - 1), 0.0, 0.0, 0.0]
        for cell in cells
        for i, plane in enumerate(cell.planes)
    ]
    return np.array(rows).reshape(-1, 8)
