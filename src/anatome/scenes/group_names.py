"""Groups that are called otherwise: all that means them by their name follows."""

from __future__ import annotations

from typing import TypeVar

from pydantic import BaseModel

from anatome.model.building import WITHIN
from anatome.model.selection import Selection
from anatome.values import mapped

V = TypeVar("V", bound=BaseModel)


def with_group_called(value: V, old: str, new: str) -> V:
    """Return a project, or a value in it, that means the group ``new``, and those in it, wherever it meant ``old``."""

    def other(name: str) -> str:
        inner = name.startswith(f"{old}{WITHIN}")
        return new if name == old else f"{new}{name[len(old) :]}" if inner else name

    def change(value: BaseModel) -> BaseModel | None:
        if not isinstance(value, Selection):
            return None
        groups = frozenset(map(other, value.groups))
        return value if groups == value.groups else value.model_copy(update={"groups": groups})

    return mapped(value, change)
