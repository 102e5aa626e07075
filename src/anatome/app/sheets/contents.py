"""What the frames of the open sheet show: kept while it is as it was, marked when out of date, drawn anew behind one's back."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QImage

from anatome.app.base.images import image_of
from anatome.app.base.work import Progress, Work, in_words
from anatome.app.document.desk import Desk
from anatome.app.document.session import Session
from anatome.app.sheets.frame_drawer import FrameDrawer
from anatome.app.stage.stage import Stage
from anatome.cuts.dissection import Cutter
from anatome.linework.page import Page, PagePart
from anatome.notes.marks import NotesDrawn
from anatome.printing.contents import Legends, all_wanted, legends_of, wanted
from anatome.printing.pages import FrameResult
from anatome.printing.wanted import FrameRequest
from anatome.render.drawings import page_image
from anatome.scenes.project import Project
from anatome.sheets.sheet import LegendBlock, SceneFrame

DPI = 170.0
"""Of what is shown in the window."""
REST = 350
"""Milliseconds after the last change until a frame is drawn anew."""
MOST = 80
"""Frames kept, those of other sheets among them."""


@dataclass(eq=False)
class Shown:
    """What was made for a frame, and as the window shows it."""

    what: FrameRequest
    made: FrameResult
    image: QImage
    _small: QImage | None = None

    def at(self, width: float) -> QImage:
        """Return the image for so many pixels across: made smaller beforehand where it would be coarse otherwise."""
        if width > 0.7 * self.image.width():
            return self.image
        wide = max(round(width), 8)
        if self._small is None or abs(self._small.width() - wide) > 1:
            self._small = self.image.scaledToWidth(wide, Qt.TransformationMode.SmoothTransformation)
        return self._small


class SheetContents(QObject):
    """``news``: a frame has something new to show. ``problems``: why a frame could not be drawn, by its id."""

    news = Signal()

    def __init__(self, session: Session, stage: Stage, desk: Desk) -> None:
        super().__init__(session)
        self._session, self._desk = session, desk
        self._kept: list[Shown] = []
        self._last: dict[str, Shown] = {}
        self._drawer = FrameDrawer(session, stage.pictures, self)
        self._drawing: FrameRequest | None = None
        self._wanted: tuple[Project, str, dict[str, FrameRequest]] | None = None
        self._packing = Work(self)
        self._legends = Work(self)
        self._legend: tuple[object, Legends] | None = None
        self._reading: object = None
        self._failed: list[FrameRequest] = []
        self.problems: dict[str, str] = {}
        self._rest = QTimer(self, singleShot=True, interval=REST)
        self._rest.timeout.connect(self._go_on)
        for signal in (session.opened, session.closed, session.rebuilt):
            signal.connect(self._forget)
        for signal in (session.changed, desk.changed):
            signal.connect(self._rest.start)

    def _forget(self) -> None:
        self._drawer.forget()
        self._packing.cancel()
        self._legends.cancel()
        self._drawing = self._legend = self._reading = self._wanted = None
        self._kept, self._last, self._failed, self.problems = [], {}, [], {}

    def wanted(self) -> dict[str, FrameRequest]:
        """Return what is to be seen on the open sheet, by the id of the block."""
        project, sheet, building = self._session.project, self._desk.sheet, self._session.building
        if sheet is None or building is None:
            return {}
        if self._wanted is None or self._wanted[0] is not project or self._wanted[1] != sheet.id:
            self._wanted = project, sheet.id, all_wanted(project, sheet, building)
        return self._wanted[2]

    def shown(self, block_id: str) -> tuple[Shown | None, bool]:
        """Return (what a block of the open sheet shows for now, whether that is what it should show)."""
        what = self.wanted().get(block_id)
        found = None if what is None else self._find(what)
        if found is not None:
            self._last[block_id] = found
            return found, True
        return self._last.get(block_id), False

    def last(self, frame: SceneFrame) -> Shown | None:
        """Return what a frame of any sheet showed last."""
        project = self._session.project
        ground = next((sheet.ground for sheet in project.sheets if sheet.block(frame.id) is not None), None)
        what = wanted(frame, project, ground)
        return self._last.get(frame.id) or (None if what is None else self._find(what))

    def _find(self, what: FrameRequest) -> Shown | None:
        return next((s for s in self._kept if s.what == what), None)

    @property
    def busy(self) -> bool:
        """Whether something is still to be drawn for the open sheet."""
        return self._drawing is not None or self._rest.isActive() or bool(self._missing())

    def _missing(self) -> list[FrameRequest]:
        sheet, session = self._desk.sheet, self._session
        if sheet is None or session.building is None or not session.is_built:
            return []
        return [w for w in self.wanted().values() if self._find(w) is None and w not in self._failed]

    def _go_on(self) -> None:
        """Draw the next frame that is missing or out of date; what nobody wants any more is given up."""
        missing = self._missing()
        if self._drawing is not None:
            if self._drawing in missing:
                return
            self._drawer.cancel()
            self._packing.cancel()
            self._drawing = None
        self._read_legend()
        if not missing:
            return
        what = self._drawing = missing[0]

        def done(made: FrameResult) -> None:
            self._packing.run(lambda progress: _image(what, made), lambda image: self._keep(Shown(what, made, image)), failed)

        def failed(error: Exception) -> None:
            self._drawing = None
            self._failed.append(what)
            for block_id, own in self.wanted().items():
                if own == what:
                    self.problems[block_id] = in_words(error)
            self.news.emit()
            self._rest.start()

        self._drawer.draw(what, DPI, done, failed)

    def _keep(self, shown: Shown) -> None:
        self._drawing = None
        self._kept.append(shown)
        del self._kept[:-MOST]
        self.news.emit()
        self._go_on()

    # Legends ---------------------------------------------------------------------------------------------------

    def legends(self) -> Legends:
        """Return what legends on the open sheet list, as far as it is known."""
        return {} if self._legend is None else self._legend[1]

    def _read_legend(self) -> None:
        sheet, session = self._desk.sheet, self._session
        if sheet is None or session.building is None or not any(isinstance(b, LegendBlock) for b in sheet.blocks):
            return
        frames = [w for f in sheet.frames if (w := wanted(f, session.project, sheet.ground)) is not None]
        says = {block.says for block in sheet.blocks if isinstance(block, LegendBlock)}
        key = [says, *((w.scene.state.cuts, w.scene.state.look, w.scene.state.hidden) for w in frames)]
        if key in (None if self._legend is None else self._legend[0], self._reading):
            return
        self._reading, building = key, session.building

        def work(progress: Progress) -> Legends:
            return legends_of(Cutter(building), frames, sheet)

        def done(found: Legends) -> None:
            self._legend, self._reading = (key, found), None
            self.news.emit()

        def failed(error: Exception) -> None:
            self._reading = None
            session.said.emit(in_words(error))

        self._legends.run(work, done, failed)


def _image(what: FrameRequest, made: FrameResult) -> QImage:
    """What was made, as pixels."""
    wide, high = what.paper
    part = PagePart((0.0, 0.0, wide, high), (wide, high), picture=made.picture, drawing=made.drawing)
    nothing = NotesDrawn(wide, high, (), (0.0, 0.0, 0.0))
    return image_of(page_image(Page("", wide, high, (part,), nothing), DPI))
