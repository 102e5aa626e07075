"""The project as a frozen value. An edit is a function from a project to the next one (see edits.py)."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, StrictInt, field_serializer, field_validator

from anatome.cuts.cut import AnyCut, Cut
from anatome.cuts.details import Detail
from anatome.cuts.exploding import Exploded
from anatome.cuts.pieces import parts
from anatome.cuts.plane import Plane
from anatome.cuts.poche_rules import PocheRules
from anatome.cuts.series import SerialSections
from anatome.cuts.treatment import STARTING_RULE, Treatments
from anatome.look.divide import Divide, looks_of
from anatome.look.line_layers import LineLayers
from anatome.look.look import Look, Rule
from anatome.model.meaning import NO_MEANING, Meanings
from anatome.model.options import OpenOptions
from anatome.notes.note import AnyNote, Note, NoteStyle
from anatome.notes.touching_up import TouchUp
from anatome.scenes.film import Film
from anatome.sheets.sheet import Sheet, Titles
from anatome.site.site import NO_SITE, Site
from anatome.values import Value
from anatome.view.camera import Camera
from anatome.view.crop import Crop, height_at, true_plane
from anatome.view.framing import drawn_as
from anatome.view.projections import SINE_OF_STEEPEST
from anatome.view.viewport import Frame

ROUND_A_CROP = 1.05
"""How much more of a picture than its crop a stage shows that is too small for the whole of it."""
MOST_SAMPLES = 4096
Units = Literal["", "metric", "imperial"]
VERSION = 4
"""Raised when a project can no longer be read by what came before; migrations.py then says how older ones become new."""


class StageState(Value):
    """Everything that makes a picture: camera, cuts and their rules, what is hidden, look. A scene stores exactly this."""

    camera: Camera
    cuts: tuple[Cut, ...] = Field(default=(), max_length=1000)
    hidden: frozenset[str] = Field(default=frozenset(), description="ids of hidden elements")
    hidden_before: frozenset[str] | None = Field(
        default=None, description="while parts are isolated: ids of what was hidden before, and is hidden again afterwards"
    )
    ghosts: bool = Field(default=False, description="all that is hidden is drawn faintly")
    faded: frozenset[str] = Field(default=frozenset(), description="ids of hidden elements that are drawn faintly in any case")
    look: Look = Look()
    overrides: tuple[Rule, ...] = Field(default=(), max_length=500, description="laid over the look, here alone")
    divide: Divide | None = Field(default=None, description="what of the picture has another look")
    still: int = Field(
        default=0, ge=0, le=MOST_SAMPLES, description="samples of light if it is a ray-traced picture; 0: it is drawn"
    )
    treatments: Treatments = Field(default=STARTING_RULE, description="what cuts do to elements instead of slicing them")
    poche: PocheRules = Field(default=PocheRules(), description="how the fill is made where the model does not say")
    crop: Crop | None = Field(default=None, description="what of the stage is the picture; nothing: all of it")
    exploded: Exploded | None = Field(default=None, description="groups of elements drawn apart")
    opening: float = Field(default=1.0, ge=0, le=1, description="how far apart all pieces are drawn, of their whole distance")
    details: tuple[Detail, ...] = Field(default=(), max_length=100, description="parts drawn once more beside the building")

    @field_serializer("hidden", "faded", "hidden_before")
    def _in_order(self, ids: frozenset[str] | None) -> list[str] | None:
        """The same state gives the same bytes."""
        return None if ids is None else sorted(ids)

    series: tuple[SerialSections, ...] = Field(
        default=(), max_length=200, description="serial sections shown with the building or instead of it"
    )

    notes: tuple[Note, ...] = Field(default=(), max_length=2000, description="what is written on the picture")
    note_style: NoteStyle = NoteStyle()
    notes_shown: bool = Field(default=True, description="whether notes are drawn")
    touched_up: tuple[TouchUp, ...] = Field(default=(), max_length=5000, description="lines that a hand has changed")

    def note(self, note_id: str | None) -> AnyNote | None:
        """Return the note with this id, or None."""
        return next((n for n in self.notes if n.id == note_id), None)

    def cut(self, cut_id: str | None) -> AnyCut | None:
        """Return the cut with this id, or None."""
        return next((c for c in self.cuts if c.id == cut_id), None)

    def detail(self, detail_id: str | None) -> Detail | None:
        """Return the detail with this id, or None."""
        return next((d for d in self.details if d.id == detail_id), None)

    @property
    def is_written_on(self) -> bool:
        """Whether its picture has notes, or captions under details."""
        return self.notes_shown and bool(self.notes or any(detail.caption for detail in self.details))

    @property
    def has_wash_edges(self) -> bool:
        """Whether washes dry darker along their edges in its picture."""
        return any(look.wash_edge > 0 for look in looks_of(self.look, self.divide))

    @property
    def active_cuts(self) -> tuple[AnyCut, ...]:
        """The cuts that are on."""
        return tuple(c for c in self.cuts if c.on)

    @property
    def ghostly(self) -> frozenset[str]:
        """Ids of what is hidden and yet faintly drawn."""
        return self.hidden if self.ghosts else self.hidden & self.faded

    @property
    def is_apart(self) -> bool:
        """Whether it has pieces that could be drawn apart, open or closed."""
        return self.exploded is not None or any(parts(cut) for cut in self.cuts)

    @property
    def apart_key(self) -> tuple[object, ...]:
        """What decides, besides cuts, hiding and series, which parts are drawn where and which of them faintly."""
        return self.exploded, self.opening, self.details, self.ghosts, self.faded

    def true_plane(self, first: str | None = None) -> Plane | None:
        """Return a plane of the cuts that are on which the camera sees true, that of the cut ``first`` if there is one."""
        cuts = sorted(self.active_cuts, key=lambda cut: cut.id != first)
        return true_plane(self.camera, (plane for cut in cuts for cell in cut.cells() for plane in cell.planes))

    @property
    def cuts_seen_true(self) -> tuple[AnyCut, ...]:
        """The cuts that are on of which a face lies in the plane the camera sees true."""
        plane = self.true_plane()
        return tuple(c for c in self.active_cuts if plane is not None and any(plane in cell.planes for cell in c.cells()))

    @property
    def drawn(self) -> str:
        """How it is drawn, in the trade's words, and which cuts an elevation oblique is true to."""
        words, stands = drawn_as(self.camera, bool(self.active_cuts)), abs(float(self.camera.axes[2][2])) < SINE_OF_STEEPEST
        true = self.cuts_seen_true if self.camera.is_oblique and stands else ()
        return f"{words} true to {' and '.join(cut.mark for cut in true)}" if true else words

    def serial(self, series_id: str | None) -> SerialSections | None:
        """Return the serial sections with this id, or None."""
        return next((s for s in self.series if s.id == series_id), None)


