"""The commands and their options. Nothing is imported here that takes time, so that a word about the usage comes at once."""

from __future__ import annotations

import argparse
import re
from pathlib import Path
from typing import NoReturn

from anatome import __version__
from anatome.cli.cut_options import CUT_OPTIONS, LISTED
from anatome.model.units import UNITS
from anatome.problems import Problem


class Parser(argparse.ArgumentParser):
    """Says what is wrong in one line instead of printing the usage."""

    def error(self, message: str) -> NoReturn:
        raise Problem(f"{message[0].upper()}{message[1:].rstrip('.')}. See {self.prog} --help.")


NEGATIVE = re.compile(r"-[\d.]+(?:[eE][-+]?\d+)?,")
"""The first of several numbers, below 0."""


def window_parser() -> argparse.ArgumentParser:
    """``anatome [FILE]``."""
    parser = Parser(prog="anatome", description="Open the window, with a model or a project if one is given.")
    parser.add_argument("file", nargs="?", type=Path)
    _screenshot_options(parser)
    return parser


def command_parser() -> argparse.ArgumentParser:
    """``anatome COMMAND …``."""
    parser = Parser(prog="anatome", description="Cuts open a building model. Without a command: anatome [FILE] opens the window.")
    parser.add_argument("--version", action="version", version=f"Anatome {__version__}")
    commands = parser.add_subparsers(required=True, dest="command")
    info = commands.add_parser("info", help="what a model holds")
    _model_options(info)
    info.add_argument("--json", action="store_true", help="as JSON")
    check = commands.add_parser("check", help="which parts of a model are no sound solids, its unit and storeys")
    _model_options(check)
    check.add_argument("--json", metavar="OUT", help="as JSON into a file, or - for the screen")
    new = commands.add_parser("new", help="a project of a model, with meaning for parts whose file has none")
    _model_options(new)
    new.add_argument(
        "--with",
        dest="others",
        type=Path,
        action="append",
        default=[],
        metavar="MODEL",
        help="another model that stands with the first, where its file has it; several times for more",
    )
    new.add_argument("--rules", type=Path, metavar="FILE", help="what parts are given, as the window saves it")
    new.add_argument("--guess", action="store_true", help="take over what can be guessed of types and storeys")
    new.add_argument("--out", type=Path, required=True, metavar="PROJECT", help="the project file to write")
    relink = commands.add_parser("relink", help="a project with the next state of its model, and what has changed")
    relink.add_argument("project", type=Path)
    _model_options(relink)
    relink.add_argument("--out", type=Path, required=True, metavar="PROJECT2", help="the project file to write")
    relink.add_argument("--stay", action="store_true", help="cuts and cameras stay, though the model as one lies elsewhere now")
    relink.add_argument("--report", metavar="FILE", help="what has changed as JSON, or - for the screen")
    section = commands.add_parser("section", help="cut a model or a project by a plane, a box, a series or a scene's own cuts")
    _model_options(section)
    _section_options(section)
    picture = commands.add_parser("picture", help="make one picture of a model or a project, cut and framed as you say")
    _model_options(picture)
    _picture_options(picture)
    suggest = commands.add_parser("suggest", help="cuts and views that show a room, a part or the whole, ranked")
    _model_options(suggest)
    suggest.add_argument("--show", metavar="NAME|TYPE|SPACE", help="what should be seen; all of the building if not given")
    suggest.add_argument("--json", metavar="OUT", help="write them with score, cuts and camera as JSON, or - for the screen")
    suggest.add_argument("--out", type=Path, metavar="FOLDER", help="write them as pictures into a folder")
    suggest.add_argument("--size", help="pixels of the pictures, for example 900x600")
    export = commands.add_parser("export", help="make pictures of a project's scenes, or send out the model as cut")
    _export_options(export)
    film = commands.add_parser("film", help="a film of a project, or of one move in a scene")
    _film_options(film)
    page = commands.add_parser("page", help="scenes and films as one HTML file in which a client drags the cut")
    _page_options(page)
    scenes = commands.add_parser("scenes", help="what the scenes of a project show")
    scenes.add_argument("project", type=Path)
    scenes.add_argument("--json", metavar="OUT", help="as JSON into a file, or - for the screen")
    bcf = commands.add_parser("bcf", help="scenes as viewpoints (BCF), or viewpoints as scenes")
    bcf.add_argument("project", type=Path)
    bcf.add_argument("--scene", metavar="NAME", action="append", default=[], help="a scene; several times, or all of them")
    bcf.add_argument("--version", choices=("2.1", "3.0"), default="2.1", help="of the format; 2.1 if not given")
    bcf.add_argument("--from", dest="source", type=Path, metavar="FILE", help="read these viewpoints as scenes instead")
    bcf.add_argument("--out", type=Path, required=True, metavar="FILE", help="the .bcf file, or with --from the project to write")
    linework = commands.add_parser("linework", help="draw a picture as lines, hidden ones removed, in millimetres on paper")
    _model_options(linework)
    _linework_options(linework)
    layers = commands.add_parser("layers", help="cutting files for a model built of layers of material")
    _model_options(layers)
    _layer_options(layers)
    maquette = commands.add_parser("maquette", help="a scene as cut as a closed scale model to print, in pieces with pegs")
    _model_options(maquette)
    _maquette_options(maquette)
    sheets = commands.add_parser("sheets", help="the sheets of a project as PDF, or as pictures")
    _sheet_options(sheets)
    looks = commands.add_parser("looks", help="the looks that come with Anatome")
    looks.add_argument("--json", action="store_true", help="with all that is in them, as JSON")
    demo = commands.add_parser("demo", help="open the boathouse")
    _screenshot_options(demo)
    return parser


