"""Groups that are called otherwise: all that means them by their name follows."""

from __future__ import annotations

from typing import Any, TypeVar

from pydantic import BaseModel

from anatome.model.building import WITHIN
from anatome.model.selection import Selection

V = TypeVar("V", bound=BaseModel)


def with_group_called(value: V, old: str, new: str) -> V:
    """Return a project, or a value in it, that means the group ``new``, and those in it, wherever it meant ``old``."""

    def other(name: str) -> str:
        inner = name.startswith(f"{old}{WITHIN}")
        return new if name == old else f"{new}{name[len(old) :]}" if inner else name

    def renamed(value: Any) -> Any:
        if isinstance(value, tuple):
            parts = tuple(renamed(part) for part in value)
            return value if all(a is b for a, b in zip(parts, value)) else parts
        if isinstance(value, Selection):
            groups = frozenset(map(other, value.groups))
            return value if groups == value.groups else value.model_copy(update={"groups": groups})
        if not isinstance(value, BaseModel):
            return value
        changes = {}
        for name in type(value).model_fields:
            held = getattr(value, name)
            now = renamed(held)
            if now is not held:
                changes[name] = now
        return value.model_copy(update=changes) if changes else value

    found: V = renamed(value)
    return found
