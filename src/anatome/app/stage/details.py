"""A detail under the hands: moved along the picture, and framed while it is picked."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from anatome.app.document.session import Session
from anatome.cuts.details import Detail
from anatome.cuts.plane import vector
from anatome.scenes import detail_edits
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
ROOM = 10.0
"""Pixels between a detail and the frame round it."""
CORNER = 14.0
"""Pixels that are drawn of each side of the frame."""


def frame_of(session: Session, viewport: Viewport) -> tuple[Array, ...]:
    """Return the corners of the frame round the picked detail, (3, 2) pixels each; none where none is picked or in sight."""
    part = next((part for part in session.on_stage().parts if part.detail and part.detail == session.picked.detail), None)
    if part is None:
        return ()
    flat = viewport.pixels(part.left)
    if not np.isfinite(flat).all():
        return ()
    (left, top), (right, bottom) = flat.min(axis=0) - ROOM, flat.max(axis=0) + ROOM
    long = min(CORNER, (right - left) / 3, (bottom - top) / 3)
    found = []
    for x, y, across, down in ((left, top, 1, 1), (right, top, -1, 1), (right, bottom, -1, -1), (left, bottom, 1, -1)):
        found.append(np.array([[x + across * long, y], [x, y], [x, y + down * long]]))
    return tuple(found)


class DetailDrag:
    """The detail taken along, in the plane across the sight through its middle."""

    def __init__(self, session: Session, detail: Detail, at: tuple[float, float], viewport: Viewport) -> None:
        self._session, self._detail = session, detail
        self._depth = float(viewport.matrix[2, :3] @ np.array(detail.place) + viewport.matrix[2, 3])
        self._start = self._place(at, viewport)

    def _place(self, at: tuple[float, float], viewport: Viewport) -> Array:
        flat = np.array([[2 * at[0] / viewport.width - 1, 1 - 2 * at[1] / viewport.height]])
        return np.asarray(viewport.rays(flat, self._depth)[0][0])

    def move(self, at: tuple[float, float], viewport: Viewport) -> None:
        """The pointer is there now."""
        place = vector(np.array(self._detail.place) + self._place(at, viewport) - self._start)
        moved = self._detail.model_copy(update={"place": place})
        project = detail_edits.put_detail(self._session.project, moved)
        self._session.apply(project, f"Moved {moved.name}", merge="detail")

    def end(self) -> None:
        """It stands there now."""
        self._session.end_step()

    def cancel(self) -> None:
        """It stands where it stood."""
        self._session.cancel_step("detail")
