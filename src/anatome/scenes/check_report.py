"""What a model is like before anything is made of it, as facts for files: its solids, its unit, its storeys."""

from __future__ import annotations

from typing import Any

import numpy as np
from pydantic import TypeAdapter
from typing_extensions import TypedDict

from anatome.model.building import Building
from anatome.model.soundness import soundness_of
from anatome.scenes.guesses import guesses_for


class PartFacts(TypedDict):
    """A part, and in words what is said of it."""

    id: str
    name: str
    why: str


class UnitFacts(TypedDict):
    """The length unit of the file, and how many metres one of it is."""

    name: str
    metres: float


class LevelFacts(TypedDict):
    """A storey; its elevation in metres."""

    name: str
    elevation: float


class CheckFacts(TypedDict):
    """What ``anatome check --json`` writes. ``size`` in metres; ``doubled`` are pairs of ids of one shape in a place, ``within``
    pairs of which the first lies inside the second; ``storeys_guessed`` are offered where the file has none; ``failed`` are
    products whose shape could not be made."""

    elements: int
    unit: UnitFacts
    size: list[float]
    open: list[PartFacts]
    inside_out: list[PartFacts]
    doubled: list[list[str]]
    crossing: list[PartFacts]
    within: list[list[str]]
    storeys: list[LevelFacts]
    storeys_guessed: list[LevelFacts]
    failed: list[PartFacts]
    remarks: list[str]


def check_schema() -> dict[str, Any]:
    """JSON schema of :class:`CheckFacts`, published as docs/check.schema.json."""
    return TypeAdapter(CheckFacts).json_schema()


def check_facts(building: Building) -> CheckFacts:
    """Return which parts of a model are no sound solids, with its unit and storeys."""
    found = soundness_of(building)

    def pairs(numbers: Any) -> list[list[str]]:
        return [[building.elements[i].id for i in pair] for pair in numbers.tolist()]

    def named(mask: Any) -> list[PartFacts]:
        numbers = np.flatnonzero(mask).tolist()
        return [{"id": building.elements[i].id, "name": building.elements[i].name, "why": found.words(i)} for i in numbers]

    guesses = [(g.name, g.elevation) for g in guesses_for(building)]
    return {
        "elements": len(building.elements),
        "unit": {"name": building.unit.name, "metres": building.unit.metres},
        "size": (building.bounds[1] - building.bounds[0]).tolist(),
        "open": named(found.open),
        "inside_out": named(found.inside_out),
        "doubled": pairs(found.doubled),
        "crossing": named(found.crossing),
        "within": pairs(found.within),
        "storeys": [{"name": s.name, "elevation": s.elevation} for s in building.storeys],
        "storeys_guessed": [{"name": name, "elevation": level} for name, level in guesses if level is not None],
        "failed": [{"id": f.id, "name": f.name, "why": f.reason} for f in building.failed],
        "remarks": list(building.remarks),
    }
