"""Ground that follows heights: read from files alike, with the volume and the sections of the surface it is of."""

from __future__ import annotations

import struct
from pathlib import Path

import laspy
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, TiffImagePlugin
from trimesh import Trimesh

from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.cuts.poche_rules import PocheRules
from anatome.formats.heights import Heights, read_heights, relief_round
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.scenes.carrying import carried
from anatome.site.bodies import with_site
from anatome.site.relief import Relief
from anatome.site.site import GROUND_ID, Ground, Neighbour, Neighbours, Site
from helpers import box, made_of

WEST, SOUTH, STEP = 500_000.25, 5_800_000.5, 0.5


def hill() -> np.ndarray:
    """(rows, columns) from south to north: a slope with a bump, no two corners alike."""
    y, x = np.mgrid[:41, :61] * STEP
    return np.round(57.0 + 0.08 * x - 0.05 * y + 2.0 * np.exp(-((x - 9) ** 2 + (y - 12) ** 2) / 20), 3)


def geotiff(path: Path, values: np.ndarray, point: bool) -> None:
    """As GDAL writes one: from north to south, tied at its upper left corner, or at the middle of its first pixel."""
    tags = TiffImagePlugin.ImageFileDirectory_v2()
    half = 0.0 if point else STEP / 2
    tags[33550] = (STEP, STEP, 0.0)
    tags[33922] = (0.0, 0.0, 0.0, WEST - half, SOUTH + (len(values) - 1) * STEP + half, 0.0)
    tags[34735] = (1, 1, 0, 1, 1025, 0, 1, 2 if point else 1)
    tags.tagtype.update({33550: 12, 33922: 12, 34735: 3})
    Image.fromarray(values[::-1].astype(np.float32)).save(path, tiffinfo=tags)


def written(folder: Path, values: np.ndarray) -> list[Path]:
    rows, columns = values.shape
    y, x = np.mgrid[:rows, :columns] * STEP + np.array([SOUTH, WEST])[:, None, None]
    points = np.column_stack([x.ravel(), y.ravel(), values.ravel()])
    np.random.default_rng(1).shuffle(points)
    paths = [folder / name for name in ("a.xyz", "b.csv", "c.asc", "d.tif", "e.tiff")]
    np.savetxt(paths[0], points, "%.3f")
    np.savetxt(paths[1], points, "%.3f", delimiter=";", header="x;y;z", comments="")
    head = f"ncols {columns}\nnrows {rows}\nxllcorner {WEST - STEP / 2}\nyllcorner {SOUTH - STEP / 2}\ncellsize {STEP}\n"
    body = "\n".join(" ".join(f"{v:.3f}" for v in row) for row in values[::-1])
    paths[2].write_text(f"{head}NODATA_value -9999\n{body}\n")
    geotiff(paths[3], values, point=False)
    geotiff(paths[4], values, point=True)
    return paths


def test_the_same_heights_come_from_every_kind_of_file(tmp_path: Path) -> None:
    for path in written(tmp_path, hill()):
        found = read_heights(path)
        assert (found.west, found.south, found.step) == pytest.approx((WEST, SOUTH, STEP)), path.name
        assert found.values == pytest.approx(hill(), abs=2e-5), path.name  # single precision in a GeoTIFF
    # Points wherever they lie: between them in proportion, so a slope is what it was.
    chance = np.random.default_rng(2)
    places = np.vstack([chance.uniform(0, 20, (400, 2)), [[0, 0], [20, 0], [0, 20], [20, 20]]])
    np.savetxt(tmp_path / "f.xyz", np.column_stack([places, 3 + 0.1 * places[:, 0] - 0.2 * places[:, 1]]))
    found = read_heights(tmp_path / "f.xyz")
    y, x = np.mgrid[: found.values.shape[0], : found.values.shape[1]] * found.step
    known = np.isfinite(found.values)
    assert known.mean() > 0.9 and found.values[known] == pytest.approx((3 + 0.1 * x - 0.2 * y)[known], abs=1e-6)


@pytest.mark.parametrize("suffix", ["las", "laz"])
def test_a_laser_scan_gives_the_ground_without_what_grows_on_it(tmp_path: Path, suffix: str) -> None:
    chance = np.random.default_rng(3)
    places = chance.uniform(0, 100, (120_000, 2))
    tree = (np.hypot(*(places - 50).T) < 12) & (chance.random(len(places)) < 0.5)
    header = laspy.LasHeader(point_format=6, version="1.4")
    header.offsets, header.scales = np.array([WEST, SOUTH, 0]), np.full(3, 0.001)
    scan = laspy.LasData(header)
    scan.x, scan.y = (places + (WEST, SOUTH)).T
    scan.z = 40 + 0.05 * places[:, 0] + np.where(tree, 9.0, 0.0)
    scan.classification = np.where(tree, 5, 2).astype(np.uint8)
    scan.write(tmp_path / f"scan.{suffix}")
    found = read_heights(tmp_path / f"scan.{suffix}")
    x = found.west - WEST + found.step * np.arange(found.values.shape[1])
    off = np.abs(found.values - (40 + 0.05 * x))
    # A mean of points in a cell is that of its middle but for where in it they happen to lie.
    assert found.step == pytest.approx(100 * np.sqrt(4 / (~tree).sum()), rel=1e-2)
    assert np.nanmax(off[:, :-1]) < 0.05 * found.step and np.isfinite(found.values).mean() > 0.9


