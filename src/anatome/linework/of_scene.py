"""The linework of a scene: what its picture shows, on the paper it takes."""

from __future__ import annotations

from dataclasses import replace

from anatome.linework.drawing import Drawing
from anatome.look.look import UNSAID_PAPER
from anatome.scenes.project import Scene
from anatome.scenes.scene_view import View
from anatome.view.crop import height_at


def under_lines(view: View) -> View:
    """Return the same without the lines and the notes that linework has, for a picture to lie under it."""
    return replace(view, unlined=True, notes=None)


def written_on(drawing: Drawing, view: View) -> Drawing:
    """Return a drawing of a view with what is written on it."""
    return drawing if view.notes is None else replace(drawing, notes=view.notes(view.frame))


def lost_said(drawing: Drawing) -> str:
    """Return in words how much touching up found nothing to hold on to; nothing where all did."""
    count = len(drawing.lost)
    if not count:
        return ""
    them = "1 line that was touched up is" if count == 1 else f"{count} lines that were touched up are"
    return f". {them} no longer there, so nothing came of that"


def paper_of(scene: Scene, scale: float | None = None) -> float:
    """Millimetres of paper the picture of a scene is high."""
    if scale is not None:
        _, low, _, high = scene.frame.crop
        return height_at(scene.state.camera, scene.state.true_plane()) * (high - low) * 1000.0 / scale
    return UNSAID_PAPER if scene.paper is None else scene.paper[1]


def scale_of(scene: Scene, paper: float) -> float:
    """Return the 50 of 1:50 at the cut, on paper so many millimetres high."""
    _, low, _, high = scene.frame.crop
    return height_at(scene.state.camera, scene.state.true_plane()) * (high - low) * 1000.0 / paper
