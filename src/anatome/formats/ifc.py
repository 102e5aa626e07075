"""Reading IFC (2x3, 4, 4x3) with ifcopenshell."""

from __future__ import annotations

import multiprocessing
import os
import pickle
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element
import ifcopenshell.util.placement
import ifcopenshell.util.unit
import numpy as np
from numpy.typing import NDArray

from anatome.formats.ifc_place import read_place
from anatome.model.assembly import BuildingAssembly
from anatome.model.building import Building, Element, FailedProduct, Space, Storey, Unit
from anatome.model.kinds import use_told_by
from anatome.problems import Problem

Progress = Callable[..., None]
"""Told the share done, what is being done, and the product at hand where it may hang."""
Careful = tuple[Path, list[str]]
"""A file to keep finished shapes in, and the products to leave out because the reader hangs on them."""

# Fast and complete on the houses we tried; the plain kernel, slower, is the fallback.
FAST_KERNEL: Any = "hybrid-cgal-simple-opencascade"
PLAIN_KERNEL: Any = "opencascade"

PartTaker = Callable[[Building], None]
FIRST_PART, LATER_PARTS = 2.5, 3.0
"""Seconds after which what was read so far is given on, and how many times as long each other time; ANATOME_FIRST_PART overrides
the first."""
LAST_PART = 0.2
"""Share that must be left to be made: else the whole is there soon."""
SHAPES = "the shapes"
"""What is said to be at hand while many are."""
NOT_DRAWN = ("IfcOpeningElement", "IfcSpace", "IfcAnnotation", "IfcGrid", "IfcVirtualElement")
DEFAULT_COLOUR = (0.82, 0.80, 0.77, 1.0)


def read_ifc(
    path: Path, progress: Progress, careful: Careful | None = None, near: bool = False, part: PartTaker | None = None
) -> Building:
    """Return the building in an IFC file, brought ``near`` its origin if that is wanted. ``careful`` makes one shape after the
    other, so that one knows on which the kernel hangs. Where it takes long, ``part`` is given what was read so far now and then.

    Raises Problem when the file is not IFC, is damaged beyond reading, or has nothing to draw.
    """
    progress(0.01, "Reading the file")
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
    assembly.unit, assembly.near = _unit(model), near
    assembly.place = read_place(model)
    storey_index = _read_storeys(model, assembly)
    _read_spaces(model, assembly, storey_index)
    undrawn = {p.id() for kind in _known(model, NOT_DRAWN) for p in model.by_type(kind)}
    products = [p for p in model.by_type("IfcProduct") if p.id() not in undrawn and p.Representation]
    if not products:
        raise Problem(f"“{path.name}” holds no geometry to draw. Export the model with its solids.")
    reading = _Reading(model, products, storey_index, careful[1] if careful else ())
    # The kernel waits for ever for a product without a GlobalId.
    named = [p for p in products if p.GlobalId]
    if careful is not None:
        shapes = _one_by_one(model, named, progress, careful)
    else:
        shapes = _shapes(model, named, progress, reading, None if part is None else _Parts(reading, assembly, part))
    reading.put_together(assembly, shapes)
    progress(0.92, "Joining the parts")
    return assembly.finish()


class _Reading:
    """What a file says of its ``products``, and in which storeys they stand; those ``given_up`` have no shape."""

    def __init__(self, model: Any, products: list[Any], storeys: dict[int, int], given_up: Sequence[str]) -> None:
        self._model, self._products, self._storeys, self._given_up = model, products, storeys, given_up
        self._elements: dict[int, Element] = {}

    @cached_property
    def _said(self) -> tuple[dict[int, str], dict[int, str], dict[int, Any]]:
        return _layers(self._model), _materials(self._model), _containers(self._model)

    def element(self, number: int, product: Any = None) -> Element:
        """Return what is said of the product of a record, read once: while the kernel is busy with others, if it is asked for
        then."""
        found = self._elements.get(number)
        if found is None:
            layers, materials, containers = self._said
            product = product or self._model.by_id(number)
            found = self._elements[number] = Element(
                id=product.GlobalId,
                name=product.Name or "",
                type=product.is_a(),
                material=materials.get(number) or _material(product),
                layer=layers.get(number, ""),
                storey=_storey_of(product, containers, self._storeys),
            )
        return found

    def put_together(self, assembly: BuildingAssembly, shapes: Mapping[int, _Shape], so_far: bool = False) -> None:
        """Add all that has a shape, ``so_far`` at least; else what has none failed."""
        # In the order of the file, whichever shape was ready first: the same file gives the same building.
        for product in self._products:
            shape = shapes.get(product.id())
            if shape is None:
                if not so_far:
                    why = self._why(product)
                    assembly.failed.append(FailedProduct(product.GlobalId or "", product.Name or "", product.is_a(), why))
                continue
            element = self.element(product.id(), product)
            free = assembly.unused_id(element.id)
            element = element if free == element.id else replace(element, id=free)
            styles = np.array([assembly.style(colour) for colour in shape.colours])
            assembly.add(element, shape.vertices, shape.faces, styles[shape.colour])

    def _why(self, product: Any) -> str:
        if not product.GlobalId:
            return "it has no GlobalId, which IFC asks for"
        given_up = product.GlobalId in self._given_up
        return "making its shape took too long and was given up" if given_up else "its shape could not be made"