@pytest.mark.parametrize(
    ("name", "content", "why"),
    [
        ("a.xyz", "1 2\n3 4", "three numbers"),
        ("a.xyz", "1 1 1\n2 1 1\n3 1 1\n4 1 1", "heights of an area"),
        ("a.xyz", "", "three numbers"),
        ("a.asc", "ncols 2\nnrows 2\n1 2 3 4", "cellsize"),
        ("a.asc", "ncols 2\nnrows 2\ncellsize 1\n1 2 3", "3 heights"),
        ("a.tif", struct.pack("<2sHI", b"II", 42, 8), "could not be read"),
        ("a.las", "x", "could not be read"),
        ("a.obj", "x", "no kind of heights"),
    ],
)
def test_what_is_no_heights_is_refused_in_words(tmp_path: Path, name: str, content: str | bytes, why: str) -> None:
    path = tmp_path / name
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    with pytest.raises(Problem, match=why):
        read_heights(path)


def test_what_lies_round_the_building_is_kept_and_gaps_are_filled() -> None:
    values = hill()
    values[5:8, 5:8] = np.nan
    heights = Heights(WEST, SOUTH, STEP, values)
    relief = relief_round(heights, np.array([WEST + 10, SOUTH + 8]), 4.0, "hill.xyz")
    assert (relief.west, relief.south) == (WEST + 6, SOUTH + 4) and relief.grid.shape == (17, 17)
    assert relief.grid == pytest.approx(hill()[8:25, 12:29])
    whole = relief_round(heights, np.array([WEST, SOUTH]), 1e4)
    assert np.isfinite(whole.grid).all() and whole.grid.shape == (41, 61)
    large = relief_round(Heights(0, 0, 0.1, np.add.outer(np.arange(900) * 0.1, np.zeros(1100))), np.array([55, 45]), 1e3)
    assert len(large.heights) <= 40_000
    assert large.heights_at(np.array([[50.0, 33.3]])) == pytest.approx([33.3], abs=1e-3)
    with pytest.raises(Problem, match="round the building"):
        relief_round(heights, np.array([0.0, 0.0]), 10.0)


@settings(max_examples=30, deadline=None)
@given(st.floats(-0.3, 0.3), st.floats(-0.3, 0.3), st.floats(-2, 2), st.floats(0.5, 6.0))
def test_the_earth_under_a_slope_has_its_volume_and_its_section(a: float, b: float, c: float, depth: float) -> None:
    """A prism with an oblique top: area times the height in its middle; a section of it is a trapezium (Cavalieri)."""
    y, x = np.mgrid[:31, :31] * 2.0 - 30.0
    heights = c + a * x + b * y
    relief = Relief(west=-30, south=-30, step=2.0, columns=31, heights=tuple(heights.ravel().tolist()))
    house = made_of(("Wall", "IfcWall", "Brick", box(-2, -3, 40, 4, 5, 43)))  # in the air, so nothing is dug
    building = with_site(house, Site(ground=Ground(level=c, depth=depth, beyond=6.0, relief=relief)))
    number = building.index_of[GROUND_ID]
    (low_x, low_y, bottom), (high_x, high_y, _) = building.element_bounds[number]
    assert (low_x, low_y, high_x, high_y) == pytest.approx((-8, -9, 10, 11)) and building.links.closed[number]
    assert bottom == pytest.approx(heights.min() - depth, abs=1e-9)
    start, end = building.triangle_start[number : number + 2]
    volume = Trimesh(building.vertices, building.triangles[start:end]).volume
    assert volume == pytest.approx(18 * 20 * (c + a * 1 + b * 1 - bottom), rel=1e-9)
    only = np.arange(len(building.elements)) == number
    cut = Cutter(building).free_section(Plane((2.5, 0, 0), (1, 0, 0)), only, PocheRules())
    assert shapely.area(cut.polygons).sum() == pytest.approx(20 * (c + a * 2.5 + b * 1 - bottom), rel=1e-9)


def test_rooms_in_a_slope_are_dug_free_and_neighbours_stand_on_it(boathouse: Building) -> None:
    x = np.mgrid[:40, :60][1] * 2.0
    relief = Relief(west=-40, south=-40, step=2.0, columns=60, heights=tuple((0.1 * (x - 40) + 1.0).ravel().tolist()))
    block = Neighbour(id="n", rings=(((40, 0), (46, 0), (46, 6), (40, 6)),), height=5.0)
    cellar = made_of(
        ("Floor", "IfcSlab", "Concrete", box(0, 0, -2.2, 10, 8, -2.0)), ("Roof", "IfcSlab", "Concrete", box(0, 0, 4, 10, 8, 4.2))
    )
    site = Site(ground=Ground(relief=relief, beyond=10.0), neighbours=Neighbours(blocks=(block,)))
    building = with_site(cellar, site)
    assert building.bounds_of(np.array([e.id == "site n" for e in building.elements]))[0, 2] == pytest.approx(5.0)
    only = np.array([e.id == GROUND_ID for e in building.elements])
    cut = Cutter(building).free_section(Plane((5, 4, 0), (0, -1, 0)), only, PocheRules())
    earth = shapely.union_all(cut.polygons)
    # Over the cellar's floor there is none, beside it up to the slope.
    for x_at, z, inside in (
        (5.0, -1.0, False),
        (5.0, 1.2, False),
        (5.0, -2.5, True),
        (-3.0, 0.5, True),
        (-3.0, 0.9, False),
        (14.0, 2.2, True),
    ):
        flat = cut.plane.flat(np.array([x_at, 4.0, z]))
        assert earth.contains(shapely.Point(*flat)) == inside, (x_at, z)
    # All of a project as one thing larger and elsewhere takes it along.
    larger = carried(site, np.array([5.0, 7.0, 1.0]), 2.0).ground.relief
    place = np.array([[3.0, 2.0]])
    assert larger.heights_at(place * 2 + [5, 7]) == pytest.approx(relief.heights_at(place) * 2 + 1)
