"""Joining outlines that almost close.

Ends of open outlines of one element that lie within its gap are joined, the nearest pair first, each end once. An
outline is only closed with itself when the gap is small against its own length, so that a short line does not become
an area; unless its element is to be closed in any case.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.slicing import Outlines

OWN_SHARE = 0.1
"""How much of its own length an outline may be open and still be closed."""
STRAIGHT = 0.98
"""The same where it is to be closed in any case: what is straight has no area to close."""


@dataclass(frozen=True)
class Gap:
    """A place where an outline did not close: ``point`` in metres, how ``wide`` it was, and whether it was ``closed``."""

    element: int
    point: tuple[float, float, float]
    width: float
    closed: bool


def close_gaps(outlines: Outlines, gap_for: Callable[[int], float]) -> tuple[Outlines, tuple[Gap, ...]]:
    """Return the outlines with gaps closed, and a report of every gap closed or left. ``gap_for`` says for an element how wide
    gaps are that are closed, infinity for all of them."""
    loose = np.flatnonzero(~outlines.closed)
    if not len(loose):
        return outlines, ()
    from scipy.spatial import cKDTree  # slow to load, and most models have no gaps

    chains = {int(i): outlines.path[outlines.first[i] : outlines.first[i + 1]] for i in loose}
    heads = np.array([outlines.nodes[chains[int(i)][0]] for i in loose])
    tails = np.array([outlines.nodes[chains[int(i)][-1]] for i in loose])
    ends = np.concatenate([heads, tails])
    owner = np.concatenate([loose, loose])
    element = outlines.element[owner]
    gaps = {int(e): gap_for(int(e)) for e in np.unique(element)}
    lengths = {i: float(np.linalg.norm(np.diff(outlines.nodes[c], axis=0), axis=1).sum()) for i, c in chains.items()}

    partner: dict[int, int] = {}
    report: list[Gap] = []
    widest = max((gap for gap in gaps.values() if math.isfinite(gap)), default=0.0)
    pairs = cKDTree(ends).query_pairs(widest, output_type="ndarray").reshape(-1, 2)
    for number, gap in gaps.items():
        if math.isinf(gap):
            own = np.flatnonzero(element == number)
            pairs = np.concatenate([pairs, own[np.stack(np.triu_indices(len(own), 1), axis=1)]])
    wide = np.linalg.norm(ends[pairs[:, 0]] - ends[pairs[:, 1]], axis=1)
    for k in np.argsort(wide, kind="stable"):
        a, b = int(pairs[k, 0]), int(pairs[k, 1])
        width = float(wide[k])
        if element[a] != element[b] or width > gaps[int(element[a])] or a in partner or b in partner:
            continue
        most = STRAIGHT if math.isinf(gaps[int(element[a])]) else OWN_SHARE
        if owner[a] == owner[b] and width > most * lengths[int(owner[a])]:
            continue
        partner[a], partner[b] = b, a
        report.append(_gap(int(element[a]), (ends[a] + ends[b]) / 2, width, True))

    count = len(loose)
    done: set[int] = set()
    lines: list[tuple[NDArray[np.int64], int, bool, bool]] = []

    def walk(entry: int) -> None:
        """Follow chains from one end (k: head of chain k, k + count: its tail) until there is no partner or it closes."""
        path, directed, at = [], True, entry
        while True:
            chain = at % count
            done.add(chain)
            nodes = chains[int(loose[chain])]
            forward = at < count
            path.append(nodes if forward else nodes[::-1])
            directed &= forward and bool(outlines.directed[loose[chain]])
            leave = chain + count if forward else chain
            following = partner.get(leave)
            if following is None or following == entry:
                lines.append((np.concatenate(path), int(outlines.element[loose[chain]]), following is not None, directed))
                return
            at = following

    free = [e for e in range(2 * count) if e not in partner]
    for entry in [*free, *range(count)]:
        if entry % count not in done:
            walk(entry)
    for nodes, owned, closed, _ in lines:
        if not closed:
            first, last = outlines.nodes[nodes[0]], outlines.nodes[nodes[-1]]
            report.append(_gap(owned, first, float(np.linalg.norm(last - first)), False))

    kept = np.flatnonzero(outlines.closed)
    paths = [outlines.path[outlines.first[i] : outlines.first[i + 1]] for i in kept] + [line[0] for line in lines]
    joined = Outlines(
        nodes=outlines.nodes,
        path=np.concatenate(paths),
        first=np.concatenate([[0], np.cumsum([len(p) for p in paths])]).astype(np.int64),
        element=np.concatenate([outlines.element[kept], np.array([line[1] for line in lines], np.int64)]),
        closed=np.concatenate([np.ones(len(kept), bool), np.array([line[2] for line in lines], bool)]),
        directed=np.concatenate([outlines.directed[kept], np.array([line[3] for line in lines], bool)]),
    )
    return joined, tuple(report)


def _gap(element: int, point: NDArray[np.float64], width: float, closed: bool) -> Gap:
    return Gap(element, (float(point[0]), float(point[1]), float(point[2])), width, closed)
