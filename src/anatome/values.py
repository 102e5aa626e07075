"""What all values kept in a project have in common."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Protocol, TypeVar

from pydantic import BaseModel, ConfigDict


class HasId(Protocol):
    """What is known by its id."""

    @property
    def id(self) -> str: ...


V = TypeVar("V", bound=BaseModel)
Known = TypeVar("Known", bound=HasId)

FARTHEST = 1e8
"""Metres from the origin beyond which nothing is built: larger coordinates are a fault in a file."""


class Value(BaseModel):
    """A frozen value. Numbers are finite; fields of a newer minor version are kept, so that saving does not lose them."""

    model_config = ConfigDict(frozen=True, extra="allow", allow_inf_nan=False)


def put_among(those: tuple[Known, ...], one: Known) -> tuple[Known, ...]:
    """Return values of which the one with the same id is changed, or with a new one behind them."""
    known = any(other.id == one.id for other in those)
    return tuple(one if other.id == one.id else other for other in those) if known else (*those, one)


def mapped(value: V, change: Callable[[BaseModel], BaseModel | Mapping[str, Any] | None]) -> V:
    """Return a value with other values in the place of some in it. ``change`` is asked of each: it returns what stands in its
    place, or some of its fields as they are to be while all others are looked into, or None. What stays the same is handed on as
    it is, so that it is known again."""

    def within(held: Any) -> Any:
        if isinstance(held, tuple):
            parts = tuple(within(part) for part in held)
            return held if all(a is b for a, b in zip(parts, held)) else parts
        if not isinstance(held, BaseModel):
            return held
        told = change(held)
        if isinstance(told, BaseModel):
            return told
        changes = dict(told or {})
        for name in type(held).model_fields:
            if name not in changes:
                before = getattr(held, name)
                now = within(before)
                if now is not before:
                    changes[name] = now
        return held.model_copy(update=changes) if changes else held

    found: V = within(value)
    return found
