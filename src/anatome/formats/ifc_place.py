"""Where an IFC model stands on earth, and where its north is (ISO 16739: IfcSite, IfcGeometricRepresentationContext)."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

import numpy as np
from pydantic import ValidationError

from anatome.model.place import Place

SHARES = (1.0, 60.0, 3600.0, 3.6e9)
"""Degrees, minutes, seconds, millionths of a second: IfcCompoundPlaneAngleMeasure."""


def read_place(model: Any) -> Place | None:
    """Return the place of the first site that says it, or None. What is no place on earth is passed over."""
    for site in model.by_type("IfcSite"):
        with suppress(ValidationError, TypeError, ValueError):
            latitude, longitude = _degrees(site.RefLatitude), _degrees(site.RefLongitude)
            if latitude is not None and longitude is not None:
                return Place(latitude=latitude, longitude=longitude, north=_north(model))
    return None


def _degrees(parts: Any) -> float | None:
    return None if not parts else float(sum(p / share for p, share in zip(parts, SHARES)))


def _north(model: Any) -> float:
    """Degrees from Y to true north, clockwise."""
    for context in model.by_type("IfcGeometricRepresentationContext", include_subtypes=False):
        if context.ContextType == "Model" and context.TrueNorth is not None:
            x, y = context.TrueNorth.DirectionRatios[:2]
            return float(np.degrees(np.arctan2(x, y)))
    return _map_north(model)


def _map_north(model: Any) -> float:
    """The north of the map the model is placed on, where it does not say true north: its X axis lies along (abscissa, ordinate)
    of east and north (ISO 16739, IfcMapConversion). The two differ by the convergence of the map's meridians, some degrees at the
    most."""
    try:
        conversions = model.by_type("IfcMapConversion")
    except RuntimeError:
        return 0.0  # a schema that has none
    for conversion in conversions:
        east, north = conversion.XAxisAbscissa, conversion.XAxisOrdinate
        if east is not None and north is not None and (east, north) != (0.0, 0.0):
            return float(np.degrees(np.arctan2(north, east)))
    return 0.0