class Scene(Value):
    """A saved state with a name. ``frame`` is what of the camera's image is its picture: the crop, or all the stage showed.

    Nothing changes what a ``locked`` one shows, its name, or that it is there.
    """

    id: str
    name: str
    state: StageState
    frame: Frame = Frame()
    lines_kept: bool = Field(default=False, description="its linework is kept in the project, and made anew when it changes")
    line_layers: LineLayers | None = Field(default=None, description="how its linework is put on layers, if not by kind")
    locked: bool = False
    stack: str = Field(default="", max_length=64, description="the same for all variants of one scene; nothing: it is none")
    own_parts: frozenset[str] = Field(
        default=frozenset(), description="the parts in which variants differ; all others they have in common"
    )
    forgets: frozenset[str] = Field(
        default=frozenset(), description="parts of what it shows that stay as they are on the stage when it is recalled"
    )
    set: str = Field(default="", max_length=200, description="the set it stands in with others; nothing: in none")
    touched: tuple[str, ...] = Field(
        default=(), max_length=20, description="how changes of the model touch it, in words, until somebody has looked it over"
    )

    @field_serializer("forgets", "own_parts")
    def _forgets_in_order(self, parts: frozenset[str]) -> list[str]:
        """The same scene gives the same bytes."""
        return sorted(parts)

    @property
    def aspect(self) -> float:
        """Width over height of its picture."""
        return self.frame.aspect

    def camera_for(self, aspect: float) -> Camera:
        """Return the camera for a picture of other proportions: nothing the scene showed is lost, and nothing stretched."""
        return self.state.camera.widened(self.aspect / aspect) if aspect < self.aspect else self.state.camera

    @property
    def paper(self) -> tuple[float, float] | None:
        """Millimetres of paper across and up that its crop takes at the scale that is held, if there is one."""
        crop, camera = self.state.crop, self.state.camera
        return None if crop is None else crop.paper(height_at(camera, self.state.true_plane()))

    def on_stage(self, aspect: float) -> StageState:
        """Return the state as a stage of these proportions shows it: all of its picture, with what lies round a crop."""
        crop = self.state.crop
        if crop is None:
            return self.state.model_copy(update={"camera": self.camera_for(aspect)})
        more = crop.reach(aspect)
        if more == 1.0:
            return self.state
        more *= ROUND_A_CROP
        return self.state.model_copy(update={"camera": self.state.camera.widened(more), "crop": crop.shrunk(more)})


