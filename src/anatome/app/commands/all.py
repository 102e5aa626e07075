"""All commands together."""

from __future__ import annotations

from anatome.app.base.entry import Entry
from anatome.app.commands.apart import ApartCommands
from anatome.app.commands.changes import ChangesCommands
from anatome.app.commands.cut_switches import CutSwitches
from anatome.app.commands.cuts import CutCommands
from anatome.app.commands.details import DetailCommands
from anatome.app.commands.files import FileCommands
from anatome.app.commands.films import FilmCommands
from anatome.app.commands.going import GoingCommands
from anatome.app.commands.host import Host
from anatome.app.commands.look import LookCommands
from anatome.app.commands.many_scenes import ManySceneCommands
from anatome.app.commands.meaning import MeaningCommands
from anatome.app.commands.models import ModelsCommands
from anatome.app.commands.more_scenes import MoreSceneCommands
from anatome.app.commands.new_cuts import NewCutCommands
from anatome.app.commands.notes import NoteCommands
from anatome.app.commands.office import OfficeCommands
from anatome.app.commands.on_sheet import OnSheetCommands
from anatome.app.commands.open_page import OpenPage
from anatome.app.commands.parts import PartCommands
from anatome.app.commands.presenting import PresentingCommands
from anatome.app.commands.rough_bodies import RoughBodyCommands
from anatome.app.commands.scene_parts import ScenePartCommands
from anatome.app.commands.scenes import SceneCommands
from anatome.app.commands.send_out import SendOutCommands
from anatome.app.commands.shared_cuts import SharedCutCommands
from anatome.app.commands.sheets import SheetCommands
from anatome.app.commands.site import SiteCommands
from anatome.app.commands.soundness import SoundnessCommands
from anatome.app.commands.storeys import StoreyCommands
from anatome.app.commands.suggest import SuggestCommands
from anatome.app.commands.touching_up import TouchUpCommands
from anatome.app.commands.view import ViewCommands
from anatome.app.commands.viewpoints import ViewpointCommands

MENUS = {
    "open": ("Open", "Open and save, and recent files", "folder-open", "nothing"),
    "cut": ("Cut", "Place a cut and work on it", "knife", "project"),
    "parts": ("Parts", "Hide, isolate, fade, pick and measure parts", "selection-all", "project"),
    "frame": ("Frame", "Where the camera stands and how it draws", "frame", "project"),
    "look": ("Look", "A look is a saved set of fills, line weights, light and ground; and the window", "swatches", "nothing"),
    "note": ("Note", "Dimensions, levels, labels and names on the picture", "pencil-simple", "project"),
    "sheet": ("Sheet", "Scenes laid out on paper at scale", "files", "project"),
    "send": ("Send out", "Pictures and drawings", "export", "project"),
}
"""The menus in the header in the order of the work: words, tip, icon, what must be there."""


class Commands:
    """By subject."""

    def __init__(self, host: Host) -> None:
        self.files = FileCommands(host)
        self.cuts = CutCommands(host)
        self.new_cuts = NewCutCommands(host)
        self.cut_switches = CutSwitches(host)
        self.shared_cuts = SharedCutCommands(host)
        self.storeys = StoreyCommands(host)
        self.apart = ApartCommands(host)
        self.details = DetailCommands(host)
        self.suggest = SuggestCommands(host)
        self.parts = PartCommands(host)
        self.site = SiteCommands(host)
        self.models = ModelsCommands(host)
        self.rough_bodies = RoughBodyCommands(host)
        self.viewpoints = ViewpointCommands(host)
        page = OpenPage(host)
        self.meaning = MeaningCommands(host, page)
        self.soundness = SoundnessCommands(host, page)
        self.view = ViewCommands(host)
        self.going = GoingCommands(host)
        self.scenes = SceneCommands(host)
        self.look = LookCommands(host)
        self.notes = NoteCommands(host)
        self.touching_up = TouchUpCommands(host)
        self.sheets = SheetCommands(host, self.scenes)
        self.office = OfficeCommands(host, self.sheets)
        self.changes = ChangesCommands(host, page, self.sheets)
        self.on_sheet = OnSheetCommands(host)
        self.send_out = SendOutCommands(host)
        self.films = FilmCommands(host)
        self.presenting = PresentingCommands(host)
        self.scene_parts = ScenePartCommands(host, self.scenes)
        self.more_scenes = MoreSceneCommands(host, self.scenes)
        self.many_scenes = ManySceneCommands(host, self.sheets, self.send_out, self.scene_parts)

    def entries(self) -> list[Entry]:
        """Return every command, in the order of menus and lists."""
        cutting = (self.cuts, self.cut_switches, self.new_cuts, self.shared_cuts, self.storeys, self.apart, self.details)
        showing = (
            self.suggest,
            self.parts,
            self.meaning,
            self.soundness,
            self.view,
            self.going,
            self.scenes,
            self.many_scenes,
            self.site,
            self.rough_bodies,
            self.look,
        )
        subjects = (
            self.files,
            self.office,
            self.models,
            self.viewpoints,
            self.changes,
            *cutting,
            *showing,
            self.scene_parts,
            self.more_scenes,
            self.notes,
            self.touching_up,
            self.sheets,
            self.on_sheet,
            self.presenting,
            self.films,
            self.send_out,
        )
        return [entry for subject in subjects for entry in subject.entries()]
