"""Edits of films: functions from a film or a project to the next."""

from __future__ import annotations

from collections.abc import Sequence

from anatome.problems import Problem
from anatome.scenes.edits import new_id
from anatome.scenes.film import MOST_SHOTS, AnyShot, Card, Film, Hold, Rise, Travel
from anatome.scenes.project import Project, Scene
from anatome.values import put_among
from anatome.words import unlike

STANDS, TRAVELS, GROWS, TITLE, EACH = 2.0, 3.0, 6.0, 3.0, 1.0
"""Seconds of the shots of a new film."""


def put_film(project: Project, film: Film) -> Project:
    """Return the project with a film changed, or a new one behind those there are."""
    return project.model_copy(update={"films": put_among(project.films, film)})


def take_film(project: Project, film_id: str) -> Project:
    """Return the project without a film."""
    return project.model_copy(update={"films": tuple(one for one in project.films if one.id != film_id)})


def new_film(project: Project, scenes: Sequence[Scene], one_by_one: bool = False) -> Film:
    """Return a film to begin with: a title, then the camera travels through some scenes, or they come ``one_by_one``; of a single
    one the building grows."""
    title = Card(heading="{project}", words="{organisation}\n{date}", seconds=TITLE)
    shots = one_after_another(scenes) if one_by_one else through(scenes)
    return Film(id=new_id(), name=unlike("Film", {film.name for film in project.films}), shots=(title, *shots))


def one_after_another(scenes: Sequence[Scene]) -> tuple[AnyShot, ...]:
    """Return shots of some scenes without a way between them, each with its name: storeys, or sections of a series."""
    return tuple(Hold(scene=scene.id, seconds=EACH, caption="{scene}") for scene in scenes)


def through(scenes: Sequence[Scene]) -> tuple[AnyShot, ...]:
    """Return shots that go through some scenes, one after the other."""
    if len(scenes) == 1:
        return (Rise(scene=scenes[0].id, seconds=GROWS), Hold(scene=scenes[0].id, seconds=STANDS))
    shots: list[AnyShot] = []
    for number, scene in enumerate(scenes):
        shots += [Travel(scene=scene.id, seconds=TRAVELS)] if number else []
        shots.append(Hold(scene=scene.id, seconds=STANDS))
    return tuple(shots)


def arriving(film: Film, scene: Scene) -> tuple[AnyShot, ...]:
    """Return the shots by which a scene is added to a film: the camera travels there, unless it begins with it, and stands."""
    stands = Hold(scene=scene.id, seconds=STANDS)
    return (Travel(scene=scene.id, seconds=TRAVELS), stands) if any(shot.scene for shot in film.shots) else (stands,)


def with_shots(film: Film, shots: Sequence[AnyShot]) -> Film:
    """Return the film with these shots. Raises Problem where they are too many."""
    if len(shots) > MOST_SHOTS:
        raise Problem(f"A film has at most {MOST_SHOTS:,} shots. Make two of it.")
    return film.model_copy(update={"shots": tuple(shots)})


def insert_shots(film: Film, at: int, shots: Sequence[AnyShot]) -> Film:
    """Return the film with more shots before the one of a number."""
    return with_shots(film, (*film.shots[:at], *shots, *film.shots[at:]))


def change_shot(film: Film, number: int, shot: AnyShot) -> Film:
    """Return the film with another shot in the place of one."""
    return with_shots(film, (*film.shots[:number], shot, *film.shots[number + 1 :]))


def take_shot(film: Film, number: int) -> Film:
    """Return the film without a shot."""
    return with_shots(film, (*film.shots[:number], *film.shots[number + 1 :]))


def move_shot(film: Film, number: int, to: int) -> Film:
    """Return the film with a shot put before the one that has a number now; the count of shots means the end."""
    rest = [shot for other, shot in enumerate(film.shots) if other != number]
    rest.insert(to - (to > number), film.shots[number])
    return with_shots(film, rest)
