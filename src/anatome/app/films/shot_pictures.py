"""Small pictures of the moments of the open film, drawn one after the other when the stage has time."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QPixmap

from anatome.app.base.images import image_of
from anatome.app.base.pictures import Making, Pictures, Pixels
from anatome.app.base.trouble import TROUBLE
from anatome.app.base.work import Progress
from anatome.app.document.film_desk import FilmDesk
from anatome.app.document.session import Session
from anatome.app.films.frame_steps import Planned, in_frame
from anatome.app.films.player import Player
from anatome.filming.frames import FrameDrawer, FrameSettings
from anatome.problems import Problem

SIZE = (192, 108)
SAMPLES = 2
MOST = 400
"""Pictures that are kept."""


class ShotPictures(QObject):
    """``news``: there is another one. Those wanted last are drawn first to last."""

    news = Signal()

    def __init__(self, session: Session, desk: FilmDesk, player: Player, pictures: Pictures) -> None:
        super().__init__(player)
        self._session, self._desk, self._player = session, desk, player
        self._making = Making(self, pictures, lambda: session.building)
        self._kept: dict[object, tuple[object, QPixmap]] = {}
        self._wanted: dict[object, tuple[int, float]] = {}
        self._drawer: tuple[object, FrameDrawer] | None = None
        for signal in (session.opened, session.closed, session.rebuilt):
            signal.connect(self._forget)
        player.changed.connect(self._go_on)

    def get(self, number: int, share: float) -> QPixmap | None:
        """Return the picture of a shot at a share of its time, or None until there is one."""
        key, _ = self._key(number, share)
        found = self._kept.get(key)
        if found is not None:
            return found[1]
        if key not in self._wanted:
            self._wanted[key] = number, share
            self._go_on()
        return None

    def _key(self, number: int, share: float) -> tuple[object, object]:
        """What a picture is of, by the identity of the states it shows; and what has to live as long."""
        film, project = self._desk.film, self._session.project
        assert film is not None
        before = film.shots[:number][-1:] if film.shots[number].word == "travel" else ()
        shots = tuple(shot.model_copy(update={"seconds": 1.0, "caption": ""}) for shot in (*before, film.shots[number]))
        states = tuple(scene.state for shot in shots if (scene := project.scene(shot.scene)) is not None)
        return (shots, tuple(map(id, states)), id(project.site), round(share, 3)), (states, project.site)

    def _forget(self) -> None:
        self._making.cancel()
        self._kept.clear()
        self._wanted.clear()
        self._drawer = None

    def _go_on(self) -> None:
        """Draw the next one that is still of the film as it is."""
        timeline = self._player.timeline
        if timeline is None or self._making.busy or not self._wanted or self._player.is_running:
            return
        film = self._desk.film
        while self._wanted:
            key = next(iter(self._wanted))
            number, share = self._wanted.pop(key)
            if film is not None and number < len(film.shots) and self._key(number, share)[0] == key:
                break
        else:
            return
        if self._drawer is None or self._drawer[0] is not timeline:
            self._drawer = timeline, FrameDrawer(timeline, self._session.project, FrameSettings(SIZE, samples=SAMPLES))
        drawer, alive = self._drawer[1], self._key(number, share)[1]
        time = film.begins(number) + share * film.shots[number].seconds

        def prepare(progress: Progress) -> Planned:
            return drawer, drawer.plan_at(time)

        def drawn(pixels: Pixels) -> None:
            while len(self._kept) >= MOST:
                self._kept.pop(next(iter(self._kept)))
            self._kept[key] = alive, QPixmap.fromImage(image_of(pixels))
            self.news.emit()
            self._go_on()

        def failed(error: Exception) -> None:
            if not isinstance(error, Problem):  # what cannot be shown the strip says
                TROUBLE.report(error)

        self._making.make(prepare, in_frame, None, drawn, failed)
