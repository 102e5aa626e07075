"""Where on earth a building stands."""

from __future__ import annotations

from pydantic import Field

from anatome.values import Value


class Place(Value):
    """Degrees, north and east above 0; ``north`` is how far true north lies clockwise of the model's Y, seen from above;
    ``zone`` the hours its clocks are ahead of UTC, nothing for what its longitude says."""

    latitude: float = Field(ge=-90, le=90)
    longitude: float = Field(ge=-180, le=180)
    north: float = Field(default=0.0, ge=-360, le=360)
    zone: float | None = Field(default=None, ge=-14, le=14)

    @property
    def hours_ahead(self) -> float:
        """Of UTC."""
        return float(round(self.longitude / 15.0)) if self.zone is None else self.zone
