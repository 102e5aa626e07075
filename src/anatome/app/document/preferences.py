"""What the window remembers of how one likes to work, from one session to the next."""

from __future__ import annotations

import hashlib
from pathlib import Path

from PySide6.QtCore import QSettings

from anatome.app.document.recent import settings_folder

NEW_CUT_ALONE = "new cut alone"
OTHER_SCENES = "other scenes drawn"
FEET, INCH_PAPERS = "feet", "papers in inches"
DRAG_SHIFTS, WHEEL_BACK, TURNING = "drag shifts", "wheel backwards goes nearer", "turning"
SLOW, USUAL, FAST = 0.5, 1.0, 1.8
"""Of what a drag usually turns the view by."""
TRANSITION = "seconds between scenes"
USUAL_TRANSITION, LONGEST_TRANSITION = 1.2, 10.0
"""Seconds."""
SENT, WORKERS = "sent out", "address of workers"
CACHE = "cache gigabytes"
USUAL_CACHE = 4
"""Gigabytes."""


def preferences() -> QSettings:
    """Return all of it, in the window's own file."""
    return QSettings(str(settings_folder() / "window.ini"), QSettings.Format.IniFormat)


def new_cut_alone() -> bool:
    """Return whether a new cut switches the others off."""
    return preferences().value(NEW_CUT_ALONE, False, bool) is True


def set_new_cut_alone(on: bool) -> None:
    """Let a new cut switch the others off, or not."""
    preferences().setValue(NEW_CUT_ALONE, on)


def other_scenes_drawn() -> bool:
    """Return whether key drawings show the cameras and cuts of other scenes."""
    return preferences().value(OTHER_SCENES, False, bool) is True


def set_other_scenes_drawn(on: bool) -> None:
    """Let key drawings show other scenes, or not."""
    preferences().setValue(OTHER_SCENES, on)


def cache_gigabytes() -> int:
    """Return how many gigabytes may be kept of models that were opened."""
    value = preferences().value(CACHE, USUAL_CACHE, int)
    return value if isinstance(value, int) and value > 0 else USUAL_CACHE


def set_cache_gigabytes(gigabytes: int) -> None:
    """Let so much be kept."""
    preferences().setValue(CACHE, gigabytes)


def transition_seconds() -> float:
    """Return how long the stage is under way from scene to scene; 0: it is there at once."""
    value = preferences().value(TRANSITION, 0.0, float)
    return min(max(value, 0.0), LONGEST_TRANSITION) if isinstance(value, float) else 0.0


def set_transition_seconds(seconds: float) -> None:
    """Let the stage be so long under way from scene to scene."""
    preferences().setValue(TRANSITION, float(seconds))


def feet() -> bool:
    """Return whether lengths and areas are told in feet and inches."""
    return preferences().value(FEET, False, bool) is True


def set_feet(on: bool) -> None:
    """Tell lengths and areas in feet and inches, or metric."""
    preferences().setValue(FEET, on)


def inch_papers() -> bool:
    """Return whether papers and scales are offered in inches and feet."""
    return preferences().value(INCH_PAPERS, False, bool) is True


def set_inch_papers(on: bool) -> None:
    """Offer papers and scales in inches and feet, or by ISO."""
    preferences().setValue(INCH_PAPERS, on)


def drag_shifts() -> bool:
    """Return whether a drag on the stage shifts the view, and with Shift turns it."""
    return preferences().value(DRAG_SHIFTS, False, bool) is True


def set_drag_shifts(on: bool) -> None:
    """Let a drag on the stage shift the view, or turn it."""
    preferences().setValue(DRAG_SHIFTS, on)


def wheel_sign() -> int:
    """Return 1 where the wheel turned forwards goes nearer, −1 where it goes farther."""
    return -1 if preferences().value(WHEEL_BACK, False, bool) is True else 1


def set_wheel_back(on: bool) -> None:
    """Let the wheel go nearer turned backwards, or forwards."""
    preferences().setValue(WHEEL_BACK, on)


def turning() -> float:
    """Return by how many times as much as usual a drag turns the view."""
    value = preferences().value(TURNING, USUAL, float)
    return min(max(value, 0.1), 5.0) if isinstance(value, float) else USUAL


def set_turning(factor: float) -> None:
    """Let a drag turn the view so many times as much as usual."""
    preferences().setValue(TURNING, float(factor))


def workers_address() -> str:
    """Return where the scheduler of an engine answers whose workers draw films and pages; nothing: this machine draws."""
    value = preferences().value(WORKERS, "", str)
    return value.strip() if isinstance(value, str) else ""


def set_workers_address(address: str) -> None:
    """Let the workers of an engine draw, or with nothing this machine."""
    preferences().setValue(WORKERS, address.strip())


def remember_sent(project: Path | None, folder: Path) -> None:
    """Remember into which folder pictures of a project were sent out last."""
    preferences().setValue(f"{SENT}/{_key(project)}", str(folder))


def sent_before(project: Path | None) -> Path | None:
    """Return into which folder pictures of a project were sent out last; None where that is not known."""
    value = preferences().value(f"{SENT}/{_key(project)}", "", str)
    return Path(value) if isinstance(value, str) and value else None


def _key(project: Path | None) -> str:
    return "unsaved" if project is None else hashlib.sha256(str(project).encode()).hexdigest()[:16]
