"""Whether parts are sound solids, as two libraries for meshes judge them (trimesh, manifold3d)."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
import trimesh
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from anatome.model.building import Building
from anatome.model.soundness import soundness_of
from helpers import box, made_of

BODIES = {
    "box": trimesh.creation.box((2, 3, 4)),
    "ball": trimesh.creation.icosphere(subdivisions=1),
    "ring": trimesh.creation.annulus(1, 2, 0.5, sections=9),
    "prism": trimesh.creation.cylinder(1, 2, sections=7),
}
DAMAGES = ("none", "hole", "turn some", "turn all", "fin", "hole and turn")


def damaged(body: str, damage: str, seed: int) -> trimesh.Trimesh:
    """A body with faces taken out, turned, or one more put at an edge."""
    chance, faces, vertices = np.random.default_rng(seed), BODIES[body].faces.copy(), BODIES[body].vertices.copy()
    some = chance.choice(len(faces), chance.integers(1, max(2, len(faces) // 2)), replace=False)
    if damage in ("turn some", "hole and turn"):
        faces[some] = faces[some, ::-1]
    if damage == "turn all":
        faces = faces[:, ::-1]
    if damage == "fin":
        a, b = faces[some[0], :2]
        vertices = np.vstack([vertices, vertices[a] * 3 + [0.1, 0.2, 0.3]])
        faces = np.vstack([faces, [a, b, len(vertices) - 1]])
    if damage.startswith("hole"):
        faces = np.delete(faces, chance.choice(len(faces), chance.integers(1, 4), replace=False), axis=0)
    return trimesh.Trimesh(vertices, faces, process=False)


@settings(max_examples=500)
@given(st.sampled_from(sorted(BODIES)), st.sampled_from(DAMAGES), st.integers(0, 10**6))
def test_the_verdict_is_that_of_other_libraries(body: str, damage: str, seed: int) -> None:
    mesh = damaged(body, damage, seed)
    building = made_of(("part", "Part", "", mesh))
    found = soundness_of(building)
    mesh.merge_vertices()
    sound = bool(mesh.is_watertight and mesh.is_winding_consistent)
    assert bool(found.open[0]) != sound and bool(building.links.closed[0]) == sound
    assert bool(found.inside_out[0]) == (sound and mesh.volume < 0)
    edges = np.unique(np.sort(mesh.edges, axis=1), axis=0, return_counts=True)[1]
    assert found.free[0] == (edges == 1).sum() and found.crowded[0] == (edges > 2).sum()
    made = manifold3d.Manifold(manifold3d.Mesh(mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32)))
    assert (made.status() == manifold3d.Error.NoError) == sound
    assert bool(found.words(0)) == (not sound or mesh.volume < 0)


@settings(max_examples=200, deadline=None)
@given(st.integers(0, 10**6))
@example(15_729)  # a corner pokes out by 7 mm, which is less than a millionth of its volume
def test_what_crosses_and_what_lies_inside_is_what_manifold3d_says(seed: int) -> None:
    """Two bodies, as one part and as two: volumes in common, and whether that is all of one, tell what is so."""
    chance = np.random.default_rng(seed)
    bodies = []
    for _ in range(2):
        body = trimesh.creation.box(chance.uniform(0.3, 3, 3)) if chance.random() < 0.6 else trimesh.creation.icosphere(1, 0.8)
        body.apply_transform(trimesh.transformations.random_rotation_matrix(chance.random(3)))
        body.apply_translation(chance.uniform(-0.7, 0.7, 3))
        bodies.append(body)
    first, second = (manifold3d.Manifold(manifold3d.Mesh(np.float32(b.vertices), np.uint32(b.faces))) for b in bodies)
    common = (first ^ second).volume()
    least = min(first.volume(), second.volume())
    # Volumes do not tell a corner that pokes out; both are convex, so one lies in the other where it is behind all its faces.
    small, large = sorted(bodies, key=lambda body: body.volume)
    out = float(((small.vertices[:, None] - large.triangles[:, 0]) * large.face_normals).sum(axis=2).max())
    assume((common == 0 or common > 1e-4) and abs(out) > 1e-5)
    inside = out < 0
    assert not inside or common > least * 0.99999
    one = soundness_of(made_of(("part", "Part", "", trimesh.util.concatenate(bodies))))
    two = soundness_of(made_of(*((name, "Part", "", body) for name, body in zip("ab", bodies, strict=True))))
    assert bool(one.crossing[0]) == (common > 0 and not inside) and not two.crossing.any() and not len(one.within)
    inner = int(second.volume() < first.volume())
    assert two.within.tolist() == ([[inner, 1 - inner]] if inside else [])
    assert bool(one.words(0)) == bool(one.crossing[0])


def test_gaps_are_measured_and_doubles_found() -> None:
    """A box without its lid is open round its four upper edges; a copy of another part is told as its double, though divided
    otherwise, and one beside it is not."""
    lidless = box(0, 0, 0, 2, 3, 1)
    lidless.update_faces(lidless.face_normals[:, 2] < 0.5)
    twin = box(5, 0, 0, 6, 1, 1)
    again = twin.copy()
    again.faces = np.roll(again.faces[::-1], 1, axis=1)
    building = made_of(
        *(("tub", "Part", "", lidless), ("a", "Part", "", twin), ("b", "Part", "", again)),
        ("c", "Part", "", box(5, 2, 0, 6, 3, 1)),
    )
    found = soundness_of(building)
    assert found.free.tolist() == [4, 0, 0, 0] and found.gap[0] == pytest.approx(10.0) and "10.00 m" in found.words(0)
    assert [sorted(building.elements[i].id for i in pair) for pair in found.doubled] == [["a", "b"]]


def test_bodies_that_touch_are_sound_and_so_is_the_demo(boathouse: Building) -> None:
    """Two boxes of one part that have an edge in common are each closed: nothing is told of them."""
    touching = trimesh.util.concatenate([box(0, 0, 0, 1, 1, 1), box(1, 1, 0, 2, 2, 1)])
    assert soundness_of(made_of(("part", "Part", "", touching))).words(0) == ""
    found = soundness_of(boathouse)
    assert not found.open.any() and not found.inside_out.any() and not len(found.doubled)
    assert not boathouse.links.closed.all()  # doors with panes touch their frames
