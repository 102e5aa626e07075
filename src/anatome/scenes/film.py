"""A film as a value: a row of shots, each of a scene, with a length and what moves in it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from anatome.look.look import Look
from anatome.values import Value

LONGEST_SHOT = 600.0
"""Seconds."""


class Shot(Value):
    """Of a ``scene``, by its id, so many ``seconds`` long."""

    scene: str = Field(max_length=64)
    seconds: float = Field(default=4.0, gt=0, le=LONGEST_SHOT)


class Hold(Shot):
    """The scene stands still, with what is written on it."""

    kind: Literal["hold"] = "hold"


class Travel(Shot):
    """From what the shot before ends with to the scene."""

    kind: Literal["travel"] = "travel"


class Rise(Shot):
    """A level cut travels up through all of it, and the building grows; ``resting`` over every floor."""

    kind: Literal["rise"] = "rise"
    resting: bool = False


class Sweep(Shot):
    """An upright cut goes through the building from the front of the picture, or so many degrees from X anticlockwise."""

    kind: Literal["sweep"] = "sweep"
    heading: float | None = Field(default=None, ge=-360, le=360)


class TurnAbout(Shot):
    """The camera goes round the building by degrees, anticlockwise seen from above."""

    kind: Literal["turn"] = "turn"
    degrees: float = Field(default=360.0, ge=-3600, le=3600)


class Explode(Shot):
    """What is drawn apart opens, the storeys where nothing is; or comes ``together``."""

    kind: Literal["explode"] = "explode"
    together: bool = False


class Day(Shot):
    """The sun from one hour to another of a day (month-day), where it is known where the building stands."""

    kind: Literal["day"] = "day"
    day: str = Field(default="06-21", pattern=r"^\d\d-\d\d$")
    begins: float = Field(default=7.0, ge=0, le=24)
    ends: float = Field(default=20.0, ge=0, le=24)


class LookShot(Shot):
    """Another look takes the place of the scene's."""

    kind: Literal["look"] = "look"
    look: Look


AnyShot = Hold | Travel | Rise | Sweep | TurnAbout | Explode | Day | LookShot


SHOTS: dict[str, type[Shot]] = {
    **{"hold": Hold, "travel": Travel, "rise": Rise, "sweep": Sweep, "turn": TurnAbout, "explode": Explode, "day": Day},
    **{"look": LookShot, "together": Explode},
}
"""By the word for what moves."""


def shot_of(move: str, scene: str, seconds: float, **said: object) -> AnyShot:
    """Return a shot of a scene by the word for what moves, with so much of what is ``said`` as that kind of shot asks for."""
    kind, told = SHOTS[move], {**said, "together": move == "together"}
    own = {name: value for name, value in told.items() if name in kind.model_fields}
    return kind(scene=scene, seconds=seconds, **own)  # type: ignore[return-value]


class Film(Value):
    """Shots in their order."""

    id: str = Field(min_length=1, max_length=64)
    name: str = Field(min_length=1, max_length=200)
    shots: tuple[Annotated[AnyShot, Field(discriminator="kind")], ...] = Field(default=(), max_length=1000)

    @property
    def seconds(self) -> float:
        """How long it is."""
        return sum(shot.seconds for shot in self.shots)
