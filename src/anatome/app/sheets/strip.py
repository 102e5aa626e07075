"""The sheets of the project as a row of small papers, beside the scenes while one of them is open."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QDropEvent, QImage, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QListWidgetItem

from anatome.app.base import theme
from anatome.app.base.picture_row import ASPECT, ID, PICTURE, PICTURE_HEIGHT, PictureRow
from anatome.app.document.desk import Desk
from anatome.app.document.session import Session
from anatome.app.sheets.contents import SheetContents
from anatome.scenes import sheet_edits
from anatome.scenes.sheet_frames import box_of, frame_box, number_of, picture_height
from anatome.sheets.paper import title_box
from anatome.sheets.sheet import SceneFrame, Sheet

SMOOTH = Qt.TransformationMode.SmoothTransformation


class SheetStrip(PictureRow):
    """Click opens, dragging reorders, F2 or a double click on the name renames."""

    menu_wanted = Signal(str, QPoint)

    def __init__(self, session: Session, desk: Desk, contents: SheetContents) -> None:
        super().__init__()
        self._session, self._desk, self._contents = session, desk, contents
        self._filling = False
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(self._menu)
        self.itemClicked.connect(lambda item: desk.open(item.data(ID)))
        self.itemActivated.connect(lambda item: desk.open(item.data(ID)))
        self.itemDoubleClicked.connect(self.editItem)
        self.itemChanged.connect(self._renamed)
        for signal in (session.opened, session.changed, session.thumbnails_changed, desk.changed, contents.news):
            signal.connect(self.refresh)

    def refresh(self) -> None:
        """Show the sheets as they are now."""
        session = self._session
        if not session.is_open or self._desk.sheet is None:
            return
        sheets = session.project.sheets
        self._filling = True
        while self.count() > len(sheets):
            self.takeItem(self.count() - 1)
        while self.count() < len(sheets):
            item = QListWidgetItem()
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsEditable)
            self.addItem(item)
        for i, sheet in enumerate(sheets):
            item = self.item(i)
            item.setData(PICTURE, self._small(sheet))
            item.setData(ID, sheet.id)
            item.setData(ASPECT, sheet.paper[0] / sheet.paper[1])
            item.setText(f"{number_of(sheet, session.project)} {sheet.name}")
            item.setToolTip(f"Open {sheet.name}. Double-click to rename, drag to reorder")
        self._filling = False
        self.frames.current_id = self._desk.sheet.id
        self.viewport().update()

    def _small(self, sheet: Sheet) -> QPixmap:
        """The paper with its frames as they are known."""
        project, scale = self._session.project, 1.5 * PICTURE_HEIGHT / sheet.paper[1]
        image = QPixmap(max(round(sheet.paper[0] * scale), 1), max(round(sheet.paper[1] * scale), 1))
        image.fill(QColor("white"))
        painter = QPainter(image)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        high = image.height()
        for block in sheet.blocks:
            left, bottom, right, top = (v * scale for v in box_of(block, project, sheet))
            rect = QRectF(left, high - top, right - left, top - bottom)
            picture = self._picture(block) if isinstance(block, SceneFrame) else None
            if picture is None:
                painter.fillRect(rect, QColor("#E4E1D9"))
            else:
                painter.drawImage(rect, *picture)
        title = title_box(sheet)
        if title is not None:
            left, bottom, right, top = (v * scale for v in title)
            painter.setPen(QPen(QColor(theme.LIGHT.ink_faint), 1))
            painter.drawRect(QRectF(left, high - top, right - left, top - bottom))
        painter.end()
        return image

    def _picture(self, frame: SceneFrame) -> tuple[QImage, QRectF] | None:
        """(the picture of a frame, the part of it that is shown)."""
        scene = self._session.project.scene(frame.scene)
        if scene is None:
            return None
        shown = self._contents.last(frame)
        data = self._session.pictures.get(scene)
        image = shown.image.scaledToWidth(260, SMOOTH) if shown is not None else QImage.fromData(data) if data else None
        if image is None or image.isNull():
            return None
        whole = picture_height(frame, scene)
        left, bottom, right, top = frame_box(frame, scene)
        scale = image.height() / whole
        x, y = frame.crop[0] * whole * scene.aspect, (1 - frame.crop[3]) * whole
        return image, QRectF(x * scale, y * scale, (right - left) * scale, (top - bottom) * scale)

    def _renamed(self, item: QListWidgetItem) -> None:
        if self._filling:
            return
        sheet = self._session.project.sheet(item.data(ID))
        if sheet is not None:
            typed = item.text().strip()
            number = number_of(sheet, self._session.project)
            name = typed.removeprefix(number).strip() or sheet.name
            self._desk.put(sheet.model_copy(update={"name": name[:200]}), "Renamed the sheet")
        self.refresh()

    def dropEvent(self, event: QDropEvent) -> None:
        dragged = self.currentItem()
        if dragged is None or event.source() is not self:
            return
        sheet_id, at = dragged.data(ID), event.position().toPoint()
        others = [self.item(i) for i in range(self.count()) if self.item(i).data(ID) != sheet_id]
        position = sum(self.visualItemRect(item).center().x() < at.x() for item in others)
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
        session = self._session
        session.apply(sheet_edits.move_sheet(session.project, sheet_id, position), "Reordered the sheets")

    def _menu(self, at: QPoint) -> None:
        item = self.itemAt(at)
        if item is not None:
            self.setCurrentItem(item)
            self.menu_wanted.emit(item.data(ID), self.viewport().mapToGlobal(at))
