"""The demo building is a building: closed solids, a roof in its layers, rooms one can stand in."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import pick_placed
from anatome.cuts.plane import Plane
from anatome.cuts.section import section
from anatome.demo.shipped import PROJECT
from anatome.formats.project_files import OpenedProject
from anatome.model.building import Building
from anatome.model.raycast import first_hit
from anatome.scenes.opened import opened as opened_state
from anatome.scenes.storage import load_project
from helpers import seen


def met(building: Building, origin, direction, most: int = 30) -> list[tuple[str, float]]:
    """(layer, distance) of every surface along a ray."""
    origin, direction = np.array(origin, float), np.array(direction, float)
    found, gone = [], 0.0
    while len(found) < most:
        hit = first_hit(building, origin, direction)
        if hit is None:
            break
        gone += hit.distance
        found.append((building.elements[hit.element].layer, gone))
        origin = np.array(hit.point) + direction * 1e-5
        gone += 1e-5
    return found


def test_every_part_is_a_closed_solid(boathouse: Building) -> None:
    leaking = []
    for i, element in enumerate(boathouse.elements):
        own = boathouse.triangles[boathouse.triangle_start[i] : boathouse.triangle_start[i + 1]]
        edges = np.sort(own[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
        _, counts = np.unique(edges, axis=0, return_counts=True)
        if (counts % 2).any():
            leaking.append(element.name)
        corners = boathouse.vertices[own]
        volume = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
        assert volume > -1e-9, f"{element.name} is inside out"
    assert leaking == []


@pytest.mark.parametrize("seed", range(8))
def test_no_plane_leaves_an_open_outline(boathouse: Building, seed: int) -> None:
    rng = np.random.default_rng(seed)
    plane = Plane(tuple(rng.uniform([0, 0, 0], [30, 20, 8])), tuple(rng.normal(size=3)))
    assert section(boathouse, plane).open_outlines == ()


def test_the_roof_is_built_up_in_layers_from_tile_to_lining(boathouse: Building) -> None:
    layers = [layer for layer, _ in met(boathouse, (8.3, 3.0, 20.0), (0, 0, -1), 14)]
    order = list(dict.fromkeys(layer for layer in layers if "ROOF" in layer))
    wanted = ["A-ROOF-TILE", "A-ROOF-BATTEN", "A-ROOF-INSULATION", "S-ROOF", "A-ROOF-LINING"]
    assert [w for w in wanted if w in order] == [o for o in order if o in wanted]
    assert {"A-ROOF-TILE", "A-ROOF-INSULATION", "A-ROOF-LINING"} <= set(order)
    cut: set[str] = set()
    for plane in (Plane((8.3, 3, 5), (1, 0, 0)), Plane((8.3, 3, 5), (0, -1, 0))):  # between rafters, and across them
        cut |= {boathouse.elements[e].layer for e in section(boathouse, plane).element}
    assert set(wanted) <= cut


def test_walls_have_their_layers_and_openings_go_through(boathouse: Building) -> None:
    solid = dict.fromkeys(layer for layer, _ in met(boathouse, (0.9, -30, 4.2), (0, 1, 0), 6) if layer.startswith("A-WALL"))
    assert next(iter(solid)) == "A-WALL-CLADDING" and set(solid) == {"A-WALL-CLADDING", "A-WALL-INSULATION", "A-WALL"}
    through = [layer for layer, _ in met(boathouse, (3.7, -30, 5.1), (0, 1, 0), 4)]
    assert "A-GLAZ" in through and not any(layer.startswith("A-WALL") for layer in through[:2])


def test_one_can_stand_in_the_rooms(boathouse: Building) -> None:
    """From the middle of each room there is a floor below and a ceiling or roof above, and room between."""
    for space in boathouse.spaces:
        low, high = np.array(space.lower), np.array(space.upper)
        middle = (low + high) / 2 + [0.31, 0.17, 0]
        down, up = (first_hit(boathouse, middle, np.array([0, 0, z])) for z in (-1.0, 1.0))
        assert down is not None and up is not None, space.name
        assert down.distance + up.distance > 1.9, space.name


def test_the_wing_is_turned_and_the_bank_slopes_to_the_water(boathouse: Building) -> None:
    index = next(i for i, e in enumerate(boathouse.elements) if e.name.startswith("Wing, end wall, timber"))
    own = boathouse.triangles[boathouse.triangle_start[index] : boathouse.triangle_start[index + 1]]
    mesh = trimesh.Trimesh(boathouse.vertices, own, process=False)
    normals = mesh.face_normals[np.argsort(mesh.area_faces)[-2:]]
    angle = np.degrees(np.arctan2(normals[0][1], normals[0][0])) % 90
    assert min(angle, 90 - angle) == pytest.approx(24, abs=0.5)
    heights = [next(d for layer, d in met(boathouse, (5.0, y, 30), (0, 0, -1)) if layer == "L-TERRAIN") for y in (30.0, 14.0)]
    assert heights[0] < heights[1]  # higher ground is met sooner
    assert any(layer == "L-WATER" for layer, _ in met(boathouse, (20, -15, 30), (0, 0, -1)))


def test_the_shipped_project_opens_at_once_and_its_scenes_are_whole(demo: OpenedProject) -> None:
    opened = demo
    stored = load_project(PROJECT)
    assert [s.name for s in stored.project.scenes][1:3] == ["Long section", "Axonometric cutaway"]
    assert set(stored.thumbnails) == {s.id for s in stored.project.scenes}
    assert not stored.project.differs_from_scene
    long, axonometric = stored.project.scenes[1:3]
    assert long.state.cuts == axonometric.state.cuts  # a perspective section and an axonometric of one cut
    assert (long.state.camera.projection, axonometric.state.camera.projection) == ("perspective", "parallel")
    cutter = Cutter(opened.building)
    for scene in stored.project.scenes:
        assert not any(c.graphic for c in scene.state.cuts)
        shown = opened_state(cutter, scene.state)
        viewport = seen(scene.state.camera, scene.aspect)
        met = [pick_placed(shown.parts, *viewport.ray(x * scene.aspect, y)) for x in (350, 500, 650) for y in (350, 500, 650)]
        assert sum(m is not None for m in met) > 4, scene.name  # something stands in the middle of the picture
        cut = sum(len(f.section.polygons) for part in shown.parts for f in part.cut_open.faces)
        assert cut > 20 or not scene.state.cuts, scene.name
    assert [s.name for s in stored.project.scenes if s.state.is_apart] == ["Exploded axonometric", "Split axonometric"]