class _Parts:
    """Gives what was read so far to who takes it: the first after some seconds, each other one after several times as long."""

    def __init__(self, reading: _Reading, assembly: BuildingAssembly, take: PartTaker) -> None:
        self._reading, self._assembly, self._take = reading, assembly, take
        self._began = time.monotonic()
        self._next = float(os.environ.get("ANATOME_FIRST_PART", FIRST_PART))

    def see(self, shapes: Mapping[int, _Shape], left: float) -> None:
        """There are these shapes by now, and a share is ``left`` to be made."""
        spent = time.monotonic() - self._began
        if spent < self._next or not shapes or left < LAST_PART:
            return
        self._next = LATER_PARTS * spent
        assembly = self._assembly.beginning()
        self._reading.put_together(assembly, shapes, so_far=True)
        try:
            building = assembly.finish()
        except Problem:
            return  # nothing of it has a surface yet
        # One that is brought near may stand elsewhere when all of it is there.
        if not any(building.origin):
            self._take(building)


@dataclass(frozen=True)
class _Shape:
    """``colour`` (m,) numbers the ``colours`` of the (m, 3) ``faces``."""

    vertices: NDArray[np.float64]
    faces: NDArray[np.int64]
    colours: list[tuple[float, float, float, float]]
    colour: NDArray[np.int64]


def _shape_of(geometry: Any) -> _Shape | None:
    """A shape from the kernel's own memory, which is much faster than number by number."""
    faces = np.frombuffer(geometry.faces_buffer, np.int32).reshape(-1, 3).astype(np.int64)
    if not len(faces):
        return None
    colours = [*(_rgba(material) for material in geometry.materials), DEFAULT_COLOUR]
    ids = np.frombuffer(geometry.material_ids_buffer, np.int32).astype(np.int64)
    default = len(colours) - 1
    colour = np.where((ids >= 0) & (ids < default), ids, default)
    return _Shape(np.frombuffer(geometry.verts_buffer).reshape(-1, 3).copy(), faces, colours, colour)


def _shapes(model: Any, products: list[Any], progress: Progress, reading: _Reading, parts: _Parts | None) -> dict[int, _Shape]:
    """The shape of every product that has one, by entity number; what the fast kernel drops the plain one tries. Meanwhile what
    is said of each is ``reading``, and ``parts`` see what there is so far."""
    found: dict[int, _Shape] = {}

    def take(number: int, geometry: Any) -> None:
        shape = _shape_of(geometry)
        if shape is not None:
            found[number] = shape
            reading.element(number)
        if parts is not None:
            parts.see(found, 1.0 - len(found) / len(products))

    progress(0.05, "Making the shapes", SHAPES)
    _run_kernel(model, FAST_KERNEL, products, take, progress, 0.85)
    remaining = [p for p in products if p.id() not in found]
    if remaining:
        _run_kernel(model, PLAIN_KERNEL, remaining, take, progress, 0.9)
    return found


def _settings() -> Any:
    settings = ifcopenshell.geom.settings()
    settings.set("use-world-coords", True)
    settings.set("weld-vertices", True)
    return settings


def _run_kernel(
    model: Any, kernel: Any, products: list[Any], take: Callable[[int, Any], None], progress: Progress, until: float
) -> None:
    threads = max(1, multiprocessing.cpu_count())
    try:
        iterator = ifcopenshell.geom.iterator(_settings(), model, threads, include=products, geometry_library=kernel)
        started = iterator.initialize()
    except Exception:
        return
    while started:
        shape = iterator.get()
        take(shape.id, shape.geometry)
        progress(0.05 + (until - 0.05) * iterator.progress() / 100, "Making the shapes", SHAPES)
        if not iterator.next():
            break


def _one_by_one(model: Any, products: list[Any], progress: Progress, careful: Careful) -> dict[int, _Shape]:
    """The same, saying before each product that it is tried; what is finished is kept for the next try."""
    spool, given_up = careful
    found = dict(_spooled(spool))
    settings = _settings()
    with spool.open("ab") as keeping:
        for number, product in enumerate(products):
            if product.id() in found or product.GlobalId in given_up:
                continue
            progress(0.05 + 0.8 * number / len(products), "Making the shapes one by one", product.GlobalId)
            shape = None
            for kernel in (FAST_KERNEL, PLAIN_KERNEL):
                try:
                    made: Any = ifcopenshell.geom.create_shape(settings, product, geometry_library=kernel)
                    shape = _shape_of(made.geometry)
                except Exception:
                    continue
                if shape is not None:
                    break
            if shape is not None:
                found[product.id()] = shape
                pickle.dump((product.id(), shape), keeping)
                keeping.flush()
    return found


