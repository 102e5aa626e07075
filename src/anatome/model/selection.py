"""Which elements are meant: by name, type, layer, material, group and storey."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_serializer

from anatome.model.building import Building
from anatome.values import Value


class Selection(Value):
    """An element is meant when any of the lists names it, or when its name contains one of the ``words``.

    ``storeys`` holds ids. Kept as what was said, not as the elements found, so that it still holds after the model
    has changed.
    """

    elements: frozenset[str] = frozenset()
    types: frozenset[str] = frozenset()
    layers: frozenset[str] = frozenset()
    materials: frozenset[str] = frozenset()
    storeys: frozenset[str] = frozenset()
    words: frozenset[str] = Field(default=frozenset(), description="parts of element names, in any case")
    groups: frozenset[str] = Field(
        default=frozenset(),
        description="groups of the project by name, of the model's file by path, with all in them",
    )

    @field_serializer("elements", "types", "layers", "materials", "storeys", "words", "groups")
    def _in_order(self, values: frozenset[str]) -> list[str]:
        """The same selection gives the same bytes."""
        return sorted(values)

    @property
    def is_empty(self) -> bool:
        named = self.types or self.layers or self.materials or self.storeys or self.groups
        return not (self.elements or named or self.words)

    def mask(self, building: Building) -> NDArray[np.bool_]:
        """Return (E,) True for the elements that are meant."""
        storeys = {i for i, s in enumerate(building.storeys) if s.id in self.storeys}
        words = [w.lower() for w in self.words if w]
        return np.array(
            [
                e.id in self.elements
                or e.type in self.types
                or (bool(e.layer) and e.layer in self.layers)
                or (bool(e.material) and e.material in self.materials)
                or e.storey in storeys
                or (bool(self.groups) and not self.groups.isdisjoint(e.groups))
                or (bool(words) and any(w in e.name.lower() for w in words))
                for e in building.elements
            ],
            bool,
        )

    def joined(self, other: Selection) -> Selection:
        """Meaning what either means."""
        return Selection(**{name: getattr(self, name) | getattr(other, name) for name in type(self).model_fields})

    def with_changed(self, kind: str, values: frozenset[str], present: bool) -> Selection:
        """With some values of one of the lists put in or taken out."""
        own: frozenset[str] = getattr(self, kind)
        return self.model_copy(update={kind: own | values if present else own - values})