def with_numbers_joined(words: list[str]) -> list[str]:
    """Join an option and a list of numbers that begins with a minus, which would be taken for an option itself."""
    found: list[str] = []
    for word in words:
        if found and found[-1].startswith("--") and "=" not in found[-1] and NEGATIVE.match(word):
            found[-1] += f"={word}"
        else:
            found.append(word)
    return found


def _screenshot_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--screenshot", type=Path, metavar="FILE", help="picture the window into a PNG file and close it")
    parser.add_argument("--size", default="1280x800", help="size of the window, for example 1280x800")
    parser.add_argument("--scene", help="the scene to recall first")
    parser.add_argument("--dark", action="store_true", help="the dark theme")


def _model_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path)
    parser.add_argument("--up", choices=("y", "z"), help="which axis of the file points up (mesh files)")
    parser.add_argument("--unit", choices=tuple(UNITS), help="the unit of the file (mesh files)")


def _section_options(parser: argparse.ArgumentParser) -> None:
    for option in CUT_OPTIONS:
        parser.add_argument(f"--{option.name}", metavar=option.form, help=option.help)
    parser.add_argument("--scene", metavar="NAME", help="the cuts of a scene, where FILE is a project")
    parser.add_argument("--carve", action="store_true", help="take the inside away instead of keeping it")
    _reach_options(parser)
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


def _reach_options(parser: argparse.ArgumentParser) -> None:
    reach = parser.add_mutually_exclusive_group()
    reach.add_argument("--only", metavar="TYPE,…", help="cut only elements of these types, for example IfcWall,IfcSlab")
    reach.add_argument("--all-but", metavar="TYPE,…", help="cut all elements but those of these types")


def _picture_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--out", type=Path, required=True, metavar="FILE.png", help="where the picture goes")
    parser.add_argument("--size", help="pixels, for example 1600x1000; at a scale the size of what is shown, if not given")
    parser.add_argument("--scale", type=float, help="with --dpi: 50 for 1:50 at the cut, or at what is looked at")
    parser.add_argument("--dpi", type=float, help="with --scale: dots per inch, written into the picture")
    parser.add_argument("--ground", choices=("transparent", "white", "paper"), default="white")
    _composing_options(parser)


def _linework_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--svg", type=Path, metavar="FILE", help="write it as SVG, its layers as groups")
    parser.add_argument("--pdf", type=Path, metavar="FILE", help="write it as PDF, with layers one can switch")
    parser.add_argument("--dxf", type=Path, metavar="FILE", help="write it as DXF")
    parser.add_argument("--scale", type=float, help="50 for 1:50 at the cut, or at what is looked at; else 210 mm high")
    parser.add_argument("--size", help="proportions, for example 3x2; a scene has its own")
    parser.add_argument("--hidden", action="store_true", help="draw hidden lines too, dashed")
    parser.add_argument(
        "--layers", metavar="WHAT", help="layers by kind, layer, type, material, storey or group; with +kind each by kind too"
    )
    parser.add_argument("--layer-names", metavar="PATTERN", help="what layers are called: {model}, {kind}, {depth}")
    parser.add_argument(
        "--no-furniture-lines", dest="furniture", action="store_false", help="leave out the edges of furniture in a scene"
    )
    parser.add_argument("--picture", action="store_true", help="lay the picture without lines under them; with a scene")
    parser.add_argument("--beyond", action=argparse.BooleanOptionalAction, default=True, help="draw what lies beyond the cut")
    parser.add_argument("--tones", action="store_true", help="fill what is seen with flat tones, as areas")
    _notes_option(parser)
    _composing_options(parser)


