"""Where boxes go on a paper: in rows that fill it, lined up with one another, drawn to edges while they are moved."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from anatome.sheets.paper import Box


def rows(sizes: Sequence[tuple[float, float]], room: Box, gap: float, below: float = 0.0) -> list[tuple[float, float]] | None:
    """Return (x, y) lower left corners of boxes of such sizes set in rows from the upper left, each with room ``below`` for a
    caption; None where they do not fit."""
    left, bottom, right, top = room
    found: list[tuple[float, float]] = []
    row: list[int] = []
    x, y, high = left, top, 0.0
    for number, (wide, tall) in enumerate(sizes):
        if row and x + wide > right + 1e-6:
            y -= high + below + gap
            x, high, row = left, 0.0, []
        if x + wide > right + 1e-6:
            return None
        row.append(number)
        found.append((x, y - tall))
        x += wide + gap
        high = max(high, tall)
        if y - high - below < bottom - 1e-6:
            return None
    return _middled(found, sizes, room)


def _middled(places: list[tuple[float, float]], sizes: Sequence[tuple[float, float]], room: Box) -> list[tuple[float, float]]:
    """Every row moved to the middle of the room."""
    right = room[2]
    tops = [round(y + tall, 6) for (_, y), (_, tall) in zip(places, sizes)]
    found = list(places)
    for top in set(tops):
        own = [i for i, t in enumerate(tops) if t == top]
        end = max(places[i][0] + sizes[i][0] for i in own)
        shift = (right - end) / 2
        for i in own:
            found[i] = (places[i][0] + shift, places[i][1])
    return found


def grown(aspects: Sequence[float], room: Box, gap: float, below: float) -> tuple[float, list[tuple[float, float]]]:
    """Return (the largest height that pictures of such proportions can have in rows, where they then go)."""
    low, high = 2.0, room[3] - room[1]
    best: tuple[float, list[tuple[float, float]]] = (low, [(room[0], room[1])] * len(aspects))
    for _ in range(40):
        middle = (low + high) / 2
        found = rows([(a * middle, middle) for a in aspects], room, gap, below)
        if found is None:
            high = middle
        else:
            low, best = middle, (middle, found)
    return best


def free_place(size: tuple[float, float], taken: Sequence[Box], room: Box, gap: float) -> tuple[float, float]:
    """Return the lower left corner of a box of such a size in a room, as low and then as far left as nothing is ``taken``; the
    room's own corner where all of it is."""
    left, bottom, right, top = room
    xs = sorted({left, *(b[2] + gap for b in taken)})
    ys = sorted({bottom, *(b[3] + gap for b in taken)})
    for y in ys:
        for x in xs:
            fits = left <= x and x + size[0] <= right and bottom <= y and y + size[1] <= top
            own = (x - gap, y - gap, x + size[0] + gap, y + size[1] + gap)
            if fits and not any(b[0] < own[2] and own[0] < b[2] and b[1] < own[3] and own[1] < b[3] for b in taken):
                return (x, y)
    return (left, bottom)


def lined_up(boxes: Sequence[Box], edge: str) -> list[tuple[float, float]]:
    """Return how far each of some boxes moves to lie with the first along its left, right, top or bottom edge."""
    place = ("left", "bottom", "right", "top").index(edge)
    moves = [boxes[0][place] - box[place] for box in boxes]
    return [(by, 0.0) if place % 2 == 0 else (0.0, by) for by in moves]


def spread_out(boxes: Sequence[Box], across: bool) -> list[tuple[float, float]]:
    """Return how far each moves for the gaps between them to be the same, the outermost staying."""
    low, high = (0, 2) if across else (1, 3)
    order = sorted(range(len(boxes)), key=lambda i: boxes[i][low])
    room = boxes[order[-1]][high] - boxes[order[0]][low] - sum(b[high] - b[low] for b in boxes)
    gap, at = room / max(len(boxes) - 1, 1), boxes[order[0]][low]
    moves = [(0.0, 0.0)] * len(boxes)
    for i in order:
        by = at - boxes[i][low]
        moves[i] = (by, 0.0) if across else (0.0, by)
        at += boxes[i][high] - boxes[i][low] + gap
    return moves


def drawn_to(box: Box, lines: Sequence[float], across: bool, within: float) -> tuple[float, float | None]:
    """Return (how far a box moves so that an edge or its middle lies on a line, the line), if one is within so many mm."""
    low, high = (box[0], box[2]) if across else (box[1], box[3])
    best: tuple[float, float | None] = (0.0, None)
    nearest = within
    for line in lines:
        for own in (low, high, (low + high) / 2):
            if abs(line - own) < nearest:
                nearest, best = abs(line - own), (line - own, line)
    return best


def round_boxes(boxes: Sequence[Box]) -> Box:
    """Return the box round some."""
    found = np.array(boxes)
    low, high = found[:, :2].min(axis=0), found[:, 2:].max(axis=0)
    return (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
