"""A large page in pieces that a small printer can print, with marks to cut and glue them by."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from anatome.linework.page import Page, PageTile
from anatome.notes.marks import NoteMarks, NotesDrawn, Stroke, Words
from anatome.problems import Problem

MARGIN, OVERLAP = 8.0, 10.0
"""Mm a printer leaves free round its paper, and of each piece that lie under the next one (common practice)."""
MARK, TICK = 0.18, 5.0
"""Mm, of the lines of marks, and how long they are."""
WORDS = 1.8
"""Mm of the capitals that say which piece it is."""
INK, WHITE = (0.0, 0.0, 0.0), (1.0, 1.0, 1.0)
MOST = 400
"""Pieces of one page."""


def tiles_of(page: Page, paper: tuple[float, float]) -> tuple[PageTile, ...]:
    """Return a page in pieces on papers of ``paper`` mm, upright or lying, whichever takes fewer; row by row from the upper left.

    Neighbours share OVERLAP mm: where the next one begins both have ticks at the edge of what is printed, which come to lie on
    one another. Raises Problem where it would take more than MOST.
    """
    ways = [(len(_grid(page, size)), size) for size in (paper, (paper[1], paper[0]))]
    count, size = min(ways, key=lambda way: way[0])
    if count > MOST:
        raise Problem(f"That takes {count} pieces. Choose a larger paper for them.")
    wide, high = size[0] - 2 * MARGIN, size[1] - 2 * MARGIN
    places = _grid(page, size)
    columns, rows = len({x for x, _ in places}), len({y for _, y in places})
    found = []
    for number, (x, y) in enumerate(places):
        row, column = divmod(number, columns)
        box = (MARGIN, MARGIN, MARGIN + wide, MARGIN + high)
        name = f"{chr(ord('A') + row % 26)}{column + 1}"
        title = f"{page.title}, piece {name}"
        marks = _marks(size, box, title, (row, column), (rows, columns))
        found.append(PageTile(title, page, size, box, (x, y), marks))
    return tuple(found)


def _grid(page: Page, size: tuple[float, float]) -> list[tuple[float, float]]:
    """The lower left corners of what each piece shows of a page, mm."""
    wide, high = size[0] - 2 * MARGIN, size[1] - 2 * MARGIN
    columns = max(math.ceil((page.width - OVERLAP) / (wide - OVERLAP) - 1e-9), 1)
    rows = max(math.ceil((page.height - OVERLAP) / (high - OVERLAP) - 1e-9), 1)
    tops = [page.height - row * (high - OVERLAP) for row in range(rows)]
    return [(column * (wide - OVERLAP), top - high) for top in tops for column in range(columns)]


def _marks(
    size: tuple[float, float],
    box: tuple[float, float, float, float],
    title: str,
    at: tuple[int, int],
    of: tuple[int, int],
) -> NotesDrawn:
    """Ticks in the margins where the next piece begins, and what piece it is."""
    left, bottom, right, top = box
    (row, column), (rows, columns) = at, of
    upright = [x for x, there in ((left + OVERLAP, column > 0), (right - OVERLAP, column < columns - 1)) if there]
    across = [y for y, there in ((top - OVERLAP, row > 0), (bottom + OVERLAP, row < rows - 1)) if there]
    ticks: list[Sequence[Sequence[float]]] = []
    for x in upright:
        ticks += [((x, bottom - TICK - 1), (x, bottom - 1)), ((x, top + 1), (x, top + TICK + 1))]
    for y in across:
        ticks += [((left - TICK - 1, y), (left - 1, y)), ((right + 1, y), (right + TICK + 1, y))]
    under = "" if columns == 1 and rows == 1 else "; glue the next one on up to the ticks"
    said = Words.level(f"{title} of {rows} × {columns}{under}", (left + OVERLAP + 4.0, bottom - 1.0 - 2 * WORDS), WORDS)
    strokes = tuple(Stroke(np.array(tick), MARK) for tick in ticks)
    return NotesDrawn(*size, (NoteMarks("piece", strokes, (said,)),), INK, WHITE)
