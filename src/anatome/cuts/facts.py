"""Sections as plain values, for files and programs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NotRequired

import numpy as np
import shapely
from pydantic import TypeAdapter
from typing_extensions import TypedDict

from anatome.cuts.dissection import CutFace
from anatome.cuts.section import Section
from anatome.cuts.series import SerialSections, SeriesResult
from anatome.model.building import Building

Ring = list[tuple[float, float, float]]


class PlaneFacts(TypedDict):
    """A point of the plane, metres, and its normal, which points to what is cut away."""

    point: tuple[float, float, float]
    normal: tuple[float, float, float]


class ElementFacts(TypedDict):
    """An element that is cut: polygons as rings of points in metres, the outer one first; m² of its own, and what is filled."""

    id: str
    name: str
    type: str
    material: str
    area: float
    filled_area: float
    polygons: list[list[Ring]]


class LineFacts(TypedDict):
    """An outline that does not close."""

    id: str
    points: Ring


class GapFacts(TypedDict):
    """A place where an outline does not close, how wide it is, metres, and whether it was closed."""

    id: str
    point: tuple[float, float, float]
    width: float
    closed: bool


class FaceFacts(TypedDict):
    """One flat face of a cut. ``total_area`` adds up the elements' own areas, ``filled_area`` counts overlaps once."""

    cut: str
    face: str
    plane: PlaneFacts
    total_area: float
    filled_area: float
    elements: list[ElementFacts]
    open_outlines: list[LineFacts]
    gaps: list[GapFacts]


class CutFacts(TypedDict):
    """What ``anatome section --json`` writes, whatever the cut: every face, and the sums over all of them.

    Of serial sections every section is a face, called by its label; ``areas`` are theirs in order, ``offsets`` metres from
    the first plane, ``volume`` m³ between the first and the last. ``seconds`` is how long one cut took.
    """

    faces: list[FaceFacts]
    total_area: float
    filled_area: float
    seconds: NotRequired[float]
    offsets: NotRequired[list[float]]
    areas: NotRequired[list[float]]
    volume: NotRequired[float]


def facts_schema() -> dict[str, Any]:
    """JSON schema of :class:`CutFacts`, published as docs/section.schema.json."""
    return TypeAdapter(CutFacts).json_schema()


def face_facts(building: Building, cut: str, face: str, found: Section, filled: Section) -> FaceFacts:
    """Return one face: a section as the elements have it, and as it is filled."""
    filled_areas = np.bincount(filled.element, weights=filled.areas, minlength=len(building.elements))
    elements: list[ElementFacts] = []
    for e in np.unique(found.element):
        element = building.elements[e]
        own = found.polygons[found.element == e]
        elements.append(
            {
                "id": element.id,
                "name": element.name,
                "type": element.type,
                "material": element.material,
                "area": float(shapely.area(own).sum()),
                "filled_area": float(filled_areas[e]),
                "polygons": [
                    [found.plane.raised(np.asarray(ring.coords)[:-1]).tolist() for ring in (p.exterior, *p.interiors)]
                    for p in own
                ],
            }
        )
    return {
        "cut": cut,
        "face": face,
        "plane": {"point": found.plane.origin, "normal": found.plane.normal},
        "total_area": float(found.areas.sum()),
        "filled_area": float(filled.areas.sum()),
        "elements": elements,
        "open_outlines": [{"id": building.elements[o.element].id, "points": o.points.tolist()} for o in found.open_outlines],
        "gaps": [
            {"id": building.elements[g.element].id, "point": g.point, "width": g.width, "closed": g.closed} for g in found.gaps
        ],
    }


def cut_facts(building: Building, faces: Sequence[CutFace]) -> CutFacts:
    """Return what the faces of cuts cut."""
    return _summed([face_facts(building, f.cut.id, f.name, f.section, f.poche) for f in faces])


def series_facts(building: Building, series: SerialSections, result: SeriesResult) -> CutFacts:
    """Return every section of a series, and the volume between the first and the last."""
    numbers = range(len(series.offsets))
    facts = _summed([face_facts(building, series.id, series.label(i), result.sections[i], result.filled[i]) for i in numbers])
    return {**facts, "offsets": list(series.offsets), "areas": result.areas.tolist(), "volume": result.volume}


def _summed(faces: list[FaceFacts]) -> CutFacts:
    return {
        "faces": faces,
        "total_area": sum(f["total_area"] for f in faces),
        "filled_area": sum(f["filled_area"] for f in faces),
    }
