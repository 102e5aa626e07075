"""A film put to a building: what it shows at each time, and how many frames it has."""

from __future__ import annotations

from dataclasses import replace

from anatome.cuts.dissection import Cutter
from anatome.cuts.kinds.grip import numbers_part_way
from anatome.films.moves import Moment, Move, Setting, bare, move_of
from anatome.problems import Problem
from anatome.scenes.film import AnyShot, Card, Film, Hold, Travel
from anatome.scenes.opened import kept_of
from anatome.scenes.project import Project, Scene
from anatome.scenes.transition import eased, transition

FASTEST = 120.0
"""Frames a second."""
MOST_FRAMES = 100_000
FADES, COMES = 0.8, 0.6
"""Seconds in which a picture takes the place of words on paper or the other way round, and in which notes come."""


class Timeline:
    """The shots of a film one after the other, in pictures so many times as wide as high. Raises Problem for one that cannot be
    made: without shots, of a scene that is gone, with a move that needs what is not there."""

    def __init__(self, film: Film, project: Project, cutter: Cutter, aspect: float) -> None:
        if not film.shots:
            raise Problem(f"The film “{film.name}” has no shots yet.")
        self.film, self.cutter, self.site = film, cutter, project.site
        self._scenes: list[Scene] = []
        self._setting = Setting(cutter, project.site, aspect)
        self._moves: list[Move] = []
        before: Moment | None = None
        for number, shot in enumerate(film.shots):
            scene = scene_of(film, number, project)
            if scene is None:
                raise Problem(f"A shot of the film “{film.name}” is of a scene that is gone. Take it out, or choose another one.")
            move = self._travel(before, scene) if isinstance(shot, Travel) else self._framed(shot, scene)
            self._moves.append(_joined(before, move, shot))
            self._scenes.append(scene)
            before = self._moves[-1](1.0)

    def _travel(self, before: Moment | None, scene: Scene) -> Move:
        if before is None or before.card is not None:
            return lambda share: Moment(bare(scene.state), frame=scene.frame)
        setting, first = self._setting, before.shown
        left = [kept_of(setting.cutter, one.state) for one in (first, scene)]
        way = transition(setting.building, setting.site, bare(first.state), bare(scene.state), setting.aspect, left)

        start = replace(before, before=None, faint=0.0)

        def at(share: float) -> Moment:
            crop = numbers_part_way(first.frame.crop, scene.frame.crop, eased(share))
            frame = scene.frame.model_copy(update={"crop": tuple(crop)})
            # What knows no between is as it will be from the start, and the picture before fades over it.
            return Moment(bare(way.at(share)), way.dissolve(share), frame, before=start, faint=way.faint(share))

        return at

    def _framed(self, shot: AnyShot, scene: Scene) -> Move:
        """A move through the frame of its scene; of one that stands still the scene itself."""
        move, own = move_of(shot, scene.state, self._setting), scene if isinstance(shot, Hold) else None
        return lambda share: replace(move(share), frame=scene.frame, scene=own)

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.film.seconds

    def at(self, time: float) -> Moment:
        """Return what is seen at a time in seconds."""
        number = self.film.number_at(time)
        return self._moves[number](min(max((time - self.film.begins(number)) / self.film.shots[number].seconds, 0.0), 1.0))

    def scene_at(self, time: float) -> Scene:
        """Return whose shot it is at a time in seconds."""
        return self._scenes[self.film.number_at(time)]

    def frames(self, rate: float) -> int:
        """Return how many frames it has at so many a second: the first at 0, the last a frame before the end. Raises Problem."""
        if not 1.0 <= rate <= FASTEST:
            raise Problem(f"A film has from 1 to {FASTEST:g} frames a second, for example 25.")
        count = max(1, round(self.seconds * rate))
        if count > MOST_FRAMES:
            raise Problem(f"That would be {count:,} frames. Make it shorter, or with fewer frames a second.")
        return count


def scene_of(film: Film, number: int, project: Project) -> Scene | None:
    """Return the scene of a shot; of a card that names none, the scene of the next shot that has one, or of the last before it,
    or the first of all."""
    shot = film.shots[number]
    if shot.scene:
        return project.scene(shot.scene)
    named = [one.scene for one in (*film.shots[number:], *reversed(film.shots[:number])) if one.scene]
    return project.scene(named[0]) if named else next(iter(project.scenes), None)


def _joined(before: Moment | None, move: Move, shot: AnyShot) -> Move:
    """A move with what is written in its shot, as it follows on a moment: from words on paper, and to them, the picture fades;
    what is written on a scene comes once it stands."""
    own = shot if isinstance(shot, Card) else None
    fading = min(FADES, shot.seconds / 2) if before is not None and (own is not None) != (before.card is not None) else 0.0
    coming = min(COMES, shot.seconds / 2) if before is not None and isinstance(shot, Hold) and fading == 0.0 else 0.0
    last = None if before is None else replace(before, before=None, faint=0.0, caption="")

    def at(share: float) -> Moment:
        moment, time = replace(move(share), card=own, caption=shot.caption), share * shot.seconds
        if time < fading:
            return replace(moment, before=last, faint=1.0 - eased(time / fading))
        return replace(moment, words=eased(time / coming)) if time < coming else moment

    return at
