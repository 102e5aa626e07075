"""Reading IFC (2x3, 4, 4x3) with ifcopenshell."""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element
import ifcopenshell.util.placement
import ifcopenshell.util.unit
import numpy as np
from numpy.typing import NDArray

from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element, FailedProduct, Space, Storey, Unit
from anatome.problems import Problem

Progress = Callable[[float, str], None]

# Fast and complete on the houses we tried; the plain kernel, slower, is the fallback.
FAST_KERNEL = "hybrid-cgal-simple-opencascade"
PLAIN_KERNEL = "opencascade"

NOT_DRAWN = ("IfcOpeningElement", "IfcSpace", "IfcAnnotation", "IfcGrid", "IfcVirtualElement")
DEFAULT_COLOUR = (0.82, 0.80, 0.77, 1.0)


def read_ifc(path: Path, progress: Progress) -> Building:
    """The building in an IFC file.

    Raises Problem when the file is not IFC, is damaged beyond reading, or has nothing to draw.
    """
    progress(0.0, "Reading the file")
    with path.open("rb") as stream:
        head = stream.read(4096)
    if b"ISO-10303-21" not in head:
        raise Problem(f"“{path.name}” is not an IFC file: its first line should read ISO-10303-21.")
    try:
        model: Any = ifcopenshell.open(str(path))
    except Exception as error:
        raise Problem(f"“{path.name}” cannot be read as IFC; it may be cut short. Export it again. ({error})") from error
    if not isinstance(model, ifcopenshell.file) or not model.by_type("IfcProject"):
        raise Problem(f"“{path.name}” has no project in it; it may be cut short. Export it again.")

    assembly = BuildingAssembly(_project_name(model) or path.stem)
    assembly.unit = _unit(model)
    storey_index = _read_storeys(model, assembly)
    _read_spaces(model, assembly, storey_index)
    undrawn = _known(model, NOT_DRAWN)
    products = [p for p in model.by_type("IfcProduct") if p.Representation and not any(p.is_a(c) for c in undrawn)]
    if not products:
        raise Problem(f"“{path.name}” holds no geometry to draw. Export the model with its solids.")
    layers = _layers(model)
    shapes = _shapes(model, products, progress)
    # In the order of the file, whichever shape was ready first: the same file gives the same building.
    for product in products:
        shape = shapes.get(product.id())
        if shape is None:
            assembly.failed.append(
                FailedProduct(product.GlobalId, product.Name or "", product.is_a(), "its shape could not be made")
            )
            continue
        element = Element(
            id=assembly.unused_id(product.GlobalId),
            name=product.Name or "",
            type=product.is_a(),
            material=_material(product),
            layer=layers.get(product.id(), ""),
            storey=_storey_of(product, storey_index),
        )
        styles = np.array([assembly.style(colour) for colour in shape.colours])
        assembly.add(element, shape.vertices, shape.faces, styles[shape.colour])
    progress(0.97, "Joining the parts")
    return assembly.finish()


@dataclass(frozen=True)
class _Shape:
    """``colour`` (m,) numbers the ``colours`` of the (m, 3) ``faces``."""

    vertices: NDArray[np.float64]
    faces: NDArray[np.int64]
    colours: list[tuple[float, float, float, float]]
    colour: NDArray[np.int64]


def _shapes(model: Any, products: list[Any], progress: Progress) -> dict[int, _Shape]:
    """The shape of every product that has one, by entity number; what the fast kernel drops the plain one tries."""
    found: dict[int, _Shape] = {}

    def take(shape: Any, product: Any) -> None:
        geometry = shape.geometry
        faces = np.array(geometry.faces, np.int64).reshape(-1, 3)
        if not len(faces):
            return
        colours = [*(_rgba(material) for material in geometry.materials), DEFAULT_COLOUR]
        ids = np.array(geometry.material_ids, np.int64)
        default = len(colours) - 1
        colour = np.where((ids >= 0) & (ids < default), ids, default)
        found[product.id()] = _Shape(np.array(geometry.verts).reshape(-1, 3), faces, colours, colour)

    _run_kernel(model, FAST_KERNEL, products, take, progress, 0.9)
    remaining = [p for p in products if p.id() not in found]
    if remaining:
        _run_kernel(model, PLAIN_KERNEL, remaining, take, progress, 1.0)
    return found


def _run_kernel(
    model: Any, kernel: Any, products: list[Any], take: Callable[[Any, Any], None], progress: Progress, until: float
) -> None:
    settings = ifcopenshell.geom.settings()
    settings.set("use-world-coords", True)
    settings.set("weld-vertices", True)
    threads = max(1, multiprocessing.cpu_count())
    try:
        iterator = ifcopenshell.geom.iterator(settings, model, threads, include=products, geometry_library=kernel)
        started = iterator.initialize()
    except Exception:
        return
    while started:
        shape = iterator.get()
        take(shape, model.by_id(shape.id))
        progress(0.05 + (until - 0.05) * iterator.progress() / 100, "Making the shapes")
        if not iterator.next():
            break


