"""Any moment of the open film on the stage, and the film as it runs. Nothing of it is part of the project."""

from __future__ import annotations

import time
from dataclasses import replace

from PySide6.QtCore import QEvent, QObject, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath
from PySide6.QtWidgets import QApplication, QWidget

from anatome.app.base import theme
from anatome.app.base.images import image_of
from anatome.app.base.work import Progress, Work
from anatome.app.document.film_desk import FilmDesk
from anatome.app.document.session import Session
from anatome.app.stage.passage import Passage
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.filming.words import caption_drawn, card_drawn, fields_of_film, words_on_paper
from anatome.films.moves import Moment
from anatome.films.timeline import Timeline
from anatome.problems import Problem
from anatome.render.drawings import notes_image
from anatome.scenes.project import StageState
from anatome.scenes.sheet_frames import filled

ASPECT = 16 / 9
"""Width over height of the picture that is shown on the stage."""
BEAT = 15
"""Milliseconds from one moment to the next; a moment whose picture takes longer is passed over."""
REST = 120
"""Milliseconds without another step after which a film is put to the building anew."""
ENDS = {QEvent.Type.MouseButtonPress, QEvent.Type.Wheel}


class Player(QObject):
    """``moved``: there is another moment; ``changed``: it runs, stands, or cannot be shown, which ``problem`` says in words.
    ``image`` lies over the stage while a moment is shown."""

    moved = Signal()
    changed = Signal()

    def __init__(self, session: Session, stage: Stage, desk: FilmDesk, passage: Passage) -> None:
        super().__init__(stage)
        self._session, self._stage, self._desk, self._passage = session, stage, desk, passage
        self._work = Work(self, lambda: session.building)
        self._cutter: Cutter | None = None
        self._timeline: tuple[object, Timeline] | None = None
        self._asked: object = None
        self._stage_then: StageState | None = None
        self.time = 0.0
        self.problem = ""
        self.image: QImage | None = None
        self.faint = 1.0
        self._began = (0.0, 0.0)
        self._beat = QTimer(self, interval=BEAT)
        self._beat.timeout.connect(self._go_on)
        self._later = QTimer(self, singleShot=True, interval=REST)
        self._later.timeout.connect(self._follow)
        desk.changed.connect(self._other_film)
        session.changed.connect(self._session_changed)
        session.rebuilt.connect(self._later.start)
        session.recalling.connect(lambda *_: self.let_go())

    # What is shown ---------------------------------------------------------------------------------------------

    @property
    def is_shown(self) -> bool:
        """Whether the stage shows a moment of a film."""
        return self._stage_then is not None

    @property
    def is_running(self) -> bool:
        """Whether the film runs."""
        return self._beat.isActive()

    @property
    def is_ready(self) -> bool:
        """Whether the film as it is now can be shown at once."""
        return self._timeline is not None and self._timeline[0] == self._key()

    @property
    def timeline(self) -> Timeline | None:
        """The film as it is now, put to the building; None until that is done."""
        return self._timeline[1] if self._timeline is not None and self.is_ready else None

    def go_to(self, seconds: float) -> None:
        """Show a moment."""
        film = self._desk.film
        if film is None:
            return
        self.time = min(max(seconds, 0.0), film.seconds)
        if self.is_running:
            self._began = (time.perf_counter(), self.time)
        self._show()
        self.moved.emit()

    def play(self) -> None:
        """Run on from here, or from the start where it has ended; or stand still."""
        film = self._desk.film
        if self.is_running:
            self.pause()
        elif film is not None and film.shots:
            if self.time >= film.seconds - 1e-3:
                self.time = 0.0
            self._began = (time.perf_counter(), self.time)
            self._beat.start()
            QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]
            self._show()
            self.changed.emit()

    def pause(self) -> None:
        """Stand still."""
        if self.is_running:
            self._beat.stop()
            self.changed.emit()

    def let_go(self) -> None:
        """Have the project's own stage again."""
        self.pause()
        if self._stage_then is not None:
            QApplication.instance().removeEventFilter(self)  # type: ignore[union-attr]
            self._stage_then = self.image = None
            self._session.show_for_now(None)
            self.moved.emit()

    def _go_on(self) -> None:
        film = self._desk.film
        if film is None:
            self.let_go()
            return
        if not self.is_ready:
            self._began = (time.perf_counter(), self.time)  # it waits
            return
        begun, there = self._began
        self.time = min(there + time.perf_counter() - begun, film.seconds)
        self._show()
        self.moved.emit()
        if self.time >= film.seconds:
            self.pause()

    # Following what there is -----------------------------------------------------------------------------------

    def _other_film(self) -> None:
        self.let_go()
        self.time, self._timeline, self.problem = 0.0, None, ""
        self._later.start()
        self.moved.emit()

    def _session_changed(self) -> None:
        """What is done to the project is seen at once; the film is put together anew when there is a rest."""
        if not self._session.is_open:
            return
        if self._stage_then is not None and self._session.project.stage is not self._stage_then:
            self.let_go()
        film = self._desk.film
        if film is not None:
            self.time = min(self.time, film.seconds)
            self._later.start()

    def _key(self) -> object:
        """All that decides what moments show."""
        session, film = self._session, self._desk.film
        if film is None:
            return None
        project = session.project
        return film, project.scenes, project.site, id(session.building)

    def _follow(self) -> None:
        film, building, key = self._desk.film, self._session.building, self._key()
        if film is None or building is None or self.is_ready or not film.shots:
            return
        if self._work.busy and self._asked == key:
            return  # it is being put together
        self._asked = key
        project = self._session.project
        if self._cutter is None or self._cutter.building is not building:
            self._cutter = Cutter(building)
        cutter = self._cutter

        def done(made: Timeline) -> None:
            self._timeline, self.problem = (key, made), ""
            self.changed.emit()
            if self.is_shown:
                self._show()

        def failed(error: Exception) -> None:
            if not isinstance(error, Problem):
                self._session.failed.emit(error)
            self._timeline, self.problem = None, str(error) if isinstance(error, Problem) else "This film could not be shown."
            self.pause()
            self.changed.emit()

        def work(progress: Progress) -> Timeline:
            return Timeline(film, project, cutter, ASPECT)

        self._work.run(work, done, failed)

    # Showing ---------------------------------------------------------------------------------------------------

    def _show(self) -> None:
        """Have the moment on the stage; what is being put together is shown when it is there."""
        if self._timeline is None or self._desk.film is None:
            self._begin_showing()
            self._follow()
            return
        self._begin_showing()
        timeline = self._timeline[1]
        moment = timeline.at(min(self.time, timeline.seconds))
        if moment.before is not None and moment.faint > 0.5:
            moment = replace(moment.before, caption=moment.caption)
        self.image = self._over(moment, timeline)
        self._session.show_for_now(self._state(moment), moment.dissolve, timeline.scene_at(self.time).id)

    def _begin_showing(self) -> None:
        if self._stage_then is None:
            self._passage.end()
            self._stage_then = self._session.project.stage
            QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]

    def _state(self, moment: Moment) -> StageState:
        scene, stage = moment.shown, self._stage.aspect
        state = moment.state
        if state.crop is not None:
            state = scene.on_stage(stage)
        else:
            camera = scene.camera_for(ASPECT)
            state = state.model_copy(update={"camera": camera if stage >= ASPECT else camera.widened(ASPECT / stage)})
        return state if moment.scene is not None and moment.words > 0.5 else state.model_copy(update={"notes_shown": False})

    def picture_box(self) -> QRectF:
        """Return where on the stage the picture lies, in its pixels."""
        wide, high = float(self._stage.width()), float(self._stage.height())
        across, up = (high * ASPECT, high) if wide >= high * ASPECT else (wide, wide / ASPECT)
        return QRectF((wide - across) / 2, (high - up) / 2, across, up)

    def _over(self, moment: Moment, timeline: Timeline) -> QImage:
        """What lies over the stage: what is outside of the picture is covered, and the words of the film are written."""
        ratio = self._stage.devicePixelRatioF()
        image = QImage(self._stage.size() * ratio, QImage.Format.Format_ARGB32_Premultiplied)
        image.setDevicePixelRatio(ratio)
        image.fill(Qt.GlobalColor.transparent)
        box, painter = self.picture_box(), QPainter(image)
        if moment.state.crop is None:
            outside = QPainterPath()
            outside.setFillRule(Qt.FillRule.OddEvenFill)
            outside.addRect(QRectF(self._stage.rect()))
            outside.addRect(box)
            painter.fillPath(outside, QColor(theme.current().sunken))
        size = max(round(box.width() * ratio), 1), max(round(box.height() * ratio), 1)
        fields = fields_of_film(timeline.film, self._session.project) | {"scene": timeline.scene_at(self.time).name}
        look = moment.state.look
        if moment.card is not None:
            drawn = card_drawn(moment.card, fields, look, ASPECT)
            painter.drawImage(box, image_of(words_on_paper(look, drawn, size)))
        if moment.caption:
            words = caption_drawn(filled(moment.caption, fields), look, ASPECT)
            painter.drawImage(box, image_of(notes_image(words, size)))
        painter.end()
        return image

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """A press on the stage is meant for the project's own; the film stands where it is."""
        if (
            event.type() in ENDS
            and isinstance(watched, QWidget)
            and (watched is self._stage or self._stage.isAncestorOf(watched))
        ):
            self.let_go()
        return False
