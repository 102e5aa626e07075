"""What is cut, as a list: element by element, with totals, and as CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from anatome.cuts.dissection import CutFace
from anatome.cuts.section import Section
from anatome.model.building import Building
from anatome.words import printable

FORMULA_SIGNS = ("=", "+", "-", "@")
COLUMNS = ("Cut", "Id", "Name", "Type", "Material", "Layer", "Storey", "Area m²")


@dataclass(frozen=True)
class CutRow:
    """One element in one cut; ``area`` in m² is what is filled of it, overlaps given to one element only."""

    cut: str
    index: int
    id: str
    name: str
    type: str
    material: str
    layer: str
    storey: str
    area: float


def rows_of(building: Building, filled: Section, cut: str = "") -> list[CutRow]:
    """Return the elements of a poché, the largest area first."""
    areas = np.bincount(filled.element, weights=filled.areas, minlength=len(building.elements))
    present = sorted({*filled.element.tolist(), *(o.element for o in filled.open_outlines)}, key=lambda e: (-areas[e], e))
    rows = []
    for e in present:
        element = building.elements[e]
        storey = "" if element.storey is None else building.storeys[element.storey].name
        rows.append(
            CutRow(cut, e, element.id, element.name, element.type, element.material, element.layer, storey, float(areas[e]))
        )
    return rows


def what_is_cut(building: Building, faces: Sequence[CutFace]) -> list[CutRow]:
    """Return all elements of some cut faces; those of several faces of one cut are added up."""
    by_key: dict[tuple[str, int], CutRow] = {}
    for face in faces:
        for row in rows_of(building, face.poche, face.cut.mark):
            before = by_key.get((face.cut.id, row.index))
            area = row.area + (before.area if before else 0.0)
            by_key[face.cut.id, row.index] = CutRow(**{**row.__dict__, "area": area})
    return sorted(by_key.values(), key=lambda row: (row.cut, -row.area, row.index))


def totals(rows: Iterable[CutRow], by: str = "material") -> list[tuple[str, int, float]]:
    """Return (name, how many elements, m²) for each material, or other field of a row, the largest first."""
    found: dict[str, tuple[int, float]] = {}
    for row in rows:
        name = str(getattr(row, by)) or "no " + by
        count, area = found.get(name, (0, 0.0))
        found[name] = count + 1, area + row.area
    return sorted(((name, *rest) for name, rest in found.items()), key=lambda item: -item[2])


def csv_text(rows: Iterable[CutRow], delimiter: str = ",") -> str:
    """Comma-separated values with a heading (RFC 4180); areas with a decimal point and six places.

    Names come from other people's models. What a spreadsheet would take for a formula gets an apostrophe before it, which
    spreadsheets take as the sign of plain text (OWASP, CSV injection; value from memory).
    """
    out = io.StringIO()
    writer = csv.writer(out, delimiter=delimiter)
    writer.writerow(COLUMNS)
    for row in rows:
        words = (row.cut, row.id, row.name, row.type, row.material, row.layer, row.storey)
        writer.writerow([*map(_as_text, words), f"{row.area:.6f}"])
    return out.getvalue()


def _as_text(cell: str) -> str:
    plain = printable(cell)
    return f"'{plain}" if plain.lstrip().startswith(FORMULA_SIGNS) or plain[:1] in ("\t", "\r") else plain
