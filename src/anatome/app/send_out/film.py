"""A film, or one move in a scene: looked at moment by moment first, then drawn frame by frame and written as a file."""

from __future__ import annotations

import shutil
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QCheckBox, QComboBox, QLabel, QSlider, QWidget

from anatome.app.base.images import image_of
from anatome.app.base.in_row import in_row
from anatome.app.base.numbers import CountBox, NumberField
from anatome.app.base.papers import papers, usual_paper
from anatome.app.base.pictures import Making, Pixels
from anatome.app.base.work import Progress
from anatome.app.document.session import Session
from anatome.app.films.frame_steps import Planned, in_frame
from anatome.app.films.shot_words import MOVES, ON_A_PATH
from anatome.app.send_out.drawing_frames import DrawsFrames
from anatome.app.send_out.scene_choice import SceneChoice, name_for
from anatome.app.send_out.sizes import pixel_box
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.files import write_whole
from anatome.filming.frames import FrameDrawer, FrameFolder, FrameSettings, told_of
from anatome.filming.on_paper import paper_bytes
from anatome.films.timeline import Timeline
from anatome.formats.film import DRAFT_SAMPLES, FILM_SUFFIXES, QUALITIES, FilmSettings, check_film, write_film
from anatome.formats.properties import facts_for
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.notes.facts import Facts
from anatome.problems import Problem
from anatome.scenes.film import LONGEST_SHOT, AnyShot, Film, shot_of
from anatome.scenes.project import Project, Scene
from anatome.scenes.sheet_frames import section_places
from anatome.work.jobs import FilmJob

KINDS = "Films (*.mp4 *.webm *.gif *.webp);;On paper (*.pdf)"
FRAMES, CONTACT, FLIP = "frames", "contact", "flip"
WAYS = (
    (".mp4", "MP4", "H.264, which opens everywhere"),
    (".webm", "WebM", "VP9, for pages"),
    (".webp", "WebP", "An animated picture in full colour, perhaps without a ground"),
    (".gif", "GIF", "An animated picture of 256 colours, for letters"),
    (FRAMES, "PNG, one for each frame", "Into a folder, numbered from 0001, for those who cut films"),
    (CONTACT, "Contact print", "Small pictures in rows on a paper, each with its time"),
    (FLIP, "Cards to flip through", "Pages to cut apart, each card with its number and a margin to hold it by"),
)
ENDINGS = {FRAMES: "", CONTACT: ".pdf", FLIP: ".pdf"}
"""Of what is no film."""
ON_PAPER = {CONTACT: 24, FLIP: 60}
"""How many pictures are on paper at first."""
ONE_MOVE = [word for word in MOVES if word not in ("card", "hold", "travel", *ON_A_PATH)]
"""Moves of a film that is made here and now, of one scene."""
LOOPS, CLEAR = (".gif", ".webp"), (".webp", FRAMES)
"""Ways of which one may go on for ever, and of which one may have no ground."""
PROOF, PROOF_SAMPLES = 4, 3
"""How many times smaller a proof is, and samples of each of its frames."""
STAGE = "stage"
"""The id of the stage as it is now, as a scene."""
PREVIEW = 400
"""Pixels across of the moment that is looked at."""
REST = 60
"""Milliseconds after which a moment that was chosen is drawn."""


