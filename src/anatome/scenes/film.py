"""A film as a value: a row of shots, each of a scene, with a length and what moves in it."""

from __future__ import annotations

from bisect import bisect_right
from itertools import accumulate
from typing import Annotated, Literal

from pydantic import Field

from anatome.look.look import Look
from anatome.values import FARTHEST, Value

LONGEST_SHOT = 600.0
"""Seconds."""
MOST_SHOTS = 1000
Metres = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST)]


class Shot(Value):
    """Of a ``scene``, by its id, so many ``seconds`` long."""

    scene: str = Field(max_length=64)
    seconds: float = Field(default=4.0, gt=0, le=LONGEST_SHOT)
    even: bool = Field(default=False, description="as fast at its ends as in the middle, for moves that go on over several shots")
    caption: str = Field(default="", max_length=300, description="written at the foot of the picture; fields in braces")

    @property
    def word(self) -> str:
        """What moves in it, by the words of :data:`SHOTS`."""
        return str(getattr(self, "kind", ""))


class Card(Shot):
    """Words on paper, that of a scene's look, or of the scene that follows."""

    kind: Literal["card"] = "card"
    scene: str = Field(default="", max_length=64)
    heading: str = Field(default="", max_length=200, description="fields in braces")
    words: str = Field(default="", max_length=1000, description="lines under it; fields in braces")


class Hold(Shot):
    """The scene stands still, with what is written on it."""

    kind: Literal["hold"] = "hold"


class Travel(Shot):
    """From what the shot before ends with to the scene."""

    kind: Literal["travel"] = "travel"


class Rise(Shot):
    """A level cut travels up through all of it, and the building grows; ``resting`` over every floor. ``by_parts`` nothing is
    cut: parts are put in place one after the other, the lowest first."""

    kind: Literal["rise"] = "rise"
    resting: bool = False
    by_parts: bool = False


class Sweep(Shot):
    """An upright cut goes through the building from the front of the picture, or so many degrees from X anticlockwise;
    ``resting`` at the clean positions of the scout."""

    kind: Literal["sweep"] = "sweep"
    heading: float | None = Field(default=None, ge=-360, le=360)
    resting: bool = False


class TurnAbout(Shot):
    """The camera goes round the building by degrees, anticlockwise seen from above."""

    kind: Literal["turn"] = "turn"
    degrees: float = Field(default=360.0, ge=-3600, le=3600)


class Explode(Shot):
    """What is drawn apart opens, the storeys where nothing is; or comes ``together``."""

    kind: Literal["explode"] = "explode"
    together: bool = False

    @property
    def word(self) -> str:
        return "together" if self.together else self.kind


class Day(Shot):
    """The sun from one hour to another of a day (month-day), where it is known where the building stands."""

    kind: Literal["day"] = "day"
    day: str = Field(default="06-21", pattern=r"^\d\d-\d\d$")
    begins: float = Field(default=7.0, ge=0, le=24)
    ends: float = Field(default=20.0, ge=0, le=24)


class LookShot(Shot):
    """Another look takes the place of the scene's all over; or is ``wiped`` in from the right by the line of a divide."""

    kind: Literal["look"] = "look"
    look: Look
    wiped: bool = False


class LinesFirst(Shot):
    """The linework of the scene is drawn, tones come in, the light comes on."""

    kind: Literal["lines"] = "lines"


class Peel(Shot):
    """The planes of the scene's peel draw back one after the other, the outermost layer first."""

    kind: Literal["peel"] = "peel"


Place = tuple[Metres, Metres, Metres]


class Way(Shot):
    """The eye goes along a ``path``, looking where it goes or ``at`` a place: walking over floors, stairs and through doors, the
    places being on floors; or ``flying`` through the places themselves. Metres."""

    kind: Literal["way"] = "way"
    path: tuple[Place, ...] = Field(min_length=2, max_length=1000)
    at: Place | None = None
    flying: bool = False

    @property
    def word(self) -> str:
        return "fly" if self.flying else "walk"


AnyShot = Card | Hold | Travel | Rise | Sweep | Peel | TurnAbout | Explode | Way | Day | LookShot | LinesFirst


SHOTS: dict[str, type[Shot]] = {
    **{"card": Card, "hold": Hold, "travel": Travel, "rise": Rise, "sweep": Sweep, "peel": Peel, "turn": TurnAbout},
    **{"explode": Explode, "together": Explode, "walk": Way, "fly": Way, "day": Day, "look": LookShot, "lines": LinesFirst},
}
"""By the word for what moves."""


def shot_of(move: str, scene: str, seconds: float, **said: object) -> AnyShot:
    """Return a shot of a scene by the word for what moves, with so much of what is ``said`` as that kind of shot asks for."""
    kind, told = SHOTS[move], {**said, "together": move == "together", "flying": move == "fly"}
    own = {name: value for name, value in told.items() if name in kind.model_fields}
    return kind(scene=scene, seconds=seconds, **own)  # type: ignore[return-value]


class Film(Value):
    """Shots in their order."""

    id: str = Field(min_length=1, max_length=64)
    name: str = Field(min_length=1, max_length=200)
    shots: tuple[Annotated[AnyShot, Field(discriminator="kind")], ...] = Field(default=(), max_length=MOST_SHOTS)

    @property
    def seconds(self) -> float:
        """How long it is."""
        return sum(shot.seconds for shot in self.shots)

    def begins(self, number: int) -> float:
        """Return the second at which a shot begins."""
        return sum(shot.seconds for shot in self.shots[:number])

    def number_at(self, time: float) -> int:
        """Return which shot is seen at a time in seconds: where one ends the next begins."""
        ends = list(accumulate(shot.seconds for shot in self.shots))
        return min(bisect_right(ends, time), len(ends) - 1)
