"""A sheet as a page: its frames with what was drawn for them, its border and title block, words, pictures, legends."""

from __future__ import annotations

import base64
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from anatome.lengths import scale_words
from anatome.linework.drawing import Area, Drawing, Layer, Strokes
from anatome.linework.page import Page, PagePart
from anatome.look.hatch_lines import hatch_lines
from anatome.look.pens import Pen
from anatome.notes.furniture import needle, scale_bar
from anatome.notes.lettering import width
from anatome.notes.marks import NoteMarks, NotesDrawn, Stroke, Words
from anatome.pictures import open_picture
from anatome.printing.contents import LegendEntry, Legends
from anatome.problems import Problem
from anatome.scenes.project import Project
from anatome.scenes.sheet_frames import (
    CAPTION,
    CONTENTS_ROW,
    LEGEND_ROW,
    LEGEND_WIDE,
    UNDER,
    bar_scale,
    box_of,
    drawing_number,
    fields_of,
    filled,
    frame_box,
    north_turn,
    number_of,
    picture_height,
    scale_of,
)
from anatome.sheets.paper import Box, paper_marks, text_lines
from anatome.sheets.sheet import (
    ContentsBlock,
    KeyPlanBlock,
    LegendBlock,
    NorthBlock,
    PictureBlock,
    ScaleBarBlock,
    SceneFrame,
    Sheet,
    TextBlock,
)

INK, WHITE = (0.13, 0.15, 0.17), (1.0, 1.0, 1.0)
FRAME_LINE = 0.25
BORDER_LINE = 0.35
MARK_LINE = 0.18
"""Mm, of scale bars and north points."""
NORTH_LETTER = 0.17
"""Capital of a north point, in heights of it."""
NUMBER_RING = 2.6
"""Mm, half across the ring round the number of a drawing."""
SWATCH = (4.4, 1.9)
"""Width and height of a legend's swatch, in heights of a capital."""


@dataclass(frozen=True, eq=False)
class FrameResult:
    """What was drawn for a frame: a PNG, lines, or both."""

    picture: bytes | None = None
    drawing: Drawing | None = None


def page_of(
    project: Project,
    sheet: Sheet,
    made: Mapping[str, FrameResult],
    legends: Legends | None = None,
    empty: bool = False,
    north: float = 0.0,
) -> Page:
    """Return a sheet as a page. Frames for which nothing is ``made`` are left ``empty``, or left out with what belongs to them;
    true ``north`` lies so many degrees clockwise of the model's Y."""
    parts: list[PagePart] = []
    strokes: list[Stroke] = []
    words: list[Words] = []
    fields = fields_of(sheet, project)
    marks, logo = paper_marks(sheet, fields)
    for block in sheet.blocks:
        if isinstance(block, SceneFrame):
            if block.id in made or empty:
                _frame(project, sheet, block, made.get(block.id, FrameResult()), parts, strokes, words)
        elif isinstance(block, TextBlock):
            words += text_lines(filled(block.text, fields), block.at, block.height, block.strong)[0]
        elif isinstance(block, PictureBlock):
            data = picture_of(block.data)
            if data is not None:
                left, bottom, right, top = box_of(block, project, sheet)
                parts.append(PagePart((left, bottom, right, top), (right - left, top - bottom), picture=data, block=block.id))
        elif isinstance(block, KeyPlanBlock):
            if block.id in made or empty:
                parts.append(_key_plan(block, made.get(block.id, FrameResult()), box_of(block, project, sheet)))
        elif isinstance(block, ScaleBarBlock):
            start = np.array(block.at) + [block.height / 2, 0.0]
            bar, said = scale_bar(start, bar_scale(block, sheet), block.unit, MARK_LINE, block.height)
            strokes += bar
            words += said
        elif isinstance(block, NorthBlock):
            turn = np.radians(north_turn(block, project, sheet, north))
            along, across = np.array([np.sin(turn), np.cos(turn)]), np.array([np.cos(turn), -np.sin(turn)])
            letters = NORTH_LETTER * block.height
            middle = np.array(block.at) + block.height / 2 - along * letters * 0.7
            point, letter = needle(middle, across, along, block.height / 2 - letters * 0.8 - 0.6, MARK_LINE, letters)
            strokes += point
            words.append(letter)
        elif isinstance(block, ContentsBlock):
            lines, said = contents_marks(block, project)
            strokes += lines
            words += said
        elif isinstance(block, LegendBlock) and (entries := (legends or {}).get(block.says)):
            drawing, said = legend_drawing(block, entries)
            x, y = block.at
            size = drawing.width, drawing.height
            parts.append(PagePart((x, y, x + size[0], y + size[1]), size, drawing=drawing, block=block.id))
            words += said
    data = picture_of(project.titles.logo) if logo is not None else None
    if data is not None and logo is not None and logo[2] > logo[0]:
        parts.append(_logo(data, logo))
    notes = (marks, NoteMarks("words", tuple(strokes), tuple(words)))
    title = f"{number_of(sheet, project)} {sheet.name}".strip()
    ink = INK if sheet.ground is None or sum(sheet.ground) > 1.2 else WHITE
    return Page(title, *sheet.paper, tuple(parts), NotesDrawn(*sheet.paper, notes, ink, sheet.ground or WHITE), sheet.ground)


