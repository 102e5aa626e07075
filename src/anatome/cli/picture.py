"""``anatome picture``: one picture of a model or a project, cut and framed as the options say."""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from anatome.cli.cut_options import parse_cut
from anatome.cli.looks import look_named
from anatome.cli.sizes import parse_size
from anatome.cli.told import open_project
from anatome.cli.values import check_scale, parse_reach, scene_named
from anatome.cli.views import NamedView, parse_view
from anatome.cuts.cut import AnyCut, next_mark
from anatome.cuts.dissection import CutBuilding, Cutter, shown_elements
from anatome.cuts.exploding import Exploded, by_storeys
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.files import write_whole
from anatome.formats.opening import open_model
from anatome.look.look import UNSAID_PAPER, Look
from anatome.look.shipped import first_look
from anatome.model.building import Building
from anatome.model.crossings import crossings
from anatome.model.options import OpenOptions
from anatome.problems import Problem
from anatome.scenes.look_edits import drawn_look
from anatome.scenes.opened import left_of, opened
from anatome.scenes.project import StageState
from anatome.scenes.storage import SUFFIX
from anatome.site.site import NO_SITE, Figure
from anatome.site.standing import seen_figures
from anatome.view.camera import Camera, square_on, standard_view
from anatome.view.framing import FIELDS, perspective_section, with_height

if TYPE_CHECKING:
    from anatome.scenes.scene_view import View

USUAL = (1600, 1000)
LARGEST = 40_000
"""Pixels a picture at a scale may have on a side."""
DPI = (10.0, 4800.0)


@dataclass(frozen=True)
class Framed:
    """A camera, the size of its picture in pixels, and the dots per inch to write into it, if any."""

    camera: Camera
    size: tuple[int, int]
    dpi: float | None

    @property
    def paper(self) -> float:
        """Millimetres of paper it is high."""
        return UNSAID_PAPER if self.dpi is None else self.size[1] / self.dpi * 25.4


@dataclass(frozen=True, eq=False)
class Composed:
    """What is to be drawn, and how it is framed."""

    building: Building
    opened: ShownBuilding
    look: Look
    figures: tuple[Figure, ...]
    framed: Framed


def run(options: argparse.Namespace) -> int:
    """Draw and write. Raises Problem."""
    made = composed(options)
    framed = made.framed
    from anatome.scenes.scene_view import View

    view = View(framed.camera, made.opened, made.look, figures=made.figures, paper=framed.paper)
    _draw(options, made.building, view, framed)
    inches = f", {framed.dpi:g} dpi, 1:{options.scale:g}" if framed.dpi else ""
    print(f"{framed.size[0]} × {framed.size[1]}{inches} in {options.out}")
    return 0


