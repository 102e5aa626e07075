"""Nothing is picked: how the picture is framed, how it looks, which cuts there are, and what the model holds."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout

from anatome.app.base import units
from anatome.app.base.actions import Actions, panel_button
from anatome.app.commands.all import Commands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.apart_box import ApartBox
from anatome.app.panels.inspector.crop_box import CropBox
from anatome.app.panels.inspector.cutting_box import CuttingBox
from anatome.app.panels.inspector.framing_box import FramingBox
from anatome.app.panels.inspector.later import later
from anatome.app.panels.inspector.look_box import LookBox
from anatome.app.panels.inspector.models_box import ModelsBox
from anatome.app.panels.inspector.note_box import NoteBox, notes_words
from anatome.app.panels.inspector.page import Page, RowButton, clear, folded, label
from anatome.app.panels.inspector.site_box import SiteBox
from anatome.app.panels.inspector.touched_box import TouchedBox
from anatome.app.panels.inspector.view_chooser import ViewChooser
from anatome.app.stage.stage import Stage
from anatome.app.stage.stage_input import StageInput
from anatome.cuts.cut import AnyCut
from anatome.model.building import Building
from anatome.model.units import plural
from anatome.scenes import edits
from anatome.words import plain_type


def summary(cut: AnyCut) -> str:
    """Return a cut in a few words, for the list."""
    return f"{cut.name}  ·  {cut.summary(units)}" + ("" if cut.on else ", off")


def model_words(building: Building) -> str:
    """Return how large a model is, and how its file has it."""
    size, unit = building.bounds[1] - building.bounds[0], building.unit
    why = f" ({unit.why})" if unit.why else ""
    told = [
        f"{len(building.elements):,} parts, {len(building.triangles):,} triangles",
        f"{units.sizes(size.tolist(), 1)}, drawn in {plural(unit.name)}{why}",
    ]
    if any(building.origin):
        east, north, _ = building.origin
        told.append(f"Brought near from {east:,.0f} m east, {north:,.0f} m north of its origin")
    return "\n".join(told)


class Overview(Page):
    """The page for the whole picture."""

    def __init__(self, session: Session, stage: Stage, stage_input: StageInput, actions: Actions, commands: Commands) -> None:
        super().__init__()
        self._session = session
        self._cuts_shown: object = None
        self.column.setSpacing(2)
        self.column.setContentsMargins(16, 6, 16, 2)
        self.column.addWidget(label("The picture", "title"))
        self.touched = TouchedBox(session, commands.changes)
        self.column.addWidget(self.touched)
        self.cuts = QVBoxLayout()
        self.cuts.setSpacing(2)
        cuts = folded(self.column, "Cuts")
        cuts.column.addLayout(self.cuts)
        cuts.column.addWidget(panel_button(actions["place"]))
        self.chooser = ViewChooser(session, stage, actions, commands.view)
        folded(self.column, "Look from", self.chooser)
        self.framing = FramingBox(session, stage, actions)
        self.perspective, self.parallel = self.framing.projection.buttons.values()
        self.projection = folded(self.column, "Projection", self.framing)
        self.framing.named.connect(self.projection.say)
        self._look = later(self.column, session, "Look", lambda: LookBox(session, actions, stage.tracing))

        # Rarer ones, folded until somebody wants them.
        self._crop = later(self.column, session, "Crop and paper", lambda: CropBox(session, actions))
        tip = "Dimensions, levels, labels and names on the picture"
        self._notes = later(self.column, session, "Notes", lambda: NoteBox(session, stage, actions, commands.touching_up), tip)
        self._apart = later(self.column, session, "Explode", lambda: ApartBox(session, actions, commands.apart))
        self._site = later(
            *(self.column, session, "Round the building"),
            lambda: SiteBox(session, actions, commands.site, commands.rough_bodies, stage_input),
        )
        self._cutting = later(self.column, session, "How things are cut", lambda: CuttingBox(session))
        self.model = label("", "soft")
        self.failed = label("", "warning")
        self.models = ModelsBox(session, actions, commands.models, commands.changes.newer)
        folded(self.column, "The model", self.model, self.failed, self.models, open=False)
        self.column.addStretch()

    # Sections that are made when they are wanted ---------------------------------------------------------------

    @property
    def look(self) -> LookBox:
        """How the picture looks."""
        return self._look.box

    @property
    def crop(self) -> CropBox:
        """The crop and its paper."""
        return self._crop.box

    @property
    def notes(self) -> NoteBox:
        """How notes are written, and lines touched up."""
        return self._notes.box

    @property
    def apart(self) -> ApartBox:
        """What is drawn apart."""
        return self._apart.box

    @property
    def site(self) -> SiteBox:
        """What stands round the building."""
        return self._site.box

    @property
    def cutting(self) -> CuttingBox:
        """How things are cut."""
        return self._cutting.box

    # Showing ---------------------------------------------------------------------------------------------------

    def refresh_camera(self) -> None:
        """Show how the camera stands now."""
        if self._session.is_open:
            self.framing.refresh()
            self._crop.refresh()
            self._crop.show_news(self._session.stage.crop is not None)

    def refresh(self) -> None:
        session = self._session
        self.refresh_camera()
        self.touched.refresh()
        self.models.refresh()
        for fold in (self._look, self._apart, self._site, self._notes, self._cutting):
            fold.refresh()
        self._apart.show_news(session.stage.is_apart)
        self._notes.button.say(notes_words(session.stage))
        self._show_cuts()
        building = session.model
        self.model.setText(model_words(building))
        failed = len(building.failed)
        self.failed.setVisible(failed > 0)
        self.failed.setText(f"{failed} part{'s' * (failed != 1)} could not be drawn (rest here to see which).")
        self.failed.setToolTip("\n".join(f"{f.name or f.id} ({plain_type(f.type)}): {f.reason}" for f in building.failed[:20]))

    def _show_cuts(self) -> None:
        session = self._session
        entries = [(c.id, summary(c)) for c in session.stage.cuts]
        entries += [(s.id, f"{s.name}  ·  {len(s.offsets)} sections" + ("" if s.on else ", off")) for s in session.stage.series]
        if (session.stage.cuts, entries) == self._cuts_shown:
            return
        self._cuts_shown = session.stage.cuts, entries
        clear(self.cuts)
        for thing, text in entries:
            button = RowButton(text, "Pick this cut")
            button.clicked.connect(lambda _=False, thing=thing: session.pick(cut=thing))
            row = QHBoxLayout()
            row.setSpacing(2)
            row.addWidget(button, 1)
            if session.stage.cut(thing) is not None:
                on = QCheckBox()
                on.setToolTip("Cut on, or off")
                on.setChecked(session.stage.cut(thing).on)  # type: ignore[union-attr]
                on.clicked.connect(lambda value, thing=thing: self._switch_cut(thing, value))
                row.insertWidget(0, on)
            self.cuts.addLayout(row)
        if not entries:
            self.cuts.addWidget(label("None yet. Press Cut, then click a face of the building.", "soft"))

    def _switch_cut(self, cut_id: str, on: bool) -> None:
        session = self._session
        cut = session.stage.cut(cut_id)
        if cut is not None:
            session.apply(edits.change_cut(session.project, cut_id, on=on), f"{cut.name}: {'on' if on else 'off'}")
