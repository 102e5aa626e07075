"""Fields that change only when they are meant: the wheel over one that is not in hand scrolls the page, and a click into one that
is typed in marks what stands there."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QFocusEvent
from PySide6.QtWidgets import QAbstractSpinBox, QComboBox, QLineEdit, QSlider, QWidget

KNOWN = "calm"


class CalmFields(QObject):
    """Watches the fields of a part of the window."""

    def watch(self, holder: QWidget) -> None:
        """Watch all fields in there that are not watched yet."""
        for kind in (QComboBox, QAbstractSpinBox, QSlider):
            for field in holder.findChildren(kind):
                if not field.property(KNOWN):
                    field.setProperty(KNOWN, True)
                    field.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
                    field.installEventFilter(self)
                    line = field.findChild(QLineEdit)
                    if line is not None:
                        line.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Wheel and not isinstance(watched, QLineEdit):
            assert isinstance(watched, QWidget)
            if not (watched.hasFocus() or watched.isAncestorOf(watched.window().focusWidget() or watched.window())):
                event.ignore()  # whoever scrolls gets it
                return True
        clicked = isinstance(event, QFocusEvent) and event.reason() == Qt.FocusReason.MouseFocusReason
        if isinstance(watched, QLineEdit) and clicked and event.type() == QEvent.Type.FocusIn:
            QTimer.singleShot(0, watched, watched.selectAll)
        return False
