"""The picked cut as a flat, square drawing that follows it while it is dragged, and in which one picks, measures and writes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent

from anatome.app.base import theme
from anatome.app.base.drag import Drag, held_down, spot
from anatome.app.document.session import Session
from anatome.app.key_drawings import key_drawing
from anatome.app.key_drawings.key_drawing import INK, KeyDrawing
from anatome.app.stage.companion import Sketcher
from anatome.app.stage.drags import Taken
from anatome.app.stage.note_drag import NoteDrag, NoteInput, WordsInPlace
from anatome.app.stage.noted import StageNotes
from anatome.app.stage.picking import Picking
from anatome.app.stage.pointing import pointer_at
from anatome.app.stage.previews import paint_notes, paint_preview, paint_slip
from anatome.app.stage.stage import Stage
from anatome.app.stage.stage_input import StageInput
from anatome.cuts.cut import AnyCut
from anatome.cuts.kinds.key_mark import DrawingPlane
from anatome.lengths import INCH
from anatome.look.quick_lines import quick_lines
from anatome.notes.captions import CAPTION
from anatome.notes.facts import Facts
from anatome.notes.free_room import overlaps
from anatome.notes.marks import NoteMarks, NotesDrawn
from anatome.render.renderer import Renderer
from anatome.scenes.project import StageState
from anatome.scenes.scene_view import View
from anatome.view.crop import Crop
from anatome.view.viewport import Viewport

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
EMPTY = "Pick a cut to have it here, flat and square"
LEAST_WRITTEN_ON = 240
"""Pixels of height below which notes would cover what they are about, unless a scale was chosen."""
WRAPPED = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap


class NotesBeside(StageNotes):
    """The notes of the stage as they lie on a flat drawing, in its own scale."""

    def __init__(self, session: Session, drawing: FlatDrawing, stage: Stage) -> None:
        super().__init__(session, drawing)
        self._on, self._of_stage = drawing, stage.noted
        self._thinned: tuple[NotesDrawn, frozenset[str], NotesDrawn] | None = None
        stage.noted.news.connect(self.news)

    def drawn(self) -> NotesDrawn:
        """Return them; where no scale is held, without those whose words would cover others: for this size nobody placed them."""
        every, picked = super().drawn(), frozenset(self._session.picked.notes)
        if self._on.held is not None:
            return every
        if self._thinned is None or self._thinned[0] is not every or self._thinned[1] != picked:
            kept: list[NoteMarks] = []
            for note in sorted(every.notes, key=lambda note: note.note not in picked):
                if not any(overlaps(note, other) for other in kept):
                    kept.append(note)
            self._thinned = every, picked, replace(every, notes=tuple(kept))
        return self._thinned[2]

    def facts(self) -> Facts:
        return self._of_stage.facts()

    def state(self) -> StageState:
        return self._on.state()

    def paper_height(self) -> float:
        return self._on.paper


class FlatDrawing(KeyDrawing):
    """``menu_wanted``: a right click, on the screen. ``renamed``: it is of another cut, or of none."""

    menu_wanted = Signal(QPointF)
    renamed = Signal()
    fills = 0.9, 0.84

    def __init__(self, session: Session, stage: Stage, hand: StageInput) -> None:
        super().__init__(session, stage)
        self._hand = hand
        self._cut: AnyCut | None = None
        self._last = ""
        self._picked_here: str | None = None
        """Another cut, picked by its line in the drawing, which stays of the one it is of."""
        self._drawn_of: tuple[str, NDArray[np.float64]] | None = None
        """The cut it was last shown of, and what of space was in the middle."""
        self._sketched: object = None
        self._sketcher = Sketcher()
        self._pointed, self._at = False, QPointF()
        self.held: float | None = None
        """The 50 of 1:50, once one was chosen; nothing: the whole cut is shown."""
        self.noted = NotesBeside(session, self, stage)
        self.noted.news.connect(self.update)
        self.words = WordsInPlace(self, session, self.noted, self.setFocus)
        self._note_input = NoteInput(session, self.noted)
        self._picking = Picking(session, self, hand.overlay)
        session.recut.connect(self._recut)
        session.picked_changed.connect(self._follow)
        hand.seen.connect(self.update)
        stage.companion = self
        self.setToolTip("")

    # What it is of ---------------------------------------------------------------------------------------------

    @property
    def cut(self) -> AnyCut | None:
        """The picked cut, or the one that was picked last if it is on, or another that is."""
        if not self._session.is_open:
            return None
        stage = self._session.stage
        picked = self._session.cut if self._session.picked.cut != self._picked_here else None
        others = sorted((*stage.cuts_seen_true, *stage.active_cuts), key=lambda cut: cut.id != self._last)
        found = picked or next(iter(others), None)
        self._last = self._last if found is None else found.id
        return found

    @property
    def sheet(self) -> DrawingPlane:
        cut = self._cut
        if cut is None:
            return DrawingPlane.elevation(np.array([0.0, -1.0, 0.0]), 0.0)
        axis = cut.axis
        return DrawingPlane(*axis.axes, axis.n, axis.offset)

    def _choice(self) -> object:
        return None if self._cut is None else self._cut.axis

    def _background_key(self) -> object:
        s = self._session
        plane = None if self._cut is None else self._cut.axis
        # A plane that is dragged stays the same drawing of another building; its caps and lines come with the recut.
        return (plane, id(s.on_stage()), s.drawn_look(), s.picked.elements, *self._centre, self._scale, self.size().toTuple())

    def _whole(self) -> NDArray[np.float64]:
        """Of what is built and cut by it, where that is known; else of all that is built."""
        cut = self._cut
        faces = [] if cut is None or not self._session.is_cut else self._session.left().faces
        own = [f.built_bounds() for f in faces if cut is not None and f.cut.id == cut.id]
        found = [bounds for bounds in own if bounds is not None]
        subject = self._bounds()
        if not found:
            return subject
        # What is built far off, a jetty, does not make the house small.
        low = np.maximum(np.min([low for low, _ in found], axis=0), subject[0])
        high = np.minimum(np.max([high for _, high in found], axis=0), subject[1])
        return np.stack([low, high]) if (low <= high).all() else subject

    def state(self) -> StageState:
        """Return what the stage shows, seen as it is drawn here."""
        return self._session.stage.model_copy(update={"camera": self.camera(), "crop": None})

    @property
    def viewport(self) -> Viewport:
        """Its camera and its size."""
        return Viewport.of(self.camera(), max(self.width(), 1), max(self.height(), 1))

    # Scale ---------------------------------------------------------------------------------------------------------

    @property
    def _pixels_a_mm(self) -> float:
        return self.logicalDpiY() / (1000.0 * INCH)

    @property
    def paper(self) -> float:
        """Mm of paper it is high, on the screen."""
        return max(self.height(), 1) / self._pixels_a_mm

    @property
    def scale(self) -> float:
        """The 50 of 1:50, as it is on the screen."""
        return 1000.0 * self._pixels_a_mm / self._scale

    def hold(self, scale: float | None) -> None:
        """Show it at a scale from now on; None: all of it, whatever that makes."""
        self.held = scale
        if scale is None:
            self.fit()
            return
        self._scale = 1000.0 * self._pixels_a_mm / scale
        self.shift_to(self._centre)
        self.scaled.emit()

    def fit(self) -> None:
        """Show the whole cut; at the scale that is held, the middle of it."""
        self._cut = self.cut
        self.renamed.emit()
        super().fit()
        self._remember()
        if self.held is not None:
            self.hold(self.held)

    def crop(self) -> Crop | None:
        """Return the crop a scene of it has: all of it on paper, where a scale is held."""
        if self.held is None:
            return None
        return Crop(aspect=self.width() / max(self.height(), 1), height=1.0, scale=self.held, line=False)

    # Following -----------------------------------------------------------------------------------------------------

    def _follow(self) -> None:
        """Be of the cut that is picked now, or of where it is now."""
        if self._session.picked.cut not in (None, self._picked_here):
            self._picked_here = None
        before, self._cut = self._cut, self.cut
        cut = self._cut
        if cut is None or self._drawn_of is None or self._drawn_of[0] != cut.id:
            self._image = self._image if cut is not None else None
            self.fit()
            return
        if before is not cut and (before is None or before.axis.normal != cut.axis.normal):
            self._centre = self.sheet.flat(self._drawn_of[1])
        if before is None or before.name != cut.name:
            self.renamed.emit()
        self._remember()

    def _remember(self) -> None:
        self._drawn_of = None if self._cut is None else (self._cut.id, self.sheet.raised(self._centre))

    def shift_to(self, centre: NDArray[np.float64]) -> None:
        super().shift_to(centre)
        self._remember()

    def _changed(self) -> None:
        self._follow()
        self._recut()

    def _let_go(self) -> None:
        super()._let_go()
        self._cut, self._last, self._drawn_of, self._drawn = None, "", None, None

    def _recut(self) -> None:
        self._redraw.start(key_drawing.REST)
        self.update()

    def _view(self) -> View:
        s = self._session
        look, shown = quick_lines(s.drawn_look()), s.on_stage()
        return View(self.camera(), shown, look, figures=s.figures(), paper=self.paper, picked=s.picked_mask())

    def sketch(self, on: Renderer) -> Iterator[None] | None:
        """Return the steps of a quick drawing, after one of the stage's."""
        if not self.isVisible() or self._cut is None or self._session.is_for_now:
            return None
        key = self._background_key()
        if key == self._sketched or (key == self._drawn and self._making is None):
            return None
        self._sketched, place = key, self.place
        return self._sketcher.steps(on, self._view(), self.full(), lambda pixels: self.show_image(pixels, place))

    def _draw_background(self) -> None:
        if not self.isVisible() or self._cut is None or not self._session.is_open:
            return
        key = self._background_key()
        if key != self._drawn:
            self._give_up()
            self._drawn = self._making = key
            self._have_drawn(self._view())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """What was shown whole stays whole."""
        if self.held is None and self._is_whole:
            self.fit()
        else:
            super().resizeEvent(event)

    # Painting ------------------------------------------------------------------------------------------------------

    def notes(self) -> list[tuple[AnyCut, str, QRectF]]:
        return [note for note in super().notes() if self._cut is None or note[0].id != self._cut.id]

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self._session.is_open and self._cut is None:
            painter = QPainter(self)
            painter.setFont(theme.font(9))
            painter.setPen(INK)
            painter.drawText(self.rect().adjusted(16, 8, -16, -8), WRAPPED, EMPTY)

    def _paint_all(self, painter: QPainter) -> None:
        if self._cut is None:
            return
        super()._paint_all(painter)
        task = self._hand.task
        preview = None if task is None else task.shown()
        ghosts = preview.notes if preview is not None and self._pointed else ()
        legible = self.held is not None or self.height() > LEAST_WRITTEN_ON
        if (self._session.stage.is_written_on and legible) or ghosts:
            paint_notes(painter, self.noted.drawn(), self.height(), self._session.picked.notes, ghosts)
        if preview is not None:
            paint_preview(painter, self.viewport, preview, self._bounds(), self.size())
        if task is not None and self._pointed and task.why:
            paint_slip(painter, self.size(), task.why, self._at + QPointF(14, 12))

    # Mouse and keys ------------------------------------------------------------------------------------------------

    def _under(self, at: QPointF) -> tuple[str, str | None]:
        """Nothing but the drawing while something is to be clicked in it."""
        return ("pan", None) if self._hand.task is not None else super()._under(at)

    def _held(self, event: QMouseEvent) -> Drag | None:
        start = spot(event.position())
        if self._hand.task is None and not held_down(event, CONTROL) and self._note_input.on_picked(start):
            notes = NoteDrag(self._session, self.noted, start)
            return Taken(start, notes, notes.move)
        other = self._under(event.position())[1]
        self._picked_here = other if self._cut is not None and other != self._cut.id else None
        return super()._held(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._at, self._pointed = event.position(), True
        if self._hand.task is None or self._pressing.drag is not None or self._cut is None:
            super().mouseMoveEvent(event)
            return
        self.setCursor(Qt.CursorShape.CrossCursor)
        self._hand.see_elsewhere(pointer_at(self._session, self, spot(self._at), held_down(event, SHIFT)))
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._pointed = False
        self._hand.leave()
        self.update()

    def _clicked(self, event: QMouseEvent) -> None:
        at, left = spot(event.position()), event.button() == Qt.MouseButton.LeftButton
        if self._cut is None:
            return
        if self._hand.task is not None:
            if left:
                self._hand.act(pointer_at(self._session, self, at, held_down(event, SHIFT)), self.words)
            else:
                self._hand.begin(None)
            return
        note = self.noted.under(at)
        if note is not None and not note.startswith(CAPTION):
            self._note_input.pick(note, held_down(event, CONTROL), left)
        else:
            self._picking.click(event.position(), held_down(event, CONTROL))
        if not left:
            self.menu_wanted.emit(event.globalPosition())

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        at = spot(event.position())
        note = self.noted.under(at) if self._cut is not None and self._hand.task is None else None
        if self._hand.task is not None and self._cut is not None:
            self._hand.act(pointer_at(self._session, self, at, held_down(event, SHIFT)), self.words)
        elif note is not None:
            self.words.open_for(note)
        else:
            super().mouseDoubleClickEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """What keys do on the stage they do here."""
        back = event.key() == Qt.Key.Key_Escape and self.step_back()
        if not back and not self._hand.key(event):
            super().keyPressEvent(event)

    def focusNextPrevChild(self, next: bool) -> bool:
        """Tab is for the task under way."""
        return False if self._hand.task is not None else super().focusNextPrevChild(next)
