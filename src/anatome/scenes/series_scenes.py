"""The sections of a series as scenes: each cut where it lies, seen square on in parallel, all framed alike."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import shown_elements
from anatome.cuts.series import SerialSections
from anatome.model.bounds import corners_of
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes.plans import FIELD, MARGIN
from anatome.scenes.project import Project, Scene
from anatome.view.camera import Camera
from anatome.view.viewport import Frame

MOST = 40
"""Sections that become scenes in one step."""


def series_scenes(project: Project, building: Building, series: SerialSections, new_id: Callable[[], str]) -> list[Scene]:
    """Return a scene for each section, named by its label, in the look of the stage. Raises Problem for a series that is too
    long."""
    planes = series.planes()
    if len(planes) > MOST:
        raise Problem(
            f"This series has {len(planes)} sections, and at most {MOST} are laid out at once. Give it fewer, further apart."
        )
    u, v = series.plane.axes
    bounds = building.subject_bounds(shown_elements(building, project.stage.hidden) & series.reach.mask(building))
    corners = corners_of(bounds)
    across, upward = corners @ u, corners @ v
    size = np.array([np.ptp(across), np.ptp(upward)])
    wide, high = (size + 2 * MARGIN * float(size.max())).tolist()
    middle = u * (across.min() + across.max()) / 2 + v * (upward.min() + upward.max()) / 2
    distance = high / 2 / np.tan(np.radians(FIELD) / 2)
    scenes = []
    for number, plane in enumerate(planes):
        target = middle + plane.n * float(plane.n @ np.array(plane.origin))
        camera = Camera(
            eye=tuple((target + plane.n * distance).tolist()),
            target=tuple(target.tolist()),
            up=tuple(v.tolist()),
            projection="parallel",
            field=FIELD,
        )
        label = series.label(number)
        cut = SectionPlane(id=new_id(), name=f"Section {label}", mark=label[:4], plane=plane, reach=series.reach, graphic=False)
        state = project.stage.model_copy(
            update={
                **{"camera": camera, "cuts": (cut,), "series": (), "crop": None, "divide": None, "still": 0},
                **{"exploded": None, "notes": (), "ghosts": False},
            }
        )
        frame = Frame(width=1000.0 * wide / high, height=1000.0)
        scenes.append(Scene(id=new_id(), name=f"Section {label}", state=state, frame=frame, set=series.name))
    return scenes
