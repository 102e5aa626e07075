"""The commands and their options. Bad input ends with status 2 and one line."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import Any, NoReturn

from anatome import __version__
from anatome.cli import export, section
from anatome.cli.values import parse_size
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

    cut = commands.add_parser("section", help="cut a model by a plane, a box or a series of planes")
    _model_options(cut)
    section.add_options(cut)
    cut.set_defaults(run=_section)

    sending = commands.add_parser("export", help="make pictures of a project's scenes, or send out the model as cut")
    export.add_options(sending)
    sending.set_defaults(run=export.run)

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
        size=parse_size(options.size, (1280, 800)),
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


def _section(options: argparse.Namespace) -> int:
    return section.run(options, lambda: _open(options))
