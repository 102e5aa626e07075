"""Scale models to print, opened by trimesh as a printer's program would: closed, as large as they say, in pieces that fit."""

from __future__ import annotations

import io
import itertools
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import example, given, settings
from hypothesis import strategies as st

from anatome.cli import main
from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.demo.shipped import PROJECT
from anatome.formats.printable_models import files_of, threemf_bytes
from anatome.maquette.maquette import Maquette, maquette_of
from anatome.maquette.settings import MaquetteSettings
from anatome.maquette.solids import JOINS
from anatome.model.building import Building
from anatome.problems import Problem
from helpers import box, building_of, made_of

PLAIN = MaquetteSettings(base=0, peg=0)


def printed(building: Building, how: MaquetteSettings, *cuts: SectionPlane) -> Maquette:
    return maquette_of(Cutter(building).dissect(list(cuts), np.ones(len(building.elements), bool)), how)


def opened(content: bytes, kind: str = "3mf") -> list[trimesh.Trimesh]:
    """The bodies of a file; every one closed and turned outwards."""
    scene = trimesh.load_scene(io.BytesIO(content), file_type=kind, merge_primitives=True)
    found = scene.dump()
    for mesh in found:
        mesh.merge_vertices()
        assert mesh.is_watertight and mesh.is_winding_consistent and mesh.volume > 0
    return found


def written(made: Maquette) -> list[trimesh.Trimesh]:
    return opened(threemf_bytes(piece.mesh for piece in made.pieces))


def test_a_block_and_what_a_cut_leaves_of_it_are_as_large_as_their_scale_says() -> None:
    block = made_of(("block", "IfcWall", "", box(0, 0, 0, 10, 8, 6)))
    (whole,) = written(printed(block, PLAIN))
    assert whole.extents == pytest.approx([50, 40, 30], abs=1.5 * JOINS)
    upright = SectionPlane(id="p", name="P", mark="P", plane=Plane((0.0, 4.0, 0.0), (0.0, 1.0, 0.0)))
    (half,) = written(printed(block, PLAIN, upright))
    assert half.volume == pytest.approx(50 * 20 * 30, rel=0.01)
    (small,) = written(printed(block, replace(PLAIN, scale=500)))
    assert small.extents == pytest.approx([20, 16, 12], abs=1.5 * JOINS)


def test_what_is_too_thin_becomes_as_thick_as_can_be_printed_and_open_surfaces_plates() -> None:
    sheet, post = box(0, 0, 0, 10, 0.05, 6), box(4, 3, 0, 4.1, 3.1, 6)
    roof = np.array([[0, 0, 6.0], [10, 0, 6], [10, 8, 8], [0, 8, 8]]), np.array([[0, 1, 2], [0, 2, 3]])
    building = made_of(("sheet", "IfcWall", "", sheet), ("post", "IfcColumn", "", post))
    made = printed(building, replace(PLAIN, thinnest=1.2))
    assert sorted(made.thickened) == ["post", "sheet"] and not made.plated
    thin = sorted((body.extents for body in written(made)[0].split()), key=lambda size: float(size[0]))
    assert thin[0] == pytest.approx([1.2, 1.2, 30], abs=3 * JOINS) and thin[1][1] == pytest.approx(1.2, abs=3 * JOINS)

    leaning = printed(building_of(roof), replace(PLAIN, thinnest=1.0))
    assert len(leaning.plated) == 1
    (plate,) = written(leaning)
    slope = 50 * np.hypot(40, 10)  # mm² of the leaning face at 1:200
    assert plate.volume == pytest.approx(slope * 1.0, rel=0.01)


@settings(max_examples=10, deadline=None)
@given(st.floats(0.02, 0.12), st.floats(0.0, 90.0))
@example(thin=0.08246119012145446, turn=40.33123825117137)
@example(thin=0.05868720375998794, turn=46.309006837628175)  # rounding left a sliver beside it
def test_frames_and_bent_sheets_are_thick_enough_as_another_library_measures_them(thin: float, turn: float) -> None:
    """By trimesh's thickness along rays from points all over them."""
    frame = trimesh.boolean.difference([box(0, 0, 0, 8, thin, 6), box(thin, -1, thin, 8 - thin, 1, 6 - thin)])
    bent = trimesh.boolean.union([box(0, 20, 0, 8, 20 + thin, 6), box(0, 20, 0, thin, 26, 6)])
    for mesh in (frame, bent):
        mesh.apply_transform(trimesh.transformations.rotation_matrix(np.radians(turn), (0, 0, 1)))
    made = printed(made_of(("frame", "IfcWindow", "", frame), ("bent", "IfcWall", "", bent)), replace(PLAIN, thinnest=0.8))
    assert sorted(made.thickened) == ["bent", "frame"] and not made.thin
    for body in written(made)[0].split():
        points, faces = trimesh.sample.sample_surface(body, 400, seed=1)
        thick = trimesh.proximity.thickness(body, points, normals=body.face_normals[faces], method="ray")
        assert np.quantile(thick, 0.02) >= 0.8 - 1e-3


