"""What a press on a sheet may take hold of: the sheet itself, blocks, a side of one, a rectangle to pick with."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt

from anatome.app.base.drag import Drag, Spot
from anatome.app.document.desk import Desk
from anatome.app.document.session import Session
from anatome.app.sheets.view import SheetView
from anatome.scenes.project import Project
from anatome.scenes.sheet_edits import GAP, inset, moved
from anatome.scenes.sheet_frames import level_on_sheet, picture_height, scale_of
from anatome.sheets.layout import drawn_to, round_boxes
from anatome.sheets.paper import Box, area, free_area, grid_lines
from anatome.sheets.sheet import AnyBlock, ContentsBlock, KeyPlanBlock, PictureBlock, SceneFrame

DRAWN_TO = 7.0
"""Pixels within which a block that is moved is drawn to a line."""
STEP = "sheet"
"""The word under which what is dragged on a sheet is one step."""


class PanSheet(Drag):
    """The sheet goes with the pointer."""

    def __init__(self, start: Spot, view: SheetView) -> None:
        super().__init__(start)
        self._view, self._before = view, start

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._view.pan(QPointF(now[0] - self._before[0], now[1] - self._before[1]))
        self._before = now


class PickBlocks(Drag):
    """A rectangle that picks what it touches."""

    def __init__(self, start: Spot, session: Session, desk: Desk, view: SheetView) -> None:
        super().__init__(start)
        self._session, self._desk, self._view = session, desk, view

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._view.rectangle = QRectF(QPointF(*self.start), QPointF(*now)).normalized()
        self._view.update()

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        rectangle, sheet = self._view.rectangle, self._desk.sheet
        self.cancel()
        if rectangle is not None and sheet is not None:
            self._session.pick(blocks=[b.id for b in sheet.blocks if rectangle.intersects(self._view.rect_of(self._view.box(b)))])

    def cancel(self) -> bool:
        self._view.rectangle = None
        self._view.update()
        return True


class _OnBlocks(Drag):
    """Blocks as they were when they were taken hold of."""

    def __init__(self, start: Spot, session: Session, desk: Desk, view: SheetView) -> None:
        super().__init__(start)
        self._session, self._desk, self._view, self.blocks = session, desk, view, desk.blocks

    def _by(self, now: Spot) -> NDArray[np.float64]:
        """Mm on the paper, from where it began."""
        return np.asarray(self._view.on_paper(QPointF(*now)) - self._view.on_paper(QPointF(*self.start)))

    def _lines(self, upright: bool) -> list[float]:
        """Mm, what a block may be drawn to: the grid and the guides; without a grid the guides, the edges and middles of
        others, the border and the middle."""
        sheet = self._desk.sheet
        assert sheet is not None
        low, high = (0, 2) if upright else (1, 3)
        moving = {b.id for b in self.blocks}
        found = [at for axis, at in sheet.guides if (axis == "x") == upright]
        if sheet.grid is not None:
            return found + grid_lines(sheet, upright)
        for box in [self._view.box(b) for b in sheet.blocks if b.id not in moving]:
            found += [box[low], box[high], (box[low] + box[high]) / 2]
            found += [box[low] - GAP, box[high] + GAP]  # beside it, as far as scenes laid out lie from one another
        edges, free = area(sheet), free_area(sheet)
        margins = inset(free)
        return [*found, edges[low], edges[high], free[low], free[high], margins[low], margins[high], (free[low] + free[high]) / 2]

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._over()
        self._session.end_step()

    def cancel(self) -> bool:
        self._over()
        self._session.cancel_step(STEP)
        return True

    def _over(self) -> None:
        self._view.lines = []
        self._view.update()


class MoveBlocks(_OnBlocks):
    """Blocks along with the pointer, drawn to edges, to the middle of the paper, to guides and to storeys of other sections."""

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        by = self._by(now)
        boxes = [self._view.box(b) for b in self.blocks]
        box = round_boxes(boxes)
        there: Box = (box[0] + by[0], box[1] + by[1], box[2] + by[0], box[3] + by[1])
        self._view.lines = []
        if not modifiers & Qt.KeyboardModifier.ControlModifier:
            within = DRAWN_TO * self._view.pixel
            x, upright = drawn_to(there, self._lines(True), True, within)
            y, across = drawn_to(there, self._lines(False), False, within)
            level = self._level(by, within)
            if level is not None:
                y, across = level
            by = by + [x, y]
            self._view.lines = [(True, upright)] if upright is not None else []
            self._view.lines += [(False, across)] if across is not None else []
        shift = (float(by[0]), float(by[1]))
        self._desk.put_blocks([moved(b, shift) for b in self.blocks], "Moved on the sheet", merge=STEP)

    def _level(self, by: np.ndarray, within: float) -> tuple[float, float] | None:
        """(how far up a section moves, mm) so that its storeys lie level with those of another, if they nearly do."""
        sheet, project, building = self._desk.sheet, self._session.project, self._session.building
        if len(self.blocks) != 1 or not isinstance(self.blocks[0], SceneFrame) or sheet is None or building is None:
            return None
        frame = self.blocks[0]
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


class PullBlock(_OnBlocks):
    """A corner makes a frame larger, or crops one that is held at a scale; a side crops it."""

    clicks = False

    def __init__(self, start: Spot, session: Session, desk: Desk, view: SheetView, side: str) -> None:
        super().__init__(start, session, desk, view)
        self._side = side

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        by, block, side = self._by(now), self.blocks[0], self._side
        left, bottom, right, top = box = self._view.box(block)
        if not modifiers & Qt.KeyboardModifier.ControlModifier:
            by = by + self._drawn_to(box, by)
        x = float(by[0]) if "right" in side else -float(by[0]) if "left" in side else 0.0
        y = float(by[1]) if "upper" in side or side == "top" else -float(by[1]) if "lower" in side or side == "bottom" else 0.0
        wide, high = right - left, top - bottom
        corner = " " in side
        if isinstance(block, ContentsBlock):
            width = min(max(wide + x, 41.0), 2000.0)
            at = (right - width if "left" in side else left, block.at[1])
            self._desk.put_blocks([block.model_copy(update={"width": width, "at": at})], "Made it wider or narrower", merge=STEP)
        elif isinstance(block, PictureBlock | KeyPlanBlock) or (isinstance(block, SceneFrame) and corner and block.scale is None):
            factor = max((wide + max(x, y * wide / high, key=abs)) / wide, 0.05)
            at = (right - wide * factor if "left" in side else left, top - high * factor if "lower" in side else bottom)
            if isinstance(block, PictureBlock):
                changed: AnyBlock = block.model_copy(update={"width": min(max(block.width * factor, 2.0), 4000.0), "at": at})
            else:
                height = min(max(block.height * factor, 5.0), 4000.0)
                changed = block.model_copy(update={"height": height, "at": at})
            self._desk.put_blocks([changed], "Made it larger or smaller", merge=STEP)
        elif isinstance(block, SceneFrame):
            self._desk.put_blocks([self._cropped(block, side, x, y)], "Cropped it on the sheet", merge=STEP)

    def _drawn_to(self, box: Box, by: NDArray[np.float64]) -> NDArray[np.float64]:
        """Mm that the pulled sides move further to lie on a line that is near."""
        side, within, more = self._side, DRAWN_TO * self._view.pixel, np.zeros(2)
        self._view.lines = []
        for axis, upright, names in ((0, True, ("left", "right")), (1, False, ("bottom", "top"))):
            words = side.replace("lower", "bottom").replace("upper", "top")
            name = next((n for n in names if n in words), None)
            if name is None:
                continue
            edge = box[axis + 2 * names.index(name)] + float(by[axis])
            line = min(self._lines(upright), key=lambda at: abs(at - edge))
            if abs(line - edge) <= within:
                more[axis] = line - edge
                self._view.lines = [*self._view.lines, (upright, line)]
        return more

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


def picture_scale(frame: SceneFrame, project: Project) -> float:
    """Return the 50 of 1:50 of a frame; 0 where its scene is gone."""
    scene = project.scene(frame.scene)
    return 0.0 if scene is None else scale_of(frame, scene)
