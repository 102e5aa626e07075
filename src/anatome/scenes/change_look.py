"""How a picture shows what has changed in a model: all of it white, and what differs in one tint for each kind of change."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from anatome.look.look import Rgb, Rule, rgb
from anatome.look.shipped import shipped_looks
from anatome.model.building import Building
from anatome.model.comparison import Comparison
from anatome.model.selection import Selection
from anatome.scenes.project import StageState

Ids = Mapping[str, frozenset[str]]

KINDS = {
    "restyled": ("Other material or colour", "#9BB08A"),
    "moved": ("Moved or turned", "#D6A24A"),
    "reshaped": ("Changed in shape", "#8C6A9E"),
    "gone": ("Gone", "#B5523B"),
    "new": ("New", "#4F7CAC"),
}
"""What can have happened to a part, in words and by its tint; of two that hold, the later one is shown."""


def changed_ids(before: Building, after: Building, found: Comparison) -> tuple[Ids, Ids]:
    """Return by kinds of change the ids of the elements it happened to: as they were called before, and are after."""

    def ids(building: Building, numbers: NDArray[np.int64]) -> frozenset[str]:
        return frozenset(building.elements[i].id for i in numbers.tolist())

    was, now = {"gone": ids(before, np.flatnonzero(found.gone))}, {"new": ids(after, np.flatnonzero(found.new))}
    for kind in ("restyled", "moved", "reshaped"):
        numbers = np.flatnonzero(getattr(found, kind))
        was[kind], now[kind] = ids(before, numbers), ids(after, found.partner[numbers])
    return was, now


def tint(kind: str) -> Rgb:
    """Return the colour of a kind of change, sRGB 0..1."""
    return rgb(KINDS[kind][1])


def tinted(state: StageState, ids: Ids) -> StageState:
    """Return a state in white, with the elements of ``ids`` in the tints of what happened to them."""
    rules = tuple(
        Rule(who=Selection(elements=ids[kind]), surface=tint(kind), fill=tint(kind), hatch="") for kind in KINDS if ids.get(kind)
    )
    white = shipped_looks()["White model"]
    return state.model_copy(update={"look": white.model_copy(update={"rules": rules}), "overrides": (), "divide": None})
