"""Other scenes in a key drawing: their cameras and cuts, drawn quietly, picked and moved there."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import count
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen

from anatome.app.base import theme
from anatome.app.base.drag import Drag, Spot, spot
from anatome.app.document.preferences import other_scenes_drawn
from anatome.app.document.session import Session
from anatome.app.key_drawings import camera_drag
from anatome.app.key_drawings.mark_painting import polygon
from anatome.app.stage.handles import distance_to_path
from anatome.cuts.cut import AnyCut
from anatome.cuts.kinds.key_mark import DrawingPlane, KeyMark
from anatome.scenes import shared_cuts
from anatome.scenes.project import Project, Scene
from anatome.scenes.variants import with_camera

Array = NDArray[np.float64]
MOST = 60
"""Scenes that are drawn; of more those that were saved first."""
QUIET = QColor(theme.LIGHT.ink_faint)
PAPER = QColor(theme.LIGHT.paper)
ACCENT = QColor(theme.LIGHT.accent)
SIGHT = 22.0
"""Pixels of the line that says where a camera looks."""
NEAR_EYE, NEAR_LINE = 9.0, 6.0
_numbers = count(1)


class Paper(Protocol):
    """A key drawing, as far as other scenes on it go."""

    @property
    def sheet(self) -> DrawingPlane:
        """The plane of the drawing."""

    def to_pixels(self, flat: Array) -> Array:
        """Return (..., 2) pixels of (..., 2) metres."""

    def to_sheet(self, at: QPointF) -> Array:
        """Return a place on its sheet, metres."""

    def mark_of(self, cut: AnyCut) -> KeyMark:
        """Return how a cut shows here."""


@dataclass(frozen=True)
class Found:
    """What of another scene is under the pointer: its camera, or one of its cuts."""

    scene: Scene
    cut: AnyCut | None = None


class OtherScenes:
    """On one key drawing."""

    def __init__(self, session: Session, paper: Paper) -> None:
        self._session, self._paper = session, paper

    def scenes(self) -> list[Scene]:
        """Return the scenes that are drawn: those that are picked, or else all but the current one, if one likes it so."""
        session = self._session
        project = session.project
        if session.picked.scenes:
            return [s for s in project.scenes if s.id in session.picked.scenes and s.id != project.current_scene]
        return [s for s in project.scenes if s.id != project.current_scene][:MOST] if other_scenes_drawn() else []

    def _cuts(self, scene: Scene) -> list[AnyCut]:
        """Its cuts that are on and do not stand on the stage just so."""
        stage = self._session.stage
        return [
            cut for cut in scene.state.active_cuts if (own := stage.cut(cut.id)) is None or not shared_cuts.stands_alike(own, cut)
        ]

    def _camera(self, scene: Scene) -> tuple[Array, Array] | None:
        """(pixels of its eye, unit way it looks on the screen); None where it is seen end on."""
        camera = scene.state.camera
        eye, aim = self._paper.to_pixels(self._paper.sheet.flat(np.array([camera.eye, camera.target])))
        arm = aim - eye
        size = float(np.hypot(*arm))
        if size < 1e-6 or not np.isfinite(arm).all():
            return None
        if not camera.is_perspective:  # it stands nowhere: near what it looks at
            eye = aim - arm / size * min(size, 3 * SIGHT)
        return eye, arm / size

    def paint(self, painter: QPainter) -> None:
        """Draw them."""
        picked = self._session.picked.scenes
        seen: set[tuple[str, object]] = set()
        for scene in self.scenes():
            ink = ACCENT if scene.id in picked else QUIET
            for cut in self._cuts(scene):
                if (cut.id, cut.axis) in seen:
                    continue  # several scenes have it
                seen.add((cut.id, cut.axis))
                pen = QPen(ink, 1.1)
                pen.setDashPattern([6, 4])
                painter.setPen(pen)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                strokes = [self._paper.to_pixels(stroke.points) for stroke in self._paper.mark_of(cut).strokes]
                for points in strokes:
                    painter.drawPolyline(polygon(points))
                if strokes and not cut.peel:
                    end = strokes[0][int(np.argmax(strokes[0] @ [1.0, 0.3]))]
                    painter.setFont(theme.font(8))
                    painter.drawText(QPointF(end[0] + 4, end[1] - 3), cut.mark)
            camera = self._camera(scene)
            if camera is not None:
                eye, way = camera
                painter.setPen(QPen(ink, 1.2))
                painter.drawLine(QPointF(*eye), QPointF(*(eye + SIGHT * way)))
                painter.setBrush(PAPER if not scene.locked else ink)
                painter.drawEllipse(QPointF(*eye), 3.6, 3.6)

    def under(self, at: QPointF) -> Found | None:
        """Return what of another scene is under a place; a camera before a line."""
        here = np.array([at.x(), at.y()])
        scenes = self.scenes()
        cameras = [(float(np.hypot(*(here - found[0]))), s) for s in scenes if (found := self._camera(s)) is not None]
        near = min(cameras, key=lambda one: one[0], default=None)
        if near is not None and near[0] <= NEAR_EYE:
            return Found(near[1])
        lines = [
            (distance_to_path(here, self._paper.to_pixels(stroke.points)), scene, cut)
            for scene in scenes
            for cut in self._cuts(scene)
            for stroke in self._paper.mark_of(cut).strokes
        ]
        line = min(lines, key=lambda one: one[0], default=None)
        return Found(line[1], line[2]) if line is not None and line[0] <= NEAR_LINE else None

    def name(self, found: Found | None) -> str:
        """Return what is said of it while the pointer rests there."""
        if found is None:
            return ""
        what = "" if found.cut is None else f"{found.cut.name}, in "
        return f"{what}{found.scene.name}{', locked' if found.scene.locked else ''}. Drag to move it; double click: on the stage"

    def hold(self, event: QMouseEvent) -> Drag | None:
        """Pick what is under the pointer and take hold of it; locked ones are picked alone."""
        found = self.under(event.position())
        if found is None:
            return None
        session = self._session
        session.pick(scenes=[found.scene.id])
        if found.scene.locked or (found.cut is not None and found.cut.locked):
            what = found.scene.name if found.scene.locked or found.cut is None else found.cut.name
            session.said.emit(f"{what} is locked, and stays where it is.")
            return Drag(spot(event.position()))
        return OtherPull(spot(event.position()), self._paper, session, found)


class OtherPull(Drag):
    """A camera or a cut of another scene; all of it is one step."""

    def __init__(self, start: Spot, paper: Paper, session: Session, found: Found) -> None:
        super().__init__(start)
        self._paper, self._session, self._found = paper, session, found
        self._before: Project = session.project
        self._at = paper.to_sheet(QPointF(*start))
        self._merge = f"other scene {next(_numbers)}"

    def move(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        found, session = self._found, self._session
        by = self._paper.sheet.lifted(self._paper.to_sheet(QPointF(*now)) - self._at)
        if found.cut is None:
            camera = camera_drag.moved(found.scene.state.camera, by)
            project = with_camera(self._before, found.scene.id, camera)
            session.apply(project, f"Moved the view of {found.scene.name}", merge=self._merge)
            return
        cut = found.cut.pulled("move", by) if not found.cut.encloses else found.cut.moved(by)
        keeping = shared_cuts.moved_in(self._before, found.scene.id, cut)
        words = keeping.words or f"{cut.name} moved in {found.scene.name}"
        session.apply(keeping.project, words, merge=self._merge)

    def end(self, now: Spot, modifiers: Qt.KeyboardModifier) -> None:
        self._session.end_step()

    def cancel(self) -> bool:
        self._session.cancel_step(self._merge)
        return True
