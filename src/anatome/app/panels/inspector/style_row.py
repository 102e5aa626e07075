"""Styles of notes that are kept under their names: chosen, changed, kept."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QFormLayout, QPushButton, QVBoxLayout, QWidget

from anatome.app.base.ask import Ask
from anatome.app.base.side_by_side import side_by_side
from anatome.app.base.swatch import Swatch
from anatome.app.document.office import office
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import narrow_choice
from anatome.look.look import WEIGHTS
from anatome.notes.note import NoteStyle
from anatome.scenes.note_edits import forget_note_style, keep_note_style

ENDS = (("Slashes", "slash"), ("Arrows", "arrow"), ("Dots", "dot"))
CHANGED = "Own"


class StyleRow(QWidget):
    """``take`` is told which style was chosen, or None for that of all notes, and what to say of it."""

    def __init__(self, session: Session, take: Callable[[NoteStyle | None, str], None], of_all: bool) -> None:
        super().__init__()
        self._session, self._take, self._of_all = session, take, of_all
        self._style = NoteStyle()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        form = QFormLayout()
        self.styles = narrow_choice()
        self.styles.setToolTip("Styles of this project and of the office, kept under their names")
        self.styles.activated.connect(self._choose)
        form.addRow("Style", self.styles)
        self.weight = narrow_choice()
        for weight in WEIGHTS:
            self.weight.addItem(f"{weight:.2f} mm", weight)
        self.weight.activated.connect(lambda i: self._change("Lines of notes", weight=self.weight.itemData(i)))
        form.addRow("Lines", self.weight)
        self.ends = narrow_choice()
        for words, key in ENDS:
            self.ends.addItem(words, key)
        self.ends.setToolTip("At the ends of dimensions; leaders end in dots, or in arrows too")
        self.ends.activated.connect(lambda i: self._change("Ends of dimensions", ends=self.ends.itemData(i)))
        form.addRow("Ends", self.ends)
        column.addLayout(form)
        self.colour = Swatch("Ink", lambda rgb: self._change("Ink of notes", colour=rgb))
        self.keep = QPushButton("Keep…")
        self.keep.setToolTip("Keep this style under a name, for other notes and scenes")
        self.keep.clicked.connect(self._ask_name)
        column.addLayout(side_by_side(self.colour, self.keep))

    def _known(self) -> dict[str, NoteStyle]:
        """Those that can be chosen, the project's own over the office's."""
        return {style.name: style for style in (*office().note_styles, *self._session.project.note_styles)}

    def _choose(self, row: int) -> None:
        name = self.styles.itemData(row)
        if name is None:
            if not self._of_all:
                self._take(None, "As all notes")
        elif name in (known := self._known()):
            self._take(known[name], f"Style “{name}”")

    def _change(self, said: str, **changes: object) -> None:
        self._take(NoteStyle.model_validate({**dict(self._style), "name": "", **changes}), said)

    def _ask_name(self) -> None:
        session, style = self._session, self._style

        def do(ask: Ask) -> None:
            kept = style.model_copy(update={"name": ask.text("Name")[:100]})
            session.apply(keep_note_style(session.project, kept), f"Kept the style “{kept.name}”")
            self._take(kept, f"Style “{kept.name}”")

        note = "It stands in the list of styles of this project. The office has it too once new projects begin like this one."
        ask = Ask(self, "Keep as a style", note, "Keep the style", do)
        ask.words("Name", style.name).open()

    def forget(self, name: str) -> None:
        """Have a style no longer in the list."""
        self._session.apply(forget_note_style(self._session.project, name), f"The style “{name}” is kept no longer")

    def show_style(self, style: NoteStyle | None, of_all: NoteStyle) -> None:
        """Show a note's own style, if it has one, or that ``of_all`` notes."""
        self._style = style or of_all
        names = list(self._known())
        wanted = [CHANGED if self._of_all else "As all notes", *names]
        if [self.styles.itemText(i) for i in range(self.styles.count())] != wanted:
            self.styles.clear()
            self.styles.addItem(wanted[0], None)
            for name in names:
                self.styles.addItem(name, name)
        shown = self._style.name if style is not None or self._of_all else None
        place = self.styles.findData(shown) if shown else 0
        self.styles.setCurrentIndex(max(place, 0))
        place = self.weight.findData(self._style.weight)
        self.weight.setCurrentIndex(place)
        self.ends.setCurrentIndex(self.ends.findData(self._style.ends))
        self.colour.show_colour(self._style.colour or self._session.stage.look.ink)
