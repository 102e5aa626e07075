"""A tower of walls and round columns as IFC, of any size, as plain text: generating it should not take longer than reading it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from pathlib import Path

PER_STOREY = 512
BAY, STOREY = 5.0, 3.2
# Whether a column, where it stands in its bay, and whether a wall runs along Y.
IN_BAY = (
    (True, 0.0, 0.0, False),
    (False, BAY / 2, 0.0, False),
    (False, 0.0, BAY / 2, True),
    (False, BAY / 2, 1.8, False),
    (False, BAY / 2, 3.4, False),
)
ALPHABET = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz_$"


def global_id(number: int) -> str:
    """A GlobalId of 22 characters (ISO 16739) that says nothing but a number."""
    digits = []
    for _ in range(21):
        number, digit = divmod(number, 64)
        digits.append(ALPHABET[digit])
    return "0" + "".join(reversed(digits))


class Step:
    """Lines of a STEP file, numbered as they come."""

    def __init__(self) -> None:
        self.lines: list[str] = []

    def add(self, text: str) -> str:
        """Enter one entity; returns its name."""
        self.lines.append(f"#{len(self.lines) + 1}={text};")
        return f"#{len(self.lines)}"

    def point(self, *values: float) -> str:
        return self.add(f"IFCCARTESIANPOINT(({','.join(f'{v:.4f}' for v in values)}))")

    def rooted(self, kind: str, rest: str) -> str:
        return self.add(f"{kind}('{global_id(len(self.lines) + 1)}',$,{rest})")


def places(parts: int, storeys: int) -> Iterator[tuple[int, bool, float, float, bool]]:
    """Storey, whether a column, x, y, and whether a wall runs along Y, of every part: a column and four walls for each bay."""
    per_storey = math.ceil(parts / storeys)
    side = max(2, math.ceil(math.sqrt(per_storey / len(IN_BAY))))
    for number in range(parts):
        storey, within = divmod(number, per_storey)
        node, kind = divmod(within, len(IN_BAY))
        row, column = divmod(node, side)
        is_column, dx, dy, turned = IN_BAY[kind]
        yield storey, is_column, column * BAY + dx, row * BAY + dy, turned


def write_tower(path: Path, parts: int, storeys: int | None = None) -> None:
    """Four parts in five are walls of 12 triangles, the fifth a round column of some 150."""
    storeys = storeys or max(1, round(parts / PER_STOREY))
    step = Step()
    up, right, across = (step.add(f"IFCDIRECTION(({d}))") for d in ("0.,0.,1.", "1.,0.,0.", "0.,1.,0."))
    origin = step.point(0, 0, 0)
    axes = step.add(f"IFCAXIS2PLACEMENT3D({origin},{up},{right})")
    context = step.add(f"IFCGEOMETRICREPRESENTATIONCONTEXT($,'Model',3,1.E-05,{axes},$)")
    metre = step.add("IFCSIUNIT(*,.LENGTHUNIT.,$,.METRE.)")
    radian = step.add("IFCSIUNIT(*,.PLANEANGLEUNIT.,$,.RADIAN.)")
    units = step.add(f"IFCUNITASSIGNMENT(({metre},{radian}))")
    project = step.rooted("IFCPROJECT", f"'Tower',$,$,$,$,({context}),{units}")
    ground = step.add(f"IFCLOCALPLACEMENT($,{axes})")
    building = step.rooted("IFCBUILDING", f"'Tower',$,$,{ground},$,$,.ELEMENT.,$,$,$")
    step.rooted("IFCRELAGGREGATES", f"$,$,{project},({building})")
    flat = step.add(f"IFCAXIS2PLACEMENT2D({step.point(0, 0)},$)")
    round_ = step.add(f"IFCCIRCLEPROFILEDEF(.AREA.,$,{flat},0.30)")
    long = step.add(f"IFCRECTANGLEPROFILEDEF(.AREA.,$,{flat},3.60,0.20)")

    placements, names, held = [], [], []
    for storey in range(storeys):
        at = step.add(f"IFCAXIS2PLACEMENT3D({step.point(0, 0, storey * STOREY)},{up},{right})")
        placements.append(step.add(f"IFCLOCALPLACEMENT({ground},{at})"))
        names.append(
            step.rooted("IFCBUILDINGSTOREY", f"'Storey {storey}',$,$,{placements[-1]},$,$,.ELEMENT.,{storey * STOREY:.3f}")
        )
        held.append([])
    step.rooted("IFCRELAGGREGATES", f"$,$,{building},({','.join(names)})")
    members: dict[bool, list[str]] = {True: [], False: []}
    for number, (storey, is_column, x, y, turned) in enumerate(places(parts, storeys)):
        along = across if turned else right
        at = step.add(f"IFCAXIS2PLACEMENT3D({step.point(x, y, 0)},{up},{along})")
        place = step.add(f"IFCLOCALPLACEMENT({placements[storey]},{at})")
        solid = step.add(f"IFCEXTRUDEDAREASOLID({round_ if is_column else long},{axes},{up},3.00)")
        shape = step.add(f"IFCSHAPEREPRESENTATION({context},'Body','SweptSolid',({solid}))")
        whole = step.add(f"IFCPRODUCTDEFINITIONSHAPE($,$,({shape}))")
        kind, word = ("IFCCOLUMN", "Column") if is_column else ("IFCWALL", "Wall")
        product = step.rooted(kind, f"'{word} {number}',$,$,{place},{whole},$,$")
        held[storey].append(product)
        members[is_column].append(product)
    for storey, products in zip(names, held):
        if products:
            step.rooted("IFCRELCONTAINEDINSPATIALSTRUCTURE", f"$,$,({','.join(products)}),{storey}")
    for is_column, name in ((True, "Concrete"), (False, "Brick")):
        material = step.add(f"IFCMATERIAL('{name}',$,$)")
        if members[is_column]:
            step.rooted("IFCRELASSOCIATESMATERIAL", f"$,$,({','.join(members[is_column])}),{material}")
    head = (
        "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\n"
        f"FILE_NAME('{path.name}','2026-01-01T00:00:00',(''),(''),'','','');\nFILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\n"
    )
    path.write_text(head + "\n".join(step.lines) + "\nENDSEC;\nEND-ISO-10303-21;\n")
