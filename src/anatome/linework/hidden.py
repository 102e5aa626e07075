"""Hidden lines, by intervals: of every line the parts that no triangle lies before.

In the picture a triangle hides of a line just one stretch: where the line is inside its three sides and behind its plane, four
conditions that are linear along the line. What is left of the line without the stretches of all triangles near it is seen.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from anatome.compiled import INTEGERS, REAL_ROWS, REALS, compiled
from anatome.linework.occluders import Occluders
from anatome.problems import Problem

Array = NDArray[np.float64]
Numbers = NDArray[np.int64]
SHORTEST = 1e-7
"""Share of the half picture\'s size under which a stretch that is seen is none."""
AT_A_TIME = 8192
THREADS = os.cpu_count() or 1


def seen_stretches(
    flat: Array, hiding: Occluders, progress: Callable[[float], bool] | None = None, threads: int = THREADS
) -> tuple[Numbers, Array]:
    """Return ((m,) the line each stretch is of, (m, 2) from where to where, 0..1) what is seen of lines.

    ``flat`` (n, 6): the ends of each line in the picture, x, y and z, within it. Stretches stand in the order of their lines.
    ``progress`` is told the share done and may return False to stop, which raises Problem.
    """
    starts = list(range(0, len(flat), AT_A_TIME))

    def some(start: int) -> tuple[Numbers, Array]:
        number, stretch = _seen(
            flat[start : start + AT_A_TIME],
            hiding.sides,
            hiding.plane,
            hiding.nearest,
            hiding.start,
            hiding.members,
            np.array([hiding.size]),
        )
        return number + start, stretch

    found: list[tuple[Numbers, Array]] = [(np.empty(0, np.int64), np.empty((0, 2)))]
    with ThreadPoolExecutor(threads) as pool:
        for done, made in enumerate(pool.map(some, starts)):
            found.append(made)
            if progress is not None and not progress((done + 1) / len(starts)):
                pool.shutdown(cancel_futures=True)
                raise Problem("The linework was cancelled; nothing was written.")
    return np.concatenate([n for n, _ in found]), np.concatenate([s for _, s in found])


@compiled(REAL_ROWS, REAL_ROWS, REAL_ROWS, REALS, INTEGERS, INTEGERS, INTEGERS)
def _seen(
    flat: Array, sides: Array, plane: Array, nearest: Array, start: Numbers, members: Numbers, sizes: Numbers
) -> tuple[Numbers, Array]:
    size = sizes[0]
    cell = 2.0 / size
    last = np.full(len(nearest), -1, np.int64)  # the line that asked a triangle last: one in many cells is asked once
    number, stretch, made = np.empty(1024, np.int64), np.empty((1024, 2)), 0
    lows, highs = np.empty(256), np.empty(256)
    for n in range(len(flat)):
        x0, y0, z0, x1, y1, z1 = flat[n, 0], flat[n, 1], flat[n, 2], flat[n, 3], flat[n, 4], flat[n, 5]
        dx, dy = x1 - x0, y1 - y0
        hidden, count, deepest = False, 0, max(z0, z1)
        upright = abs(dy) > abs(dx)
        # Along its longer way column by column of the grid, or row by row, and in each the cells it goes through.
        a0, a1, b0, b1 = (y0, y1, x0, x1) if upright else (x0, x1, y0, y1)
        if a0 > a1:
            a0, a1, b0, b1 = a1, a0, b1, b0
        first, final = max(int((a0 + 1) / cell), 0), min(int((a1 + 1) / cell), size - 1)
        slope = (b1 - b0) / (a1 - a0) if a1 > a0 else 0.0
        for column in range(first, final + 1):
            enters = b0 + slope * (max(a0, column * cell - 1) - a0)
            leaves = b0 + slope * (min(a1, (column + 1) * cell - 1) - a0)
            low, high = min(enters, leaves), max(enters, leaves)
            # A little more, so that a line along the border of two cells asks both.
            lowest, highest = max(int((low + 1) / cell - 1e-6), 0), min(int((high + 1) / cell + 1e-6), size - 1)
            for row in range(lowest, highest + 1):
                k = column * size + row if upright else row * size + column
                for m in range(start[k], start[k + 1]):
                    t = members[m]
                    if nearest[t] >= deepest:
                        break  # and so are all that follow
                    if last[t] == n:
                        continue
                    last[t] = n
                    begin, end = 0.0, 1.0
                    for s in range(3):
                        p = sides[t, 3 * s] * x0 + sides[t, 3 * s + 1] * y0 + sides[t, 3 * s + 2]
                        q = sides[t, 3 * s] * x1 + sides[t, 3 * s + 1] * y1 + sides[t, 3 * s + 2]
                        if p < 0 and q < 0:
                            end = -1.0
                            break
                        if p < 0:
                            begin = max(begin, p / (p - q))
                        elif q < 0:
                            end = min(end, p / (p - q))
                    if end <= begin:
                        continue
                    p = z0 - (plane[t, 0] * x0 + plane[t, 1] * y0 + plane[t, 2])
                    q = z1 - (plane[t, 0] * x1 + plane[t, 1] * y1 + plane[t, 2])
                    if p <= 0 and q <= 0:
                        continue
                    if p <= 0:
                        begin = max(begin, p / (p - q))
                    elif q <= 0:
                        end = min(end, p / (p - q))
                    if end <= begin:
                        continue
                    if begin <= 0.0 and end >= 1.0:
                        hidden = True
                        break
                    if count == len(lows):
                        lows, highs = np.append(lows, lows), np.append(highs, highs)
                    lows[count], highs[count] = begin, end
                    count += 1
                if hidden:
                    break
            if hidden:
                break
        if hidden:
            continue
        shortest = SHORTEST / max(np.sqrt(dx * dx + dy * dy), 1e-12)
        reached = 0.0
        if count > 0:
            order = np.argsort(lows[:count])
        for i in range(count + 1):
            begin = lows[order[i]] if i < count else 1.0
            if begin - reached > shortest:
                if made == len(number):
                    number, stretch = np.append(number, number), np.concatenate((stretch, stretch))
                number[made], stretch[made, 0], stretch[made, 1] = n, reached, begin
                made += 1
            if i < count:
                reached = max(reached, highs[order[i]])
    return number[:made], stretch[:made]
