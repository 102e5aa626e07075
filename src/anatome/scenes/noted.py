"""The notes of a state, put to work: as marks on the paper of its picture."""

from __future__ import annotations

from anatome.cuts.pieces import ShownBuilding
from anatome.notes.drawn import notes_drawn
from anatome.notes.facts import Facts
from anatome.notes.marks import NotesDrawn
from anatome.notes.view import NoteView
from anatome.scenes.project import StageState
from anatome.site.site import NO_SITE, Site
from anatome.site.sunlight import north_of
from anatome.view.crop import height_at
from anatome.view.viewport import Frame, Viewport


def note_view(
    state: StageState, shown: ShownBuilding, facts: Facts, frame: Frame, paper: float, site: Site = NO_SITE
) -> NoteView:
    """Return what the notes of a state are drawn on: its picture through a frame, on paper so many millimetres high."""
    _, low, _, high = frame.crop
    plane = state.true_plane()
    # A scale holds in a plane that is seen true; without one in a parallel view across the sight.
    known = plane is not None or not state.camera.is_perspective
    scale = height_at(state.camera, plane) * (high - low) * 1000.0 / paper if known else 0.0
    viewport = Viewport(state.camera, frame.sized(paper * frame.aspect, paper))
    return NoteView(viewport, shown, state.cuts, state.note_style, facts, north_of(site, facts.building), scale)


def drawn_notes(state: StageState, view: NoteView) -> NotesDrawn:
    """Return the notes of a state on what they are drawn on."""
    look = state.look
    return notes_drawn(state.notes if state.notes_shown else (), view, look.ink, look.paper)
