"""A film of one move in a scene: looked at moment by moment first, then drawn frame by frame and written as a file."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QSlider, QWidget

from anatome.app.base.images import image_of
from anatome.app.base.numbers import CountBox, NumberField
from anatome.app.base.pictures import Making, Pixels, in_picture
from anatome.app.base.work import Progress
from anatome.app.document.session import Session
from anatome.app.send_out.dialog import SendOut
from anatome.app.send_out.scene_choice import SceneChoice, name_for
from anatome.app.send_out.sizes import pixel_box
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.filming.frames import FrameFolder, FrameSettings, frame_view, told_of
from anatome.films.timeline import Timeline
from anatome.formats.film import QUALITIES, FilmSettings, check_film, write_film
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.problems import Problem
from anatome.scenes.film import LONGEST_SHOT, AnyShot, Film, shot_of
from anatome.scenes.project import Project, Scene
from anatome.scenes.scene_view import View

KINDS = "Films (*.mp4 *.webm *.gif *.webp)"
MOVES = (
    ("rise", "A level cut rises", "The building grows from the ground up"),
    ("sweep", "An upright cut goes through", "From the front of the picture to the back"),
    ("turn", "The camera turns about", "Round the middle of the building"),
    ("explode", "Storeys open", "What is exploded opens; the storeys, where nothing is"),
    ("together", "Storeys come together", "The same the other way round"),
    ("day", "The sun goes through a day", "Where it is known where the building stands"),
    ("look", "Another look comes", "It takes the place of the scene's"),
)
STAGE = "stage"
"""The id of the stage as it is now, as a scene."""
PREVIEW = 400
"""Pixels across of the moment that is looked at."""
REST = 60
"""Milliseconds after which a moment that was chosen is drawn."""
DRAWN = 0.96
"""Share of the time that frames take, of all of it."""


class FilmDialog(SendOut):
    """Frames that are drawn stay when it is cancelled, and are used when the same film is made again."""

    after_cancel = "the frames drawn so far are used when it is made again"

    def __init__(self, parent: QWidget, session: Session, stage: Stage, folder: Path) -> None:
        super().__init__(parent, "Send out a film", "Make the film", folder, name_for(session), ".mp4", KINDS)
        self._session, self._number, self._count = session, 0, 1
        self._making, self._looking = Making(self, stage.pictures), Making(self, stage.pictures)
        self._making.progressed.connect(self._show_drawn)
        self._timeline: tuple[object, Timeline] | None = None
        self._cutter: Cutter | None = None
        self._later = QTimer(self, singleShot=True, interval=REST)
        self._later.timeout.connect(self._look)
        self._build(stage)
        self._show_move()

    def _build(self, stage: Stage) -> None:
        self.scene = SceneChoice(self._session, stage)
        self.form.addRow("Film of", self.scene)
        self.move_ = QComboBox()
        for key, words, tip in MOVES:
            self.move_.addItem(words, key)
            self.move_.setItemData(self.move_.count() - 1, tip, Qt.ItemDataRole.ToolTipRole)
        self.form.addRow("What moves", self.move_)
        self.degrees = NumberField("°", 15.0)
        self.degrees.show_value(360.0)
        self.form.addRow("By", self.degrees)
        self.resting = QCheckBox("Rests over every floor")
        self.form.addRow("", self.resting)
        self.looks: list[Look] = [*self._session.project.looks, *shipped_looks().values()]
        self.look = QComboBox()
        self.look.addItems([look.name for look in self.looks])
        self.form.addRow("Look", self.look)
        self.begins, self.ends = CountBox(maximum=23, value=7), CountBox(minimum=1, maximum=24, value=20)
        self.hours = _row(QLabel("from"), self.begins, QLabel("to"), self.ends, QLabel("o'clock, at midsummer"))
        self.form.addRow("Hours", self.hours)
        self.seconds, self.rate = (
            CountBox(minimum=1, maximum=int(LONGEST_SHOT), value=6),
            CountBox(minimum=1, maximum=60, value=25),
        )
        self.seconds.setSuffix(" s")
        self.rate.setSuffix(" frames a second")
        self.form.addRow("Length", _row(self.seconds, self.rate))
        self.wide, self.high, self.quality = pixel_box(), pixel_box(), QComboBox()
        self.wide.setValue(1280)
        self.high.setValue(720)
        for name in QUALITIES:
            self.quality.addItem(name.capitalize(), name)
        self.quality.setCurrentIndex(1)
        self.form.addRow("Size", _row(self.wide, QLabel("×"), self.high, self.quality))
        self.picture = QLabel()
        self.picture.setFixedSize(PREVIEW, round(PREVIEW * 9 / 16))
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.form.addRow("Look at it", self.picture)
        self.moment = QSlider(Qt.Orientation.Horizontal)
        self.moment.setRange(0, 1000)
        self.moment.setValue(500)
        self.moment.setToolTip("Any moment of it, drawn quickly")
        self.form.addRow("", self.moment)
        self.form.addRow("File", self.file_row)
        self.move_.currentIndexChanged.connect(self._show_move)
        for combo in (self.scene, self.look):
            combo.currentIndexChanged.connect(self._later_again)
        for box in (self.begins, self.ends, self.wide, self.high):
            box.valueChanged.connect(self._later_again)
        self.moment.valueChanged.connect(self._later_again)
        self.resting.clicked.connect(self._later_again)
        for signal in (self.degrees.entered, self.degrees.nudged):
            signal.connect(self.degrees.show_value)
            signal.connect(self._later_again)

    # What is said ----------------------------------------------------------------------------------------------

    def _show_move(self) -> None:
        self.show_rows()
        self._later_again()

    def show_rows(self) -> None:
        kind = self.move_.currentData()
        for own, row in (("turn", self.degrees), ("rise", self.resting), ("look", self.look), ("day", self.hours)):
            self.form.setRowVisible(row, kind == own)
        self.moment.setEnabled(not self.busy)

    @property
    def size_px(self) -> tuple[int, int]:
        return self.wide.value(), self.high.value()

    def _shot(self, scene: Scene) -> AnyShot:
        move, begins, ends = self.move_.currentData(), self.begins.value(), self.ends.value()
        if move == "day" and begins >= ends:
            raise Problem("A day's hours go forward: choose a later one to end with.")
        said = {"resting": self.resting.isChecked(), "degrees": self.degrees.shown, "begins": begins, "ends": ends}
        return shot_of(move, scene.id, float(self.seconds.value()), look=self.looks[self.look.currentIndex()], **said)

    def _film(self) -> tuple[Film, Project]:
        """The film as it is said, and the project it is of, in which the stage is a scene like others."""
        scene = self.scene.chosen
        scene = scene if scene.id else scene.model_copy(update={"id": STAGE})
        film = Film(id="move", name=scene.name, shots=(self._shot(scene),))
        others = tuple(one for one in self._session.project.scenes if one.id != scene.id)
        return film, self._session.project.model_copy(update={"scenes": (*others, scene)})

    def _timeline_of(self, film: Film, project: Project, aspect: float) -> Timeline:
        """On a thread: put it to the building; kept as long as the same is wanted."""
        key = film, project.scenes[-1], aspect
        if self._timeline is None or self._timeline[0] != key:
            building = self._session.building
            assert building is not None
            if self._cutter is None or self._cutter.building is not building:
                self._cutter = Cutter(building)
            self._timeline = key, Timeline(film, project, self._cutter, aspect)
        return self._timeline[1]

    # Looking at it ---------------------------------------------------------------------------------------------

    def _later_again(self, *_: object) -> None:
        self._later.start()

    def _look(self) -> None:
        """Draw the moment that is chosen, as quickly as can be."""
        if self.busy:
            return
        try:
            film, project = self._film()
        except Problem as problem:
            self.show_problem(str(problem))
            return
        aspect, share = self.size_px[0] / self.size_px[1], self.moment.value() / 1000
        box = self.picture.size()
        wide = min(box.width(), round(box.height() * aspect))
        ratio = self.devicePixelRatioF()
        size = max(16, round(wide * ratio)), max(16, round(wide / aspect * ratio))

        def prepare(progress: Progress) -> View:
            timeline = self._timeline_of(film, project, aspect)
            return frame_view(timeline, share * timeline.seconds, aspect)

        def show(pixels: Pixels) -> None:
            self.problem.hide()
            picture = QPixmap.fromImage(image_of(pixels))
            picture.setDevicePixelRatio(ratio)
            self.picture.setPixmap(picture)

        self._looking.make(prepare, lambda view: in_picture(view, size, "paper", 1), None, show, self._not_shown)

    def _not_shown(self, error: Exception) -> None:
        self.picture.clear()
        self.show_problem(str(error) if isinstance(error, Problem) else "This moment could not be drawn.")

    # Making it -------------------------------------------------------------------------------------------------

    def write(self, path: Path) -> None:
        size, rate = self.size_px, float(self.rate.value())
        coded = FilmSettings(size, rate, self.quality.currentData())
        check_film(path, coded)
        film, project = self._film()
        self._looking.cancel()
        settings = FrameSettings(size, rate, "paper")
        self._count = max(1, round(film.seconds * rate))
        folder = FrameFolder(path.with_name(f"{path.name}.frames"), told_of(film, project, settings), self._count)
        self._of = film, project, settings, folder, coded, path
        self._todo = folder.missing()
        self._next(0)

    def _next(self, number: int) -> None:
        """Put the state of a frame to work on a thread, draw it on the stage's context, keep it on a thread; then the next."""
        film, project, settings, folder, *_ = self._of
        if number == len(self._todo):
            self._code()
            return
        if not self.goes_on():
            return
        frame, aspect = self._todo[number], settings.size[0] / settings.size[1]

        def prepare(progress: Progress) -> View:
            timeline = self._timeline_of(film, project, aspect)
            return frame_view(timeline, frame / settings.rate, aspect)

        def pack(progress: Progress, found: Any) -> None:
            folder.put(frame, found)

        self._number, self._under_way = number, self._making
        self._making.make(
            prepare,
            lambda view: in_picture(view, settings.size, settings.ground),
            pack,
            lambda _: self._next(number + 1),
            self.not_written,
        )

    def _code(self) -> None:
        """All frames are there: make a file of them, and let them go."""
        _, _, settings, folder, coded, path = self._of

        def work(progress: Progress) -> str:
            write_film(path, folder.all(), coded)
            shutil.rmtree(folder.path, ignore_errors=True)
            across, up = settings.size
            return f"Wrote a film of {self._count} frames, {across} × {up} pixels, to {path}"

        self._under_way = self._work
        self._work.run(work, self.written, self.not_written)

    def _show_drawn(self, share: float) -> None:
        there = self._count - len(self._todo)
        self.show_share(DRAWN * (there + self._number + share) / self._count)

    def said(self, words: str) -> None:
        self._session.said.emit(words)


def _row(*widgets: QWidget) -> QWidget:
    """Widgets beside one another, as one."""
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(8)
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch()
    return holder
