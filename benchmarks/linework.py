"""Hidden lines of the open duplex house against Open CASCADE's polyhedral removal, and how the time grows with towers.

``python -m benchmarks.linework [--towers PARTS …]``; Open CASCADE is wanted as the package cadquery-ocp-novtk, and passed over
where it is not installed.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.demo.shipped import PROJECT
from anatome.formats.opening import open_model
from anatome.formats.project_files import open_project
from anatome.linework.view_drawing import view_drawing
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.scenes.scene_view import View, view_of
from anatome.view.camera import standard_view
from anatome.view.viewport import Frame
from benchmarks.measure import median_seconds
from benchmarks.tower import write_tower

FRAME = Frame(width=1500, height=1000)


def whole(building: Building) -> View:
    """All of a building, at a slant."""
    opened = ShownBuilding(Cutter(building).dissect([], np.ones(len(building.elements), bool)))
    camera = standard_view("Axonometric, front left", building.bounds, FRAME.aspect)
    return View(camera, opened, Look(surfaces="white", recede=0.0), FRAME)


def open_cascade(building: Building, view: View) -> float:
    """Seconds of Open CASCADE for the same triangles, seen from the same side."""
    from OCP.BRep import BRep_Builder
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakePolygon
    from OCP.BRepMesh import BRepMesh_IncrementalMesh
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
    from OCP.HLRAlgo import HLRAlgo_Projector
    from OCP.HLRBRep import HLRBRep_PolyAlgo, HLRBRep_PolyHLRToShape
    from OCP.TopoDS import TopoDS_Compound

    builder, compound = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(compound)
    for corners in building.vertices[building.triangles].tolist():
        polygon = BRepBuilderAPI_MakePolygon(*(gp_Pnt(*corner) for corner in corners), True)
        face = BRepBuilderAPI_MakeFace(polygon.Wire(), True)
        if face.IsDone():
            builder.Add(compound, face.Face())
    BRepMesh_IncrementalMesh(compound, 1.0)
    _, _, back = view.camera.axes
    began = time.perf_counter()
    algorithm = HLRBRep_PolyAlgo()
    algorithm.Load(compound)
    algorithm.Projector(HLRAlgo_Projector(gp_Ax2(gp_Pnt(*view.camera.target), gp_Dir(*back.tolist()))))
    algorithm.Update()
    found = HLRBRep_PolyHLRToShape()
    found.Update(algorithm)
    found.VCompound()
    found.OutLineVCompound()
    return time.perf_counter() - began


def run(towers: tuple[int, ...] = (2_000,)) -> None:
    """Print seconds and ratios."""
    sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
    from fetched import open_house

    house = open_model(open_house())
    view = whole(house)
    view_drawing(view, "x")
    ours = median_seconds(lambda _: view_drawing(view, "x"), 5)
    print(f"duplex house, {len(house.triangles):,} triangles: {ours:.2f} s")
    try:
        theirs = open_cascade(house, view)
        print(f"  Open CASCADE, polyhedral: {theirs:.1f} s, {theirs / ours:.0f} times as long")
    except ImportError:
        print("  Open CASCADE is not installed (cadquery-ocp-novtk)")
    opened = open_project(PROJECT)
    cutter = Cutter(opened.building)
    for name in ("long", "cutaway", "corner", "split"):
        scene = next(s for s in opened.stored.project.scenes if s.id == name)
        lines = view_of(cutter, scene, None, opened.stored.project.site)
        print(f"demo, {name}: {median_seconds(lambda _, lines=lines: view_drawing(lines, 'x'), 3):.2f} s")  # type: ignore[misc]
    for parts in towers:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "tower.ifc"
            write_tower(path, parts)
            building = open_model(path)
        tower = whole(building)
        seconds = median_seconds(lambda _, tower=tower: view_drawing(tower, "x"), 1)  # type: ignore[misc]
        count = len(building.triangles)
        each = 1e6 * seconds / (count * np.log2(count))
        print(f"tower, {parts:,} parts, {count:,} triangles: {seconds:.2f} s, {each:.3f} µs for each n log n")


if __name__ == "__main__":
    asked = tuple(int(a) for a in sys.argv[1:] if a.isdigit())
    run(asked or (2_000,))
