"""Viewpoints as BCF files (buildingSMART, BIM Collaboration Format 2.1 and 3.0), written and read."""

from __future__ import annotations

import io
import math
import uuid
import zipfile
from collections.abc import Iterable, Iterator, Mapping
from datetime import datetime
from pathlib import Path
from typing import Literal

import numpy as np
from lxml import etree

from anatome.cuts.plane import Plane, vector
from anatome.look.look import Rgb, hex_of, rgb
from anatome.problems import Problem
from anatome.scenes.viewpoints import SPACE, Vector, Viewpoint
from anatome.words import printable

BcfVersion = Literal["2.1", "3.0"]
VERSIONS: tuple[BcfVersion, ...] = ("2.1", "3.0")
KIND, STATUS = "Information", "Active"
MOST_BYTES, MOST_FILES = 500_000_000, 20_000
"""Of all that is packed in a file that is read: more is no collection of viewpoints."""
LEAST_FIELD, MOST_FIELD = 1.0, 170.0
"""Degrees."""
ASPECTS = (0.05, 20.0)
NO_FILE = "“{path}” is no BCF file: {why}. Ask for it as .bcf or .bcfzip, version 2.1 or 3.0."


# Writing ------------------------------------------------------------------------------------------------------


def bcf_bytes(
    viewpoints: Iterable[Viewpoint], project: str, author: str = "", now: datetime | None = None, version: BcfVersion = "2.1"
) -> bytes:
    """Return a BCF file of viewpoints, a topic each, of a project of this name."""
    when = (now or datetime.now().astimezone()).isoformat(timespec="seconds")
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as packed:

        def put(name: str, root: etree._Element) -> None:
            packed.writestr(name, etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True))

        root = etree.Element("Version", VersionId=version)
        if version == "2.1":
            _text(root, "DetailedVersion", version)
        put("bcf.version", root)
        put("project.bcfp", _project(project, version))
        if version == "3.0":
            put("extensions.xml", _extensions(author))
        for viewpoint in viewpoints:
            put(f"{viewpoint.guid}/markup.bcf", _markup(viewpoint, author or "Anatome", when, version))
            put(f"{viewpoint.guid}/viewpoint.bcfv", _view(viewpoint, version))
            if viewpoint.snapshot is not None:
                packed.writestr(f"{viewpoint.guid}/snapshot.png", viewpoint.snapshot)
    return held.getvalue()


def _project(name: str, version: BcfVersion) -> etree._Element:
    root = etree.Element("ProjectExtension" if version == "2.1" else "ProjectInfo")
    own = etree.SubElement(root, "Project", ProjectId=str(uuid.uuid5(SPACE, name)))
    _text(own, "Name", name)
    if version == "2.1":
        _text(root, "ExtensionSchema", "")
    return root


def _extensions(author: str) -> etree._Element:
    root = etree.Element("Extensions")
    for kinds, kind, words in (
        ("TopicTypes", "TopicType", KIND),
        ("TopicStatuses", "TopicStatus", STATUS),
        ("Users", "User", author),
    ):
        if words:
            _text(etree.SubElement(root, kinds), kind, words)
    return root


def _markup(viewpoint: Viewpoint, author: str, when: str, version: BcfVersion) -> etree._Element:
    root = etree.Element("Markup")
    topic = etree.SubElement(root, "Topic", Guid=viewpoint.guid, TopicType=KIND, TopicStatus=STATUS)
    _text(topic, "Title", viewpoint.title)
    _text(topic, "CreationDate", when)
    _text(topic, "CreationAuthor", author)
    if viewpoint.words:
        _text(topic, "Description", viewpoint.words)
    own = str(uuid.uuid5(SPACE, viewpoint.guid))
    holder = etree.SubElement(root, "Viewpoints", Guid=own)
    if version == "3.0":
        root.remove(holder)
        holder = etree.SubElement(etree.SubElement(topic, "Viewpoints"), "ViewPoint", Guid=own)
    _text(holder, "Viewpoint", "viewpoint.bcfv")
    if viewpoint.snapshot is not None:
        _text(holder, "Snapshot", "snapshot.png")
    return root


