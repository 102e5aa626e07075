"""``anatome scenes``: what the scenes of a project show."""

from __future__ import annotations

import argparse
import json

from anatome.cli.text_out import write_text
from anatome.scenes.scene_list import scene_list
from anatome.scenes.storage import load_project


def run(options: argparse.Namespace) -> int:
    """Print them, or write them as JSON. Raises Problem."""
    found = scene_list(load_project(options.project).project)
    if options.json is not None:
        write_text(options.json, json.dumps(found, ensure_ascii=False, indent=1))
        return 0
    for scene in found["scenes"]:
        cuts = ", ".join(cut["name"] for cut in scene["cuts"]) or "whole building"
        also = [scene["scale"] or "", *(f"sheet {number}" for number in scene["sheets"])]
        more = "".join(f", {words}" for words in also if words)
        print(f"{scene['name']}: {cuts}, {scene['drawn']}{more}")
    return 0
