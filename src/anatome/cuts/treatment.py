"""What cuts do to elements instead of slicing them: keep them whole, or leave them out.

It only ever concerns elements that a cut would slice. What lies wholly before a cut goes, whatever its treatment, and
what lies wholly beyond stays.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building
from anatome.model.kinds import EARTH_TYPES, FURNITURE_TYPES, PLANTING_WORDS, RAILING_TYPES
from anatome.model.selection import Selection
from anatome.values import Value

Treatment = Literal["slice", "by centre", "keep whole", "leave out"]
"""``by centre``: kept whole if the middle of the element's bounds lies behind the cut, else left out."""

TREATMENTS: tuple[Treatment, ...] = ("slice", "by centre", "keep whole", "leave out")
SLICE, BY_CENTRE, KEEP_WHOLE, LEAVE_OUT = range(4)


class TreatmentRow(Value):
    """``planting`` narrows ground types down to what grows on them, by name."""

    name: str
    what: Selection
    does: Treatment
    planting: bool = False

    def mask(self, building: Building) -> NDArray[np.bool_]:
        """Return (E,) True for the elements the row is about."""
        meant = self.what.mask(building)
        if self.planting:
            meant &= np.array([any(w in f"{e.name} {e.layer}".lower() for w in PLANTING_WORDS) for e in building.elements], bool)
        return meant


class Treatments(Value):
    """Rows in order; the last one that is about an element counts. Elements no row is about are sliced."""

    rows: tuple[TreatmentRow, ...] = ()

    def codes(self, building: Building) -> NDArray[np.int64]:
        """Return (E,) the treatment of every element, as a place in :data:`TREATMENTS`."""
        codes = np.zeros(len(building.elements), np.int64)
        for row in self.rows:
            codes[row.mask(building)] = TREATMENTS.index(row.does)
        return codes

    def with_row(self, row: TreatmentRow) -> Treatments:
        """With a row put in, in place of one of the same name, or at the end."""
        if any(r.name == row.name for r in self.rows):
            return Treatments(rows=tuple(row if r.name == row.name else r for r in self.rows))
        return Treatments(rows=(*self.rows, row))

    def without_row(self, name: str) -> Treatments:
        return Treatments(rows=tuple(r for r in self.rows if r.name != name))


ALL_SLICED = Treatments()

STARTING_RULE = Treatments(
    rows=(
        TreatmentRow(name="Furniture", what=Selection(types=frozenset(FURNITURE_TYPES)), does="by centre"),
        TreatmentRow(name="Railings", what=Selection(types=frozenset(RAILING_TYPES)), does="by centre"),
        TreatmentRow(name="Trees", what=Selection(types=frozenset(EARTH_TYPES)), does="by centre", planting=True),
    )
)
"""Half a table or half a tree reads wrong (common practice)."""
