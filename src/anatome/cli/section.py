"""``anatome section``: cut a model by a plane, a box or a series of planes, and write what is cut."""

from __future__ import annotations

import argparse
import json
import statistics
import time
from collections.abc import Callable
from typing import Any

import numpy as np

from anatome.cli.cut_options import CUT_OPTIONS, SAID, typed_cuts
from anatome.cli.text_out import write_text
from anatome.cli.told import open_project
from anatome.cli.values import check_scale, parse_reach, parse_series, scene_named
from anatome.cuts.cut import AnyCut
from anatome.cuts.dissection import CutBuilding, Cutter
from anatome.cuts.facts import cut_facts, series_facts
from anatome.cuts.flat_view import main_face
from anatome.cuts.poche_rules import PocheRules
from anatome.cuts.report import csv_text, rows_of, what_is_cut
from anatome.cuts.series import SerialSections, cut_series, offsets_at
from anatome.files import write_whole
from anatome.formats.opening import open_model
from anatome.linework.drawing import Drawing
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from anatome.scenes.opened import left_of
from anatome.scenes.project import Scene
from anatome.scenes.storage import SUFFIX


def run(options: argparse.Namespace) -> int:
    """Cut and write. Raises Problem."""
    if not (options.json or options.csv or options.svg or options.dxf):
        raise Problem("Say where the cut goes: --json OUT or --csv OUT (- for the screen), --svg OUT, --dxf OUT.")
    is_project = options.file.suffix.lower() == SUFFIX
    given = {option.name: getattr(options, option.name) for option in CUT_OPTIONS}
    if options.scene is not None and (any(given.values()) or options.series):
        raise Problem(f"A scene brings its own cuts. Give --scene, or {SAID}, not both.")
    if options.scene is not None and not is_project:
        raise Problem(f"Only a project has scenes. Give {SAID} for a model.")
    if options.scene is None and not any(given.values()):
        raise Problem(f"Say where to cut: {SAID}; a project also by --scene.")
    if options.series and (not options.plane or any(given[o.name] for o in CUT_OPTIONS if o.carves)):
        raise Problem("A series starts from a plane. Give --plane with --series, and no other cut.")
    # Everything typed is read before the model is, which may take a while.
    check_scale(options.scale)
    cuts = typed_cuts(given, options.carve)
    offsets = offsets_at(*parse_series(options.series)) if options.series else ()
    if is_project:
        opened = open_project(options.file)
        building = opened.building
        if options.scene is not None:
            return _scene(options, building, scene_named(opened.stored.project, options.scene))
    else:
        building = open_model(options.file, OpenOptions(up=options.up, unit=options.unit))
    reach = parse_reach(building, options.only, options.all_but)
    if offsets:
        series = SerialSections(id="s", name="Series", mark="S", plane=cuts[0].axis, offsets=offsets, reach=reach)
        return _series(options, building, series)
    cuts = [cut.model_copy(update={"reach": reach}) for cut in cuts]
    shown = np.ones(len(building.elements), bool)
    rules = PocheRules(merge=options.merge)
    return _cut(options, building, cuts, lambda: Cutter(building).dissect(cuts, shown, rules=rules), "section")


def _scene(options: argparse.Namespace, building: Building, scene: Scene) -> int:
    """What the cuts of a scene cut, as the scene shows it: with what is hidden, its reach and its treatments."""
    cuts = list(scene.state.active_cuts)
    if not cuts:
        raise Problem(f"The scene “{scene.name}” has no cuts that are on. Give {SAID} instead.")
    return _cut(options, building, cuts, lambda: left_of(Cutter(building), scene.state), scene.name)


def _cut(
    options: argparse.Namespace, building: Building, cuts: list[AnyCut], dissect: Callable[[], CutBuilding], title: str
) -> int:
    seconds, cut_open = _timed(dissect)
    if options.svg or options.dxf:
        found = next((face for cut in cuts if (face := main_face(cut, cut_open.faces_of(cut.id))) is not None), None)
        if found is None:
            raise Problem("This cut cuts nothing, so there is nothing to draw. Move it into the building.")
        drawn = found.poche if options.poche or options.merge or options.scene else found.section
        words = f"{building.name}, {title}"
        _draw(options, building, lambda look, tools: tools.cut_drawing(building, drawn, options.scale, look, words))
    if options.json:
        write_text(options.json, json.dumps(cut_facts(building, cut_open.faces) | {"seconds": seconds}, ensure_ascii=False))
    if options.csv:
        write_text(options.csv, csv_text(what_is_cut(building, cut_open.faces)))
    return 0


def _timed(dissect: Callable[[], CutBuilding]) -> tuple[float, CutBuilding]:
    """Median seconds of five cuts with caps, and the last of them. The index of the model is built before."""
    cut_open = dissect()
    seconds = []
    for _ in range(5):
        began = time.perf_counter()
        cut_open = dissect()
        for face in cut_open.faces:
            _ = face.section.caps
        seconds.append(time.perf_counter() - began)
    return statistics.median(seconds), cut_open


def _series(options: argparse.Namespace, building: Building, series: SerialSections) -> int:
    mask = series.reach.mask(building)
    result = cut_series(building, series.planes(), mask, PocheRules(merge=options.merge))
    labels = [series.label(i) for i in range(len(series.offsets))]
    if options.svg or options.dxf:
        drawn = result.filled if options.poche or options.merge else result.sections
        _draw(
            options,
            building,
            lambda look, tools: tools.series_drawing(building, drawn, labels, options.scale, look, f"{building.name}, series"),
        )
    if options.json:
        write_text(options.json, json.dumps(series_facts(building, series, result), ensure_ascii=False))
    if options.csv:
        rows = [row for label, found in zip(labels, result.filled) for row in rows_of(building, found, label)]
        write_text(options.csv, csv_text(rows))
    return 0


def _draw(options: argparse.Namespace, building: Building, make: Callable[[Any, Any], Drawing]) -> None:
    from anatome.formats.dxf import dxf_bytes
    from anatome.formats.svg import svg_bytes
    from anatome.linework import cut_drawing
    from anatome.look.look import Look

    drawing = make(Look(), cut_drawing)
    if options.svg:
        write_whole(options.svg, svg_bytes(drawing))
    if options.dxf:
        write_whole(options.dxf, dxf_bytes(drawing))
