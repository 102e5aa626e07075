"""Reading and writing numbers the way people type them."""

from __future__ import annotations

import re
from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QDoubleSpinBox, QLineEdit, QSpinBox, QToolTip, QWidget

from anatome.app.base import units


def read_number(text: str) -> float | None:
    """Return a plain number, with a comma or a point, and if wanted mm, %, °, s or h; None for anything else.

    >>> read_number("1,25"), read_number("30°"), read_number("x")
    (1.25, 30.0, None)
    """
    found = re.fullmatch(r"\s*([-+−]?\d*[.,]?\d+|[-+−]?\d+[.,])\s*(mm|%|°|deg|[×x]|s|h)?\s*", text)
    return float(found.group(1).replace(",", ".").replace("−", "-")) if found else None


def amount_in(text: str, read: Callable[[str], float | None], now: float, below_zero: bool) -> float | None:
    """Read an amount as people type it: alone, as a sum, or from what there is ``now`` where it begins with a sign. A minus alone
    means a place ``below_zero`` where there are such. None for what is none.

    >>> [amount_in(text, read_number, 7.5, True) for text in ("2", "+0.5", "-0.25", "7.5+0.5-1", "x")]
    [2.0, 8.0, -0.25, 7.0, None]
    >>> amount_in("-0.25", read_number, 7.5, False)
    7.25
    """
    text = text.strip().replace("−", "-")
    if text.startswith("+") or (text.startswith("-") and not below_zero):
        found = _sum_in(f"0{text}", read)
        return None if found is None else now + found
    return _sum_in(text, read)


def _sum_in(text: str, read: Callable[[str], float | None]) -> float | None:
    """An amount, or amounts with + and - between them."""
    whole = read(text)
    if whole is not None:
        return whole
    for at in reversed([i for i, letter in enumerate(text) if letter in "+-" and text[:i].strip()]):
        last = read(text[at + 1 :]) if text[at + 1 :].strip()[:1] not in ("+", "-", "") else None
        before = _sum_in(text[:at], read) if last is not None else None
        if last is not None and before is not None:
            return before + last if text[at] == "+" else before - last
    return None


def millimetres(value: float) -> str:
    """“24 mm”; with tenths and hundredths where it is small: “2.5 mm”."""
    shown = f"{value:.0f}" if abs(value) >= 10 else f"{value:.2f}".rstrip("0").rstrip(".")
    return f"{shown} mm"


def share(value: float) -> str:
    """Return a share in per cent, to a tenth."""
    return f"{100 * value + 0.0:.1f} %".replace("-0.0", "0.0")


def ratio(value: float) -> str:
    """Return a length to another one."""
    return f"{value:.3g}"


def degrees(value: float) -> str:
    """Degrees to a tenth."""
    return f"{value + 0.0:.1f}°"


def times(value: float) -> str:
    """How many times as large something is."""
    return f"{value:.3g}×"


def seconds(value: float) -> str:
    """A length of time to a hundredth."""
    return f"{value:.2f}".rstrip("0").rstrip(".") + " s"


def hours(value: float) -> str:
    """A time of the day, in hours after midnight."""
    return f"{value:.3g} h"


WRITERS: dict[str, Callable[[float], str]] = {
    **{"m": units.length, "°": degrees, "mm": millimetres, "%": share, "×": times, "s": seconds, "h": hours, "": ratio}
}
EXAMPLES = {"m": "3.25 m, 80 cm or 5' 6 1/2\"", "°": "30", "mm": "35", "%": "10", "×": "2.5", "s": "2.5", "h": "8.5", "": "0.5"}


def _spaced(box: QSpinBox | QDoubleSpinBox) -> None:
    """Digits at the right, and room beside them, which no style sheet gives."""
    box.setAlignment(Qt.AlignmentFlag.AlignRight)
    line = box.lineEdit()
    assert line is not None
    line.setTextMargins(5, 0, 5, 0)


class CountBox(QSpinBox):
    """A whole number."""

    def __init__(self, parent: QWidget | None = None, minimum: int = 0, maximum: int = 99, value: int | None = None) -> None:
        super().__init__(parent)
        _spaced(self)
        self.setRange(minimum, maximum)
        if value is not None:
            self.setValue(value)


