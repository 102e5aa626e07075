"""Plans of all storeys as scenes: one level cut each, seen from above, framed alike."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import shown_elements
from anatome.cuts.plane import Plane
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes.project import Project, Scene
from anatome.view.camera import Camera
from anatome.view.viewport import Frame

CUT_ABOVE = 1.2
"""Metres over its floor that a storey plan is cut (common practice)."""
MARGIN = 0.06
"""Of the building's size, round it."""
BELOW_TOP = 0.5
"""Metres a cut stays under what is built."""


def plan_scenes(project: Project, building: Building, new_id: Callable[[], str]) -> list[Scene]:
    """A scene for each storey that can be cut there, in the look of the stage. Raises Problem without storeys."""
    bounds = building.subject_bounds(shown_elements(building, project.stage.hidden))
    lived_in = {space.storey for space in building.spaces}
    walled = {element.storey for element in building.elements if "Wall" in element.type}
    # Foundations and roofs are storeys in many models too; where there are rooms, they say which are plans.
    numbers = sorted({n for n in lived_in or walled if n is not None}, key=lambda n: building.storeys[n].elevation)
    storeys = [
        s for s in (building.storeys[n] for n in numbers) if bounds[0, 2] < s.elevation + CUT_ABOVE < bounds[1, 2] - BELOW_TOP
    ]
    if not storeys:
        raise Problem("The model has no storeys to draw plans of. Place a level cut by hand, and save it as a scene.")
    (x0, y0, _), (x1, y1, _) = bounds
    size = np.array([x1 - x0, y1 - y0])
    wide, high = size + 2 * MARGIN * float(size.max())
    middle = np.array([(x0 + x1) / 2, (y0 + y1) / 2])
    field = 2.0
    distance = high / 2 / np.tan(np.radians(field) / 2)
    found = []
    taken = {scene.name for scene in project.scenes}
    for storey in storeys:
        level = storey.elevation + CUT_ABOVE
        eye = (float(middle[0]), float(middle[1]), float(level + distance))
        camera = Camera(eye=eye, target=(eye[0], eye[1], level), up=(0.0, 1.0, 0.0), projection="parallel", field=field)
        cut = SectionPlane(
            id=new_id(), name=f"Plan, {storey.name}", mark="P", plane=Plane((eye[0], eye[1], level), (0.0, 0.0, 1.0))
        )
        state = project.stage.model_copy(
            update={
                **{
                    "camera": camera,
                    "cuts": (cut.model_copy(update={"graphic": False}),),
                    "crop": None,
                    "divide": None,
                    "still": 0,
                },
                **{"series": (), "exploded": None, "notes": (), "ghosts": False},
            }
        )
        name = f"Plan, {storey.name}"
        number = 2
        while name in taken:
            name, number = f"Plan, {storey.name} {number}", number + 1
        taken.add(name)
        found.append(Scene(id=new_id(), name=name, state=state, frame=Frame(width=1000.0 * wide / high, height=1000.0)))
    return found
