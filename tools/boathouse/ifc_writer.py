"""Writing a small, well-kept IFC4 file: the same input gives the same bytes."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import ifcopenshell
import ifcopenshell.guid
import numpy as np

from tools.boathouse.shapes import Mesh, Point

Colour = tuple[float, float, float, float]
Part = tuple[Mesh, Colour]


@dataclass(frozen=True)
class Kind:
    """What an element is, apart from its place and shape."""

    ifc_class: str
    material: str
    layer: str
    colour: Colour
    predefined: str | None = None
    type_name: str | None = None


@dataclass
class IfcWriter:
    """Collects products into one IFC4 file."""

    project: str
    file: Any = field(default_factory=lambda: ifcopenshell.file(schema="IFC4"))

    def __post_init__(self) -> None:
        f = self.file
        point = f.createIfcCartesianPoint((0.0, 0.0, 0.0))
        self.origin = f.createIfcAxis2Placement3D(point, None, None)
        north = f.createIfcDirection((-0.342, 0.94))
        self.context = f.createIfcGeometricRepresentationContext(None, "Model", 3, 1e-5, self.origin, north)
        self.body = f.createIfcGeometricRepresentationSubContext(
            "Body", "Model", None, None, None, None, self.context, None, "MODEL_VIEW", None
        )
        units = f.createIfcUnitAssignment(
            [
                f.createIfcSIUnit(None, "LENGTHUNIT", None, "METRE"),
                f.createIfcSIUnit(None, "AREAUNIT", None, "SQUARE_METRE"),
                f.createIfcSIUnit(None, "VOLUMEUNIT", None, "CUBIC_METRE"),
                f.createIfcSIUnit(None, "PLANEANGLEUNIT", None, "RADIAN"),
            ]
        )
        self.root = f.createIfcProject(self.guid("project"), None, self.project, None, None, None, None, [self.context], units)
        self._contents: dict[Any, list[Any]] = {}
        self._parts: dict[Any, list[Any]] = {}
        self._materials: dict[str, list[Any]] = {}
        self._layers: dict[str, list[Any]] = {}
        self._types: dict[tuple[str, str], list[Any]] = {}
        self._styles: dict[Colour, Any] = {}
        self._mapped: dict[str, Any] = {}
        self._names: dict[str, int] = {}

    def guid(self, name: str) -> str:
        """A GlobalId that depends on the name alone."""
        return str(ifcopenshell.guid.compress(hashlib.md5(f"boathouse/{name}".encode()).hexdigest()))

    def spatial(self, ifc_class: str, name: str, parent: Any, **extra: Any) -> Any:
        """A site, building, storey or space inside ``parent``."""
        made = self.file.create_entity(
            ifc_class,
            GlobalId=self.guid(f"{ifc_class} {name}"),
            Name=name,
            ObjectPlacement=self._placement(None),
            CompositionType="ELEMENT",
            **extra,
        )
        self._parts.setdefault(parent, []).append(made)
        return made

    def _placement(self, frame: tuple[Point, Point] | None) -> Any:
        f = self.file
        if frame is None:
            return f.createIfcLocalPlacement(None, self.origin)
        origin, along = ([float(c) for c in part] for part in frame)
        axis = f.createIfcAxis2Placement3D(
            f.createIfcCartesianPoint(origin), f.createIfcDirection((0.0, 0.0, 1.0)), f.createIfcDirection(along)
        )
        return f.createIfcLocalPlacement(None, axis)

    def _style(self, item: Any, colour: Colour) -> None:
        f = self.file
        if colour not in self._styles:
            rgb = f.createIfcColourRgb(None, *colour[:3])
            shading = f.createIfcSurfaceStyleRendering(rgb, 1.0 - colour[3], None, None, None, None, None, None, "FLAT")
            name = "surface " + " ".join(f"{c:.2f}" for c in colour)
            self._styles[colour] = f.createIfcSurfaceStyle(name, "BOTH", [shading])
        f.createIfcStyledItem(item, [self._styles[colour]], None)

    def _mesh(self, mesh: Mesh, colour: Colour) -> Any:
        points = self.file.createIfcCartesianPointList3D(np.round(mesh[0], 5).tolist())
        item = self.file.createIfcTriangulatedFaceSet(points, None, True, (mesh[1] + 1).tolist(), None)
        self._style(item, colour)
        return item

    def extrusion(self, profile: Sequence[Point], bottom: float, height: float) -> Any:
        """A plan profile (x, y) raised from ``bottom`` by ``height``, in the element's own frame."""
        f = self.file
        ring = [f.createIfcCartesianPoint([float(c) for c in p]) for p in profile]
        curve = f.createIfcPolyline([*ring, ring[0]])
        area = f.createIfcArbitraryClosedProfileDef("AREA", None, curve)
        place = f.createIfcAxis2Placement3D(f.createIfcCartesianPoint((0.0, 0.0, float(bottom))), None, None)
        return f.createIfcExtrudedAreaSolid(area, place, f.createIfcDirection((0.0, 0.0, 1.0)), float(height))

    def _shape(self, items: list[Any], kind: str) -> Any:
        rep = self.file.createIfcShapeRepresentation(self.body, "Body", kind, items)
        return rep, self.file.createIfcProductDefinitionShape(None, None, [rep])

    def product(
        self, kind: Kind, name: str, container: Any, items: list[Any], form: str, frame: tuple[Point, Point] | None
    ) -> Any:
        """Any element; the public methods below choose its form."""
        self._names[name] = self._names.get(name, 0) + 1
        key = f"{name} {self._names[name]}"
        rep, shape = self._shape(items, form)
        made = self.file.create_entity(
            kind.ifc_class, GlobalId=self.guid(key), Name=key, ObjectPlacement=self._placement(frame), Representation=shape
        )
        if kind.predefined and hasattr(made, "PredefinedType"):
            made.PredefinedType = kind.predefined
        self._contents.setdefault(container, []).append(made)
        self._materials.setdefault(kind.material, []).append(made)
        self._layers.setdefault(kind.layer, []).append(rep)
        if kind.type_name:
            self._types.setdefault((kind.ifc_class, kind.type_name), []).append(made)
        return made

    def solid(
        self,
        kind: Kind,
        name: str,
        container: Any,
        profile: Sequence[Point],
        bottom: float,
        height: float,
        frame: tuple[Point, Point] | None = None,
    ) -> Any:
        """An element that is one extrusion."""
        item = self.extrusion(profile, bottom, height)
        self._style(item, kind.colour)
        return self.product(kind, name, container, [item], "SweptSolid", frame)

    def mesh(self, kind: Kind, name: str, container: Any, *parts: Mesh | Part, frame: tuple[Point, Point] | None = None) -> Any:
        """An element made of triangle meshes, each with its own colour or the kind's."""
        return self.product(kind, name, container, self._mesh_items(kind, parts), "Tessellation", frame)

    def _mesh_items(self, kind: Kind, parts: Sequence[Any]) -> list[Any]:
        items = []
        for part in parts:
            coloured = isinstance(part[1], tuple)
            mesh, colour = part if coloured else (part, kind.colour)
            items.append(self._mesh(mesh, colour))
        return items

    def copy(self, kind: Kind, name: str, container: Any, key: str, parts: Sequence[Any], frame: tuple[Point, Point]) -> Any:
        """An element whose shape, stored once under ``key``, is used again and again."""
        f = self.file
        if key not in self._mapped:
            rep = f.createIfcShapeRepresentation(self.body, "Body", "Tessellation", self._mesh_items(kind, parts))
            self._mapped[key] = f.createIfcRepresentationMap(self.origin, rep)
        target = f.createIfcCartesianTransformationOperator3D(None, None, self.origin.Location, None, None)
        item = f.createIfcMappedItem(self._mapped[key], target)
        return self.product(kind, name, container, [item], "MappedRepresentation", frame)

    def opening(
        self, host: Any, profile: Sequence[Point], bottom: float, height: float, frame: tuple[Point, Point] | None
    ) -> Any:
        """A void in a host element, in its own frame."""
        f = self.file
        n = self._names["opening"] = self._names.get("opening", 0) + 1
        _, shape = self._shape([self.extrusion(profile, bottom, height)], "SweptSolid")
        void = f.createIfcOpeningElement(
            self.guid(f"opening {n}"), None, f"Opening {n}", None, None, self._placement(frame), shape, None, "OPENING"
        )
        f.createIfcRelVoidsElement(self.guid(f"void {n}"), None, None, None, host, void)
        return void

    def fill(self, opening: Any, element: Any) -> None:
        """Say that a window or door sits in an opening."""
        self.file.createIfcRelFillsElement(self.guid(f"fill {element.GlobalId}"), None, None, None, opening, element)

    def _common_properties(self, ifc_class: str, name: str, products: Sequence[Any]) -> Any:
        """The common property set of a type: what it is called, and whether it stands outside."""
        f, kind = self.file, ifc_class.removeprefix("Ifc").removesuffix("StandardCase")
        outside = any(word in name.lower() for word in ("outer", "roof", "terrace", "window"))
        values = {
            "Reference": f.createIfcIdentifier(name),
            "IsExternal": f.createIfcBoolean(outside),
            "LoadBearing": f.createIfcBoolean(ifc_class in ("IfcWall", "IfcSlab", "IfcColumn", "IfcBeam", "IfcFooting")),
        }
        properties = [f.createIfcPropertySingleValue(key, None, value, None) for key, value in values.items()]
        return f.createIfcPropertySet(self.guid(f"common {ifc_class} {name}"), None, f"Pset_{kind}Common", None, properties)

    def finish(self) -> Any:
        """Write the relations and return the ifcopenshell file."""
        f = self.file
        for n, (parent, parts) in enumerate(self._parts.items()):
            f.createIfcRelAggregates(self.guid(f"parts {n}"), None, None, None, parent, parts)
        for n, (container, products) in enumerate(self._contents.items()):
            f.createIfcRelContainedInSpatialStructure(self.guid(f"holds {n}"), None, None, None, products, container)
        for name, products in self._materials.items():
            material = f.createIfcMaterial(name)
            f.createIfcRelAssociatesMaterial(self.guid(f"material {name}"), None, None, None, products, material)
        for name, reps in self._layers.items():
            f.createIfcPresentationLayerAssignment(name, None, reps, None)
        for (ifc_class, name), products in self._types.items():
            made = f.create_entity(f"{ifc_class}Type", GlobalId=self.guid(f"type {name}"), Name=name)
            if hasattr(made, "PredefinedType"):
                made.PredefinedType = products[0].PredefinedType or "NOTDEFINED"
            if ifc_class == "IfcWindow":
                made.PartitioningType = "SINGLE_PANEL"
            if ifc_class == "IfcDoor":
                made.OperationType = "SINGLE_SWING_LEFT"
            made.HasPropertySets = [self._common_properties(ifc_class, name, products)]
            f.createIfcRelDefinesByType(self.guid(f"typed {name}"), None, None, None, products, made)
        f.header.file_name.name = "boathouse.ifc"
        f.header.file_name.time_stamp = "2026-01-01T00:00:00"
        return f
