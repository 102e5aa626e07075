"""``anatome info``: what a model holds."""

from __future__ import annotations

import argparse
import json
from collections import Counter
from typing import Any, Literal

from anatome.formats.opening import open_model
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.model.units import plural


def counted(building: Building, way: Literal["material", "layer", "group"]) -> dict[str, int]:
    """Return how many parts have each material, stand on each layer or directly in each group, the most first."""
    named = Counter(getattr(element, way) for element in building.elements)
    return {name: count for name, count in named.most_common() if name}


def run(options: argparse.Namespace) -> int:
    """Print it. Raises Problem."""
    building = open_model(options.file, OpenOptions(up=options.up, unit=options.unit))
    low, high = building.bounds.tolist()
    facts: dict[str, Any] = {
        "name": building.name,
        "elements": len(building.elements),
        "triangles": len(building.triangles),
        "bounds": {"min": low, "max": high},
        "unit": {"name": building.unit.name, "metres": building.unit.metres, "why": building.unit.why},
        "origin": list(building.origin),
        "storeys": [{"id": s.id, "name": s.name, "elevation": s.elevation} for s in building.storeys],
        "spaces": [{"id": s.id, "name": s.name} for s in building.spaces],
        "types": building.type_counts,
        **{f"{way}s": counted(building, way) for way in ("material", "layer", "group")},
        "failed": [{"id": f.id, "name": f.name, "type": f.type, "reason": f.reason} for f in building.failed],
        "remarks": list(building.remarks),
    }
    if options.json:
        print(json.dumps(facts, indent=1, ensure_ascii=False))
        return 0
    size = building.bounds[1] - building.bounds[0]
    print(f"{building.name}: {facts['elements']} elements, {facts['triangles']} triangles")
    why = f" ({building.unit.why})" if building.unit.why else ""
    print(f"{size[0]:.3f} × {size[1]:.3f} × {size[2]:.3f} m, drawn in {plural(building.unit.name)}{why}")
    for storey in reversed(building.storeys):
        print(f"  {storey.elevation:+9.3f} m  {storey.name}")
    for kind, count in building.type_counts.items():
        print(f"  {count:6d}  {kind}")
    for failed in building.failed:
        print(f"  not drawn: {failed.type} {failed.name} ({failed.reason})")
    return 0
