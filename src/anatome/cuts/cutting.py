"""All cuts that are on, applied together: the cut faces to fill and the elements that are left."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.plane import Plane
from anatome.cuts.section import Section, section
from anatome.cuts.section_plane import SectionPlane
from anatome.model.building import Building


@dataclass(frozen=True, eq=False)
class CutFace:
    """What one section plane makes of the building, less what the other planes cut away."""

    cut: SectionPlane
    section: Section


def shown_elements(building: Building, hidden: Iterable[str]) -> NDArray[np.bool_]:
    """(E,) mask of the elements that are not hidden; unknown ids are passed over."""
    mask = np.ones(len(building.elements), bool)
    index = building.index_of
    mask[[index[i] for i in hidden if i in index]] = False
    return mask


def left_over(building: Building, planes: Iterable[Plane]) -> NDArray[np.bool_]:
    """(E,) mask of the elements that do not lie wholly before one of the planes, whether it touches them or not."""
    low, high = building.element_bounds[:, 0], building.element_bounds[:, 1]
    mask = np.ones(len(building.elements), bool)
    for plane in planes:
        n = plane.n
        nearest = np.where(n > 0, low, high) @ n - plane.offset
        mask &= nearest < -building.tolerance
    return mask


class Cutter:
    """Cuts one building again and again, and remembers each plane's result while nothing that matters changed."""

    def __init__(self, building: Building) -> None:
        self.building = building
        self._kept: dict[str, tuple[tuple[object, ...], CutFace]] = {}

    def faces(self, cuts: Sequence[SectionPlane], shown: NDArray[np.bool_]) -> list[CutFace]:
        """The cut faces of the cuts that are on; ``shown`` is an (E,) mask."""
        active = [c for c in cuts if c.on]
        mask_key = shown.tobytes()
        faces: list[CutFace] = []
        kept: dict[str, tuple[tuple[object, ...], CutFace]] = {}
        for cut in active:
            others = tuple(o.plane for o in active if o is not cut)
            key = (cut.plane, others, mask_key)
            remembered = self._kept.get(cut.id)
            if remembered is not None and remembered[0] == key:
                found = remembered[1].section
            else:
                found = section(self.building, cut.plane, None if shown.all() else shown, others)
            kept[cut.id] = (key, CutFace(cut, found))
            faces.append(kept[cut.id][1])
        self._kept = kept
        return faces
