"""The project as a frozen value. An edit is a function from a project to the next one (see edits.py)."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, field_serializer

from anatome.cuts.cut import AnyCut, Cut
from anatome.cuts.poche_rules import PocheRules
from anatome.cuts.series import SerialSections
from anatome.cuts.treatment import STARTING_RULE, Treatments
from anatome.look.look import Look
from anatome.model.options import OpenOptions
from anatome.view.camera import Camera


class Frozen(BaseModel):
    model_config = ConfigDict(frozen=True)


class StageState(Frozen):
    """Everything that makes a picture: camera, cuts and their rules, what is hidden, look. A scene stores exactly this."""

    camera: Camera
    cuts: tuple[Cut, ...] = ()
    hidden: frozenset[str] = Field(default=frozenset(), description="ids of hidden elements")
    look: Look = Look()
    treatments: Treatments = Field(default=STARTING_RULE, description="what cuts do to elements instead of slicing them")
    poche: PocheRules = Field(default=PocheRules(), description="how the fill is made where the model does not say")

    @field_serializer("hidden")
    def _in_order(self, hidden: frozenset[str]) -> list[str]:
        """The same state gives the same bytes."""
        return sorted(hidden)

    series: tuple[SerialSections, ...] = Field(default=(), description="serial sections shown with the building or instead of it")

    def cut(self, cut_id: str | None) -> AnyCut | None:
        """The cut with this id, or None."""
        return next((c for c in self.cuts if c.id == cut_id), None)

    @property
    def active_cuts(self) -> tuple[AnyCut, ...]:
        """The cuts that are on."""
        return tuple(c for c in self.cuts if c.on)

    def serial(self, series_id: str | None) -> SerialSections | None:
        """The serial sections with this id, or None."""
        return next((s for s in self.series if s.id == series_id), None)


class Scene(Frozen):
    """A saved state with a name. ``aspect`` is the width / height of the stage when it was saved: its proportions."""

    id: str
    name: str
    state: StageState
    aspect: float = Field(default=1.6, gt=0.05, lt=20)

    def camera_for(self, aspect: float) -> Camera:
        """The camera for a picture of other proportions: nothing the scene showed is lost, and nothing stretched."""
        return self.state.camera.widened(self.aspect / aspect) if aspect < self.aspect else self.state.camera


class ModelReference(Frozen):
    """Where the model comes from. ``embedded`` models travel inside the project file."""

    path: str
    embedded: bool = False
    options: OpenOptions = OpenOptions()


class Project(Frozen):
    """A model, what the stage shows of it now, and its saved scenes in order."""

    format: Literal["anatome-project"] = "anatome-project"
    version: int = 1
    name: str
    model: ModelReference
    stage: StageState
    scenes: tuple[Scene, ...] = ()
    current_scene: str | None = None
    scene_as_shown: StageState | None = Field(
        default=None, description="the state recalling or saving the current scene put on the stage"
    )

    def scene(self, scene_id: str | None) -> Scene | None:
        """The scene with this id, or None."""
        return next((s for s in self.scenes if s.id == scene_id), None)

    @property
    def differs_from_scene(self) -> bool:
        """True when the stage no longer shows the scene that was recalled or saved last."""
        return self.scene(self.current_scene) is not None and self.scene_as_shown != self.stage
