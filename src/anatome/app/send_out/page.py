"""The client's page: which scenes and films are on it, what is done in each, and how large it may be."""

from __future__ import annotations

import shutil
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from anatome.app.base.in_row import in_row
from anatome.app.base.numbers import AmountBox, CountBox
from anatome.app.base.pictures import Pixels, Steps
from anatome.app.base.ticks import Ticks
from anatome.app.base.work import Progress, Work
from anatome.app.document.session import Session
from anatome.app.send_out.drawing_frames import DrawsFrames
from anatome.app.send_out.sizes import pixel_box
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.files import write_whole
from anatome.filming.frames import FrameFolder
from anatome.formats.properties import facts_for
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.page.contents import MEGABYTE, ClientPage, PageItem, usual_item, usual_page
from anatome.page.making import guessed_size, made_page
from anatome.page.pictures import PagePictures, Planned
from anatome.problems import Problem
from anatome.render.pictures import PictureMaker
from anatome.scenes.sheet_frames import section_places
from anatome.work.jobs import PageJob

KINDS = "Pages (*.html)"
SHOWS = {
    "picture": ("Look at it", "A picture, with what is written on it"),
    "cut": ("Drag the cut", "The first cut of the scene goes through the building under the hand"),
    "turn": ("Turn about", "Once round the building"),
    "apart": ("Open and close", "What is drawn apart comes together"),
    "day": ("Sun through the day", "Where it is known where the building stands"),
    "model": ("Turn it freely", "A light model in the tones of the look, on phones too; its cut can be dragged"),
    "looks": ("Wipe two looks", "The scene in its own look and in another one, with a line between that is dragged"),
}
REST = 300
"""Milliseconds after which it is worked out how large it would be."""
WORDS_HIGH = 74


