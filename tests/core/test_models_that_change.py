"""Two states of a model compared: what was changed by script is what is told, and projects go along with it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
import pytest
import trimesh
from scipy.spatial.transform import Rotation

from anatome.cuts.dissection import Cutter
from anatome.cuts.kinds.section_plane import SectionPlane
from anatome.cuts.plane import Plane
from anatome.cuts.reach import Reach
from anatome.demo.shipped import PROJECT
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element
from anatome.model.comparison import Comparison, compare
from anatome.model.meaning import NamedGroup, PartFilter
from anatome.model.selection import Selection
from anatome.model.shapes import shapes_of
from anatome.notes.anchors import anchored, place_of
from anatome.notes.note import Level, anchors_of
from anatome.scenes.opened import left_of
from anatome.scenes.project import Project
from anatome.scenes.relinking import change_of, gone_along, gone_back, looked_over, relinked, touched
from anatome.scenes.storage import load_project
from anatome.scenes.whole import meant

RED = (0.9, 0.1, 0.1, 1.0)
KINDS = ("gone", "new", "moved", "reshaped", "renamed", "restyled", "reassigned")
OtherIds = Callable[[int, str], str]


@dataclass
class Script:
    """What is done to a model, and what it is then truly like: ids as they are afterwards, of gone parts as they were."""

    ids: dict[str, str] = field(default_factory=dict)
    done: dict[str, set[str]] = field(default_factory=lambda: {kind: set() for kind in KINDS})


def changed(
    building: Building, seed: int, ids: Callable[[int, str], str] | None = None, each: int = 6
) -> tuple[Building, Script]:
    """A few of each kind of change; all parts in another order, their triangles in another, divided otherwise; other ``ids``."""
    chance, script = np.random.default_rng(seed), Script()
    assembly = BuildingAssembly(building.name)
    assembly.storeys, assembly.spaces, assembly.place = list(building.storeys), list(building.spaces), building.place
    for rgba in building.styles:
        assembly.style((rgba / 255).tolist())
    red = assembly.style(RED)
    # Twins in one place cannot be told apart, and what is divided among storeys has no place of its own to go to.
    free = chance.permutation(len(building.elements))
    kind_of = {int(i): KINDS[k // each] for k, i in enumerate(free[: each * len(KINDS)])}
    for number, i in enumerate(chance.permutation(len(building.elements)).tolist()):
        element, kind = building.elements[i], kind_of.get(i, "")
        start, end = building.triangle_start[i : i + 2]
        used, faces = np.unique(building.triangles[start:end], return_inverse=True)
        vertices, styles = building.vertices[used], building.triangle_style[start:end]
        faces = faces.reshape(-1, 3)
        name = element.id if ids is None else ids(number, element.id)
        now = name
        if kind == "gone":
            script.done[kind].add(element.id)
            continue
        if kind == "new":
            extra = f"extra {number}"
            script.done[kind].add(extra)
            assembly.add(Element(extra, "Bench", "IfcFurniture"), vertices * [0.7, 0.9, 0.8] + [0.0, 40.0, 0.0], faces, red)
        elif kind == "moved":
            middle = vertices.mean(axis=0)
            if number % 2:
                vertices = Rotation.from_euler("z", 17, degrees=True).apply(vertices - middle) + middle
            vertices = vertices + chance.uniform(0.002, 0.1, 3)
        elif kind == "reshaped":
            vertices = vertices * [1.0, 1.0, 1.05] - [0.0, 0.0, vertices[:, 2].min() * 0.05]
        elif kind == "renamed":
            element = replace(element, name=f"Called {number}")
        elif kind == "restyled":
            styles = np.full(len(styles), red)
        elif kind == "reassigned":
            element = replace(element, layer="Elsewhere")
        if kind and kind != "new":
            script.done[kind].add(now)
        if name != element.id:
            script.ids[element.id] = name
        order = chance.permutation(len(faces))
        vertices, faces, styles = _divided(vertices, np.roll(faces[order], 1, axis=1), styles[order])
        assembly.add(replace(element, id=name), vertices, faces, styles)
    if script.ids:
        script.done["renamed"] |= set(script.ids.values())
    return assembly.finish(), script


def _divided(vertices: np.ndarray, faces: np.ndarray, styles: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The first triangle as three round its middle."""
    a, b, c = faces[0]
    middle = len(vertices)
    more = [[a, b, middle], [b, c, middle], [c, a, middle]]
    return (
        np.vstack([vertices, vertices[faces[0]].mean(axis=0)]),
        np.vstack([faces[1:], more]),
        np.concatenate([styles[1:], np.repeat(styles[:1], 3)]),
    )