sizes = st.floats(12.0, 150.0)


@settings(max_examples=20, deadline=None)
@given(sizes, sizes, sizes, st.sampled_from([0.0, 3.0, 6.0]), st.floats(0.05, 0.4))
def test_pieces_fit_on_the_plate_and_together(x: float, y: float, z: float, peg: float, play: float) -> None:
    how = MaquetteSettings(scale=200, plate=(220, 180, 200), base=0, peg=peg, play=play)
    made = printed(made_of(("block", "IfcSlab", "", box(0, 0, 0, x, y, z))), how)
    bodies = written(made)
    assert len(bodies) == len(made.pieces) == len({piece.name for piece in made.pieces})
    assert all((body.extents <= np.array(how.plate) + 1e-3).all() for body in bodies)
    whole = made.volume * 1000
    assert sum(body.volume for body in bodies) == pytest.approx(whole, rel=1e-6 if peg == 0 else 0.01)
    for one, other in itertools.combinations((piece.solid for piece in made.pieces), 2):
        assert (one ^ other).volume() < 1e-3  # no two in the same place: a hole is wider than its peg
    held = sum(piece.solid.num_tri() > 12 for piece in made.pieces)
    assert held == (len(made.pieces) if peg and len(made.pieces) > 1 else 0)


def test_a_peg_goes_as_deep_as_it_is_thick_into_a_hole_with_play() -> None:
    how = replace(PLAIN, plate=(60, 200, 200), peg=4.0, play=0.2)
    first, second = printed(made_of(("beam", "IfcBeam", "", box(0, 0, 0, 20, 4, 4))), how).pieces
    assert [first.name, second.name] == ["A1", "B1"]
    middle = float(second.solid.bounding_box()[0])
    assert first.solid.bounding_box()[3] == pytest.approx(middle + 4.0, abs=1e-6)
    level = np.eye(3, 4)[[1, 2, 0]]
    peg = first.solid.transform(level).slice(middle + 1.0).area()
    beyond = second.solid.transform(level)
    hole = beyond.slice(middle + 15.0).area() - beyond.slice(middle + 1.0).area()
    assert 0 < peg <= 2 * np.pi * 2.0**2  # at most two in an area
    assert np.sqrt(hole / peg) == pytest.approx((2.0 + 0.2) / 2.0, rel=1e-3)


def test_a_name_stands_on_the_base_in_letters_of_their_shape() -> None:
    how = MaquetteSettings(base=3.0, name="BOAT")
    made = printed(made_of(("block", "IfcWall", "", box(0, 0, 0, 20, 10, 6))), how)
    solid = made.pieces[0].solid
    assert len(written(made)) == 1 and len(solid.decompose()) == 1 and made.loose == 0
    front = solid.bounding_box()[1] + 10.0
    rings = [np.array(ring) for ring in solid.slice(3.4).to_polygons()]
    letters = [ring for ring in rings if ring[:, 1].max() < front]
    turns = [1 if shapely.LinearRing(ring).is_ccw else -1 for ring in letters]
    # B has two counters, O and A one each, T none.
    assert turns.count(1) == 4 and turns.count(-1) == 4
    with_none = printed(made_of(("block", "IfcWall", "", box(0, 0, 0, 20, 10, 6))), replace(how, name="  "))
    assert with_none.size[1] < made.size[1]


def test_the_boathouse_is_one_closed_model_with_nothing_of_what_is_cut_away(tmp_path: Path, capsys) -> None:
    out = tmp_path / "boathouse.3mf"
    assert main(["maquette", str(PROJECT), "--scene", "Long section", "--plate", "110x110x110", "--out", str(out)]) == 0
    said = capsys.readouterr().out
    bodies = opened(out.read_bytes())
    assert f"{len(bodies)} pieces" in said and len(bodies) > 3
    assert all((body.extents <= 110.001).all() for body in bodies)
    assert main(["maquette", str(PROJECT), "--plate", "wide", "--out", str(out)]) == 2
    assert "220x220x240" in capsys.readouterr().err
    assert main(["maquette", str(PROJECT), "--scale", "0", "--out", str(out)]) == 2
    assert "between 1:1" in capsys.readouterr().err


def test_an_stl_for_each_piece_and_words_for_what_cannot_be() -> None:
    made = printed(made_of(("beam", "IfcBeam", "", box(0, 0, 0, 20, 4, 4))), replace(PLAIN, plate=(60, 200, 200)))
    files = files_of([piece.mesh for piece in made.pieces], Path("beam.stl"))
    assert [path.name for path in files] == ["beam A1.stl", "beam B1.stl"]
    assert sum(opened(content, "stl")[0].volume for content in files.values()) == pytest.approx(made.volume * 1000, rel=1e-5)
    with pytest.raises(Problem, match=r"\.3mf or \.stl"):
        files_of([], Path("beam.obj"))
    sphere = trimesh.creation.icosphere(5)  # of more faces than plates are made of, and open
    with pytest.raises(Problem, match="nothing to print"):
        printed(building_of((sphere.vertices, sphere.faces[1:])), PLAIN)
