"""What has changed in the model's file, before it is taken over and after."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QPushButton, QVBoxLayout, QWidget

from anatome.app.base import units
from anatome.app.commands.changes import ChangesCommands
from anatome.app.document.newer_model import Compared
from anatome.app.document.session import Session
from anatome.app.panels.inspector.model_page import ModelPage
from anatome.app.panels.inspector.page import RowButton, clear, label, section
from anatome.app.panels.inspector.part_list import PartList
from anatome.scenes.change_look import KINDS, tint

MOST = 6
"""Names listed of one kind of change."""


class ChangesPage(ModelPage):
    """Lists what is different by kind, and the scenes that are touched; what is of the open model is tinted on the stage."""

    def __init__(self, session: Session, commands: ChangesCommands) -> None:
        super().__init__(session, commands, "Changes of the model")
        self._commands, self._newer = commands, commands.newer
        self._listed: object = self
        self._build_waiting()
        self.whole = label("", "soft")
        self.column.addWidget(self.whole)
        self._build_buttons()
        self.kinds = {
            kind: PartList(title, commands.look_at, tint=tint(kind), most=MOST) for kind, (title, _) in reversed(KINDS.items())
        }
        self.other = {
            "renamed": PartList("Other name or id", commands.look_at, most=MOST),
            "reassigned": PartList("Other type, layer, storey or group", commands.look_at, most=MOST),
        }
        for part_list in (*self.kinds.values(), *self.other.values()):
            self.column.addWidget(part_list)
        self.scenes = QWidget()
        self._scene_rows = QVBoxLayout(self.scenes)
        self._scene_rows.setContentsMargins(0, 0, 0, 0)
        self._scene_rows.setSpacing(2)
        self.column.addWidget(self.scenes)
        self.column.addStretch()
        self._newer.progressed.connect(lambda share: self.bar.setValue(round(100 * share)))

    def _build_waiting(self) -> None:
        self.waiting = QWidget()
        row = QHBoxLayout(self.waiting)
        row.setContentsMargins(0, 0, 0, 0)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        row.addWidget(self.bar, 1)
        self.stop = QPushButton("Cancel")
        self.stop.clicked.connect(self._newer.forget)
        row.addWidget(self.stop)
        self.column.addWidget(self.waiting)

    def _build_buttons(self) -> None:
        self.take = QPushButton("Take it over")
        self.take.setProperty("role", "primary")
        self.take.setToolTip("Work with the newer model from now on, as one step: scenes, cuts and notes go along")
        self.take.clicked.connect(self._commands.take_over)
        self.later = QPushButton("Leave it for later")
        self.later.setToolTip("Nothing changes; the header goes on saying that there is something newer")
        self.later.clicked.connect(self._commands.leave)
        self.both = QPushButton("Before and after")
        self.both.setToolTip("What the stage shows, before and after, in the place of the stage")
        self.both.clicked.connect(self._commands.show_both)
        self.again = QPushButton("Compare")
        self.again.clicked.connect(self._compare)
        self.other_file = QPushButton("Compare with another file…")
        self.other_file.clicked.connect(self._commands.choose)
        for button in (self.both, self.take, self.later, self.again, self.other_file):
            self.column.addWidget(button)

    def _compare(self) -> None:
        newer = self._newer.newer
        if newer is not None:
            self._commands.compare(newer.path)

    def refresh(self) -> None:
        """Show what is known by now."""
        if not self._session.is_open:
            return
        newer, compared, busy = self._newer.newer, self._newer.compared, self._newer.busy
        taken = self._newer.is_taken
        outdated = newer is not None and compared is not None and newer.digest != compared.model.digest
        self.waiting.setVisible(busy)
        self.both.setVisible(compared is not None)
        self.take.setVisible(compared is not None and not taken)
        self.later.setVisible(compared is not None and not taken)
        self.take.setEnabled(not busy)
        self.again.setVisible(newer is not None and not busy and (compared is None or outdated))
        self.other_file.setVisible(not busy and (compared is None or taken))
        self.facts.setText(self._facts())
        key = compared, self._session.project.scenes, taken
        if key != self._listed:
            self._listed = key
            self._show(compared)
        self.tint(self._tinted(compared))

    def _facts(self) -> str:
        newer, compared = self._newer.newer, self._newer.compared
        if self._newer.busy:
            return "Reading the file and comparing…"
        if self._newer.problem:
            return self._newer.problem
        if compared is None:
            if newer is not None:
                return f"{newer.path.name} was written anew at {newer.written:%H:%M on %d %B}."
            source = self._session.project.model.source or str(self._session.model_path or "")
            return f"Nothing newer is known of {source}." if source else "Where this model came from is not known."
        name = compared.model.path.name if compared.model.path else "The file"
        state = "is taken over" if self._newer.is_taken else "compared with what is open"
        return f"{name} {state}: {self._commands.words()}."

    def _tinted(self, compared: Compared | None) -> frozenset[str]:
        """What is tinted on the stage: nothing while parts are picked, so that one sees which."""
        if compared is None or self._session.picked.elements:
            return frozenset()
        return frozenset().union(*(compared.now if self._newer.is_taken else compared.was).values())

    def _show(self, compared: Compared | None) -> None:
        lists = {**self.kinds, **self.other}
        if compared is None:
            for part_list in lists.values():
                part_list.hide()
            self.whole.hide()
            self.scenes.hide()
            return
        found = compared.change.found
        for kind, part_list in lists.items():
            numbers = np.flatnonzero(getattr(found, kind)).tolist()
            if kind in ("new", "gone"):
                building = (compared.model if kind == "new" else compared.before).building
            elif self._newer.is_taken:
                building, numbers = compared.model.building, found.partner[numbers].tolist()
            else:
                building = compared.before.building
            part_list.show_parts([[i] for i in numbers], building)
        self._say_whole(compared)
        self._list_scenes(compared)

    def _say_whole(self, compared: Compared) -> None:
        whole, told = compared.change.found.whole, []
        if whole.factor != 1.0:
            told.append(f"All of it is {whole.factor:g} times as large: perhaps it is in another unit. Scenes go along.")
        if any(whole.shift):
            x, y, z = (units.length(v, 3, signed=True) for v in whole.shift)
            told.append(f"All of it lies elsewhere, by {x}, {y}, {z}. Cuts, cameras and the site go along.")
        self.whole.setText("\n".join(told))
        self.whole.setVisible(bool(told))

    def _list_scenes(self, compared: Compared) -> None:
        clear(self._scene_rows)
        touches, project = compared.change.touches, self._session.project
        listed = [s for s in project.scenes if any(not touch.is_light for touch in touches.get(s.id, ()))]
        lightly = sum(bool(touches.get(s.id)) for s in project.scenes) - len(listed)
        self.scenes.setVisible(bool(listed or lightly))
        section(self._scene_rows, f"{len(listed)} of {len(project.scenes)} scenes to look over")
        if lightly:
            also = f"{lightly} more show{'s' * (lightly == 1)} parts that are different, and nothing else of them is touched."
            self._scene_rows.addWidget(label(also, "soft"))
        for scene in listed:
            words = "; ".join(touch.what for touch in touches[scene.id])
            over = self._newer.is_taken and not scene.touched
            row = RowButton(f"✓ {scene.name}" if over else scene.name, f"{words[:1].upper()}{words[1:]}. A click shows it.")
            row.clicked.connect(partial(self._recall, scene.id))
            self._scene_rows.addWidget(row)
            self._scene_rows.addWidget(label(words, "soft"))

    def _recall(self, scene_id: str, *_: object) -> None:
        self._commands.recall(scene_id)
