"""``anatome section``: cut a model by a plane, a box or a series of planes, and write what is cut."""

from __future__ import annotations

import argparse
import json
import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from anatome.cli.values import parse_box, parse_plane, parse_reach, parse_series
from anatome.cuts.cut import AnyCut, SectionBox, SectionPlane
from anatome.cuts.dissection import Cutter, Dissection
from anatome.cuts.facts import section_facts, series_facts
from anatome.cuts.flat_view import main_face
from anatome.cuts.poche_rules import PocheRules
from anatome.cuts.report import csv_text, rows_of, what_is_cut
from anatome.cuts.section import Section
from anatome.cuts.series import SerialSections, cut_series, offsets_at
from anatome.files import write_whole
from anatome.linework.drawing import Drawing
from anatome.model.building import Building
from anatome.problems import Problem


def add_options(parser: argparse.ArgumentParser) -> None:
    """What ``anatome section`` understands besides the model."""
    parser.add_argument(
        "--plane", metavar="PX,PY,PZ,NX,NY,NZ", help="a point in metres and a normal; the side the normal points to is removed"
    )
    parser.add_argument(
        "--box", metavar="CX,CY,CZ,SX,SY,SZ,ANGLE", help="a box by centre, sizes (metres) and angle about the vertical (degrees)"
    )
    parser.add_argument("--carve", action="store_true", help="take the inside of the box away instead of keeping it")
    reach = parser.add_mutually_exclusive_group()
    reach.add_argument("--only", metavar="TYPE,…", help="cut only elements of these types, for example IfcWall,IfcSlab")
    reach.add_argument("--all-but", metavar="TYPE,…", help="cut all elements but those of these types")
    parser.add_argument(
        "--series", metavar="N,SPACING", help="N parallel sections from the plane on, in the direction it looks, metres apart"
    )
    parser.add_argument("--poche", action="store_true", help="draw overlaps once, as pictures do")
    parser.add_argument("--merge", action="store_true", help="draw neighbours of one material as one area")
    parser.add_argument("--json", metavar="OUT", help="write the polygons as JSON to a file, or - for the screen")
    parser.add_argument("--csv", metavar="OUT", help="write what is cut as CSV to a file, or - for the screen")
    parser.add_argument("--svg", type=Path, metavar="OUT", help="write the cut as a vector drawing")
    parser.add_argument("--dxf", type=Path, metavar="OUT", help="write the cut as a DXF drawing in millimetres on paper")
    parser.add_argument("--scale", type=float, default=50.0, help="scale of the drawing: 50 for 1:50")


def run(options: argparse.Namespace, open_model: Callable[[], Building]) -> int:
    """Cut and write. Raises Problem."""
    if not (options.json or options.csv or options.svg or options.dxf):
        raise Problem("Say where the cut goes: --json OUT or --csv OUT (- for the screen), --svg OUT, --dxf OUT.")
    if not options.plane and not options.box:
        raise Problem("Say where to cut: --plane PX,PY,PZ,NX,NY,NZ or --box CX,CY,CZ,SX,SY,SZ,ANGLE.")
    if options.carve and not options.box:
        raise Problem("Only a box can carve. Give --box CX,CY,CZ,SX,SY,SZ,ANGLE with --carve.")
    if options.series and (options.box or not options.plane):
        raise Problem("A series starts from a plane. Give --plane with --series, and no box.")
    # Everything typed is read before the model is, which may take a while.
    plane = parse_plane(options.plane) if options.plane else None
    box = parse_box(options.box) if options.box else None
    offsets = offsets_at(*parse_series(options.series)) if options.series else ()
    building = open_model()
    reach = parse_reach(building, options.only, options.all_but)
    if offsets and plane is not None:
        series = SerialSections(id="s", name="Series", mark="S", plane=plane, offsets=offsets, reach=reach)
        return _series(options, building, series)
    cuts: list[AnyCut] = []
    if plane is not None:
        cuts.append(SectionPlane(id="plane", name="Section A", mark="A", plane=plane, reach=reach))
    if box is not None:
        cuts.append(SectionBox(id="box", name="Box B", mark="B", box=box, carve=options.carve, reach=reach))
    return _cut(options, building, cuts)


def _cut(options: argparse.Namespace, building: Building, cuts: list[AnyCut]) -> int:
    seconds, cut_open = _timed(building, cuts, PocheRules(merge=options.merge))
    if options.svg or options.dxf:
        face = main_face(cuts[0], cut_open.faces_of(cuts[0].id))
        if face is None:
            raise Problem("This cut cuts nothing, so there is nothing to draw. Move it into the building.")
        found = face.poche if options.poche or options.merge else face.section
        title = f"{building.name}, section"
        _draw(options, building, lambda look, tools: tools.cut_drawing(building, found, options.scale, look, title))
    if options.json:
        faces = [section_facts(building, f.section, f.poche) | {"cut": f.cut.id, "face": f.name} for f in cut_open.faces]
        facts: dict[str, Any]
        if len(cuts) == 1 and isinstance(cuts[0], SectionPlane):
            empty = Section(cuts[0].plane, np.empty(0, object), np.empty(0, np.int64), ())
            facts = faces[0] if faces else section_facts(building, empty, empty)
        else:
            facts = {"total_area": sum(f["total_area"] for f in faces), "filled_area": sum(f["filled_area"] for f in faces)}
        facts["faces"] = [{key: f[key] for key in ("cut", "face", "plane", "total_area", "filled_area")} for f in faces]
        if len(cuts) > 1 or not isinstance(cuts[0], SectionPlane):
            facts["faces"] = faces
        _write(options.json, json.dumps(facts | {"seconds": seconds}, ensure_ascii=False))
    if options.csv:
        _write(options.csv, csv_text(what_is_cut(building, cut_open.faces)))
    return 0


def _timed(building: Building, cuts: list[AnyCut], rules: PocheRules) -> tuple[float, Dissection]:
    """Median seconds of five cuts with caps, and the last of them. The index of the model is built before."""
    shown = np.ones(len(building.elements), bool)
    cut_open = Cutter(building).dissect(cuts, shown, rules=rules)
    seconds = []
    for _ in range(5):
        began = time.perf_counter()
        cut_open = Cutter(building).dissect(cuts, shown, rules=rules)
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
        _write(options.json, json.dumps(series_facts(building, series, result), ensure_ascii=False))
    if options.csv:
        rows = [row for label, found in zip(labels, result.filled) for row in rows_of(building, found, label)]
        _write(options.csv, csv_text(rows))
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


def _write(where: str, text: str) -> None:
    if where == "-":
        sys.stdout.write(text if text.endswith("\n") else text + "\n")
    else:
        write_whole(Path(where), text.encode())
