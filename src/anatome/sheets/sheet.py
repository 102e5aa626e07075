"""Sheets as values: a paper, what lies on it and where, in millimetres from its lower left corner."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from anatome.look.look import Rgb
from anatome.values import Value

Place = tuple[float, float]
"""Millimetres to the right and up."""
Content = Literal["picture", "lines", "both", "tones"]
LegendBy = Literal["material", "fill", "type", "storey"]
MOST_PICTURE = 40_000_000
"""Letters of a picture inside a project (base64), at most."""


class Block(Value):
    """What lies on a sheet; ``at`` is its lower left corner."""

    id: str
    at: Place = (0.0, 0.0)


class SceneFrame(Block):
    """A scene: its picture, its lines, lines over a picture, or lines over flat tones.

    At a ``scale`` (the 50 of 1:50, in the plane its picture shows true) it is as large as that makes it; without one its whole
    picture is ``height`` mm high. ``crop`` is what of it is shown, in shares: left, bottom, right, top. ``look`` is the name of
    another look than its own. With a ``caption`` its name stands under it, behind its number on the sheet where it is
    ``numbered``. It lies on the sheet's own white, or, if it is ``papered``, on the paper of its look.
    """

    kind: Literal["scene"] = "scene"
    scene: str
    scale: float | None = Field(default=None, gt=0.001, le=1e6)
    height: float = Field(default=100.0, gt=1, le=5000)
    crop: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    content: Content = "picture"
    look: str = ""
    notes: bool = True
    line: bool = False
    caption: bool = True
    numbered: bool = False
    papered: bool = False
    room: tuple[float, float] | None = Field(default=None, description="mm across and up that it keeps free while it is empty")

    @field_validator("crop")
    @classmethod
    def _keeps_something(cls, crop: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
        left, bottom, right, top = crop
        if not (0 <= left < right - 0.01 and right <= 1 and 0 <= bottom < top - 0.01 and top <= 1):
            raise ValueError("a crop keeps a part of the picture")
        return crop


class TextBlock(Block):
    """Words in lines; capitals ``height`` mm. Fields in braces are those of the title block."""

    kind: Literal["text"] = "text"
    text: str = Field(max_length=10_000)
    height: float = Field(default=3.5, gt=0.5, le=100)
    strong: bool = False


class PictureBlock(Block):
    """A picture of one's own (PNG or JPEG, base64), ``width`` mm wide."""

    kind: Literal["picture"] = "picture"
    data: str = Field(max_length=MOST_PICTURE)
    width: float = Field(default=40.0, gt=1, le=5000)
    aspect: float = Field(default=1.0, gt=0.001, lt=1000)


class LegendBlock(Block):
    """What is cut on the sheet, each with its fill and hatch; words ``height`` mm. It ``says`` materials, types or storeys; or
    what the fills of each scene's look are by, and each fill once."""

    kind: Literal["legend"] = "legend"
    height: float = Field(default=2.5, gt=0.5, le=50)
    columns: int = Field(default=1, ge=1, le=10)
    says: LegendBy = "material"


class ContentsBlock(Block):
    """All sheets of the project in a list ``width`` mm wide: number, title, scale, revision, date; words ``height`` mm."""

    kind: Literal["contents"] = "contents"
    height: float = Field(default=2.5, gt=0.5, le=50)
    width: float = Field(default=170.0, gt=40, le=2000)


class KeyPlanBlock(Block):
    """A small plan of a storey (its id; nothing: the lowest lived in), ``height`` mm high, with the lines of the sections on the
    sheet."""

    kind: Literal["key plan"] = "key plan"
    storey: str = ""
    height: float = Field(default=45.0, gt=5, le=2000)


class ScaleBarBlock(Block):
    """A scale bar: at a ``scale`` of its own, or at that held by the first scene on the sheet that holds one."""

    kind: Literal["scale bar"] = "scale bar"
    scale: float | None = Field(default=None, gt=0.001, le=1e6)
    unit: Literal["m", "ft"] = "m"
    height: float = Field(default=2.5, gt=0.5, le=50, description="of its figures")


class NorthBlock(Block):
    """A north point, ``height`` mm high: turned so many degrees clockwise, or as the first plan on the sheet has it."""

    kind: Literal["north point"] = "north point"
    turn: float | None = Field(default=None, ge=-360, le=360)
    height: float = Field(default=18.0, gt=4, le=500)


AnyBlock = KeyPlanBlock | SceneFrame | TextBlock | PictureBlock | LegendBlock | ScaleBarBlock | NorthBlock | ContentsBlock
BlockValue = Annotated[AnyBlock, Field(discriminator="kind")]


class Titles(Value):
    """What title blocks of all sheets of a project say, besides what is a sheet's own."""

    organisation: str = Field(default="", max_length=200)
    project: str = Field(default="", max_length=200, description="nothing: the project's name")
    drawn: str = Field(default="", max_length=200, description="by whom")
    date: str = Field(default="", max_length=100)
    logo: str = Field(default="", max_length=MOST_PICTURE, description="a picture (PNG or JPEG, base64)")


class Sheet(Value):
    """A paper of a size in mm; ``bordered`` it has the frame of ISO 5457, with a ``title_block`` that of ISO 7200."""

    id: str
    name: str = Field(max_length=200)
    number: str = Field(default="", max_length=50, description="nothing: its place among the sheets")
    revision: str = Field(default="", max_length=20)
    date: str = Field(default="", max_length=100, description="nothing: that of all sheets")
    paper: tuple[float, float] = (420.0, 297.0)
    bordered: bool = True
    title_block: bool = True
    blocks: tuple[BlockValue, ...] = Field(default=(), max_length=500)
    ground: Rgb | None = Field(default=None, description="what all of the paper is tinted with, nothing for white")
    grid: float | None = Field(
        default=None, ge=1, le=1000, description="mm between the lines blocks are drawn to, from its border"
    )
    guides: tuple[tuple[Literal["x", "y"], float], ...] = Field(default=(), max_length=100)

    @field_validator("paper")
    @classmethod
    def _is_a_paper(cls, paper: tuple[float, float]) -> tuple[float, float]:
        if not all(20 <= side <= 5000 for side in paper):
            raise ValueError("a paper is from 20 mm to 5 m long")
        return paper

    def block(self, block_id: str | None) -> AnyBlock | None:
        """Return what lies on it with this id, or None."""
        return next((b for b in self.blocks if b.id == block_id), None)

    @property
    def frames(self) -> tuple[SceneFrame, ...]:
        """The scenes on it."""
        return tuple(b for b in self.blocks if isinstance(b, SceneFrame))
