"""The boathouse: composed here storey by storey, written as IFC4.

X runs along the river, Y away from it (the river lies at negative Y), Z up; ±0.00 is the floor of the boat hall.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from tools.boathouse import shapes
from tools.boathouse.details import add_details
from tools.boathouse.furnishing import furnish, ground_height, park
from tools.boathouse.ifc_writer import IfcWriter, Kind
from tools.boathouse.shapes import Point

LENGTH, DEPTH, HALL = 30.0, 12.0, 19.5
EAVES, UPPER = 6.4, 3.4
PITCH = 0.70
OVERHANG = 0.7
WING_ORIGIN, WING_ANGLE, WING_LENGTH, WING_WIDTH = (21.5, 15.2), 66.0, 12.0, 7.0

FRAME = Kind("IfcWall", "Timber frame", "A-WALL", (0.86, 0.78, 0.66, 1), "SOLIDWALL", "External wall, frame 140")
INSULATION = Kind("IfcCovering", "Wood fibre", "A-WALL-INSULATION", (0.87, 0.82, 0.62, 1), "INSULATION", "Wall insulation 100")
CLADDING = Kind("IfcCovering", "Larch", "A-WALL-CLADDING", (0.62, 0.50, 0.40, 1), "CLADDING", "Larch boarding 30")
PARTITION = Kind("IfcWall", "Brick, limewashed", "A-WALL", (0.90, 0.88, 0.84, 1), "PARTITIONING", "Partition 200")
SLAB = Kind("IfcSlab", "Concrete", "A-SLAB", (0.72, 0.72, 0.71, 1), "FLOOR", "Concrete slab")
DECKS = Kind("IfcSlab", "Glued timber", "A-SLAB", (0.80, 0.70, 0.56, 1), "FLOOR", "Timber floor 250")
FINISH = Kind("IfcCovering", "Oak", "A-FLOR", (0.74, 0.62, 0.47, 1), "FLOORING", "Oak boards 20")
CEILING = Kind("IfcCovering", "Plasterboard", "A-CLNG", (0.95, 0.94, 0.92, 1), "CEILING", "Hung ceiling 20")
FOOTING = Kind("IfcFooting", "Concrete", "S-FOOTING", (0.66, 0.66, 0.65, 1), "STRIP_FOOTING")
COLUMN = Kind("IfcColumn", "Oak", "S-COLUMN", (0.66, 0.53, 0.39, 1), "COLUMN", "Oak post 200")
TRUSS = Kind("IfcBeam", "Oak", "S-TRUSS", (0.66, 0.53, 0.39, 1), "BEAM", "Oak truss member")
RAFTER = Kind("IfcMember", "Spruce", "S-ROOF", (0.83, 0.73, 0.57, 1), "RAFTER", "Rafter 80 × 240")
BATTEN = Kind("IfcMember", "Spruce", "A-ROOF-BATTEN", (0.78, 0.68, 0.52, 1), "PURLIN", "Batten 50 × 50")
LINING = Kind("IfcCovering", "Spruce", "A-ROOF-LINING", (0.88, 0.80, 0.67, 1), "ROOFING", "Roof lining 30")
ROOF_INSULATION = Kind(
    "IfcCovering", "Wood fibre", "A-ROOF-INSULATION", (0.87, 0.82, 0.62, 1), "INSULATION", "Roof insulation 200"
)
TILES = Kind("IfcCovering", "Clay tile", "A-ROOF-TILE", (0.60, 0.40, 0.33, 1), "ROOFING", "Tile course")
GLASS = (0.70, 0.80, 0.82, 0.35)
JOINERY = (0.30, 0.34, 0.35, 1.0)
WINDOW = Kind("IfcWindow", "Timber and glass", "A-GLAZ", JOINERY, "WINDOW", "Casement window")
ROOF_LIGHT = Kind("IfcWindow", "Timber and glass", "A-GLAZ", JOINERY, "SKYLIGHT", "Roof light")
DOOR = Kind("IfcDoor", "Timber", "A-DOOR", (0.55, 0.44, 0.34, 1), "DOOR", "Panel door")
STAIR = Kind("IfcStairFlight", "Oak", "A-STAIR", (0.72, 0.59, 0.43, 1), "STRAIGHT", "Straight flight")
RAILING = Kind("IfcRailing", "Steel", "A-RAIL", (0.25, 0.27, 0.28, 1), "GUARDRAIL", "Steel railing")
BOARD = Kind("IfcCovering", "Larch", "A-DECK", (0.68, 0.58, 0.46, 1), "FLOORING", "Deck board")

Wall = tuple[float, float, float, float, str]
"""One opening: distance along the wall, sill, width, height, and 'window' or 'door'."""

OUTER_LAYERS = ((FRAME, -0.14, 0.0), (INSULATION, 0.0, 0.10), (CLADDING, 0.10, 0.13))
"""The build-up of every outer wall: kind, and its two faces in metres outward of the frame."""


class Boathouse:
    """Holds the writer and the storeys while the building is put together."""

    def __init__(self) -> None:
        self.ifc = IfcWriter("Boathouse on the river")
        self.site = self.ifc.spatial("IfcSite", "River bank", self.ifc.root, RefLatitude=(52, 30, 0), RefLongitude=(9, 0, 0))
        self.building = self.ifc.spatial("IfcBuilding", "Boathouse", self.site)
        levels = [("Foundations", -1.2), ("Ground floor", 0.0), ("Upper floor", UPPER), ("Roof", EAVES)]
        self.storeys = {
            name: self.ifc.spatial("IfcBuildingStorey", name, self.building, Elevation=level) for name, level in levels
        }

    # Walls ---------------------------------------------------------------------------------------------------

    def wall(
        self,
        name: str,
        storey: str,
        start: Point,
        end: Point,
        bottom: float,
        height: float,
        layers: Sequence[tuple[Kind, float, float]],
        openings: Sequence[Wall] = (),
        mitres: tuple[int, int] = (0, 0),
    ) -> None:
        """A wall from ``start`` to ``end`` in layers (kind, offset, offset) to the right of that line.

        ``mitres`` are 1 at an end that meets the next wall at an outer right angle, 0 where it is cut square.
        """
        run = np.subtract(end, start)
        length = float(np.linalg.norm(run))
        frame = ((start[0], start[1], 0.0), (*(run / length), 0.0))
        m0, m1 = mitres
        hosts = []
        for kind, a, b in layers:
            profile = [(-a * m0, -a), (-b * m0, -b), (length + b * m1, -b), (length + a * m1, -a)]
            hosts.append(
                self.ifc.solid(kind, f"{name}, {kind.material.lower()}", self.storeys[storey], profile, bottom, height, frame)
            )
        depth = max(b for _, _, b in layers)
        for along, sill, width, tall, what in openings:
            hole = [(along, 0.4), (along + width, 0.4), (along + width, -depth - 0.1), (along, -depth - 0.1)]
            voids = [self.ifc.opening(host, hole, sill, tall, frame) for host in hosts]
            made = self.joinery(name, storey, along, sill, width, tall, what, layers[0][2], frame)
            self.ifc.fill(voids[0], made)

    def joinery(
        self,
        name: str,
        storey: str,
        along: float,
        sill: float,
        width: float,
        tall: float,
        what: str,
        back: float,
        frame: tuple[Point, Point],
    ) -> Any:
        """A window or door in an opening, set at the outer face of the inner layer."""
        y0, y1 = -back, -back + 0.08
        x0, x1, z0, z1 = along, along + width, sill, sill + tall
        bar = 0.07
        rails = [
            ((x0, y0, z0), (x0 + bar, y1, z1)),
            ((x1 - bar, y0, z0), (x1, y1, z1)),
            ((x0 + bar, y0, z1 - bar), (x1 - bar, y1, z1)),
        ]
        if what != "door":
            rails.append(((x0 + bar, y0, z0), (x1 - bar, y1, z0 + bar)))
        panes = max(1, round((width - bar) / 1.3))
        for i in range(1, panes):
            x = x0 + width * i / panes
            rails.append(((x - bar / 2, y0, z0 + bar * (what != "door")), (x + bar / 2, y1, z1 - bar)))
        parts: list[Any] = [shapes.box(*rail) for rail in rails]
        if what == "door":
            leaf = shapes.box((x0 + bar, y0 + 0.01, z0 + 0.01), (x1 - bar, y0 + 0.06, z1 - bar))
            parts.append((leaf, DOOR.colour))
            return self.ifc.mesh(DOOR, f"Door in {name.lower()}", self.storeys[storey], *parts, frame=frame)
        inner = shapes.box((x0 + bar, y0 + 0.03, z0 + bar), (x1 - bar, y0 + 0.05, z1 - bar))
        parts.append((inner, GLASS))
        kind = DOOR if what == "glazed door" else WINDOW
        word = "Glazed door" if what == "glazed door" else "Window"
        return self.ifc.mesh(kind, f"{word} in {name.lower()}", self.storeys[storey], *parts, frame=frame)

    def external(
        self,
        name: str,
        storey: str,
        start: Point,
        end: Point,
        bottom: float,
        height: float,
        openings: Sequence[Wall] = (),
        mitres: tuple[int, int] = (1, 1),
    ) -> None:
        """An outer wall in its three layers; the building lies to the left of start → end."""
        self.wall(name, storey, start, end, bottom, height, OUTER_LAYERS, openings, mitres)

    def main_walls(self) -> None:
        """The outer walls of the main house, the gable, and the partitions."""
        boat_doors = [(1.2 + 4.6 * i, 0.0, 3.8, 3.6, "glazed door") for i in range(4)]
        clerestory = [(1.2 + 4.6 * i, 4.5, 3.8, 1.2, "window") for i in range(4)]
        river_rooms = [
            (20.6, 1.2, 2.0, 1.2, "window"),
            (26.0, 1.2, 2.0, 1.2, "window"),
            (20.4, UPPER, 3.6, 2.4, "glazed door"),
            (25.2, UPPER, 3.6, 2.4, "glazed door"),
        ]
        self.external("River wall", "Ground floor", (0, 0), (LENGTH, 0), 0, EAVES, boat_doors + clerestory + river_rooms)
        self.external(
            "East wall",
            "Ground floor",
            (LENGTH, 0),
            (LENGTH, DEPTH),
            0,
            EAVES,
            [
                (5.2, 0.0, 1.4, 2.3, "door"),
                (1.4, 1.4, 1.6, 1.0, "window"),
                (8.6, 1.4, 1.6, 1.0, "window"),
                (1.6, UPPER + 0.8, 2.2, 1.5, "window"),
                (7.4, UPPER + 0.8, 2.2, 1.5, "window"),
            ],
        )
        bank = [(2.0 + 2.6 * i, 1.6, 1.4, 0.9, "window") for i in range(3)]
        bank += [(12.2 + 4.4 * i, 3.6, 2.4, 1.8, "window") for i in range(4)] + [(4.4, 0.0, 1.4, 2.2, "door")]
        self.external("Bank wall", "Ground floor", (LENGTH, DEPTH), (0, DEPTH), 0, EAVES, bank)
        self.external(
            "West wall",
            "Ground floor",
            (0, DEPTH),
            (0, 0),
            0,
            EAVES,
            [(1.6, 2.4, 1.6, 2.6, "window"), (5.2, 0.0, 1.6, 2.3, "door"), (8.8, 2.4, 1.6, 2.6, "window")],
        )
        for kind, a, b in OUTER_LAYERS:
            peak = EAVES + PITCH * DEPTH / 2
            outline = [(0.0, EAVES), (DEPTH, EAVES), (DEPTH / 2, peak)]
            gable = shapes.upright(outline, (0, DEPTH), (0, -1), (a, b))
            self.ifc.mesh(kind, f"West gable, {kind.material.lower()}", self.storeys["Roof"], shapes.outward(gable))
        brick = [(PARTITION, -0.1, 0.1)]
        inside = 0.14
        self.wall(
            "Hall wall",
            "Ground floor",
            (HALL, inside),
            (HALL, DEPTH - inside),
            0,
            EAVES,
            brick,
            [(5.1, 0.0, 1.1, 2.1, "door"), (3.4, UPPER + 0.9, 4.6, 1.4, "window")],
        )
        for y, door in ((4.3, 1.0), (7.2, 8.2)):
            run = (HALL + 0.1, y), (LENGTH - inside, y)
            self.wall("Changing wall", "Ground floor", *run, 0, UPPER - 0.25, brick, [(door, 0.0, 1.0, 2.1, "door")])

    # Floors --------------------------------------------------------------------------------------------------

    def floors(self) -> None:
        """Footings, slabs, finishes, ceilings, the stair and the terrace."""
        ground, below, upper = (self.storeys[s] for s in ("Ground floor", "Foundations", "Upper floor"))
        for name, a, b in (
            ("River", (-0.3, -0.3), (LENGTH + 0.3, 0.4)),
            ("Bank", (-0.3, 11.6), (LENGTH + 0.3, 12.3)),
            ("West", (-0.3, 0.4), (0.4, 11.6)),
            ("East", (29.6, 0.4), (30.3, 11.6)),
            ("Hall", (19.15, 0.4), (19.85, 11.6)),
        ):
            self.ifc.mesh(FOOTING, f"{name} footing", below, shapes.box((*a, -1.1), (*b, -0.3)))
        self.ifc.solid(SLAB, "Ground slab", ground, _rectangle(-0.13, -0.13, LENGTH + 0.13, DEPTH + 0.13), -0.3, 0.28)
        hall = _rectangle(0.14, 0.14, HALL - 0.1, DEPTH - 0.14)
        self.ifc.solid(SLAB, "Screed in the hall", ground, hall, -0.02, 0.02)
        for name, y0, y1 in (("river changing room", 0.14, 4.2), ("stair hall", 4.4, 7.1), ("bank changing room", 7.3, 11.86)):
            room = _rectangle(HALL + 0.1, y0, LENGTH - 0.14, y1)
            self.ifc.solid(FINISH, f"Floor of the {name}", ground, room, -0.02, 0.02)
            if name != "stair hall":
                self.ifc.solid(CEILING, f"Ceiling of the {name}", ground, room, 2.7, 0.02)

        well = shapely.box(21.6, 5.55, 26.9, 6.95)
        floor = shapely.box(HALL + 0.1, 0.14, LENGTH - 0.14, DEPTH - 0.14).difference(well)
        self.ifc.mesh(DECKS, "Upper floor", upper, shapes.prism(floor, UPPER - 0.25, UPPER - 0.02))
        self.ifc.mesh(FINISH, "Floor of the clubroom", upper, shapes.prism(floor, UPPER - 0.02, UPPER))
        self.stair(ground)
        self.ifc.mesh(RAILING, "Railing at the stairwell", upper, _railing([(21.6, 5.5), (27.0, 5.5), (27.0, 7.0)], UPPER))
        self.terrace(upper)

    def stair(self, storey: Any) -> None:
        """A straight flight of twenty risers, saw-toothed above, sloping below."""
        risers, going = 20, 0.262
        rise = UPPER / risers
        profile = [(0.0, 0.0)]
        for i in range(risers - 1):
            profile += [(i * going, (i + 1) * rise), ((i + 1) * going, (i + 1) * rise)]
        end = (risers - 1) * going
        profile += [(end, (risers - 1) * rise - 0.22), (0.32, 0.0)]
        flight = shapes.outward(shapes.upright(profile, (21.7, 5.6), (1, 0), (-1.25, 0.0)))
        self.ifc.mesh(STAIR, "Stair to the clubroom", storey, flight)
        top = [(21.7 + 0.1, 0.0), (21.7 + end, UPPER - rise)]
        posts = [
            shapes.rod((x, 5.62, z), (x, 5.62, z + 0.95), 0.012)
            for x, z in zip(np.linspace(top[0][0], top[1][0], 20), np.linspace(rise, UPPER - rise, 20))
        ]
        hand = shapes.rod((top[0][0], 5.62, rise + 0.95), (top[1][0], 5.62, UPPER - rise + 0.95), 0.022)
        self.ifc.mesh(RAILING, "Handrail of the stair", storey, shapes.join(*posts, hand))

    def terrace(self, storey: Any) -> None:
        """The terrace before the clubroom: posts, beams, boards and a railing."""
        for x in (HALL + 0.2, 22.9, 26.4, LENGTH - 0.1):
            self.ifc.mesh(
                COLUMN,
                "Terrace post",
                self.storeys["Ground floor"],
                shapes.box((x - 0.1, -3.9, -0.8), (x + 0.1, -3.7, UPPER - 0.31)),
            )
            self.ifc.mesh(
                FOOTING, "Terrace pad", self.storeys["Foundations"], shapes.box((x - 0.3, -4.1, -1.2), (x + 0.3, -3.5, -0.8))
            )
            self.ifc.mesh(
                TRUSS, "Terrace joist", storey, shapes.box((x - 0.06, -4.1, UPPER - 0.31), (x + 0.06, -0.13, UPPER - 0.07))
            )
        for i in range(28):
            y = -4.1 + 0.142 * i
            self.ifc.mesh(
                BOARD, "Terrace board", storey, shapes.box((HALL, y, UPPER - 0.07), (LENGTH + 0.1, y + 0.136, UPPER - 0.03))
            )
        rail = _railing(
            [(HALL + 0.05, -0.15), (HALL + 0.05, -4.05), (LENGTH + 0.05, -4.05), (LENGTH + 0.05, -0.15)], UPPER - 0.03
        )
        self.ifc.mesh(RAILING, "Terrace railing", storey, rail)

    # Roof ----------------------------------------------------------------------------------------------------

    def main_roof(self) -> None:
        """Gabled to the west, hipped to the east, in layers, with a roof light and trusses over the hall."""
        o, ridge, hip = OVERHANG, DEPTH / 2, LENGTH - DEPTH / 2
        river = shapely.Polygon([(-o, -o), (LENGTH + o, -o), (hip, ridge), (-o, ridge)])
        bank = shapely.Polygon([(LENGTH + o, DEPTH + o), (-o, DEPTH + o), (-o, ridge), (hip, ridge)])
        east = shapely.Polygon([(LENGTH + o, -o), (LENGTH + o, DEPTH + o), (hip, ridge)])
        light = shapely.box(9.0, 2.2, 11.4, 4.2)
        self.roof_side("River side", "Roof", river, (0.0, 0.0), (0, 1), PITCH, EAVES, light)
        self.roof_side("Bank side", "Roof", bank, (0.0, DEPTH), (0, -1), PITCH, EAVES, None)
        self.roof_side("East hip", "Roof", east, (LENGTH, 0.0), (-1, 0), PITCH, EAVES, None)
        self.roof_light(light)
        top = EAVES + PITCH * ridge
        for x in (3.9, 7.8, 11.7, 15.6):
            members = {
                "tie": ((x, 0.14, EAVES - 0.15), (x, DEPTH - 0.14, EAVES - 0.15)),
                "king post": ((x, ridge, EAVES - 0.05), (x, ridge, top - 0.12)),
                "river strut": ((x, ridge - 0.1, EAVES + 0.3), (x, 3.2, EAVES + PITCH * 3.2 - 0.1)),
                "bank strut": ((x, ridge + 0.1, EAVES + 0.3), (x, 8.8, EAVES + PITCH * 3.2 - 0.1)),
            }
            for word, (p, q) in members.items():
                self.ifc.mesh(TRUSS, f"Truss {word}", self.storeys["Roof"], shapes.beam(p, q, 0.16, 0.24))
        self.ifc.mesh(
            TRUSS, "Ridge beam", self.storeys["Roof"], shapes.box((0, ridge - 0.06, top - 0.34), (hip, ridge + 0.06, top - 0.02))
        )

    def roof_side(
        self,
        name: str,
        storey: str,
        face: shapely.Polygon,
        foot: Point,
        up: Point,
        pitch: float,
        level: float,
        light: shapely.Polygon | None,
    ) -> None:
        """One face of a roof in five layers. ``up`` is the level direction of the slope, rising from ``foot``."""
        base, slope = np.asarray(foot, float), np.asarray(up, float) / np.linalg.norm(up)
        across = np.array([slope[1], -slope[0]])

        def distance(points: NDArray[np.float64]) -> NDArray[np.float64]:
            return np.asarray((points - base) @ slope)

        def lifted(by: float) -> shapes.Height:
            return lambda points: level + pitch * distance(points) + by

        def strip(direction: NDArray[np.float64], low: float, high: float) -> list[shapely.Polygon]:
            other = np.array([-direction[1], direction[0]])
            corners = [base + direction * d + other * e for d, e in ((low, -80), (high, -80), (high, 80), (low, 80))]
            cut = shapely.intersection(sheet, shapely.Polygon(corners))
            return [p for p in shapely.get_parts(cut) if p.geom_type == "Polygon" and p.area > 0.01]

        into = self.storeys[storey]
        sheet = face if light is None else face.difference(light)
        self.ifc.mesh(LINING, f"{name}, lining", into, shapes.prism(sheet, lifted(0.24), lifted(0.27)))
        self.ifc.mesh(ROOF_INSULATION, f"{name}, insulation", into, shapes.prism(sheet, lifted(0.27), lifted(0.47)))
        corners = np.asarray(face.exterior.coords)
        runs = (corners - base) @ across
        rafter_pitch = 0.75
        for k in range(math.ceil(runs.min() / rafter_pitch), math.floor(runs.max() / rafter_pitch) + 1):
            for piece in strip(across, k * rafter_pitch - 0.04, k * rafter_pitch + 0.04):
                self.ifc.mesh(RAFTER, f"{name}, rafter", into, shapes.prism(piece, lifted(0.0), lifted(0.24)))
        rises = distance(corners)
        gauge = 0.36
        for k in range(math.ceil((rises.max() - rises.min()) / gauge)):
            low = rises.min() + k * gauge
            for piece in strip(slope, low + 0.2, low + 0.25):
                self.ifc.mesh(BATTEN, f"{name}, batten", into, shapes.prism(piece, lifted(0.47), lifted(0.51)))

            def tile(by: float, low: float = low) -> shapes.Height:
                # Each course lies a little flatter than the roof, its foot on the head of the course below.
                return lambda points: level + pitch * distance(points) + by + 0.045 * (1 - (distance(points) - low) / gauge)

            for piece in strip(slope, low, low + gauge + 0.05):
                self.ifc.mesh(TILES, f"{name}, tiles", into, shapes.prism(piece, tile(0.515), tile(0.535)))

    def roof_light(self, light: shapely.Polygon) -> None:
        """The glazed roof light in the river side, with an upstand."""

        def at(by: float) -> shapes.Height:
            return lambda points: EAVES + PITCH * points[:, 1] + by

        ring = light.difference(light.buffer(-0.08, join_style="mitre"))
        pane = light.buffer(-0.08, join_style="mitre")
        self.ifc.mesh(
            ROOF_LIGHT,
            "Roof light",
            self.storeys["Roof"],
            shapes.prism(ring, at(0.24), at(0.70)),
            (shapes.prism(pane, at(0.62), at(0.65)), GLASS),
        )

    # Wing ----------------------------------------------------------------------------------------------------

    def wing(self) -> None:
        """The training wing, turned 24° off the river, with a roof of its own and a glazed link."""
        a = math.radians(WING_ANGLE)
        along, right = np.array([math.cos(a), math.sin(a)]), np.array([math.sin(a), -math.cos(a)])
        p = np.array(WING_ORIGIN)
        corner = [p + right * WING_WIDTH, p + right * WING_WIDTH + along * WING_LENGTH, p + along * WING_LENGTH, p]
        tall, low, ground = 4.3, 3.1, self.storeys["Ground floor"]
        names = ("Wing, east wall", "Wing, end wall", "Wing, west wall", "Wing, link wall")
        big = [(1.0 + 2.8 * i, 0.6, 2.2, 1.9, "window") for i in range(4)]
        holes: list[list[Wall]] = [
            big,
            [(2.0, 0.9, 3.0, 1.6, "window")],
            [(1.5, 1.6, 9.0, 0.9, "window")],
            [(2.6, 0.0, 1.6, 2.2, "door")],
        ]
        for i in range(4):
            self.external(names[i], "Ground floor", corner[i], corner[(i + 1) % 4], 0, low, holes[i])
        outline = shapely.Polygon(corner)
        self.ifc.mesh(SLAB, "Wing slab", ground, shapes.prism(outline.buffer(0.13, join_style="mitre"), -0.3, -0.02))
        self.ifc.mesh(
            FINISH, "Floor of the training room", ground, shapes.prism(outline.buffer(-0.14, join_style="mitre"), -0.02, 0.0)
        )
        self.ifc.mesh(
            FOOTING,
            "Wing footing",
            self.storeys["Foundations"],
            shapes.prism(
                outline.buffer(0.3, join_style="mitre").difference(outline.buffer(-0.4, join_style="mitre")), -1.0, -0.3
            ),
        )
        o = 0.6
        half = WING_WIDTH / 2
        rise = (tall - low) / half
        ends = [p - along * o, p + along * (WING_LENGTH + o)]
        west = shapely.Polygon([ends[0] - right * o, ends[0] + right * half, ends[1] + right * half, ends[1] - right * o])
        east = shapely.Polygon(
            [
                ends[0] + right * half,
                ends[0] + right * (WING_WIDTH + o),
                ends[1] + right * (WING_WIDTH + o),
                ends[1] + right * half,
            ]
        )
        self.roof_side("Wing, west side", "Ground floor", west, p, right, rise, low, None)
        self.roof_side("Wing, east side", "Ground floor", east, corner[0], -right, rise, low, None)
        for kind, d0, d1 in OUTER_LAYERS:
            profile = [(0.0, low), (WING_WIDTH, low), (half, tall)]
            for start, run in ((corner[1], -right), (corner[3], right)):
                self.ifc.mesh(
                    kind,
                    f"Wing gable, {kind.material.lower()}",
                    ground,
                    shapes.outward(shapes.upright(profile, start, run, (d0, d1))),
                )
        link = shapely.Polygon([(21.5, DEPTH + 0.13), (corner[0][0] - 0.25, DEPTH + 0.13), (21.45, 15.0)])
        self.ifc.mesh(SLAB, "Link slab", ground, shapes.prism(link, -0.3, 0.0))
        self.ifc.mesh(DECKS, "Link roof", ground, shapes.prism(link, 2.75, 2.95))
        self.wall(
            "Link glazing",
            "Ground floor",
            (21.45, 15.0),
            (21.45, DEPTH + 0.13),
            0,
            2.75,
            [(FRAME, 0.0, 0.08)],
            [(0.15, 0.1, 2.5, 2.5, "window")],
        )

    def spaces(self) -> None:
        """The rooms, each a named box."""
        kind_free: list[tuple[str, str, Sequence[Point], float, float]] = [
            ("Boat hall", "Ground floor", _rectangle(0.14, 0.14, HALL - 0.1, 11.86), 0.0, EAVES),
            ("River changing room", "Ground floor", _rectangle(HALL + 0.1, 0.14, 29.86, 4.2), 0.0, 2.7),
            ("Bank changing room", "Ground floor", _rectangle(HALL + 0.1, 7.3, 29.86, 11.86), 0.0, 2.7),
            ("Stair hall", "Ground floor", _rectangle(HALL + 0.1, 4.4, 29.86, 7.1), 0.0, UPPER - 0.25),
            ("Clubroom", "Upper floor", _rectangle(HALL + 0.1, 0.14, 29.86, 11.86), UPPER, 3.0),
        ]
        a = math.radians(WING_ANGLE)
        along, right = np.array([math.cos(a), math.sin(a)]), np.array([math.sin(a), -math.cos(a)])
        p = np.array(WING_ORIGIN)
        room = [
            p + right * 6.86 + along * 0.14,
            p + right * 6.86 + along * 11.86,
            p + right * 0.14 + along * 11.86,
            p + right * 0.14 + along * 0.14,
        ]
        kind_free.append(("Training room", "Ground floor", room, 0.0, 3.0))
        for name, storey, outline, bottom, height in kind_free:
            item = self.ifc.extrusion(outline, bottom, height)
            _, shape = self.ifc._shape([item], "SweptSolid")
            use = "Changing room" if "changing" in name else name
            self.ifc.spatial("IfcSpace", name, self.storeys[storey], LongName=name, ObjectType=use, Representation=shape)


def _rectangle(x0: float, y0: float, x1: float, y1: float) -> list[tuple[float, float]]:
    return [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]


def _railing(line: Sequence[tuple[float, float]], floor: float) -> shapes.Mesh:
    """Posts, balusters and two rails along a plan line."""
    parts = []
    for number, (p, q) in enumerate(zip(line[:-1], line[1:])):
        length = math.dist(p, q)
        for z, r in ((floor + 1.0, 0.022), (floor + 0.1, 0.012)):
            parts.append(shapes.rod((*p, z), (*q, z), r, 6))
        # The one at a corner is the last of the stretch before.
        for t in np.linspace(0, 1, max(2, round(length / 0.16)))[number > 0 :]:
            x, y = p[0] + t * (q[0] - p[0]), p[1] + t * (q[1] - p[1])
            parts.append(shapes.rod((x, y, floor), (x, y, floor + 1.0), 0.008, 4))
    return shapes.join(*parts)


def build() -> Any:
    """The boathouse as an ifcopenshell file."""
    house = Boathouse()
    house.main_walls()
    house.floors()
    house.main_roof()
    house.wing()
    house.spaces()
    furnish(house.ifc, house.storeys, WING_ORIGIN, WING_ANGLE)
    park(house.ifc, house.site)
    add_details(house.ifc, house.storeys, house.site, ground_height, WING_ORIGIN, WING_ANGLE)
    return house.ifc.finish()
