"""What all of them have: a file name to write to, a bar that shows how far it is, and the buttons."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QLineEdit, QProgressBar, QPushButton, QWidget

from anatome.app.base.form_dialog import FormDialog
from anatome.app.base.waiting import TimeLeft
from anatome.app.base.work import Cancellable, Progress, Work, in_words
from anatome.app.document.session import Session
from anatome.files import make_folder, safe_name, write_whole
from anatome.problems import Problem


@dataclass(frozen=True)
class Outcome:
    """What is to be written, into a ``folder`` that may have to be made, and what is said when it is."""

    files: Mapping[Path, bytes]
    said: str
    folder: Path | None = None

    def write(self, progress: Progress) -> str:
        """Write all of it, unless it was cancelled before. Raises Problem."""
        if progress.keep():
            if self.folder is not None:
                make_folder(self.folder)
            for path, content in self.files.items():
                write_whole(path, content)
        return self.said


class SendOut(FormDialog):
    """Has the name of a file to write to; ``write`` begins writing it. Subclasses put ``file_row`` where it belongs in the form.

    While it is written nothing but Cancel answers here, and the window goes on working.
    """

    after_cancel = "nothing was written"
    _session: Session
    """Subclasses set it."""

    def __init__(self, parent: QWidget, title: str, go: str, folder: Path, name: str, ending: str, kind: str) -> None:
        super().__init__(parent, title, go, 460)
        self._kind = kind
        self._work = Work(self)
        self._work.progressed.connect(self.show_share)
        self._under_way: Cancellable | None = None
        self._given_up = False
        self.path = QLineEdit(str(folder / f"{safe_name(name)}{ending}"))
        browse = QPushButton("Choose…")
        browse.clicked.connect(self.browse)
        self.file_row = QHBoxLayout()
        self.file_row.setSpacing(8)
        self.file_row.addWidget(self.path)
        self.file_row.addWidget(browse)
        self.bar = QProgressBar(textVisible=False, maximum=1000)
        self.bar.hide()
        self.left = QLabel()
        self.left.setProperty("role", "soft")
        self.left.hide()
        self._time = TimeLeft()
        for widget in (self.bar, self.left):
            self.column.insertWidget(self.column.count() - 2, widget)

    def browse(self) -> None:
        """Ask where it goes."""
        name, _ = QFileDialog.getSaveFileName(self, self.windowTitle(), self.path.text(), self._kind)
        if name:
            self.path.setText(name)

    @property
    def busy(self) -> bool:
        """Whether it is being written."""
        return self._under_way is not None

    def run(self) -> bool:
        if self.busy:
            return False
        self.problem.hide()
        self._given_up = False
        self.write(Path(self.path.text()).expanduser())
        self._show_busy()
        return False

    def write(self, path: Path) -> None:
        """Begin writing the file, with :meth:`work_on`. Raises Problem."""
        raise NotImplementedError

    def work_on(self, work: Callable[[Progress], Outcome]) -> None:
        """Let a thread make the file; what it returns is written, and the dialog closes. Until it is being written it can be
        cancelled, and then nothing is written at all."""
        self._under_way = self._work
        self._work.run(lambda progress: work(progress).write(progress), self.written, self.not_written)

    def show_share(self, share: float) -> None:
        """How far it is, 0 to 1."""
        self.bar.setValue(round(share * 1000))
        self.left.setText(self._time.words(share))

    def show_rows(self) -> None:
        """Show the rows there are something to say in; some dialogs hide some of them."""

    def written(self, words: str) -> None:
        """It is done."""
        self._under_way = None
        self.said(words)
        self.accept()

    def said(self, words: str) -> None:
        """Tell in the status line."""
        self._session.said.emit(words)

    def not_written(self, error: Exception) -> None:
        """It could not be done; the dialog stays, and says why."""
        self._under_way = None
        self._show_busy()
        self.show_problem(in_words(error) if isinstance(error, Problem) else f"{in_words(error)}. Nothing was written.")

    def _show_busy(self) -> None:
        self.bar.setValue(0)
        self.bar.setVisible(self.busy)
        self.left.setText("")
        self.left.setVisible(self.busy)
        self._time = TimeLeft()
        self.go.setEnabled(not self.busy)
        self.show_rows()
        for widget in self.findChildren(QLineEdit):
            widget.setEnabled(not self.busy)

    def reject(self) -> None:
        if self._under_way is not None:
            if self._under_way.cancel() is False:
                # It is being written, and over in a moment; what would come after it is not begun.
                self._given_up = True
                return
            self._under_way = None
            self._show_cancelled()
            return
        super().reject()

    def _show_cancelled(self) -> None:
        self._show_busy()
        self.show_problem(f"It was cancelled; {self.after_cancel}.")

    def goes_on(self) -> bool:
        """Return whether the next of several is to be begun; if it was given up meanwhile, that is said."""
        if self._given_up:
            self._under_way, self._given_up = None, False
            self._show_cancelled()
            return False
        return True
