"""``anatome check``: what of a model is no sound solid, in which unit it is drawn, and which storeys it has."""

from __future__ import annotations

import argparse
import json
from typing import Any

import numpy as np

from anatome.cli.text_out import write_text
from anatome.formats.opening import open_model
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.model.soundness import soundness_of
from anatome.scenes.guesses import guesses_for

LISTED = 20
"""How many parts are named on the screen."""


def run(options: argparse.Namespace) -> int:
    """Print it. Raises Problem."""
    building = open_model(options.file, OpenOptions(up=options.up, unit=options.unit))
    facts = _facts(building)
    if options.json:
        write_text(options.json, json.dumps(facts, indent=1, ensure_ascii=False))
    if options.json != "-":
        _tell(building, facts)
    return 0


def _facts(building: Building) -> dict[str, Any]:
    found = soundness_of(building)

    def named(mask: Any) -> list[dict[str, str]]:
        numbers = np.flatnonzero(mask).tolist()
        return [{"id": building.elements[i].id, "name": building.elements[i].name, "why": found.words(i)} for i in numbers]

    storeys = [{"name": s.name, "elevation": s.elevation} for s in building.storeys]
    offered = [{"name": g.name, "elevation": g.elevation} for g in guesses_for(building) if g.elevation is not None]
    return {
        "elements": len(building.elements),
        "unit": {"name": building.unit.name, "metres": building.unit.metres},
        "size": (building.bounds[1] - building.bounds[0]).tolist(),
        "open": named(found.open),
        "inside_out": named(found.inside_out),
        "doubled": [[building.elements[i].id for i in pair] for pair in found.doubled.tolist()],
        "storeys": storeys,
        "storeys_guessed": offered,
        "failed": [{"id": f.id, "name": f.name, "why": f.reason} for f in building.failed],
        "remarks": list(building.remarks),
    }


def _tell(building: Building, facts: dict[str, Any]) -> None:
    across, deep, high = facts["size"]
    print(f"{building.name}: {facts['elements']} parts, {across:.2f} × {deep:.2f} × {high:.2f} m, drawn in {building.unit.name}s")
    for what, words in (("open", "are open; cuts through them may not be filled"), ("inside_out", "are turned inside out")):
        if facts[what]:
            print(f"{len(facts[what])} {words}:")
            for part in facts[what][:LISTED]:
                print(f"  {part['name'] or part['id']}: {part['why']}")
            if len(facts[what]) > LISTED:
                print(f"  and {len(facts[what]) - LISTED} more; --json - names them all")
    if facts["doubled"]:
        count = len(facts["doubled"])
        print(f"{count} pair{' of parts has' if count == 1 else 's of parts have'} one shape in one place")
    if not (facts["open"] or facts["inside_out"] or facts["doubled"]):
        print("Every part is a sound solid.")
    levels = facts["storeys"] or facts["storeys_guessed"]
    told = ", ".join(f"{s['name']} {s['elevation']:+.2f}" for s in levels)
    if levels:
        print(f"Storeys{'' if facts['storeys'] else ', guessed'}: {told}")
    for remark in facts["remarks"]:
        print(remark)
