"""What of a building is drawn for a camera: the clusters that can be seen, as ranges for the graphics card.

Clusters outside the picture, cut away, hidden or too small to show cost a few numbers here and nothing there.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.model.clusters import Clusters

COMMAND = np.dtype([("count", "<u4"), ("instances", "<u4"), ("first", "<u4"), ("base", "<u4"), ("instance", "<u4")])
"""As glMultiDrawElementsIndirect takes it."""


@dataclass(frozen=True)
class Run:
    """Commands ``first`` to ``first + count`` of a draw list belong to one ``key`` and draw some ``members``."""

    key: int
    first: int
    count: int
    members: int


@dataclass(frozen=True, eq=False)
class DrawList:
    """Commands (n,) sorted into runs, each short enough to be drawn in one go."""

    commands: NDArray[np.void]
    runs: tuple[Run, ...]


@dataclass(frozen=True, eq=False)
class Sight:
    """What decides which clusters can be seen.

    ``matrix`` (4, 4) is a viewport's, its depth row replaced by nothing; ``pixel`` metres a pixel spans where the divisor is 1;
    ``depth`` (2,) near and far.
    """

    matrix: NDArray[np.float64]
    pixel: float
    depth: tuple[float, float]

    def sees(self, centre: NDArray[np.float64], half: NDArray[np.float64]) -> NDArray[np.bool_]:
        """Return (n,) False for boxes that lie wholly outside the picture."""
        across, upward, depth, divisor = self.matrix
        ahead = np.array([0.0, 0.0, 0.0, 1.0])
        seen = np.ones(len(centre), bool)
        near, far = self.depth
        for side in (
            divisor - across,
            divisor + across,
            divisor - upward,
            divisor + upward,
            depth - near * ahead,
            far * ahead - depth,
        ):
            seen &= centre @ side[:3] + half @ np.abs(side[:3]) + side[3] >= 0
        return seen

    def pixels(
        self, lengths: NDArray[np.floating], centre: NDArray[np.float64], half: NDArray[np.float64]
    ) -> NDArray[np.float64]:
        """Return (n,) how long lengths in metres can be in pixels of the picture, where boxes are at their nearest."""
        divisor = self.matrix[3]
        nearest = centre @ divisor[:3] + divisor[3] - half @ np.abs(divisor[:3])
        with np.errstate(divide="ignore"):
            return np.asarray(lengths / (self.pixel * np.maximum(nearest, 0.0)))


def draw_list(clusters: Clusters, chosen: NDArray[np.bool_], key: NDArray[np.int64], per_member: int, longest: int) -> DrawList:
    """Return the chosen clusters (C,) by key (C,), those that follow one another as one range; runs of some ``longest``
    members."""
    numbers = np.flatnonzero(chosen)
    if not len(numbers):
        return DrawList(np.empty(0, COMMAND), ())
    own = key[numbers]
    begins = np.concatenate([[True], (np.diff(numbers) != 1) | (own[1:] != own[:-1])])
    first = np.flatnonzero(begins)
    last = np.append(first[1:], len(numbers)) - 1
    start, end = clusters.start[numbers[first]], clusters.start[numbers[last] + 1]
    own = own[first]
    order = np.argsort(own, kind="stable")
    start, end, own = start[order], end[order], own[order]
    # A range longer than a run is cut, so that no draw takes longer than a few milliseconds.
    pieces = -(-(end - start) // longest)
    if (pieces > 1).any():
        which = np.repeat(np.arange(len(start)), pieces)
        step = np.arange(len(which)) - np.repeat(np.cumsum(pieces) - pieces, pieces)
        start, end, own = start[which] + step * longest, end[which], own[which]
        end = np.minimum(end, start + longest)
    commands = np.zeros(len(start), COMMAND)
    commands["count"], commands["instances"], commands["first"] = (end - start) * per_member, 1, start * per_member
    so_far = np.cumsum(end - start)
    runs: list[Run] = []
    at = 0
    for group_end in np.flatnonzero(np.append(own[1:] != own[:-1], True)) + 1:
        while at < group_end:
            before = so_far[at - 1] if at else 0
            until = max(int(np.searchsorted(so_far, before + longest, side="right")), at + 1)
            until = min(until, int(group_end))
            runs.append(Run(int(own[at]), at, until - at, int(so_far[until - 1] - before)))
            at = until
    return DrawList(commands, tuple(runs))
