"""The lines of the stage: as linework, or in the manner of a hand over the picture. While anything moves the graphics side draws
them, the drawing takes their place as soon as it is still."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QWidget

from anatome.app.base.images import image_of
from anatome.app.base.work import Progress, Work, in_words
from anatome.app.document.session import Session
from anatome.linework.drawing import Drawing
from anatome.linework.view_drawing import view_drawing
from anatome.look.look import Look
from anatome.look.quick_lines import quick_lines
from anatome.render.by_hand import drawn_by_hand, images_of, laid_over
from anatome.render.drawings import drawing_image
from anatome.scenes.scene_view import View
from anatome.view.viewport import Frame

LineMode = Literal["", "lines", "tones"]
"""Nothing: the stage shows its picture."""


class StageLines(QObject):
    """``news``: there are other lines to be seen, or more of them is done. ``switched``: to lines, or back."""

    news = Signal()
    switched = Signal()

    def __init__(self, session: Session, stage: QWidget) -> None:
        super().__init__(stage)
        self._session, self._stage = session, stage
        self.mode: LineMode = ""
        """Linework in the place of the picture."""
        self._made: tuple[tuple[object, object], Drawing | None, QImage | None] | None = None
        self._work = Work(self)
        self._work.progressed.connect(self._progressed)
        self._under_way: object = None
        self.share = 0.0
        for signal in (session.opened, session.closed):
            signal.connect(self._forget)

    def switch(self, mode: LineMode) -> None:
        """Show lines, or the picture."""
        self.mode = mode
        self._cancel()
        if not mode:
            self._made = None
        self.switched.emit()

    def _forget(self) -> None:
        self._cancel()
        self._made = None

    def _cancel(self) -> None:
        self._work.cancel()
        self._under_way = None

    def look(self, look: Look) -> Look:
        """Return what the stage's own picture is drawn in: the quick version, where it shows lines."""
        return quick_lines(look) if self.mode else look

    def key(self, size: tuple[int, int], paper: float) -> tuple[object, object]:
        """Return all that decides the drawing of the stage, so many pixels and millimetres large: the picture, and which of its
        lines are touched up."""
        s, stage = self._session, self._session.stage
        shown = stage.camera, stage.divide, s.project.site.figures, s.drawn_look()
        return (self._wanted, id(s.on_stage()), size, paper, s.is_learning, *shown), stage.touched_up

    @property
    def _wanted(self) -> str:
        """What is to be drawn: as its mode says, or what lies over a picture by hand, or nothing."""
        s = self._session
        return self.mode or ("by hand" if s.is_open and s.dissolve is None and s.is_by_hand else "")

    @property
    def over_picture(self) -> bool:
        """Whether the picture has its lines by hand."""
        return not self.mode and bool(self._wanted)

    def drawing(self, key: object) -> Drawing | None:
        """Return the drawing that ``key`` decides, if it is made."""
        return self._made[1] if self._made is not None and self._made[0] == key else None

    def image(self, key: object) -> QImage | None:
        """Return the same as pixels."""
        return self._made[2] if self._made is not None and self._made[0] == key else None

    def lies_over(self, key: tuple[object, object]) -> bool:
        """Return whether there are lines to lie over that picture: its own, or those before lines were touched up otherwise."""
        return self._made is not None and self._made[2] is not None and self._made[0][0] == key[0]

    @property
    def latest(self) -> QImage | None:
        """The pixels that were made last, whatever decided them."""
        return None if self._made is None else self._made[2]

    @property
    def lost(self) -> tuple[str, ...]:
        """The ids of touching up that found nothing to hold on to when lines were drawn last."""
        drawing = None if self._made is None else self._made[1]
        return () if drawing is None or not self._session.is_open or not self._session.stage.touched_up else drawing.lost

    def over(self, key: object) -> bool:
        """Return whether nothing more will come for that stage."""
        return self._made is not None and self._made[0] == key

    @property
    def at_work(self) -> bool:
        return self._work.busy

    def words(self) -> str:
        """Return how it stands, for people."""
        if not self._wanted or (not self.mode and not self.at_work):
            return ""
        what = "linework" if self.mode else "lines by hand"
        return f"{what}, {round(100 * self.share)} %" if self.at_work else what

    def rest(self, key: object) -> None:
        """What is under way for another stage is not wanted any more."""
        if self._under_way is not None and self._under_way != key:
            self._cancel()

    def follow(self, key: tuple[object, object], size: tuple[int, int], paper: float) -> None:
        """Draw the lines of the stage, unless that is done or under way."""
        if not self._wanted or self.over(key) or self._under_way == key:
            return
        self._cancel()
        self._under_way, self.share = key, 0.0

        def done(found: tuple[Drawing | None, QImage | None]) -> None:
            self._under_way = None
            self._made = key, *found
            self.news.emit()

        def failed(error: Exception) -> None:
            self._under_way = None
            self._made = key, None, None
            self._session.said.emit(in_words(error))
            self.news.emit()

        self._work.run(self._drawing(size, paper), done, failed)

    def _progressed(self, share: float) -> None:
        self.share = share
        self.news.emit()

    def _drawing(self, size: tuple[int, int], paper: float) -> Callable[[Progress], tuple[Drawing | None, QImage | None]]:
        s = self._session
        frame = Frame(width=float(size[0]), height=float(size[1]))
        look, tones, over_picture = s.drawn_look(), self.mode == "tones", self.over_picture
        divide, touched = s.drawn_divide(), s.touched_up()
        view = View(s.stage.camera, s.on_stage(), look, frame, s.figures(), paper, divide, touched=touched)

        def over(told: Progress) -> tuple[Drawing | None, QImage | None]:
            lines = drawn_by_hand(view, size, told)
            image = None if lines is None else laid_over(images_of(lines, size, look.paper))
            return lines, None if image is None else image_of(image)

        def work(told: Progress) -> tuple[Drawing | None, QImage | None]:
            drawing = view_drawing(view, "", progress=told, tones=tones)
            return drawing, image_of(drawing_image(drawing, size, look.paper))

        return over if over_picture else work
