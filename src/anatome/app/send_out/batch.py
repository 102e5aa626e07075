"""Many pictures in one go: chosen scenes in chosen looks."""

from __future__ import annotations

from datetime import date
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base.in_row import in_row
from anatome.app.base.pictures import Making, Pictures, Steps, in_picture
from anatome.app.base.ticks import Ticks
from anatome.app.base.waiting import LIGHT_SHARE
from anatome.app.base.work import Progress
from anatome.app.document.preferences import remember_sent
from anatome.app.document.session import Session
from anatome.app.send_out.dialog import SendOut
from anatome.app.send_out.sizes import dots_box, pixel_box
from anatome.cuts.dissection import Cutter
from anatome.files import make_folder, write_whole
from anatome.formats.about import about
from anatome.formats.pictures_out import openraster_bytes, writer_for
from anatome.formats.properties import facts_for
from anatome.formats.sent_out import SentOut
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.problems import Problem
from anatome.render.passes import passes_steps
from anatome.render.pictures import Ground
from anatome.render.stills import lit
from anatome.scenes.batch import FIELDS, BatchSettings, Planned, mark_of, pixels, planned
from anatome.scenes.scene_view import View, view_of
from anatome.scenes.sheet_frames import section_places

OWN_LOOK = "The scene's own look"
KINDS = ((".png", "PNG"), (".tif", "TIFF"), (".jpg", "JPEG"), (".webp", "WebP"), (".ora", "OpenRaster, in layers"))


