"""What is dragged from one part of the window to another: scenes, by their ids."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QMimeData

SCENES = "application/x-anatome-scenes"


def drag_scenes(ids: Iterable[str]) -> QMimeData:
    """Return scenes as they are dragged."""
    found = QMimeData()
    found.setData(SCENES, "\n".join(ids).encode())
    return found


def dragged_scenes(mime: QMimeData) -> list[str]:
    """Return the ids of the scenes that are dragged; none where it is something else."""
    return bytes(mime.data(SCENES).data()).decode().split("\n") if mime.hasFormat(SCENES) else []
