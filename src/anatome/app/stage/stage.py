"""The widget that draws the picture: a sketch while things move, many fine samples when they are still.

Whatever is drawn is drawn in steps of a few milliseconds; between them the window serves mouse and keys.
"""

from __future__ import annotations

import time
from collections.abc import Iterator

import moderngl
from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtGui import QSurfaceFormat
from PySide6.QtOpenGLWidgets import QOpenGLWidget
from PySide6.QtWidgets import QWidget

from anatome.app.base.pictures import Pictures
from anatome.app.base.trouble import TROUBLE
from anatome.app.document.session import Session
from anatome.app.stage.ahead import SAMPLES, Ahead
from anatome.app.stage.companion import FRAME, Companion, next_share
from anatome.app.stage.lined import StageLines
from anatome.app.stage.noted import StageNotes
from anatome.app.stage.tracing import ON_STAGE, Tracing
from anatome.cuts.pieces import ShownBuilding
from anatome.look.divide import Divide
from anatome.look.look import Look
from anatome.raytracing.still import TracedLight
from anatome.render.accumulation import Accumulation, Paper
from anatome.render.renderer import Renderer
from anatome.render.stills import still_of
from anatome.render.window import Window
from anatome.scenes.project import StageState
from anatome.scenes.scene_view import View
from anatome.view.viewport import Frame, Viewport

SETTLE = 130
"""Milliseconds without a change after which the picture is refined."""
TURN = 0.02
"""Seconds of drawing after which mouse and keys have their turn."""
FADE, FADE_STEP = 0.15, 16
"""Seconds in which the fine picture takes the place of the sketch, and milliseconds from one look of it to the next."""
ENOUGH_TO_FOLLOW = 6
"""Samples after which a picture with more light takes the place of a finished one with less."""


def surface_format() -> QSurfaceFormat:
    """Return the OpenGL the stage asks for."""
    wanted = QSurfaceFormat()
    wanted.setVersion(4, 3)
    wanted.setProfile(QSurfaceFormat.OpenGLContextProfile.CoreProfile)
    wanted.setDepthBufferSize(0)
    wanted.setSwapInterval(0)
    return wanted


