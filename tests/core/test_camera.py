"""Projections against the standard's figures, and the camera's moves against what they promise."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from anatome.cuts.plane import Plane
from anatome.scenes.project import Scene, StageState
from anatome.view.camera import CORNERS, FACES, Camera, square_on, standard_view
from anatome.view.viewport import Frame, Viewport
from helpers import seen

coordinate = st.floats(-40, 40)
points = st.tuples(coordinate, coordinate, coordinate)
BOUNDS = np.array([[-3.0, 2.0, -1.0], [21.0, 14.0, 9.0]])


def cameras() -> st.SearchStrategy[Camera]:
    places = st.tuples(points, points).filter(lambda p: math.dist(*p) > 0.5 and math.dist(p[0][:2], p[1][:2]) > 0.1)
    kinds = st.sampled_from(["perspective", "parallel"])
    return st.builds(lambda p, k, f: Camera(eye=p[0], target=p[1], projection=k, field=f), places, kinds, st.floats(10, 90))


@pytest.mark.parametrize("name", CORNERS)
def test_axonometric_corners_are_isometric(name: str) -> None:
    """ISO 5456-3: axes at 30° to the horizontal, all three foreshortened by √(2/3) ≈ 0.8165 (values from memory)."""
    camera = standard_view(name, BOUNDS, 1.6)
    origin, ends = np.zeros(3), np.eye(3)
    flat, _ = seen(camera, 1.0).flat(np.vstack([origin, ends]))
    arms = (flat[1:] - flat[0]) * camera.height / 2
    assert np.hypot(*arms.T) == pytest.approx([math.sqrt(2 / 3)] * 3, rel=1e-9)
    angles = np.degrees(np.arctan2(arms[:, 1], arms[:, 0]))
    assert sorted(abs(a) for a in angles) == pytest.approx(sorted([90.0, *(abs(a) for a in angles[:2])]))
    assert all(min(abs(abs(a) - 30), abs(abs(a) - 150)) < 1e-6 for a in angles[:2])


@pytest.mark.parametrize("name", FACES)
def test_faces_are_true_to_scale_and_fit(name: str) -> None:
    camera = standard_view(name, BOUNDS, 1.6)
    direction = np.array(FACES[name][0])
    corners = np.array([[BOUNDS[i][0], BOUNDS[j][1], BOUNDS[k][2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
    flat, depth = seen(camera, 1.6).flat(corners)
    assert np.abs(flat).max() == pytest.approx(1 / 1.08, rel=1e-6)
    assert (depth > 0).all()
    right, up, _ = camera.axes
    sizes = (flat.max(axis=0) - flat.min(axis=0)) * camera.height / 2 * [1.6, 1.0]
    extent = BOUNDS[1] - BOUNDS[0]
    assert sizes == pytest.approx([extent @ abs(right), extent @ abs(up)])
    assert abs(camera.axes[2] @ direction) == pytest.approx(1.0)


@given(cameras(), points, st.floats(0.5, 2.5))
def test_project_ray_and_matrices_say_the_same(camera: Camera, point, aspect) -> None:
    point = np.array(point)
    flat, depth = seen(camera, aspect).flat(point)
    assume(np.isfinite(flat).all() and depth > 0.1 and np.abs(flat).max() < 50)
    viewport = seen(camera, aspect)
    origin, direction = viewport.ray(*viewport.pixels(point))
    off = np.cross(point - origin, direction)
    assert np.linalg.norm(off) < 1e-6 * (1 + np.linalg.norm(point - origin))
    clip = viewport.clip_matrix(0.05, 500) @ np.append(point, 1)
    assert clip[:2] / clip[3] == pytest.approx(flat, rel=1e-6, abs=1e-9)


@given(cameras(), st.tuples(st.floats(-2, 2), st.floats(-2, 2)), st.tuples(st.floats(-1, 1), st.floats(-1, 1)), st.data())
def test_any_matrix_of_a_viewport_gives_one_answer(camera: Camera, shear, shift, data) -> None:
    """Places, lines of sight, facing, metres a pixel and the graphics side's matrix agree, however sheared, shifted, cropped."""
    left, bottom = data.draw(st.tuples(st.floats(-0.5, 0.5), st.floats(-0.5, 0.5)))
    crop = (left, bottom, left + data.draw(st.floats(0.2, 1.5)), bottom + data.draw(st.floats(0.2, 1.5)))
    frame = Frame(width=data.draw(st.floats(200, 2000)), height=data.draw(st.floats(200, 2000)), crop=crop)
    viewport = Viewport(camera.model_copy(update={"shear": shear, "shift": shift}), frame)
    at = np.array([data.draw(st.floats(0, 1)) * frame.width, data.draw(st.floats(0, 1)) * frame.height])
    origin, direction = viewport.ray(*at)
    for far in (3.0, 40.0):
        point = origin + direction * far
        assume(viewport.before(point))
        assert viewport.pixels(point) == pytest.approx(at, abs=1e-4 * max(frame.width, frame.height))
        assert viewport.towards(point) == pytest.approx(-direction, abs=1e-6)
        clip = viewport.clip_matrix(0.1, 500.0) @ np.append(point, 1.0)
        flat, depth = viewport.flat(point)
        assert clip[:2] / clip[3] == pytest.approx(flat, abs=1e-6)
        a, b = viewport.clip_depth(0.1, 500.0)
        assert clip[2] == pytest.approx(a * depth + b, rel=1e-6, abs=1e-9)
        # A pixel's worth upwards in the plane of the picture is a pixel on it.
        upward = camera.axes[1] * viewport.metres_per_pixel(point)
        assert viewport.pixels(point + upward)[1] == pytest.approx(at[1] - 1.0, abs=1e-3)
        plane = Plane(tuple(point), tuple(-direction))
        assert viewport.faces(plane) and not viewport.faces(plane.turned_round())
    corners = viewport.corners_at(np.array(camera.target))
    assert viewport.pixels(corners) == pytest.approx(
        np.array([[0, 1], [1, 1], [1, 0], [0, 0]]) * [frame.width, frame.height], abs=1e-3 * frame.width
    )


