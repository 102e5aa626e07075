"""``anatome suggest``: cuts and views that show something, ranked, as text, as JSON and as pictures."""

from __future__ import annotations

import argparse
import json

import numpy as np

from anatome.cli.sizes import parse_size
from anatome.cli.text_out import write_text
from anatome.cli.told import open_project
from anatome.cuts.dissection import Cutter, shown_elements
from anatome.files import make_folder, safe_name, write_whole
from anatome.formats.opening import open_model
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from anatome.scenes.project import StageState
from anatome.scenes.storage import SUFFIX
from anatome.site.site import NO_SITE, Site
from anatome.suggestions.ranking import SIZE, Suggestion, rank, try_all
from anatome.suggestions.subject import find_subject
from anatome.view.camera import standard_view

USUAL = (900, 600)


def run(options: argparse.Namespace) -> int:
    """Suggest and write. Raises Problem."""
    from anatome.render.pictures import PictureMaker
    from anatome.render.seen_steps import seen
    from anatome.scenes.scene_view import View, view_of

    size = parse_size(options.size, USUAL)
    building, state, site = _opened(options, size[0] / size[1])
    subject = find_subject(building, shown_elements(building, state.hidden), options.show)
    tried = try_all(building, state, subject, size[0] / size[1])
    maker = PictureMaker.standalone(building)
    looked = [
        (
            seen(maker.renderer, View(one.camera, one.shown, state.look), SIZE),
            None if one.alone is None else seen(maker.renderer, View(one.camera, one.alone, state.look), SIZE),
        )
        for one in tried
    ]
    found = rank(subject, tried, looked)
    if not found:
        raise Problem(f"No cut shows {subject.name}.")
    if options.out is not None:
        from anatome.formats.pictures_out import png_bytes

        make_folder(options.out)
        cutter = Cutter(building)
        for number, suggestion in enumerate(found, 1):
            own = suggestion.on(state)
            path = options.out / f"{number:02} {safe_name(suggestion.title)}.png"
            picture = maker.picture(view_of(cutter, own, site=site), size, "paper")
            write_whole(path, png_bytes(picture))
    if options.json is not None:
        facts = {"of": subject.name, "suggestions": [_facts(s) for s in found]}
        write_text(options.json, json.dumps(facts, ensure_ascii=False, indent=1))
    else:
        for number, suggestion in enumerate(found, 1):
            print(f"{number}. {suggestion.title} ({suggestion.score:.2f}): {suggestion.words}")
    return 0


def _opened(options: argparse.Namespace, aspect: float) -> tuple[Building, StageState, Site]:
    if options.file.suffix.lower() == SUFFIX:
        found = open_project(options.file)
        return found.building, found.stored.project.stage, found.stored.project.site
    building = open_model(options.file, OpenOptions(up=options.up, unit=options.unit))
    bounds = building.subject_bounds(np.ones(len(building.elements), bool))
    return building, StageState(camera=standard_view("Axonometric, front left", bounds, aspect)), NO_SITE


def _facts(suggestion: Suggestion) -> dict[str, object]:
    return {
        "title": suggestion.title,
        "words": suggestion.words,
        "kind": suggestion.kind,
        "score": round(suggestion.score, 4),
        "parts": {name: round(value, 4) for name, value in suggestion.parts.items()},
        "sliced_badly": suggestion.badly,
        "cuts": [cut.model_dump(mode="json") for cut in suggestion.cuts],
        "camera": suggestion.camera.model_dump(mode="json"),
    }
