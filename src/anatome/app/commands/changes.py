"""A model that has changed: what is different, before and after, taken over or left; scenes that are touched."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog

from anatome.app.base.entry import Entry, group
from anatome.app.base.images import pixels_of
from anatome.app.base.trouble import TROUBLE
from anatome.app.base.work import Work
from anatome.app.commands.host import Host
from anatome.app.commands.open_page import OpenPage
from anatome.app.commands.sheets import SheetCommands
from anatome.app.dialogs.open_options import ask_options
from anatome.app.document.newer_model import Compared
from anatome.files import write_whole
from anatome.formats.pictures_out import png_bytes
from anatome.model.options import MESH_SUFFIXES, MODEL_SUFFIXES
from anatome.problems import Problem
from anatome.scenes.relinking import looked_over

QUALITY = 92
"""Of JPEG pictures that go on a sheet."""


class ChangesCommands(QObject):
    """``changed``: the page is wanted or no longer, or there is something else to show on it."""

    changed = Signal()

    def __init__(self, host: Host, page: OpenPage, sheets: SheetCommands) -> None:
        super().__init__()
        self._host, self._session, self._page, self._sheets = host, host.session, page, sheets
        self.newer = host.newer
        self._work = Work(self, lambda: self._session.opened_as)
        self._offered = ""
        """What was offered last; nobody is told of one file twice."""
        page.changed.connect(self.changed)
        self.newer.changed.connect(self.changed)
        self.newer.noticed.connect(self._noticed)

    @property
    def is_open(self) -> bool:
        """Whether its page is wanted."""
        return self._page.name == "model_changes"

    def entries(self) -> list[Entry]:
        return group(
            "The model",
            "open",
            Entry(
                "model_changes",
                "What has changed in the model",
                "What is new, gone, moved or changed in a newer file, and which scenes that touches, before it is taken over",
                self.toggle,
                "Ctrl+Alt+Shift+C",
                ticked=lambda: self.is_open,
            ),
            Entry(
                "relink",
                "Compare with another file…",
                "The same model from elsewhere, under another name or in another format",
                self.choose,
            ),
            Entry(
                "take_model",
                "Take the changes over",
                "Work with the newer model from now on; scenes, cuts and notes go along",
                self.take_over,
            ),
            Entry(
                "before_after",
                "Before and after",
                "What the stage shows, before the change and after it, side by side or wiped",
                self.show_both,
            ),
            Entry(
                "looked_over",
                "All touched scenes are looked over",
                "Their marks go; a mark says how a change of the model touches a scene",
                self.look_over_all,
                needs="scenes",
            ),
            within="The model",
        )

    # Noticing and comparing ------------------------------------------------------------------------------------

    def _noticed(self) -> None:
        newer = self.newer.newer
        if newer is not None and newer.digest != self._offered:
            self._offered = newer.digest
            self._session.said.emit(f"{newer.path.name} has changed since")
            self._session.offered.emit("model_changes", "See what has changed")
        self.changed.emit()

    def toggle(self) -> None:
        """Show what has changed, or put it away."""
        self._page.toggle("model_changes")
        newer, compared = self.newer.newer, self.newer.compared
        if self.is_open and newer is not None and not self.newer.busy:
            if compared is None or compared.model.digest != newer.digest:
                self.compare(newer.path)
        elif not self.is_open:
            self._host.before_after.leave()

    def choose(self) -> None:
        """Ask for the file the open model is compared with."""
        kinds = " ".join(f"*{s}" for s in MODEL_SUFFIXES)
        name, _ = QFileDialog.getOpenFileName(self._host.widget, "Compare with", "", f"Models ({kinds})")
        if name:
            self.relink(Path(name))

    def relink(self, path: Path) -> None:
        """Compare the open model with that in a file, asking about axis and unit where its kind does not say."""
        options = None
        if path.suffix.lower() in MESH_SUFFIXES and path.suffix.lower() != self._suffix:
            options = ask_options(self._host.widget, path)
            if options is None:
                return
        if not self.is_open:
            self._page.toggle("model_changes")
        try:
            self.newer.compare(path, options)
        except Problem as problem:
            self._host.tell(str(problem))

    @property
    def _suffix(self) -> str:
        return Path(self._session.project.model.path).suffix.lower()

    def compare(self, path: Path) -> None:
        """Compare with a newer state of the same file."""
        try:
            self.newer.compare(path)
        except Problem as problem:
            self._host.tell(str(problem))

    # Taking over -----------------------------------------------------------------------------------------------

    def take_over(self) -> None:
        """Go on with the newer model, as one step."""
        if self.newer.compared is None:
            self._session.said.emit("Nothing was compared yet: see first what has changed")
            return
        self.newer.take_over(self._taken)

    def _taken(self, found: Compared) -> None:
        count = sum(bool(scene.touched) for scene in found.change.project.scenes)
        touched = f"{count} scene{'s' * (count != 1)} to look over" if count else "no scene is touched"
        self._session.said.emit(f"Taken over: {touched}. Undo goes back to the model before.")

    def leave(self) -> None:
        """Not now: the page goes, the file is offered again when somebody asks."""
        if self.is_open:
            self.toggle()

    def look_over(self, scene_id: str) -> None:
        """A scene was looked over: its mark goes."""
        self._session.apply(looked_over(self._session.project, [scene_id]), "Looked over")

    def look_over_all(self) -> None:
        """All of them were."""
        project = self._session.project
        self._session.apply(looked_over(project, [s.id for s in project.scenes]), "All scenes are looked over")

    def recall(self, scene_id: str) -> None:
        """Have a scene on the stage; before and after is of it then."""
        self._session.recall_scene(scene_id, self._host.stage.aspect)

    # Before and after ------------------------------------------------------------------------------------------

    def show_both(self) -> None:
        """The stage's scene before and after."""
        if self.newer.compared is None:
            self._session.said.emit("Nothing was compared yet: see first what has changed")
            return
        self._host.open_before_after()

    def look_at(self, ids: frozenset[str]) -> None:
        """Pick parts that have changed, and have them in sight before and after."""
        compared, building = self.newer.compared, self._session.building
        if compared is None or building is None:
            return
        self._session.pick(elements=frozenset(i for i in ids if i in building.index_of))
        both, whole = (compared.before.building, compared.model.building), compared.change.carried
        was, now = (np.array([b.element_bounds[b.index_of[i]] for i in ids if i in b.index_of]).reshape(-1, 2, 3) for b in both)
        if self.newer.is_taken:
            was = was * whole.factor + whole.shift
        else:
            now = (now - whole.shift) / whole.factor
        bounds = np.concatenate([was, now])
        if len(bounds):
            self._host.before_after.look_at(np.array([bounds[:, 0].min(axis=0), bounds[:, 1].max(axis=0)]))

    def choose_save(self) -> None:
        """Ask where the picture of both is to be saved."""
        name = f"{self._session.project.name}, before and after.png"
        path, _ = QFileDialog.getSaveFileName(self._host.widget, "Save before and after", name, "Pictures (*.png)")
        if path:
            self.save(Path(path))

    def save(self, path: Path) -> None:
        """Write the picture of both as they are arranged."""
        if path.suffix.lower() != ".png":
            path = path.with_name(path.name + ".png")

        def drawn(whole: QImage, both: list[NDArray[np.uint8]]) -> None:
            pixels = pixels_of(whole)
            written = f"Saved to {path}"
            self._work.run(lambda told: write_whole(path, png_bytes(pixels)), lambda _: self._session.said.emit(written), failed)

        def failed(error: Exception) -> None:
            why = error.strerror or error if isinstance(error, OSError) else error
            self._host.tell(f"“{path}” could not be written: {why}. Choose another place.")

        self._session.said.emit("Drawing before and after…")
        self._host.before_after.draw_large(drawn)

    def on_sheet(self) -> None:
        """Both pictures on a new sheet, with what has changed in words."""

        def drawn(whole: QImage, both: list[NDArray[np.uint8]]) -> None:
            aspect = both[0].shape[1] / both[0].shape[0]

            def put(pictures: list[bytes]) -> None:
                self._sheets.before_and_after(pictures, aspect, self.words())

            self._work.run(lambda told: [_jpeg(pixels) for pixels in both], put, TROUBLE.report)

        self._session.said.emit("Drawing before and after…")
        self._host.before_after.draw_large(drawn)

    def words(self) -> str:
        """Return in one line what has changed."""
        compared = self.newer.compared
        if compared is None:
            return ""
        found = compared.change.found
        counts = {
            "new": found.new,
            "gone": found.gone,
            "moved": found.moved,
            "changed in shape": found.reshaped,
            "of other material or colour": found.restyled,
        }
        told = [f"{int(mask.sum()):,} {what}" for what, mask in counts.items() if mask.any()]
        return ", ".join(told) or "No part has changed"


def _jpeg(pixels: NDArray[np.uint8]) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels[..., :3]).save(out, "JPEG", quality=QUALITY)
    return out.getvalue()
