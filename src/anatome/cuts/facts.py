"""Sections as plain values, for files and programs."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from anatome.cuts.section import Section
from anatome.cuts.series import SerialSections, SeriesResult
from anatome.model.building import Building


def section_facts(building: Building, found: Section, filled: Section) -> dict[str, Any]:
    """For each cut element its polygons as 3D points in metres, its area in m², and what is ``filled`` of it.

    ``total_area`` adds up the elements' own areas, ``filled_area`` counts overlaps once.
    """
    filled_areas = np.bincount(filled.element, weights=filled.areas, minlength=len(building.elements))
    elements = []
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
        "plane": {"point": list(found.plane.origin), "normal": list(found.plane.normal)},
        "elements": elements,
        "total_area": float(found.areas.sum()),
        "filled_area": float(filled.areas.sum()),
        "open_outlines": [{"id": building.elements[o.element].id, "points": o.points.tolist()} for o in found.open_outlines],
        "gaps": [
            {"id": building.elements[g.element].id, "point": list(g.point), "width": g.width, "closed": g.closed}
            for g in found.gaps
        ],
    }


def series_facts(building: Building, series: SerialSections, result: SeriesResult) -> dict[str, Any]:
    """Every section of a series with its label, and the volume between the first and the last in m³."""
    sections = [
        {"label": series.label(i), "offset": series.offsets[i], "area": float(result.areas[i])}
        | section_facts(building, result.sections[i], result.filled[i])
        for i in range(len(series.offsets))
    ]
    return {"sections": sections, "areas": result.areas.tolist(), "volume": result.volume}
