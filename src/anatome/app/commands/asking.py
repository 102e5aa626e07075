"""Asking where a small file goes, and writing it there."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from anatome.app.commands.host import Host
from anatome.problems import Problem


def written_where_asked(
    host: Host, title: str, name: str, suffix: str, kind: str, write: Callable[[Path], None], failed: str
) -> Path | None:
    """Return the file that ``write`` wrote under a name that is asked for; None where nobody gave one, or it could not be
    written, which is told as ``failed``."""
    chosen, _ = QFileDialog.getSaveFileName(host.widget, title, f"{name}{suffix}", kind)
    if not chosen:
        return None
    path = Path(chosen) if chosen.endswith(suffix) else Path(chosen + suffix)
    try:
        write(path)
    except Problem as problem:
        host.tell(str(problem), failed)
        return None
    return path