class PageDialog(DrawsFrames):
    """Scenes are ticked; what is said of one is beside the list."""

    def __init__(self, parent: QWidget, session: Session, stage: Stage, folder: Path) -> None:
        name = session.project.name
        super().__init__(parent, "Send out a page", "Make the page", folder, name, ".html", KINDS, stage.pictures)
        self.setMinimumWidth(700)
        self._session = session
        self._items = [usual_item(scene) for scene in session.project.scenes]
        self._looks: list[Look] = [*session.project.looks, *shipped_looks().values()]
        self._guessing = Work(self)
        self._cutter: Cutter | None = None
        self._filling = False
        self._later = QTimer(self, singleShot=True, interval=REST)
        self._later.timeout.connect(self._guess)
        self._build()
        self.scenes.setCurrentRow(min(self.scenes.ticked(), default=0))
        self._later.start()

    def _build(self) -> None:
        project, picked = self._session.project, self._session.picked.scenes
        self.scenes = Ticks([scene.name for scene in project.scenes], 0)
        self.scenes.show_pictures([self._session.pictures.get(scene) for scene in project.scenes])
        self.scenes.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        for row in range(self.scenes.count()):
            self.scenes.item(row).setFlags(self.scenes.item(row).flags() | Qt.ItemFlag.ItemIsSelectable)
        current = project.current_scene
        chosen = [n for n, scene in enumerate(project.scenes) if scene.id in (picked or (current,))]
        self.scenes.tick_only(*(chosen or range(len(project.scenes))))
        self.scenes.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.films = Ticks([film.name for film in project.films], 0)
        self.films.setMinimumHeight(60)
        self.films.setMaximumHeight(76)
        beside = QVBoxLayout()
        self.scene_name = QLabel()
        self.scene_name.setProperty("role", "section")
        self.own = QFormLayout()
        self.own.setHorizontalSpacing(10)
        self.own.setVerticalSpacing(8)
        self.shows, self.look = QComboBox(), QComboBox()
        for key, (words, tip) in SHOWS.items():
            self.shows.addItem(words, key)
            self.shows.setItemData(self.shows.count() - 1, tip, Qt.ItemDataRole.ToolTipRole)
        self.look.addItems([look.name for look in self._looks])
        self.words = QPlainTextEdit()
        self.words.setFixedHeight(WORDS_HIGH)
        self.words.setTabChangesFocus(True)
        self.words.setToolTip("Written under its name")
        self.own.addRow("Can be done", self.shows)
        self.own.addRow("Other look", self.look)
        self.own.addRow("Words", self.words)
        beside.addWidget(self.scene_name)
        beside.addLayout(self.own)
        beside.addWidget(QLabel("Films"))
        beside.addWidget(self.films)
        beside.addStretch()
        beside.setSpacing(8)
        lists = QHBoxLayout()
        lists.setSpacing(18)
        lists.addWidget(self.scenes, 4)
        lists.addLayout(beside, 5)
        self.form.addRow(lists)
        usual = usual_page(project, ())
        self.page_title, self.page_words = QLineEdit(usual.title), QLineEdit(usual.words.replace("\n", ", "))
        self.page_title.setToolTip("Over the page")
        self.page_words.setToolTip("Under its title")
        self.form.addRow("Title", self.page_title)
        self.form.addRow("Under it", self.page_words)
        self.wide = pixel_box(320)
        self.wide.setMaximum(4000)
        self.wide.setValue(usual.width)
        self.frames = CountBox(minimum=2, maximum=200, value=usual.frames)
        self.frames.setSuffix(" frames")
        self.frames.setToolTip("Of what is dragged: more go more smoothly and take more room")
        self.most: QDoubleSpinBox = AmountBox(1.0, 1000.0, 0)
        self.most.setValue(usual.most)
        self.most.setPrefix("at most ")
        self.most.setSuffix(" MB")
        self.zoom = QCheckBox("To look closer")
        self.zoom.setToolTip("Each picture once more, twice as large")
        self.zoom.setChecked(usual.zoom)
        self.form.addRow("Pictures", in_row(self.wide, self.frames, self.most, self.zoom))
        self.guess = QLabel()
        self.guess.setProperty("role", "soft")
        self.form.addRow("", self.guess)
        self.form.addRow("File", self.file_row)
        self.scenes.currentRowChanged.connect(self._show_item)
        for ticks in (self.scenes, self.films):
            ticks.itemChanged.connect(self._later.start)
        for combo in (self.shows, self.look):
            combo.activated.connect(self._change_item)
        self.words.textChanged.connect(self._change_item)
        for box in (self.wide, self.frames, self.most):
            box.valueChanged.connect(self._later.start)
        self.zoom.clicked.connect(self._later.start)

    # What is said ----------------------------------------------------------------------------------------------

    def _show_item(self) -> None:
        row = self.scenes.currentRow()
        if row < 0:
            return
        self._filling = True
        item = self._items[row]
        self.scene_name.setText(self._session.project.scenes[row].name)
        self.shows.setCurrentIndex(self.shows.findData(item.shows))
        names = [look.name for look in self._looks]
        if item.look is not None and item.look.name in names:
            self.look.setCurrentIndex(names.index(item.look.name))
        self.words.setPlainText(item.words)
        self.own.setRowVisible(self.look, item.shows == "looks")
        self._filling = False

    def _change_item(self) -> None:
        row = self.scenes.currentRow()
        if self._filling or row < 0:
            return
        shows = self.shows.currentData()
        look = self._looks[self.look.currentIndex()] if shows == "looks" else None
        self._items[row] = PageItem(scene=self._items[row].scene, shows=shows, look=look, words=self.words.toPlainText()[:2000])
        self.own.setRowVisible(self.look, shows == "looks")
        self._later.start()

    @property
    def page(self) -> ClientPage:
        """The page as it is said."""
        films = self._session.project.films
        return ClientPage(
            title=self.page_title.text(),
            words=self.page_words.text(),
            items=tuple(self._items[n] for n in self.scenes.ticked()),
            films=tuple(films[n].id for n in self.films.ticked()),
            width=self.wide.value(),
            frames=self.frames.value(),
            most=self.most.value(),
            zoom=self.zoom.isChecked(),
        )

    def _pictures(self, page: ClientPage) -> PagePictures:
        """On a thread: the pictures of a page."""
        session, building = self._session, self._session.building
        assert building is not None
        if self._cutter is None or self._cutter.building is not building:
            self._cutter = Cutter(building)
        notes = [note for scene in session.project.scenes for note in scene.state.notes]
        facts = facts_for(building, session.model_path, notes, section_places(session.project))
        return PagePictures(page, session.project, self._cutter, facts)

    def _guess(self) -> None:
        """Say how large it would be."""
        page = self.page

        def work(progress: Progress) -> tuple[int, float]:
            pictures = self._pictures(page)
            return len(pictures.wanted), guessed_size(pictures)

        def told(found: tuple[int, float]) -> None:
            count, size = found
            self.problem.hide()
            full = size >= page.most * MEGABYTE
            about = f"{size / MEGABYTE:.0f} MB: made smaller to fit" if full else f"about {size / MEGABYTE:.1f} MB"
            self.guess.setText(f"{count} pictures, {about}")

        def failed(error: Exception) -> None:
            self.guess.setText("")
            self.show_problem(str(error) if isinstance(error, Problem) else "It could not be worked out how large it would be.")

        if not self.busy:
            self._guessing.run(work, told, failed)

    # Making it -------------------------------------------------------------------------------------------------

    def write(self, path: Path) -> None:
        if path.suffix.lower() not in (".html", ".htm"):
            raise Problem("A page is an HTML file. Give it a name that ends with .html.")
        page = self.page
        if not page.items and not page.films:
            raise Problem("A page needs a scene or a film. Tick one at least.")
        self._guessing.cancel()
        self._under_way = self._work

        def begin(pictures: PagePictures) -> None:
            folder = FrameFolder(path.with_name(f"{path.name}.pictures"), pictures.told, len(pictures.wanted))

            def steps(planned: Planned) -> Steps[Pixels]:
                return lambda on: pictures.steps(PictureMaker(on), planned)

            project, building = self._session.project, self._session.building
            assert building is not None
            count = len(pictures.wanted)

            def job() -> PageJob:
                return PageJob(project, building, pictures.facts, page=page)

            self.draw_missing(folder, count, pictures.plan, steps, lambda: self._pack(pictures, folder, path), job)

        def began(pictures: PagePictures) -> None:
            try:
                begin(pictures)
            except Problem as problem:
                self.not_written(problem)

        self._work.run(lambda progress: self._pictures(page), began, self.not_written)

    def _pack(self, pictures: PagePictures, folder: FrameFolder, path: Path) -> None:
        """All pictures are there: make a page of them, and let them go."""

        def work(progress: Progress) -> str:
            whole = self.drawn_share
            content, quality = made_page(pictures, folder, lambda share: progress(whole + (1.0 - whole) * share))
            if not progress.keep():
                return ""
            write_whole(path, content.encode())
            shutil.rmtree(folder.path, ignore_errors=True)
            return f"Wrote a page of {path.stat().st_size / MEGABYTE:.1f} MB{quality} to {path}"

        self._under_way = self._work
        self._work.run(work, self.written, self.not_written)
