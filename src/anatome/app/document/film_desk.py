"""Which film is open, and which of its shots is picked. Opening one is no step to undo; what is done on it is."""

from __future__ import annotations

from collections.abc import Sequence

from anatome.app.document.open_one import OpenOne
from anatome.scenes import film_edits
from anatome.scenes.film import AnyShot, Film


class FilmDesk(OpenOne[Film]):
    """``changed``: another film is open, or none."""

    def _all(self) -> tuple[Film, ...]:
        return self._session.project.films

    def _follow(self) -> None:
        """A shot that is gone is no longer picked."""
        super()._follow()
        film, number = self.film, self._session.picked.shot
        if number is not None and (film is None or number >= len(film.shots)):
            self._session.pick()

    @property
    def film(self) -> Film | None:
        """The film whose shots are at the foot of the window."""
        return self.opened

    @property
    def number(self) -> int | None:
        """The number of the picked shot, from 0."""
        film, number = self.film, self._session.picked.shot
        return number if film is not None and number is not None and number < len(film.shots) else None

    @property
    def shot(self) -> AnyShot | None:
        """The picked shot."""
        film, number = self.film, self.number
        return None if film is None or number is None else film.shots[number]

    # Steps -----------------------------------------------------------------------------------------------------

    def put(self, film: Film, said: str, merge: str | None = None) -> None:
        """A step on a film."""
        self._session.apply(film_edits.put_film(self._session.project, film), said, merge=merge)

    def put_shot(self, shot: AnyShot, said: str, merge: str | None = None, number: int | None = None) -> None:
        """A step on the picked shot, or on another."""
        film, number = self.film, self.number if number is None else number
        if film is not None and number is not None and film.shots[number] != shot:
            self.put(film_edits.change_shot(film, number, shot), said, merge)

    def add(self, shots: Sequence[AnyShot], said: str, at: int | None = None) -> None:
        """A step: more shots behind the picked one, or elsewhere; the last of them is picked."""
        film = self.film
        if film is None:
            return
        if at is None:
            at = len(film.shots) if self.number is None else self.number + 1
        self.put(film_edits.insert_shots(film, at, shots), said)
        self._session.pick(shot=at + len(shots) - 1)

    def take(self) -> None:
        """A step: without the picked shot; the next one is picked."""
        film, number = self.film, self.number
        if film is None or number is None:
            return
        self.put(film_edits.take_shot(film, number), "Deleted the shot")
        left = len(film.shots) - 1
        self._session.pick(shot=min(number, left - 1) if left else None)

    def move(self, number: int, to: int) -> None:
        """A step: a shot before another one."""
        film = self.film
        if film is not None and to not in (number, number + 1):
            self.put(film_edits.move_shot(film, number, to), "Put the shot elsewhere")
            self._session.pick(shot=to - (to > number))
