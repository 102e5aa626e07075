"""What all of them have: a file name to write to, and the buttons."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QProgressDialog,
    QPushButton,
    QWidget,
)

from anatome.app.form_dialog import FormDialog


class SendOut(FormDialog):
    """Has the name of a file to write to; ``write`` writes it. Subclasses put ``file_row`` where it belongs in the form."""

    def __init__(self, parent: QWidget, title: str, go: str, suggestion: Path, kind: str) -> None:
        super().__init__(parent, title, go, 460)
        self._kind = kind
        self.path = QLineEdit(str(suggestion))
        browse = QPushButton("Choose…")
        browse.clicked.connect(self._browse)
        self.file_row = QHBoxLayout()
        self.file_row.addWidget(self.path)
        self.file_row.addWidget(browse)

    def _browse(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, self.windowTitle(), self.path.text(), self._kind)
        if name:
            self.path.setText(name)

    def run(self) -> None:
        self.write(Path(self.path.text()).expanduser())

    def write(self, path: Path) -> None:
        """Write the file. Raises Problem."""
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
