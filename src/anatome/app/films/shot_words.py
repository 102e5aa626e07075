"""What shots are called, and what is said of them in a few words."""

from __future__ import annotations

from anatome.scenes.film import AnyShot, Card, Day, LookShot, TurnAbout, Way
from anatome.scenes.project import Project

MOVES: dict[str, tuple[str, str]] = {
    "hold": ("Stands", "The scene as it is saved, with what is written on it"),
    "travel": ("Travels there", "Camera, cuts and look go from the shot before to the scene"),
    "rise": ("A level cut rises", "The building grows from the ground up"),
    "sweep": ("An upright cut goes through", "From the front of the picture to the back"),
    "peel": ("Layers draw back", "The planes of the scene's peel, the outermost first"),
    "turn": ("The camera turns about", "Round the middle of the building"),
    "explode": ("Storeys open", "What is exploded opens; the storeys, where nothing is"),
    "together": ("Storeys come together", "The same the other way round"),
    "walk": ("A walk", "At eye height along a path drawn in the key plan, through doors and over stairs"),
    "fly": ("A flight", "Through the air along a path drawn in the key plan"),
    "day": ("The sun goes through a day", "Where it is known where the building stands"),
    "lines": ("Lines first", "The linework is drawn, tones come in, the light comes on"),
    "look": ("Another look comes", "It takes the place of the scene's"),
    "card": ("A title", "Words on the paper of the scene that follows"),
}
"""By the word of a move: what it is called, and what it does."""
SHORT = {
    **{"hold": "Stands", "travel": "Travels", "rise": "Rise", "sweep": "Sweep", "peel": "Peel", "turn": "Turn", "walk": "Walk"},
    **{
        "explode": "Explode",
        "together": "Together",
        "fly": "Flight",
        "day": "Day",
        "look": "Look",
        "lines": "Lines",
        "card": "Title",
    },
}
ON_A_PATH = ("walk", "fly")
"""Moves that begin with a path in the key plan."""


def seconds_words(seconds: float) -> str:
    """Return a length of time: “2.5 s”, “1:05”."""
    if seconds < 60:
        return f"{seconds:.3g} s"
    minutes, rest = divmod(round(seconds), 60)
    return f"{minutes}:{rest:02d}"


def clock(seconds: float) -> str:
    """Return a time in a film, to a tenth: “0:03.2”."""
    tenths = round(seconds * 10)
    return f"{tenths // 600}:{tenths // 10 % 60:02d}.{tenths % 10}"


def shot_words(shot: AnyShot, project: Project) -> str:
    """Return what a shot is of, in a few words."""
    if isinstance(shot, Card):
        return shot.heading or shot.words.split("\n")[0] or "No words yet"
    scene = project.scene(shot.scene)
    if scene is None:
        return "Its scene is gone"
    if isinstance(shot, TurnAbout):
        return f"{scene.name}, {shot.degrees:g}°"
    if isinstance(shot, Day):
        return f"{scene.name}, {shot.begins:g} to {shot.ends:g} o'clock"
    if isinstance(shot, LookShot):
        return f"{scene.name}, {shot.look.name}"
    if isinstance(shot, Way):
        return f"{scene.name}, {len(shot.path)} places"
    return scene.name
