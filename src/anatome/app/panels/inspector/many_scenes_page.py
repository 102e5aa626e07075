"""Several scenes are picked: what they have in common, and what is done with all of them."""

from __future__ import annotations

from PySide6.QtWidgets import QGridLayout

from anatome.app.base.actions import Actions, panel_button
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import Page, label, section

BUTTONS = (
    ("Order", (("scenes_set", "Into a set…"), ("scenes_name", "Name…"))),
    ("What they show", (("scenes_look", "Stage’s look"), ("scenes_lines", "Keep linework"))),
    ("Hand over", (("scenes_sheet", None), ("scenes_send", None))),
    ("Keep", (("scenes_lock", None), ("scenes_delete", "Delete"))),
)
NAMED = 6
"""Scenes that are named; more are counted."""


class ManyScenesPage(Page):
    """The picked scenes."""

    def __init__(self, session: Session, actions: Actions) -> None:
        super().__init__()
        self._session = session
        self.title = label("", "title")
        self.names = label("", "soft")
        self.facts = label("", "soft")
        for words in (self.title, self.names, self.facts):
            self.column.addWidget(words)
        for words_, row in BUTTONS:
            section(self.column, words_)
            grid = QGridLayout()
            grid.setSpacing(4)
            for place, (name, text) in enumerate(row):
                grid.addWidget(panel_button(actions[name], text), 0, place)
            self.column.addLayout(grid)
        hint = (
            "Ctrl and Shift pick more, and a drag over empty paper. Drag them to put them in order. Double click: on the stage."
        )
        self.column.addWidget(label(hint, "soft"))
        self.column.addStretch()

    def refresh(self) -> None:
        picked = self._session.picked.scenes
        scenes = [scene for scene in self._session.project.scenes if scene.id in picked]
        self.title.setText(f"{len(scenes)} scenes" if len(scenes) != 1 else scenes[0].name)
        names = ", ".join(scene.name for scene in scenes[:NAMED])
        self.names.setText(names + (f" and {len(scenes) - NAMED} more" if len(scenes) > NAMED else "") if len(scenes) > 1 else "")
        locked, sets = sum(scene.locked for scene in scenes), {scene.set for scene in scenes if scene.set}
        looks = {scene.state.look.name for scene in scenes}
        said = [f"{len(looks)} looks" if len(looks) > 1 else f"Look: {next(iter(looks), '')}"]
        said += [f"in {len(sets)} sets" if len(sets) > 1 else f"in the set {next(iter(sets))}"] if sets else []
        said += [f"{locked} locked"] if locked else []
        self.facts.setText(", ".join(said))