def told(before: Building, after: Building, found: Comparison) -> dict[str, set[str]]:
    def now(mask: np.ndarray) -> set[str]:
        return {after.elements[found.partner[i]].id for i in np.flatnonzero(mask)}

    kinds = {kind: now(getattr(found, kind)) for kind in KINDS[2:]}
    gone = {before.elements[i].id for i in np.flatnonzero(found.gone)}
    return kinds | {"gone": gone, "new": {after.elements[i].id for i in np.flatnonzero(found.new)}}


def other_global_id(number: int, was: str) -> str:
    return f"3{number:021d}"


def as_modellers_number(number: int, was: str) -> str:
    return f"Mesh_{number:03d}"


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("ids", [None, other_global_id, as_modellers_number])
def test_what_was_changed_is_told_and_nothing_else(boathouse: Building, seed: int, ids: OtherIds | None) -> None:
    """With its own ids, with others, and with ids that now belong to other parts; in another place and unit alike."""
    before = boathouse
    if ids is as_modellers_number:
        names = tuple(replace(e, id=f"Mesh_{i:03d}") for i, e in enumerate(before.elements))
        before = replace(before, elements=names)
    after, script = changed(before, seed, ids)
    found = compare(before, after)
    assert told(before, after, found) == script.done
    assert {old: new for old, new in found.names.items() if new is not None} == script.ids
    assert found.whole.is_nothing


def test_another_unit_and_origin_are_told_as_one(boathouse: Building) -> None:
    """A file in millimetres taken for metres, with its origin on the grid of the country: one change and not hundreds."""
    after, script = changed(boathouse, 9)
    far = replace(after, vertices=after.vertices * 1000.0 + [412_000.0, 5_310_000.0, 390.0])
    found = compare(boathouse, far)
    assert found.whole.factor == pytest.approx(1000.0, rel=1e-9)
    assert found.whole.shift == pytest.approx((412_000.0, 5_310_000.0, 390.0), abs=1e-3)
    assert told(boathouse, far, found)["gone"] == script.done["gone"] and told(boathouse, far, found)["new"] == script.done["new"]
    near = compare(boathouse, replace(after, vertices=after.vertices + [412_000.0, 5_310_000.0, 390.0]))
    assert told(boathouse, after, near) == script.done and near.whole.shift[0] == pytest.approx(412_000.0)
    same = compare(boathouse, boathouse)
    assert same.whole.is_nothing and not same.names and not any(told(boathouse, boathouse, same).values())


def test_moments_are_those_of_known_bodies() -> None:
    """A box: area, volume, and the second moments of its surface, face by face (Steiner's theorem); turned, they are the same."""
    sides = np.array([4.0, 3.0, 0.5])
    made = trimesh.creation.box(sides)
    x, y, z = sides
    area = 2 * (x * y + y * z + z * x)

    def second(a: float, b: float, c: float) -> float:
        """∫ x² along side a: two faces at a/2, and four over which it runs."""
        return 2 * b * c * (a / 2) ** 2 + 2 * (b + c) * a**3 / 12

    spread = [second(x, y, z), second(y, z, x), second(z, x, y)]
    turn = Rotation.from_euler("xyz", [20, 50, 80], degrees=True)
    for vertices in (made.vertices, turn.apply(made.vertices) + [4e5, 5e6, 100.0]):
        assembly = BuildingAssembly("box")
        assembly.add(Element("box", "Box", "Part"), vertices, made.faces, assembly.style(RED))
        own = shapes_of(assembly.finish()).own[0]
        assert own[0] == pytest.approx(np.sqrt(area)) and own[1] == pytest.approx(x * y * z / area, rel=1e-6)
        assert sorted(own[4:]) == pytest.approx(sorted(np.sqrt(np.array(spread) / area)), rel=1e-6)
        assert own[3] == pytest.approx(0.0, abs=1e-6)


