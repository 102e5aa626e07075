"""One plane through generated models: our polygons with caps against VTK's bare lines and trimesh's polygons."""

from __future__ import annotations

import statistics

import numpy as np
import trimesh
import vtk
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray

from anatome.cuts.plane import Plane, Vector
from anatome.cuts.section import section
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element
from benchmarks.measure import median_seconds, milliseconds

BALL = trimesh.creation.icosphere(subdivisions=3)  # 1,280 triangles
TUBE = trimesh.creation.annulus(0.5, 0.9, 1.6, sections=12)  # 96 triangles, cut with a hole
SLANTED, LEVEL = (0.1, 0.05, 1.0), (0.001, 0.0005, 1.0)


def lattice(nx: int, ny: int, nz: int, shape: trimesh.Trimesh = BALL) -> Building:
    """Shapes in a grid, each an element of its own."""
    assembly = BuildingAssembly("lattice")
    style = assembly.style((0.8, 0.8, 0.8, 1.0))
    for i in range(nx * ny * nz):
        place = np.array([i % nx, i // nx % ny, i // (nx * ny)]) * 2.5
        assembly.add(Element(f"part {i}", f"Part {i}", "Part"), shape.vertices + place, shape.faces, style)
    return assembly.finish()


def vtk_mesh(building: Building) -> vtk.vtkPolyData:
    mesh, points, cells = vtk.vtkPolyData(), vtk.vtkPoints(), vtk.vtkCellArray()
    points.SetData(numpy_to_vtk(building.vertices, deep=True))
    offsets = np.arange(len(building.triangles) + 1, dtype=np.int64) * 3
    cells.SetData(numpy_to_vtkIdTypeArray(offsets, deep=True), numpy_to_vtkIdTypeArray(building.triangles.ravel(), deep=True))
    mesh.SetPoints(points)
    mesh.SetPolys(cells)
    return mesh


def vtk_cut(mesh: vtk.vtkPolyData, kind: type, normal: Vector) -> float:
    """Seconds for one of VTK's cutters to make lines, its search structures built."""
    plane, cutter = vtk.vtkPlane(), kind()
    plane.SetNormal(*normal)
    cutter.SetInputData(mesh)
    if hasattr(cutter, "SetCutFunction"):
        cutter.SetCutFunction(plane)
    else:
        cutter.SetPlane(plane)

    def work(run: int) -> None:
        plane.SetOrigin(0, 0, 2.4 + 0.01 * run)
        plane.Modified()
        cutter.Update()

    return median_seconds(work)


def plane_at(run: int, normal: Vector) -> Plane:
    return Plane((0, 0, 2.4 + 0.01 * run), normal)


def ours(building: Building, normal: Vector) -> float:
    """Seconds for polygons with holes and triangulated caps."""
    return median_seconds(lambda run: section(building, plane_at(run, normal)).caps)


def trimesh_cut(building: Building, runs: int, normal: Vector) -> float:
    mesh = trimesh.Trimesh(building.vertices, building.triangles, process=False)

    def work(run: int) -> object:
        plane = plane_at(run, normal)
        return mesh.section(plane_origin=plane.origin, plane_normal=plane.normal).to_2D()[0].polygons_full

    return median_seconds(work, runs)


def run(quick: bool) -> None:
    """Print the table."""
    print("One moving plane, everything it cuts (times are medians of five; ratios above 1 mean Anatome is faster)\n")
    print(
        "| triangles | elements | cut | Anatome, polygons and caps | VTK lines (best of 3) | ratio | trimesh polygons | ratio |"
    )
    print("|---|---|---|---|---|---|---|---|")
    kinds = (vtk.vtkCutter, vtk.vtkPlaneCutter, vtk.vtkPolyDataPlaneCutter)
    rows = [
        ((4, 4, 5), BALL, SLANTED),
        ((10, 10, 8), BALL, SLANTED),
        ((25, 20, 20), TUBE, SLANTED),
        ((25, 20, 20), TUBE, LEVEL),
        ((16, 16, 15), BALL, SLANTED),
    ]
    for size, shape, normal in rows[: 4 if quick else 5]:
        building = lattice(*size, shape)
        mine = ours(building, normal)
        mesh = vtk_mesh(building)
        theirs = min(vtk_cut(mesh, kind, normal) for kind in kinds)
        del mesh
        other = trimesh_cut(building, 2 if len(building.triangles) < 2_000_000 else 1, normal)
        cut = len(np.unique(section(building, plane_at(1, normal)).element))
        print(
            f"| {len(building.triangles):,} | {len(building.elements):,} | {cut} | {milliseconds(mine)} | {milliseconds(theirs)} "
            f"| {theirs / mine:.2f} | {milliseconds(other)} | {other / mine:.0f} |",
            flush=True,
        )

    print("\nThe same amount cut out of ever more building (layers added above)\n")
    sizes = (1, 10, 50)[: 2 if quick else 3]
    buildings = [lattice(10, 8, nz) for nz in sizes]
    plane = Plane((0, 0, 0.05), LEVEL)
    # Taken in turn, so that what else the machine does falls on all of them alike.
    taken = [[] for _ in buildings]
    for round_ in range(7):
        for building, seconds in zip(buildings, taken):
            seconds.append(
                median_seconds(lambda run, b=building, r=round_: section(b, plane.moved(0.001 * run + 1e-5 * r)).caps, 3)
            )
    for building, seconds in zip(buildings, taken):
        ratio = statistics.median(s / f for s, f in zip(seconds, taken[0]))
        print(
            f"  {len(building.triangles):>9,} triangles: {milliseconds(statistics.median(seconds))}, "
            f"{ratio:.2f} times the smallest",
            flush=True,
        )
