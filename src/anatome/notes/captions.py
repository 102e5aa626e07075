"""What is written under details: their names, and at what scale they are drawn."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from anatome.cuts.details import Detail
from anatome.lengths import scale_words
from anatome.notes.marks import NoteMarks, Words
from anatome.notes.view import NoteView

CAPTION = "detail "
"""What the ids of such marks begin with: the id of the detail follows."""
BELOW, LINE = 1.6, 1.7
"""Heights of a capital from a detail to the first line under it, and from one line to the next."""
EXACT = 1e-6
"""How near a scale is to a round one that somebody set: of others nobody speaks."""
RIGHT, UP = np.array([1.0, 0.0]), np.array([0.0, 1.0])


def drawn_at(detail: Detail, scale: float) -> str:
    """Return at what scale a detail is drawn in a picture of scale 1:``scale``, 0 where it has none: “1:10” where both are
    round, else how many times as large as the building."""
    own = scale / detail.times
    if scale and all(abs(one - float(f"{one:.2g}")) < EXACT * one for one in (scale, own)):
        return scale_words(own)
    if detail.times == 1.0:
        return "as large as in the building"
    return f"{detail.times:g} times as large" if detail.times > 1.0 else f"{1 / detail.times:.3g} times as small"


def caption_marks(details: Iterable[Detail], view: NoteView) -> tuple[NoteMarks, ...]:
    """Return the captions of those details that have one and are in sight."""
    there = {part.detail: part for part in view.opened.parts if part.detail}
    height, found = max(view.style.height, view.least), []
    for detail in details:
        part = there.get(detail.id)
        if part is None or not detail.caption:
            continue
        flat = view.viewport.pixels(part.left) * [1, -1] + [0, view.viewport.height]
        if not np.isfinite(flat).all():
            continue
        middle = np.array([(flat[:, 0].min() + flat[:, 0].max()) / 2, flat[:, 1].min() - BELOW * height])
        words = []
        for number, text in enumerate((detail.name, drawn_at(detail, view.scale))):
            at = middle - number * LINE * height * UP
            made = Words(text, at, RIGHT, UP, height if number == 0 else 0.85 * height, strong=number == 0, veil=view.style.veil)
            words.append(Words(text, at - made.length / 2 * RIGHT, RIGHT, UP, made.height, made.strong, made.veil))
        found.append(NoteMarks(CAPTION + detail.id, words=tuple(words)))
    return tuple(found)
