"""Lines that are left out where parts of one material lie in one plane: there is nothing to be seen between them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]

NEAR = 1e-4
"""Metres within which two lines are one."""
ALIKE = 1e-6
"""By how much the cosine of two directions that are the same may be less than 1."""


def shared_stretches(ends: Array, element: Numbers, normals: Array, inwards: Array, building: Building) -> tuple[Numbers, Array]:
    """Return ((m,) numbers of lines, (m, 2) stretches 0..1 of them, at most one of a line overlapping another) along which
    another part of the same material goes on in the plane of a face.

    ``ends`` (n, 2, 3) metres; ``normals`` and ``inwards`` (n, 2, 3) of the two faces beside each line: out of the face, and in it
    away from the line.
    """
    arm = ends[:, 1] - ends[:, 0]
    length = np.linalg.norm(arm, axis=1)
    whole = length > NEAR
    way = np.divide(arm, length[:, None], out=np.zeros_like(arm), where=whole[:, None])
    # The same line has the same direction, whichever way its ends come.
    leading = np.take_along_axis(way, np.abs(np.round(way, 6)).argmax(axis=1)[:, None], axis=1)[:, 0]
    way = way * np.where(leading < 0, -1.0, 1.0)[:, None]
    foot = ends[:, 0] - way * np.einsum("ij,ij->i", ends[:, 0], way)[:, None]
    along = np.einsum("nij,nj->ni", ends, way)
    kind = _materials(building)[element]
    found, stretch = [np.empty(0, np.int64)], [np.empty((0, 2))]
    for shift in (0.0, 0.5):  # two grids, so that no pair lies astride the lines of both
        key = np.column_stack([np.floor(foot / NEAR + shift), np.floor(way * 1e4 + shift), kind]).astype(np.int64)
        _, group = np.unique(key, axis=0, return_inverse=True)
        first, second = _overlapping(group.ravel(), along.min(axis=1), along.max(axis=1), whole)
        apart = element[first] != element[second]
        first, second = first[apart], second[apart]
        goes_on = _goes_on(normals, inwards, first, second)
        first, second = first[goes_on], second[goes_on]
        low = np.maximum(along[first].min(axis=1), along[second].min(axis=1))
        high = np.minimum(along[first].max(axis=1), along[second].max(axis=1))
        for line in (first, second):
            shares = (np.stack([low, high], axis=1) - along[line, :1]) / (along[line, 1] - along[line, 0])[:, None]
            found.append(line)
            stretch.append(np.sort(shares, axis=1))
    return _united(np.concatenate(found), np.clip(np.concatenate(stretch), 0.0, 1.0))


def left_of_stretches(count: int, of: Numbers, stretch: Array) -> tuple[Numbers, Array]:
    """Return ((m,) numbers, (m, 2) stretches) what of so many lines lies in none of some sorted stretches that do not
    overlap."""
    number = np.arange(count)
    begins, starts = np.concatenate([number, of]), np.concatenate([np.zeros(count), stretch[:, 1]])
    ends_of, ends = np.concatenate([of, number]), np.concatenate([stretch[:, 0], np.ones(count)])
    first, second = np.lexsort((starts, begins)), np.lexsort((ends, ends_of))
    gaps = np.stack([starts[first], ends[second]], axis=1)
    there = gaps[:, 1] - gaps[:, 0] > 1e-9
    return begins[first][there], gaps[there]


def _materials(building: Building) -> Numbers:
    """(E,) a number for each material; parts of none are of that of their type."""
    names = [e.material or f"type {e.type}" for e in building.elements]
    return np.unique(np.array(names), return_inverse=True)[1].ravel() if names else np.empty(0, np.int64)


def _overlapping(group: Numbers, low: Array, high: Array, whole: NDArray[np.bool_]) -> tuple[Numbers, Numbers]:
    """Pairs of lines of one group that have a stretch in common."""
    lines = np.flatnonzero(whole)
    if not len(lines):
        return np.empty(0, np.int64), np.empty(0, np.int64)
    span = float(high[lines].max() - low[lines].min()) + 1.0
    place = group[lines] * span + (low[lines] - low[lines].min())
    order = np.argsort(place, kind="stable")
    place, lines = place[order], lines[order]
    until = np.searchsorted(place, place + (high[lines] - low[lines]) - NEAR)
    count = np.maximum(until - np.arange(len(lines)) - 1, 0)
    first = np.repeat(np.arange(len(lines)), count)
    second = first + 1 + np.arange(len(first)) - np.repeat(np.cumsum(count) - count, count)
    return lines[first], lines[second]


def _goes_on(normals: Array, inwards: Array, first: Numbers, second: Numbers) -> NDArray[np.bool_]:
    """Whether a face beside the one line goes on, past the line, in a face beside the other."""
    found = np.zeros(len(first), bool)
    for a in (0, 1):
        for b in (0, 1):
            same = np.einsum("ij,ij->i", normals[first, a], normals[second, b]) > 1 - ALIKE
            past = np.einsum("ij,ij->i", inwards[first, a], inwards[second, b]) < -1 + ALIKE
            found |= same & past
    return found


def _united(of: Numbers, stretch: Array) -> tuple[Numbers, Array]:
    """Stretches that overlap on one line made one, in order."""
    if not len(of):
        return of, stretch
    order = np.lexsort((stretch[:, 0], of))
    of, stretch = of[order], stretch[order]
    # What lies before on the same line ends here; lines lie three apart, so none reaches into the next.
    reached = np.maximum.accumulate(3.0 * of + stretch[:, 1])
    new = np.concatenate([[True], 3.0 * of[1:] + stretch[1:, 0] > reached[:-1] + 1e-12])
    starts = np.flatnonzero(new)
    ends = np.append(starts[1:], len(of)) - 1
    return of[starts], np.stack([stretch[starts, 0], reached[ends] - 3.0 * of[starts]], axis=1)
