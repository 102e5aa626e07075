"""People and trees under the hands: placing them on floors, picking them, moving them along."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.app.document.session import Session
from anatome.app.stage.tasks import Pointer, Preview, StageTask
from anatome.cuts.picking import pick
from anatome.cuts.pieces import pick_placed
from anatome.cuts.plane import vector
from anatome.model.raycast import Hit
from anatome.problems import Problem
from anatome.scenes import site_edits
from anatome.scenes.edits import new_id
from anatome.site.figure_drawing import FigureDrawing
from anatome.site.kinds import KINDS, drawn
from anatome.site.site import Figure
from anatome.site.standing import Standing, standing
from anatome.view.viewport import Viewport

Array = NDArray[np.float64]
LEVEL = 0.5
"""Cosine to the vertical from which something may be stood on."""
BEFORE = 0.35
"""Metres before a wall at which one stands."""
MARGIN = 3.0
"""Pixels round a figure that are still the figure."""


def figure_under(session: Session, viewport: Viewport, at: tuple[float, float]) -> tuple[Standing, float] | None:
    """Return the nearest person or tree at a place in pixels that nothing hides, and how far from the eye."""
    figures = session.figures()
    if not figures:
        return None
    origin, direction = viewport.ray(*at)
    met = []
    for one in standing(figures, viewport):
        distance = one.met(origin, direction, MARGIN * viewport.metres_per_pixel(one.foot))
        if distance is not None:
            met.append((distance, one))
    if not met:
        return None
    distance, nearest = min(met, key=lambda m: m[0])
    before = pick_placed(session.on_stage().parts, origin, direction)
    if before is not None and before[0].distance < distance - 1e-6 * max(distance, 1.0):
        return None
    return nearest, distance


def outlines_of(one: Standing) -> tuple[Array, ...]:
    """Return (n, 3) metres, the lines round a figure."""
    return tuple(one.raised(line) for line in _rims(one.drawing))


def floor_under(session: Session, hit: Hit) -> Hit | None:
    """Return the floor at the foot of a wall that was met at home, a step before it."""
    left = next((part.cut_open for part in session.on_stage().parts if part.cut_open.shown[hit.element]), None)
    if left is None:
        return None
    before = np.array(hit.point) + BEFORE * np.array([hit.normal[0], hit.normal[1], 0.0])
    found = pick(left, before, np.array([0.0, 0.0, -1.0]))
    return found[0] if found is not None and found[1] is None and found[0].normal[2] > LEVEL else None


@dataclass
class PlaceFigure(StageTask):
    """A person or a tree at every click on a floor or the ground, until it is ended."""

    name: str = "place_figure"
    kind: str = "standing"
    mirrored: bool = False
    next_id: str = ""

    def __post_init__(self) -> None:
        self.next_id = self.next_id or new_id()
        self._say()

    def _say(self) -> None:
        where = "the ground" if KINDS[self.kind].is_tree else "a floor, or a wall to stand before it"
        self.hint = f"{KINDS[self.kind].words}: click {where}"
        self.also = "Tab turns round  ·  Return or Esc ends"

    def next_choice(self) -> None:
        self.mirrored = not self.mirrored

    def _figure(self, pointer: Pointer) -> Figure | None:
        """The one a click here would place: on what is clicked, or before the wall that is, on the floor there."""
        building = self.session.building
        if pointer.found is None or building is None:
            return None
        hit, face = pointer.found
        found: Hit | None = hit
        if hit.normal[2] <= LEVEL:
            found = None if face is not None else floor_under(self.session, hit)
        if found is None:
            return None
        kind = KINDS[self.kind]
        on = building.elements[found.element].id
        return Figure(id=self.next_id, kind=kind.name, place=found.point, height=kind.height, mirrored=self.mirrored, on=on)

    def hover(self, pointer: Pointer) -> None:
        self.preview = None
        figure = self._figure(pointer)
        if figure is not None:
            one = standing((figure,), pointer.viewport)[0]
            self.preview = Preview(dots=(one.foot,), outlines=outlines_of(one))
        else:
            self.why = "Nothing can stand here: point at a floor or the ground"

    def click(self, pointer: Pointer) -> bool:
        session, figure = self.session, self._figure(pointer)
        if figure is None:
            raise Problem("Nothing stands there. Click a floor, a stair or the ground, or a wall to stand before it.")
        session.apply(site_edits.put_figure(session.project, figure), f"{KINDS[self.kind].words}, placed")
        self.next_id = new_id()
        self.hover(pointer)
        return False


class FigureDrag:
    """A figure taken along: over whatever can be stood on, else at the height it has."""

    def __init__(self, session: Session, taken: Standing, at: tuple[float, float], viewport: Viewport) -> None:
        self._session = session
        # What was taken hold of is not the foot, and stays under the pointer.
        foot = viewport.pixels(taken.foot)
        self._off = foot - np.array(at)
        self._shown = taken.figure
        figure = session.project.site.figure(taken.figure.id)
        assert figure is not None
        self._figure = figure

    def move(self, at: tuple[float, float], viewport: Viewport) -> None:
        """The pointer is there now."""
        session, building = self._session, self._session.building
        assert building is not None
        x, y = np.array(at) + self._off
        origin, direction = viewport.ray(float(x), float(y))
        met = pick_placed(session.on_stage().parts, origin, direction)
        if met is not None and met[0].normal[2] > LEVEL:
            home = session.on_stage().parts[met[2]].at_home(met[0])
            place, on = vector(np.array(home.point)), building.elements[home.element].id
        else:
            slope = float(direction[2])
            if abs(slope) < 1e-3:
                return
            along = (self._shown.place[2] - float(origin[2])) / slope
            there = origin + along * direction
            if along <= 0:
                return
            # As far as it is moved where it is shown, as far it is moved at home.
            place = vector(np.array(self._figure.place) + there - np.array(self._shown.place))
            on = self._figure.on or ""
        figure = self._figure.model_copy(update={"place": place, "on": on or None})
        session.apply(site_edits.put_figure(session.project, figure), "Moved a figure", merge="figure")

    def end(self) -> None:
        """It stands there now."""
        self._session.end_step()

    def cancel(self) -> None:
        """It stands where it stood."""
        self._session.cancel_step("figure")


def picture_of(kind: str) -> tuple[Array, ...]:
    """Return (n, 2) outlines of a kind, one unit high, for a button."""
    return _rims(drawn(kind, kind))


def _rims(drawing: FigureDrawing) -> tuple[Array, ...]:
    parts = shapely.get_parts(drawing.outline)
    return tuple(shapely.get_coordinates(ring) for ring in shapely.get_exterior_ring(parts))
