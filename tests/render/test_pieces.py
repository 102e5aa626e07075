"""Displaced, mirrored, enlarged and parted pieces in sheared, shifted and plain pictures: drawn, picked and projected alike.

The oracle is a plain loop over all triangles (Möller and Trumbore, 1997), each moved to where it is shown.
"""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from anatome.cuts.cells import Cell
from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.moves import followed_by, home, mirrored, move_of, shifted
from anatome.cuts.pieces import CellsCut, Piece, ShownBuilding, pick_placed, placed
from anatome.cuts.plane import Plane
from anatome.look.look import Look
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element
from anatome.problems import Problem
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import View
from anatome.view.camera import Camera
from anatome.view.viewport import Frame, Viewport

COLOURS = [(1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0), (0, 1, 1), (1, 0, 1)]
PLAIN = Look(edges=False, ground=False, shade=False)
SIZE = (300, 240)


@pytest.fixture(scope="module")
def blocks() -> Building:
    """Six solids that overlap on the picture, each of a colour that is told apart whatever the light."""
    assembly = BuildingAssembly("blocks")
    rng = np.random.default_rng(5)
    for number, colour in enumerate(COLOURS):
        made = trimesh.creation.icosphere(2, 1.4) if number % 2 else trimesh.creation.box(rng.uniform(1.5, 3.5, 3))
        made.apply_transform(trimesh.transformations.random_rotation_matrix(rng.uniform(size=3)))
        made.apply_translation(rng.uniform(-4, 4, 3))
        assembly.add(Element(f"e{number}", f"Block {number}", "IfcWall"), made.vertices, made.faces, assembly.style((*colour, 1)))
    return assembly.finish()


@pytest.fixture(scope="module")
def maker(blocks: Building) -> PictureMaker:
    return PictureMaker.standalone(blocks)


def viewport_of(rng: np.random.Generator) -> Viewport:
    direction = rng.normal(size=3)
    eye = direction / np.linalg.norm(direction) * 18
    camera = Camera(
        eye=tuple(eye),
        target=tuple(rng.uniform(-1, 1, 3)),
        projection="parallel" if rng.uniform() < 0.6 else "perspective",
        shear=tuple(rng.uniform(-0.6, 0.6, 2)),
        shift=tuple(rng.uniform(-0.1, 0.1, 2)),
        field=38,
    )
    return Viewport(camera, Frame(width=SIZE[0], height=SIZE[1]))


def nearest(pieces: list[tuple[np.ndarray, np.ndarray]], origin: np.ndarray, direction: np.ndarray) -> tuple[int, float]:
    """(element, distance) of the nearest of triangles (n, 3, 3) with elements (n,), or (−1, inf)."""
    best = (-1, np.inf)
    for corners, element in pieces:
        a, e1, e2 = corners[:, 0], corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
        h = np.cross(direction, e2)
        det = np.einsum("ij,ij->i", e1, h)
        with np.errstate(divide="ignore", invalid="ignore"):
            s = (origin - a) / det[:, None]
            u, q = np.einsum("ij,ij->i", s, h), np.cross(s, e1)
            v, t = q @ direction, np.einsum("ij,ij->i", e2, np.cross(s, e1))
            t = np.where((u >= 0) & (v >= 0) & (u + v <= 1) & (t > 0), t, np.inf)
        if t.min() < best[1]:
            best = int(element[np.argmin(t)]), float(t.min())
    return best


def colour_of(pixel: np.ndarray) -> int:
    """The block a pixel shows, by which of its channels are strong; −1 for white paper, −2 for a cut face."""
    low, high = int(pixel[:3].min()), int(pixel[:3].max())
    if low > 250:
        return -1
    if high - low < 12:
        return -2
    return COLOURS.index(tuple(int(c > (low + high) / 2) for c in pixel[:3]))


