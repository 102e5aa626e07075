"""A view with the light of a still in it, ready to be drawn."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from anatome.cuts.pieces import uncut
from anatome.problems import Problem
from anatome.raytracing.still import THREADS, Still
from anatome.scenes.scene_view import View
from anatome.view.viewport import Viewport

Progress = Callable[[float], bool]


def still_of(view: View, size: tuple[int, int], threads: int = THREADS) -> Still:
    """Return the still of a view in so many pixels, not yet begun. It takes a second or so, and needs no OpenGL."""
    viewport = Viewport(view.camera, view.frame.sized(*size))
    opened = view.opened
    shading = uncut(opened.cut_open.building) if view.look.unseen_shade and opened.at_home else None
    return Still(opened, view.look, viewport, shading, threads=threads)


def lit(view: View, size: tuple[int, int], samples: int, progress: Progress | None = None) -> View:
    """Return the view with light from so many samples, as it is if that is none.

    ``progress`` gets the share done, and may return False, which raises Problem.
    """
    if samples <= 0:
        return view
    still = still_of(view, size)
    for number in range(samples):
        if not still.add(None if progress is None else lambda share, number=number: progress((number + share) / samples)):  # type: ignore[misc]
            raise Problem("The still was cancelled; nothing was written.")
    return replace(view, traced=still.traced())
