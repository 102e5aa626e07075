"""Edits of details: drawing parts once more beside the building, at a size and a place that suit the picture."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from anatome.cuts.details import Detail
from anatome.cuts.plane import Plane, vector
from anatome.model.bounds import bounds_round, corners_of
from anatome.model.selection import Selection
from anatome.notes.note import anchors_of
from anatome.scenes.edits import add_plane, change_cut, new_id
from anatome.scenes.project import Project
from anatome.view.camera import Camera

Array = NDArray[np.float64]

ENLARGEMENTS = (1.0, 2.0, 2.5, 4.0, 5.0, 10.0, 20.0, 25.0, 50.0)
"""What lies between two usual scales (ISO 5455): a detail at 1:20 of a building at 1:50 is 2.5 times as large."""
LENGTHWISE = 0.3
"""How much more a section along a detail shows than one across it, against how well it faces the eye."""
SHARE, GAP = 0.42, 0.09
"""How large a detail is at most, and how far it stands off, in shares of what is shown."""


def put_detail(project: Project, detail: Detail) -> Project:
    """Return one detail more, or the one with the same id as it is now."""
    details = project.stage.details
    if project.stage.detail(detail.id) is None:
        return project.with_stage(details=(*details, detail))
    return project.with_stage(details=tuple(detail if d.id == detail.id else d for d in details))


def take_detail(project: Project, detail_id: str) -> Project:
    """Without this detail, and what is written on it."""
    notes = tuple(n for n in project.stage.notes if all(anchor.detail != detail_id for anchor in anchors_of(n)))
    return project.with_stage(details=tuple(d for d in project.stage.details if d.id != detail_id), notes=notes)


def new_detail(name: str, what: Selection, own: Array, shown: Array, others: Sequence[Array], camera: Camera) -> Detail:
    """Return a detail of what has the (2, 3) box ``own``: to the right of what is ``shown`` (2, 3), as a camera sees it, or to
    its left, or wherever none of the ``others``, (2, 3) boxes of details, is in the way; as large as such a drawing is."""
    size = float(np.linalg.norm(shown[1] - shown[0]))
    fits = [times for times in ENLARGEMENTS if times * np.linalg.norm(own[1] - own[0]) <= SHARE * size]
    times = fits[-1] if fits else 1.0
    right, up, _ = camera.axes
    centre = shown.mean(axis=0)
    half, gap = times * (own[1] - own[0]) / 2, GAP * size

    def place(way: Array, beside: Array) -> Array:
        off = np.max((corners_of(beside) - centre) @ way) + gap + np.abs(way) @ half
        return np.asarray(centre + off * way)

    def is_free(found: Array) -> bool:
        own_box = np.stack([found - half, found + half])
        return not any(_in_the_way(own_box, other, (right, up)) for other in others)

    everything = bounds_round(np.concatenate([shown, *others]))
    places = [place(right, shown), place(-right, shown), place(right, everything)]
    chosen = next((found for found in places if is_free(found)), places[-1])
    return Detail(id=new_id(), name=name, what=what, place=vector(chosen), times=times)


def _in_the_way(one: Array, other: Array, axes: Sequence[Array]) -> bool:
    """Whether two boxes cover one another in a picture with these axes."""
    for axis in axes:
        a, b = corners_of(one) @ axis, corners_of(other) @ axis
        if a.max() < b.min() or b.max() < a.min():
            return False
    return True


def cut_detail(project: Project, detail: Detail, own: Array, ways: Sequence[Array], camera: Camera) -> tuple[Project, str]:
    """Return (a project with a section plane that cuts a detail alone, through the middle of the (2, 3) box of its parts, across
    that of some horizontal ``ways`` (3,) which faces the camera most, and along the parts rather than across, its id)."""
    turned = _turned(detail, camera.axes[2])
    size = (own[1] - own[0]) / float(np.linalg.norm(own[1] - own[0]))
    both = [sign * way for way in ways for sign in (1.0, -1.0)]
    towards = max(both, key=lambda way: float(way @ turned - LENGTHWISE * np.abs(way) @ size))
    cut_id = new_id()
    project = add_plane(project, Plane(vector(own.mean(axis=0)), vector(towards)), cut_id)
    project = change_cut(project, cut_id, on=False)
    return put_detail(project, detail.model_copy(update={"cuts": detail.cuts | {cut_id}})), cut_id


def _turned(detail: Detail, way: Array) -> Array:
    """A way in the picture, as it is at home of a detail."""
    matrix = np.array(detail.move(np.zeros(3)))[:3, :3] / detail.times
    return np.asarray(way @ matrix)
