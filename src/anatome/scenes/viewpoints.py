"""Scenes as viewpoints, the part of them that other programs of the trade understand: where the eye is, planes that cut, what is
hidden, what has a colour of its own."""

from __future__ import annotations

import math
import re
import uuid
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut, SectionBox, SectionPlane
from anatome.cuts.kinds.box import Box
from anatome.cuts.pieces import parts
from anatome.cuts.plane import Plane, vector
from anatome.look.look import Rgb, Rule
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.scenes.edits import new_id
from anatome.scenes.marks import free_marks, states_in
from anatome.scenes.project import Project, Scene
from anatome.view.camera import Camera
from anatome.view.viewport import Frame

Vector = tuple[float, float, float]

GLOBAL_ID = re.compile(r"[0-9A-Za-z_$]{22}")
"""How parts of IFC models are known (ISO 16739: GlobalId, 22 characters)."""
SPACE = uuid.UUID("6f5b2f0e-6a0f-5d0f-9a8b-0b1f0d7d8a11")
"""What ids of viewpoints are made in, so that a scene sent out again has the id it had."""
SAME_PLACE = 1e-4
"""Metres within which planes are one."""
UPRIGHT, SQUARE = 1e-6, 1e-6
FAR = 50.0
"""Metres to what is looked at, where nobody says."""


@dataclass(frozen=True)
class Viewpoint:
    """``eye``, unit ``direction`` and ``up``, metres as the model's file has them. In perspective the ``field`` is the angle of
    view upwards in degrees, else the picture is ``height`` metres high; ``aspect`` is its width over its height. Normals of
    ``planes`` point to what is cut away. Parts are shown unless their GlobalIds are in ``exceptions``, or the other way round
    where they are not ``shown``; some have ``colours``. ``snapshot`` is a PNG."""

    guid: str
    title: str
    words: str
    eye: Vector
    direction: Vector
    up: Vector
    field: float | None
    height: float | None
    aspect: float
    planes: tuple[Plane, ...] = ()
    shown: bool = True
    exceptions: frozenset[str] = frozenset()
    colours: tuple[tuple[Rgb, frozenset[str]], ...] = ()
    snapshot: bytes | None = None


# Out ----------------------------------------------------------------------------------------------------------


def viewpoint_of(scene: Scene, building: Building, project: Project) -> Viewpoint:
    """Return a scene as a viewpoint. What viewpoints do not know, such as carved boxes, looks and notes, is told in its words."""
    state, aspect = scene.state, scene.aspect
    camera = scene.camera_for(aspect)
    away = np.array(building.origin)
    _, up, back = camera.axes
    planes, left_out = _planes(state.active_cuts)
    ids = {element.id for element in building.elements if GLOBAL_ID.fullmatch(element.id)}
    words = [state.drawn[:1].upper() + state.drawn[1:]]
    words += [f"Cut by {', '.join(cut.name for cut in state.active_cuts)}"] if state.active_cuts else []
    words += [f"Not shown here: {', '.join(left_out)}"] if left_out else []
    words += [f"Look: {state.look.name}"] if state.look.name else []
    return Viewpoint(
        str(uuid.uuid5(SPACE, f"{project.name}\n{scene.id}")),
        scene.name,
        ". ".join(words),
        vector(np.array(camera.eye) + away),
        vector(-back),
        vector(up),
        camera.field if camera.is_perspective else None,
        None if camera.is_perspective else camera.height,
        aspect,
        tuple(Plane(vector(np.array(plane.origin) + away), plane.normal) for plane in planes),
        True,
        frozenset(state.hidden & ids),
        _colours(state.overrides, building, ids),
    )


def _planes(cuts: Iterable[AnyCut]) -> tuple[list[Plane], list[str]]:
    """(planes that together take away what the cuts do, in words what they cannot say)."""
    planes: list[Plane] = []
    left_out = []
    for cut in cuts:
        cells = cut.cells()
        if parts(cut):
            left_out.append(f"{cut.name}, which parts the building")
        elif any(len(cell.planes) != 1 for cell in cells):
            left_out.append(f"{cut.name}, which planes cannot say")
        elif cut.reach.mode != "everything":
            left_out.append(f"{cut.name}, which affects some parts only")
        else:
            planes += [cell.planes[0] for cell in cells]
    return planes, left_out


def _colours(rules: Sequence[Rule], building: Building, ids: set[str]) -> tuple[tuple[Rgb, frozenset[str]], ...]:
    """Colours that some parts have in the scene alone, the last said first: a part has one."""
    found: list[tuple[Rgb, frozenset[str]]] = []
    taken: set[str] = set()
    for rule in reversed(rules):
        if rule.on and rule.surface is not None:
            mask = rule.who.mask(building)
            own = {building.elements[number].id for number in np.flatnonzero(mask)} & ids - taken
            taken |= own
            found += [(rule.surface, frozenset(own))] if own else []
    return tuple(found)


# In -----------------------------------------------------------------------------------------------------------


def scenes_of(
    viewpoints: Iterable[Viewpoint], project: Project, building: Building, set_name: str = "", fresh: Callable[[], str] = new_id
) -> tuple[Scene, ...]:
    """Return viewpoints as scenes in the look of the stage, in a set of a name. Six planes that are a box become one; a plane
    where a cut of the project stands already is that cut."""
    known = [cut for state in states_in(project) for cut in state.cuts]
    marks = free_marks(project)
    found = []
    for viewpoint in viewpoints:
        cuts = []
        for cut in _cuts(viewpoint.planes, np.array(building.origin)):
            same = next((one for one in known if _same(one, cut)), None)
            if same is None:
                mark = next(marks)
                same = cut.model_copy(update={"id": fresh(), "mark": mark, "name": f"{cut.noun} {mark}"})
                known.append(same)
            cuts.append(same.model_copy(update={"on": True}))
        found.append(_scene(viewpoint, project, building, tuple(dict.fromkeys(cuts)), set_name, fresh))
    return tuple(found)


