"""The linework of a scene: what its picture shows, on the paper it takes."""

from __future__ import annotations

from dataclasses import replace

from anatome.cuts.dissection import Cutter
from anatome.linework.drawing import Drawing
from anatome.linework.line_view import LineView
from anatome.look.look import UNSAID_PAPER
from anatome.notes.facts import Facts
from anatome.scenes.look_edits import drawn_divide, drawn_look
from anatome.scenes.noted import drawn_notes, note_view
from anatome.scenes.opened import opened
from anatome.scenes.project import Scene
from anatome.site.site import Site
from anatome.site.standing import seen_figures
from anatome.view.crop import height_at


def line_view(cutter: Cutter, scene: Scene, site: Site, scale: float | None = None, paper: float | None = None) -> LineView:
    """What is drawn of a scene: on the paper of its crop, or as much as it takes at 1:``scale`` at the cut, or 210 mm high; or on
    ``paper`` so many mm high.

    The cutter is one of the building with the site's bodies.
    """
    state = scene.state
    shown = opened(cutter, state)
    look = drawn_look(state, site, cutter.building)
    divide = drawn_divide(state, site, cutter.building)
    figures = seen_figures(site.figures, state.hidden, shown)
    return LineView(state.camera, shown, look, scene.frame, figures, paper or paper_of(scene, scale), divide)


def without_lines(scene: Scene) -> Scene:
    """The same without the lines and the notes that linework has, for a picture to lie under it."""
    look = scene.state.look.model_copy(update={"edges": False, "hidden_lines": False, "hatch_ink": 0.0})
    overrides = tuple(r.model_copy(update={"lines": False if r.lines else r.lines}) for r in scene.state.overrides)
    return scene.model_copy(
        update={"state": scene.state.model_copy(update={"look": look, "overrides": overrides, "notes_shown": False})}
    )


def written_on(drawing: Drawing, view: LineView, scene: Scene, site: Site, facts: Facts) -> Drawing:
    """The drawing of a scene with what is written on it."""
    state = scene.state
    if not state.notes or not state.notes_shown:
        return drawing
    on = note_view(state, view.opened, facts, scene.frame, view.paper, site)
    return replace(drawing, notes=drawn_notes(state, on))


def paper_of(scene: Scene, scale: float | None = None) -> float:
    """Millimetres of paper the picture of a scene is high."""
    if scale is not None:
        _, low, _, high = scene.frame.crop
        return height_at(scene.state.camera, scene.state.true_plane()) * (high - low) * 1000.0 / scale
    return UNSAID_PAPER if scene.paper is None else scene.paper[1]


def scale_of(scene: Scene, paper: float) -> float:
    """The 50 of 1:50 at the cut, on paper so many millimetres high."""
    _, low, _, high = scene.frame.crop
    return height_at(scene.state.camera, scene.state.true_plane()) * (high - low) * 1000.0 / paper