def _frame(
    project: Project,
    sheet: Sheet,
    block: SceneFrame,
    made: FrameResult,
    parts: list[PagePart],
    strokes: list[Stroke],
    words: list[Words],
) -> None:
    scene = project.scene(block.scene)
    if scene is None:
        return
    high = picture_height(block, scene)
    whole = high * scene.aspect, high
    offset = block.crop[0] * whole[0], block.crop[1] * whole[1]
    box = frame_box(block, scene)
    line = FRAME_LINE if block.line else 0.0
    parts.append(PagePart(box, whole, offset, made.picture, made.drawing, line, block.id))
    if block.caption:
        x, y = box[0], box[1] - UNDER - CAPTION * 0.32
        number = drawing_number(block, project, sheet)
        if number:
            middle = np.array([x + NUMBER_RING, y + CAPTION / 2])
            turn = np.linspace(0, 2 * np.pi, 49)[:, None]
            strokes.append(Stroke(middle + NUMBER_RING * np.hstack([np.cos(turn), np.sin(turn)]), MARK_LINE))
            said = Words.level(number, (0.0, y), CAPTION, True)
            words.append(Words.level(number, (float(middle[0]) - said.length / 2, y), CAPTION, True))
            x += 2 * NUMBER_RING + 0.6 * CAPTION
        name = Words.level(scene.name, (x, y), CAPTION, True)
        words.append(name)
        scale = scale_words(scale_of(block, scene)) if block.scale is not None else ""
        if scale:
            words.append(Words.level(scale, (x + name.length + 1.4 * CAPTION, y), CAPTION))


def _key_plan(block: KeyPlanBlock, made: FrameResult, box: Box) -> PagePart:
    """A plan in the middle of its place."""
    size = (box[2] - box[0], box[3] - box[1])
    if made.drawing is None:
        return PagePart(box, size, block=block.id)
    wide, high = made.drawing.width, made.drawing.height
    offset = ((wide - size[0]) / 2, (high - size[1]) / 2)
    return PagePart(box, (wide, high), offset, None, made.drawing, block=block.id)


def _logo(data: bytes, room: Box) -> PagePart:
    """A picture as large as its room allows, at the left of it."""
    left, bottom, right, top = room
    wide, high = size_of(data)
    scale = min((right - left) / wide, (top - bottom) / high)
    size = wide * scale, high * scale
    y = bottom + (top - bottom - size[1]) / 2
    return PagePart((left, y, left + size[0], y + size[1]), size, picture=data)


@lru_cache(maxsize=32)
def picture_of(data: str) -> bytes | None:
    """Return the bytes of a picture kept as base64, if it is one; the same again for the same."""
    try:
        found = base64.b64decode(data, validate=True)
        size_of(found)
    except (ValueError, Problem):
        return None
    return found


