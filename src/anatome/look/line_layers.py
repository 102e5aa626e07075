"""How lines are put on layers: by the kind of line and its depth, by what the model says of their element, or by both."""

from __future__ import annotations

from string import Formatter
from typing import Annotated, Literal

from pydantic import Field, field_validator

from anatome.look.look import Rgb, Weight
from anatome.look.pens import Pen
from anatome.model.building import WITHIN, Building
from anatome.values import Value
from anatome.words import plain_type

By = Literal["kind", "model", "both"]
Of = Literal["layer", "type", "material", "storey", "group"]
Dashes = Literal["whole", "dashed", "dotted"]
OTHER, FIGURES = "Other", "People and trees"
"""What lines of no element are called; and those of people and trees."""
FIELDS = {"model": "what the model says: its layer, type, …", "kind": "the kind of line", "depth": "how far it lies"}
USUAL: dict[By, str] = {"kind": "{kind}, {depth}", "model": "{model}", "both": "{model}, {kind}"}
PATTERNS: dict[Dashes, tuple[float, float] | None] = {"whole": None, "dashed": (2.0, 1.0), "dotted": (0.3, 1.0)}
"""Mm on paper of a dash and a gap."""


class LayerPen(Value):
    """What lines on a layer look like, each thing only if it is said. It is for the layers of a ``name``: all of it, or what the
    model says, or the kind of line."""

    name: str = Field(min_length=1, max_length=500)
    on: bool = True
    colour: Rgb | None = None
    weight: Weight | None = None
    dashes: Dashes | None = None


class LineLayers(Value):
    """``of`` what of the model, where it is not by kind alone; ``names`` is a pattern with FIELDS, nothing for the usual one;
    later ``pens`` hold over earlier ones."""

    by: By = "kind"
    of: Of = "layer"
    names: Annotated[str, Field(max_length=200)] = ""
    pens: tuple[LayerPen, ...] = Field(default=(), max_length=2000)

    @field_validator("names")
    @classmethod
    def _can_be_filled(cls, names: str) -> str:
        fields = {field for _, field, _, _ in Formatter().parse(names) if field is not None}
        if fields - set(FIELDS):
            raise ValueError(f"a name of layers may have {', '.join(f'{{{field}}}' for field in FIELDS)}")
        return names

    def name(self, kind: str, model: str, depth: str = "") -> str:
        """Return what a layer is called."""
        made = (self.names or USUAL[self.by]).format(kind=kind, model=model, depth=depth)
        parts = (part.strip() for part in made.split(","))
        return ", ".join(part for part in parts if part) or kind

    def pen(self, pen: Pen, name: str, kind: str, model: str) -> Pen | None:
        """Return how lines of a pen are drawn on a layer; None: not at all."""
        for own in self.pens:
            if own.name in (name, kind, model):
                if not own.on:
                    return None
                dashes = pen.dashes if own.dashes is None else PATTERNS[own.dashes]
                pen = Pen(own.weight or pen.weight, own.colour or pen.ink, dashes)
        return pen


AS_KINDS = LineLayers()


def models_of(building: Building, of: Of) -> list[str]:
    """Return for each element of a building what the model says of it; nothing becomes OTHER."""
    if of == "storey":
        return [OTHER if e.storey is None else building.storeys[e.storey].name or OTHER for e in building.elements]
    if of == "group":
        return [e.groups[-1].replace(WITHIN, "/") if e.groups else OTHER for e in building.elements]
    if of == "type":
        return [plain_type(e.type) or OTHER for e in building.elements]
    return [getattr(e, of) or OTHER for e in building.elements]
