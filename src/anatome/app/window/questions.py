"""What the window asks and tells: unsaved work, work left behind, errors."""

from __future__ import annotations

from PySide6.QtCore import QEventLoop, Qt
from PySide6.QtWidgets import QMessageBox, QProgressDialog, QWidget

from anatome.app.base.trouble import TroubleDialog
from anatome.app.commands.files import FileCommands
from anatome.app.dialogs.recovery import Recovery, saved_file
from anatome.app.document.documents import Documents
from anatome.app.document.session import Session
from anatome.app.window.journaling import journal_folder
from anatome.app.window.status_line import StatusLine
from anatome.scenes.journal import LeftBehind, left_behind


class Questions:
    """Dialogs over one window."""

    def __init__(self, window: QWidget, session: Session, documents: Documents, status: StatusLine, files: FileCommands) -> None:
        self._window, self._session, self._documents, self._status, self._files = window, session, documents, status, files

    def offer_recovery(self) -> None:
        """Ask about work that was not saved when the program last ended, if there is any."""
        left = left_behind(journal_folder())
        if not left:
            return
        asked = Recovery(self._window, left)
        asked.go_on.connect(lambda one: self._documents.recover(one, as_another=False))
        asked.keep_both.connect(lambda one: self._documents.recover(one, as_another=True))
        asked.as_saved.connect(self._open_as_saved)
        for one in left:
            asked.rejected.connect(one.keep)
        asked.open()

    def _open_as_saved(self, left: LeftBehind) -> None:
        left.discard()
        path = saved_file(left)
        if path is not None:
            self._documents.open(path)

    def tell(self, text: str, title: str = "This could not be done") -> None:
        """Say what went wrong."""
        box = QMessageBox(QMessageBox.Icon.NoIcon, title, text, QMessageBox.StandardButton.Ok, self._window)
        box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        box.open()
        self._status.say(text)

    def show_trouble(self, what: str, details: str) -> None:
        """Tell of an error nobody expected."""
        TroubleDialog(self._window, what, details, self._files.save_as if self._session.is_open else None).open()
        self._status.say(what)

    def may_close(self) -> bool:
        """Ask what to do with unsaved work; False means stay. What is being saved is saved first."""
        if not self.wait_saved():
            return False
        if not self._session.unsaved:
            return True
        said = f"“{self._session.project.name}” has changes that are not saved."
        box = QMessageBox(QMessageBox.Icon.NoIcon, "Unsaved work", said, parent=self._window)
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        box.addButton("Leave without saving", QMessageBox.ButtonRole.DestructiveRole)
        stay = box.addButton("Go on working", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        clicked = box.clickedButton()
        box.deleteLater()
        if clicked is stay:
            return False
        return self._files.save() and self.wait_saved() if clicked is save else True

    def wait_saved(self) -> bool:
        """Wait, with a word about it, until what is being saved is written; False when it could not be."""
        if not self._documents.is_saving:
            return True
        waiting = QProgressDialog("Saving the project", "", 0, 0, self._window)
        waiting.setCancelButton(None)
        waiting.setWindowModality(Qt.WindowModality.WindowModal)
        loop = QEventLoop(self._window)
        outcome: list[bool] = []

        def good() -> None:
            outcome.append(True)

        def bad(_: str) -> None:
            outcome.append(False)

        self._documents.saved.connect(good)
        self._documents.save_failed.connect(bad)
        self._documents.saving.connect(loop.quit)
        waiting.show()
        while self._documents.is_saving:
            loop.exec()
        self._documents.saved.disconnect(good)
        self._documents.save_failed.disconnect(bad)
        waiting.close()
        waiting.deleteLater()
        loop.deleteLater()
        return outcome == [True]
