"""Words of films: title cards, and captions at the foot of the picture, as notes are drawn."""

from __future__ import annotations

import textwrap
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from anatome.look.look import UNSAID_PAPER, Look
from anatome.notes.lettering import LEADING
from anatome.notes.marks import NoteMarks, NotesDrawn, Stroke, Words
from anatome.render.accumulation import Paper
from anatome.render.drawings import notes_image, over_picture
from anatome.scenes.film import Card, Film
from anatome.scenes.project import Project
from anatome.scenes.sheet_frames import filled

HEADING, BODY, CAPTION = 10.0, 5.0, 5.0
"""Mm of a capital, in a picture that counts as 210 mm high (ISO 3098, values from memory)."""
MARGIN, FOOT = 26.0, 10.0
"""Mm left of the words on a card, and left of and under those of a caption."""
RULE = 0.5
NARROWEST = 12


def fields_of_film(film: Film, project: Project) -> dict[str, str]:
    """Return what fields in the words of a film say, as in title blocks."""
    titles = project.titles
    return {
        "organisation": titles.organisation,
        "project": titles.project or project.name,
        "film": film.name,
        "date": titles.date,
        "drawn": titles.drawn,
    }


def card_drawn(card: Card, fields: Mapping[str, str], look: Look, aspect: float) -> NotesDrawn:
    """Return the words of a card: its heading over a thin line, others under it."""
    high, wide = UNSAID_PAPER, UNSAID_PAPER * aspect
    heading = _lines(filled(card.heading, fields), HEADING, wide - 2 * MARGIN, strong=True)
    body = _lines(filled(card.words, fields), BODY, wide - 2 * MARGIN)
    over, under = LEADING * HEADING * len(heading), LEADING * BODY * (len(body) + 0.6) if body else 0.0
    y = (high + over + under) / 2
    words = []
    for line in heading:
        y -= LEADING * HEADING
        words.append(Words.level(line, (MARGIN, y), HEADING, strong=True))
    strokes: tuple[Stroke, ...] = ()
    if body:
        y -= 0.8 * BODY
        if heading:
            strokes = (Stroke(np.array([[MARGIN, y], [wide - MARGIN, y]]), RULE),)
        y -= 0.6 * BODY
        for line in body:
            y -= LEADING * BODY
            words.append(Words.level(line, (MARGIN, y), BODY))
    return NotesDrawn(wide, high, (NoteMarks("card", strokes=strokes, words=tuple(words)),), look.ink, look.paper)


def caption_drawn(text: str, look: Look, aspect: float) -> NotesDrawn:
    """Return words at the foot of a picture, on a veil of paper."""
    wide = UNSAID_PAPER * aspect
    lines = _lines(text, CAPTION, wide - 2 * FOOT)
    words = [
        Words(
            line,
            np.array([FOOT, FOOT + LEADING * CAPTION * number]),
            np.array([1.0, 0.0]),
            np.array([0.0, 1.0]),
            CAPTION,
            veil=True,
        )
        for number, line in enumerate(reversed(lines))
    ]
    return NotesDrawn(wide, UNSAID_PAPER, (NoteMarks("caption", words=tuple(words)),), look.ink, look.paper)


def words_on_paper(look: Look, drawn: NotesDrawn, size: tuple[int, int]) -> NDArray[np.uint8]:
    """Return (h, w, 4) RGBA, words on the paper of a look, in pixels across and up."""
    wide, high = size
    heights = 1.0 - (np.arange(high) + 0.5) / high
    rows = np.round(255 * Paper.of(look).at(heights)).astype(np.uint8)
    return with_words(np.repeat(rows[:, None], wide, axis=1), drawn)


def with_words(pixels: NDArray[np.uint8], drawn: NotesDrawn) -> NDArray[np.uint8]:
    """Return a picture with the words of a film on it, however small it is."""
    return over_picture(pixels, notes_image(drawn, (pixels.shape[1], pixels.shape[0])))


def _lines(text: str, height: float, room: float, strong: bool = False) -> list[str]:
    """Lines of a text that fit into so many mm."""
    found = []
    for line in text.splitlines():
        letters = len(line)
        parts = [line]
        while letters > NARROWEST and any(Words.level(part, (0, 0), height, strong).length > room for part in parts):
            letters -= 1
            parts = textwrap.wrap(line, letters) or [""]
        found += parts
    return found
