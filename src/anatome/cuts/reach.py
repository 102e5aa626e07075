"""What each cut reaches."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.values import Value

ReachMode = Literal["everything", "only", "all but"]


class Reach(Value):
    """What a cut acts on: everything, only what is meant, or all but that."""

    mode: ReachMode = "everything"
    what: Selection = Selection()

    def mask(self, building: Building) -> NDArray[np.bool_]:
        """Return (E,) True for the elements the cut acts on."""
        if self.mode == "everything":
            return np.ones(len(building.elements), bool)
        meant = self.what.mask(building)
        return meant if self.mode == "only" else ~meant


EVERYTHING = Reach()