class AmountBox(QDoubleSpinBox):
    """A number with decimals, first a ``value`` if there is one."""

    def __init__(self, minimum: float = 0.0, maximum: float = 99.99, decimals: int = 2, value: float | None = None) -> None:
        super().__init__()
        _spaced(self)
        self.setDecimals(decimals)
        self.setRange(minimum, maximum)
        if value is not None:
            self.setValue(value)


class NumberField(QLineEdit):
    """A number with its unit. Return takes it over, Escape leaves it, the wheel nudges it while it has the focus. A click marks
    all of it. What begins with a sign is more or less than there is; a minus alone only where there is nothing ``below_zero``."""

    entered = Signal(float)
    nudged = Signal(float)
    left = Signal()

    def __init__(
        self, unit: str, step: float, parent: QWidget | None = None, short: bool = False, below_zero: bool = True
    ) -> None:
        super().__init__(parent)
        self._below_zero, self._tip, self._marks = below_zero, "", False
        self._write = units.bare_length if short and unit == "m" else WRITERS[unit]
        self._unit = unit
        self._step = step
        self._value = 0.0
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        if short:
            self.setProperty("role", "short")
        self.returnPressed.connect(self._enter)

    def set_unit(self, unit: str, step: float) -> None:
        """Show another kind of number."""
        self._unit, self._write, self._step = unit, WRITERS[unit], step

    @property
    def shown(self) -> float:
        """The number it shows, in its unit."""
        return self._value

    def show_value(self, value: float) -> None:
        """Show a number, unless it is being typed over."""
        self._value = value
        if not (self.hasFocus() and self.isModified()):
            self.setText(self._write(value))

    def _take(self) -> None:
        value = self._read()
        self.setProperty("bad", value is None)
        self.style().polish(self)
        if value is None:
            wrong = f"“{self.text().strip()}” is no number. Type one such as {EXAMPLES[self._unit]}."
            super().setToolTip(wrong)
            QToolTip.showText(self.mapToGlobal(self.rect().bottomLeft()), wrong, self)
            return
        super().setToolTip(self._tip)
        self.setModified(False)
        self._value = value
        self.entered.emit(value)
        self.setText(self._write(self._value))

    def _enter(self) -> None:
        """Take it over by Return, which gives the keyboard back."""
        self._take()
        home = getattr(self.window(), "keyboard_home", None)
        if self.property("bad"):
            return
        if isinstance(home, QWidget):
            home.setFocus()
        else:
            self.selectAll()

    def setToolTip(self, tip: str) -> None:
        """Say what it is for, and how it is typed."""
        signs = "+0.5 and −0.5 change it by so much" if not self._below_zero else "+0.5 adds; −0.5 is less than 0"
        self._tip = f"{tip}\n{signs}; sums such as 1.2+0.3 are worked out"
        super().setToolTip(self._tip)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self._marks = event.reason() == Qt.FocusReason.MouseFocusReason

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if self._marks and not self.hasSelectedText():
            self.selectAll()
        self._marks = False

    def _read(self) -> float | None:
        """What was typed, in the unit of the field."""
        scale = 100.0 if self._unit == "%" else 1.0
        read = units.read_length if self._unit == "m" else read_number
        found = amount_in(self.text(), read, self._value * scale, self._below_zero)
        return None if found is None else found / scale

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._leave()
            self.left.emit()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._nudge(1 if event.key() == Qt.Key.Key_Up else -1)
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if self.isModified() and self._read() is not None:
            self._take()
        self._leave()

    def _leave(self) -> None:
        self.setModified(False)
        self.setProperty("bad", False)
        self.style().polish(self)
        self.setText(self._write(self._value))

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.hasFocus():
            self._nudge(1 if event.angleDelta().y() > 0 else -1)
            event.accept()
        else:
            event.ignore()  # the page scrolls

    def _nudge(self, steps: int) -> None:
        self.setModified(False)
        self._value += steps * (units.nudge(self._step) if self._unit == "m" else self._step)
        self.nudged.emit(self._value)
