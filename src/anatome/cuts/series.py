"""Serial sections: parallel sections at a spacing, with their areas and the volume between them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from anatome.cuts.fitting import PLAN_HEIGHT
from anatome.cuts.plane import Plane
from anatome.cuts.poche import poche
from anatome.cuts.poche_rules import AS_MODELLED, PocheRules
from anatome.cuts.reach import EVERYTHING, Reach
from anatome.cuts.section import Section, section
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.values import Value

MOST = 2000


class SerialSections(Value):
    """Sections parallel to ``plane`` at ``offsets`` metres from it, counted against its normal: the way it looks.

    They cut nothing away; ``fills`` and ``curves`` say how they are drawn on the stage, ``alone`` whether the building
    is hidden meanwhile.
    """

    id: str
    name: str
    mark: str = Field(max_length=4)
    plane: Plane
    offsets: tuple[float, ...] = Field(max_length=MOST)
    on: bool = True
    fills: bool = True
    curves: bool = True
    alone: bool = True
    reach: Reach = EVERYTHING

    def planes(self) -> list[Plane]:
        """Return one for each offset."""
        return [self.plane.moved(-offset) for offset in self.offsets]

    def label(self, number: int) -> str:
        """Return what a section of the series is called: its mark and number, from 1."""
        return f"{self.mark}{number + 1}"


def offsets_at(count: int, spacing: float) -> tuple[float, ...]:
    """Offsets of ``count`` sections ``spacing`` metres apart, the first at 0. Raises Problem for what makes no series."""
    if not (1 <= count <= MOST):
        raise Problem(f"A series has 1 to {MOST} sections; this would be {count}.")
    if not (np.isfinite(spacing) and spacing > 0):
        raise Problem("The spacing of a series is a length above 0, for example 2 m.")
    return tuple(float(spacing) * i for i in range(count))


def storey_offsets(building: Building, height: float = PLAN_HEIGHT) -> tuple[Plane, tuple[float, ...]]:
    """Return a level plane and offsets for a section over the floor of every storey, the topmost first.

    Raises Problem when the model has no storeys.
    """
    heights = sorted((s.elevation + height for s in building.storeys), reverse=True)
    if not heights:
        raise Problem("The model has no storeys. Give a number of sections and a spacing instead.")
    middle = building.bounds.mean(axis=0)
    plane = Plane((float(middle[0]), float(middle[1]), heights[0]), (0.0, 0.0, 1.0))
    return plane, tuple(heights[0] - h for h in heights)


@dataclass(frozen=True, eq=False)
class SeriesResult:
    """``sections`` and ``filled`` (without overlaps) in order; ``areas`` in m² of the filled ones; ``volume`` in m³."""

    planes: tuple[Plane, ...]
    sections: tuple[Section, ...]
    filled: tuple[Section, ...]
    areas: NDArray[np.float64]
    volume: float


def cut_series(
    building: Building,
    planes: Sequence[Plane],
    elements: NDArray[np.bool_] | None = None,
    rules: PocheRules = AS_MODELLED,
    progress: Callable[[float], bool] | None = None,
) -> SeriesResult:
    """Cut along all planes and integrate the area between the first and the last.

    Volume by the prismoidal formula L/6·(A₁ + 4·Aₘ + A₂) (handbook), with the areas half-way between neighbours cut
    as well; exact where the area is a polynomial of the third degree or less between two sections. ``progress`` may
    return False to stop, which raises Problem.
    """
    sections, filled, volume = [], [], 0.0
    for i, plane in enumerate(planes):
        sections.append(section(building, plane, elements, rules))
        filled.append(poche(building, sections[-1], rules.merge))
        if i:
            gap = abs(plane.offset - planes[i - 1].offset)
            half_way = plane.at_offset((plane.offset + planes[i - 1].offset) / 2)
            between = poche(building, section(building, half_way, elements, rules))
            volume += gap / 6 * float(filled[-2].areas.sum() + 4 * between.areas.sum() + filled[-1].areas.sum())
        if progress and not progress((i + 1) / len(planes)):
            raise Problem("The serial sections were cancelled; nothing was changed.")
    areas = np.array([float(f.areas.sum()) for f in filled])
    return SeriesResult(tuple(planes), tuple(sections), tuple(filled), areas, volume)