class ModelReference(Value):
    """Where the model comes from. ``embedded`` models travel inside the project file."""

    path: str = Field(max_length=4096)
    embedded: bool = False
    options: OpenOptions = OpenOptions()
    digest: str = Field(
        default="", max_length=128, description="what tells the state of the model that scenes are of (SHA-256 of its files)"
    )
    source: str = Field(default="", max_length=4096, description="where an embedded model was taken from")

    @property
    def state(self) -> tuple[str, OpenOptions]:
        """What tells one state of the model, opened in one way, from others."""
        return self.digest, self.options

    @field_validator("path", "source")
    @classmethod
    def _can_be_a_path(cls, path: str) -> str:
        """A path no system has is a fault in the file, and found now, not when it is used."""
        names = path.replace("\\", "/").split("/")
        if "\0" in path or any(len(name.encode("utf-8", "surrogatepass")) > 255 for name in names):
            raise ValueError("not a path a file can have")
        path.encode("utf-8")  # a lone half of a surrogate pair
        return path


class OtherModel(Value):
    """A model besides the first: turned by degrees about its origin, anticlockwise seen from above, then moved by metres.

    Its parts are in a group of its name, and their ids begin with its own."""

    id: str = Field(min_length=1, max_length=64)
    name: str = Field(min_length=1, max_length=200)
    model: ModelReference
    on: bool = True
    shift: tuple[float, float, float] = (0.0, 0.0, 0.0)
    turn: float = Field(default=0.0, ge=-360, le=360)


class Project(Value):
    """A model and its site, what the stage shows of them now, and its saved scenes in order."""

    format: Literal["anatome-project"] = "anatome-project"
    version: StrictInt = VERSION
    name: str
    model: ModelReference
    others: tuple[OtherModel, ...] = Field(default=(), max_length=100, description="models besides the first")
    meanings: Meanings = Field(default=NO_MEANING, description="what the parts of the model are said to be, besides what it says")
    site: Site = Field(default=NO_SITE, description="what stands round the model: ground, neighbours, people and trees")
    stage: StageState
    scenes: tuple[Scene, ...] = Field(default=(), max_length=2000)
    folded_sets: frozenset[str] = Field(default=frozenset(), description="names of sets of scenes that are folded together")
    open_stacks: frozenset[str] = Field(default=frozenset(), description="stacks of variants whose scenes are all listed")
    films: tuple[Film, ...] = Field(default=(), max_length=200)
    sheets: tuple[Sheet, ...] = Field(default=(), max_length=500)
    units: Units = Field(
        default="", description="what lengths, areas, papers and scales are told in; nothing: as the reader likes"
    )
    titles: Titles = Field(default=Titles(), description="what the title blocks of all sheets say")
    note_styles: tuple[NoteStyle, ...] = Field(default=(), max_length=200, description="kept under their names, for any notes")
    looks: tuple[Look, ...] = Field(default=(), max_length=500, description="the project's own, besides those of its scenes")
    current_scene: str | None = None
    scene_as_shown: StageState | None = Field(
        default=None, description="the state recalling or saving the current scene put on the stage"
    )

    @field_serializer("folded_sets", "open_stacks")
    def _folded_in_order(self, names: frozenset[str]) -> list[str]:
        """The same project gives the same bytes."""
        return sorted(names)

    @property
    def models(self) -> object:
        """What tells the models that are open together, opened in their ways and placed, from others."""
        return self.model.state, self.others

    def with_stage(self, **changes: Any) -> Project:
        """Return the same with something else on the stage."""
        return self.model_copy(update={"stage": self.stage.model_copy(update=changes)})

    def film(self, film_id: str | None) -> Film | None:
        """Find a film by its id."""
        return next((film for film in self.films if film.id == film_id), None)

    def scene(self, scene_id: str | None) -> Scene | None:
        """Return the scene with this id, or None."""
        return next((s for s in self.scenes if s.id == scene_id), None)

    def sheet(self, sheet_id: str | None) -> Sheet | None:
        """Return the sheet with this id, or None."""
        return next((s for s in self.sheets if s.id == sheet_id), None)

    @property
    def differs_from_scene(self) -> bool:
        """True when the stage no longer shows the scene that was recalled or saved last."""
        return self.scene(self.current_scene) is not None and self.scene_as_shown != self.stage
