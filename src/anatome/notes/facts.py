"""What labels can say of a part or a space: fields in braces, filled with what the model has."""

from __future__ import annotations

import copy
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from anatome.lengths import CUBIC_FOOT, SQUARE_FOOT, feet_and_inches, metric
from anatome.model.building import WITHIN, Building, Element, Space
from anatome.notes.note import NoteStyle
from anatome.words import plain_type

FIELDS: Mapping[str, str] = {
    "name": "its name",
    "type": "what it is",
    "material": "its material",
    "thickness": "across its largest face, in mm",
    "area": "of a room its floor, of a part all its faces",
    "volume": "what it encloses",
    "storey": "where it stands",
    "layer": "its layer",
    "group": "the group it stands in",
    "use": "of a room what it is for",
    "level": "how high it lies",
    "height": "from its foot to its top",
}
"""What may stand in braces, besides “{Set.Property}”, a property as the model's file has it."""
FIELD = re.compile(r"\{([^{}]+)\}")
UNKNOWN = "–"
_METRES = {"m": 1.0, "cm": 100.0, "mm": 1000.0}
FINENESS = (1, 2, 4, 16, 64)
"""Parts of an inch that are told with so many decimals."""
Properties = Callable[[str], Mapping[str, Mapping[str, object]]]


def length(metres: float, style: NoteStyle, signed: bool = False) -> str:
    """Return a length as notes say it: the bare number, as on a drawing. Millimetres and centimetres have no more decimals than
    they can mean."""
    if style.unit == "ft":
        return feet_and_inches(metres, style.fraction or FINENESS[style.decimals], signed)
    decimals = style.decimals if style.unit == "m" else max(style.decimals - (2 if style.unit == "cm" else 3), 0)
    return metric(metres * _METRES[style.unit], decimals, signed).replace("-", "−")


def level(metres: float, style: NoteStyle) -> str:
    """Return a height with its sign; that of zero is ±, as levels are written (common practice)."""
    said = length(metres, style, signed=True)
    return "±" + said[1:] if abs(metres) < 5e-5 else said


def area(square_metres: float, style: NoteStyle) -> str:
    """With its unit."""
    if style.unit == "ft":
        return f"{square_metres / SQUARE_FOOT:,.1f} ft²"
    return f"{square_metres:.{max(style.decimals - 1, 1)}f} m²"


def volume(cubic_metres: float, style: NoteStyle, decimals: int) -> str:
    """With its unit."""
    if style.unit == "ft":
        return f"{cubic_metres / CUBIC_FOOT:,.{max(decimals - 2, 0)}f} ft³"
    return f"{cubic_metres:.{decimals}f} m³"


@dataclass(frozen=True, order=True)
class SectionPlace:
    """Where a section is drawn: what stands ``over`` the line in its mark, and the number of the ``sheet`` under it."""

    over: str
    sheet: str


class Facts:
    """Of one building; what takes a while is worked out once. ``properties`` looks up sets of properties by the id of a part.
    ``sections`` says by the id of a cut on which sheet it is drawn."""

    def __init__(self, building: Building, properties: Properties | None = None) -> None:
        self.building, self.properties = building, properties
        self.sections: Mapping[str, SectionPlace] = {}
        self._thickness: dict[int, float] = {}
        self._spaces = {space.id: space for space in building.spaces}
        self._storeys = {storey.id: storey for storey in building.storeys}

    def with_sections(self, sections: Mapping[str, SectionPlace]) -> Facts:
        """Return the same facts where sections are drawn on other sheets."""
        if sections == self.sections:
            return self
        found = copy.copy(self)
        found.sections = sections
        return found

    def fill(self, text: str, on: str, place_level: float, style: NoteStyle) -> str:
        """Return the text with what its fields say of the part or the space with an id."""
        return FIELD.sub(lambda found: self.field(found[1].strip(), on, place_level, style), text)

    def field(self, name: str, on: str, place_level: float, style: NoteStyle) -> str:
        """Return what one field says; a dash where there is nothing to say."""
        if name == "level":
            return level(place_level, style)
        if on in self._spaces:
            return self._of_space(name, self._spaces[on], style) or UNKNOWN
        if on in self._storeys:
            return self._storeys[on].name if name in ("name", "storey") else UNKNOWN
        number = self.building.index_of.get(on)
        if number is None:
            return UNKNOWN
        if "." in name:
            return self._property(name, on)
        return self._of_part(name, number, self.building.elements[number], style) or UNKNOWN

    def _of_space(self, name: str, space: Space, style: NoteStyle) -> str:
        if name == "area":
            return area(space.floor_area, style)
        if name == "height":
            return length(space.upper[2] - space.lower[2], style)
        if name == "volume":
            return volume(space.floor_area * (space.upper[2] - space.lower[2]), style, 1)
        return {"name": space.name, "use": space.use, "storey": self._storey(space.storey), "type": "Room"}.get(name, "")

    def _of_part(self, name: str, number: int, element: Element, style: NoteStyle) -> str:
        building = self.building
        if name == "thickness":
            metres = self.thickness(number)
            return feet_and_inches(metres, style.fraction or 16) if style.unit == "ft" else f"{1000 * metres:.0f} mm"
        if name in ("area", "volume"):
            square, cubic = building.measures_of(number)
            return area(square, style) if name == "area" else volume(cubic, style, 3) if cubic is not None else ""
        if name == "height":
            low, high = building.element_bounds[number, :, 2]
            return length(float(high - low), style)
        kept = {"name": element.name, "type": plain_type(element.type), "material": element.material, "layer": element.layer}
        kept["group"] = element.also[0] if element.also else element.group.rpartition(WITHIN)[2]
        return self._storey(element.storey) if name == "storey" else kept.get(name, "")

    def _storey(self, number: int | None) -> str:
        return "" if number is None else self.building.storeys[number].name

    def _property(self, name: str, on: str) -> str:
        wanted, _, own = name.partition(".")
        found = (self.properties(on) if self.properties else {}).get(wanted.strip(), {}).get(own.strip())
        if isinstance(found, float):
            return f"{found:.6g}"
        return UNKNOWN if found is None or found == "" else str(found)

    def thickness(self, number: int) -> float:
        """Metres an element is thick: how far it reaches across the direction in which most of its faces lie."""
        if number not in self._thickness:
            building = self.building
            start, end = building.triangle_start[number : number + 2]
            corners = building.vertices[building.triangles[start:end]]
            normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
            size = np.linalg.norm(normals, axis=1)
            units = normals / np.maximum(size, 1e-300)[:, None]
            # Faces that lie as one of the largest do, to either side, count together.
            largest = np.argsort(-size)[:40]
            alike = np.abs(units @ units[largest].T) > 1 - 1e-4
            way = units[largest[int(np.argmax(size @ alike))]]
            reach = corners.reshape(-1, 3) @ way
            self._thickness[number] = float(np.ptp(reach))
        return self._thickness[number]