def _rgba(material: Any) -> tuple[float, float, float, float]:
    colour = material.diffuse
    rgb = (colour.r(), colour.g(), colour.b()) if callable(colour.r) else (colour.r, colour.g, colour.b)
    if any(np.isnan(c) or c < 0 for c in rgb):
        rgb = DEFAULT_COLOUR[:3]
    clear = material.transparency
    return (*rgb, 1.0 - (clear if clear == clear else 0.0))


def _known(model: Any, classes: tuple[str, ...]) -> list[str]:
    """The classes the schema of this file has; asking for another one is an error in ifcopenshell."""
    schema = ifcopenshell.ifcopenshell_wrapper.schema_by_name(model.schema_identifier)
    known = []
    for name in classes:
        try:
            schema.declaration_by_name(name)
        except RuntimeError:
            continue
        known.append(name)
    return known


def _project_name(model: Any) -> str:
    for kind in ("IfcBuilding", "IfcProject"):
        for found in model.by_type(kind):
            if found.Name and found.Name.strip():
                return str(found.LongName or found.Name) if kind == "IfcProject" else str(found.Name)
    return ""


def _unit(model: Any) -> Unit:
    metres = float(ifcopenshell.util.unit.calculate_unit_scale(model))
    names = {1.0: "metre", 0.001: "millimetre", 0.01: "centimetre", 0.3048: "foot", 0.0254: "inch"}
    name = next((n for m, n in names.items() if abs(m - metres) < 1e-6 * m), f"{metres:g} metres")
    return Unit(name, metres)


def _read_storeys(model: Any, assembly: BuildingAssembly) -> dict[int, int]:
    """Add the storeys, lowest first; returns IFC entity number → storey index."""
    scale = assembly.unit.metres
    found = []
    for storey in model.by_type("IfcBuildingStorey"):
        placed = ifcopenshell.util.placement.get_local_placement(storey.ObjectPlacement)[2][3]
        # The placement says where the storey really is; files that leave it at zero say so in Elevation only.
        level = float(placed) if abs(placed) > 1e-9 or storey.Elevation is None else float(storey.Elevation)
        found.append((level * scale, storey))
    found.sort(key=lambda pair: pair[0])
    for level, storey in found:
        assembly.storeys.append(Storey(storey.GlobalId, storey.Name or "Storey", level))
    return {storey.id(): i for i, (_, storey) in enumerate(found)}


def _storey_of(product: Any, index: dict[int, int]) -> int | None:
    container = ifcopenshell.util.element.get_container(product)
    while container is not None and not container.is_a("IfcBuildingStorey"):
        container = ifcopenshell.util.element.get_aggregate(container)
    return None if container is None else index.get(container.id())


def _read_spaces(model: Any, assembly: BuildingAssembly, storeys: dict[int, int]) -> None:
    spaces = [s for s in model.by_type("IfcSpace") if s.Representation]
    boxes: dict[int, Any] = {}

    def take(shape: Any, space: Any) -> None:
        points = np.asarray(shape.geometry.verts).reshape(-1, 3)
        if len(points):
            boxes[space.id()] = (points.min(axis=0), points.max(axis=0))

    if spaces:
        _run_kernel(model, FAST_KERNEL, spaces, take, lambda share, what: None, 0.0)
    for space in spaces:
        if space.id() not in boxes:
            continue
        low, high = ((float(c[0]), float(c[1]), float(c[2])) for c in boxes[space.id()])
        parent = ifcopenshell.util.element.get_aggregate(space)
        storey = storeys.get(parent.id()) if parent is not None else None
        assembly.spaces.append(Space(space.GlobalId, space.LongName or space.Name or "", storey, low, high))


def _material(product: Any) -> str:
    """The material of a product, or of the thickest layer of its build-up."""
    material = ifcopenshell.util.element.get_material(product, should_skip_usage=True)
    if material is None:
        return ""
    if material.is_a("IfcMaterialLayerSet"):
        layers = [layer for layer in material.MaterialLayers if layer.Material]
        thickest = max(layers, key=lambda layer: layer.LayerThickness, default=None)
        return (thickest.Material.Name or "") if thickest else ""
    parts = ifcopenshell.util.element.get_materials(product)
    return (parts[0].Name or "") if parts else ""


def _layers(model: Any) -> dict[int, str]:
    """Product number → name of the presentation layer its shape is assigned to."""
    of_item: dict[int, str] = {}
    for layer in model.by_type("IfcPresentationLayerAssignment"):
        for item in layer.AssignedItems:
            of_item[item.id()] = layer.Name
    found: dict[int, str] = {}
    for product in model.by_type("IfcProduct"):
        for rep in getattr(product.Representation, "Representations", None) or ():
            for item in (rep, *rep.Items):
                if item.id() in of_item:
                    found.setdefault(product.id(), of_item[item.id()])
    return found
