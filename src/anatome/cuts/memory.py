"""Remembering what was worked out, up to so many bytes."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from threading import RLock
from typing import Any

import numpy as np

LIMIT = 400_000_000
SMALL = 1_000
"""Bytes that something of unknown size is taken to have."""
POLYGON = 600
"""Bytes of a polygon of some dozen corners, with what GEOS keeps beside them."""


def size_of(value: Any) -> int:
    """About how many bytes a value holds: those of its arrays, polygons counted by the piece."""
    if isinstance(value, np.ndarray):
        return POLYGON * value.size if value.dtype == object else value.nbytes
    if isinstance(value, tuple | list):
        return SMALL + sum(size_of(v) for v in value)
    held = getattr(value, "__dict__", None)
    if held is None:
        return SMALL
    return SMALL + sum(size_of(v) for v in held.values() if isinstance(v, np.ndarray | tuple))


class Memory:
    """Values by key; those not asked for longest go first. Several threads may ask; two may work out the same once each."""

    def __init__(self, limit: int = LIMIT) -> None:
        self._limit, self._size = limit, 0
        self._kept: OrderedDict[object, tuple[Any, int]] = OrderedDict()
        self._lock = RLock()

    def remember(self, key: object, make: Callable[[], Any]) -> Any:
        """Return what was made for this key before, or make it. Where a key holds an id, the value holds the thing itself."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key][0]
        made = make()
        size = size_of(made)
        with self._lock:
            if key in self._kept:
                return self._kept[key][0]
            self._kept[key] = made, size
            self._size += size
            while self._size > self._limit and len(self._kept) > 1:
                self._size -= self._kept.popitem(last=False)[1][1]
        return made

    def known(self, key: object) -> Any | None:
        """Return what was made for this key, or None."""
        with self._lock:
            return self._kept[key][0] if key in self._kept else None
