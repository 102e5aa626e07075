"""What mouse and keys do on a sheet: picking, moving, pulling sides, drawing to edges and to the building, dropping scenes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QListWidget

from anatome.app.base.picture_row import ID
from anatome.app.document.desk import Desk
from anatome.app.document.session import Session
from anatome.app.sheets.view import SheetView
from anatome.scenes.edits import new_id
from anatome.scenes.project import Project
from anatome.scenes.sheet_edits import filled_with, moved
from anatome.scenes.sheet_frames import level_on_sheet, picture_height, scale_of
from anatome.sheets.layout import drawn_to, round_boxes
from anatome.sheets.paper import Box, area, free_area
from anatome.sheets.sheet import AnyBlock, KeyPlanBlock, PictureBlock, SceneFrame

CLICK, REACH = 4.0, 9.0
"""Pixels a press may wander and still be a click; pixels round a handle."""
DRAWN_TO = 7.0
"""Pixels within which a block that is moved is drawn to a line."""
ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
NEW_SHARE = 0.42
"""Of the free height of the paper that a scene takes that is dropped on it."""


@dataclass
class BlockDrag:
    """A press under way: on what, where, and how the blocks were."""

    kind: str
    start: QPointF
    blocks: tuple[AnyBlock, ...] = ()
    side: str = ""
    moved: bool = False
    was_picked: bool = False


class SheetInput(QObject):
    """An event filter on the view of the sheet."""

    edit_wanted = Signal(str)
    menu_wanted = Signal(QPointF)

    def __init__(self, session: Session, desk: Desk, view: SheetView) -> None:
        super().__init__(view)
        self._session, self._desk, self._view = session, desk, view
        self._drag: BlockDrag | None = None
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
        at = event.position()
        if event.button() != Qt.MouseButton.LeftButton:
            self._drag = BlockDrag("pan", at)
            return
        side = next((n for n, p in self._view.handles().items() if (p - at).manhattanLength() <= 1.4 * REACH), None)
        if side is not None:
            self._drag = BlockDrag("pull", at, self._desk.blocks, side)
            return
        block = self._view.block_under(at)
        if block is None:
            self._drag = BlockDrag("rectangle", at)
            return
        ids = self._session.picked.blocks
        picked, more = block.id in ids, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if more:
            ids = tuple(i for i in ids if i != block.id) if picked else (*ids, block.id)
            self._session.pick(blocks=ids)
            self._drag = None
            return
        if not picked:
            self._session.pick(blocks=[block.id])
        self._drag = BlockDrag("move", at, self._desk.blocks, was_picked=picked)

    def _move(self, event: QMouseEvent) -> None:
        drag, at = self._drag, event.position()
        if drag is None:
            self._hover(at)
            return
        if not drag.moved and (at - drag.start).manhattanLength() < CLICK:
            return
        drag.moved = True
        if drag.kind == "pan":
            self._view.pan(at - drag.start)
            drag.start = at
        elif drag.kind == "rectangle":
            self._view.rectangle = QRectF(drag.start, at).normalized()
            self._view.update()
        else:
            by = self._view.on_paper(at) - self._view.on_paper(drag.start)
            free = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            if drag.kind == "move":
                self._take(drag, by, free)
            else:
                self._pull(drag, by)

    def _take(self, drag: BlockDrag, by: np.ndarray, free: bool) -> None:
        """Along with the pointer, drawn to edges, to the middle of the paper, to guides and to storeys of other sections."""
        boxes = [self._view.box(b) for b in drag.blocks]
        box = round_boxes(boxes)
        there: Box = (box[0] + by[0], box[1] + by[1], box[2] + by[0], box[3] + by[1])
        self._view.lines = []
        if not free:
            within = DRAWN_TO * self._view.pixel
            x, upright = drawn_to(there, self._lines(drag, True), True, within)
            y, across = drawn_to(there, self._lines(drag, False), False, within)
            level = self._level(drag, by, within)
            if level is not None:
                y, across = level
            by = by + [x, y]
            self._view.lines = [(True, upright)] if upright is not None else []
            self._view.lines += [(False, across)] if across is not None else []
        shift = (float(by[0]), float(by[1]))
        self._desk.put_blocks([moved(b, shift) for b in drag.blocks], "Moved on the sheet", merge="sheet")

    def _lines(self, drag: BlockDrag, upright: bool) -> list[float]:
        """Mm, what a block may be drawn to: the edges and middles of others, the border, the middle, the guides."""
        sheet = self._desk.sheet
        assert sheet is not None
        low, high = (0, 2) if upright else (1, 3)
        moving = {b.id for b in drag.blocks}
        found = [at for axis, at in sheet.guides if (axis == "x") == upright]
        for box in [self._view.box(b) for b in sheet.blocks if b.id not in moving]:
            found += [box[low], box[high], (box[low] + box[high]) / 2]
        edges, free = area(sheet), free_area(sheet)
        return [*found, edges[low], edges[high], free[low], (free[low] + free[high]) / 2]

    def _level(self, drag: BlockDrag, by: np.ndarray, within: float) -> tuple[float, float] | None:
        """(how far up a section moves, mm) so that its storeys lie level with those of another, if they nearly do."""
        sheet, project, building = self._desk.sheet, self._session.project, self._session.building
        if len(drag.blocks) != 1 or not isinstance(drag.blocks[0], SceneFrame) or sheet is None or building is None:
            return None
        frame = drag.blocks[0]
        scene = project.scene(frame.scene)
        if scene is None:
            return None
        centre = self._session.subject_bounds().mean(axis=0)
        own = level_on_sheet(frame, scene, centre, 0.0)
        if own is None:
            return None
        for other in sheet.frames:
            there = project.scene(other.scene)
            if other.id == frame.id or there is None:
                continue
            if abs(picture_scale(other, project) - picture_scale(frame, project)) > 1e-3 * picture_scale(frame, project):
                continue
            level = level_on_sheet(other, there, centre, 0.0)
            if level is not None and abs(level - own - float(by[1])) <= within:
                return level - own - float(by[1]), level
        return None

    def _pull(self, drag: BlockDrag, by: np.ndarray) -> None:
        """A corner makes a frame larger, or crops one that is held at a scale; a side crops it."""
        block = drag.blocks[0]
        left, bottom, right, top = self._view.box(block)
        side = drag.side
        x = float(by[0]) if "right" in side else -float(by[0]) if "left" in side else 0.0
        y = float(by[1]) if "upper" in side or side == "top" else -float(by[1]) if "lower" in side or side == "bottom" else 0.0
        wide, high = right - left, top - bottom
        corner = " " in side
        if isinstance(block, PictureBlock | KeyPlanBlock) or (isinstance(block, SceneFrame) and corner and block.scale is None):
            factor = max((wide + max(x, y * wide / high, key=abs)) / wide, 0.05)
            at = (right - wide * factor if "left" in side else left, top - high * factor if "lower" in side else bottom)
            if isinstance(block, PictureBlock):
                changed: AnyBlock = block.model_copy(update={"width": min(max(block.width * factor, 2.0), 4000.0), "at": at})
            else:
                height = min(max(block.height * factor, 5.0), 4000.0)
                changed = block.model_copy(update={"height": height, "at": at})
            self._desk.put_blocks([changed], "Made it larger or smaller", merge="sheet")
        elif isinstance(block, SceneFrame):
            self._desk.put_blocks([self._cropped(block, side, x, y)], "Cropped it on the sheet", merge="sheet")

    def _cropped(self, frame: SceneFrame, side: str, x: float, y: float) -> SceneFrame:
        """With more or less of its picture at a side, everything else staying where it is."""
        scene = self._session.project.scene(frame.scene)
        if scene is None:
            return frame
        high = picture_height(frame, scene)
        wide = high * scene.aspect
        left, bottom, right, top = frame.crop
        if "left" in side:
            left = float(np.clip(left - x / wide, 0.0, right - 0.03))
        if "right" in side:
            right = float(np.clip(right + x / wide, left + 0.03, 1.0))
        if side == "bottom" or "lower" in side:
            bottom = float(np.clip(bottom - y / high, 0.0, top - 0.03))
        if side == "top" or "upper" in side:
            top = float(np.clip(top + y / high, bottom + 0.03, 1.0))
        at = frame.at[0] + (left - frame.crop[0]) * wide, frame.at[1] + (bottom - frame.crop[1]) * high
        return frame.model_copy(update={"crop": (left, bottom, right, top), "at": at})

    def _release(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        self._view.lines = []
        rectangle, self._view.rectangle = self._view.rectangle, None
        self._view.update()
        if drag is None:
            return
        if drag.kind in ("move", "pull") and drag.moved:
            self._session.end_step()
        elif drag.kind == "move" and drag.was_picked:
            under = self._view.block_under(event.position())
            if under in drag.blocks:
                self._session.pick(blocks=[under.id])
        elif drag.kind == "rectangle":
            sheet = self._desk.sheet
            found = []
            if rectangle is not None and drag.moved and sheet is not None:
                found = [b.id for b in sheet.blocks if rectangle.intersects(self._view.rect_of(self._view.box(b)))]
            self._session.pick(blocks=found)
        elif drag.kind == "pan" and not drag.moved:
            block = self._view.block_under(event.position())
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

    def _hover(self, at: QPointF) -> None:
        side = next((n for n, p in self._view.handles().items() if (p - at).manhattanLength() <= 1.4 * REACH), None)
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
        if self._drag is not None and self._drag.kind in ("move", "pull"):
            self._session.cancel_step("sheet")
            self._drag, self._view.lines = None, []
            self._view.update()
        elif self._session.picked.blocks:
            self._session.pick()
        else:
            self._desk.close()
        return True

    # Dropping --------------------------------------------------------------------------------------------------

    def _drop(self, event: QDropEvent) -> bool:
        """Scenes come from their row at the foot."""
        row = event.source()
        item = row.currentItem() if isinstance(row, QListWidget) else None
        scene = self._session.project.scene(item.data(ID)) if item is not None else None
        if scene is None:
            return False
        if isinstance(event, QDragEnterEvent | QDragMoveEvent):
            event.accept()
            return True
        event.setDropAction(Qt.DropAction.IgnoreAction)  # or its row would take it for moved away, and lose it
        event.accept()
        under = self._view.block_under(event.position())
        if isinstance(under, SceneFrame) and self._session.project.scene(under.scene) is None:
            self._desk.put_blocks([filled_with(under, scene)], f"{scene.name} fills the frame")
        else:
            self.place_scene(scene.id, self._view.on_paper(event.position()))
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
        self._desk.put_blocks([frame.model_copy(update={"at": (float(at[0]), float(at[1]))})], f"Placed {scene.name}")
        self._session.pick(blocks=[frame.id])


def picture_scale(frame: SceneFrame, project: Project) -> float:
    """The 50 of 1:50 of a frame; 0 where its scene is gone."""
    scene = project.scene(frame.scene)
    return 0.0 if scene is None else scale_of(frame, scene)
