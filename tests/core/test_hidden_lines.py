"""Hidden lines against an embree ray caster, and against what is plain to see."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
import trimesh
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene

from anatome.cuts.cut import SectionBox, SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.kinds.box import Box
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.formats.opening import open_model
from anatome.formats.project_files import OpenedProject
from anatome.linework.feature_lines import feature_lines
from anatome.linework.hidden import seen_stretches
from anatome.linework.joining import joined
from anatome.linework.occluders import hiding_corners
from anatome.linework.on_paper import OnPaper
from anatome.linework.view_drawing import view_drawing
from anatome.look.look import Look
from anatome.look.pens import LineKind
from anatome.model.building import Building
from anatome.model.crossings import crossings
from anatome.scenes.scene_view import View, view_of
from anatome.view.camera import Camera, standard_view
from anatome.view.projections import named
from anatome.view.viewport import Frame, Viewport
from fetched import open_house
from helpers import box, made_of

POINTS = 20_000
PLAIN = Look(surfaces="white", recede=0.0)


def agreement(view: View, points: int = POINTS, seed: int = 0) -> tuple[float, int]:
    """(share of random points on lines that are seen or hidden as embree says, how many were asked): those within a hair of a
    change are left out, which are those where embree itself says otherwise a hair beside."""
    work = OnPaper(view)
    lines = work.clipped(feature_lines(view.opened, view.look, work.styles, work.viewport))
    lines = lines.some((lines.kind == LineKind.EDGE) | (lines.kind == LineKind.SILHOUETTE))
    flat = work.flat(lines)
    of, stretch = seen_stretches(flat, work.hiding())
    rng = np.random.default_rng(seed)
    length = np.linalg.norm(lines.ends[:, 1] - lines.ends[:, 0], axis=1)
    chosen = rng.choice(len(length), points, p=length / length.sum())
    # Even along the line in space is not so in the picture, where stretches are told.
    t = rng.uniform(0.02, 0.98, points)
    there = lines.ends[chosen, 0] + t[:, None] * (lines.ends[chosen, 1] - lines.ends[chosen, 0])
    ends = work.viewport.flat(lines.ends[chosen])[0]
    arm = ends[:, 1] - ends[:, 0]
    along = (arm * (work.viewport.flat(there)[0] - ends[:, 0])).sum(axis=1) / np.maximum((arm**2).sum(axis=1), 1e-30)
    seen = np.zeros(points, bool)
    first, last = np.searchsorted(of, chosen), np.searchsorted(of, chosen, "right")
    for i in range(points):
        own = stretch[first[i] : last[i]]
        seen[i] = bool(((own[:, 0] <= along[i]) & (along[i] <= own[:, 1])).any())
    corners = hiding_corners(view.opened, work.styles, work.standing)
    centre, size = corners.reshape(-1, 3).mean(axis=0), float(np.ptp(corners.reshape(-1, 3), axis=0).max())
    scene = EmbreeScene(robust=True)
    TriangleMesh(scene, (corners - centre).astype(np.float32))
    eye = work.viewport.eye
    towards = eye[:3] - eye[3] * there
    far = np.linalg.norm(towards, axis=1) if eye[3] else np.full(points, 4 * size)
    towards /= np.linalg.norm(towards, axis=1, keepdims=True)
    aside = np.cross(towards, [0.3, 0.5, 0.81])
    aside /= np.linalg.norm(aside, axis=1, keepdims=True)
    upward, hair = np.cross(towards, aside), 4e-5 * size

    def free(shift: np.ndarray, lift: float) -> np.ndarray:
        start = (there + shift + lift * hair * towards - centre).astype(np.float32)
        return scene.run(start, towards.astype(np.float32), (far - 2 * lift * hair).astype(np.float32), query="OCCLUDED") < 0

    said = free(np.zeros(3), 2.0)
    sure = np.ones(points, bool)
    for angle in np.arange(8) * np.pi / 4:
        sure &= free(hair * (np.cos(angle) * aside + np.sin(angle) * upward), 2.0) == said
    sure &= free(np.zeros(3), 0.5) == said
    return float((seen[sure] == said[sure]).mean()), int(sure.sum())


def random_boxes() -> Building:
    rng = np.random.default_rng(4)
    parts = []
    for i in range(60):
        made = trimesh.creation.box(rng.uniform(0.3, 2.5, 3))
        made.apply_transform(trimesh.transformations.random_rotation_matrix(rng.random(3)))
        made.apply_translation(rng.uniform(-4, 4, 3))
        parts.append((f"b{i}", "IfcWall", "", made))
    return made_of(*parts)


def torus_in_a_cage() -> Building:
    bars = [("torus", "IfcWall", "", trimesh.creation.torus(1.2, 0.5))]
    for i, x in enumerate(np.linspace(-2, 2, 6)):
        bars.append((f"x{i}", "IfcMember", "", box(x - 0.05, -2, -2, x + 0.05, -1.9, 2)))
        bars.append((f"z{i}", "IfcMember", "", box(-2, -2, x - 0.05, 2, -1.9, x + 0.05)))
    return made_of(*bars)


def coincident() -> Building:
    """Walls that stand on a slab, touch in a face, and one that lies in another."""
    return made_of(
        ("slab", "IfcSlab", "", box(-3, -3, -0.2, 3, 3, 0)),
        ("a", "IfcWall", "", box(-2, -1, 0, 0, 1, 2)),
        ("b", "IfcWall", "", box(0, -1, 0, 2, 1, 1)),
        ("c", "IfcWall", "", box(-1.5, -1, 0.5, -0.5, 0, 1.5)),
    )


BUILDINGS = {"boxes": random_boxes, "torus": torus_in_a_cage, "coincident": coincident}
OBLIQUE = ("Isometric", "Plan oblique, 45°", "Cavalier")
VIEWS = [*OBLIQUE, "front", "perspective", "wide"]


def camera_of(kind: str, building: Building) -> Camera:
    bounds = building.bounds
    corners = np.stack(np.meshgrid(*bounds.T), axis=-1).reshape(-1, 3)
    if kind in OBLIQUE:
        return named(kind, (-1, -1)).camera(bounds.mean(axis=0), 1.0, 30.0).fitted_round(corners, 1.0)
    seen = standard_view("Axonometric, front left" if kind != "front" else "Front", bounds, 1.0)
    if kind == "front":
        return seen
    field = 35.0 if kind == "perspective" else 80.0
    return seen.model_copy(update={"projection": "perspective"}).with_field(field).fitted_round(corners, 1.0)


@pytest.mark.parametrize("kind", VIEWS)
@pytest.mark.parametrize("name", BUILDINGS)
def test_small_buildings_as_embree_sees_them(name: str, kind: str) -> None:
    building = BUILDINGS[name]()
    opened = ShownBuilding(Cutter(building).dissect([], np.ones(len(building.elements), bool)))
    share, asked = agreement(View(camera_of(kind, building), opened, PLAIN, Frame(width=1000, height=1000)), 4000)
    assert share >= 0.999 and asked > 1500


@pytest.mark.parametrize("scene", ["long", "cutaway", "corner", "split", "oblique"])
def test_the_demo_as_embree_sees_it(demo: OpenedProject, scene: str) -> None:
    opened = demo
    found = next(s for s in opened.stored.project.scenes if s.id == scene)
    share, asked = agreement(replace(view_of(Cutter(opened.building), found, None, opened.stored.project.site), figures=()))
    assert share >= 0.999 and asked > POINTS / 3


def test_parts_that_run_through_one_another_have_a_line_there() -> None:
    """A beam through a wall: where it comes out, four lines that neither has as edges; none where the wall stands on its slab."""
    building = made_of(
        ("wall", "IfcWall", "", box(-2, 0, 0, 2, 0.3, 3)),
        ("beam", "IfcBeam", "", box(-0.2, -1, 1.0, 0.2, 1, 1.5)),
        ("slab", "IfcSlab", "", box(-3, -2, -0.2, 3, 2, 0)),
    )
    ends, owners = crossings(building)
    assert {tuple(sorted(pair)) for pair in owners.tolist()} == {(0, 1)}
    # All round the beam, on both faces of the wall: its girth, twice.
    assert np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1).sum() == pytest.approx(2 * (2 * 0.4 + 2 * 0.5))
    assert set(np.round(ends[..., 1].ravel(), 6)) == {0.0, 0.3}
    opened = ShownBuilding(Cutter(building).dissect([], np.ones(3, bool)))
    front = View(camera_of("front", building), opened, PLAIN, Frame(width=1000, height=1000))
    alone = ShownBuilding(Cutter(building).dissect([], np.array([True, False, True])))
    drawn, bare = (sum(len(k.lines) for k in view_drawing(v, "x").strokes) for v in (front, replace(front, opened=alone)))
    assert drawn == bare + 4  # the beam's end covers where it goes in: its own four edges, seen straight on


@pytest.mark.parametrize("kind", ["Isometric", "perspective"])
def test_a_hole_has_a_rim_all_round_from_whichever_side_one_looks_in(kind: str) -> None:
    """Of a bite out of a block two sides face the eye and two turn away; the surface ends at all four."""
    building = made_of(("block", "IfcSlab", "", box(-4, -4, -2, 4, 4, 0)))
    bite = SectionBox(id="b", name="B", mark="B", box=Box((0.5, 0.2, 0.0), (2.0, 3.0, 2.0), 20.0), carve=True)
    opened = ShownBuilding(Cutter(building).dissect([bite], np.ones(1, bool)))
    view = View(camera_of(kind, building), opened, PLAIN, Frame(width=1000, height=1000))
    drawing = view_drawing(view, "x")
    (drawn,) = (kind.lines for kind in drawing.strokes if kind.name == "Outline of the cut")
    lines = shapely.union_all([shapely.LineString(points) for points in drawn]).buffer(0.1)
    corners = bite.box.corners[[4, 5, 7, 6, 4]] * [1, 1, 0]
    rim = Viewport.of(view.camera, 1000, 1000).pixels(corners) * [1, -1] + [0, 1000]
    for edge in zip(rim[:-1], rim[1:]):
        assert lines.contains(shapely.LineString(np.array(edge) * drawing.width / 1000)), edge


@pytest.mark.parametrize("seed", range(3))
def test_lines_that_coincide_are_one_and_pieces_are_joined(seed: int) -> None:
    """A line cut into pieces in any order, some of them twice or turned round, is that line again; what is short is dropped."""
    rng = np.random.default_rng(seed)
    whole = rng.uniform(0, 200, (12, 2, 2))
    pieces = []
    for a, b in whole:
        cuts = np.sort(np.concatenate([[0.0, 1.0], rng.random(5)]))
        pieces += [np.stack([a + (b - a) * s, a + (b - a) * e]) for s, e in zip(cuts[:-1], cuts[1:])]
        pieces.append(np.stack([a + (b - a) * 0.6, a + (b - a) * 0.2]))
    pieces.append(np.array([[5.0, 5.0], [5.05, 5.0]]))
    given = np.array(pieces)[rng.permutation(len(pieces))]
    found, _ = joined(given, np.zeros(len(given), np.int64))
    assert len(found) == len(whole)
    length = np.linalg.norm(whole[:, 1] - whole[:, 0], axis=1)
    assert np.sort(np.linalg.norm(found[:, 1] - found[:, 0], axis=1)) == pytest.approx(np.sort(length), abs=0.02)


@pytest.mark.long
def test_the_open_house_as_embree_sees_it() -> None:
    building = open_model(open_house())
    middle = building.bounds.mean(axis=0)
    cut = SectionPlane(id="a", name="A", mark="A", plane=Plane(tuple(middle), (0.0, -1.0, 0.0)))
    opened = ShownBuilding(Cutter(building).dissect([cut], np.ones(len(building.elements), bool)))
    share, asked = agreement(View(camera_of("perspective", building), opened, PLAIN, Frame(width=1000, height=1000)))
    assert share >= 0.999 and asked > POINTS / 3