def _view(viewpoint: Viewpoint, version: BcfVersion) -> etree._Element:
    root = etree.Element("VisualizationInfo", Guid=str(uuid.uuid5(SPACE, viewpoint.guid)))
    parts = etree.SubElement(root, "Components")
    hints = {"SpacesVisible": "false", "SpaceBoundariesVisible": "false", "OpeningsVisible": "false"}
    if version == "2.1":
        etree.SubElement(parts, "ViewSetupHints", hints)
    visibility = etree.SubElement(parts, "Visibility", DefaultVisibility="true" if viewpoint.shown else "false")
    if version == "3.0":
        etree.SubElement(visibility, "ViewSetupHints", hints)
    if viewpoint.exceptions:
        _components(etree.SubElement(visibility, "Exceptions"), viewpoint.exceptions)
    if viewpoint.colours:
        colouring = etree.SubElement(parts, "Coloring")
        for colour, ids in viewpoint.colours:
            holder = etree.SubElement(colouring, "Color", Color=hex_of(colour)[1:])
            _components(holder if version == "2.1" else etree.SubElement(holder, "Components"), ids)
    camera = etree.SubElement(root, "PerspectiveCamera" if viewpoint.field is not None else "OrthogonalCamera")
    _vector(camera, "CameraViewPoint", viewpoint.eye)
    _vector(camera, "CameraDirection", viewpoint.direction)
    _vector(camera, "CameraUpVector", viewpoint.up)
    if viewpoint.field is not None:
        _text(camera, "FieldOfView", f"{min(max(viewpoint.field, LEAST_FIELD), MOST_FIELD):.9g}")
    else:
        _text(camera, "ViewToWorldScale", f"{viewpoint.height:.9g}")
    if version == "3.0":
        _text(camera, "AspectRatio", f"{viewpoint.aspect:.9g}")
    if viewpoint.planes:
        holder = etree.SubElement(root, "ClippingPlanes")
        for plane in viewpoint.planes:
            own = etree.SubElement(holder, "ClippingPlane")
            _vector(own, "Location", plane.origin)
            _vector(own, "Direction", plane.normal)  # towards what is not shown
    return root


def _components(holder: etree._Element, ids: Iterable[str]) -> None:
    for guid in sorted(ids):
        etree.SubElement(holder, "Component", IfcGuid=guid)


def _text(holder: etree._Element, name: str, text: str) -> None:
    etree.SubElement(holder, name).text = printable(text)


def _vector(holder: etree._Element, name: str, values: Vector) -> None:
    own = etree.SubElement(holder, name)
    for axis, value in zip("XYZ", values):
        _text(own, axis, f"{value + 0.0:.12g}")


# Reading ------------------------------------------------------------------------------------------------------


def read_bcf(path: Path) -> tuple[Viewpoint, ...]:
    """Return the viewpoints of all topics of a BCF file. Raises Problem for what is none, or has none."""
    try:
        with zipfile.ZipFile(path) as packed:
            infos = packed.infolist()
            if len(infos) > MOST_FILES or sum(info.file_size for info in infos) > MOST_BYTES:
                raise Problem(NO_FILE.format(path=path, why="what is packed in it is far too large"))
            names = {info.filename for info in infos}
            if "bcf.version" not in names:
                raise Problem(NO_FILE.format(path=path, why="it does not say its version"))
            version = str(_root(packed.read("bcf.version")).get("VersionId", ""))
            if not version.startswith(("2.", "3.")):
                raise Problem(NO_FILE.format(path=path, why=f"version {version or 'unknown'} cannot be read"))
            found = [one for name in sorted(names) if name.endswith("/markup.bcf") for one in _topic(packed, name, names)]
    except Problem:
        raise
    except OSError as error:
        raise Problem(f"“{path}” could not be read: {error.strerror or error}.") from error
    except (zipfile.BadZipFile, etree.XMLSyntaxError, KeyError, ValueError, NotImplementedError, RuntimeError) as error:
        raise Problem(NO_FILE.format(path=path, why="it is damaged, or something else")) from error
    if not found:
        raise Problem(f"“{path}” has no viewpoints: its topics are words alone.")
    return tuple(found)


