"""Two looks in one picture: what lies on the other side of a divide has another look, and registers with the rest exactly."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from anatome.look.look import Look
from anatome.model.selection import Selection
from anatome.values import FARTHEST, Value

DivideBy = Literal["line", "depth", "parts"]
Place = tuple[float, float, float]


class Divide(Value):
    """The ``other`` look has what lies to the right of a ``line`` through two places in metres, as one sees it; or what is
    farther off than ``depth`` metres before the eye; or what is one of the ``parts``."""

    other: Look
    by: DivideBy = "line"
    line: tuple[Place, Place] | None = None
    depth: float = Field(default=10.0, ge=-FARTHEST, le=FARTHEST)
    parts: Selection = Selection()


def looks_of(look: Look, divide: Divide | None) -> tuple[Look, ...]:
    """Return all looks in a picture."""
    return (look,) if divide is None else (look, divide.other)


@dataclass(frozen=True)
class Dissolve:
    """The ``other`` look takes the place of the look of a picture by a ``share`` from 0 to 1, all over. Of moving pictures alone:
    no scene keeps one."""

    other: Look
    share: float
