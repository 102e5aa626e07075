"""Drawing in steps, so that others may use the context between."""

from __future__ import annotations

from collections.abc import Generator
from typing import TypeVar

T = TypeVar("T")


def finished(steps: Generator[float, None, T]) -> T:
    """Take all steps at once, and return what they end with."""
    while True:
        try:
            next(steps)
        except StopIteration as end:
            found: T = end.value
            return found