def _topic(packed: zipfile.ZipFile, name: str, names: set[str]) -> Iterator[Viewpoint]:
    folder = name.removesuffix("markup.bcf")
    root = _root(packed.read(name))
    topic = root.find("Topic")
    if topic is None:
        return
    title, words = topic.findtext("Title", "").strip(), topic.findtext("Description", "").strip()
    holders = [*root.findall("Viewpoints"), *topic.findall("Viewpoints/ViewPoint")]
    for number, holder in enumerate(holders, 1):
        file = f"{folder}{holder.findtext('Viewpoint', '')}"
        picture = f"{folder}{holder.findtext('Snapshot', '')}"
        if file not in names:
            continue
        own = f"{title or 'Viewpoint'}, {number}" if len(holders) > 1 else title or "Viewpoint"
        snapshot = packed.read(picture) if picture in names and picture != folder else None
        view = _viewpoint(_root(packed.read(file)), str(topic.get("Guid", "")), own, words, snapshot)
        if view is not None:
            yield view


def _viewpoint(root: etree._Element, guid: str, title: str, words: str, snapshot: bytes | None) -> Viewpoint | None:
    """A viewpoint as it is said; None for one without a camera. Raises ValueError for numbers that are none."""
    camera = root.find("PerspectiveCamera")
    perspective = camera is not None
    if camera is None:
        camera = root.find("OrthogonalCamera")
    if camera is None:
        return None
    direction, up = _unit(_read_vector(camera, "CameraDirection")), _read_vector(camera, "CameraUpVector")
    field = _number(camera, "FieldOfView", 60.0) if perspective else None
    height = None if perspective else _number(camera, "ViewToWorldScale", 30.0)
    aspect = min(max(_number(camera, "AspectRatio", 1.5), ASPECTS[0]), ASPECTS[1])
    if (field is not None and not 0.1 <= field < 179.0) or (height is not None and not height > 0):
        raise ValueError("a camera sees something")
    planes = []
    for own in root.findall("ClippingPlanes/ClippingPlane"):
        planes.append(Plane(_read_vector(own, "Location"), _unit(_read_vector(own, "Direction"))))
    visibility = root.find("Components/Visibility")
    shown = visibility is None or visibility.get("DefaultVisibility", "true").strip() in ("true", "1")
    colours = []
    for own in root.findall("Components/Coloring/Color"):
        colours.append((_colour(own.get("Color", "")), frozenset(_ids(own))))
    return Viewpoint(
        guid,
        printable(title),
        printable(words),
        _read_vector(camera, "CameraViewPoint"),
        direction,
        _upright(direction, up),
        field,
        height,
        aspect,
        tuple(planes),
        shown,
        frozenset() if visibility is None else frozenset(_ids(visibility)),
        tuple(colours),
        snapshot,
    )


def _root(content: bytes) -> etree._Element:
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False)
    return etree.fromstring(content, parser)


def _ids(holder: etree._Element) -> Iterator[str]:
    for own in holder.iter("Component"):
        guid = own.get("IfcGuid")
        if guid:
            yield guid


def _number(holder: etree._Element, name: str, usual: float) -> float:
    text = holder.findtext(name)
    value = usual if text is None or not text.strip() else float(text)
    if not math.isfinite(value):
        raise ValueError(f"{name} is no number")
    return value


def _read_vector(holder: etree._Element, name: str) -> Vector:
    own = holder.find(name)
    if own is None:
        raise ValueError(f"{name} is missing")
    found: Mapping[str, float] = {axis: float(own.findtext(axis, "nan")) for axis in "XYZ"}
    if not all(map(math.isfinite, found.values())):
        raise ValueError(f"{name} is no place")
    return (found["X"], found["Y"], found["Z"])


def _unit(values: Vector) -> Vector:
    found = np.array(values)
    length = float(np.linalg.norm(found))
    if length == 0.0:
        raise ValueError("a direction has a length")
    return vector(found / length)


def _upright(direction: Vector, up: Vector) -> Vector:
    """Up at right angles to where one looks; any way where nobody says."""
    ahead, wanted = np.array(direction), np.array(up)
    wanted = wanted - ahead * (wanted @ ahead)
    if np.linalg.norm(wanted) < 1e-6:
        wanted = np.array([0.0, 1.0, 0.0]) if abs(ahead[2]) > 0.9 else np.array([0.0, 0.0, 1.0])
        wanted = wanted - ahead * (wanted @ ahead)
    return vector(wanted / np.linalg.norm(wanted))


def _colour(text: str) -> Rgb:
    """“RRGGBB”, or “AARRGGBB” with how solid it is first."""
    code = text.strip().lstrip("#")[-6:]
    if len(code) != 6:
        raise ValueError(f"“{text}” is no colour")
    return rgb(f"#{code}")
