"""How long it still takes, in words."""

from __future__ import annotations

from time import monotonic

LIGHT_SHARE = 0.8
"""Of the time a still takes goes to its light, more or less; the rest to drawing."""
SURE_AFTER = 2.0
"""Seconds before which nothing is said: the first steps tell little."""


class TimeLeft:
    """Told the share done now and then."""

    def __init__(self) -> None:
        self._began = monotonic()

    def words(self, share: float) -> str:
        """“about 40 s left”, or nothing as long as that would be a guess."""
        spent = monotonic() - self._began
        if spent < SURE_AFTER or share < 0.02:
            return ""
        left = spent / share * (1.0 - share)
        return f"about {in_words(left)} left" if share < 1.0 else ""


def in_words(seconds: float) -> str:
    """“8 s”, “40 s”, “3 min”."""
    if seconds < 10:
        return f"{max(1, round(seconds))} s"
    return f"{round(seconds / 5) * 5:.0f} s" if seconds < 90 else f"{round(seconds / 60):.0f} min"
