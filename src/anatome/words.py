"""How things of the model are called. Beside the rooms, since the window and the notes both say them."""

from __future__ import annotations

import re
from functools import lru_cache


@lru_cache(maxsize=1000)
def plain_type(name: str) -> str:
    """“IfcStairFlight” as “Stair flight”."""
    if name == "IfcGeographicElement":
        return "Ground and planting"
    words = re.findall(r"[A-Z][a-z0-9]*", name.removeprefix("Ifc"))
    return " ".join([words[0], *(w.lower() for w in words[1:])]) if words else name
