"""Paper and ink: palettes for light and dark, the shipped font, the style sheet and tinted icons."""

from __future__ import annotations

import weakref
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from pathlib import Path

from PySide6.QtCore import QByteArray, QRectF, QSize, Qt
from PySide6.QtGui import QAction, QBrush, QColor, QFont, QFontDatabase, QIcon, QImage, QPainter, QPalette, QPixmap
from PySide6.QtSvg import QSvgRenderer
from PySide6.QtWidgets import QAbstractButton, QApplication
from shiboken6 import isValid

from anatome.notes.lettering import FAMILY, FONTS

WearsIcon = QAbstractButton | QAction
ASSETS = Path(str(files("anatome.app") / "assets"))


@dataclass(frozen=True)
class Theme:
    """Colours by what they are for. ``stage`` is the paper of the picture itself and the same in both themes."""

    name: str
    paper: str
    raised: str
    sunken: str
    rule: str
    ink: str
    ink_soft: str
    ink_faint: str
    accent: str
    accent_soft: str
    on_accent: str
    warning: str


LIGHT = Theme(
    "light",
    "#F6F4EE",
    "#FDFCF9",
    "#ECE9E1",
    "#D9D5CB",
    "#22262B",
    "#5C6066",
    "#8C8F92",
    "#2F7F73",
    "#D6E6E1",
    "#FFFFFF",
    "#A66A0B",
)
DARK = Theme(
    "dark",
    "#24282C",
    "#2C3136",
    "#1D2023",
    "#3C4248",
    "#E9E6DE",
    "#B0B1AE",
    "#83878A",
    "#63B5A7",
    "#2F4A47",
    "#15211F",
    "#E0A94A",
)

_current = LIGHT
_worn: list[tuple[weakref.ref[WearsIcon], str, str]] = []
"""What has an icon that follows the theme, the icon, and the colour of the theme it has."""


def current() -> Theme:
    """Return the theme in use."""
    return _current


def use(theme: Theme) -> None:
    """Dress the application in a theme."""
    global _current
    _current = theme
    icon.cache_clear()
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    palette = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, theme.paper),
        (QPalette.ColorRole.Base, theme.raised),
        (QPalette.ColorRole.AlternateBase, theme.sunken),
        (QPalette.ColorRole.Text, theme.ink),
        (QPalette.ColorRole.WindowText, theme.ink),
        (QPalette.ColorRole.ButtonText, theme.ink),
        (QPalette.ColorRole.Button, theme.paper),
        (QPalette.ColorRole.Highlight, theme.accent),
        (QPalette.ColorRole.HighlightedText, theme.on_accent),
        (QPalette.ColorRole.ToolTipBase, theme.ink),
        (QPalette.ColorRole.ToolTipText, theme.paper),
        (QPalette.ColorRole.PlaceholderText, theme.ink_faint),
        (QPalette.ColorRole.Link, theme.accent),
    ):
        palette.setColor(role, QColor(colour))
    # From one sheet to the next Qt dresses every widget several times over; from none, each once.
    app.setStyleSheet("")
    app.setPalette(palette)
    sheet = (ASSETS / "style.qss").read_text()
    for name in theme.__dataclass_fields__:
        sheet = sheet.replace(f"@{name};", f"{getattr(theme, name)};").replace(f"@{name} ", f"{getattr(theme, name)} ")
    app.setStyleSheet(sheet.replace("@assets", ASSETS.as_posix()))
    there = [(wearer, name, shade) for held, name, shade in _worn if (wearer := held()) is not None and isValid(wearer)]
    _worn[:] = [(weakref.ref(wearer), name, shade) for wearer, name, shade in there]
    for wearer, name, shade in there:
        wearer.setIcon(icon(name, getattr(theme, shade)))


def install_font() -> None:
    """Make the shipped font the application's, with figures of one width."""
    for file in sorted(FONTS.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(file))
    QApplication.setFont(font())


def font(size: float = 9.75, strong: bool = False) -> QFont:
    """Return the interface font at a size in points."""
    made = QFont(FAMILY)
    made.setPointSizeF(size)
    made.setFeature(QFont.Tag("tnum"), 1)
    if strong:
        made.setWeight(QFont.Weight.DemiBold)
    return made


def wear(wearer: WearsIcon, name: str, shade: str = "ink") -> None:
    """Give a button or an action an icon in a colour of the theme, in whichever theme is in use from now on."""
    wearer.setIcon(icon(name, getattr(_current, shade)))
    _worn.append((weakref.ref(wearer), name, shade))


@cache
def icon(name: str, colour: str | None = None, size: int = 16) -> QIcon:
    """Return a shipped icon in the ink of the theme, or in a colour."""
    svg = (ASSETS / "icons" / f"{name}.svg").read_text()
    made = QIcon()
    theme = current()
    for mode, shade in ((QIcon.Mode.Normal, colour or theme.ink), (QIcon.Mode.Disabled, theme.ink_faint)):
        data = svg.replace("currentColor", shade)
        for scale in (1, 2, 3):
            image = QImage(QSize(size, size) * scale, QImage.Format.Format_ARGB32_Premultiplied)
            image.fill(Qt.GlobalColor.transparent)
            painter = QPainter(image)
            QSvgRenderer(QByteArray(data.encode())).render(painter, QRectF(0, 0, size * scale, size * scale))
            painter.end()
            pixmap = QPixmap.fromImage(image)
            pixmap.setDevicePixelRatio(scale)
            made.addPixmap(pixmap, mode)
    return made


def current_brush(name: str) -> QBrush:
    """Return a colour of the theme in use, for items that a style sheet does not reach."""
    return QBrush(QColor(getattr(current(), name)))