class BatchDialog(SendOut):
    """Pictures of many scenes into a folder, one after the other; what is written stays if it is cancelled."""

    after_cancel = "the pictures written so far stay"

    def __init__(self, parent: QWidget, session: Session, pictures: Pictures, folder: Path, again: SentOut | None = None) -> None:
        super().__init__(parent, "Send out many pictures", "Write pictures", folder, "pictures", "", "")
        self.setMinimumWidth(620)
        self._session, self._number = session, 0
        self._making = Making(self, pictures)
        self._making.progressed.connect(self._show_made)
        self._looks: list[Look | None] = [None, *session.project.looks, *shipped_looks().values()]
        names = [OWN_LOOK if look is None else look.name for look in self._looks]
        scenes, picked = session.project.scenes, session.picked.scenes
        self.scenes = Ticks([s.name for s in scenes], len(scenes))
        if picked:
            self.scenes.tick_only(*(i for i, scene in enumerate(scenes) if scene.id in picked))
        self.looks = Ticks(names, 1)
        lists = QHBoxLayout()
        for words, widget in (("Scenes", self.scenes), ("Looks", self.looks)):
            column = QVBoxLayout()
            column.addWidget(QLabel(words))
            column.addWidget(widget)
            lists.addLayout(column)
        self.form.addRow(lists)
        self.width_px, self.dpi, self.kind, self.ground = pixel_box(), dots_box(), QComboBox(), QComboBox()
        self.width_px.setValue(4000)
        self.dpi.setToolTip("Written into the pictures; a scene at a scale takes its size from it")
        for key, words in KINDS:
            self.kind.addItem(words, key)
        for key, words in (("transparent", "Transparent"), ("white", "White"), ("paper", "The look's paper")):
            self.ground.addItem(words, key)
        self.pattern = QLineEdit("{number} {scene}")
        self.pattern.setToolTip("It may have " + ", ".join(f"{{{field}}}: {words}" for field, words in FIELDS.items()))
        self.example = QLabel()
        self.example.setProperty("role", "soft")
        self.example.setWordWrap(True)
        self.form.addRow("Size", in_row(self.width_px, QLabel("wide,"), self.dpi))
        self.form.addRow("As", in_row(self.kind, QLabel("on"), self.ground))
        self.form.addRow("Names", self.pattern)
        self.form.addRow("", self.example)
        self.form.addRow("Folder", self.file_row)
        self.changed = QCheckBox("Only what has changed")
        self.changed.setToolTip("Pictures that are in the folder already and would be the same are left as they are")
        self.form.addRow("", self.changed)
        self.pattern.textChanged.connect(self._show_example)
        self.scenes.itemChanged.connect(self._show_example)
        self.looks.itemChanged.connect(self._looks_ticked)
        if again is not None:
            self._take(again)
        self._show_example()

    def _take(self, again: SentOut) -> None:
        """Have everything as it was when the pictures in a folder were sent out, as far as it is still there."""
        said = BatchSettings.model_validate(again.settings)
        names = ["" if look is None else look.name for look in self._looks]
        self.scenes.tick_only(*(i for i, scene in enumerate(self._session.project.scenes) if scene.id in said.scenes))
        self.looks.tick_only(*(i for i, name in enumerate(names) if name in said.looks))
        self.width_px.setValue(said.width)
        self.dpi.setValue(said.dots)
        self.kind.setCurrentIndex(max(self.kind.findData(said.kind), 0))
        self.ground.setCurrentIndex(max(self.ground.findData(said.ground), 0))
        self.pattern.setText(said.names)
        self.path.setText(str(again.folder))
        self.changed.setChecked(True)

    @property
    def _settings(self) -> BatchSettings:
        """All that decides what is written, to be sent out again so."""
        looks = [self._looks[i] for i in self.looks.ticked()]
        return BatchSettings(
            scenes=tuple(self._session.project.scenes[i].id for i in self.scenes.ticked()),
            looks=tuple("" if look is None else look.name for look in looks),
            width=self.width_px.value(),
            dots=self.dpi.value(),
            kind=self.kind.currentData(),
            ground=self.ground.currentData(),
            names=self.pattern.text(),
        )

    def browse(self) -> None:
        name = QFileDialog.getExistingDirectory(self, self.windowTitle(), self.path.text())
        if name:
            self.path.setText(name)

    def _looks_ticked(self) -> None:
        usual = ("{number} {scene}", "{number} {scene}, {look}")
        if self.pattern.text() in usual:
            self.pattern.setText(usual[len(self.looks.ticked()) > 1])
        self._show_example()

    def _plan(self) -> list[Planned]:
        project = self._session.project
        scenes = [project.scenes[i] for i in self.scenes.ticked()]
        return planned(project.name, scenes, [self._looks[i] for i in self.looks.ticked()], self.pattern.text())

    def _show_example(self) -> None:
        try:
            plan = self._plan()
        except Problem as problem:
            self.example.setText(str(problem))
            self.go.setEnabled(False)
            return
        self.go.setEnabled(bool(plan) and not self.busy)
        first = f", the first “{plan[0].name}{self.kind.currentData()}”" if plan else ""
        self.example.setText(f"{len(plan)} {'picture' if len(plan) == 1 else 'pictures'}{first}")

    # Writing ---------------------------------------------------------------------------------------------------

    def write(self, path: Path) -> None:
        plan = self._plan()
        make_folder(path)
        building = self._session.building
        assert building is not None
        self._of = self._ground(), self.kind.currentData(), self.width_px.value(), float(self.dpi.value())
        self._sent, ending = SentOut(path), self.kind.currentData()
        self._sent.keep(self._settings.model_dump(mode="json"))
        remember_sent(self._session.project_path, path)
        marks = {one.name: mark_of(one.scene, self._session.project, self._of) for one in plan}
        if self.changed.isChecked():
            plan = [one for one in plan if not self._sent.is_current(f"{one.name}{ending}", marks[one.name])]
        self._left = len(marks) - len(plan)
        self._marks, self._folder, self._todo, self._cutter = marks, path, plan, Cutter(building)
        self._next(0)

    def _ground(self) -> Ground:
        found: Ground = self.ground.currentData()
        return "paper" if found == "transparent" and self.kind.currentData() == ".ora" else found

    def _next(self, number: int) -> None:
        """Cut one open on a thread, draw it on the stage's context, write it on a thread; then the next."""
        if number == len(self._todo):
            count = len(self._todo)
            left = f"; {self._left} had not changed" if self._left else ""
            self.written(f"Wrote {count} {'picture' if count == 1 else 'pictures'} to {self._folder}{left}")
            return
        if not self.goes_on():
            return
        one, (ground, ending, width, dpi) = self._todo[number], self._of
        size, site = pixels(one.scene, width, dpi), self._session.project.site
        path, model = self._folder / f"{one.name}{ending}", self._session.model_path
        sections = section_places(self._session.project)

        def steps(view: View) -> Steps[Any]:
            if ending == ".ora":
                return lambda on: passes_steps(on, view, size, (), True, ground)
            return in_picture(view, size, ground)

        def prepare(progress: Progress) -> View:
            facts = facts_for(self._cutter.building, model, one.scene.state.notes, sections)
            return lit(view_of(self._cutter, one.scene, None, site, facts), size, one.scene.state.still, progress)

        told = about(one.scene, self._session.project.name, date.today().isoformat())

        def pack(progress: Progress, found: Any) -> None:
            written = openraster_bytes(found, dpi) if ending == ".ora" else writer_for(path)(found, dpi, told)
            if progress.keep():
                write_whole(path, written)
                self._sent.put(path.name, self._marks[one.name])

        def done(_: None) -> None:
            self._next(number + 1)

        self._number, self._under_way = number, self._making
        light = LIGHT_SHARE if one.scene.state.still else 0.0
        self._making.make(prepare, steps, pack, done, self.not_written, (light, 1.0))

    def _show_made(self, share: float) -> None:
        self.show_share((self._number + share) / max(len(self._todo), 1))