class FilmDialog(DrawsFrames):
    """A film of the project, or one move in a scene. Frames that are drawn stay when it is cancelled, and are used when the same
    film is made again."""

    def __init__(self, parent: QWidget, session: Session, stage: Stage, folder: Path, film: Film | None = None) -> None:
        name = name_for(session) if film is None else film.name
        super().__init__(parent, "Send out a film", "Make the film", folder, name, ".mp4", KINDS, stage.pictures)
        self._session, self._looking = session, Making(self, stage.pictures)
        self._drawers: dict[object, FrameDrawer] = {}
        self._cutter: Cutter | None = None
        self._said: tuple[object, Facts] | None = None
        self._later = QTimer(self, singleShot=True, interval=REST)
        self._later.timeout.connect(self._look)
        self._build(stage)
        self.film.setCurrentIndex(max(self.film.findData(None if film is None else film.id), 0))
        self._show_move()

    def _build(self, stage: Stage) -> None:
        self.film = QComboBox()
        self.film.addItem("One move in a scene", None)
        for film in self._session.project.films:
            self.film.addItem(film.name, film.id)
        self.form.addRow("Film", self.film)
        self.scene = SceneChoice(self._session, stage)
        self.form.addRow("Film of", self.scene)
        self.move_ = QComboBox()
        for word in ONE_MOVE:
            self.move_.addItem(MOVES[word][0], word)
            self.move_.setItemData(self.move_.count() - 1, MOVES[word][1], Qt.ItemDataRole.ToolTipRole)
        self.form.addRow("What moves", self.move_)
        self.degrees = NumberField("°", 15.0)
        self.degrees.show_value(360.0)
        self.form.addRow("By", self.degrees)
        self.resting = QCheckBox("Rests on its way")
        self.resting.setToolTip("Over every floor; an upright cut at the clean places of the scout")
        self.form.addRow("", self.resting)
        self.looks: list[Look] = [*self._session.project.looks, *shipped_looks().values()]
        self.look = QComboBox()
        self.look.addItems([look.name for look in self.looks])
        self.form.addRow("Look", self.look)
        self.begins, self.ends = CountBox(maximum=23, value=7), CountBox(minimum=1, maximum=24, value=20)
        self.hours = in_row(QLabel("from"), self.begins, QLabel("to"), self.ends, QLabel("o'clock, at midsummer"))
        self.form.addRow("Hours", self.hours)
        self.seconds = CountBox(minimum=1, maximum=int(LONGEST_SHOT), value=6)
        self.seconds.setSuffix(" s")
        self.form.addRow("Length", self.seconds)
        self.way, self.quality, self.rate = QComboBox(), QComboBox(), CountBox(minimum=1, maximum=60, value=25)
        for ending, words, tip in WAYS:
            self.way.addItem(words, ending)
            self.way.setItemData(self.way.count() - 1, tip, Qt.ItemDataRole.ToolTipRole)
        self.rate.setSuffix(" frames a second")
        for name in QUALITIES:
            self.quality.addItem(f"{name.capitalize()} quality", name)
        self.quality.setToolTip("A draft is drawn three times as fast")
        self.quality.setCurrentIndex(1)
        self.form.addRow("As", in_row(self.way, self.quality))
        self.wide, self.high = pixel_box(), pixel_box()
        self.wide.setValue(1280)
        self.high.setValue(720)
        self.form.addRow("Size", in_row(self.wide, QLabel("×"), self.high, self.rate))
        self.count, self.paper = CountBox(minimum=2, maximum=600, value=ON_PAPER[CONTACT]), QComboBox()
        self.count.setSuffix(" pictures")
        for name, size in papers().items():
            self.paper.addItem(name, size)
        self.paper.setCurrentIndex(max(self.paper.findData(usual_paper()), 0))
        self.on_paper = in_row(self.count, QLabel("on"), self.paper)
        self.form.addRow("On paper", self.on_paper)
        self.proof = QCheckBox("Proof, a quarter as large")
        self.proof.setToolTip("Quickly, to look at before the night is spent on it")
        self.loop, self.clear = QCheckBox("Goes on for ever"), QCheckBox("Without a ground")
        self.loop.setChecked(True)
        self.form.addRow("", in_row(self.proof, self.loop, self.clear))
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
        for combo in (self.film, self.move_):
            combo.currentIndexChanged.connect(self._show_move)
        self.way.activated.connect(self._show_way)
        self.path.textChanged.connect(self._follow_path)
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
        own = self.film.currentData() is None
        kind = self.move_.currentData() if own else ""
        for of_one in (self.scene, self.move_, self.seconds):
            self.form.setRowVisible(of_one, own)
        rows: tuple[tuple[str, QWidget], ...] = (
            ("turn", self.degrees),
            ("rise sweep", self.resting),
            ("look", self.look),
            ("day", self.hours),
        )
        for words, row in rows:
            self.form.setRowVisible(row, own and kind in words.split())
        way = self.way.currentData()
        self.loop.setVisible(way in LOOPS)
        self.clear.setVisible(way in CLEAR)
        self.quality.setVisible(way not in ENDINGS)
        self.rate.setVisible(way not in ON_PAPER)
        self.form.setRowVisible(self.on_paper, way in ON_PAPER)
        self.moment.setEnabled(not self.busy)

    def _show_way(self) -> None:
        """The name of the file says how it is written."""
        path, way = Path(self.path.text()), self.way.currentData()
        ending = ENDINGS.get(way, way)
        known = path.suffix.lower() in (*FILM_SUFFIXES, ".pdf")
        self.path.setText(str(path.with_suffix(ending) if known else f"{path}{ending}"))
        self.count.setValue(ON_PAPER.get(way, self.count.value()))
        self.show_rows()

    def _follow_path(self, text: str) -> None:
        ending, way = Path(text).suffix.lower(), self.way.currentData()
        if ending == ENDINGS.get(way, way):
            return
        found = self.way.findData(CONTACT if ending == ".pdf" else ending if ending in FILM_SUFFIXES else FRAMES)
        self.way.setCurrentIndex(found)
        self.show_rows()

    @property
    def size_px(self) -> tuple[int, int]:
        wide, high = self.wide.value(), self.high.value()
        if self.proof.isChecked():
            wide, high = (max(2 * round(side / PROOF / 2), 16) for side in (wide, high))
        return wide, high

    def _shot(self, scene: Scene) -> AnyShot:
        move, begins, ends = self.move_.currentData(), self.begins.value(), self.ends.value()
        if move == "day" and begins >= ends:
            raise Problem("A day's hours go forward: choose a later one to end with.")
        said = {"resting": self.resting.isChecked(), "degrees": self.degrees.shown, "begins": begins, "ends": ends}
        return shot_of(move, scene.id, float(self.seconds.value()), look=self.looks[self.look.currentIndex()], **said)

    def _film(self) -> tuple[Film, Project]:
        """The film as it is said, and the project it is of, in which the stage is a scene like others."""
        project = self._session.project
        chosen = project.film(self.film.currentData())
        if chosen is not None:
            return chosen, project
        scene = self.scene.chosen
        scene = scene if scene.id else scene.model_copy(update={"id": STAGE})
        film = Film(id="move", name=scene.name, shots=(self._shot(scene),))
        others = tuple(one for one in project.scenes if one.id != scene.id)
        return film, project.model_copy(update={"scenes": (*others, scene)})

    def _drawer(self, film: Film, project: Project, settings: FrameSettings) -> FrameDrawer:
        """On a thread: put the film to the building; kept as long as the same is wanted."""
        key = film, project.scenes, settings
        if key not in self._drawers:
            building = self._session.building
            assert building is not None
            if self._cutter is None or self._cutter.building is not building:
                self._cutter = Cutter(building)
            if len(self._drawers) > 1:
                self._drawers.clear()
            timeline = Timeline(film, project, self._cutter, settings.size[0] / settings.size[1])
            self._drawers[key] = FrameDrawer(timeline, project, settings, self._facts(project))
        return self._drawers[key]

    def _facts(self, project: Project) -> Facts:
        """What is written on scenes can say; looked up once."""
        building = self._session.building
        assert building is not None
        if self._said is None or self._said[0] is not project.scenes:
            notes = [note for scene in project.scenes for note in scene.state.notes]
            self._said = project.scenes, facts_for(building, self._session.model_path, notes, section_places(project))
        return self._said[1]

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
        share, aspect = self.moment.value() / 1000, self.wide.value() / self.high.value()
        box = self.picture.size()
        wide = min(box.width(), round(box.height() * aspect))
        ratio = self.devicePixelRatioF()
        settings = FrameSettings((max(16, round(wide * ratio)), max(16, round(wide / aspect * ratio))), samples=1)

        def prepare(progress: Progress) -> Planned:
            drawer = self._drawer(film, project, settings)
            return drawer, drawer.plan_at(share * film.seconds)

        def show(pixels: Pixels) -> None:
            self.problem.hide()
            picture = QPixmap.fromImage(image_of(pixels))
            picture.setDevicePixelRatio(ratio)
            self.picture.setPixmap(picture)

        self._looking.make(prepare, in_frame, None, show, self._not_shown)

    def _not_shown(self, error: Exception) -> None:
        self.picture.clear()
        self.show_problem(str(error) if isinstance(error, Problem) else "This moment could not be drawn.")

    # Making it -------------------------------------------------------------------------------------------------

    def write(self, path: Path) -> None:
        size, rate, way = self.size_px, float(self.rate.value()), self.way.currentData()
        coded = FilmSettings(size, rate, self.quality.currentData(), self.loop.isChecked())
        if way not in ENDINGS:
            check_film(path, coded)
        film, project = self._film()
        self._looking.cancel()
        clear = way in CLEAR and self.clear.isChecked()
        draft = DRAFT_SAMPLES if way not in ENDINGS and coded.quality == "draft" else None
        samples = PROOF_SAMPLES if self.proof.isChecked() else draft
        count = max(1, round(film.seconds * rate))
        if way in ON_PAPER:
            count = self.count.value()
            rate = count / film.seconds
        settings = FrameSettings(size, rate, "transparent" if clear else "paper", samples)
        there = path if way == FRAMES else path.with_name(f"{path.name}.frames")
        folder = FrameFolder(there, told_of(film, project, settings), count)

        def plan(frame: int) -> Planned:
            drawer = self._drawer(film, project, settings)
            return drawer, drawer.plan(frame)

        building = self._session.building
        assert building is not None

        def job() -> FilmJob:
            return FilmJob(project, building, self._facts(project), film=film, settings=settings)

        self.draw_missing(folder, count, plan, in_frame, lambda: self._code(folder, film, coded, path, count), job)

    def _code(self, folder: FrameFolder, film: Film, coded: FilmSettings, path: Path, count: int) -> None:
        """All frames are there: make a file of them, and let them go."""
        (across, up), way, paper = coded.size, self.way.currentData(), self.paper.currentData()
        if way == FRAMES:
            self.written(f"Wrote {count} frames, {across} × {up} pixels, into {path}")
            return

        def work(progress: Progress) -> str:
            if way in ON_PAPER:
                content = paper_bytes(film.name, list(folder.all()), film.seconds, paper, way == FLIP, ".pdf")
                write_whole(path, content)
                said = f"Wrote {count} pictures on paper to {path}"
            else:
                write_film(path, folder.all(), coded)
                said = f"Wrote a film of {count} frames, {across} × {up} pixels, to {path}"
            shutil.rmtree(folder.path, ignore_errors=True)
            return said

        self._under_way = self._work
        self._work.run(work, self.written, self.not_written)
