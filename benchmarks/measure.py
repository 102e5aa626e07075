"""Timing that compares like with like."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def median_seconds(work: Callable[[int], object], runs: int = 5) -> float:
    """Median of several runs after one to warm up; ``work`` is told the number of the run, to do each a little otherwise."""
    work(0)
    taken = []
    for run in range(1, runs + 1):
        began = time.perf_counter()
        work(run)
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


def milliseconds(seconds: float) -> str:
    """“12.3 ms”, or seconds from a second on."""
    return f"{seconds * 1000:.1f} ms" if seconds < 1 else f"{seconds:.2f} s"
