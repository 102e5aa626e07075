"""The crop: the same picture on any stage, and true to scale in the plane of the cut."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from pydantic import ValidationError

from anatome.cuts.cut import SectionBox, SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.fitting import left_boxes
from anatome.cuts.kinds.box import Box
from anatome.cuts.plane import Plane
from anatome.cuts.solid import kept_part
from anatome.lengths import INCH_SCALES, scale_in, scale_words
from anatome.model.bounds import bounds_round
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes import edits
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.view.camera import Camera
from anatome.view.crop import MARGIN, PAPERS, Crop, aimed_at, at_scale, fitted, height_at, true_plane
from anatome.view.projections import named
from anatome.view.viewport import Frame, Viewport

CUT = Plane((14.0, 6.2, 3.0), (0.0, -1.0, 0.0))
shares = st.floats(-0.2, 0.2)
crops = st.builds(Crop, aspect=st.floats(0.4, 2.5), height=st.floats(0.2, 1.2), at=st.tuples(shares, shares))
cameras = st.builds(
    Camera,
    eye=st.tuples(st.floats(-20, 40), st.floats(-60, -10), st.floats(-5, 20)),
    target=st.tuples(st.floats(0, 28), st.floats(5, 12), st.floats(0, 8)),
    projection=st.sampled_from(["perspective", "parallel"]),
    field=st.floats(10, 70),
    shift=st.tuples(shares, shares),
)


@given(cameras, crops, st.floats(0.5, 2.5))
def test_what_lies_in_the_crop_is_the_picture(camera: Camera, crop: Crop, aspect: float) -> None:
    """Points on the stage and in the cropped picture, and again when the scene comes back on a stage of other proportions."""
    stage, picture = Viewport.of(camera, 1000 * aspect, 1000), Viewport(camera, crop.frame(700))
    points = np.random.default_rng(1).uniform([0, 5, 0], [28, 12, 8], (40, 3))
    assert picture.width / picture.height == pytest.approx(crop.aspect)

    def in_crop(viewport: Viewport, of: Crop) -> np.ndarray:
        """Shares of the crop, to the right and down, of where the points are on a stage."""
        middle = np.array([viewport.width / 2 + of.at[0] * viewport.height, (0.5 - of.at[1]) * viewport.height])
        return (viewport.pixels(points) - middle) / (np.array([of.width, of.height]) * viewport.height) + 0.5

    at = picture.pixels(points) / [picture.width, picture.height]
    assert in_crop(stage, crop) == pytest.approx(at, abs=1e-6, nan_ok=True)

    state = StageState(camera=camera, crop=crop)
    project = Project(name="x", model=ModelReference(path="x.ifc"), stage=state)
    project = edits.save_scene(project, "s", Frame(width=1000 * aspect, height=1000))
    assert project.scenes[0].frame.aspect == pytest.approx(crop.aspect)
    shown = edits.recall_scene(project, "s", 0.6).stage
    assume(shown.camera.field < 148)
    assert shown.crop is not None and shown.crop.reach(0.6) <= 1.0 + 1e-9  # all of it is on the stage
    assert in_crop(Viewport.of(shown.camera, 600, 1000), shown.crop) == pytest.approx(at, abs=1e-5, nan_ok=True)
    assert not edits.recall_scene(project, "s", 0.6).differs_from_scene


@pytest.mark.parametrize("kind", ["perspective", "parallel", "oblique", "shifted"])
@pytest.mark.parametrize("scale, paper", [(50.0, PAPERS["A3"]), (100.0, (200.0, 200.0))])
def test_a_scale_is_true_in_the_plane_of_the_cut(kind: str, scale: float, paper: tuple[float, float]) -> None:
    """ISO 5455: at 1:50 a metre is 20 mm; in perspective too, where the target did not lie in the cut before."""
    camera = Camera(eye=(12.0, -40.0, 4.0), target=(12.0, 30.0, 4.0), field=24.0, projection="perspective")
    if kind == "parallel":
        camera = camera.model_copy(update={"projection": "parallel"})
    elif kind == "oblique":
        camera = named("Cavalier", (-1, -1)).camera(np.array([12.0, 30.0, 4.0]), 60.0, 24.0)
    elif kind == "shifted":
        camera = camera.model_copy(update={"shift": (0.1, -0.2)})
    plane = true_plane(camera, (Plane((0, 0, 1), (0, 0, 1)), CUT))
    assert plane == CUT
    crop = Crop(height=0.7, at=(0.1, 0.05)).proportioned(paper[0] / paper[1])
    # Aiming at the cut changes nothing in the picture.
    points = np.random.default_rng(2).uniform([0, 5, 0], [28, 12, 8], (20, 3))
    before = Viewport.of(camera, 1500, 1000)
    assert Viewport.of(aimed_at(camera, CUT), 1500, 1000).pixels(points) == pytest.approx(before.pixels(points), abs=1e-6)

    scaled, held = at_scale(camera, crop, plane, scale, paper[1])
    assert held.paper(height_at(scaled, plane)) == pytest.approx(paper)
    picture = Viewport(scaled, held.frame(1000))
    a, b, c = picture.pixels(np.array([[10.0, 6.2, 3.0], [13.0, 6.2, 3.0], [10.0, 6.2, 5.0]])) * paper[1] / 1000
    assert b - a == pytest.approx([3000 / scale, 0], abs=1e-6) and a - c == pytest.approx([0, 2000 / scale], abs=1e-6)
    # Held while one goes nearer: the paper gets smaller, the scale stays.
    nearer = scaled.zoomed(2.0, np.array([12.0, 6.2, 4.0]))
    assert held.paper(height_at(nearer, CUT)) == pytest.approx((paper[0] / 2, paper[1] / 2))


def test_no_plane_is_true_where_none_is() -> None:
    askew = Camera(eye=(10, -30, 9), target=(12, 6, 3))
    assert true_plane(askew, (CUT,)) is None and height_at(askew, None) == askew.height
    behind = Camera(eye=(12.0, 20.0, 4.0), target=(12.0, 30.0, 4.0))
    assert true_plane(behind, (CUT,)) is None
    cut = SectionPlane(id="a", name="A", mark="A", plane=CUT)
    facing = Camera(eye=(12.0, -40.0, 4.0), target=(12.0, 6.2, 4.0))
    state = StageState(camera=facing, cuts=(cut.model_copy(update={"on": False}),))
    assert state.true_plane() is None and StageState(camera=facing, cuts=(cut,)).true_plane() == CUT
    with pytest.raises(ValidationError):
        Crop(height=0.0)


def test_views_frame_what_the_cuts_leave(boathouse: Building) -> None:
    """Bounds of what is left against the bounds of the kept part, which manifold3d trims."""
    cutter, everything = Cutter(boathouse), np.ones(len(boathouse.elements), bool)
    askew = SectionPlane(id="a", name="A", mark="A", plane=Plane((12.0, 6.0, 3.0), (1.0, 0.4, 0.2)))
    room = SectionBox(id="b", name="B", mark="B", box=Box((10.0, 5.0, 2.0), (6.0, 4.0, 3.0), 25.0))
    for cuts in ((), (askew,), (room,), (askew, room)):
        left = cutter.dissect(cuts, everything)
        found = bounds_round(left_boxes(left, everything).reshape(-1, 3))
        points = np.concatenate([kept.vertices for kept in kept_part(left)])
        low, high = points.min(axis=0), points.max(axis=0)
        assert (found[0] <= low + 1e-6).all() and (found[1] >= high - 1e-6).all()
        # Boxes of parts are as close as one can know without slicing the parts themselves.
        assert (low - found[0]).max() < 1.0 and (found[1] - high).max() < 1.0, cuts


@given(cameras, st.floats(0.5, 2.5), st.booleans())
def test_a_crop_is_fitted_round_what_it_holds(camera: Camera, aspect: float, free: bool) -> None:
    """All of it lies in the crop, a margin away from its nearer sides, in its own proportion if it has one."""
    stage = Viewport.of(camera, 1000 * aspect, 1000)
    places = np.random.default_rng(2).uniform([0, 5, 0], [28, 12, 8], (40, 3))
    seen = stage.pixels(places)
    assume(np.isfinite(seen).all() and np.ptp(seen, axis=0).min() > 30 and np.abs(seen).max() < 4000)
    crop = fitted(Crop(aspect=1.4, free=free), stage, places)
    assert crop is not None and (free or crop.aspect == pytest.approx(1.4))
    middle = np.array([stage.width / 2 + crop.at[0] * stage.height, (0.5 - crop.at[1]) * stage.height])
    size = np.array([crop.width, crop.height]) * stage.height
    low, high = seen.min(axis=0) - (middle - size / 2), middle + size / 2 - seen.max(axis=0)
    margins = np.concatenate([low, high]) / np.tile(np.ptp(seen, axis=0), 2)
    assert margins.min() == pytest.approx(MARGIN, abs=1e-6) and margins[:2] == pytest.approx(margins[2:], abs=1e-6)
    within = crop.within(aspect, 0.9)
    assert within.width <= 0.9 * aspect + 1e-9 and within.height <= 0.9 + 1e-9


@pytest.mark.parametrize("text, scale", [("1:50", 50), (" 1 : 12,5 ", 12.5), ("75", 75), ("2:1", 0.5), ("1:100000", 1e5)])
def test_scales_are_read_as_they_are_written(text: str, scale: float) -> None:
    assert scale_in(text) == pytest.approx(scale)


@pytest.mark.parametrize(
    "text, scale",
    [('1/8" = 1\'-0"', 96), ("1/4″=1′", 48), ("1/2\" = 1'", 24), ('3/4"=1\'-0"', 16), ('1 1/2" = 1\'-0"', 8), ("1\"=20'", 240)],
)
def test_scales_in_feet_and_inches(text: str, scale: float) -> None:
    """Architects' scales (handbook values; from memory): an eighth of an inch for a foot is 1:96."""
    assert scale_in(text) == pytest.approx(scale)
    assert scale_in(scale_words(scale)) == pytest.approx(scale)
    assert all(scale_in(words) == pytest.approx(known) for words, known in INCH_SCALES.items())


def test_scales_are_written_as_their_drawings_are() -> None:
    assert [scale_words(s) for s in (48.0, 96.0, 12.0, 50.0, 37.5)] == [
        '1/4" = 1\'-0"',
        '1/8" = 1\'-0"',
        '1" = 1\'-0"',
        "1:50",
        "1:37.5",
    ]
    assert scale_words(50.05) == "1:50" and scale_words(500.0) == "1:500" and scale_words(240.0) == "1\" = 20'"
    for bad in ("0\" = 1'", '1/0" = 1\'-0"', "1\" = 0'"):
        with pytest.raises(Problem, match="is not a scale"):
            scale_in(bad)


@pytest.mark.parametrize("text", ["", "1:", ":", "0", "1:0", "0:1", "-50", "1:-5", "inf", "nan", "1:1e9", "fifty", "1:50:2"])
def test_what_is_no_scale_is_told_in_words(text: str) -> None:
    with pytest.raises(Problem, match="is not a scale"):
        scale_in(text)
