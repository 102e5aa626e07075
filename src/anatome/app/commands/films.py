"""Films: making them of scenes, adding shots, and having any moment on the stage."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
from numpy.typing import NDArray

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.films.shot_words import MOVES, ON_A_PATH
from anatome.app.key_drawings.path_task import EyePath
from anatome.cuts.fitting import PLAN_HEIGHT
from anatome.cuts.plan_level import plan_level
from anatome.look.shipped import shipped_looks
from anatome.problems import Problem
from anatome.scenes import film_edits
from anatome.scenes.edits import new_id
from anatome.scenes.film import AnyShot, shot_of
from anatome.scenes.project import Scene
from anatome.words import unlike

SECONDS = {"card": 3.0, "hold": 2.0, "travel": 3.0, "look": 3.0, "turn": 8.0, "day": 8.0}
USUAL = 6.0
"""Seconds of a new shot."""
PACE = {"walk": 1.2, "fly": 4.0}
"""Metres a second of a new way."""
KEPT = ("caption", "even", "path", "at", "resting", "by_parts", "look")
"""What a shot keeps when something else moves in it."""
OVER = 0.35
"""Share of its height over which a flight begins that goes round the building."""


class FilmCommands:
    """Works on the films of the project, and on the shots of the one that is open."""

    def __init__(self, host: Host) -> None:
        self._host, self._session, self._desk = host, host.session, host.film_desk

    def entries(self) -> list[Entry]:
        films = group(
            "Films",
            "send",
            Entry(
                "show_films",
                "Films at the foot",
                "The shots of the film that was open last, or of a new one, at the foot of the window",
                self.toggle,
                "F12",
                "film-strip",
                "scenes",
                ticked=lambda: self._desk.film is not None,
            ),
            Entry(
                "new_film",
                "New film",
                "Of several picked scenes the camera goes through them; else the building grows in the current scene",
                self.new,
                needs="scenes",
            ),
            Entry(
                "film_through",
                "New film through all scenes",
                "The camera goes from each to the next",
                self.through,
                needs="scenes",
            ),
            Entry(
                "film_each",
                "New film, scene after scene",
                "Of several picked scenes, or of all, one after the other: storeys, or the sections of a series",
                self.each,
                needs="scenes",
            ),
            Entry("copy_film", "Duplicate the film", "With all its shots", self.copy, needs="film"),
            Entry("take_film", "Delete the film", "Its scenes stay", self.take_film, needs="film"),
            Entry("run_film", "Run the film", "From the moment that is shown, or have it stand", self.run, needs="film"),
            within="Films",
        )
        return films + self.adding() + self._on_shots()

    def adding(self) -> list[Entry]:
        """Return the commands that add a shot."""
        entries = [
            Entry(f"shot_{word}", words, tip, partial(self.add, word), needs="film") for word, (words, tip) in MOVES.items()
        ]
        return group("Add a shot", "send", *entries, within="Films/Add a shot")

    def _on_shots(self) -> list[Entry]:
        picked = [
            Entry("copy_shot", "Duplicate the shot", "Right behind it", self.copy_shot, needs="shot"),
            Entry("shot_path", "Draw its way anew", "In the key plan", self.draw_again, needs="shot with a way"),
            Entry(
                "take_shot", "Delete the shot", "The picked shot goes, its scene stays", self._desk.take, "Del", "trash", "shot"
            ),
        ]
        return group("Shots", "send", *picked, within="Films")

    # Films -----------------------------------------------------------------------------------------------------

    def toggle(self) -> None:
        """The open film is put away, or the last one comes."""
        if self._desk.film is not None:
            self._desk.close()
        elif self._session.project.films:
            self._desk.open_last()
        else:
            self.new()

    def new(self) -> None:
        """A film of the picked scenes, or of the current one."""
        session, picked = self._session, self._session.picked.scenes
        scenes = [scene for scene in session.project.scenes if scene.id in picked]
        self._make(scenes if len(scenes) > 1 else [self._scene()])

    def through(self) -> None:
        """A film of all scenes."""
        self._make(list(self._session.project.scenes))

    def each(self) -> None:
        """A film of the picked scenes, or of all, without a way between them."""
        picked = self._session.picked.scenes
        scenes = self._session.project.scenes
        self._make([scene for scene in scenes if scene.id in picked] if len(picked) > 1 else list(scenes), one_by_one=True)

    def _make(self, scenes: list[Scene], one_by_one: bool = False) -> None:
        session = self._session
        film = film_edits.new_film(session.project, scenes, one_by_one)
        session.apply(film_edits.put_film(session.project, film), f"A new film: {film.name}")
        self._desk.open(film.id)

    def copy(self) -> None:
        """The open film once more."""
        film = self._desk.film
        if film is not None:
            name = unlike(f"{film.name} copy"[:190], {one.name for one in self._session.project.films})
            made = film.model_copy(update={"id": new_id(), "name": name})
            self._desk.put(made, f"{name}, a copy of {film.name}")
            self._desk.open(made.id)

    def take_film(self) -> None:
        """Without the open film."""
        film = self._desk.film
        if film is not None:
            self._session.apply(film_edits.take_film(self._session.project, film.id), f"Deleted the film {film.name}")

    def run(self) -> None:
        """Run it on, or have it stand."""
        self._host.player.play()

    # Shots -----------------------------------------------------------------------------------------------------

    def _scene(self) -> Scene:
        """The scene of a new shot: that of the picked shot, else the current one, else the first."""
        session, shot = self._session, self._desk.shot
        found = session.project.scene(shot.scene) if shot is not None and shot.scene else session.scene
        found = session.scene if shot is None and session.scene is not None else found
        return found or session.project.scenes[0]

    def add(self, word: str) -> None:
        """A shot by what moves in it, of the current scene, behind the picked shot."""
        if word in ON_A_PATH:
            self._draw(lambda path: self._added(word, path=path, seconds=_length(path) / PACE[word]), word)
            return
        self._added(word, seconds=SECONDS.get(word, USUAL))

    def _added(self, word: str, seconds: float, **said: object) -> None:
        scene = self._session.scene if word == "travel" and self._session.scene else self._scene()
        own: dict[str, object] = {"heading": "{film}", "words": ""} if word == "card" else {}
        if word == "look":
            own["look"] = next(look for look in shipped_looks().values() if look.name != scene.state.look.name)
        shot = shot_of(word, "" if word == "card" else scene.id, round(max(seconds, 1.0), 1), **own, **said)
        self._desk.add((shot,), f"Added to the film: {MOVES[word][0].lower()}")

    def change(self, said: str, merge: str | None = None, **changes: object) -> None:
        """The picked shot, otherwise. Raises Problem for what it cannot be."""
        shot = self._desk.shot
        if shot is not None:
            self._desk.put_shot(_checked(shot, changes), said, merge)

    def become(self, word: str) -> None:
        """The picked shot with another move, of the same scene and as long."""
        shot = self._desk.shot
        if shot is None or word == shot.word:
            return
        if word in ON_A_PATH and not hasattr(shot, "path"):
            self._draw(lambda path: self._become(word, path=path), word)
        else:
            self._become(word)

    def _become(self, word: str, **said: object) -> None:
        shot = self._desk.shot
        if shot is None:
            return
        scene = self._session.project.scene(shot.scene) or self._scene()
        kept = {name: getattr(shot, name) for name in KEPT if hasattr(shot, name)}
        if word == "look" and "look" not in kept:
            kept["look"] = next(look for look in shipped_looks().values() if look.name != scene.state.look.name)
        made = shot_of(word, "" if word == "card" else scene.id, shot.seconds, **{**kept, **said})
        self._desk.put_shot(made, f"The shot is now: {MOVES[word][0].lower()}")

    def copy_shot(self) -> None:
        """The picked shot once more, behind it."""
        shot = self._desk.shot
        if shot is not None:
            self._desk.add((shot,), "Duplicated the shot")

    # Ways ------------------------------------------------------------------------------------------------------

    def draw_again(self) -> None:
        """Another way for the picked shot."""
        shot = self._desk.shot
        if shot is not None:
            self._draw(lambda path: self.change("Drew its way anew", path=path), shot.word)

    def _draw(self, done: Callable[[tuple[tuple[float, float, float], ...]], None], word: str) -> None:
        session = self._session
        assert session.building is not None
        floor = plan_level(session.building, session.plan_storey) - PLAN_HEIGHT
        bounds = session.subject_bounds()
        high = float(bounds[1, 2] + OVER * (bounds[1, 2] - bounds[0, 2])) if word == "fly" else floor

        def told(places: NDArray[np.float64]) -> None:
            done(tuple((float(x), float(y), high) for x, y in places))

        self._host.player.let_go()
        self._host.show_panels()
        self._host.key_plan.begin(EyePath(session, done=told))


def _length(path: tuple[tuple[float, float, float], ...]) -> float:
    return float(np.linalg.norm(np.diff(np.array(path), axis=0), axis=1).sum())


def _checked(shot: AnyShot, changes: dict[str, object]) -> AnyShot:
    try:
        return type(shot).model_validate(dict(shot) | changes)
    except ValueError as error:
        raise Problem("A shot cannot be like that. Check its numbers.") from error
