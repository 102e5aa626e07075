"""How large a model is whose file does not say, and where it lies: units guessed from sizes, origins far away brought near."""

from __future__ import annotations

import json
import struct
from pathlib import Path

import numpy as np
import pytest
import trimesh

from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.cuts.section import section
from anatome.cuts.solid import kept_part
from anatome.formats.mesh import read_mesh
from anatome.formats.meshes_out import mesh_bytes
from anatome.formats.opening import open_model
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.model.unit_guess import guess_unit
from anatome.model.units import UNITS
from fetched import open_house

FAR = np.array([412_345.5, 5_310_210.25, 0.0])
"""Metres from the origin of a country's grid: east and north as large as in a UTM zone."""


@pytest.fixture(scope="module")
def duplex() -> Building:
    return open_model(open_house())


@pytest.mark.parametrize("unit", UNITS)
def test_the_unit_is_told_from_the_height_of_doors(boathouse: Building, duplex: Building, unit: str) -> None:
    """In whatever unit the same houses are drawn; doors of them are 2.2 m and 2.0 m high."""
    for building, height in ((boathouse, 2.2), (duplex, 2.0)):
        names = [e.name for e in building.elements]
        found = guess_unit(building.element_bounds / UNITS[unit], names)
        assert found.unit == unit
        said = float(found.why.removeprefix("a door is ").removesuffix(" high").replace(",", ""))
        assert said * UNITS[unit] == pytest.approx(height, rel=2e-3)
        if unit in ("metre", "centimetre", "millimetre"):  # feet and inches cannot be told without a door
            assert guess_unit(building.element_bounds / UNITS[unit], []).unit == unit


def boxes(folder: Path, factor: float, shift: np.ndarray, suffix: str = ".obj") -> Path:
    """A room with a door, its lengths so many times as large, then moved."""
    scene = trimesh.Scene()
    for name, size, middle in (
        ("Floor", (5, 4, 0.2), (0, 0, -0.1)),
        ("Wall", (5, 0.2, 2.7), (0, 2, 1.35)),
        ("Door", (0.9, 0.05, 2.1), (1, 1.9, 1.05)),
    ):
        body = trimesh.creation.box(size, trimesh.transformations.translation_matrix(middle))
        body.vertices = body.vertices * factor + shift
        scene.add_geometry(body, node_name=name, geom_name=name)
    path = folder / f"room{suffix}"
    path.write_text(trimesh.exchange.obj.export_obj(scene, digits=12)) if suffix == ".obj" else scene.export(str(path))
    return path


def read(path: Path, **options: object) -> Building:
    return read_mesh(path, OpenOptions.model_validate({"up": "z", **options}), lambda *_: None)


def test_a_model_far_from_its_origin_is_brought_near_and_says_from_where(tmp_path: Path) -> None:
    """Sections have the areas they have at the origin, to a nanometre; before, and where it is not asked for, it stays."""
    near, far = read(boxes(tmp_path, 1.0, np.zeros(3))), read(boxes(tmp_path, 1.0, FAR), near=True)
    assert near.origin == (0.0, 0.0, 0.0) and np.abs(far.bounds).max() < 100
    assert np.array(far.origin) % 100 == pytest.approx(0) and far.bounds[0, 2] == near.bounds[0, 2]
    assert far.bounds + far.origin == pytest.approx(near.bounds + FAR, abs=1e-6)
    shift = FAR - far.origin
    for at, normal in (((0, 1.95, 0), (0, 1, 0)), ((1, 0, 0), (1, 0.2, 0.1))):
        areas = [section(b, Plane(tuple(np.array(at) + by), normal)).areas for b, by in ((near, 0), (far, shift))]
        assert areas[0].sum() > 0.1 and areas[1] == pytest.approx(areas[0], abs=1e-6)
    assert read(boxes(tmp_path, 1.0, FAR)).bounds[0, 0] > 400_000
    again = open_model(boxes(tmp_path, 1.0, FAR), OpenOptions(up="z", near=True))
    assert again.origin == far.origin  # kept with it
    glb = mesh_bytes(far, kept_part(Cutter(far).dissect([], np.ones(len(far.elements), bool))), ".glb")
    length = struct.unpack("<I", glb[12:16])[0]
    assert json.loads(glb[20 : 20 + length])["scenes"][0]["extras"]["origin"] == pytest.approx(far.origin)


def test_a_unit_that_is_said_is_kept_and_doubted_where_nothing_built_is_as_large(tmp_path: Path) -> None:
    assert read(boxes(tmp_path, 1000.0, np.zeros(3))).unit.name == "millimetre"
    said = read_mesh(boxes(tmp_path, 1000.0, np.zeros(3), ".glb"), OpenOptions(up="z"), lambda *_: None)
    assert (said.unit.name, said.unit.metres) == ("metre", 1.0) and said.unit.why == "the file says so, but it is 6,466 m across"
    assert read_mesh(boxes(tmp_path, 1.0, np.zeros(3), ".glb"), OpenOptions(up="z"), lambda *_: None).unit.why == ""
    assert read(boxes(tmp_path, 1000.0, np.zeros(3)), unit="inch").unit.why == ""
