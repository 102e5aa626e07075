"""How the fill of a cut is made where the model alone does not say."""

from __future__ import annotations

import math

import numpy as np
from pydantic import Field, field_serializer

from anatome.model.building import Building
from anatome.values import Value


class PocheRules(Value):
    """All lengths in metres; 0 means that nothing is done.

    ``gap``: how far apart ends of an outline may lie and still be joined; None follows each element's size.
    """

    merge: bool = Field(default=False, description="neighbours of one material become one fill without inner lines")
    sheet: float = Field(default=0.0, ge=0, le=10, description="thickness given to surfaces without any")
    earth: float = Field(default=0.0, ge=0, le=1000, description="solid earth under terrain sheets, down from their lowest point")
    gap: float | None = Field(default=None, ge=0, le=1)
    filled: frozenset[str] = Field(
        default=frozenset(), max_length=20_000, description="ids of elements whose outlines are closed, however wide their gaps"
    )
    left_open: frozenset[str] = Field(
        default=frozenset(), max_length=20_000, description="ids of elements whose outlines stay open where they are"
    )

    @field_serializer("filled", "left_open")
    def _in_order(self, ids: frozenset[str]) -> list[str]:
        """The same rules give the same bytes."""
        return sorted(ids)

    def gap_for(self, building: Building, element: int) -> float:
        """Return the gap in metres that is closed in an element's outline; infinite where it is closed in any case.

        A thousandth of the element's diagonal, at most 20 mm and never under ten times the model's tolerance: small
        against what is cut, and the same in whatever unit the file was drawn.
        """
        if self.filled or self.left_open:
            name = building.elements[element].id
            if name in self.filled:
                return math.inf
            if name in self.left_open:
                return 0.0
        if self.gap is not None:
            return self.gap
        low, high = building.element_bounds[element]
        return float(np.clip(1e-3 * np.linalg.norm(high - low), 10 * building.tolerance, 0.02))


AS_MODELLED = PocheRules()
"""Nothing merged, nothing thickened, gaps by size."""
