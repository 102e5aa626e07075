"""The open film at the foot of the window: its name and time, how it runs, and its shots."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QMenu, QPushButton, QScrollArea, QVBoxLayout, QWidget

from anatome.app.base import theme
from anatome.app.base.actions import Actions
from anatome.app.document.film_desk import FilmDesk
from anatome.app.document.session import Session
from anatome.app.films.player import Player
from anatome.app.films.shot_pictures import ShotPictures
from anatome.app.films.shot_row import ShotRow
from anatome.app.films.shot_words import clock


class FilmStrip(QWidget):
    """Shown while a film is open."""

    menu_wanted = Signal(QPoint)

    def __init__(
        self, session: Session, desk: FilmDesk, player: Player, pictures: ShotPictures, actions: Actions, add: QMenu
    ) -> None:
        super().__init__()
        self._session, self._desk, self._player = session, desk, player
        self.films = QComboBox()
        self.films.setProperty("role", "slim")
        self.films.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
        self.films.setMaximumWidth(180)
        self.films.setToolTip("The film whose shots are shown")
        self.films.activated.connect(lambda i: desk.open(self.films.itemData(i)))
        self.run = self._button("play", "Run the film from here  (Space, when the strip has the keyboard)")
        self.run.clicked.connect(player.play)
        self.time = QLabel()
        self.time.setProperty("role", "soft")
        self.said = QLabel()
        self.said.setProperty("role", "warning")
        self.add = self._button("plus", "A shot behind the picked one", "Add")
        self.add.setMenu(add)
        head = QHBoxLayout()
        head.setSpacing(8)
        for widget in (self.films, self.run, self.time, self.add):
            head.addWidget(widget)
        head.addWidget(self.said, 1)
        for name, icon, words in (("send_film", "export", "Send out"), ("show_films", "x", "")):
            button = self._button(icon, actions[name].statusTip(), words)
            button.clicked.connect(partial(actions[name].trigger))
            head.addWidget(button)
        self.row = ShotRow(session, desk, player, pictures)
        self.row.menu_wanted.connect(self.menu_wanted)
        self.area = QScrollArea()
        self.area.setWidget(self.row)
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QScrollArea.Shape.NoFrame)
        self.area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 3, 0, 0)
        column.setSpacing(2)
        column.addLayout(head)
        column.addWidget(self.area, 1)
        self.hide()
        for signal in (session.changed, session.picked_changed, desk.changed, player.changed):
            signal.connect(self.refresh)
        player.moved.connect(self._show_time)

    @staticmethod
    def _button(icon: str, tip: str, words: str = "") -> QPushButton:
        made = QPushButton(words)
        theme.wear(made, icon)
        made.setProperty("role", "quiet")
        made.setToolTip(tip)
        if not words:
            made.setFixedWidth(28)
        return made

    def refresh(self) -> None:
        """Show the open film as it is now."""
        session, film = self._session, self._desk.film
        if film is None:
            return
        films = [(one.id, one.name) for one in session.project.films]
        if films != [(self.films.itemData(i), self.films.itemText(i)) for i in range(self.films.count())]:
            self.films.clear()
            for film_id, name in films:
                self.films.addItem(name, film_id)
        self.films.setCurrentIndex(self.films.findData(film.id))
        theme.wear(self.run, "pause" if self._player.is_running else "play")
        self.run.setEnabled(bool(film.shots))
        self.said.setText(self._player.problem)
        self.said.setToolTip(self._player.problem)
        self.row.setMinimumWidth(self.row.sizeHint().width())
        self.row.update()
        self._show_time()

    def _show_time(self) -> None:
        film = self._desk.film
        if film is not None:
            self.time.setText(f"{clock(self._player.time)} of {clock(film.seconds)}")
