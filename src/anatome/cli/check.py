"""``anatome check``: what of a model is no sound solid, in which unit it is drawn, and which storeys it has."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence

from anatome.cli.text_out import write_text
from anatome.formats.opening import open_model
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.scenes.check_report import CheckFacts, PartFacts, check_facts

LISTED = 20
"""How many parts are named on the screen."""


def run(options: argparse.Namespace) -> int:
    """Print it. Raises Problem."""
    building = open_model(options.file, OpenOptions(up=options.up, unit=options.unit))
    facts = check_facts(building)
    if options.json:
        write_text(options.json, json.dumps(facts, indent=1, ensure_ascii=False))
    if options.json != "-":
        _tell(building, facts)
    return 0


def _tell(building: Building, facts: CheckFacts) -> None:
    across, deep, high = facts["size"]
    print(f"{building.name}: {facts['elements']} parts, {across:.2f} × {deep:.2f} × {high:.2f} m, drawn in {building.unit.name}s")
    _list(facts["open"], "are open; cuts through them may not be filled")
    _list(facts["inside_out"], "are turned inside out")
    if facts["doubled"]:
        count = len(facts["doubled"])
        print(f"{count} pair{' of parts has' if count == 1 else 's of parts have'} one shape in one place")
    if facts["crossing"]:
        count = len(facts["crossing"])
        print(f"{count} part{' crosses itself' if count == 1 else 's cross themselves'}; where cut they are filled as one")
    if facts["within"]:
        count = len(facts["within"])
        print(f"{count} part{' lies' if count == 1 else 's lie'} inside another one")
    if not (facts["open"] or facts["inside_out"] or facts["doubled"]):
        print("Every part is a sound solid.")
    levels = facts["storeys"] or facts["storeys_guessed"]
    told = ", ".join(f"{s['name']} {s['elevation']:+.2f}" for s in levels)
    if levels:
        print(f"Storeys{'' if facts['storeys'] else ', guessed'}: {told}")
    for remark in facts["remarks"]:
        print(remark)


def _list(parts: Sequence[PartFacts], words: str) -> None:
    if parts:
        print(f"{len(parts)} {words}:")
    for part in parts[:LISTED]:
        print(f"  {part['name'] or part['id']}: {part['why']}")
    if len(parts) > LISTED:
        print(f"  and {len(parts) - LISTED} more; --json - names them all")