# Projects -------------------------------------------------------------------------------------------------------------


@pytest.fixture(scope="module")
def demo() -> Project:
    return load_project(PROJECT).project


def followed(project: Project, before: Building, after: Building) -> Project:
    return relinked(project, after, compare(before, after), project.model)


def faces_of(building: Building, project: Project) -> dict[str, list[tuple[str, float, frozenset[str]]]]:
    """What each scene cuts: the area of each face and the names of what lies in it."""
    cutter = Cutter(meant(building, project))
    found = {}
    for scene in project.scenes:
        faces = left_of(cutter, scene.state).faces
        found[scene.id] = [
            (f.name, float(f.section.areas.sum()), frozenset(building.elements[e].name for e in np.unique(f.section.element)))
            for f in faces
        ]
    return found


def test_a_project_goes_along_with_ids_that_are_others(boathouse: Building, demo: Project) -> None:
    """Every scene cuts, hides and notes what it did; and what it was is found again when the ids go back."""
    after, _ = changed(boathouse, 1, other_global_id, each=0)
    project = followed(demo, boathouse, after)
    assert not touched(demo, meant(boathouse, demo), meant(after, project), compare(boathouse, after))
    before_faces, after_faces = faces_of(boathouse, demo), faces_of(after, project)
    for scene in demo.scenes:
        for (_, area, names), (_, area_now, names_now) in zip(before_faces[scene.id], after_faces[scene.id], strict=True):
            assert area_now == pytest.approx(area, rel=1e-6, abs=1e-9) and names == names_now
        hidden = {boathouse.elements[boathouse.index_of[i]].name for i in scene.state.hidden if i in boathouse.index_of}
        now = project.scene(scene.id).state
        assert {after.elements[after.index_of[i]].name for i in now.hidden if i in after.index_of} == hidden
        for was, note in zip(scene.state.notes, now.notes, strict=True):
            for one, other in zip(anchors_of(was), anchors_of(note), strict=True):
                places = place_of(one, boathouse, scene.state.cuts), place_of(other, after, now.cuts)
                assert (places[0] is None) == (places[1] is None) and np.allclose(*places, atol=1e-6)
    assert followed(project, after, boathouse) == demo


def test_scenes_whose_cut_changes_are_told_and_notes_wait(boathouse: Building, demo: Project) -> None:
    """Every scene of which a face is another one is told as cut; a note on what is gone stands on a corner there is."""
    after, script = changed(boathouse, 5, each=12)
    gone = next(iter(sorted(script.done["gone"])))
    high = boathouse.element_bounds[boathouse.index_of[gone], 1]
    note = Level(id="n", anchors=(anchored(boathouse, high, gone),))
    first = demo.scenes[0]
    state = first.state.model_copy(update={"notes": (note,), "hidden": first.state.hidden | {gone}})
    project = demo.model_copy(update={"scenes": (first.model_copy(update={"state": state}), *demo.scenes[1:])})
    found = compare(boathouse, after)
    now = followed(project, boathouse, after)
    touches = touched(project, meant(boathouse, project), meant(after, now), found)
    was_cut, is_cut = faces_of(boathouse, project), faces_of(after, now)
    others = {s for s in was_cut if any(abs(a[1] - b[1]) > 1e-6 for a, b in zip(was_cut[s], is_cut[s], strict=True))}
    told_cut = {scene for scene, found in touches.items() if any(t.why == "cut" for t in found)}
    assert others and others <= told_cut and len(told_cut) < len(demo.scenes)
    why = {touch.why: touch for touch in touches[first.id]}
    assert why["hidden"].ids == (gone,) and gone in why["notes"].ids and "wait at the nearest corner" in why["notes"].what
    (anchor,) = anchors_of(now.scenes[0].state.notes[0])
    assert anchor.on in after.index_of and gone in now.scenes[0].state.hidden  # it stays hidden should it come back
    corner = place_of(anchor, after, ())
    assert np.linalg.norm(after.vertices - np.array(high), axis=1).min() == pytest.approx(np.linalg.norm(corner - high))


