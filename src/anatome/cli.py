"""The command line: the same core without a window. Bad input ends with status 2 and one line."""

from __future__ import annotations

import argparse
import json
import re
import statistics
import sys
import time
from pathlib import Path
from typing import Any, NoReturn

import numpy as np
import shapely

from anatome import __version__
from anatome.cuts.plane import Plane
from anatome.cuts.section import Section, section
from anatome.files import write_whole
from anatome.formats.opening import open_model
from anatome.model.building import Building
from anatome.model.options import UNITS, OpenOptions
from anatome.problems import Problem

COMMANDS = ("info", "section", "export", "demo")


class _Parser(argparse.ArgumentParser):
    """Says what is wrong in one line instead of printing the usage."""

    def error(self, message: str) -> NoReturn:
        raise Problem(f"{message[0].upper()}{message[1:]}. See anatome {self.prog.split(' ', 1)[-1]} --help.".replace("..", "."))


def main(arguments: list[str] | None = None) -> int:
    """Run a command; returns the exit status."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    try:
        if words and words[0] in COMMANDS:
            return _run(words)
        if words and words[0] in ("-h", "--help", "--version"):
            _parser().parse_args(words)
        return _window(_window_parser().parse_args(words))
    except Problem as problem:
        print(f"anatome: {problem}", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130
    except BrokenPipeError:
        return 0


def _run(words: list[str]) -> int:
    options = _parser().parse_args(words)
    done: int = options.run(options)
    return done


def _window_parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="anatome", description="Open the window, with a model or a project if one is given.")
    parser.add_argument("file", nargs="?", type=Path)
    _screenshot_options(parser)
    return parser


def _screenshot_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--screenshot", type=Path, metavar="FILE", help="picture the window into a PNG file and close it")
    parser.add_argument("--size", default="1280x800", help="size of the window, for example 1280x800")
    parser.add_argument("--scene", help="the scene to recall first")
    parser.add_argument("--dark", action="store_true", help="the dark theme")


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="anatome", description="Cuts open a building model. Without a command: anatome [FILE] opens the window."
    )
    parser.add_argument("--version", action="version", version=f"Anatome {__version__}")
    commands = parser.add_subparsers(required=True)

    info = commands.add_parser("info", help="what a model holds")
    _model_options(info)
    info.add_argument("--json", action="store_true", help="as JSON")
    info.set_defaults(run=_info)

    cut = commands.add_parser("section", help="cut a model by a plane")
    _model_options(cut)
    cut.add_argument(
        "--plane",
        required=True,
        metavar="PX,PY,PZ,NX,NY,NZ",
        help="a point in metres and a normal; the side the normal points to is removed",
    )
    cut.add_argument("--json", metavar="OUT", help="write the polygons as JSON to a file, or - for the screen")
    cut.add_argument("--svg", type=Path, metavar="OUT", help="write the cut as a vector drawing")
    cut.add_argument("--scale", type=float, default=50.0, help="scale of the drawing: 50 for 1:50")
    cut.set_defaults(run=_section)

    export = commands.add_parser("export", help="make pictures of a project's scenes")
    export.add_argument("project", type=Path)
    export.add_argument("--scene", help="name of the scene")
    export.add_argument("--all", action="store_true", help="all scenes, into a folder")
    export.add_argument("--size", help="pixels, for example 4000x2500, or 4000 for the scene's own proportions")
    export.add_argument("--out", type=Path, required=True, metavar="FILE|FOLDER")
    export.add_argument("--ground", choices=("transparent", "white"), default="transparent")
    export.set_defaults(run=_export)

    demo = commands.add_parser("demo", help="open the boathouse")
    _screenshot_options(demo)
    demo.set_defaults(run=_window, file=None, demo=True)
    return parser


def _model_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path)
    parser.add_argument("--up", choices=("y", "z"), help="which axis of the file points up (mesh files)")
    parser.add_argument("--unit", choices=tuple(UNITS), help="the unit of the file (mesh files)")


def _open(options: argparse.Namespace) -> Building:
    return open_model(options.file, OpenOptions(up=options.up, unit=options.unit))


# Commands ------------------------------------------------------------------------------------------------------


def _window(options: argparse.Namespace) -> int:
    from anatome.app.main import Start, run

    start = Start(
        file=options.file,
        demo=getattr(options, "demo", False),
        screenshot=options.screenshot,
        size=_size(options.size, (1280, 800)),
        scene=options.scene,
        dark=options.dark,
    )
    return run(start)


def _info(options: argparse.Namespace) -> int:
    building = _open(options)
    low, high = building.bounds.tolist()
    facts: dict[str, Any] = {
        "name": building.name,
        "elements": len(building.elements),
        "triangles": len(building.triangles),
        "bounds": {"min": low, "max": high},
        "unit": {"name": building.unit.name, "metres": building.unit.metres},
        "storeys": [{"id": s.id, "name": s.name, "elevation": s.elevation} for s in building.storeys],
        "spaces": [{"id": s.id, "name": s.name} for s in building.spaces],
        "types": building.type_counts,
        "failed": [{"id": f.id, "name": f.name, "type": f.type, "reason": f.reason} for f in building.failed],
        "remarks": list(building.remarks),
    }
    if options.json:
        print(json.dumps(facts, indent=1, ensure_ascii=False))
        return 0
    size = building.bounds[1] - building.bounds[0]
    print(f"{building.name}: {facts['elements']} elements, {facts['triangles']} triangles")
    print(f"{size[0]:.3f} × {size[1]:.3f} × {size[2]:.3f} m, drawn in {building.unit.name}s")
    for storey in reversed(building.storeys):
        print(f"  {storey.elevation:+9.3f} m  {storey.name}")
    for kind, count in building.type_counts.items():
        print(f"  {count:6d}  {kind}")
    for failed in building.failed:
        print(f"  not drawn: {failed.type} {failed.name} ({failed.reason})")
    return 0


def parse_plane(text: str) -> Plane:
    """Six numbers: a point and a normal. Raises Problem."""
    try:
        values = [float(part) for part in text.split(",")]
    except ValueError:
        values = []
    if len(values) != 6:
        raise Problem(f"“{text}” is not a plane. Give six numbers, for example --plane 0,5.75,0,0,-1,0.")
    return Plane((values[0], values[1], values[2]), (values[3], values[4], values[5]))


def _section(options: argparse.Namespace) -> int:
    plane = parse_plane(options.plane)
    if not options.json and not options.svg:
        raise Problem("Say where the cut goes: --json OUT (or - for the screen), --svg OUT, or both.")
    building = _open(options)
    found = section(building, plane)  # builds the index of the model, which the timing leaves out
    seconds = []
    for _ in range(5):
        began = time.perf_counter()
        found = section(building, plane)
        _ = found.caps
        seconds.append(time.perf_counter() - began)
    if options.svg:
        from anatome.formats.svg import svg_bytes
        from anatome.linework.cut_drawing import cut_drawing
        from anatome.look.look import Look

        drawing = cut_drawing(building, found, options.scale, Look(), f"{building.name}, section")
        write_whole(options.svg, svg_bytes(drawing))
    if options.json:
        text = json.dumps(section_facts(building, found) | {"seconds": statistics.median(seconds)}, ensure_ascii=False)
        if options.json == "-":
            print(text)
        else:
            write_whole(Path(options.json), text.encode())
    return 0


def section_facts(building: Building, found: Section) -> dict[str, Any]:
    """A section as plain values: for each cut element its polygons as 3D points, and its area in m²."""
    elements = []
    for e in np.unique(found.element):
        element = building.elements[e]
        own = found.polygons[found.element == e]
        elements.append(
            {
                "id": element.id,
                "name": element.name,
                "type": element.type,
                "material": element.material,
                "area": float(shapely.area(own).sum()),
                "polygons": [
                    [found.plane.raised(np.asarray(ring.coords)[:-1]).tolist() for ring in (p.exterior, *p.interiors)]
                    for p in own
                ],
            }
        )
    open_outlines = [{"id": building.elements[o.element].id, "points": o.points.tolist()} for o in found.open_outlines]
    return {
        "plane": {"point": list(found.plane.origin), "normal": list(found.plane.normal)},
        "elements": elements,
        "total_area": float(found.areas.sum()),
        "open_outlines": open_outlines,
    }


def _size(text: str | None, usual: tuple[int, int]) -> tuple[int, int]:
    if text is None:
        return usual
    found = re.fullmatch(r"(\d{1,6})(?:\s*[x×]\s*(\d{1,6}))?", text)
    width = int(found.group(1)) if found else 0
    height = int(found.group(2) or round(width * usual[1] / usual[0])) if found else 0
    if width < 1 or height < 1:
        raise Problem(f"“{text}” is not a size. Give pixels, for example 4000x2500.")
    return width, height


def _export(options: argparse.Namespace) -> int:
    from anatome.cuts.dissection import Cutter
    from anatome.formats.png import png_bytes
    from anatome.formats.project_files import open_project
    from anatome.render.pictures import PictureMaker, view_of

    if bool(options.scene) == bool(options.all):
        raise Problem("Say which scene: --scene NAME, or --all for every one.")
    opened = open_project(options.project)
    scenes = [s for s in opened.stored.project.scenes if options.all or s.name == options.scene]
    if not scenes:
        names = ", ".join(f"“{s.name}”" for s in opened.stored.project.scenes)
        raise Problem(f"There is no scene “{options.scene}”. There is {names}." if names else "The project has no scenes yet.")
    sizes = [_size(options.size, (4000, round(4000 / s.aspect))) for s in scenes]
    if options.all:
        try:
            options.out.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise Problem(f"“{options.out}” cannot be a folder for the pictures: {error.strerror}.") from error
    maker, cutter = PictureMaker.standalone(opened.building), Cutter(opened.building)
    for number, (scene, size) in enumerate(zip(scenes, sizes), 1):
        view = view_of(opened.building, cutter, scene.state, scene.camera_for(size[0] / size[1]))
        target = options.out / f"{number:02d} {safe_name(scene.name)}.png" if options.all else options.out
        write_whole(target, png_bytes(maker.picture(view, size, options.ground)))
        print(f"{scene.name}: {size[0]} × {size[1]} in {target}")
    return 0


def safe_name(name: str) -> str:
    """A scene's name as a file name."""
    return re.sub(r'[\x00-\x1f/\\:*?"<>|]+', "_", name).strip(" .") or "scene"
