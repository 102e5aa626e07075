"""The menus under the right button: of the stage, of scenes, of sheets and of what lies on them."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtWidgets import QMenu, QWidget

from anatome.app.base import theme
from anatome.app.base.actions import Actions
from anatome.app.commands.all import Commands
from anatome.app.document.desk import Desk
from anatome.app.document.session import Session
from anatome.app.panels.contact_sheet import ContactSheet
from anatome.app.sheets.strip import SheetStrip


class PopupMenus:
    """Each is made when it is asked for, and gone when it is closed."""

    def __init__(
        self,
        parent: QWidget,
        session: Session,
        desk: Desk,
        actions: Actions,
        commands: Commands,
        contact_sheet: ContactSheet,
        strip: SheetStrip,
    ) -> None:
        self._parent, self._session, self._desk = parent, session, desk
        self._actions, self._commands = actions, commands
        self._contact_sheet, self._strip = contact_sheet, strip

    def _menu(self) -> QMenu:
        menu = QMenu(self._parent)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        return menu

    def stage(self, at: QPointF) -> None:
        """Of what is under the pointer on the stage: what applies, and nothing else."""
        menu = self._actions.menu(self._parent, [e for e in self._actions.on_stage() if self._actions[e.name].isEnabled()])
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(at.toPoint())

    def sheet(self, at: QPointF) -> None:
        """Of what is picked on a sheet, or of the paper."""
        names = ("block_front", "block_take") if self._desk.blocks else ("sheet_text", "sheet_picture", "sheet_legend")
        menu = self._menu()
        for name in (*names, "on_storey", "on_axis"):
            if self._actions[name].isEnabled():
                menu.addAction(self._actions[name])
        menu.popup(at.toPoint())

    def sheet_in_row(self, sheet_id: str, at: QPoint) -> None:
        """Of a sheet in its row."""
        sheets, strip = self._commands.sheets, self._strip
        menu = self._menu()
        menu.addAction("Open", lambda: self._desk.open(sheet_id))
        menu.addAction(theme.icon("pencil-simple"), "Rename", lambda: strip.editItem(strip.currentItem()))
        menu.addAction(theme.icon("copy"), "Duplicate", lambda: sheets.duplicate(sheet_id))
        menu.addSeparator()
        menu.addAction(theme.icon("trash"), "Delete", lambda: sheets.take_sheet(sheet_id))
        menu.popup(at)

    def shot(self, at: QPoint) -> None:
        """Of a shot in its strip."""
        menu = self._menu()
        for name in ("copy_shot", "shot_path", "take_shot"):
            if self._actions[name].isEnabled():
                menu.addAction(self._actions[name])
        menu.popup(at)

    def scene(self, scene_id: str, at: QPoint) -> None:
        """Of a scene in its row."""
        scenes, row = self._commands.scenes, self._contact_sheet
        menu = self._menu()
        scene = self._session.project.scene(scene_id)
        if scene is None:
            return
        menu.addAction("Recall", lambda: scenes.recall(scene_id))
        replace = "Replace by what the stage shows"
        changes = [
            menu.addAction(theme.icon("arrows-clockwise"), replace, lambda: scenes.replace_scene(scene_id)),
            menu.addAction(theme.icon("pencil-simple"), "Rename", lambda: row.edit(row.currentIndex())),
        ]
        menu.addAction(theme.icon("copy"), "Duplicate", lambda: scenes.duplicate_scene(scene_id))
        if scene.state.notes:
            menu.addAction("Duplicate without its notes", lambda: scenes.duplicate_scene(scene_id, notes=False))
        for words, run, on in (
            ("Lock", scenes.lock, scene.locked),
            ("Keep its linework", scenes.keep_lines, scene.lines_kept),
        ):
            ticked = menu.addAction(words, partial(run, scene_id))
            ticked.setCheckable(True)
            ticked.setChecked(on)
        menu.addSeparator()
        changes.append(menu.addAction(theme.icon("trash"), "Delete", lambda: scenes.delete_scene(scene_id)))
        for action in changes:
            action.setEnabled(not scene.locked)
        menu.popup(at)
