"""``anatome linework``: a picture of a model or of a scene as lines, hidden ones removed."""

from __future__ import annotations

import argparse
from pathlib import Path

from anatome.cli.looks import look_named
from anatome.cli.picture import composed
from anatome.cli.told import open_project
from anatome.cli.values import check_scale, scene_named
from anatome.cuts.dissection import Cutter
from anatome.files import write_whole
from anatome.formats.project_files import OpenedProject
from anatome.linework.of_scene import lost_said, paper_of, scale_of, under_lines, written_on
from anatome.linework.view_drawing import view_drawing
from anatome.look.line_layers import LineLayers
from anatome.look.look import UNSAID_PAPER
from anatome.problems import Problem
from anatome.scenes.look_edits import show_furniture_lines
from anatome.scenes.note_edits import with_notes
from anatome.scenes.project import Scene
from anatome.scenes.scene_view import View, view_of
from anatome.scenes.storage import SUFFIX
from anatome.view.viewport import Frame

DOTS = 200
"""Per inch, of a picture under the lines."""


def run(options: argparse.Namespace) -> int:
    """Draw and write. Raises Problem."""
    from anatome.formats.drawings_out import boxes_said, writer_for

    targets: list[Path] = [path for path in (options.svg, options.pdf, options.dxf) if path is not None]
    if not targets:
        raise Problem("Say where the lines go: --svg FILE, --pdf FILE or --dxf FILE.")
    if options.scale is not None:
        check_scale(options.scale)
    if options.picture and (not _is_scene(options) or options.dxf):
        raise Problem("A picture lies under the lines of a scene: give PROJECT --scene NAME, and --svg or --pdf.")
    view, title, scale, picture, layers = _view(options)
    layers = layers_said(options.layers, options.layer_names) if options.layers or options.layer_names else layers
    tones = options.tones or (picture is not None and view.has_wash_edges)
    drawing = view_drawing(view, title, round(scale, 3), options.beyond, options.hidden, tones=tones, layers=layers)
    drawing = written_on(drawing, view)
    if picture is not None:
        drawing = drawing.over(picture)
    for path, suffix in ((options.svg, ".svg"), (options.pdf, ".pdf"), (options.dxf, ".dxf")):
        if path is not None:
            write_whole(path, writer_for(Path(f"x{suffix}"))(drawing))
    count = sum(len(kind.lines) for kind in drawing.strokes)
    lost = "" if options.pdf is None else boxes_said(Path("x.pdf"), drawing)
    said = f"{count} lines on {drawing.width:.0f} × {drawing.height:.0f} mm in {', '.join(map(str, targets))}"
    print(f"{said}{lost}{lost_said(drawing)}")
    return 0


def _is_scene(options: argparse.Namespace) -> bool:
    """Whether it is a scene as it was saved."""
    composes = options.cut or options.view or options.explode is not None or options.perspective is not None
    return options.file.suffix.lower() == SUFFIX and options.scene is not None and not composes


def layers_said(text: str | None, names: str | None) -> LineLayers:
    """Return how lines are put on layers: ``kind``, ``layer``, ``type``, ``material``, ``storey`` or ``group``; with ``+kind``
    each by kind too. Raises Problem."""
    of, _, more = (text or "kind").partition("+")
    try:
        by = "kind" if of == "kind" else "both" if more else "model"
        if more not in ("", "kind"):
            raise ValueError(more)
        return LineLayers.model_validate({"by": by, "of": "layer" if of == "kind" else of, "names": names or ""})
    except ValueError as error:
        known = "kind, layer, type, material, storey, group, or one of these with +kind; names may have {model}, {kind}, {depth}"
        raise Problem(f"“{text or names}” says no layers. There are {known}.") from error


def _view(options: argparse.Namespace) -> tuple[View, str, float, bytes | None, LineLayers | None]:
    """(what is drawn, its title, the 50 of 1:50, the picture under it if one is wanted, the layers of its scene)."""
    if _is_scene(options):
        opened = open_project(options.file)
        project = opened.stored.project
        scene = scene_named(project, options.scene)
        if options.look is not None:
            state = scene.state.model_copy(update={"look": look_named(options.look)})
            scene = scene.model_copy(update={"state": state})
        if not options.furniture:
            scene = scene.model_copy(update={"state": show_furniture_lines(scene.state, False)})
        own = with_notes(scene, scene.state.notes_shown and options.notes)
        paper = paper_of(scene, options.scale)
        view = view_of(Cutter(opened.building), own, None, project.site, opened.facts(own.state.notes), paper)
        picture = _picture(opened, scene, paper) if options.picture else None
        return view, f"{project.name}, {scene.name}", scale_of(scene, paper), picture, scene.line_layers
    made = composed(argparse.Namespace(**vars(options) | {"scale": None, "dpi": None}))
    camera, (width, height) = made.framed.camera, made.framed.size
    paper = UNSAID_PAPER if options.scale is None else camera.height * 1000.0 / options.scale
    frame = Frame(width=float(width), height=float(height))
    view = View(camera, made.opened, made.look, frame, made.figures, paper)
    return view, options.file.stem, camera.height * 1000.0 / paper, None, None


def _picture(opened: OpenedProject, scene: Scene, paper: float) -> bytes:
    """A PNG of a scene without its lines."""
    from anatome.formats.pictures_out import png_bytes
    from anatome.render.pictures import PictureMaker
    from anatome.render.stills import lit
    from anatome.scenes.scene_view import view_of

    height = max(round(paper / 25.4 * DOTS), 16)
    size = max(round(height * scene.aspect), 16), height
    view = under_lines(view_of(Cutter(opened.building), scene, None, opened.stored.project.site))
    maker = PictureMaker.standalone(opened.building)
    return png_bytes(maker.picture(lit(view, size, scene.state.still), size, "paper"))
