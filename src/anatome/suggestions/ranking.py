"""Candidates put to work, scored, and the best and most different of them chosen. The score says why."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import NDArray

from anatome.cuts.cut import AnyCut, next_mark
from anatome.cuts.dissection import Cutter, shown_elements
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.scout import KINDS, lengthwise_slices
from anatome.model.bounds import bounds_round, corners_of
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes.edits import new_id
from anatome.scenes.opened import opened
from anatome.scenes.project import StageState
from anatome.suggestions.candidates import Candidate, candidates
from anatome.suggestions.subject import Subject
from anatome.view.camera import Camera
from anatome.view.framing import perspective_section
from anatome.view.projections import named
from anatome.view.seen import Seen
from anatome.view.viewport import Frame, Viewport
from anatome.words import plain_type

MOST = 8
SIZE = (138, 92)
"""Pixels of the pictures in which is counted what can be seen."""
WEIGHTS = {"seen": 0.5, "clean": 0.25, "full": 0.25}
FULL = 0.45
"""Share of a picture filled that is as good as more."""
ALIKE = 0.42
"""What a picture loses that shows the same kind of cut from the same side as a better one."""
STAIR_SHARE = 0.6
"""A stair is cut along its run where it is this much thinner across the cut than it is long."""
IN_ROOM = 0.12
"""Metres round a room within which a surface belongs to it: its walls, floor and ceiling."""
TOO_LITTLE = 0.02
"""Share of what is wanted under which a picture does not show it."""

LOST = 5.0
"""How many times as large as what is wanted a house is whose picture no longer shows it."""


@dataclass(frozen=True, eq=False)
class Tried:
    """A candidate put to work: its camera, what is left, what it slices badly, and the wanted parts alone, if that is asked."""

    candidate: Candidate
    camera: Camera
    shown: ShownBuilding
    alone: ShownBuilding | None
    badly: dict[str, int]


@dataclass(frozen=True, eq=False)
class Suggestion:
    """A picture proposed: ``title``, a ``short`` one, and ``words`` for people; ``cuts`` and ``camera`` for the stage; its
    ``score`` and the ``parts`` that is made of. ``shown`` is what the cuts leave."""

    kind: str
    title: str
    short: str
    words: str
    cuts: tuple[AnyCut, ...]
    camera: Camera
    shown: ShownBuilding
    score: float
    parts: dict[str, float]
    badly: dict[str, int] = field(default_factory=dict)

    def on(self, state: StageState, marks: Collection[str] = ()) -> StageState:
        """Return the state with this picture on the stage; its cuts are ordinary cuts with none of the ``marks`` that are taken
        elsewhere, and those there were are off."""
        taken = {*marks, *(c.mark for c in state.cuts)}
        added: list[AnyCut] = []
        for cut in self.cuts:
            mark = next_mark(taken)
            taken.add(mark)
            words, _, _ = cut.name.partition(" ")
            added.append(cut.model_copy(update={"id": new_id(), "mark": mark, "name": f"{words} {mark}", "graphic": True}))
        # What was there is switched off, so that nothing of it is lost.
        before = tuple(c.model_copy(update={"on": False, "graphic": False}) for c in state.cuts)
        series = tuple(s.model_copy(update={"on": False}) for s in state.series)
        own = {"cuts": (*before, *added), "series": series, "camera": self.camera}
        return state.model_copy(update={**own, "exploded": None, "crop": None})


def try_all(
    building: Building, state: StageState, subject: Subject, aspect: float, told: Callable[[float], bool] | None = None
) -> list[Tried]:
    """Return every candidate for a subject, cut open. ``told`` may return False to stop, which raises Problem."""
    shown = shown_elements(building, state.hidden)
    cutter, found = Cutter(building), []
    wanted = candidates(building, subject, shown)
    alone = None
    if not len(subject.rooms):
        alone = ShownBuilding(cutter.dissect([], subject.elements & shown, faces=False))
    for number, candidate in enumerate(wanted):
        if told is not None and not told(number / len(wanted)):
            raise Problem("No suggestions were made.")
        changes: dict[str, object] = {
            "cuts": _named(candidate.cuts),
            "series": (),
            "exploded": None,
            "ghosts": False,
            "faded": frozenset(),
        }
        own = opened(cutter, state.model_copy(update=changes))
        if not own.cut_open.faces:
            continue  # it goes past the building
        camera = _camera(building, candidate, own, subject, shown, aspect, state.camera)
        if camera is not None:
            found.append(Tried(candidate, camera, own, alone, _badly(building, own)))
    return found


def _named(cuts: Sequence[AnyCut]) -> tuple[AnyCut, ...]:
    made: list[AnyCut] = []
    for cut in cuts:
        mark = next_mark({c.mark for c in made})
        words = "Cutaway" if cut.carves else cut.noun
        made.append(cut.model_copy(update={"id": f"suggested-{mark}", "mark": mark, "name": f"{words} {mark}", "graphic": False}))
    return tuple(made)


def _camera(
    building: Building,
    candidate: Candidate,
    shown: ShownBuilding,
    subject: Subject,
    among: NDArray[np.bool_],
    aspect: float,
    now: Camera,
) -> Camera | None:
    """Where one looks from; None where the cut meets nothing."""
    if candidate.faces is not None:
        stepped = len(candidate.cuts[0].flat_planes) > 1
        faces = [f for f in shown.cut_open.faces if f.cut.id == "suggested-A"]
        bounds = [b for b in (face.built_bounds() for face in faces if stepped or face.plane == candidate.faces) if b is not None]
        if not bounds:
            return None
        face = bounds_round(np.concatenate(bounds))
        if _is_small(subject, face):
            face = _about(face, subject.bounds)
        return perspective_section(candidate.faces, face, aspect, now)
    points = shown.left_corners(building.subject(among))
    if _is_small(subject, bounds_round(points)):
        # The building round the subject, but not so much of it that the subject gets lost.
        reach = subject.bounds + np.array([[-1.0], [1.0]]) * np.ptp(subject.bounds, axis=0).max()
        near = ((points >= reach[0]) & (points <= reach[1])).all(axis=1)
        points = np.concatenate([points[near], corners_of(subject.bounds)])
    view = named("Isometric", candidate.corner).camera(points.mean(axis=0), 1.0, now.field)
    return view.fitted_round(points, aspect)


def _is_small(subject: Subject, house: NDArray[np.float64]) -> bool:
    """Whether what is wanted would be lost in a picture of (2, 3) the whole house; else the house is left whole."""
    return not subject.whole and float(np.ptp(house, axis=0).max()) > LOST * float(np.ptp(subject.bounds, axis=0).max())


def _about(face: NDArray[np.float64], wanted: NDArray[np.float64]) -> NDArray[np.float64]:
    """(2, 3) of the bounds of a cut face what lies about the wanted ones."""
    room = 0.6 * np.ptp(wanted, axis=0).max()
    low, high = np.maximum(face[0], wanted[0] - room), np.minimum(face[1], wanted[1] + room)
    return face if (low > high).any() else np.stack([low, high])


def _badly(building: Building, shown: ShownBuilding) -> dict[str, int]:
    """What is sliced that would better not be, by what it is: lengthwise, or furniture and railings."""
    found: dict[str, set[int]] = {}
    for face in shown.cut_open.faces:
        cut = np.zeros(len(building.elements), bool)
        cut[face.section.element] = True
        for element in lengthwise_slices(building, face.plane, cut & ~building.context):
            found.setdefault(f"{building.elements[element].type} lengthwise", set()).add(element)
        for element in np.flatnonzero(cut).tolist():
            size = np.ptp(building.element_bounds[element], axis=0)
            runs = np.abs(face.plane.n) @ size < STAIR_SHARE * size[:2].max()
            if building.elements[element].type in KINDS["Stairs"] and runs and not face.plane.is_level:
                found.setdefault(f"{building.elements[element].type} lengthwise", set()).add(element)
        for kind in ("Furniture", "Railings"):
            for element in np.flatnonzero(cut).tolist():
                if building.elements[element].type in KINDS[kind]:
                    found.setdefault(kind, set()).add(element)
    return {what: len(those) for what, those in found.items()}


def share_seen(subject: Subject, tried: Tried, seen: Seen, alone: Seen | None) -> float:
    """Return the visible share of what is wanted, 0 to 1.

    Of rooms: of the pixels their boxes cover in the picture, those that show a surface in them. Of parts: of the pixels they
    would cover if they stood alone and uncut, those that show them.
    """
    if alone is not None:
        covered = int((alone.element >= 0).sum())
        visible = int((subject.elements[seen.element] & (seen.element >= 0)).sum())
        return min(visible / covered, 1.0) if covered else 0.0
    height, width = seen.element.shape
    covered_by = _covered(subject.rooms, Viewport(tried.camera, Frame(width=width, height=height)))
    inside = np.zeros(seen.element.shape, bool)
    with np.errstate(invalid="ignore"):
        for low, high in subject.rooms:
            inside |= ((seen.place > low - IN_ROOM) & (seen.place < high + IN_ROOM)).all(axis=2)
    inside &= ~seen.cut & covered_by
    return float(inside.sum() / covered_by.sum()) if covered_by.any() else 0.0


def _covered(rooms: NDArray[np.float64], viewport: Viewport) -> NDArray[np.bool_]:
    """(h, w) the pixels whose lines of sight go through one of the boxes (k, 2, 3)."""
    width, height = round(viewport.width), round(viewport.height)
    x, y = np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5)
    covered = np.zeros((height, width), bool)
    corners = viewport.pixels(corners_of(rooms))
    before_eye = np.isfinite(corners).all(axis=(1, 2))
    for flat in corners[before_eye]:
        covered |= shapely.contains_xy(shapely.convex_hull(shapely.multipoints(flat)), x, y)
    if not before_eye.all():
        covered |= _met_by_slabs(rooms[~before_eye], viewport, x / width * 2 - 1, 1 - y / height * 2)
    return covered


def _met_by_slabs(
    rooms: NDArray[np.float64], viewport: Viewport, x: NDArray[np.float64], y: NDArray[np.float64]
) -> NDArray[np.bool_]:
    """The same for boxes that reach behind the eye, slab by slab (Kay and Kajiya, 1986); ``x`` and ``y`` (h, w) from −1 to 1."""
    back = np.linalg.inv(viewport.clip_matrix(*viewport.depth_range(bounds_round(rooms.reshape(-1, 3)))))
    ends = [np.stack([x, y, np.full_like(x, z), np.ones_like(x)], axis=-1) @ back.T for z in (-1.0, 1.0)]
    start, end = (e[..., :3] / e[..., 3:] for e in ends)
    met = np.zeros(x.shape, bool)
    with np.errstate(divide="ignore", invalid="ignore"):
        for low, high in rooms:
            near, far = (low - start) / (end - start), (high - start) / (end - start)
            met |= np.minimum(near, far).max(axis=-1).clip(min=0.0) < np.maximum(near, far).min(axis=-1)
    return met


def rank(subject: Subject, tried: Sequence[Tried], seen: Sequence[tuple[Seen, Seen | None]]) -> list[Suggestion]:
    """Return the best and most different, the best first."""
    scored = []
    for one, (own, alone) in zip(tried, seen, strict=True):
        share = share_seen(subject, one, own, alone)
        harm = sum(n * _weight(what) for what, n in one.badly.items())
        parts = {
            "seen": share,
            "clean": 1.0 / (1.0 + 0.2 * harm),
            "full": min(float((own.element >= 0).mean()) / FULL, 1.0),
        }
        if share >= TOO_LITTLE:
            scored.append((sum(WEIGHTS[name] * value for name, value in parts.items()), parts, one))
    chosen: list[Suggestion] = []
    taken: list[Tried] = []
    while scored and len(chosen) < MOST:
        best = max(range(len(scored)), key=lambda i: scored[i][0] - sum(_alike(scored[i][2], other) for other in taken))
        score, parts, one = scored.pop(best)
        taken.append(one)
        chosen.append(_told(subject, one, score, parts))
    return chosen


def _weight(what: str) -> float:
    """How bad it is to slice one of these: a stair cut along its run is told, but good to look at."""
    if what.split()[0] in KINDS["Stairs"]:
        return 0.0
    return 1.0 if "lengthwise" in what else 0.3


def _alike(a: Tried, b: Tried) -> float:
    """How much two pictures repeat one another."""
    kind = a.candidate.kind == b.candidate.kind
    towards = float(a.camera.axes[2] @ b.camera.axes[2])
    same_cut = a.candidate.cuts == b.candidate.cuts
    return ALIKE * (0.5 * kind + 0.35 * max(towards, 0.0) * kind + 0.4 * (kind and same_cut))


def _told(subject: Subject, one: Tried, score: float, parts: dict[str, float]) -> Suggestion:
    words = f"Shows {100 * parts['seen']:.0f} % of {subject.name}. {_harm_words(one.badly)}"
    candidate = one.candidate
    return Suggestion(
        candidate.kind,
        candidate.title,
        candidate.short,
        words,
        _named(candidate.cuts),
        one.camera,
        one.shown,
        score,
        parts,
        one.badly,
    )


def _harm_words(badly: dict[str, int]) -> str:
    """“Cuts 2 walls lengthwise and 3 pieces of furniture.”"""
    said = []
    for what, number in sorted(badly.items(), key=lambda item: ("lengthwise" not in item[0], -item[1])):
        kind, _, how = what.partition(" ")
        name = {"Furniture": "piece of furniture", "Railings": "railing"}.get(kind) or plain_type(kind).lower()
        plural = "pieces of furniture" if kind == "Furniture" and number != 1 else name + "s" * (number != 1)
        said.append(f"{number} {plural} {how}".strip())
    return f"Cuts {', '.join(said[:3])}{' and more' if len(said) > 3 else ''}." if said else "Cuts cleanly."
