"""Widgets beside one another, as one row of a form."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QWidget


def in_row(*widgets: QWidget) -> QWidget:
    """Return a widget that holds some in a row, from the left."""
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(8)
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch()
    return holder
