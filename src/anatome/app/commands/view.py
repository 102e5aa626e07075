"""Where the camera stands and how it draws."""

from __future__ import annotations

from functools import partial

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.document.preferences import other_scenes_drawn, set_other_scenes_drawn
from anatome.app.stage.lined import LineMode
from anatome.cuts.pieces import cut_places
from anatome.model.bounds import bounds_round
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.view.camera import CORNERS, FACES, Camera, standard_view
from anatome.view.crop import Crop, fitted
from anatome.view.framing import straightened
from anatome.view.projections import DRAWN, TRUE, corner_of, facing, named, projection_of

NEW_CROP, MOST_OF_STAGE = 1.5, 0.84
"""Proportion of a new crop, and how much of the stage it takes."""


ROUND_CROP, FARTHEST_BACK = 1.06, 2.5
"""How much more than a crop a stage shows that has to show all of it, and how many times as much as now at most."""


class ViewCommands(QObject):
    """Moves the camera. ``sheet_wanted``: all views are to be shown as pictures."""

    sheet_wanted = Signal()

    def __init__(self, host: Host) -> None:
        super().__init__()
        self._host, self._session = host, host.session
        self.used: tuple[str, ...] = ("Axonometric, front left", "Front", "Plan oblique, 45°")
        """The views taken last, the latest first."""
        self._cropped: dict[object, tuple[Camera, Crop]] = {}
        """Views that had a crop when another kind of view was taken, by scene and kind."""
        self._last_cut = ""
        """The cut that was picked last, to which views may be true while none is."""
        host.session.opened.connect(self._cropped.clear)
        host.session.picked_changed.connect(self._remember_cut)

    def entries(self) -> list[Entry]:
        keys = {name: f"Alt+{(i + 1) % 10}" for i, name in enumerate([*FACES, *CORNERS])}

        def view(name: str) -> Entry:
            return Entry(f"view {name}", name, f"{name}, in parallel projection", partial(self.look_from, name), keys[name])

        def drawn(name: str) -> Entry:
            tip = f"{name}, from the corner one is next to, fitted to what is shown"
            return Entry(f"view {name}", name, tip, partial(self.look_from, name))

        def true(name: str) -> Entry:
            tip = "Of the picked cut, or of the one that is on, its face is drawn true, and all else recedes from it"
            along = "Along the axes of the picked cut, or of the one that is on: a turned wing from its own corner"
            text = along if name.startswith("Isometric") else tip
            return Entry(f"view {name}", name, text, partial(self.look_from, name), needs="cuts")

        return [
            *group(
                "Framing",
                "frame",
                Entry(
                    "fit",
                    "Fit",
                    "Show all of the building, or of what is picked",
                    self.fit,
                    "Home",
                    "arrows-out-simple",
                    stage_menu=True,
                ),
                Entry(
                    "all_views",
                    "All views and projections…",
                    "Choose by small pictures of the building",
                    self._show_all,
                    "Ctrl+Alt+V",
                    "frame",
                ),
                Entry(
                    "crop",
                    "Crop the picture",
                    "A frame on the stage: what lies in it is the picture, for scenes and for all that is sent out",
                    self.toggle_crop,
                    "Ctrl+Alt+C",
                    ticked=lambda: self._session.stage.crop is not None,
                ),
                Entry(
                    "projection",
                    "Perspective",
                    "Off: parallel projection",
                    self.toggle_projection,
                    "Ctrl+Shift+P",
                    ticked=lambda: self._session.stage.camera.is_perspective,
                ),
            ),
            *group(
                "Framing",
                "frame",
                Entry(
                    "crop_building",
                    "Fit the crop to the building",
                    "As large as what is built and shown, with a margin",
                    self.crop_to_building,
                ),
                Entry(
                    "crop_cut",
                    "Fit the crop to the cut",
                    "As large as what is cut of the building, with a margin",
                    self.crop_to_cut,
                    needs="active",
                ),
                within="Fit the crop",
            ),
            *group("From a side", "frame", *map(view, FACES), within="From a side"),
            *group("From a corner", "frame", *map(view, CORNERS), within="From a corner"),
            *group("Drawn as", "frame", *map(drawn, DRAWN), self._below(), within="Drawn as"),
            *group("True to the cut", "frame", *map(true, TRUE), within="Drawn as/True to the cut"),
            *group("Framing", "frame", *self._manners()),
        ]

    def _below(self) -> Entry:
        return Entry(
            "below",
            "From below (worm’s-eye)",
            "See the same corner from under the building, its plan cut open above the eye",
            self.toggle_below,
            ticked=self._is_below,
        )

    def _manners(self) -> list[Entry]:
        """How it is drawn, besides its projection."""
        return [
            Entry(
                "lined",
                "Linework on the stage",
                "The drawing with hidden lines removed in the place of the picture; it follows cuts and camera",
                partial(self.show_lines, "lines"),
                "Shift+F8",
                stage_menu=True,
                ticked=lambda: self._host.stage.lined.mode == "lines",
            ),
            Entry(
                "lined_tones",
                "Linework with flat tones",
                "The same over faces in their colours",
                partial(self.show_lines, "tones"),
                "Ctrl+Shift+F8",
                ticked=lambda: self._host.stage.lined.mode == "tones",
            ),
            Entry(
                "straighten",
                "Straighten verticals",
                "Look level and shift the lens instead: upright lines stay upright (two-point perspective)",
                self.straighten,
                "Ctrl+Alt+U",
            ),
            Entry(
                "other_scenes",
                "Other scenes in the key drawings",
                "Their cameras and cuts, drawn quietly; they are picked and moved there. Of picked scenes they always are",
                self.show_others,
                "Ctrl+Shift+C",
                needs="other scenes",
                menu="look",
                within="The window",
                ticked=other_scenes_drawn,
            ),
        ]

    def show_others(self) -> None:
        """Draw other scenes in the key drawings, or no longer."""
        on = not other_scenes_drawn()
        set_other_scenes_drawn(on)
        self._session.said.emit(f"Other scenes are {'drawn' if on else 'not drawn'} in the key drawings")
        self._session.picked_changed.emit()

    def _is_below(self) -> bool:
        found = projection_of(self._session.stage.camera)
        return found is not None and found.below

    def show_lines(self, mode: LineMode) -> None:
        """The stage as linework, or as its picture again."""
        lined = self._host.stage.lined
        lined.switch("" if lined.mode == mode else mode)
        said = {"": "The picture again", "lines": "Linework", "tones": "Linework with flat tones"}[lined.mode]
        self._session.said.emit(said if not lined.mode else f"{said}: the stage alone; scenes and pictures stay as they are")

    def look_from(self, name: str) -> None:
        """Take a standard view."""
        session = self._session
        if session.building is not None:
            if name in TRUE and self.front is None:
                raise Problem("Only level cuts are on. A view is true to an upright or leaning section, or to a side of a box.")
            self.used = (name, *(n for n in self.used if n != name))
            self._take(self.camera_for(name, self._host.stage.aspect), f"Looked from: {name}", name)

    def _take(self, camera: Camera, label: str, said: str) -> None:
        """Take another kind of view: it lets go of the crop of the one before, and finds its own again."""
        session, crop = self._session, self._session.stage.crop
        now, kind = self._kind(session.stage.camera), self._kind(camera)
        if now == kind or (crop is None and kind not in self._cropped):
            session.look_from(camera, label)
            session.said.emit(said)
            return
        if crop is not None:
            self._cropped[now] = session.stage.camera, crop
        camera, found = self._cropped.get(kind, (camera, None))
        session.apply(edits.set_crop(edits.set_camera(session.project, camera), found), label)
        session.said.emit(f"{said}, cropped as before" if found else f"{said}. The crop waits where it was")

    def _kind(self, camera: Camera) -> object:
        """What tells views of one kind: how and from where they are drawn, in which scene."""
        back = tuple(round(float(x), 3) for x in camera.axes[2])
        return self._session.project.current_scene, camera.projection, camera.shear, back

    def _remember_cut(self) -> None:
        if self._session.cut is not None:
            self._last_cut = self._session.cut.id

    @property
    def front(self) -> tuple[float, float] | None:
        """How axes turn and lean of which the cut picked is the front, or the last picked, or one that is on; of its faces that
        which looks most towards the eye. None where all are level."""
        stage = self._session.stage
        picked = [cut for cut in (self._session.cut, stage.cut(self._last_cut)) if cut is not None]
        back = stage.camera.axes[2]
        for cut in (*picked, *stage.cuts_seen_true, *stage.active_cuts):
            planes = [plane for cell in cut.cells() for plane in cell.planes if facing(plane.n) is not None]
            if planes:
                return facing(max(planes, key=lambda plane: float(plane.n @ back)).n)
        return None

    def camera_for(self, name: str, aspect: float) -> Camera:
        """Return one of FACES, CORNERS, DRAWN or TRUE, fitted to what is shown.

        A corner is looked at in the oblique projection that is on the stage, if there is one.
        """
        session = self._session
        corners, now = session.left_corners(), session.stage.camera
        bounds = bounds_round(corners)
        if name in TRUE:
            kind, corner = TRUE[name]
            wanted = named(kind, corner).true_to(*(self.front or (0.0, 0.0)))
        elif name in DRAWN:
            wanted = named(name, *corner_of(now))
        else:
            camera = standard_view(name, bounds, aspect, now.field).fitted_round(corners, aspect)
            found = projection_of(now)
            if name in FACES or found is None or not now.is_oblique:
                return camera
            wanted = found.model_copy(update={"corner": corner_of(camera)[0]})
        return wanted.camera(bounds.mean(axis=0), 1.0, now.field).fitted_round(corners, aspect)

    def _show_all(self) -> None:
        self._host.show_panels()
        self._session.pick()
        self.sheet_wanted.emit()

    def toggle_crop(self) -> None:
        """Put a crop on the stage and have it in hand, or take it away."""
        s = self._session
        if s.stage.crop is not None:
            self._cropped.pop(self._kind(s.stage.camera), None)
            s.apply(edits.set_crop(s.project, None), "All of the stage is the picture")
            return
        self.crop_to_building()

    def crop_to_building(self) -> None:
        """Put the crop round what is built, with a margin."""
        self._crop_round(self._session.left_corners(), "Cropped the picture to the building")

    def crop_to_cut(self) -> None:
        """Put the crop round what is cut, with a margin."""
        places = cut_places(self._session.on_stage())
        if len(places):
            self._crop_round(places, "Cropped the picture to the cut")
        else:
            self._session.said.emit("Nothing of the building is cut here. Put a cut through it, or fit the crop to the building")

    def _crop_round(self, places: NDArray[np.float64], said: str) -> None:
        s, stage = self._session, self._host.stage
        crop, camera = fitted(s.stage.crop or Crop(), stage.viewport, places), s.stage.camera
        if crop is None:
            height = min(MOST_OF_STAGE, MOST_OF_STAGE * stage.aspect / NEW_CROP)
            crop = Crop(aspect=NEW_CROP, height=height)
        more = ROUND_CROP * crop.reach(stage.aspect)
        if more > FARTHEST_BACK:  # from close by: as much of it as the stage shows
            crop = crop.within(stage.aspect, MOST_OF_STAGE)
        elif more > ROUND_CROP:  # the stage shows more, the picture in the crop stays as it is
            camera, crop = camera.widened(more), crop.shrunk(more)
        s.apply(edits.set_crop(edits.set_camera(s.project, camera), crop), said)
        s.pick(crop=True)

    def toggle_below(self) -> None:
        """The same projection from below, or from above again; an isometric where there is none."""
        s = self._session
        now = s.stage.camera
        found = projection_of(now) or named("Isometric", corner_of(now)[0])
        other = found.model_copy(update={"below": not found.below})
        camera = other.seen_by(now).fitted_round(s.left_corners(), self._host.stage.aspect)
        self._take(camera, other.name.capitalize(), other.name.capitalize())

    def straighten(self) -> None:
        """Verticals upright by a shift of the lens."""
        s = self._session
        camera = straightened(s.stage.camera)
        if camera is None:
            steep = "It looks too steeply up or down to be straightened"
            s.said.emit(steep if s.stage.camera.is_perspective else "Upright lines stay upright in a parallel view anyway")
            return
        s.look_from(camera, "Straightened verticals")
        s.said.emit("Verticals are upright")

    def fit(self) -> None:
        s = self._session
        if s.building is not None:
            picked = s.picked_mask()
            corners = s.left_corners() if picked is None else s.on_stage().left_corners(picked)
            s.look_from(s.stage.camera.fitted_round(corners, self._host.stage.aspect), "Showed all of it")

    def toggle_projection(self) -> None:
        s = self._session
        other = "parallel" if s.stage.camera.is_perspective else "perspective"
        words = f"{other.capitalize()} projection"
        self._take(edits.set_projection(s.project, other).stage.camera, words, words)  # type: ignore[arg-type]
