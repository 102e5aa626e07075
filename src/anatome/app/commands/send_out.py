"""Sending out pictures, drawings and models."""

from __future__ import annotations

from pathlib import Path

from pydantic import ValidationError

from anatome.app.base.entry import Entry, group
from anatome.app.commands.host import Host
from anatome.app.document.preferences import sent_before
from anatome.app.send_out.batch import BatchDialog
from anatome.app.send_out.drawings import DrawingDialog, SeriesDialog
from anatome.app.send_out.film import FilmDialog
from anatome.app.send_out.layers import LayersDialog
from anatome.app.send_out.linework import LineworkDialog
from anatome.app.send_out.maquette import MaquetteDialog
from anatome.app.send_out.models import ModelDialog
from anatome.app.send_out.page import PageDialog
from anatome.app.send_out.pictures import PictureDialog
from anatome.app.send_out.sheets import SheetsDialog
from anatome.app.send_out.viewpoints import ViewpointsDialog
from anatome.formats.sent_out import SentOut
from anatome.problems import Problem


class SendOutCommands:
    """Opens the dialogs."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return group("Sending out", "send", *self._pictures(), *self._drawings(), *self._for_others())

    def _pictures(self) -> list[Entry]:
        """Pictures, still or moving, and the page they go onto."""
        return [
            Entry(
                "send_picture",
                "Picture…",
                "PNG, TIFF, JPEG or WebP at any size, in layers, or its passes for retouching",
                self.picture,
                "Ctrl+E",
                "image",
            ),
            Entry(
                "send_batch",
                "Many pictures…",
                "Chosen scenes in chosen looks, into a folder",
                self.batch,
                "Ctrl+Alt+Shift+E",
                "files",
                "scenes",
            ),
            Entry(
                "send_again",
                "Send out again",
                "The pictures that were sent out last, with the same settings: only what has changed since",
                self.again,
                "Ctrl+Shift+F12",
                needs="scenes",
            ),
            Entry(
                "send_film",
                "Film…",
                "A cut that travels, the camera round the building, storeys that open, a day of sun: MP4, WebM, GIF or WebP",
                self.film,
                "Ctrl+Alt+Shift+9",
            ),
            Entry(
                "send_page",
                "Page for the client…",
                "Scenes and films as one HTML file that opens anywhere: the cut is dragged, the building turned about",
                self.page,
                "Ctrl+F12",
                needs="scenes",
            ),
        ]

    def _drawings(self) -> list[Entry]:
        """Lines at a scale."""
        return [
            Entry(
                "send_linework",
                "Linework…",
                "The picture as lines, hidden ones removed: PDF, SVG or DXF in real millimetres",
                self.linework,
                "Ctrl+Alt+Shift+L",
                "pencil-simple",
            ),
            Entry(
                "send_drawing",
                "Drawing of a cut…",
                "SVG, PDF or DXF in real millimetres at a scale",
                self.drawing,
                "Ctrl+Shift+E",
                "file-svg",
                "active",
            ),
            Entry(
                "send_series",
                "Sections of a series…",
                "SVG, PDF, DXF or JSON, a layer for each",
                self.series,
                "",
                "stack",
                "series",
            ),
            Entry(
                "send_sheets",
                "Sheets…",
                "All or some as one PDF, a PDF each, or pictures",
                self.sheets,
                "Ctrl+Alt+Shift+P",
                needs="sheets",
            ),
        ]

    def _for_others(self) -> list[Entry]:
        """What other programs and machines go on with."""
        return [
            Entry(
                "send_layers",
                "Layers to cut…",
                "Outlines for a model built of layers of card or wood, nested on sheets of it",
                self.layers,
            ),
            Entry(
                "send_maquette",
                "Model to print…",
                "What the cuts leave as a closed scale model: thin parts thickened, on a base, in pieces with pegs (3MF, STL)",
                self.maquette,
            ),
            Entry(
                "send_viewpoints",
                "Viewpoints (BCF)…",
                "Camera, section planes, what is hidden and a picture of chosen scenes, for other programs of the trade",
                self.viewpoints,
                needs="scenes",
            ),
            Entry("send_model", "Model as cut…", "GLB or STL of what the cuts leave, closed", self.model, "", "buildings"),
        ]

    @property
    def _folder(self) -> Path:
        path = self._session.project_path
        return path.parent if path else Path.home()

    def picture(self) -> None:
        PictureDialog(self._host.widget, self._session, self._host.stage, self._folder).open()

    def linework(self) -> None:
        LineworkDialog(self._host.widget, self._session, self._host.stage, self._folder).open()

    def drawing(self) -> None:
        DrawingDialog(self._host.widget, self._session, self._folder).open()

    def batch(self) -> None:
        BatchDialog(self._host.widget, self._session, self._host.stage.pictures, self._folder).open()

    def again(self) -> None:
        """The last set of pictures once more, as far as it is different."""
        folder = sent_before(self._session.project_path)
        sent = None if folder is None else SentOut(folder)
        if sent is None or not sent.is_known:
            self._session.said.emit("Nothing was sent out from this project yet: choose pictures, and they can be sent out again")
            self.batch()
            return
        try:
            dialog = BatchDialog(self._host.widget, self._session, self._host.stage.pictures, self._folder, sent)
        except ValidationError as error:
            raise Problem(f"“{sent.folder}” does not say any more how its pictures were made. Choose them anew.") from error
        dialog.open()
        dialog.go.click()

    def film(self) -> None:
        film = self._host.film_desk.film
        self._host.player.let_go()
        FilmDialog(self._host.widget, self._session, self._host.stage, self._folder, film).open()

    def page(self) -> None:
        self._host.player.let_go()
        PageDialog(self._host.widget, self._session, self._host.stage, self._folder).open()

    def series(self) -> None:
        SeriesDialog(self._host.widget, self._session, self._folder).open()

    def sheets(self) -> None:
        SheetsDialog(self._host.widget, self._session, self._host.stage.pictures, self._folder, self._host.desk.sheet).open()

    def layers(self) -> None:
        LayersDialog(self._host.widget, self._session, self._folder).open()

    def maquette(self) -> None:
        MaquetteDialog(self._host.widget, self._session, self._folder).open()

    def viewpoints(self) -> None:
        ViewpointsDialog(self._host.widget, self._session, self._host.stage, self._folder).open()

    def model(self) -> None:
        ModelDialog(self._host.widget, self._session, self._folder).open()