def size_of(data: bytes) -> tuple[int, int]:
    """Pixels of a picture. Raises Problem when it is none."""
    return open_picture(data).size


CONTENTS = (("Sheet", 0.0), ("Title", 0.1), ("Scale", 0.58), ("Rev.", 0.76), ("Date", 0.84))
"""The columns of a list of sheets, and where they begin, as shares of its width."""


def contents_marks(block: ContentsBlock, project: Project) -> tuple[list[Stroke], list[Words]]:
    """Return the list of all sheets of a project as lines and words."""
    height, step = block.height, CONTENTS_ROW * block.height
    x, y = block.at
    top = y + step * (len(project.sheets) + 1)
    strokes, words = [], []
    rows = [("number", "name", "scale", "revision", "date")]
    starts = [share for _, share in CONTENTS] + [1.0]
    for row, fields in enumerate([None, *(fields_of(sheet, project) for sheet in project.sheets)]):
        low = top - (row + 1) * step
        strokes.append(Stroke(np.array([[x, low], [x + block.width, low]]), BORDER_LINE if row == 0 else MARK_LINE))
        for (head, share), key, end in zip(CONTENTS, rows[0], starts[1:]):
            text = head if fields is None else fields[key]
            room = (end - share) * block.width - height
            long = width(text, fields is None) * height
            high = height if long <= room else height * room / long
            words.append(Words.level(text, (x + share * block.width, low + (step - height) / 2), high, fields is None))
    return strokes, [own for own in words if own.text]


def names_of(entry: LegendEntry, room: float) -> str:
    """Return as many names of what looks alike as have room, in heights of a capital, and how many more there are."""
    names = (entry.name, *entry.others)
    for count in range(len(names), 0, -1):
        more = len(names) - count
        said = ", ".join(names[:count]) + (f" and {more} more" if more else "")
        if count == 1 or width(said) <= room:
            return said
    return entry.name


def legend_drawing(block: LegendBlock, entries: tuple[LegendEntry, ...]) -> tuple[Drawing, list[Words]]:
    """Return (swatches, the words beside them on the sheet)."""
    height, columns = block.height, block.columns
    count = -(-len(entries) // columns)
    step, wide = LEGEND_ROW * height, LEGEND_WIDE * height
    size = columns * wide, count * step
    areas: list[Area] = []
    hatches: dict[Pen, list[np.ndarray]] = {}
    borders: list[np.ndarray] = []
    words: list[Words] = []
    for number, entry in enumerate(entries):
        x, y = (number // count) * wide, size[1] - (number % count + 1) * step + (step - SWATCH[1] * height) / 2
        x0, y0, x1, y1 = x + 0.2, y, x + SWATCH[0] * height, y + SWATCH[1] * height
        ring = np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1], [x0, y0]])
        areas.append(Area(entry.name, entry.name, ((ring,),), entry.fill))
        borders.append(ring)
        if entry.hatch is not None:
            polygon = shapely.box(x0, y0, x1, y1)
            lines = hatch_lines(entry.hatch, polygon, 1.0 if entry.hatch.unit == "mm" else 20.0, np.zeros(2))
            hatches.setdefault(Pen(entry.hatch.weight or 0.13, entry.hatch.ink or INK), []).extend(lines)
        at = block.at[0] + x1 + height, block.at[1] + y + (SWATCH[1] - 1) / 2 * height
        room = wide - x1 + x - 2 * height
        words.append(Words.level(names_of(entry, room / height), at, height))
    hatched = (Strokes("Hatches", pen, tuple(own)) for pen, own in hatches.items())
    strokes = (*hatched, Strokes("Legend", Pen(0.25, INK), tuple(borders)))
    drawing = Drawing("Legend", *size, 1.0, 0.0, INK, (Layer("Legend", tuple(areas)),), tuple(s for s in strokes if s.lines))
    return drawing, words
