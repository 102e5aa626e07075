"""What a picture and a drawing are made of: a state or a scene put to work, as one value that both read."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.look.divide import Dissolve, Divide, looks_of
from anatome.look.look import UNSAID_PAPER, Look
from anatome.model.crossings import crossings
from anatome.notes.facts import Facts
from anatome.notes.marks import NotesDrawn
from anatome.notes.touching_up import HeldTouchUp, held
from anatome.scenes.look_edits import drawn_divide, drawn_look
from anatome.scenes.noted import drawn_notes, note_view
from anatome.scenes.opened import opened
from anatome.scenes.project import Scene, StageState
from anatome.site.site import NO_SITE, Figure, Site
from anatome.site.standing import seen_figures
from anatome.view.camera import Camera
from anatome.view.viewport import Frame, Viewport

if TYPE_CHECKING:
    from anatome.raytracing.still import TracedLight

WHOLE = Frame()


@dataclass(frozen=True, eq=False)
class View:
    """All that decides a picture or a drawing: what is ``opened``, in a look that is put to work, through a ``frame`` that gives
    crop and shift, on ``paper`` so many mm high; ``figures`` are the people and trees that are seen; beyond a ``divide``
    in its other look. ``notes`` makes what is written on it, given the frame with its size; lines are ``touched`` up.

    Pictures alone read the rest: an ``unlined`` one has no lines, for a drawing of them lies over it; ``picked`` is an (E,) mask;
    the other look lies on its own paper if it is ``papered``; ``traced`` is the light of a still, and lies on the first look
    alone; with a ``dissolve`` another look takes the place of its own."""

    camera: Camera
    opened: ShownBuilding
    look: Look
    frame: Frame = WHOLE
    figures: tuple[Figure, ...] = ()
    paper: float = UNSAID_PAPER
    divide: Divide | None = None
    notes: Callable[[Frame], NotesDrawn] | None = None
    touched: tuple[HeldTouchUp, ...] = ()
    unlined: bool = False
    picked: NDArray[np.bool_] | None = None
    papered: bool = True
    traced: TracedLight | None = None
    dissolve: Dissolve | None = None

    def notes_on(self, size: tuple[int, int]) -> NotesDrawn | None:
        """Return what is written on it in a size in pixels."""
        return None if self.notes is None else self.notes(self.frame.sized(*size))

    @property
    def by_hand(self) -> bool:
        """Whether its lines, or the edges of its washes, are to be those of its linework."""
        looks = looks_of(self.look, self.divide)
        return not self.unlined and self.dissolve is None and (bool(self.touched) or any(look.by_hand for look in looks))

    @property
    def has_wash_edges(self) -> bool:
        """Whether washes dry darker along their edges in it."""
        return any(look.wash_edge > 0 for look in looks_of(self.look, self.divide))

    def on_paper(self) -> Viewport:
        """Return the viewport of the paper, in millimetres."""
        return Viewport(self.camera, self.frame.sized(self.paper * self.frame.aspect, self.paper))


def view_of(
    cutter: Cutter,
    shown: StageState | Scene,
    camera: Camera | None = None,
    site: Site = NO_SITE,
    facts: Facts | None = None,
    paper: float | None = None,
) -> View:
    """Return the view of a state or a scene with the figures of a site, from its own camera or another. Nothing is picked.

    What is written on a scene is part of it; ``facts`` are what its labels can say, if they are known already. ``paper`` is how
    many mm the picture is high, if not as much as its scene says.

    The cutter is one of the building with the site's bodies.
    """
    state, frame = (shown.state, shown.frame) if isinstance(shown, Scene) else (shown, WHOLE)
    found = opened(cutter, state)
    crossings(cutter.building)  # now, and not when they are first drawn
    figures = seen_figures(site.figures, state.hidden, found)
    own = shown.paper if isinstance(shown, Scene) else None
    building = found.parts[0].cut_open.building
    look, divide = drawn_look(state, site, building), drawn_divide(state, site, building)
    height = paper or (own[1] if own else UNSAID_PAPER)
    seen = state if camera is None else state.model_copy(update={"camera": camera})
    touched = held(state.touched_up, found, state.cuts)
    view = View(seen.camera, found, look, frame, figures, height, divide, touched=touched)
    return written_on(view, state, site, facts) if isinstance(shown, Scene) else view


def written_on(view: View, state: StageState, site: Site, facts: Facts | None = None) -> View:
    """Return a view, from whichever camera, with what is written on a state, and what stands under its details."""
    if not state.is_written_on:
        return view
    seen, known = state.model_copy(update={"camera": view.camera}), facts or Facts(view.opened.cut_open.building)

    def notes(whole: Frame) -> NotesDrawn:
        return drawn_notes(seen, note_view(seen, view.opened, known, whole, view.paper, site))

    return replace(view, notes=notes)
