"""What the pointer is on, in any picture of the building: on the stage or beside it."""

from __future__ import annotations

from typing import Protocol

from anatome.app.base.drag import Spot
from anatome.app.document.session import Session
from anatome.app.stage.noted import StageNotes
from anatome.app.stage.tasks import Pointer
from anatome.cuts.dissection import CutFace
from anatome.cuts.pieces import pick_placed
from anatome.model.raycast import Hit
from anatome.view.viewport import Viewport

Met = tuple[Hit, CutFace | None, int]
"""Where a line of sight ends, on which cut face, and the number of the piece that is of."""


class Canvas(Protocol):
    """A picture of the building one points at."""

    @property
    def noted(self) -> StageNotes:
        """What is written on it."""

    @property
    def viewport(self) -> Viewport:
        """Its camera and its size in pixels."""


def meet(session: Session, viewport: Viewport, at: Spot) -> Met | None:
    """Return what is seen at a place in a picture, where it is shown; None where there is nothing."""
    return None if session.building is None else pick_placed(session.on_stage().parts, *viewport.ray(*at))


def pointer_at(session: Session, on: Canvas, at: Spot, shift: bool) -> Pointer:
    """Return what a task is told. Tasks work on the building as it stands, also where a piece of it is drawn elsewhere."""
    viewport = on.viewport
    met = meet(session, viewport, at)
    if met is None:
        return Pointer(at, None, shift, viewport, on.noted)
    piece = session.on_stage().parts[met[2]]
    found, home = (piece.at_home(met[0]), met[1]), viewport.at_home_of(piece.move)
    return Pointer(at, found, shift, home, on.noted, piece.detail, piece.move)
