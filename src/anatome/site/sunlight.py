"""Where the sun stands at a place, on a day, at an hour; and the look of a scene in that light."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta, timezone
from functools import lru_cache

from astral import Observer
from astral.sun import azimuth, elevation

from anatome.look.look import Look
from anatome.model.building import Building
from anatome.model.place import Place
from anatome.site.site import Site

LOWEST = 1.0
"""Degrees over the horizon under which no shadows are cast: they would be without end."""


def place_of(site: Site, building: Building) -> Place | None:
    """Return where the building stands: as said for the project, or else by its file."""
    return site.place or building.place


def north_of(site: Site, building: Building) -> float:
    """Degrees clockwise from the model's Y to true north; 0 where nobody says where it stands."""
    place = place_of(site, building)
    return 0.0 if place is None else place.north


@lru_cache(maxsize=1000)
def sun_at(place: Place, moment: str) -> tuple[float, float]:
    """Return (degrees clockwise from the model's Y, degrees over the horizon) at a local time such as 2026-06-21T15:30.

    By astral, which follows the algorithm of the US National Oceanic and Atmospheric Administration.
    """
    local = datetime.fromisoformat(moment).replace(tzinfo=timezone(timedelta(hours=place.hours_ahead)))
    observer, when = Observer(place.latitude, place.longitude), local.astimezone(UTC)
    return (azimuth(observer, when) + place.north) % 360.0, elevation(observer, when)


def lit(look: Look, place: Place | None) -> Look:
    """Return the look with its sun where it stands at its moment; as it is where it has none, or nobody knows the place."""
    if look.sun_moment is None or place is None:
        return look
    turn, height = sun_at(place, look.sun_moment)
    risen = height >= LOWEST
    return look.model_copy(
        update={
            "sun_with_view": False,
            "sun_turn": turn,
            "sun_height": min(max(height, 3.0), 90.0),
            "shadows": look.shadows if risen else 0.0,
        }
    )