def _spooled(spool: Path) -> Iterator[tuple[int, _Shape]]:
    """What an earlier try kept; the last entry may be cut short. The file is our own worker's, in a folder of its own."""
    if not spool.exists():
        return
    with spool.open("rb") as stream:
        while True:
            try:
                yield pickle.load(stream)
            except (EOFError, pickle.UnpicklingError):
                return


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
    try:
        metres = float(ifcopenshell.util.unit.calculate_unit_scale(model))
    except Exception:  # a file without units, or with broken ones, is taken to be in metres, as IFC's own default is SI
        metres = 1.0
    if not (np.isfinite(metres) and metres > 0):
        metres = 1.0
    names = {1.0: "metre", 0.001: "millimetre", 0.01: "centimetre", 0.3048: "foot", 0.0254: "inch"}
    name = next((n for m, n in names.items() if abs(m - metres) < 1e-6 * m), f"{metres:g} metres")
    return Unit(name, metres)


def _read_storeys(model: Any, assembly: BuildingAssembly) -> dict[int, int]:
    """Add the storeys, lowest first; returns IFC entity number → storey index."""
    scale = assembly.unit.metres
    found = []
    for storey in model.by_type("IfcBuildingStorey"):
        placed = float(ifcopenshell.util.placement.get_local_placement(storey.ObjectPlacement)[2][3])
        if not np.isfinite(placed):
            placed = 0.0
        # The placement says where the storey really is; files that leave it at zero say so in Elevation only.
        level = float(placed) if abs(placed) > 1e-9 or storey.Elevation is None else float(storey.Elevation)
        found.append((level * scale, storey))
    found.sort(key=lambda pair: pair[0])
    for level, storey in found:
        assembly.storeys.append(Storey(storey.GlobalId, storey.Name or "Storey", level))
    return {storey.id(): i for i, (_, storey) in enumerate(found)}


def _containers(model: Any) -> dict[int, Any]:
    """Product number → where it stands; in one pass over the relations, not product by product."""
    found: dict[int, Any] = {}
    for relation in model.by_type("IfcRelContainedInSpatialStructure"):
        for product in relation.RelatedElements or ():
            found.setdefault(product.id(), relation.RelatingStructure)
    return found


def _storey_of(product: Any, containers: dict[int, Any], index: dict[int, int]) -> int | None:
    container = containers.get(product.id()) or ifcopenshell.util.element.get_container(product)
    for _ in range(64):  # a file may put a thing into itself
        if container is None or container.is_a("IfcBuildingStorey"):
            break
        container = ifcopenshell.util.element.get_aggregate(container)
    return None if container is None else index.get(container.id())


def _read_spaces(model: Any, assembly: BuildingAssembly, storeys: dict[int, int]) -> None:
    spaces = [s for s in model.by_type("IfcSpace") if s.Representation and s.GlobalId]
    boxes: dict[int, Any] = {}
    floors: dict[int, float] = {}

    def take(number: int, geometry: Any) -> None:
        points = np.frombuffer(geometry.verts_buffer).reshape(-1, 3)
        if len(points):
            boxes[number] = (points.min(axis=0), points.max(axis=0))
            corners = points[np.frombuffer(geometry.faces_buffer, np.int32).reshape(-1, 3)]
            upward = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 2] / 2
            # What is seen of a closed body from below, whichever way its faces are wound.
            floors[number] = float(np.abs(upward).sum() / 2)

    if spaces:
        _run_kernel(model, FAST_KERNEL, spaces, take, lambda *_: None, 0.0)
    for space in spaces:
        if space.id() not in boxes:
            continue
        low, high = ((float(c[0]), float(c[1]), float(c[2])) for c in boxes[space.id()])
        parent = ifcopenshell.util.element.get_aggregate(space)
        storey = storeys.get(parent.id()) if parent is not None else None
        name = space.LongName or space.Name or ""
        use = space.ObjectType or use_told_by(name)
        assembly.spaces.append(Space(space.GlobalId, name, storey, low, high, use, floors[space.id()]))


def _materials(model: Any) -> dict[int, str]:
    """Product number → its material, where that is a plain one: in one pass over the relations."""
    found: dict[int, str] = {}
    for relation in model.by_type("IfcRelAssociatesMaterial"):
        material = relation.RelatingMaterial
        if material is not None and material.is_a("IfcMaterial"):
            for product in relation.RelatedObjects or ():
                found.setdefault(product.id(), material.Name or "")
    return found


def _material(product: Any) -> str:
    """The material of a product or of its type, or of the thickest layer of its build-up."""
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
        for item in layer.AssignedItems or ():
            of_item[item.id()] = layer.Name or ""
    found: dict[int, str] = {}
    if not of_item:
        return found
    for product in model.by_type("IfcProduct"):
        for rep in getattr(product.Representation, "Representations", None) or ():
            for item in (rep, *(rep.Items or ())):
                if item.id() in of_item:
                    found.setdefault(product.id(), of_item[item.id()])
    return found
