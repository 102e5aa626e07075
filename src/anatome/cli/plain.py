"""Names of other people's models on a terminal: what would steer it is shown as a mark."""

from __future__ import annotations

import io
import re
from typing import TextIO

# All control characters but the end of a line and the tab, and those that turn the direction of writing.
STEERS = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]")


def plain(text: str) -> str:
    """Return text with a mark in the place of each character that would steer a terminal."""
    return STEERS.sub("\ufffd", text)


class Plain(io.TextIOBase):
    """A stream that passes on to another what is plain text."""

    def __init__(self, to: TextIO) -> None:
        self._to = to

    def write(self, text: str) -> int:
        self._to.write(plain(text))
        return len(text)

    def flush(self) -> None:
        self._to.flush()
