"""Errors nobody expected: told in plain words, with what is safe and the details to copy. Nothing is swallowed."""

from __future__ import annotations

import sys
import threading
import traceback
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from types import TracebackType

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QLabel, QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from anatome.app.base.form_dialog import FormDialog

MOST = 20
"""Different errors told in one session; after that they only go to standard error."""


class Trouble(QObject):
    """Takes every error that reaches nobody else. ``told`` comes on the window's thread, once for each place in the program."""

    told = Signal(str, str)
    _came = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self._known: set[str] = set()
        self._came.connect(self.told, Qt.ConnectionType.QueuedConnection)

    def install(self) -> None:
        """Be asked about what would only be printed: errors in slots, in events, and on other threads."""
        sys.excepthook = self.take
        threading.excepthook = lambda args: self.take(args.exc_type, args.exc_value or args.exc_type(), args.exc_traceback)

    def take(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """As ``sys.excepthook`` has it."""
        details = "".join(traceback.format_exception(kind, error, trace))
        sys.stderr.write(details)
        if issubclass(kind, KeyboardInterrupt):
            return
        last = traceback.extract_tb(trace)[-1:] if trace else []
        place = f"{kind.__name__} {[(frame.filename, frame.lineno) for frame in last]}"
        if place in self._known or len(self._known) >= MOST:
            return
        self._known.add(place)
        self._came.emit(f"{kind.__name__}: {error}"[:400], details)

    def report(self, error: BaseException) -> None:
        """An error somebody caught but cannot deal with."""
        self.take(type(error), error, error.__traceback__)


TROUBLE = Trouble()


@contextmanager
def never_dies() -> Iterator[None]:
    """For painting: what breaks in it is reported, and the rest of the window goes on being painted."""
    try:
        yield
    except Exception as error:
        TROUBLE.report(error)


class TroubleDialog(FormDialog):
    """What went wrong, what is safe, what to do."""

    def __init__(self, parent: QWidget, what: str, details: str, save: Callable[[], object] | None) -> None:
        note = "Your project is as it was; undo still works."
        note += " Save it under another name to be safe, then go on working." if save is not None else ""
        super().__init__(parent, "Something went wrong", "Save as…" if save is not None else "Go on", 520, note)
        words = QLabel(what)
        words.setWordWrap(True)
        words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.details = QPlainTextEdit(details, readOnly=True)
        self.details.setFixedHeight(160)
        self.copy = QPushButton("Copy the details")
        self.copy.setToolTip("For whoever looks into it")
        self.copy.clicked.connect(lambda: QGuiApplication.clipboard().setText(details))
        inside = QVBoxLayout()
        for widget in (words, self.details, self.copy):
            inside.addWidget(widget)
        self.form.addRow(inside)
        self._save = save

    def run(self) -> None:
        if self._save is not None:
            QTimer.singleShot(0, self._save)