def test_oblique_projections_of_the_standard() -> None:
    """ISO 5456-3 (values from memory): cavalier, the receding axis at 45° in full length; cabinet at half of it."""
    for length, name in ((1.0, "cavalier"), (0.5, "cabinet")):
        shear = (-length * math.cos(math.radians(45)), -length * math.sin(math.radians(45)))
        camera = Camera(eye=(0, -10, 0), target=(0, 0, 0), projection="parallel", shear=shear)
        viewport = Viewport.of(camera, 1000, 1000)
        scale = camera.height / 1000
        middle, right, up, back = (viewport.pixels(np.array(p, float)) for p in ((0, 0, 0), (1, 0, 0), (0, 0, 1), (0, 1, 0)))
        assert (right - middle) * scale == pytest.approx([1, 0]) and (middle - up) * scale == pytest.approx([0, 1]), name
        arm = (back - middle) * [1, -1] * scale
        assert arm == pytest.approx([length * math.sqrt(0.5)] * 2), name


@given(cameras(), points, st.floats(0.3, 4), st.floats(-170, 170), st.floats(-60, 60))
def test_moves(camera: Camera, pivot, factor, across, upward) -> None:
    pivot = np.array(pivot)
    flat, depth = seen(camera, 1.5).flat(pivot)
    assume(np.isfinite(flat).all() and depth > 0.1)
    zoomed = camera.zoomed(factor, pivot)
    assert seen(zoomed, 1.5).flat(pivot)[0] == pytest.approx(flat, rel=1e-6, abs=1e-6)
    orbited = camera.orbited(across, upward, pivot)
    assert math.dist(orbited.eye, pivot) == pytest.approx(math.dist(camera.eye, pivot), rel=1e-9)
    assert orbited.distance == pytest.approx(camera.distance, rel=1e-9)
    assert abs(orbited.axes[0][2]) < 1e-9  # the horizon stays level
    fitted = camera.fitted(BOUNDS, 1.5)
    corners = np.array([[BOUNDS[i][0], BOUNDS[j][1], BOUNDS[k][2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
    assert np.abs(seen(fitted, 1.5).flat(corners)[0]).max() <= 1.0


@given(st.floats(-180, 180), st.floats(-0.6, 0.6))
def test_square_on_faces_the_cut_and_stands_back(degrees: float, lean: float) -> None:
    plane = Plane((9, 8, 3), (math.cos(math.radians(degrees)), math.sin(math.radians(degrees)), lean))
    camera = square_on(plane, BOUNDS, 1.5, Camera(eye=(0, -30, 5), target=(9, 8, 3), field=60))
    assert camera.axes[2] == pytest.approx(plane.n, abs=1e-9)
    assert abs(float(plane.distance(np.array(camera.target)))) < 1e-9
    assert camera.field <= 35
    frame = plane.raised(np.array([[0.0, 0.0]]))
    corners = np.array([[BOUNDS[i][0], BOUNDS[j][1], BOUNDS[k][2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)])
    on_plane = corners - plane.n * plane.distance(corners)[:, None]
    assert np.abs(seen(camera, 1.5).flat(on_plane)[0]).max() <= 1.0
    assert np.isfinite(frame).all()


def test_a_scene_in_other_proportions_loses_nothing() -> None:
    state = StageState(camera=Camera(eye=(10, -40, 8), target=(9, 8, 3)))
    for projection in ("perspective", "parallel"):
        camera = state.camera.model_copy(update={"projection": projection})
        scene = Scene(id="s", name="S", state=state.model_copy(update={"camera": camera}), frame=Frame(width=1600, height=1000))
        edge = np.array(camera.target) + camera.axes[0] * camera.height / 2 * 1.6
        assert scene.camera_for(2.0) == camera
        narrow = scene.camera_for(0.8)
        assert seen(narrow, 0.8).flat(edge)[0][0] == pytest.approx(1.0)


@given(st.floats(0, 500), st.floats(0, 400))
def test_viewport_pixels_and_rays_agree(x: float, y: float) -> None:
    viewport = Viewport.of(Camera(eye=(10, -40, 8), target=(9, 8, 3)), 500, 400)
    origin, direction = viewport.ray(x, y)
    assert viewport.pixels(origin + direction * 25) == pytest.approx([x, y], abs=1e-6)
