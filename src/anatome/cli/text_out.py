"""Where text goes that a command has made."""

from __future__ import annotations

import sys
from pathlib import Path

from anatome.files import write_whole


def write_text(where: str, text: str) -> None:
    """Write text into a file, or on the screen where that is -. Raises Problem."""
    if where == "-":
        sys.stdout.write(text if text.endswith("\n") else text + "\n")
    else:
        write_whole(Path(where), text.encode())
