"""A film put to a building: what it shows at each time, and how many frames it has."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import replace
from itertools import accumulate

from anatome.cuts.dissection import Cutter
from anatome.cuts.kinds.grip import numbers_part_way
from anatome.films.moves import Moment, Move, Setting, bare, move_of
from anatome.problems import Problem
from anatome.scenes.film import Film, Hold, Travel
from anatome.scenes.opened import kept_of
from anatome.scenes.project import Project, Scene
from anatome.scenes.transition import eased, transition

FASTEST = 120.0
"""Frames a second."""
MOST_FRAMES = 100_000


class Timeline:
    """The shots of a film one after the other, in pictures so many times as wide as high. Raises Problem for one that cannot be
    made: without shots, of a scene that is gone, with a move that needs what is not there."""

    def __init__(self, film: Film, project: Project, cutter: Cutter, aspect: float) -> None:
        if not film.shots:
            raise Problem(f"The film “{film.name}” has no shots yet.")
        self.film, self.cutter, self.site = film, cutter, project.site
        self._setting = Setting(cutter, project.site, aspect)
        self._moves: list[Move] = []
        before: Moment | None = None
        for shot in film.shots:
            scene = project.scene(shot.scene)
            if scene is None:
                raise Problem(f"A shot of the film “{film.name}” is of a scene that is gone. Take it out, or choose another one.")
            if isinstance(shot, Travel):
                self._moves.append(self._travel(before, scene))
            else:
                self._moves.append(_framed(move_of(shot, scene.state, self._setting), scene, isinstance(shot, Hold)))
            before = self._moves[-1](1.0)
        self._ends = list(accumulate(shot.seconds for shot in film.shots))

    def _travel(self, before: Moment | None, scene: Scene) -> Move:
        if before is None:
            return lambda share: Moment(bare(scene.state), frame=scene.frame)
        setting, first = self._setting, before.shown
        left = [kept_of(setting.cutter, one.state) for one in (first, scene)]
        way = transition(setting.building, setting.site, bare(first.state), bare(scene.state), setting.aspect, left)

        def at(share: float) -> Moment:
            crop = numbers_part_way(first.frame.crop, scene.frame.crop, eased(share))
            frame = scene.frame.model_copy(update={"crop": tuple(crop)})
            return Moment(bare(way.at(share)), way.dissolve(share), frame)

        return at

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self._ends[-1]

    def at(self, time: float) -> Moment:
        """Return what is seen at a time in seconds."""
        number = min(bisect_right(self._ends, time), len(self._ends) - 1)
        length = self.film.shots[number].seconds
        begins = self._ends[number] - length
        return self._moves[number](min(max((time - begins) / length, 0.0), 1.0))

    def frames(self, rate: float) -> int:
        """Return how many frames it has at so many a second: the first at 0, the last a frame before the end. Raises Problem."""
        if not 1.0 <= rate <= FASTEST:
            raise Problem(f"A film has from 1 to {FASTEST:g} frames a second, for example 25.")
        count = max(1, round(self.seconds * rate))
        if count > MOST_FRAMES:
            raise Problem(f"That would be {count:,} frames. Make it shorter, or with fewer frames a second.")
        return count


def _framed(move: Move, scene: Scene, stands: bool) -> Move:
    """A move through the frame of its scene; of one that stands still the scene itself."""
    return lambda share: replace(move(share), frame=scene.frame, scene=scene if stands else None)
