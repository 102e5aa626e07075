"""The one walk through drawings, notes and pages: what a plotter is asked to draw, in which order. Each kind of file has a
plotter in formats/, the screen has one in render/; nobody else walks a drawing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from anatome.linework.drawing import Area, Drawing, Ring
from anatome.linework.page import Page, PagePart, PageTile
from anatome.look.look import Rgb
from anatome.look.pens import Pen
from anatome.notes.marks import VEIL, VEIL_ROOM, NoteMarks, NotesDrawn, Words

PICTURE, NOTES, SHEET = "Picture", "Notes", "Sheet"
"""Layers of the picture that lies under a drawing, of what is written on it, and of the lines and words of a page."""
THIN = 0.13
"""Mm, of lines that other lines are drawn over, from the ISO 128 row of line widths (value from memory)."""
NOTE_WEIGHT = 0.18
"""Mm, of the layer of notes; each of their strokes has its own."""


@dataclass(frozen=True)
class Fill:
    """What an area is filled with; between two heights ``fades``, in mm, it goes from nothing to the whole."""

    colour: Rgb
    alpha: float = 1.0
    fades: tuple[float, float] | None = None


@dataclass(frozen=True)
class Owner:
    """The element something is drawn of: the id it has in its model, and its name."""

    id: str
    name: str


Rings = Sequence[Sequence[Ring]]
"""Polygons as rings, the outer one first; each ring repeats its first point."""


class Plotter(Protocol):
    """Draws in mm, x to the right and y up from the lower left corner of the drawing; what comes later lies on top."""

    def begin_layer(self, name: str, pen: Pen | None, classes: Sequence[str] = ()) -> None:
        """Put what follows on a layer, most of whose lines are drawn with one pen, or which has none; of parts of some types."""

    def end_layer(self) -> None:
        """End the layer that was begun last; layers do not lie in one another."""

    def ground(self, size: tuple[float, float], colour: Rgb) -> None:
        """Fill the paper."""

    def picture(self, png: bytes, size: tuple[float, float]) -> None:
        """Draw a picture of ``size`` mm, its lower left corner at the origin."""

    def area(self, polygons: Rings, fill: Fill, pen: Pen | None, owner: Owner | None) -> None:
        """Fill polygons and draw their outlines, if there is a pen."""

    def hatch(self, areas: Sequence[Area]) -> bool:
        """Hatch areas with their patterns. Return False where that is not known, and the lines of patterns are to be drawn."""

    def lines(self, lines: Sequence[Ring], pen: Pen, owner: Owner | None) -> None:
        """Draw polylines."""

    def words(self, words: Words, ink: Rgb) -> None:
        """Draw a line of text in the shipped letters."""

    def begin_note(self, note: NoteMarks) -> None:
        """Begin a note, whose strokes and words follow."""

    def end_note(self) -> None:
        """End the note that was begun last."""


class PagePlotter(Plotter, Protocol):
    """Draws pages too, on which drawings are seen through windows."""

    def begin_window(self, box: tuple[float, float, float, float], offset: tuple[float, float]) -> None:
        """Show what follows in a box (left, bottom, right, top) of the page only, its place ``offset`` at the lower left."""

    def end_window(self) -> None:
        """Go on with the page."""


def plot(drawing: Drawing, plotter: Plotter) -> None:
    """Draw a drawing: what it lies on, the picture under it, areas, lines by kind, and what is written on it."""
    size = drawing.width, drawing.height
    if drawing.paper is not None:
        plotter.ground(size, drawing.paper)
    if drawing.picture is not None:
        _picture(drawing.picture, size, plotter)
    outline = Pen(drawing.line_width, drawing.ink) if drawing.line_width else None
    for layer in drawing.layers:
        plotter.begin_layer(layer.name, outline, layer.classes)
        for area in layer.areas:
            plotter.area(area.polygons, Fill(area.fill, area.strength, area.fades), outline, Owner(area.element_id, area.name))
        for line in layer.lines:
            plotter.lines((line.points,), outline or Pen(THIN, drawing.ink), Owner(line.element_id, line.name))
        for words in layer.labels:
            plotter.words(words, drawing.ink)
        plotter.end_layer()
    for strokes in drawing.strokes:
        plotter.begin_layer(strokes.name, strokes.pen)
        areas = [area for layer in drawing.layers for area in layer.areas if area.pattern] if strokes.of_patterns else []
        hatched = [area for area in areas if area.pattern_of == strokes.patterns]
        if not strokes.of_patterns or not plotter.hatch(hatched):
            plotter.lines(strokes.lines, strokes.pen, None)
        plotter.end_layer()
    if drawing.notes is not None:
        _written(NOTES, drawing.notes, plotter)


def plot_note(note: NoteMarks, ink: Rgb, veil: Fill, plotter: Plotter, veiled: bool = False) -> None:
    """Draw one note; if wanted ``veiled`` even where it would not be, and then all its lines in that ink."""
    ink = note.ink if note.ink is not None and not veiled else ink
    plotter.begin_note(note)
    for ring in note.veils:
        plotter.area(((ring,),), veil, None, None)
    for words in note.words:
        if words.veil or veiled:
            plotter.area(((_closed(words.corners(VEIL_ROOM)),),), veil, None, None)
    for stroke in note.strokes:
        own = stroke.ink if stroke.ink is not None and not (veiled and not stroke.filled) else ink
        if stroke.filled:
            plotter.area(((_closed(stroke.points),),), Fill(own), None, None)
        else:
            plotter.lines((stroke.points,), Pen(stroke.weight, own, stroke.dashes, cut_off=True), None)
    for words in note.words:
        plotter.words(words, ink)
    plotter.end_note()


def plot_notes(notes: NotesDrawn, plotter: Plotter) -> None:
    """Draw all notes that hold on to something."""
    for note in notes.sound:
        plot_note(note, notes.ink, Fill(notes.paper, VEIL), plotter)


def plot_page(page: Page, plotter: PagePlotter) -> None:
    """Draw a page: its ground, its parts, the first lowest, and over them its own lines and words."""
    if page.ground is not None:
        plotter.ground((page.width, page.height), page.ground)
    for part in page.parts:
        plot_part(part, plotter)
    _written(SHEET, page.marks, plotter)


def plot_tile(tile: PageTile, plotter: PagePlotter) -> None:
    """Draw a piece of a page, and the marks round it."""
    plotter.begin_window(tile.box, tile.offset)
    plot_page(tile.page, plotter)
    plotter.end_window()
    _written(SHEET, tile.marks, plotter)


def plot_part(part: PagePart, plotter: PagePlotter) -> None:
    """Draw what fills a box of a page, and the line round it."""
    plotter.begin_window(part.box, part.offset)
    if part.picture is not None:
        _picture(part.picture, part.size, plotter)
    if part.drawing is not None:
        plot(part.drawing, plotter)
    plotter.end_window()
    if part.line:
        left, bottom, right, top = part.box
        ring = np.array([[left, bottom], [right, bottom], [right, top], [left, top], [left, bottom]])
        plotter.lines((ring,), Pen(part.line, (0.0, 0.0, 0.0)), None)


def _written(layer: str, notes: NotesDrawn, plotter: Plotter) -> None:
    plotter.begin_layer(layer, Pen(NOTE_WEIGHT, notes.ink))
    plot_notes(notes, plotter)
    plotter.end_layer()


def _picture(png: bytes, size: tuple[float, float], plotter: Plotter) -> None:
    plotter.begin_layer(PICTURE, None)
    plotter.picture(png, size)
    plotter.end_layer()


def _closed(points: Ring) -> Ring:
    """Points as a ring, which repeats its first one."""
    return points if (points[0] == points[-1]).all() else np.concatenate([points, points[:1]])


def is_closed(line: Ring) -> bool:
    """Return whether a polyline ends where it began."""
    return len(line) > 3 and bool((line[0] == line[-1]).all())
