"""Real meshes with flaws: the ant, the airplane and the nut among the examples in pyvista 0.49.1 on PyPI."""

from __future__ import annotations

import zipfile
from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh

from anatome.cuts.cut import SectionBox, SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.kinds.box import Box
from anatome.cuts.plane import Plane
from anatome.cuts.poche import poche
from anatome.cuts.scout import areas_along
from anatome.cuts.section import section
from anatome.cuts.solid import kept_part
from anatome.formats.opening import open_model
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from fetched import cache_folder, fetched_package

NAMES = ("ant", "airplane", "nut")


@pytest.fixture(scope="session")
def meshes() -> dict[str, Path]:
    """The three PLY files."""
    folder = cache_folder()
    files = {name: folder / f"{name}.ply" for name in NAMES}
    if not all(f.exists() for f in files.values()):
        archive = fetched_package("pyvista", "0.49.1", "pyvista-0.49.1-*.whl", "--only-binary", ":all:")
        with zipfile.ZipFile(archive) as opened:
            for name, target in files.items():
                target.write_bytes(opened.read(f"pyvista/examples/{name}.ply"))
    return files


@pytest.fixture(scope="session", params=NAMES)
def model(request: pytest.FixtureRequest, meshes: dict[str, Path]) -> tuple[Building, trimesh.Trimesh]:
    """As Anatome opens it, and as trimesh does, in the same place."""
    building = open_model(meshes[request.param], OpenOptions(up="z", unit="metre"))
    return building, trimesh.load(str(meshes[request.param]), force="mesh", process=True)


def planes(building: Building, count: int = 20) -> list[Plane]:
    rng = np.random.default_rng(8)
    low, high = building.bounds
    middle, size = (low + high) / 2, high - low
    return [Plane(tuple(middle + rng.uniform(-0.35, 0.35, 3) * size), tuple(rng.normal(size=3))) for _ in range(count)]


def test_flawed_meshes_are_cut_in_every_direction(model) -> None:
    """Valid polygons, filled once; from both sides the same; areas as trimesh finds them where its outlines are closed."""
    building, mesh = model
    agreed, compared = 0, 0
    for plane in planes(building):
        found = section(building, plane)
        assert shapely.is_valid(found.polygons).all()
        filled = poche(building, found)
        assert filled.areas.sum() == pytest.approx(shapely.union_all(found.polygons).area, rel=1e-6, abs=1e-12)
        back = section(building, plane.turned_round())
        assert back.areas.sum() == pytest.approx(found.areas.sum(), rel=1e-6, abs=1e-9)
        path = mesh.section(plane_origin=plane.origin, plane_normal=plane.normal)
        if path is not None and path.is_closed:
            shapes = path.to_2D()[0].polygons_full
            compared += 1
            # trimesh counts bodies that overlap several times; united it is what is filled.
            agreed += shapely.union_all(shapes).area == pytest.approx(found.areas.sum(), rel=1e-3, abs=1e-9)
        direct = areas_along(building, plane, np.array([plane.offset]), np.ones(len(building.elements), bool))
        assert direct[0] == pytest.approx(found.areas.sum(), rel=1e-6, abs=1e-9)
    assert agreed >= 0.7 * compared


def test_flawed_meshes_in_boxes_and_as_cut_models(model) -> None:
    building, _ = model
    low, high = building.bounds
    everything = np.ones(len(building.elements), bool)
    box = Box(tuple((low + high) / 2), tuple((high - low) * [0.5, 0.6, 0.7]), 17.0)
    for carve in (False, True):
        found = Cutter(building).dissect([SectionBox(id="b", name="B", mark="B", box=box, carve=carve)], everything)
        for face in found.faces:
            assert shapely.is_valid(face.poche.polygons).all()
            assert bool(len(face.poche.caps.triangles)) is bool(len(face.poche.polygons))
            assert len(face.poche.polygons) or face.section.open_outlines
        for kept in kept_part(found):
            assert np.isfinite(kept.vertices).all() and kept.triangles.max() < len(kept.vertices)
            assert not any(cell.holds(kept.vertices, 1e-6 * building.size).any() for cell in found.cells)
    half = SectionPlane(id="p", name="P", mark="P", plane=planes(building)[0])
    assert len(kept_part(Cutter(building).dissect([half], everything))) >= 1
