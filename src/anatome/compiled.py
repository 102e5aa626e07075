"""Loops that NumPy cannot express, compiled to machine code by numba.

They are compiled once on a machine (``scripts/setup`` does so ahead) and come from numba's cache afterwards. numba itself is
only loaded when the first of them is called, so that what needs no geometry starts quickly. They run without holding
Python's lock, so a cut on its own thread does not keep the window from answering.
"""

from __future__ import annotations

import warnings
from collections.abc import Callable
from functools import update_wrapper
from threading import Event, Lock
from typing import Any, Generic, ParamSpec, TypeVar

import numpy as np

Arguments = ParamSpec("Arguments")
Result = TypeVar("Result")

# Types of arguments: element type, number of dimensions (0: a bare number).
REAL, REALS, REAL_ROWS = ("float64", 0), ("float64", 1), ("float64", 2)
INTEGERS, INTEGER_ROWS = ("int64", 1), ("int64", 2)
FLAGS, BYTES, HASHES = ("boolean", 1), ("uint8", 1), ("uint64", 1)

NUMPY = {
    **{"float64": np.float64, "float32": np.float32, "int64": np.int64, "int32": np.int32, "boolean": np.bool_},
    **{"uint8": np.uint8, "uint64": np.uint64},
}

_LOCK, _READY = Lock(), Event()
_ALL: list[Compiled[..., Any]] = []


class Compiled(Generic[Arguments, Result]):
    """A function that is compiled, or taken from the cache, when it is called first."""

    def __init__(self, function: Callable[Arguments, Result], arguments: tuple[tuple[str, int], ...]) -> None:
        self._function, self._arguments = function, arguments
        self._made: Callable[Arguments, Result] | None = None
        update_wrapper(self, function)
        _ALL.append(self)

    def __call__(self, *args: Arguments.args, **kwargs: Arguments.kwargs) -> Result:
        # Compiled for arrays that lie in one piece, in the type that was declared; others are copied.
        given: Any = [
            np.ascontiguousarray(value, NUMPY[kind]) if dimensions else value
            for value, (kind, dimensions) in zip(args, self._arguments, strict=True)
        ]
        return (self._made or self.make())(*given, **kwargs)

    def make(self) -> Callable[Arguments, Result]:
        """Compile it, unless that is done."""
        with _LOCK:
            if self._made is None:
                self._made = _compile(self._function, self._arguments)
            return self._made


def compiled(*arguments: tuple[str, int]) -> Callable[[Callable[Arguments, Result]], Compiled[Arguments, Result]]:
    """Decorate a function to be compiled for arguments of these types.

    Arithmetic is NumPy's: a division by zero gives an infinity and raises nothing.
    """
    return lambda function: Compiled(function, arguments)


def prepare() -> None:
    """Compile, or load, all that has been decorated, so that nothing waits for it later."""
    for function in list(_ALL):
        function.make()
    _READY.set()


def is_ready() -> bool:
    """Return whether all was prepared that there was to prepare when the program started: a first cut may wait for that."""
    return _READY.is_set()


def _compile(function: Callable[Arguments, Result], arguments: tuple[tuple[str, int], ...]) -> Callable[Arguments, Result]:
    import numba

    # Arrays are declared unwritable: those of a building mapped from the cache are, and others pass for such.
    signature = tuple(
        numba.types.Array(getattr(numba.types, kind), dimensions, "C", readonly=True)
        if dimensions
        else getattr(numba.types, kind)
        for kind, dimensions in arguments
    )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", numba.NumbaWarning)
            return numba.njit(signature, cache=True, nogil=True, error_model="numpy")(function)
    except Exception:
        # No folder to keep it in, or what is kept there is damaged, which shows in any kind of error: compiled anew, which
        # only takes longer. What is wrong with the function itself is raised here.
        return numba.njit(signature, nogil=True, error_model="numpy")(function)
