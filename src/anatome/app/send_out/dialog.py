"""What all of them have: a file name to write to, and the buttons."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from PySide6.QtWidgets import (
    QApplication,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QProgressDialog,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from anatome.problems import Problem


class SendOut(QDialog):
    """A file name to write to, and the buttons."""

    def __init__(self, parent: QWidget, title: str, go: str, suggestion: Path, kind: str) -> None:
        super().__init__(parent)
        self.setWindowTitle(title)
        self.setMinimumWidth(460)
        self._kind = kind
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 20, 24, 20)
        column.setSpacing(12)
        heading = QLabel(title)
        heading.setProperty("role", "title")
        column.addWidget(heading)
        self.form = QFormLayout()
        self.form.setHorizontalSpacing(16)
        self.form.setVerticalSpacing(8)
        column.addLayout(self.form)
        self.path = QLineEdit(str(suggestion))
        browse = QPushButton("Choose…")
        browse.clicked.connect(self._browse)
        row = QHBoxLayout()
        row.addWidget(self.path)
        row.addWidget(browse)
        self._row = row
        self.problem = QLabel()
        self.problem.setProperty("role", "warning")
        self.problem.setWordWrap(True)
        self.problem.hide()
        column.addWidget(self.problem)
        buttons = QDialogButtonBox()
        self.go = buttons.addButton(go, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self._try)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def _browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, self.windowTitle(), self.path.text(), self._kind)
        if name:
            self.path.setText(name)

    def _try(self) -> None:
        try:
            self.run(Path(self.path.text()).expanduser())
        except Problem as problem:
            self.problem.setText(str(problem))
            self.problem.show()
            return
        self.accept()

    def run(self, path: Path) -> None:
        raise NotImplementedError


@contextmanager
def waiting(parent: QWidget, words: str, title: str) -> Iterator[Callable[[float], bool]]:
    """A bar that shows how far something is, and may cancel it: what is yielded takes a share and says whether to go on."""
    shown = QProgressDialog(words, "Cancel", 0, 1000, parent)
    shown.setWindowTitle(title)
    shown.setMinimumDuration(400)

    def progress(share: float) -> bool:
        shown.setValue(min(round(share * 1000), 999))
        QApplication.processEvents()
        return not shown.wasCanceled()

    try:
        yield progress
    finally:
        shown.reset()
        shown.deleteLater()
