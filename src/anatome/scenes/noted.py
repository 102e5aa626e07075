"""The notes of a state, put to work: as marks on the paper of its picture."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from anatome.cuts.cut import AnyCut
from anatome.cuts.pieces import ShownBuilding
from anatome.lengths import scale_words
from anatome.look.look import UNSAID_PAPER
from anatome.notes.drawn import notes_drawn
from anatome.notes.dressed_before import kept_by_hand
from anatome.notes.dressing import Dressed, dress
from anatome.notes.facts import Facts
from anatome.notes.marks import NotesDrawn
from anatome.notes.note import AnyNote, NoteStyle
from anatome.notes.view import NoteView
from anatome.scenes.project import Project, StageState
from anatome.scenes.sheet_frames import number_of, picture_height, scale_of
from anatome.sheets.sheet import SceneFrame, Sheet
from anatome.site.site import NO_SITE, Site
from anatome.site.sunlight import north_of
from anatome.view.crop import height_at
from anatome.view.viewport import Frame, Viewport


def note_view(
    state: StageState,
    shown: ShownBuilding,
    facts: Facts,
    frame: Frame,
    paper: float,
    site: Site = NO_SITE,
    least: float = 0.0,
    within: tuple[float, float, float, float] | None = None,
) -> NoteView:
    """Return what the notes of a state are drawn on: its picture through a frame, on paper so many millimetres high; capitals
    are at ``least`` so many. What stands in its corners stands in those of the crop ``within`` it, if there is one."""
    _, low, _, high = frame.crop
    plane = state.true_plane()
    # A scale holds in a plane that is seen true; without one in a parallel view across the sight.
    known = plane is not None or not state.camera.is_perspective
    scale = height_at(state.camera, plane) * (high - low) * 1000.0 / paper if known else 0.0
    viewport = Viewport(state.camera, frame.sized(paper * frame.aspect, paper))
    north, hatches = north_of(site, facts.building), state.look.known_hatches
    return NoteView(viewport, shown, state.cuts, state.note_style, facts, north, scale, least, hatches, within)


MUCH_LARGER = 1.6
"""How much larger a picture is on a sheet than by itself from which notes are placed for the sheet alone."""
MOST_OF_IT = 0.6
"""Share of a picture that a frame on a sheet has to show for notes to be placed for it: a strip of it decides nothing."""


@dataclass(frozen=True)
class NotePaper:
    """What notes are placed for: a picture of a ``state`` through a ``frame`` on paper ``height`` mm high, of which ``seen`` are
    the shares that are shown (left, bottom, right, top), with capitals of at ``least`` so many mm; ``where`` says in words what
    that is."""

    state: StageState
    frame: Frame
    height: float
    least: float = 0.0
    smaller: float | None = None
    """Mm the same picture is high elsewhere, with capitals of at ``least`` so many mm, where nothing covers anything either."""
    seen: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    where: str = ""

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Mm of what is shown: left, bottom, right, top."""
        wide = self.height * self.frame.aspect
        left, bottom, right, top = self.seen
        return left * wide, bottom * self.height, right * wide, top * self.height


def paper_of_frame(project: Project, sheet: Sheet, frame: SceneFrame) -> NotePaper | None:
    """Return what the notes of a scene are placed for in its frame on a sheet; None where the scene is gone."""
    scene = project.scene(frame.scene)
    if scene is None:
        return None
    scale = scale_words(scale_of(frame, scene))
    where = f"{scale} on sheet {number_of(sheet, project)}".strip()
    return NotePaper(scene.state, scene.frame, picture_height(frame, scene), seen=frame.crop, where=where)


def paper_of_stage(project: Project, frame: Frame, height: float, least: float = 0.0) -> NotePaper:
    """Return what the notes of the stage are placed for: the frame on a sheet that shows most of its scene, one with a scale
    first, as long as the stage shows the scene as it was saved; else its crop; else all of it, through a ``frame`` on paper
    ``height`` mm high. Capitals are at ``least`` so many mm where nobody has said yet how large it will be."""
    scene, state = project.scene(project.current_scene), project.stage
    as_shown = project.scene_as_shown
    if scene is not None and as_shown is not None and _without_notes(state) == _without_notes(as_shown):
        frames = [(own.scale is not None, _share(own), sheet, own) for sheet in project.sheets for own in sheet.frames]
        frames = [found for found in frames if found[3].scene == scene.id and found[3].notes and found[1] > MOST_OF_IT]
        if frames:
            _, _, sheet, own = max(frames, key=lambda found: found[:2])
            found = paper_of_frame(project, sheet, own)
            assert found is not None
            near = height < found.height < MUCH_LARGER * height
            return replace(found, least=least, smaller=height) if near else found
    if state.crop is None:
        return NotePaper(state, frame, height, least)
    paper = state.crop.paper(height_at(state.camera, state.true_plane()))
    if paper is None:
        return NotePaper(state, state.crop.frame(), UNSAID_PAPER, least, where="the crop")
    return NotePaper(state, state.crop.frame(), paper[1], where=scale_words(state.crop.scale) if state.crop.scale else "the crop")


def _without_notes(state: StageState) -> StageState:
    return state.model_copy(update={"notes": (), "notes_shown": True, "note_style": NoteStyle()})


def _share(frame: SceneFrame) -> float:
    """How much of its scene's picture a frame shows."""
    left, bottom, right, top = frame.crop
    return (right - left) * (top - bottom)


def cut_to_dress(state: StageState, picked: str | None = None) -> AnyCut | None:
    """Return the cut a state's notes are about: the picked one, else the one that is seen true, else the first that is on."""
    cut = state.cut(picked)
    if cut is not None and cut.on:
        return cut
    plane, cuts = state.true_plane(), state.active_cuts
    own = (c for c in cuts if plane is not None and any(plane in cell.planes for cell in c.cells()))
    return next(own, next(iter(cuts), None))


def dressed_anew(
    paper: NotePaper,
    cut: AnyCut,
    shown: ShownBuilding,
    facts: Facts,
    site: Site,
    notes: Sequence[AnyNote],
    new_id: Callable[[], str],
) -> tuple[tuple[AnyNote, ...], Dressed]:
    """Return (all notes a picture of a cut has when it is dressed for its paper, what of them was written). What a hand moved,
    changed or wrote stays. Raises Problem where there is nothing to dress."""
    also = None
    if paper.smaller is not None:
        also = note_view(paper.state, shown, facts, paper.frame, paper.smaller, site, paper.least)
    view = note_view(paper.state, shown, facts, paper.frame, paper.height, site, 0.0 if also else paper.least)
    kept = kept_by_hand(notes, cut.id)
    faces = [face for part in shown.parts for face in part.cut_open.faces]
    found = dress(view, cut, faces, new_id, kept, paper.box, also)
    return (*kept, *found.notes), found


def drawn_notes(state: StageState, view: NoteView) -> NotesDrawn:
    """Return the notes of a state on what they are drawn on."""
    look = state.look
    shown = state.notes_shown
    return notes_drawn(state.notes if shown else (), view, look.ink, look.paper, state.details if shown else ())
