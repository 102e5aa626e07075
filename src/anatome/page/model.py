"""A scene as a light model that is turned on a page: its surfaces and lines in the tones of its look, without the cut that is
dragged, and for each place of that the faces it makes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.dissection import CutFace
from anatome.cuts.moves import STAYS, places_through
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.surface import kept_surface
from anatome.films.moves import Setting
from anatome.linework.feature_lines import feature_lines
from anatome.look.look import Look
from anatome.look.styles import Styles, resolve
from anatome.model.building import CLEAR_BELOW
from anatome.page.contents import PageItem
from anatome.page.glb import Primitive, glb_bytes, y_up
from anatome.page.strips import Strip, dragged_cut, strip_of
from anatome.scenes.look_edits import drawn_look
from anatome.scenes.opened import kept_of, opened
from anatome.scenes.project import Scene
from anatome.view.viewport import Frame, Viewport

Array = NDArray[np.float64]

EDGE_INK = 0.55
"""How strong edges are, of full ink."""


@dataclass(frozen=True, eq=False)
class TurnedModel:
    """``glb`` has surfaces and lines; nodes called “faces N” and “outlines N” belong to the place N of what is dragged, Y up.
    ``normal`` and ``offsets`` are the planes of those places, ``words`` say them; none where nothing is dragged."""

    glb: bytes
    camera: dict[str, object]
    size: float
    aspect: float
    paper: tuple[float, float, float]
    normal: tuple[float, float, float] = (0.0, 1.0, 0.0)
    offsets: tuple[float, ...] = ()
    words: tuple[str, ...] = ()
    home: int = 0


def turned_model(item: PageItem, scene: Scene, setting: Setting, count: int, aspect: float) -> TurnedModel:
    """Return the model of a scene. Raises Problem."""
    building, state = setting.building, scene.state
    look = drawn_look(state, setting.site, building)
    styles = resolve(look, building)
    dragged = dragged_cut(state) if not state.is_apart else None
    others = state if dragged is None else state.model_copy(update={"cuts": tuple(c for c in state.cuts if c.id != dragged.id)})
    shown = opened(setting.cutter, others)
    primitives = [*_surfaces(shown, styles), *_lines(shown, scene, look, styles, aspect), *_faces(shown, styles, look, "still")]
    said: dict[str, object] = {}
    if dragged is not None:
        strip = strip_of(PageItem(scene=item.scene, shows="cut"), scene, setting, count)
        assert strip is not None
        primitives += _dragged(strip, dragged.id, setting, styles, look)
        planes = [cut.moving_plane(cut.scouted[0]) for m in strip.moments if (cut := m.state.cut(dragged.id)) is not None]
        offsets = tuple(float(plane.offset) for plane in planes if plane is not None)
        normal = y_up(np.array([dragged.moving_plane(dragged.scouted[0]).n]))[0]  # type: ignore[union-attr]
        said = {"normal": tuple(normal.tolist()), "offsets": offsets, "words": strip.words, "home": strip.home}
    bounds = setting.bounds(state)
    return TurnedModel(
        glb_bytes(primitives),
        _camera(scene, aspect),
        float(np.linalg.norm(bounds[1] - bounds[0])),
        aspect,
        look.paper,
        **said,  # type: ignore[arg-type]
    )


def _camera(scene: Scene, aspect: float) -> dict[str, object]:
    camera = scene.camera_for(aspect)
    eye, target = (y_up(np.array([place]))[0].tolist() for place in (camera.eye, camera.target))
    seen = {"field": camera.field} if camera.is_perspective else {"height": camera.height}
    return {"eye": eye, "target": target, "distance": camera.distance, **seen}


def _surfaces(shown: ShownBuilding, styles: Styles) -> list[Primitive]:
    """What is left of surfaces, a primitive for each colour."""
    corners, colours = [np.empty((0, 3, 3))], [np.empty((0, 4), np.uint8)]
    for part in shown.parts:
        building = part.cut_open.building
        own, of = kept_surface(part.cut_open)
        element = building.element_of_triangle[of]
        style = np.where(styles.surface[element] >= 0, styles.surface[element], building.triangle_style[of])
        corners.append(own if part.move == STAYS else places_through(np.array(part.move), own))
        colours.append(styles.palette[style])
    every, colour = np.concatenate(corners), np.concatenate(colours)
    colour[colour[:, 3] >= 255 * CLEAR_BELOW, 3] = 255
    kinds, kind = np.unique(colour, axis=0, return_inverse=True)
    return [Primitive(f"surface {number}", every[kind.reshape(-1) == number], _rgba(one)) for number, one in enumerate(kinds)]


def _lines(shown: ShownBuilding, scene: Scene, look: Look, styles: Styles, aspect: float) -> list[Primitive]:
    viewport = Viewport(scene.camera_for(aspect), Frame(width=aspect, height=1.0))
    red, green, blue = look.mixed(EDGE_INK)
    return [Primitive("lines", feature_lines(shown, look, styles, viewport).ends, (red, green, blue, 1.0))]


def _faces(shown: ShownBuilding, styles: Styles, look: Look, name: str) -> list[Primitive]:
    """The faces of cuts that stay, as surfaces."""
    found: list[Primitive] = []
    for part in shown.parts:
        move = None if part.move == STAYS else np.array(part.move)
        for face in part.cut_open.faces:
            for primitive in _face(face, styles, look, f"{name} {len(found)}"):
                corners = primitive.corners if move is None else places_through(move, primitive.corners)
                found.append(Primitive(primitive.name, corners, primitive.colour))
    return found


def _dragged(strip: Strip, cut_id: str, setting: Setting, styles: Styles, look: Look) -> list[Primitive]:
    """The faces the dragged cut makes at each of its places."""
    found = []
    for number, moment in enumerate(strip.moments):
        for face in kept_of(setting.cutter, moment.state).faces:
            if face.cut.id == cut_id:
                found += _face(face, styles, look, f"faces_{number}")
                ink = (*look.ink, 1.0)
                ends = np.concatenate([face.contours.heavy, face.contours.thin])
                found.append(Primitive(f"outlines_{number}", ends, ink))
    return found


def _face(face: CutFace, styles: Styles, look: Look, name: str) -> list[Primitive]:
    caps = face.poche.caps
    if not len(caps.triangles):
        return []
    fills, fill = np.unique(styles.fill[caps.element], axis=0, return_inverse=True)
    corners = caps.vertices[caps.triangles]
    return [Primitive(name, corners[fill.reshape(-1) == number], _rgba(one)) for number, one in enumerate(fills)]


def _rgba(colour: NDArray[np.uint8]) -> tuple[float, float, float, float]:
    red, green, blue, alpha = (float(channel) / 255 for channel in colour)
    return red, green, blue, alpha