@pytest.mark.parametrize("seed", range(12))
def test_drawn_picked_and_projected_alike(blocks: Building, maker: PictureMaker, seed: int) -> None:
    rng = np.random.default_rng(seed)
    viewport = viewport_of(rng)
    turned = trimesh.transformations.random_rotation_matrix(rng.uniform(size=3))
    larger = move_of(np.diag([*[rng.choice([1.0, 0.6, 1.7])] * 3, 1.0]))
    moves = [
        followed_by(larger, shifted(rng.uniform(-3, 3, 3))),
        followed_by(mirrored(Plane((0, 0, 0), tuple(rng.normal(size=3)))), move_of(turned)),
    ]
    halves = rng.permutation(6)
    masks = [np.isin(np.arange(6), halves[:4]), np.isin(np.arange(6), halves[3:])]  # one block is in both
    everything = np.ones(6, bool)
    cutter = Cutter(blocks)
    pieces = () if seed % 4 == 3 else placed(cutter, [Piece(m, e) for m, e in zip(moves, masks)], [], everything)
    view = View(viewport.camera, ShownBuilding(cutter.dissect([], everything), pieces), PLAIN, viewport.frame)
    picture = maker.picture(view, SIZE, "white", 1)
    shown = view.opened.parts
    corners = blocks.vertices[blocks.triangles]
    moved = []
    for piece in shown:
        keep = piece.cut_open.shown[blocks.element_of_triangle]
        matrix = np.array(piece.move)
        moved.append((corners[keep] @ matrix[:3, :3].T + matrix[:3, 3], blocks.element_of_triangle[keep]))

    compared = np.zeros(7, int)
    for x, y in rng.integers([4, 4], [SIZE[0] - 4, SIZE[1] - 4], size=(260, 2)):
        around = [nearest(moved, *viewport.ray(x + dx, y + dy))[0] for dx, dy in ((-1, -1), (2, -1), (-1, 2), (2, 2), (0.5, 0.5))]
        if len(set(around)) > 1:
            continue  # the border of a block runs through here
        origin, direction = viewport.ray(x + 0.5, y + 0.5)
        element, distance = nearest(moved, origin, direction)
        assert colour_of(picture[y, x]) == element, (x, y)
        found = pick_placed(shown, origin, direction)
        assert (found is None) == (element < 0)
        if found is not None:
            hit = found[0]
            assert hit.element == element and hit.distance == pytest.approx(distance, rel=1e-6)
            assert viewport.pixels(np.array(hit.point)) == pytest.approx([x + 0.5, y + 0.5], abs=1e-5)
            assert shown[found[2]].cut_open.shown[element]
        compared[element] += 1
    assert (compared[:6] > 0).sum() >= 3 and compared[:6].sum() > 20


def test_a_cut_of_the_displaced_picture_is_the_cell_moved_home(blocks: Building, maker: PictureMaker) -> None:
    """Half of it lifted and mirrored, all of it cut by one plane where it is shown: every cut face lies in that plane."""
    cutter, everything = Cutter(blocks), np.ones(6, bool)
    parting = Plane((0, 0, 0), (0, 0, 1))
    plane = Plane((0.3, 0, 0), (1, 0.2, 0.1))
    cut = SectionPlane(id="c", name="Section A", mark="A", plane=plane)

    def parted(at: Plane) -> CellsCut:
        return CellsCut(id="p", name="Parting", mark="P", taken=(Cell((at,)),))

    pieces = [
        Piece(shifted((0, 0, 0)), None, (parted(parting),)),
        Piece(followed_by(mirrored(Plane((0, 0, 2), (0, 0, 1))), shifted((1, 2, 5))), None, (parted(parting.turned_round()),)),
    ]
    found = placed(cutter, pieces, [], everything, [cut])
    for piece in found:
        faces = [f for f in piece.cut_open.faces if f.cut.id == "c"]
        assert faces
        for face in faces:
            matrix = np.array(piece.move)
            shown = face.section.caps.vertices @ matrix[:3, :3].T + matrix[:3, 3]
            assert np.abs(plane.distance(shown)).max() < 1e-9
    # What the two pieces have at home adds up to the building without what was cut: nothing is twice or missing.
    for x in np.random.default_rng(3).uniform(-5, 5, (300, 3)):
        removed = [piece.cut_open.removed(x[None], np.array([0]))[0] for piece in found]
        beyond = [plane.distance(np.array(p.move)[:3, :3] @ x + np.array(p.move)[:3, 3]) > 0 for p in found]
        assert removed == [x[2] > 0 or beyond[0], x[2] < 0 or beyond[1]]
    camera = Camera(eye=(30, 6, 8), target=(0, 1, 2), projection="parallel", field=22)
    view = View(camera, ShownBuilding(found[0].cut_open, found), PLAIN, Frame(width=SIZE[0], height=SIZE[1]))
    picture = maker.picture(view, SIZE, "white", 1)
    viewport = Viewport(camera, view.frame)
    faces = 0
    for x, y in np.random.default_rng(4).integers([2, 2], [SIZE[0] - 2, SIZE[1] - 2], size=(900, 2)):
        met = [pick_placed(found, *viewport.ray(x + dx, y + dy)) for dx, dy in ((-1, -1), (2, 2), (-1, 2), (2, -1), (0.5, 0.5))]
        kinds = {None if m is None else (m[0].element, m[1] is not None) for m in met}
        if len(kinds) == 1 and met[-1] is not None:
            faces += met[-1][1] is not None
            assert colour_of(picture[y, x]) == (-2 if met[-1][1] is not None else met[-1][0].element)
    assert faces > 10


def test_pieces_keep_shapes() -> None:
    with pytest.raises(Problem, match="not stretched"):
        move_of(np.diag([2.0, 1, 1, 1]))
    move = followed_by(
        followed_by(shifted((1, 2, 3)), mirrored(Plane((0, 0, 1), (1, 1, 0)))), move_of(np.diag([2.5, 2.5, 2.5, 1]))
    )
    assert home(move) @ np.array(move) == pytest.approx(np.eye(4))