def _maquette_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--scene", metavar="NAME", help="of a project; its stage if not given")
    parser.add_argument("--scale", type=float, default=200.0, help="200 for 1:200")
    parser.add_argument(
        "--thinnest", type=float, default=0.8, help="what the printer can do, mm; thinner parts are made as thick"
    )
    parser.add_argument(
        "--plate", default="220x220x240", metavar="WxDxH", help="of the printer, mm; larger models are cut in pieces"
    )
    parser.add_argument("--base", type=float, default=3.0, help="under it, mm thick; 0 for none")
    parser.add_argument("--name", help="on the base; that of the project if not given")
    parser.add_argument("--peg", type=float, default=4.0, help="between pieces, mm thick; 0 for none")
    parser.add_argument("--furniture", action="store_true", help="with furniture")
    parser.add_argument("--ground", action="store_true", help="with ground and neighbours")
    parser.add_argument("--out", type=Path, required=True, metavar="FILE", help="a .3mf, or .stl for a file each piece")


def _sheet_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("project", type=Path)
    parser.add_argument(
        "--sheet", metavar="NAME|NUMBER", action="append", default=[], help="only this one; several times for more"
    )
    parser.add_argument("--pdf", type=Path, metavar="FILE", help="all in one file, with bookmarks")
    parser.add_argument("--pieces", choices=("A3", "A4"), help="of --pdf: in pieces of that paper, with marks to glue them by")
    parser.add_argument("--each", type=Path, metavar="FOLDER", help="a PDF each, into a folder")
    parser.add_argument("--png", type=Path, metavar="FOLDER", help="a picture each, into a folder")
    parser.add_argument(
        "--dpi", type=float, default=200.0, help="dots per inch of the pictures on them, and of --png; 200 if not given"
    )


def _layer_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--scale", type=float, default=200.0, help="200 for 1:200")
    parser.add_argument("--thickness", type=float, default=3.0, help="of the material, mm")
    parser.add_argument("--sheet", default="600x400", metavar="WxH", help="of the material, mm, for example 600x400")
    parser.add_argument("--gap", type=float, default=3.0, help="between parts, mm")
    parser.add_argument("--dowel", type=float, default=0.0, help="holes for dowels so many mm thick")
    parser.add_argument("--solid", action="store_true", help="the outermost outlines alone, without holes")
    parser.add_argument(
        "--next", action=argparse.BooleanOptionalAction, default=True, help="engrave the outline of the next layer"
    )
    parser.add_argument("--across", default="0,0,1", metavar="X,Y,Z", help="what the layers lie across: upwards if not given")
    parser.add_argument("--svg", type=Path, metavar="FOLDER", help="an SVG for each sheet of material")
    parser.add_argument("--dxf", type=Path, metavar="FOLDER", help="a DXF for each sheet of material")
    _reach_options(parser)


def _notes_option(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--notes", action=argparse.BooleanOptionalAction, default=True, help="with what is written on the scene")


def _composing_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--cut",
        action="append",
        default=[],
        metavar="CUT",
        help=f"{LISTED}; may be given several times",
    )
    parser.add_argument("--scene", metavar="NAME", help="start from a scene, where FILE is a project")
    parser.add_argument(
        "--view",
        metavar="VIEW",
        help="square-on; front, back, left, right, top, underside; isometric, dimetric, trimetric, plan-oblique[:ANGLE], "
        "cavalier, cabinet, elevation-oblique[:ANGLE[:RATIO]], from the front left or with a corner: isometric-back-right",
    )
    parser.add_argument("--worms-eye", action="store_true", help="the same corner from below")
    parser.add_argument("--explode", type=float, metavar="METRES", help="draw the storeys apart, so far from one to the next")
    parser.add_argument("--perspective", type=float, metavar="DEGREES", help="in perspective, with this angle of view")
    _reach_options(parser)
    parser.add_argument("--look", metavar="NAME|FILE", help="a look of anatome looks, or a file of one")