def test_what_goes_along_comes_back_and_only_what_needs_a_look_is_marked(boathouse: Building, demo: Project) -> None:
    """Ids go along and back; a scene of which something is only seen to be different has no mark."""
    after, _ = changed(boathouse, 9, other_global_id)
    found = compare(boathouse, after)
    assert gone_back(gone_along(demo.stage, after, found), found).hidden <= demo.stage.hidden
    states = [scene.state for scene in demo.scenes]
    for state in states:
        there = gone_along(state, after, found)
        back = gone_back(there, found)
        assert back.cuts == state.cuts and back.look == state.look and back.treatments == state.treatments
    fewer, script = changed(boathouse, 3, each=2)
    gone = next(iter(script.done["gone"]))
    bench = NamedGroup(name="Bench", who=PartFilter(what=Selection(elements=frozenset({gone}))))
    first, *rest = demo.scenes
    cut = SectionPlane(id="c", name="Section", mark="S", plane=Plane((0, 0, 900.0), (0, 0, 1)), reach=only(elements={gone}))
    other = cut.model_copy(update={"id": "d", "reach": only(groups={"Bench"})})
    grouped = demo.model_copy(
        update={
            "meanings": demo.meanings.model_copy(update={"groups": (bench,)}),
            "scenes": (first.model_copy(update={"state": first.state.model_copy(update={"cuts": (cut, other)})}), *rest),
        }
    )
    change = change_of(grouped, boathouse, fewer, demo.model)
    why = {touch.why: touch.what for touch in change.touches[first.id]}
    assert why["reach"] == "1 part gone that cuts, groups drawn apart or details name"
    assert why["group"] == "1 part new or gone in “Bench”"
    for scene in change.project.scenes:
        assert scene.touched == tuple(t.what for t in change.touches.get(scene.id, ()) if t.why != "seen")
    assert looked_over(change.project, [s.id for s in change.project.scenes]).scenes == tuple(
        s.model_copy(update={"touched": ()}) for s in change.project.scenes
    )


def only(**who: set[str]) -> Reach:
    return Reach(mode="only", what=Selection(**{name: frozenset(ids) for name, ids in who.items()}))


@pytest.mark.parametrize("factor", (1.0, 25.4))
def test_a_model_that_lies_elsewhere_takes_its_scenes_along(boathouse: Building, demo: Project, factor: float) -> None:
    """Faces of all scenes have the areas they had, at another place and size; nothing but that is told, unless they stay."""
    by = np.array([40.0, -25.0, 3.5])
    elsewhere = replace(boathouse, vertices=boathouse.vertices * factor + by)
    change = change_of(demo, boathouse, elsewhere, demo.model)
    assert change.found.whole.shift == pytest.approx(tuple(by), abs=1e-6) and not change.touches
    was, now = faces_of(boathouse, demo), faces_of(elsewhere, change.project)
    for scene, faces in was.items():
        assert [(name, ids) for name, _, ids in faces] == [(name, ids) for name, _, ids in now[scene]]
        there = [area / factor**2 for _, area, _ in now[scene]]
        assert [area for _, area, _ in faces] == pytest.approx(there, rel=1e-6, abs=1e-6)
    for one, other in zip(demo.scenes, change.project.scenes, strict=True):
        assert np.array(other.state.camera.eye) == pytest.approx(np.array(one.state.camera.eye) * factor + by, abs=1e-6)
    for figure, other in zip(demo.site.figures, change.project.site.figures, strict=True):
        assert np.array(other.place) == pytest.approx(np.array(figure.place) * factor + by)
    assert change.back(change.along(demo.stage)).camera.eye == pytest.approx(demo.stage.camera.eye)
    stay = change_of(demo, boathouse, elsewhere, demo.model, along=False)
    assert stay.project.stage == demo.stage and stay.touches
