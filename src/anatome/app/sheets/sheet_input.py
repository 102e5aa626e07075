"""What mouse and keys do on a sheet: picking, moving, pulling sides, drawing to edges and to the building, dropping scenes."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QEvent, QObject, QPointF, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QKeyEvent, QMouseEvent, QWheelEvent

from anatome.app.base.drag import Drag, Pressing, held_down, spot
from anatome.app.base.dragged import dragged_scenes
from anatome.app.document.desk import Desk
from anatome.app.document.session import Session
from anatome.app.sheets.block_drags import MoveBlocks, PanSheet, PickBlocks, PullBlock
from anatome.app.sheets.view import SheetView
from anatome.scenes.edits import new_id
from anatome.scenes.sheet_edits import filled_with, moved
from anatome.scenes.sheet_frames import picture_height
from anatome.sheets.paper import free_area
from anatome.sheets.sheet import SceneFrame

REACH = 9.0
"""Pixels round a handle."""
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
NEXT_DROPPED = (14.0, -14.0)
"""Mm from one of several scenes that are dropped to the next."""
NEW_SHARE = 0.42
"""Of the free height of the paper that a scene takes that is dropped on it."""


class SheetInput(QObject):
    """An event filter on the view of the sheet."""

    edit_wanted = Signal(str)
    menu_wanted = Signal(QPointF)

    def __init__(self, session: Session, desk: Desk, view: SheetView) -> None:
        super().__init__(view)
        self._session, self._desk, self._view = session, desk, view
        self._was_picked = False
        # What a press may take hold of, the first that is there.
        self._pressing = Pressing((self._other_button, self._side, self._block, self._rectangle))
        view.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if self._desk.sheet is None:
            return False
        kind = event.type()
        if isinstance(event, QMouseEvent):
            if kind == QEvent.Type.MouseButtonPress:
                self._press(event)
            elif kind == QEvent.Type.MouseMove:
                self._move(event)
            elif kind == QEvent.Type.MouseButtonRelease:
                self._release(event)
            elif kind == QEvent.Type.MouseButtonDblClick:
                self._double_click(event)
            return True
        if isinstance(event, QWheelEvent):
            self._view.zoom(1.16 ** (event.angleDelta().y() / 120.0), event.position())
            return True
        if isinstance(event, QKeyEvent) and kind == QEvent.Type.KeyPress:
            return self._key(event)
        if isinstance(event, QDropEvent):
            return self._drop(event)
        return False

    # Mouse -----------------------------------------------------------------------------------------------------

    def _press(self, event: QMouseEvent) -> None:
        self._view.setFocus()
        self._pressing.press(event)

    def _other_button(self, event: QMouseEvent) -> Drag | None:
        return PanSheet(spot(event.position()), self._view) if event.button() != Qt.MouseButton.LeftButton else None

    def _side(self, event: QMouseEvent) -> Drag | None:
        side = self._side_under(event.position())
        return None if side is None else PullBlock(spot(event.position()), self._session, self._desk, self._view, side)

    def _block(self, event: QMouseEvent) -> Drag | None:
        """The block under the pointer, which is picked first; with Ctrl it is only picked, or let go of."""
        block = self._view.block_under(event.position())
        if block is None:
            return None
        ids = self._session.picked.blocks
        if held_down(event, Qt.KeyboardModifier.ControlModifier):
            self._session.pick(blocks=[i for i in ids if i != block.id] if block.id in ids else [*ids, block.id])
            return Drag(spot(event.position()))
        self._was_picked = block.id in ids
        if not self._was_picked:
            self._session.pick(blocks=[block.id])
        return MoveBlocks(spot(event.position()), self._session, self._desk, self._view)

    def _rectangle(self, event: QMouseEvent) -> Drag:
        return PickBlocks(spot(event.position()), self._session, self._desk, self._view)

    def _move(self, event: QMouseEvent) -> None:
        if self._pressing.drag is None:
            self._hover(event.position())
        else:
            self._pressing.move(event)

    def _release(self, event: QMouseEvent) -> None:
        clicked = self._pressing.release(event)
        block = self._view.block_under(event.position())
        if isinstance(clicked, MoveBlocks) and self._was_picked and block is not None and block in clicked.blocks:
            self._session.pick(blocks=[block.id])  # one of several
        elif isinstance(clicked, PickBlocks):
            self._session.pick()
        elif isinstance(clicked, PanSheet):
            if block is not None and block.id not in self._session.picked.blocks:
                self._session.pick(blocks=[block.id])
            self.menu_wanted.emit(event.globalPosition())

    def _double_click(self, event: QMouseEvent) -> None:
        block = self._view.block_under(event.position())
        if block is not None:
            self._session.pick(blocks=[block.id])
            self.edit_wanted.emit(block.id)
        else:
            self._view.fit()

    def _side_under(self, at: QPointF) -> str | None:
        """The side or corner of the picked block whose handle is there."""
        return next((n for n, p in self._view.handles().items() if (p - at).manhattanLength() <= 1.4 * REACH), None)

    def _hover(self, at: QPointF) -> None:
        side = self._side_under(at)
        shapes = Qt.CursorShape
        if side is not None:
            shape = shapes.SizeHorCursor if side in ("left", "right") else shapes.SizeVerCursor
            if " " in side:
                shape = shapes.SizeBDiagCursor if side in ("lower left", "upper right") else shapes.SizeFDiagCursor
        else:
            shape = shapes.SizeAllCursor if self._view.block_under(at) is not None else shapes.ArrowCursor
        self._view.setCursor(shape)

    # Keys ------------------------------------------------------------------------------------------------------

    def _key(self, event: QKeyEvent) -> bool:
        if event.key() == Qt.Key.Key_Escape:
            return self.step_back()
        modifiers = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if event.key() in ARROWS and self._desk.blocks:
            factor = {Qt.KeyboardModifier.ControlModifier: 0.1, Qt.KeyboardModifier.ShiftModifier: 10.0}.get(modifiers, 1.0)
            x, y = (v * factor for v in ARROWS[Qt.Key(event.key())])
            self._desk.put_blocks([moved(b, (x, y)) for b in self._desk.blocks], "Moved on the sheet", merge="nudge sheet")
            return True
        return False

    def step_back(self) -> bool:
        """Escape: give up a drag, else let go of what is picked, else the stage again."""
        if self._pressing.cancel():
            return True
        if self._session.picked.blocks:
            self._session.pick()
        else:
            self._desk.close()
        return True

    # Dropping --------------------------------------------------------------------------------------------------

    def _drop(self, event: QDropEvent) -> bool:
        """Scenes come from their row at the foot."""
        project = self._session.project
        scenes = [scene for i in dragged_scenes(event.mimeData()) if (scene := project.scene(i)) is not None]
        if not scenes:
            return False
        if isinstance(event, QDragEnterEvent | QDragMoveEvent):
            event.accept()
            return True
        event.setDropAction(Qt.DropAction.IgnoreAction)  # or its row would take it for moved away, and lose it
        event.accept()
        under = self._view.block_under(event.position())
        if isinstance(under, SceneFrame) and project.scene(under.scene) is None:
            self._desk.put_blocks([filled_with(under, scenes[0])], f"{scenes[0].name} fills the frame")
            return True
        for number, scene in enumerate(scenes):
            self.place_scene(scene.id, self._view.on_paper(event.position()) + number * np.array(NEXT_DROPPED))
        return True

    def place_scene(self, scene_id: str, middle: np.ndarray | None = None) -> None:
        """A frame of a scene about a place, or where there is room."""
        sheet, scene = self._desk.sheet, self._session.project.scene(scene_id)
        if sheet is None or scene is None:
            return
        left, bottom, right, top = free_area(sheet)
        held = scene.state.crop.scale if scene.state.crop is not None else None
        height = min(NEW_SHARE * (top - bottom), 0.8 * (right - left) / scene.aspect)
        frame = SceneFrame(id=new_id(), scene=scene.id, height=height, scale=held)
        high = picture_height(frame, scene)
        spot = np.array([(left + right) / 2, (bottom + top) / 2]) if middle is None else middle
        at = spot - [high * scene.aspect / 2, high / 2]
        more = "" if not sheet.frames else ". “Same scale” and “Line up” are offered beside"
        placed = frame.model_copy(update={"at": (float(at[0]), float(at[1]))})
        self._desk.put_blocks([placed], f"Placed {scene.name}{more}")
        self._session.pick(blocks=[frame.id])