def composed(options: argparse.Namespace) -> Composed:
    """Return the model opened, cut and framed as the options say. Raises Problem."""
    # Everything typed is read before the model is, which may take a while.
    size = parse_size(options.size, USUAL)
    view = parse_view(options.view) if options.view else None
    if options.worms_eye and (view is None or not view.has_corner):
        raise Problem("From below one sees a corner. Give --worms-eye with a --view such as isometric or plan-oblique.")
    if options.perspective is not None and not FIELDS[0] <= options.perspective <= FIELDS[1]:
        raise Problem(f"An angle of view is from {FIELDS[0]:g}° to {FIELDS[1]:g}°, for example --perspective 35.")
    if (options.scale is None) != (options.dpi is None):
        raise Problem("A picture at a scale needs both: --scale 50 --dpi 300.")
    if options.scale is not None:
        check_scale(options.scale)
        if not DPI[0] <= options.dpi <= DPI[1]:
            raise Problem(f"A picture has from {DPI[0]:g} to {DPI[1]:g} dots per inch, for example --dpi 300.")
    is_project = options.file.suffix.lower() == SUFFIX
    if options.scene is not None and not is_project:
        raise Problem("Only a project has scenes. Give --cut and --view for a model.")
    cuts = [parse_cut(text) for text in options.cut]

    if is_project:
        found = open_project(options.file)
        building, project = found.building, found.stored.project
        site = project.site
        state = project.stage if options.scene is None else scene_named(project, options.scene).state
    else:
        building = open_model(options.file, OpenOptions(up=options.up, unit=options.unit))
        bounds = building.subject_bounds(np.ones(len(building.elements), bool))
        site = NO_SITE
        camera = standard_view("Axonometric, front left", bounds, size[0] / size[1])
        state = StageState(camera=camera, look=first_look())
    if options.look is not None:
        state = state.model_copy(update={"look": look_named(options.look)})
    if cuts:
        reach = parse_reach(building, options.only, options.all_but)
        state = state.model_copy(update={"cuts": _numbered(cuts, reach), "series": ()})
    elif options.only or options.all_but:
        raise Problem("There is nothing to reach. Give a --cut with --only or --all-but.")
    if options.explode is not None:
        groups = by_storeys(building, shown_elements(building, state.hidden), options.explode)
        if not groups:
            raise Problem("There is nothing to draw apart: the parts that are shown stand in one storey, or in none.")
        state = state.model_copy(update={"exploded": Exploded(groups=groups), "opening": 1.0})
    cutter = Cutter(building)
    left, shown = left_of(cutter, state), opened(cutter, state)
    corners = shown.left_corners(building.subject(shown_elements(building, state.hidden)))
    view = None if view is None else view.along(state.active_cuts, building)
    framed = _frame(options, view, corners, state, left, size)
    figures = seen_figures(site.figures, state.hidden, shown)
    return Composed(building, shown, drawn_look(state, site, building), figures, framed)


def _numbered(cuts: list[AnyCut], reach: Reach) -> tuple[AnyCut, ...]:
    found: list[AnyCut] = []
    for cut in cuts:
        mark = next_mark({c.mark for c in found})
        found.append(cut.model_copy(update={"id": mark, "mark": mark, "name": f"{cut.noun} {mark}", "reach": reach}))
    return tuple(found)


def _frame(
    options: argparse.Namespace,
    view: NamedView | None,
    corners: NDArray[np.float64],
    state: StageState,
    left: CutBuilding,
    size: tuple[int, int],
) -> Framed:
    """Where the camera stands; at a scale the picture is as large as what it shows."""
    aspect = size[0] / size[1]
    if view is None:
        camera = state.camera
    elif view.name == "square-on":
        plane, face = _faced(left)
        camera = square_on(plane, face, aspect, state.camera.model_copy(update={"projection": "parallel"}))
        if options.perspective is not None:
            camera = perspective_section(plane, face, aspect, camera)
    else:
        camera = view.camera(corners, aspect, below=options.worms_eye)
    if options.perspective is not None:
        camera = camera.model_copy(update={"projection": "perspective", "shear": (0.0, 0.0)}).with_field(options.perspective)
        if view is not None and view.name != "square-on":
            camera = camera.fitted_round(corners, aspect)
    if options.scale is None:
        return Framed(camera, size, None)
    dots = options.dpi / 25.4
    if options.size is None:
        height = camera.height * 1000 / options.scale * dots
        size = round(height * aspect), round(height)
        if max(size) > LARGEST:
            raise Problem(
                f"At that scale the picture would have {size[0]:,} × {size[1]:,} pixels. Give a smaller --dpi, or a --size."
            )
    return Framed(with_height(camera, size[1] / dots * options.scale / 1000), size, options.dpi)


def _faced(left: CutBuilding) -> tuple[Plane, NDArray[np.float64]]:
    """The first cut that cuts something, and the bounds of its face."""
    for face in left.faces:
        built = face.built_bounds()
        if built is not None:
            return face.plane, built
    raise Problem("There is no cut face to look at square on. Give a --cut that goes through the building.")


def _draw(options: argparse.Namespace, building: Building, view: View, framed: Framed) -> None:
    from anatome.formats.pictures_out import png_bytes
    from anatome.render.pictures import PictureMaker

    crossings(building)
    maker = PictureMaker.standalone(building)
    write_whole(options.out, png_bytes(maker.picture(view, framed.size, options.ground), framed.dpi))
