"""Films on paper: a contact print of small pictures with their times, and pages to cut apart and flip through."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from anatome.formats.pdf import pages_bytes
from anatome.formats.pictures_out import png_bytes
from anatome.linework.page import Page, PagePart
from anatome.notes.marks import NoteMarks, NotesDrawn, Stroke, Words
from anatome.render.drawings import page_image

Pixels = NDArray[np.uint8]

INK, WHITE = (0.13, 0.15, 0.17), (1.0, 1.0, 1.0)
MARGIN, GAP = 12.0, 5.0
"""Mm round a page, and between small pictures."""
TITLE, CAPTION, SMALL = 3.5, 1.8, 1.8
"""Mm of capitals: over a contact print, under its pictures, in the margin of a card."""
TITLE_ROOM, CAPTION_ROOM = 11.0, 5.0
LINE, CUT_LINE = 0.05, 0.13
DOTS = 200.0
"""An inch, of a contact print as a picture."""
CARD, HOLD = (100.0, 45.0), 20.0
"""Mm of a card to flip, and of its left margin, by which it is held."""


def contact_print(title: str, pictures: Sequence[tuple[str, Pixels]], paper: tuple[float, float]) -> Page:
    """Return small pictures (h, w, 4) RGBA in rows, each with its words under it, as large as they can be on a paper in mm."""
    wide, high = paper
    count, aspect = len(pictures), pictures[0][1].shape[1] / pictures[0][1].shape[0]
    room = wide - 2 * MARGIN, high - 2 * MARGIN - TITLE_ROOM

    def width_in(columns: int) -> float:
        rows = math.ceil(count / columns)
        across = (room[0] - GAP * (columns - 1)) / columns
        upward = ((room[1] - GAP * (rows - 1)) / rows - CAPTION_ROOM) * aspect
        return min(across, upward)

    columns = max(range(1, count + 1), key=width_in)
    across = width_in(columns)
    up = across / aspect
    parts, words = [], [Words.level(title, (MARGIN, high - MARGIN - TITLE), TITLE, strong=True)]
    for number, (text, pixels) in enumerate(pictures):
        row, column = divmod(number, columns)
        left = MARGIN + column * (across + GAP)
        top = high - MARGIN - TITLE_ROOM - row * (up + CAPTION_ROOM + GAP)
        parts.append(PagePart((left, top - up, left + across, top), (across, up), picture=png_bytes(pixels), line=LINE))
        words.append(Words.level(text, (left, top - up - CAPTION_ROOM + 1.0), CAPTION))
    return Page(title, wide, high, tuple(parts), NotesDrawn(wide, high, (NoteMarks("", words=tuple(words)),), INK, WHITE))


def flip_pages(title: str, pictures: Sequence[Pixels], paper: tuple[float, float]) -> list[Page]:
    """Return cards to cut apart, (h, w, 4) RGBA each with a margin to hold them by and its number, on as many papers in mm as it
    takes."""
    wide, high = paper
    columns = max(round((wide - 2 * MARGIN) / CARD[0]), 1)
    scale = min((wide - 2 * MARGIN) / (columns * CARD[0]), (high - 2 * MARGIN) / CARD[1], 1.0)
    rows = max(int((high - 2 * MARGIN) / (CARD[1] * scale) + 1e-9), 1)
    across, up, hold = CARD[0] * scale, CARD[1] * scale, HOLD * scale
    pages = []
    for first in range(0, len(pictures), columns * rows):
        parts, words, strokes = [], [], []
        for place, pixels in enumerate(pictures[first : first + columns * rows]):
            row, column = divmod(place, columns)
            left, top = MARGIN + column * across, high - MARGIN - row * up
            room = across - hold
            size = min(room, up * pixels.shape[1] / pixels.shape[0]), min(up, room * pixels.shape[0] / pixels.shape[1])
            x, y = left + hold + (room - size[0]) / 2, top - up + (up - size[1]) / 2
            parts.append(PagePart((x, y, x + size[0], y + size[1]), size, picture=png_bytes(pixels)))
            corners = np.array([[left, top], [left + across, top], [left + across, top - up], [left, top - up], [left, top]])
            strokes.append(Stroke(corners, CUT_LINE))
            words.append(Words.level(f"{first + place + 1}", (left + 2.5, top - up + 2.5), SMALL))
        marks = NoteMarks("", strokes=tuple(strokes), words=tuple(words))
        pages.append(Page(title, wide, high, tuple(parts), NotesDrawn(wide, high, (marks,), INK, WHITE)))
    return pages


def paper_bytes(
    title: str, pictures: Sequence[Pixels], seconds: float, paper: tuple[float, float], flip: bool, ending: str
) -> bytes:
    """Return pictures of a film so long as a contact print, or to ``flip`` through: a PDF, or with the ending “.png” a picture of
    the contact print."""
    if flip:
        return pages_bytes(title, flip_pages(title, pictures, (min(paper), max(paper))))
    each = seconds / len(pictures)
    page = contact_print(title, [(f"{number * each:.1f} s", pixels) for number, pixels in enumerate(pictures)], paper)
    return png_bytes(page_image(page, DOTS), DOTS) if ending == ".png" else pages_bytes(title, [page])
