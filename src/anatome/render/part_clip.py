"""Clipping while drawing: what the cuts take away of each part of the building.

Cells with one plane use clip distances, up to eight of them; all other cells are tested for every fragment, from a
small texture of planes, so there is no limit to how many there are.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cells import Cell
from anatome.cuts.dissection import Part
from anatome.render.programs import Programs, set_uniforms

MOST_DISTANCES = 8
CLIP_DISTANCE = 0x3000
"""GL_CLIP_DISTANCE0; the following seven come after it."""
CELL_UNIT = 3


@dataclass(frozen=True)
class _Clip:
    """``planes``: bytes for the clip distances; ``first``, ``rest``: the rows of the texture that belong to the part."""

    planes: bytes
    count: int
    first: int
    rest: int


class PartClip:
    """Prepares the parts of a dissection for the shaders, and sets them one after the other."""

    def __init__(self, ctx: moderngl.Context, programs: Programs) -> None:
        self._ctx, self._programs = ctx, programs
        self._key: object = None
        self._clips: list[_Clip] = []
        self._texture: moderngl.Texture | None = None

    def update(self, parts: Sequence[Part], centre: NDArray[np.float64]) -> None:
        """Take over the cells of the parts; positions are relative to ``centre``."""
        key = (tuple(part.cells for part in parts), tuple(centre))
        if key == self._key:
            return
        self._key = key
        self._clips = []
        rows: list[NDArray[np.float64]] = []
        for part in parts:
            single = [c for c in part.cells if len(c.planes) == 1][:MOST_DISTANCES]
            others = [c for c in part.cells if c not in single]
            planes = np.zeros((MOST_DISTANCES, 4), "f4")
            planes[: len(single)] = _rows(single, centre)[:, :4]
            found = _rows(others, centre)
            self._clips.append(_Clip(planes.tobytes(), len(single), sum(len(r) for r in rows), len(found)))
            rows.append(found)
        table = np.concatenate(rows) if rows else np.empty((0, 8))
        if self._texture is not None:
            self._texture.release()
            self._texture = None
        if len(table):
            # Two texels a plane: the plane itself, and whether it is the last of its cell.
            self._texture = self._ctx.texture((2, len(table)), 4, table.astype("f4").tobytes(), dtype="f4")
            self._texture.filter = moderngl.NEAREST, moderngl.NEAREST

    def each(
        self, vertex: str, fragment: str, uniforms: dict[str, Any], ranges: Sequence[tuple[int, int]]
    ) -> Iterator[tuple[int, moderngl.Program]]:
        """For every part that has something in ``ranges``: its number, and a program set up to draw it."""
        used: set[int] = set()
        try:
            for number, (clip, (_, count)) in enumerate(zip(self._clips, ranges)):
                if not count:
                    continue
                program = self._programs.get(vertex, fragment, *(("CELLS",) if clip.rest else ()))
                if program.glo not in used:
                    used.add(program.glo)
                    set_uniforms(program, **uniforms)
                set_uniforms(program, planes=clip.planes, plane_count=clip.count)
                if clip.rest and self._texture is not None:
                    self._texture.use(CELL_UNIT)
                    set_uniforms(program, cells=CELL_UNIT, first_cell=clip.first, cell_rows=clip.rest)
                self._enable(clip.count)
                yield number, program
        finally:
            self._enable(0)

    def _enable(self, count: int) -> None:
        for i in range(MOST_DISTANCES):
            (self._ctx.enable_direct if i < count else self._ctx.disable_direct)(CLIP_DISTANCE + i)


def _rows(cells: Sequence[Cell], centre: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 8) normal, offset, 1 where the plane is the last of its cell, and three zeros."""
    rows = [
        [*plane.normal, -float(plane.distance(centre)), float(i == len(cell.planes) - 1), 0.0, 0.0, 0.0]
        for cell in cells
        for i, plane in enumerate(cell.planes)
    ]
    return np.array(rows).reshape(-1, 8)