def _film_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("project", type=Path)
    parser.add_argument("--film", metavar="NAME", help="the film of the project")
    parser.add_argument("--scene", metavar="NAME", help="the scene in which something moves")
    moves = ("hold", "rise", "sweep", "peel", "turn", "explode", "together", "day", "look", "lines")
    parser.add_argument("--move", choices=moves, help="what moves: a level cut up, an upright cut through, the camera round, …")
    parser.add_argument("--seconds", type=float, default=6.0, help="how long it takes; 6 if not given")
    parser.add_argument("--degrees", type=float, default=360.0, help="of a turn; 360 if not given")
    parser.add_argument("--resting", action="store_true", help="a cut rests over every floor, or where it is clean")
    parser.add_argument("--by-parts", action="store_true", help="a rise puts part on part and cuts nothing")
    parser.add_argument("--look", metavar="NAME|FILE", help="the look that takes the place of the scene's")
    parser.add_argument("--size", help="pixels; 1280x720 if not given")
    parser.add_argument("--fps", type=float, default=25.0, help="frames a second; 25 if not given")
    parser.add_argument("--quality", default="good", help="draft, good or best")
    parser.add_argument("--samples", type=int, help="of each picture; as many as finished ones have if not given")
    parser.add_argument(
        "--ground", choices=("transparent", "white", "paper"), default="paper", help="what lies under the picture"
    )
    parser.add_argument("--contact", type=int, metavar="N", help="N small pictures on a paper instead, as a PDF or a PNG")
    parser.add_argument("--flip", type=int, metavar="N", help="N cards to cut apart and flip through instead, as a PDF")
    parser.add_argument("--paper", default="A3", metavar="NAME", help="of them; A3 if not given")
    parser.add_argument("--once", action="store_true", help="GIF and WebP are shown once, and not for ever")
    parser.add_argument("--shard", metavar="K/N", help="only the frames of this one of N machines, into a folder")
    _on_option(parser)
    parser.add_argument(
        "--out", type=Path, required=True, metavar="FILE|FOLDER", help=".mp4, .webm, .gif or .webp, or a folder for a PNG each"
    )


def _on_option(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--on", metavar="ADDRESS", help="have it drawn by the workers of a dask scheduler, such as tcp://host:8786"
    )


def _page_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("project", type=Path)
    parser.add_argument("--scene", metavar="NAME", action="append", default=[], help="a scene; several times, or all of them")
    parser.add_argument("--film", metavar="NAME", action="append", default=[], help="a film; several times")
    shows = ("picture", "cut", "turn", "apart", "day", "model")
    parser.add_argument("--shows", choices=shows, help="what can be done in these scenes; what suits each if not given")
    parser.add_argument("--beside", metavar="LOOK", help="a look that is wiped over that of these scenes")
    parser.add_argument("--title", default="", help="of the page; that of the sheets if not given")
    parser.add_argument("--width", type=int, default=1200, help="pixels across; 1200 if not given")
    parser.add_argument("--frames", type=int, default=25, help="of what is dragged; 25 if not given")
    parser.add_argument(
        "--most", type=float, default=15.0, metavar="MB", help="megabytes of the page at the most; 15 if not given"
    )
    parser.add_argument("--no-zoom", action="store_true", help="no larger pictures to look into")
    parser.add_argument("--shard", metavar="K/N", help="draw only the pictures of this one of N machines")
    _on_option(parser)
    parser.add_argument("--out", type=Path, required=True, metavar="FILE", help="the page, for example boathouse.html")


def _export_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("project", type=Path)
    parser.add_argument("--scene", help="name of the scene")
    parser.add_argument("--all", action="store_true", help="all scenes, into a folder")
    parser.add_argument("--size", help="pixels, for example 4000x2500, or 4000 for the scene's own proportions")
    parser.add_argument("--out", type=Path, metavar="FILE|FOLDER", help="where the picture or the pictures go")
    parser.add_argument(
        "--dpi", type=float, help="dots per inch, written into the files; a scene at a scale takes its size from it"
    )
    parser.add_argument(
        "--look",
        metavar="NAME|FILE",
        action="append",
        default=[],
        help="a look of anatome looks, or a file of one, instead of the scene's; several times for a picture in each",
    )
    _on_option(parser)
    parser.add_argument("--again", action="store_true", help="of all scenes in a folder only those that have changed since")
    parser.add_argument("--name", default="", metavar="PATTERN", help="file names, for example '{number} {scene}, {look}'")
    parser.add_argument("--format", choices=(".png", ".tif", ".jpg", ".webp"), default=".png", help="of the pictures in a folder")
    parser.add_argument("--passes", metavar="PASS,…", help="the passes of each picture as files in the folder --out; or all")
    parser.add_argument(
        "--layers", "--ora", dest="ora", type=Path, metavar="FILE|FOLDER", help="write the picture in layers, as .ora or .tif"
    )
    parser.add_argument(
        "--still",
        type=int,
        metavar="SAMPLES",
        help="ray-trace the light with so many samples, or 0 to draw it; else as the scene says",
    )
    _notes_option(parser)
    parser.add_argument("--shard", metavar="K/N", help="only the Kth of N parts of the list, for several machines")
    parser.add_argument("--ground", choices=("transparent", "white", "paper"), default="transparent")
    parser.add_argument("--glb", type=Path, metavar="FILE", help="write what the scene's cuts leave of the model as GLB")
    parser.add_argument("--stl", type=Path, metavar="FILE", help="write what the scene's cuts leave of the model as STL")
