"""What commands need of the window they are given to."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from PySide6.QtWidgets import QWidget

from anatome.app.before_after.view import BeforeAfter
from anatome.app.document.desk import Desk
from anatome.app.document.documents import Documents
from anatome.app.document.film_desk import FilmDesk
from anatome.app.document.newer_model import NewerModel
from anatome.app.document.session import Session
from anatome.app.document.spoken_units import SpokenUnits
from anatome.app.films.player import Player
from anatome.app.key_drawings.flat_drawing import FlatDrawing
from anatome.app.key_drawings.kinds import KeyElevation, KeyPlan
from anatome.app.sheets.view import SheetView
from anatome.app.stage.stage import Stage
from anatome.app.stage.stage_input import StageInput
from anatome.app.trying.looks import LookRound
from anatome.app.trying.suggestions import Suggester


class Host(Protocol):
    """A window, as far as commands are concerned."""

    session: Session
    documents: Documents
    stage: Stage
    stage_input: StageInput
    key_plan: KeyPlan
    key_elevation: KeyElevation
    flat: FlatDrawing
    spoken: SpokenUnits
    suggester: Suggester
    look_round: LookRound
    desk: Desk
    film_desk: FilmDesk
    player: Player
    sheet_view: SheetView
    newer: NewerModel
    before_after: BeforeAfter

    @property
    def widget(self) -> QWidget:
        """What dialogs stand over."""

    def tell(self, text: str, title: str = ...) -> None:
        """Say what went wrong."""

    def show_panels(self) -> None:
        """Have the panels at the sides in sight."""

    def show_own_look(self) -> None:
        """Show where it is said how the picked parts look."""

    def show_task(self) -> None:
        """Let the commands show which task is under way."""

    def may_close(self) -> bool:
        """Ask what to do with unsaved work; False means stay."""

    def toggle_alone(self) -> None:
        """The stage alone, or everything again."""

    def present(self, scenes: Sequence[str]) -> None:
        """Show some scenes full screen, or all of them."""

    def grow_plan(self) -> None:
        """The key plan and the stage change places."""

    def grow_elevation(self) -> None:
        """The key elevation and the stage change places."""

    @property
    def flat_is_beside(self) -> bool:
        """Whether the flat drawing of the picked cut stands beside the stage."""

    def toggle_flat(self) -> None:
        """The picked cut flat beside the stage, or back among the key drawings."""

    def toggle_panels(self) -> None:
        """Fold the panels to the edges or unfold them."""

    def toggle_scene_page(self) -> None:
        """All scenes as a page over the stage, or the stage again."""

    def leave_scene_page(self) -> None:
        """Have the stage in sight."""

    def open_before_after(self) -> None:
        """Have what has changed in the model in sight, in the place of the stage."""

    def show_steps(self) -> None:
        """What was done, as a list."""

    def set_dark(self, on: bool) -> None:
        """The dark theme or the light one."""

    @property
    def is_dark(self) -> bool:
        """Whether the dark theme is on."""

    def step_back(self) -> None:
        """Escape, wherever the focus is."""

    def find_command(self) -> None:
        """Reach any command by a few letters."""

    def show_settings(self) -> None:
        """The settings, on one page."""

    def show_keys(self) -> None:
        """A list of every key."""
