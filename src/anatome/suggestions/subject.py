"""What a picture is to show: some parts, a room, or the whole building."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.model.building import Building, Space
from anatome.problems import Problem

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Subject:
    """``elements`` (E,) mask of wanted parts, or with ``rooms`` (k, 2, 3), the boxes of wanted rooms in metres, those.

    ``bounds`` (2, 3) metres hold what is wanted, ``things`` (k, 3) are the middles of it, one by one; ``whole`` says that it is
    all of the building.
    """

    name: str
    elements: NDArray[np.bool_]
    rooms: Array
    bounds: Array
    things: Array
    whole: bool = False


def of_parts(building: Building, elements: NDArray[np.bool_], name: str = "") -> Subject:
    """Return the parts of an (E,) mask."""
    numbers = np.flatnonzero(elements)
    own = building.elements[numbers[0]]
    said = name or (own.name if len(numbers) == 1 and own.name else f"{len(numbers)} parts")
    boxes = building.element_bounds[numbers]
    return Subject(said, elements, np.zeros((0, 2, 3)), building.bounds_of(elements), boxes.mean(axis=1))


def of_space(building: Building, space: Space) -> Subject:
    """Return a room."""
    box = np.array([space.lower, space.upper])
    nothing = np.zeros(len(building.elements), bool)
    return Subject(building.room_name(space) if space.name else "the room", nothing, box[None], box, box.mean(axis=0)[None])


def of_building(building: Building, shown: NDArray[np.bool_]) -> Subject:
    """Return all that is shown: the rooms, or where the model names none, what stands in it but for its shell."""
    bounds = building.subject_bounds(shown)
    rooms = np.array([[s.lower, s.upper] for s in building.spaces]).reshape(-1, 2, 3)
    inside = building.subject(shown)
    if not len(rooms):
        shell = ("IfcWall", "IfcWallStandardCase", "IfcRoof", "IfcCurtainWall", "IfcCovering", "IfcPlate", "IfcMember")
        inner = inside & np.array([e.type not in shell for e in building.elements], bool)
        inside = inner if inner.any() else inside
    return Subject("the rooms" if len(rooms) else "the building", inside, rooms, bounds, rooms.mean(axis=1), True)


def find_subject(building: Building, shown: NDArray[np.bool_], words: str | None) -> Subject:
    """Return what a few words mean: a room, a storey's name, a type, or part of the name of elements. Raises Problem for
    nothing.

    Of several rooms of one name the largest is taken.
    """
    if not words:
        return of_building(building, shown)
    wanted = words.strip().lower()
    spaces = [s for s in building.spaces if s.name.lower() == wanted] or [s for s in building.spaces if wanted in s.name.lower()]
    if spaces:
        return of_space(building, max(spaces, key=lambda s: float(np.prod(np.subtract(s.upper, s.lower)))))
    storeys = {i for i, s in enumerate(building.storeys) if s.name.lower() == wanted}
    tests = (
        lambda e: e.storey in storeys,
        lambda e: e.type.lower() in (wanted, f"ifc{wanted}"),
        lambda e: wanted in e.name.lower(),
    )
    for test in tests:
        mask = shown & ~building.context & np.array([test(e) for e in building.elements], bool)
        if mask.any():
            return of_parts(building, mask, words.strip())
    raise Problem(
        f"Nothing that is shown is called “{words}”. Give the name of a room, a storey or a part, or a type like IfcStair."
    )
