"""The paper itself: its border by ISO 5457 and its title block by ISO 7200 (values from memory), as strokes and words."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from anatome.notes.lettering import width
from anatome.notes.marks import NoteMarks, Stroke, Words
from anatome.sheets.sheet import Sheet

Array = NDArray[np.float64]
Box = tuple[float, float, float, float]
"""Left, bottom, right, top, mm."""
MARGIN_LEFT, MARGIN = 20.0, 10.0
"""Mm between the edge of the paper and its border (ISO 5457): left for filing, elsewhere."""
SMALL_MARGIN_LEFT, SMALL_MARGIN = 20.0, 7.0
"""The same of papers up to A4, where a printer needs less (common practice)."""
BORDER, THIN = 0.7, 0.25
TITLE = (180.0, 30.0)
"""Mm, width (ISO 7200) and height of the title block."""
CAPTION, VALUE, LARGE = 1.8, 2.5, 3.5
CENTRING = 5.0
"""Mm that centring marks reach into the paper from its border."""


def area(sheet: Sheet) -> Box:
    """Return what of a sheet is drawn on: within its border, or all of it."""
    wide, high = sheet.paper
    if not sheet.bordered:
        return (0.0, 0.0, wide, high)
    small = min(wide, high) <= 211.0
    left, around = (SMALL_MARGIN_LEFT, SMALL_MARGIN) if small else (MARGIN_LEFT, MARGIN)
    return (left, around, wide - around, high - around)


def title_box(sheet: Sheet) -> Box | None:
    """Return where its title block lies: in the lower right corner, across the whole of a narrow paper."""
    if not sheet.title_block:
        return None
    left, bottom, right, _ = area(sheet)
    return (max(left, right - TITLE[0]), bottom, right, bottom + TITLE[1])


def free_area(sheet: Sheet) -> Box:
    """Return where things can be laid out: over the title block."""
    left, bottom, right, top = area(sheet)
    title = title_box(sheet)
    return (left, bottom if title is None else title[3], right, top)


def paper_marks(sheet: Sheet, fields: Mapping[str, str]) -> tuple[NoteMarks, Box | None]:
    """Return ((border, title block), where in it a logo stands). ``fields``: organisation, project, name, number, revision,
    scale, date, drawn."""
    strokes: list[Stroke] = []
    words: list[Words] = []
    if sheet.bordered:
        left, bottom, right, top = area(sheet)
        strokes.append(Stroke(_ring((left, bottom, right, top)), BORDER))
        wide, high = sheet.paper
        for a, b in (
            ((wide / 2, 0.0), (wide / 2, bottom + CENTRING)),
            ((wide / 2, high), (wide / 2, top - CENTRING)),
            ((0.0, high / 2), (left + CENTRING, high / 2)),
            ((wide, high / 2), (right - CENTRING, high / 2)),
        ):
            strokes.append(Stroke(np.array([a, b]), BORDER))
    box = title_box(sheet)
    logo = None
    if box is not None:
        logo = _title(box, fields, strokes, words)
    return NoteMarks("paper", tuple(strokes), tuple(words)), logo


def _title(box: Box, fields: Mapping[str, str], strokes: list[Stroke], words: list[Words]) -> Box:
    """Cells: whose it is and by whom at the left, what it is in the middle, number, scale and date at the right."""
    left, bottom, right, top = box
    wide = right - left
    first, second = left + 0.28 * wide, left + 0.76 * wide
    third = (top - bottom) / 3
    strokes.append(Stroke(_ring(box), BORDER))
    lines = [
        ((first, bottom), (first, top)),
        ((second, bottom), (second, top)),
        ((left, bottom + third), (first, bottom + third)),
        ((second, bottom + third), (right, bottom + third)),
        ((second, bottom + 2 * third), (right, bottom + 2 * third)),
        (((second + right) / 2, bottom), ((second + right) / 2, bottom + 2 * third)),
    ]
    strokes += [Stroke(np.array(line), THIN) for line in lines]

    def cell(name: str, x: float, y: float, room: float, key: str, height: float = VALUE, strong: bool = False) -> None:
        words.append(_line(name, x + 1.5, y - CAPTION - 1.3, CAPTION))
        words.append(_fitted(fields.get(key, ""), x + 1.5, y - CAPTION - 2.6 - height, height, room - 3.0, strong))

    half = (right - second) / 2
    cell("Drawn by", left, bottom + third, first - left, "drawn")
    cell("Project", first, top, second - first, "project")
    cell("Title", first, bottom + 2 * third - 1.0, second - first, "name", LARGE + 1.5, True)
    revised = bool(fields.get("revision"))
    cell("Sheet", second, top, half if revised else right - second, "number", LARGE, True)
    if revised:
        strokes.append(Stroke(np.array([((second + right) / 2, top - third), ((second + right) / 2, top)]), THIN))
        cell("Revision", second + half, top, half, "revision", LARGE, True)
    cell("Scale", second, bottom + 2 * third, half, "scale")
    cell("Date", second + half, bottom + 2 * third, half, "date")
    cell("Paper", second, bottom + third, half, "paper")
    cell("Of", second + half, bottom + third, half, "count")
    if fields.get("logo"):
        return (left + 2, bottom + third + 2, first - 2, top - 2)
    words.append(_fitted(fields.get("organisation", ""), left + 1.5, top - 8.0, LARGE, first - left - 3.0, True))
    return (left, bottom, left, bottom)


def _ring(box: Box) -> Array:
    left, bottom, right, top = box
    return np.array([[left, bottom], [right, bottom], [right, top], [left, top], [left, bottom]])


def _line(text: str, x: float, y: float, height: float, strong: bool = False) -> Words:
    return Words.level(text, (x, y), height, strong)


def _fitted(text: str, x: float, y: float, height: float, room: float, strong: bool = False) -> Words:
    """A line no longer than its cell: smaller letters where it would be."""
    long = width(text, strong) * height
    return _line(text, x, y, height if long <= room else height * room / long, strong)


def grid_lines(sheet: Sheet, upright: bool) -> list[float]:
    """Return mm of the lines of a sheet's grid, from the lower left corner of what is drawn on; none where it has no grid."""
    if sheet.grid is None:
        return []
    edges = area(sheet)
    low, high = (edges[0], edges[2]) if upright else (edges[1], edges[3])
    return [low + number * sheet.grid for number in range(int((high - low) / sheet.grid + 1e-9) + 1)]


def text_lines(text: str, at: tuple[float, float], height: float, strong: bool = False) -> tuple[list[Words], Box]:
    """Return (lines of words over a lower left corner, the box they fill)."""
    lines = text.split("\n")
    step = 1.6 * height
    deep = (len(lines) - 1) * step + 1.32 * height
    words = [_line(line, at[0], at[1] + deep - height - i * step, height, strong) for i, line in enumerate(lines)]
    wide = max((w.length for w in words), default=0.0)
    return words, (at[0], at[1], at[0] + max(wide, height), at[1] + deep)