def _scene(
    viewpoint: Viewpoint, project: Project, building: Building, cuts: tuple[AnyCut, ...], set_name: str, fresh: Callable[[], str]
) -> Scene:
    ids = {element.id for element in building.elements}
    known_ids = {i for i in ids if GLOBAL_ID.fullmatch(i)}
    hidden = viewpoint.exceptions & known_ids if viewpoint.shown else known_ids - viewpoint.exceptions
    rules = tuple(
        Rule(who=Selection(elements=frozenset(named & ids)), surface=colour)
        for colour, named in reversed(viewpoint.colours)
        if named & ids
    )
    state = project.stage.model_copy(
        update={
            "camera": _camera(viewpoint, building),
            "cuts": cuts,
            "hidden": frozenset(hidden),
            "hidden_before": None,
            "notes": (),
            "crop": None,
            "exploded": None,
            "opening": 0.0,
            "series": (),
            "details": (),
            "divide": None,
            "still": 0,
            "overrides": (*project.stage.overrides, *rules),
        }
    )
    frame = Frame(width=1000.0 * viewpoint.aspect, height=1000.0)
    return Scene(id=fresh(), name=viewpoint.title[:200] or "Viewpoint", state=state, frame=frame, set=set_name)


def _camera(viewpoint: Viewpoint, building: Building) -> Camera:
    """The camera of a viewpoint; what it looks at lies where the middle of the building is passed."""
    eye = np.array(viewpoint.eye) - np.array(building.origin)
    direction = np.array(viewpoint.direction)
    before = float((building.bounds.mean(axis=0) - eye) @ direction)
    if viewpoint.field is not None:
        distance = before if before > 0 else FAR
        field = viewpoint.field
    else:
        field = 35.0
        assert viewpoint.height is not None
        distance = viewpoint.height / 2.0 / math.tan(math.radians(field) / 2.0)
        eye = eye + direction * (max(before, 1.0) - distance)  # so that its height is that at what it looks at
    return Camera(
        eye=vector(eye),
        target=vector(eye + direction * distance),
        up=viewpoint.up,
        field=field,
        projection="parallel" if viewpoint.field is None else "perspective",
    )


def _cuts(planes: Sequence[Plane], away: NDArray[np.float64]) -> list[AnyCut]:
    near = [Plane(vector(np.array(plane.origin) - away), plane.normal) for plane in planes]
    box = _box(near)
    if box is not None:
        return [SectionBox(id="", name="", mark="", box=box)]
    return [SectionPlane(id="", name="", mark="", plane=plane) for plane in near]


def _box(planes: Sequence[Plane]) -> Box | None:
    """The box that six planes are the faces of, their normals outwards, if they are that."""
    if len(planes) != 6:
        return None
    pairs, rest = [], list(planes)
    while rest:
        one = rest.pop()
        other = next((p for p in rest if float(p.n @ one.n) < -1 + SQUARE), None)
        if other is None:
            return None
        rest.remove(other)
        pairs.append((one, other) if float(one.n.sum()) > 0 else (other, one))
    level = [pair for pair in pairs if abs(pair[0].n[2]) < UPRIGHT]
    upright = [pair for pair in pairs if abs(pair[0].n[2]) > 1 - UPRIGHT]
    if len(level) != 2 or len(upright) != 1 or abs(float(level[0][0].n @ level[1][0].n)) > SQUARE:
        return None
    first, second = level
    if float(np.cross(first[0].n, second[0].n)[2]) < 0:
        first, second = second, first
    axes = [first[0].n, second[0].n, np.array([0.0, 0.0, 1.0])]
    sizes, centre = [], np.zeros(3)
    for axis, pair in zip(axes, (first, second, upright[0])):
        high, low = sorted((float(plane.offset if plane.n @ axis > 0 else -plane.offset) for plane in pair), reverse=True)
        faces_out = all((plane.n @ axis > 0) == (abs(float(np.array(plane.origin) @ axis) - high) < SAME_PLACE) for plane in pair)
        if high - low < SAME_PLACE or not faces_out:
            return None
        sizes.append(high - low)
        centre = centre + axis * (high + low) / 2
    return Box(vector(centre), (sizes[0], sizes[1], sizes[2]), math.degrees(math.atan2(axes[0][1], axes[0][0])))


def _same(one: AnyCut, other: AnyCut) -> bool:
    """Whether two cuts take the same away, of everything."""
    if one.noun != other.noun or one.reach.mode != "everything" or parts(one):
        return False
    cells, others = one.cells(), other.cells()
    if len(cells) != len(others) or any(len(cell.planes) != 1 for cell in (*cells, *others)):
        return False
    pairs = zip(
        sorted((cell.planes[0] for cell in cells), key=lambda p: (p.normal, p.offset)),
        sorted((cell.planes[0] for cell in others), key=lambda p: (p.normal, p.offset)),
    )
    return all(float(a.n @ b.n) > 1 - SQUARE and abs(a.offset - b.offset) < SAME_PLACE for a, b in pairs)


def with_snapshot(viewpoint: Viewpoint, png: bytes | None) -> Viewpoint:
    """Return a viewpoint with a picture of it."""
    return replace(viewpoint, snapshot=png)
