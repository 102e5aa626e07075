"""Plans of all storeys as scenes: one level cut each, seen from above, framed alike."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut, SectionPlane
from anatome.cuts.dissection import shown_elements
from anatome.cuts.plane import Plane
from anatome.look.look import Look
from anatome.model.building import Building, Storey
from anatome.notes.furniture import ARROW, MOST_OF_PICTURE
from anatome.notes.note import SectionMark
from anatome.problems import Problem
from anatome.scenes.marks import marks_in
from anatome.scenes.project import Project, Scene
from anatome.scenes.sheet_frames import KEY_ASPECT
from anatome.sheets.sheet import KeyPlanBlock, Sheet
from anatome.view.camera import Camera
from anatome.view.viewport import Frame
from anatome.words import unlike

FIELD = 2.0
"""Degrees, of a parallel camera: how far off it stands, and nothing else."""
CUT_ABOVE = 1.2
"""Metres over its floor that a storey plan is cut (common practice)."""
MARGIN = 0.06
"""Of the building's size, round it."""
KEY_LOOK = Look(
    name="Key plan", edges=False, shade=False, ground=False, shadows=0.0, hatch_ink=0.0, paper=(1.0, 1.0, 1.0), cut_weight=0.18
)
PLANS = "Plans"
"""The set plans of storeys arrive in."""
RING_ROOM = 1.0 + 2.0**0.5 + 0.1
"""How far the corner of a section mark reaches beyond the end of its line, in radii of its ring."""
BELOW_TOP = 0.5
"""Metres a cut stays under what is built."""


def plan_storeys(building: Building, hidden: frozenset[str] = frozenset()) -> list[Storey]:
    """Return the storeys that are lived in, from below: those with rooms, or where the model says none, with walls."""
    bounds = building.subject_bounds(shown_elements(building, hidden))
    lived_in = {space.storey for space in building.spaces}
    walled = {element.storey for element in building.elements if "Wall" in element.type}
    # Foundations and roofs are storeys in many models too; where there are rooms, they say which are plans.
    numbers = sorted({n for n in lived_in or walled if n is not None}, key=lambda n: building.storeys[n].elevation)
    found = [building.storeys[n] for n in numbers]
    return [s for s in found if bounds[0, 2] < s.elevation + CUT_ABOVE < bounds[1, 2] - BELOW_TOP]


def plan_scene(
    project: Project,
    building: Building,
    storey: Storey,
    scene_id: str,
    cut_id: str,
    mark: str = "P",
    margin: float | None = None,
) -> Scene:
    """Return a storey cut and seen from above, in the look of the stage, with so many metres round it."""
    bounds = building.subject_bounds(shown_elements(building, project.stage.hidden))
    (x0, y0, _), (x1, y1, _) = bounds
    size = np.array([x1 - x0, y1 - y0])
    wide, high = size + 2 * (MARGIN * float(size.max()) if margin is None else margin)
    level = storey.elevation + CUT_ABOVE
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    distance = high / 2 / np.tan(np.radians(FIELD) / 2)
    camera = Camera(
        eye=(float(x), float(y), float(level + distance)),
        target=(float(x), float(y), level),
        up=(0.0, 1.0, 0.0),
        projection="parallel",
        field=FIELD,
    )
    name = f"Plan, {storey.name}"
    plane = Plane((float(x), float(y), level), (0.0, 0.0, 1.0))
    state = project.stage.model_copy(
        update={
            **{"camera": camera, "cuts": (SectionPlane(id=cut_id, name=name, mark=mark, plane=plane, graphic=False),)},
            **{
                "crop": None,
                "divide": None,
                "still": 0,
                "series": (),
                "exploded": None,
                "details": (),
                "notes": (),
                "ghosts": False,
            },
        }
    )
    return Scene(id=scene_id, name=name, state=state, frame=Frame(width=1000.0 * wide / high, height=1000.0))


def plan_scenes(project: Project, building: Building, new_id: Callable[[], str]) -> list[Scene]:
    """Return a scene for each storey that is lived in, under names that are not taken. Raises Problem without storeys."""
    storeys = plan_storeys(building, project.stage.hidden)
    if not storeys:
        raise Problem("The model has no storeys to draw plans of. Place a level cut by hand, and save it as a scene.")
    found, taken, marks = [], {scene.name for scene in project.scenes}, marks_in(project)
    for storey in storeys:
        mark = next(f"P{number}" for number in range(1, 1000) if f"P{number}" not in marks)
        marks.add(mark)
        scene = plan_scene(project, building, storey, new_id(), new_id(), mark)
        name = unlike(scene.name, taken)
        taken.add(name)
        found.append(scene.model_copy(update={"name": name, "set": PLANS}))
    return found


def key_plan(project: Project, building: Building, block: KeyPlanBlock, sheet: Sheet) -> Scene | None:
    """Return the small plan a sheet shows, with marks where the sections on it are cut; None where the model has no storeys."""
    storeys = plan_storeys(building)
    storey = next((s for s in building.storeys if s.id == block.storey), storeys[0] if storeys else None)
    if storey is None:
        return None
    cuts: dict[str, AnyCut] = {}
    for frame in sheet.frames:
        shown = project.scene(frame.scene)
        for cut in shown.state.active_cuts if shown is not None else ():
            if not cut.axis.is_level and not cut.encloses:
                cuts.setdefault(cut.id, cut.model_copy(update={"on": False}))
    margin = _mark_room(building.subject_bounds(shown_elements(building, project.stage.hidden)), block) if cuts else None
    scene = plan_scene(project, building, storey, block.id, "plan", margin=margin)
    marks = tuple(SectionMark(id=f"mark {cut.id}", cut=cut.id) for cut in cuts.values())
    state = scene.state.model_copy(
        update={
            "look": KEY_LOOK,
            "hidden": scene.state.hidden | {e.id for e, beside in zip(building.elements, building.context.tolist()) if beside},
            "overrides": (),
            "cuts": (*scene.state.cuts, *cuts.values()),
            "notes": marks,
            "notes_shown": True,
        }
    )
    return scene.model_copy(update={"name": "Key plan", "state": state})


def _mark_room(bounds: NDArray[np.float64], block: KeyPlanBlock) -> float:
    """Metres round a building of (2, 3) bounds that the marks at the ends of its sections need in a key plan."""
    ring = min(ARROW, MOST_OF_PICTURE * block.height)
    room = RING_ROOM * ring
    wide, high = (bounds[1] - bounds[0])[:2].tolist()
    scale = min((KEY_ASPECT * block.height - 2 * room) / wide, (block.height - 2 * room) / high)  # mm a metre
    return float(room / scale)
