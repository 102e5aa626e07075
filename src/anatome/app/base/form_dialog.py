"""A dialog with a heading, a form and two buttons, that does one thing and says what is wrong if it cannot."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from anatome.app.base.calm_fields import CalmFields
from anatome.problems import Problem


class FormDialog(QDialog):
    """Rows go into ``form``. ``run`` is called by the button and may raise Problem, which is shown; else the dialog closes."""

    def __init__(self, parent: QWidget, title: str, go: str, width: int, note: str = "") -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(title)
        self.setMinimumWidth(width)
        self._calm = CalmFields(self)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(24, 20, 24, 20)
        self.column.setSpacing(12)
        heading = QLabel(title)
        heading.setProperty("role", "title")
        self.column.addWidget(heading)
        if note:
            words = QLabel(note)
            words.setProperty("role", "soft")
            words.setWordWrap(True)
            self.column.addWidget(words)
        self.form = QFormLayout()
        self.form.setHorizontalSpacing(16)
        self.form.setVerticalSpacing(8)
        self.column.addLayout(self.form)
        self.problem = QLabel()
        self.problem.setProperty("role", "warning")
        self.problem.setWordWrap(True)
        self.problem.hide()
        self.column.addWidget(self.problem)
        self._buttons = buttons = QDialogButtonBox()
        self.go = buttons.addButton(go, QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self._try)
        buttons.rejected.connect(self.reject)
        self.column.addWidget(buttons)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._calm.watch(self)
        self._begin_at_first()

    def _begin_at_first(self) -> None:
        """Have the keyboard in the first row, its text marked; Return is the button, from wherever one is."""
        self.go.setDefault(True)
        for row in range(self.form.rowCount()):
            item = self.form.itemAt(row, QFormLayout.ItemRole.FieldRole)
            field = item.widget() if item is not None else None
            if (
                field is not None
                and field.isVisibleTo(self)
                and field.isEnabled()
                and field.focusPolicy() & Qt.FocusPolicy.TabFocus
            ):
                field.setFocus()
                if isinstance(field, QLineEdit):
                    field.selectAll()
                return

    def add_button(self, button: QPushButton) -> None:
        """One more beside the two, that does something else."""
        self._buttons.addButton(button, QDialogButtonBox.ButtonRole.ActionRole)

    def _try(self) -> None:
        try:
            over = self.run()
        except Problem as problem:
            self.show_problem(str(problem))
            return
        if over is not False:
            self.accept()

    def show_problem(self, text: str) -> None:
        """Say what is wrong; the dialog stays."""
        self.problem.setText(text)
        self.problem.show()

    def run(self) -> bool | None:
        """Do it. False when it goes on and the dialog closes itself. Raises Problem."""
        raise NotImplementedError
