"""Writing on the picture: dimensions, levels, labels, names, and dressing a section in one step."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import TypeVar

import numpy as np

from anatome.app.base.entry import Entry, group
from anatome.app.base.work import Progress, Work, in_words
from anatome.app.commands.host import Host
from anatome.app.stage.note_drag import said_of
from anatome.app.stage.tasks import PickNotes
from anatome.app.stage.writing.dimension import WriteDimension
from anatome.app.stage.writing.note_task import NoteTask
from anatome.app.stage.writing.rounds import WriteAngle, WriteRadius
from anatome.app.stage.writing.words import BendLeader, NameRoom, WriteLabel, WriteLevel
from anatome.cuts.cut import AnyCut
from anatome.cuts.dissection import Cutter
from anatome.notes.drawn import marks_of
from anatome.notes.dressing import Dressed
from anatome.notes.moving import aligned, in_columns, kept_apart, spread
from anatome.notes.note import AnyNote, Corner, Dimension, Label, Level, NorthPoint, ScaleBar, SectionMark
from anatome.notes.setting import face_normal
from anatome.scenes import note_edits
from anatome.scenes.edits import new_id
from anatome.scenes.noted import cut_to_dress, dressed_anew, paper_of_frame, paper_of_stage
from anatome.scenes.opened import opened
from anatome.scenes.shared_cuts import all_sections

DressedAnew = tuple[tuple[AnyNote, ...], Dressed]
T = TypeVar("T", bound=NoteTask)
CORNERS: tuple[Corner, ...] = ("lower left", "lower right", "upper left", "upper right")


WAYS = (("across", "across"), ("upright", "upright"), ("along", "along their own line"))
"""The directions in which notes are arranged, and their words."""


def dressed_words(cut: AnyCut, before: Sequence[AnyNote], found: DressedAnew, where: str) -> str:
    """Return what dressing did, in words."""
    notes, dressed = found
    stayed = len(notes) - len(dressed.notes)
    said = f"Dressed {cut.name}{f' for {where}' if where else ''}: {len(dressed.notes)} notes"
    if any(note.dressed is not None for note in before) and stayed:
        said += f", and {stayed} left as they were moved or written by hand"
    if dressed.left_out:
        said += f". No room for all {', '.join(dressed.left_out)}: stand further back, or write them by hand"
    return said


class NoteCommands:
    """Works on the notes of the stage."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session
        self._dressing = Work(host.session, lambda: host.session.opened_as)

    def entries(self) -> list[Entry]:
        return [*self._writing(), *self._written(), *self._picked()]

    def _writing(self) -> list[Entry]:
        def tool(name: str, text: str, tip: str, kind: type[NoteTask], key: str, **made: object) -> Entry:
            return Entry(name, text, tip, partial(self.begin, name, kind, **made), key, task=True)

        return group(
            "Write on it",
            "note",
            Entry(
                "dress",
                "Dress the section",
                "Levels, heights, widths, names of rooms, layers of build-ups, all at once; on a plan lengths and names",
                self.dress,
                "Ctrl+Alt+0",
                needs="active",
            ),
            Entry(
                "dress_frame",
                "Dress for the sheet",
                "Write the notes of the picked scene anew for the scale it has on the sheet; what was moved by hand stays",
                self.dress_frame,
                needs="frame",
            ),
            tool("note_dimension", "Dimension or chain", "Click corners, then beside", WriteDimension, "Ctrl+Alt+1"),
            tool("note_level", "Level", "How high a point lies", WriteLevel, "Ctrl+Alt+2"),
            tool("note_label", "Label", "A leader from a part, that says what the part has", WriteLabel, "Ctrl+Alt+3"),
            tool("note_words", "Text", "Text on the picture, as typed", WriteLabel, "Ctrl+Alt+4", plain=True),
            tool("note_room", "Name of a room", "With its area, where one clicks into it", NameRoom, "Ctrl+Alt+5"),
            tool("note_angle", "Angle", "A corner and a point on either side", WriteAngle, "Ctrl+Alt+6"),
            tool("note_radius", "Radius", "Three points of a round; Tab: its diameter", WriteRadius, "Ctrl+Alt+7"),
            Entry("note_scale", "Scale bar", "In a corner of the picture", self.scale_bar),
            Entry("note_north", "North point", "In a corner of the picture", self.north_point),
            Entry("note_marks", "Section marks", "Where sections are cut, on a picture from above", self.section_marks),
        )

    def _written(self) -> list[Entry]:
        return group(
            "Written",
            "note",
            Entry(
                "notes_shown",
                "Show notes",
                "Off: they stay, and are not drawn",
                self.toggle_shown,
                "Ctrl+Alt+9",
                ticked=lambda: self._session.stage.notes_shown,
            ),
            Entry(
                "notes_true",
                "True size of letters",
                "As large as on the paper, even where they cannot be read; off: never too small to be read while one works",
                self.toggle_true_size,
                ticked=lambda: self._host.stage.noted.true_size,
            ),
            Entry("pick_notes", "Pick all notes", "To move, align or take away all of them", self.pick_all, needs="notes"),
            Entry(
                "pick_notes_in",
                "Pick notes with a rectangle",
                "Down: what it encloses, up: what it touches. Ctrl, Shift and a drag do the same at any time",
                self.pick_in,
                "Ctrl+Alt+Shift+R",
                needs="notes",
                task=True,
            ),
        )

    def _picked(self) -> list[Entry]:
        return group(
            "The picked notes",
            "note",
            Entry("note_edit", "Edit the text", "Where it stands", self.edit, "F2", needs="note", stage_menu=True),
            Entry(
                "note_longer",
                "Go on with the chain",
                "Click further corners for the picked dimension",
                self.longer,
                needs="dimension",
                stage_menu=True,
            ),
            Entry("note_take", "Delete the notes", "The picked notes go", self.take, "Del", "trash", "note", stage_menu=True),
            *self._arranging("align", "In line", "The picked notes in one line {}, with the one picked first"),
            *self._arranging("spread", "Spread", "As far from one to the next everywhere, {}"),
            Entry(
                "note_apart",
                "Keep from overlapping",
                "Move the picked notes, or all, until none covers another's words",
                self.keep_apart,
                needs="notes",
            ),
            Entry(
                "note_columns",
                "Labels in columns",
                "The picked labels, or all with a leader, left and right of the building, one under the other",
                self.columns,
                needs="notes",
            ),
            Entry(
                "note_bend",
                "Bend its leader",
                "Click where the leader of the picked label bends",
                self.bend,
                needs="note",
                task=True,
            ),
            Entry("note_straight", "Straighten the leaders", "Without bends", self.straighten, needs="note"),
            within="The picked notes",
        )

    def _arranging(self, how: str, words: str, tip: str) -> list[Entry]:
        """One way of arranging notes, in each direction."""
        return [
            Entry(f"note_{how}_{way}", f"{words} {said}", tip.format(said), partial(self.arrange, how, way), needs="notes picked")
            for way, said in WAYS
        ]

    # Writing ---------------------------------------------------------------------------------------------------

    def begin(self, name: str, kind: type[T], **made: object) -> None:
        """Begin to write, or stop."""
        stage_input = self._host.stage_input
        if stage_input.task is not None and stage_input.task.name == name:
            stage_input.begin(None)
            return
        self._show()
        noted = self._host.stage.noted
        stage_input.begin(kind(self._session, name=name, noted=noted, edit=stage_input.type_words, **made))  # type: ignore[arg-type]

    def _show(self) -> None:
        """Have what is written in sight."""
        if not self._session.stage.notes_shown:
            self._session.apply(note_edits.show_notes(self._session.project, True), "Notes are shown")

    def longer(self) -> None:
        """Further corners for the picked dimension."""
        notes = self._session.notes
        if len(notes) == 1 and isinstance(notes[0], Dimension):
            self._host.stage_input.begin(WriteDimension(self._session, noted=self._host.stage.noted, chain=notes[0].id))

    def dress(self) -> None:
        """Write what is usual on the section that is seen, for the scale it has on its sheet or in its crop; what was written so
        before is written anew. Away from the window's thread, for it tries many places."""
        session, noted = self._session, self._host.stage.noted
        cut = cut_to_dress(session.stage, session.picked.cut)
        if cut is None:
            session.said.emit("There is no cut to dress. Place one first.")
            return
        self._show()
        project = noted.in_own_units(session.project)
        stage, site, shown, facts = session.stage, session.project.site, session.on_stage(), noted.facts()
        frame = self._host.stage.viewport.frame
        paper = paper_of_stage(session.project, frame, noted.paper_height(), noted.legible)
        paper = replace(paper, state=paper.state.model_copy(update={"note_style": project.stage.note_style}))
        session.said.emit(f"Dressing {cut.name}…")

        def done(found: DressedAnew) -> None:
            if session.stage.cuts == stage.cuts and session.stage.notes == stage.notes:
                said = dressed_words(cut, stage.notes, found, paper.where)
                session.apply(note_edits.replace_notes(noted.in_own_units(session.project), found[0]), said)

        self._dressing.run(
            lambda told: dressed_anew(paper, cut, shown, facts, site, stage.notes, new_id), done, self._not_dressed
        )

    def _not_dressed(self, error: Exception) -> None:
        self._host.tell(in_words(error), "The section could not be dressed")

    def dress_frame(self) -> None:
        """Write what is usual on the scene of the picked frame of a sheet, for the scale it has there."""
        session, sheet = self._session, self._host.desk.sheet
        frame = next(iter(self._host.desk.frames), None)
        paper = None if sheet is None or frame is None else paper_of_frame(session.project, sheet, frame)
        scene = None if frame is None else session.project.scene(frame.scene)
        if paper is None or scene is None:
            return
        cut = cut_to_dress(scene.state)
        if cut is None:
            session.said.emit(f"{scene.name} has no cut to dress.")
            return
        building, site, facts = session.building, session.project.site, self._host.stage.noted.facts()
        assert building is not None
        session.said.emit(f"Dressing {scene.name}…")

        def work(told: Progress) -> DressedAnew:
            return dressed_anew(paper, cut, opened(Cutter(building), scene.state), facts, site, scene.state.notes, new_id)

        def done(found: DressedAnew) -> None:
            if session.project.scene(scene.id) is scene:
                said = dressed_words(cut, scene.state.notes, found, paper.where)
                session.apply(note_edits.replace_notes_of_scene(session.project, scene.id, found[0]), said)

        self._dressing.run(work, done, self._not_dressed)

    # What belongs to the paper ---------------------------------------------------------------------------------

    def _free_corner(self, kind: type[ScaleBar] | type[NorthPoint], first: Corner) -> Corner:
        taken = {n.corner for n in self._session.stage.notes if isinstance(n, ScaleBar | NorthPoint)}
        return next((c for c in (first, *CORNERS) if c not in taken), first)

    def scale_bar(self) -> None:
        if not self._host.stage.noted.view().scale:
            self._session.said.emit(
                "No plane is seen true in this perspective, so there is no scale. Put the camera square on to a cut."
            )
            return
        self._write(ScaleBar(id=new_id(), corner=self._free_corner(ScaleBar, "lower right")), "Wrote a scale bar")

    def north_point(self) -> None:
        self._write(NorthPoint(id=new_id(), corner=self._free_corner(NorthPoint, "upper right")), "Wrote a north point")

    def section_marks(self) -> None:
        """One for each cut that is a line in the picture and has none: of the stage, and of the sections other scenes show."""
        s = self._session
        marked = {n.cut for n in s.stage.notes if isinstance(n, SectionMark)}
        faced = {c.id for c in s.stage.cuts_seen_true}
        cuts = [c for c in all_sections(s.project) if c.id not in marked | faced]
        if not cuts:
            s.said.emit(
                "Every section of the project has its mark here. Place another, or save a scene that looks square on to it."
            )
            return
        view = self._host.stage.noted.view()
        view = replace(view, cuts=(*view.cuts, *(c for c in cuts if s.stage.cut(c.id) is None)))
        notes = [note for c in cuts if marks_of(note := SectionMark(id=new_id(), cut=c.id), view) is not None]
        if not notes:
            s.said.emit("No section is a line in this picture. Look down on the building, at a plan or an axonometric.")
            return
        self._show()
        written = {note.cut for note in notes}
        # Those of other scenes come along, off: what they cut does not change.
        brought = tuple(c for c in cuts if c.id in written and s.stage.cut(c.id) is None)
        project = s.project.with_stage(cuts=(*s.stage.cuts, *brought))
        s.apply(note_edits.put_notes(self._host.stage.noted.in_own_units(project), notes), f"Wrote {len(notes)} section marks")

    def _write(self, note: AnyNote, said: str) -> None:
        self._show()
        self._host.stage.noted.put([note], said)
        self._session.pick(notes=[note.id])

    # What is written -------------------------------------------------------------------------------------------

    def toggle_shown(self) -> None:
        s = self._session
        on = not s.stage.notes_shown
        if not on:
            s.pick()
        s.apply(note_edits.show_notes(s.project, on), "Notes are shown" if on else "Notes are not shown")

    def toggle_true_size(self) -> None:
        noted = self._host.stage.noted
        noted.show_true_size(not noted.true_size)
        self._session.said.emit(
            "Letters are as large as on the paper" if noted.true_size else "Letters are large enough to be read here"
        )

    def pick_all(self) -> None:
        self._show()
        self._session.pick(notes=[n.id for n in self._session.stage.notes])

    def pick_in(self) -> None:
        """The next drag picks notes."""
        self._show()
        stage_input = self._host.stage_input
        stage_input.begin(None if isinstance(stage_input.task, PickNotes) else PickNotes(self._session))

    def edit(self) -> None:
        """Type the words of the picked note where it stands."""
        notes = self._session.notes
        if len(notes) == 1 and not self._host.stage_input.words.open_for(notes[0].id):
            self._session.said.emit("This note says what it measures; there are no words to type.")

    def take(self) -> None:
        s = self._session
        notes = s.notes
        if notes:
            s.apply(note_edits.take_notes(s.project, s.picked.notes), said_of(notes, "Took away"))

    def change(self, said: str, merge: str | None = None, **changes: object) -> None:
        """The picked notes, otherwise; each takes of the changes what it has."""
        noted, found = self._host.stage.noted, []
        for note in self._session.notes:
            own = {k: v for k, v in changes.items() if k in type(note).model_fields}
            if own:
                found.append(type(note).model_validate(dict(note) | own))
        if found:
            noted.put(found, said, merge)

    def lay(self, on: bool) -> None:
        """Lay the picked labels and levels into the faces they are set to, or flat into the picture."""
        s, found = self._session, []
        assert s.building is not None
        for note in s.notes:
            if isinstance(note, Label | Level):
                normal = face_normal(s.building, note.anchors[0], s.stage.cuts) if on else None
                found.append(note.model_copy(update={"plane": normal}))
        if found:
            self._host.stage.noted.put(found, "Laid into the face" if on else "Flat in the picture")

    def arrange(self, how: str, way: str) -> None:
        """In line, or evenly spread."""
        notes, view = self._session.notes, self._host.stage.noted.view()
        needed = 2 if how == "align" else 3
        if len(notes) < needed:
            self._session.said.emit(f"Pick at least {needed} notes, with Ctrl and a click for each further one.")
            return
        done = aligned(notes, view, way) if how == "align" else spread(notes, view, way)
        self._host.stage.noted.put(done, said_of(notes, "Aligned" if how == "align" else "Spread"))

    def columns(self) -> None:
        """Labels in two columns beside what is shown."""
        s, noted = self._session, self._host.stage.noted
        picked: Sequence[AnyNote] = s.notes if len(s.notes) > 1 else s.stage.notes
        view = noted.view()
        flat = view.viewport.pixels(s.left_corners())[:, 0]
        flat = flat[np.isfinite(flat)]
        content = (float(flat.min()), float(flat.max())) if len(flat) else (0.0, view.viewport.width)
        done = in_columns(picked, view, content)
        moved = sum(a != b for a, b in zip(picked, done))
        if not moved:
            s.said.emit("There is no label with a leader. Columns are of labels.")
            return
        noted.put([b for a, b in zip(picked, done) if a != b], f"{moved} labels in columns")

    def bend(self) -> None:
        """The next click is a bend of the picked label's leader."""
        notes = self._session.notes
        if len(notes) == 1 and isinstance(notes[0], Label) and notes[0].leader:
            self._host.stage_input.begin(BendLeader(self._session, noted=self._host.stage.noted, label=notes[0].id))
        else:
            self._session.said.emit("Pick one label with a leader.")

    def straighten(self) -> None:
        """No bends."""
        self.change("Straight leaders", bends=())

    def keep_apart(self) -> None:
        """So that nothing covers anything."""
        s = self._session
        picked: Sequence[AnyNote] = s.notes or s.stage.notes
        others = [n for n in s.stage.notes if n not in picked]
        done = kept_apart(picked, self._host.stage.noted.true_view(), others)
        changed = sum(a != b for a, b in zip(picked, done))
        self._host.stage.noted.put(done, f"Moved {changed} notes apart" if changed else "No words cover any others")
