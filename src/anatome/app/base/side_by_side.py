"""Two widgets in one row of a form."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget


def side_by_side(first: QWidget, second: QWidget, share: int = 1, apart: int = 4) -> QHBoxLayout:
    """Return a row of two, so many pixels ``apart``; the second takes as much room as the first, or only what it needs with a
    ``share`` of 0."""
    row = QHBoxLayout()
    row.setSpacing(apart)
    row.addWidget(first, 1)
    row.addWidget(second, share)
    return row