class Stage(QOpenGLWidget):
    """Shows the session's stage state. Everything on top of the picture is the overlay's."""

    ready = Signal()
    drawn = Signal()
    """The stage shows something new; pictures drawn for others between do not count."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFormat(surface_format())
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(320, 240)
        self._session = session
        self._renderer: Renderer | None = None
        self._loading: Iterator[float] | None = None
        self._moving: Accumulation | None = None
        self._moving_spare: Accumulation | None = None
        self._fine: Accumulation | None = None
        self._shown: Accumulation | None = None
        self._work: Iterator[None] | None = None
        self._work_is: tuple[str, object] = ("", None)
        self._began = 0.0
        self._spent = 0.0
        self._moving_key: object = None
        self._fine_key: object = None
        self._still = True
        self._done = False
        self._share = 2
        self._quick = False
        self._spare: Accumulation | None = None
        self._fading_from: Accumulation | None = None
        """The sketch that the fine picture takes the place of, little by little."""
        self._fading_since = 0.0
        self._unlined: Accumulation | None = None
        """What of the pictures was drawn without lines, for those by hand lie over it."""
        self._fine_of: tuple[object, ShownBuilding] | None = None
        """Of which state the fine picture is, as :meth:`key_of` says."""
        self.pictures = Pictures(self)
        """Drawn on this stage's context, when it has time."""
        self.companion: Companion | None = None
        """Whose picture follows what moves, each time after the stage's own."""
        self._owed = False
        self.ahead = Ahead(session, self)
        self.tracing = Tracing(self)
        self.tracing.news.connect(self._light_came)
        self.tracing.failed.connect(TROUBLE.report)
        self.noted = StageNotes(session, self)
        self.lined = StageLines(session, self)
        self._settle = QTimer(self, singleShot=True, interval=SETTLE)
        self._settle.timeout.connect(self._be_still)
        self._more = QTimer(self, singleShot=True, interval=0)
        self._more.timeout.connect(self._go_on)
        self._fade = QTimer(self, singleShot=True, interval=FADE_STEP)
        self._fade.timeout.connect(self.update)
        self.pictures.asked.connect(self._more.start)
        self.lined.switched.connect(self.touch)
        self.lined.news.connect(self._lines_came)
        session.opened.connect(self._load)
        session.rebuilt.connect(self._load)
        session.closed.connect(self._load)
        session.changed.connect(self.touch)
        session.camera_moved.connect(self.touch)
        session.picked_changed.connect(self.touch)
        session.recut.connect(self.touch)
        session.shown_for_now.connect(self.touch)

    # What is shown ---------------------------------------------------------------------------------------------

    @property
    def viewport(self) -> Viewport:
        """The camera and the size of the stage in device-independent pixels."""
        return Viewport.of(self._session.stage.camera, self.width(), self.height())

    @property
    def aspect(self) -> float:
        return max(self.width(), 1) / max(self.height(), 1)

    @property
    def settled(self) -> bool:
        """True when the picture is as fine as it gets."""
        session = self._session
        if not (self._done and session.is_open and session.is_cut) or session.is_learning or self._fades:
            return False
        if self.lined.mode:
            return self.lined.over(self.lines_key())
        if self.lined.over_picture and not (self.lined.over(self.lines_key()) and self._is_unlined == self.shows_unlined):
            return False
        return not session.stage.still or self.tracing.over(self._light_key())

    @property
    def shows_something(self) -> bool:
        """True when a picture of the building that is open was drawn."""
        return self._shown is not None

    def touch(self) -> None:
        """Something may be different: draw a sketch now and finely when it has been still for a moment."""
        self._still = self._done = False
        self._settle.start()
        self.update()

    def _be_still(self) -> None:
        self._still = True
        self._more.start()

    def _light_key(self) -> object:
        """All that decides the light of a still."""
        s = self._session
        return s.stage.camera, s.drawn_look(), id(s.on_stage()), self.full()

    def lines_key(self) -> tuple[object, object]:
        """Return all that decides the linework of the stage."""
        return self.lined.key(self.full(), self._lines_paper())

    def view_of_lines(self) -> tuple[object, View]:
        """Return (all that decides where lines are, what they are of): on the paper of the notes."""
        s, size, paper = self._session, self.full(), self.noted.paper_height()
        key = s.stage.camera, id(s.on_stage()), s.drawn_look(), s.project.site.figures, size, paper
        frame = Frame(width=float(size[0]), height=float(size[1]))
        return key, View(s.stage.camera, s.on_stage(), s.drawn_look(), frame, s.figures(), paper)

    def _lines_paper(self) -> float:
        """Mm of the paper its lines are drawn on: that of its notes, or where they lie over its picture, that of the picture."""
        return self.noted.paper_height() if self.lined.mode else self._session.paper_height()

    @property
    def _fades(self) -> bool:
        """Whether the fine picture is still coming up over a sketch."""
        return self._fading_from is not None and time.perf_counter() - self._fading_since < FADE

    @property
    def _is_unlined(self) -> bool:
        """Whether the picture is to be drawn without lines now: those by hand are there, and lie over it."""
        return self.lined.over_picture and self._still and self.lined.lies_over(self.lines_key())

    @property
    def shows_unlined(self) -> bool:
        """Whether the picture that is seen has no lines, for those by hand to lie over it."""
        return self._shown is not None and self._shown is self._unlined

    def _light(self) -> TracedLight | None:
        """The light of the still the stage shows, if it shows one and has found some."""
        still = self._session.stage.still and not self.lined.mode
        return self.tracing.light(self._light_key()) if still else None

    def _follow_lines(self) -> None:
        """Draw them, now that the picture stands."""
        if (self.lined.mode or self.lined.over_picture) and self._session.is_cut and not self._session.is_learning:
            self.lined.follow(self.lines_key(), self.full(), self._lines_paper())

    def _follow_light(self) -> None:
        """Look for it, now that the picture stands."""
        if not self._session.stage.still or self.lined.mode:
            self.tracing.drop()
        elif self._session.is_cut:
            view, size = self._view(), self.full()
            self.tracing.follow(self._light_key(), self._session.stage.still, lambda: still_of(view, size, ON_STAGE))

    def _lines_came(self) -> None:
        if self._still and self._is_unlined:
            self._done = False
            self._more.start()

    def _light_came(self) -> None:
        if self._still:
            self._done = False
            self._more.start()

    def _key(self) -> object:
        """All that decides the picture."""
        s = self._session
        own = self.key_of(s.stage, s.on_stage(), s.drawn_look()), id(self._light()), s.is_learning, s.dissolve
        return *own, self.lined.mode, self._is_unlined

    def key_of(self, state: StageState, shown: ShownBuilding, look: Look) -> object:
        """All that decides the finished picture of a state as it is when nothing moves."""
        s = self._session
        return (
            *(state.camera, state.cuts, state.series, state.treatments, state.poche, state.hidden, state.divide, state.still),
            *(s.picked.elements, s.marked, self.full(), id(shown), s.project.site.figures, state.crop, look),
        )

    def _view(self) -> View:
        s = self._session
        return View(
            s.stage.camera,
            s.on_stage(),
            self.lined.look(s.drawn_look()),
            unlined=self._is_unlined,
            picked=s.picked_mask(),
            figures=s.figures(),
            paper=s.paper_height(),
            divide=self._divide(),
            traced=self._light(),
            dissolve=None if self.lined.mode else s.dissolve,
            touched=s.touched_up(),
        )

    def _take_ahead(self) -> None:
        """Show the finished picture of what the stage shows now, if it was drawn ahead; what is left may be come back to."""
        session = self._session
        if self.ahead.empty or self.lined.mode or session.dissolve is not None or session.is_learning:
            return
        shown = session.on_stage()
        made = self.ahead.take(self.key_of(session.stage, shown, session.drawn_look()))
        if made is None:
            return
        if self._fine is not None and self._fine_of is not None and self._fine.samples >= SAMPLES:
            self.ahead.keep(*self._fine_of, self._fine)
        self._fine, self._fine_key, self._shown, self._work = made, self._key(), made, None
        self._moving_key = self._fine_key  # no sketch takes its place
        self._fine_of = self.key_of(session.stage, shown, session.drawn_look()), shown
        self._still = self._done = True
        self._follow_light()
        self._follow_lines()
        self.drawn.emit()

    def _paper(self) -> Paper:
        """What lies under the picture."""
        session = self._session
        if not session.is_open:
            return Paper.plain((1.0, 1.0, 1.0, 1.0))
        paper, dissolve = Paper.of(session.stage.look), session.dissolve
        return paper if dissolve is None else paper.on_the_way(Paper.of(dissolve.other), dissolve.share)

    def _divide(self) -> Divide | None:
        divide = self._session.drawn_divide()
        return None if divide is None else divide.model_copy(update={"other": self.lined.look(divide.other)})

    # OpenGL ----------------------------------------------------------------------------------------------------

    def initializeGL(self) -> None:
        self._renderer = self.pictures.renderer = Renderer(moderngl.create_context())
        self._moving = self._moving_spare = self._fine = self._spare = self._shown = self._work = None
        self._moving_key = self._fine_key = None
        self._load()
        self.ready.emit()

    def _load(self) -> None:
        """Take over the building of the session, little by little."""
        self._work = self._shown = None
        self._moving_key = self._fine_key = None
        self.ahead.drop()
        self._fine_of = None
        self.tracing.drop()
        self.pictures.drop()
        building = self._session.building
        if self._renderer is None:
            return
        if building is not None and building is self._renderer.building and self._loading is None:
            self._done = False  # what it holds of it goes on being good
            self._more.start()
            return
        self._loading = self._renderer.load(building)
        self._done = False
        self._more.start()

    def full(self) -> tuple[int, int]:
        """Return its size in pixels of the screen."""
        pixels: QSize = self.size() * self.devicePixelRatioF()
        return max(pixels.width(), 1), max(pixels.height(), 1)

    def _buffer(self, held: Accumulation | None, size: tuple[int, int], lines: tuple[int, int] | None = None) -> Accumulation:
        assert self._renderer is not None
        if held is not None and held.size == size and held.lines_size == (lines or size):
            return held
        return Accumulation(self._renderer.ctx, self._renderer.programs, size, lines)

    def resizeGL(self, width: int, height: int) -> None:
        """A scene that is shown as it was saved goes on showing all of it."""
        session = self._session
        if session.is_open and session.scene is not None and not session.project.differs_from_scene:
            session.fit_scene(self.aspect)
        if session.is_open:
            self.touch()

    def paintGL(self) -> None:
        if self._renderer is None:
            return
        # A sketch that is soon drawn is seen at once; one that takes longer comes in its turns.
        if self._session.is_open and self._advance(FRAME if self._quick else TURN):
            self._more.start()
        ctx = self._renderer.ctx
        target = ctx.detect_framebuffer(self.defaultFramebufferObject())
        target.viewport = (0, 0, *self.full())
        paper = self._paper()
        if self._shown is None:
            target.use()
            target.clear(*paper.colour)
        else:
            self._show(self._shown, target, paper)

    def _show(self, shown: Accumulation, target: moderngl.Framebuffer, paper: Paper) -> None:
        """What is to be seen; while a fine picture is new, over the sketch before it."""
        share = (time.perf_counter() - self._fading_since) / FADE
        if self._fading_from is None or share >= 1.0:
            self._fading_from = None
            shown.show(target, paper)
            return
        self._fading_from.show(target, paper)
        shown.show(target, paper, share * share * (3.0 - 2.0 * share))
        self._fade.start()

    def _go_on(self) -> None:
        """A turn of drawing between other events."""
        if self._renderer is None or not self.isValid():
            return
        self.makeCurrent()
        shown, samples = self._shown, self._shown.samples if self._shown else 0
        again = self._advance(TURN)
        if self._shown is not shown or (self._shown is not None and self._shown.samples != samples):
            self.update()
        if again:
            self._more.start()

    def _advance(self, budget: float) -> bool:
        """Draw on for some seconds; False when there is nothing more to draw for now."""
        until = time.perf_counter() + budget
        if self._loading is None and not self._still and self._session.is_open:
            self._take_ahead()
        if self._work is not None and self._work_is[0] == "fine" and not self._still:
            self._work = None  # what moves does not wait for a sample of what is no longer shown
        while time.perf_counter() < until:
            if self._loading is not None:
                if next(self._loading, None) is None:
                    self._loading = None
                continue
            if not self._session.is_open:
                return False
            try:
                if self._work is None and not self._begin():
                    return False
            except Exception as error:
                TROUBLE.report(error)
                return False
            began = time.perf_counter()
            try:
                next(self._work)  # type: ignore[arg-type]
                self._spent += time.perf_counter() - began
            except StopIteration:
                self._spent += time.perf_counter() - began
                self._finished()
                if self._work_is[0] == "moving":
                    return True  # seen before anything else is begun
            except Exception as error:
                # What cannot be drawn is told once, and not tried again until something is different.
                TROUBLE.report(error)
                self._give_up()
                return False
        return True

    def _begin(self) -> bool:
        """Begin what is due: the sketch of what moves, a picture somebody waits for, or one more fine sample."""
        assert self._renderer is not None
        full, key = self.full(), self._key()
        self._spent = 0.0
        beside = self.companion.sketch(self._renderer) if self._owed and self.companion is not None else None
        self._owed = False
        if beside is not None:
            self._work_is, self._work = ("beside", None), beside
            return True
        if not self._still:
            if self.lined.at_work:
                self.lined.rest(self.lines_key())
            if key == self._moving_key:
                return False
            part = max(full[0] // self._share, 1), max(full[1] // self._share, 1)
            if self._shown is self._moving:
                # What is seen is whole until the next one is.
                self._moving, self._moving_spare = self._moving_spare, self._moving
            self._moving = self._buffer(self._moving, part, full)
            self._moving.restart()
            self.tracing.keep(self._light_key())
            self._work_is = "moving", key
            self._work = self._moving.steps(self._renderer, self._view(), Window(*part), moving=True)
            return True
        picture = self.pictures.next_steps(lambda: self._still)  # what moves on the stage goes before it
        if picture is not None:
            self._work_is, self._work = ("picture", None), picture
            return True
        if key != self._fine_key:
            if self._shown is not None and self._shown is self._fine:
                # What is seen stays until there is something better.
                self._fine, self._spare = self._spare, self._fine
            self._fine = self._buffer(self._fine, full)
            self._fine.restart()
            self._fine_key = key
            self._unlined = self._fine if self._is_unlined else None if self._unlined is self._fine else self._unlined
            session = self._session
            plain = session.dissolve is None and not self.lined.mode and not self._is_unlined
            shown = session.on_stage()
            self._fine_of = (self.key_of(session.stage, shown, session.drawn_look()), shown) if plain else None
            self._follow_light()
            self._follow_lines()
        assert self._fine is not None
        if self._fine.samples >= SAMPLES:
            self._done = True
            self._follow_lines()
            if self._shown is not self._fine:  # sketches of something else were seen meanwhile, and it is this again
                self._shown = self._fine
                self.drawn.emit()
            return False
        self._work_is = "fine", key
        self._work = self._fine.steps(self._renderer, self._view(), Window(*full))
        return True

    def _give_up(self) -> None:
        """Of drawing what the stage should show now."""
        kind, key = self._work_is
        self._work = None
        if kind == "moving":
            self._moving_key = key
        elif kind == "fine":
            self._fine_key = key
            if self._fine is not None:
                self._fine.samples = SAMPLES
            self._done = True

    def _finished(self) -> None:
        """What was under way is drawn."""
        kind, key = self._work_is
        self._work = None
        if kind == "moving":
            assert self._renderer is not None
            began = time.perf_counter()
            self._renderer.ctx.finish()
            taken = self._spent + time.perf_counter() - began
            self._moving_key, self._shown, self._quick = key, self._moving, taken < FRAME
            self._fading_from = None
            self._share = next_share(self._share, taken)
            self._owed = True
            self.drawn.emit()
        elif kind == "fine":
            assert self._fine is not None
            if self._shown is None or self._shown is not self._spare or self._fine.samples >= min(ENOUGH_TO_FOLLOW, SAMPLES):
                if self._shown is not None and self._shown is self._moving:
                    self._fading_from, self._fading_since = self._shown, time.perf_counter()
                self._shown = self._fine
            self._done = self._fine is not None and self._fine.samples >= SAMPLES
            self.drawn.emit()
