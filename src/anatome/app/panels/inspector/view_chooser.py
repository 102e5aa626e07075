"""Standard views and projections as small pictures of the building itself, those taken last in front."""

from __future__ import annotations

from PySide6.QtCore import QObject, QPoint, QSize, Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from anatome.app.base.actions import Actions, panel_button
from anatome.app.commands.view import ViewCommands
from anatome.app.document.session import Session
from anatome.app.panels.inspector.page import bare_column, label
from anatome.app.panels.inspector.small_pictures import PictureButton, SmallPictures, stand_at
from anatome.app.stage.stage import Stage
from anatome.scenes.scene_view import View
from anatome.view.camera import CORNERS, FACES
from anatome.view.projections import DRAWN, TRUE

PICTURE = QSize(96, 64)
FRONT = QSize(69, 46)
COLUMNS = 7
GROUPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("From a side", tuple(FACES)),
    ("From a corner", tuple(CORNERS)),
    ("Drawn as, from the corner you are next to", tuple(DRAWN)),
    ("True to the cut", tuple(TRUE)),
)


def short(name: str) -> str:
    """Return a view's name as it stands under its picture."""
    plain = name.removeprefix("Axonometric, ").replace(", true to the cut, to the", ",").replace(" along the cut, from the", ",")
    return plain.capitalize().replace(" and 60°", "/60°")


class ViewPictures(SmallPictures):
    """Of views, fitted to what is shown."""

    def __init__(self, session: Session, stage: Stage, views: ViewCommands, parent: QObject) -> None:
        super().__init__(session, stage, PICTURE, parent)
        self._views = views

    def key(self, name: str) -> object:
        stage = self._session.stage
        look = (
            self._session.drawn_look(),
            stage.cuts,
            stage.hidden,
            stage.series,
            stage.treatments,
            stage.poche,
            *stage.apart_key,
        )
        return id(self._session.building), look, self._views.camera_for(name, PICTURE.width() / PICTURE.height())

    def view(self, name: str) -> View:
        camera = self._views.camera_for(name, PICTURE.width() / PICTURE.height())
        plain = self._session.drawn_look().model_copy(update={"shade": False, "ground": False})
        return View(camera, self._session.on_stage(), plain)


class ViewButton(PictureButton):
    """One view: its picture with its name under it."""

    def __init__(self, name: str, pictures: ViewPictures, size: QSize) -> None:
        super().__init__(name, pictures, size)
        self.show_view(name)

    def show_view(self, name: str) -> None:
        """Stand for this view from now on."""
        words = short(name)
        self.show_name(name, words, words.split(", ")[0], f"{name}, in parallel projection, fitted to what is shown")
        self.setAccessibleName(name)


class ViewSheet(QFrame):
    """All views, to choose one of."""

    chosen = Signal(str)

    def __init__(self, pictures: ViewPictures, views: ViewCommands, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setObjectName("sheet")
        self._views = views
        self._of_cut: list[QWidget] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 12, 16, 14)
        column.setSpacing(6)
        self.buttons: dict[str, ViewButton] = {}
        for words, names in GROUPS:
            heading = label(words, "section")
            column.addWidget(heading)
            grid = QGridLayout()
            grid.setSpacing(8)
            grid.setColumnStretch(COLUMNS, 1)
            for i, name in enumerate(names):
                button = ViewButton(name, pictures, PICTURE)
                button.clicked.connect(lambda _=False, name=name: self._choose(name))
                grid.addWidget(button, i // COLUMNS, i % COLUMNS)
                self.buttons[name] = button
                if name in TRUE:
                    self._of_cut += [heading, button]
            column.addLayout(grid)
            column.addSpacing(4)

    def _choose(self, name: str) -> None:
        self.close()
        self.chosen.emit(name)

    def open_at(self, at: QPoint) -> None:
        """Stand with the upper right corner there, on the screen."""
        for widget in self._of_cut:
            widget.setVisible(self._views.front is not None)
        stand_at(self, at)
        next(iter(self.buttons.values())).setFocus()


class ViewChooser(QWidget):
    """The views taken last, and the way to all others."""

    def __init__(self, session: Session, stage: Stage, actions: Actions, views: ViewCommands) -> None:
        super().__init__()
        self._actions, self._views = actions, views
        self.pictures = ViewPictures(session, stage, views, self)
        column = bare_column(self, 3)
        row = QHBoxLayout()
        row.setSpacing(5)
        self.front = [ViewButton(name, self.pictures, FRONT) for name in views.used[:3]]
        for button in self.front:
            button.clicked.connect(lambda _=False, button=button: self._take(button.name))
            row.addWidget(button)
        row.addStretch()
        column.addLayout(row)
        self.all = panel_button(actions["all_views"])
        column.addWidget(self.all)
        views.sheet_wanted.connect(self.open_sheet)
        self.sheet = ViewSheet(self.pictures, views, self)
        self.sheet.chosen.connect(self._take)
        for signal in (session.opened, session.changed, session.recut, session.camera_moved):
            signal.connect(self._show_front)

    def _take(self, name: str) -> None:
        self._actions[f"view {name}"].trigger()

    def open_sheet(self) -> None:
        """Show all views."""
        self.sheet.open_at(self.mapToGlobal(QPoint(self.width(), 0)))

    def _show_front(self) -> None:
        for button, name in zip(self.front, self._views.used):
            button.show_view(name)
