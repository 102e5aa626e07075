"""Cuts that go from scene to scene, or become a scene's own; and the marks of all."""

from __future__ import annotations

from PySide6.QtWidgets import QCheckBox, QComboBox

from anatome.app.base import units
from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.base.form_dialog import FormDialog
from anatome.app.base.ticks import Ticks
from anatome.app.commands.host import Host
from anatome.app.document.session import Session
from anatome.cuts.cut import AnyCut
from anatome.notes.note import anchors_of
from anatome.problems import Problem
from anatome.scenes import shared_cuts
from anatome.scenes.edits import new_id
from anatome.scenes.marks import Order, renumbered
from anatome.scenes.project import Scene


class SharedCutCommands:
    """Works on the cuts of several scenes at once."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return group(
            "Cuts of several scenes",
            "frame",
            Entry(
                "put_cut",
                "Put this cut into scenes…",
                "Scenes you choose get the picked cut where it stands now; all else in them stays",
                self.put,
                "Ctrl+Alt+J",
                needs="cut",
            ),
            Entry(
                "bring_cuts",
                "Cuts from another scene…",
                "Have cuts of another scene on the stage too",
                self.bring,
                "Ctrl+Alt+Shift+B",
                needs="other scenes",
            ),
            Entry(
                "only_here",
                "Only here",
                "The picked cut, or those that other scenes just followed, become this scene’s own; the others keep theirs",
                self.only_here,
                "Ctrl+J",
                needs="shared cut",
            ),
            Entry(
                "renumber",
                "Renumber the marks…",
                "The letters of all cuts from A on, in the order of the scenes or of their place in the building",
                self.renumber,
                "Ctrl+Shift+N",
            ),
            within="Scenes/Cuts of several scenes",
        )

    def put(self) -> None:
        """Ask which scenes get the picked cut."""
        if self._session.cut is not None:
            PutDialog(self._host, self._session.cut).open()

    def bring(self) -> None:
        """Ask for a scene and for cuts of it."""
        scenes = [s for s in self._session.project.scenes if s.state.cuts and s.id != self._session.project.current_scene]
        if not scenes:
            self._session.said.emit("No other scene has a cut.")
            return
        BringDialog(self._host, scenes).open()

    def only_here(self) -> None:
        """Let cuts be this scene's own: those that others followed in the last step, who get theirs back, or the picked one."""
        session, last = self._session, self._session.just_followed
        if last is not None:
            project = shared_cuts.kept_only_here(last.before, session.project, last.scene, last.cuts, new_id)
            scene = project.scene(last.scene)
            own = () if scene is None else scene.state.cuts
        elif session.cut is not None:
            cut = session.cut
            ids = [c.id for c in session.stage.cuts if c.id == cut.id or (cut.peel and c.peel == cut.peel)]
            project = shared_cuts.only_here(session.project, ids, new_id)
            own = project.stage.cuts
        else:
            return
        known = {cut.id for cut in session.stage.cuts}
        new = [cut for cut in own if cut.id not in known]
        places = [i for i, cut in enumerate(session.stage.cuts) if cut.id == session.picked.cut]
        names = ", ".join(cut.name for cut in new)
        session.apply(project, f"{names}: of this scene alone from now on")
        if places and places[0] < len(project.stage.cuts):
            session.pick(cut=project.stage.cuts[places[0]].id)

    def renumber(self) -> None:
        """Ask for the order, and give all cuts their letters anew."""

        def run(ask: Ask) -> None:
            order: Order = "place" if ask.chosen("In the order of") == "place" else "scenes"
            project = renumbered(self._session.project, order)
            if project == self._session.project:
                raise Problem("They are in that order already.")
            self._session.apply(project, "Renumbered the marks")

        note = "Every cut of the project gets a letter from A on. Cuts of locked scenes keep theirs."
        orders = (("The scenes", "scenes"), ("Their place in the building", "place"))
        Ask(self._host.widget, "Renumber the marks", note, "Renumber", run).choice("In the order of", orders).open()


class _CutsDialog(FormDialog):
    """What both have: whether the cuts are on where they go."""

    def __init__(self, host: Host, title: str, go: str, note: str) -> None:
        super().__init__(host.widget, title, go, 420, note)
        self._session: Session = host.session
        self._scenes = host.session.pictures
        self.on = QComboBox()
        self.on.addItem("On", True)
        self.on.addItem("Off", False)


class PutDialog(_CutsDialog):
    """The picked cut, with all of its peel, into scenes that are ticked."""

    def __init__(self, host: Host, cut: AnyCut) -> None:
        note = f"{cut.name} stands there as it stands now. Camera, look and notes of those scenes stay."
        super().__init__(host, f"Put {cut.name} into scenes", "Put", note)
        session = self._session
        self._ids = [c.id for c in session.stage.cuts if c.id == cut.id or (cut.peel and c.peel == cut.peel)]
        self._offered = [s for s in session.project.scenes if s.id != session.project.current_scene]
        names = [f"{scene.name}{shared_cuts.how_it_is(scene, cut)}" for scene in self._offered]
        self.scenes = Ticks(names, 0)
        self.scenes.show_pictures([self._scenes.get(scene) for scene in self._offered])
        for i, scene in enumerate(self._offered):
            self.scenes.allow(i, not scene.locked)
        self.form.addRow("Into", self.scenes)
        self.form.addRow("It is", self.on)
        held = any(anchor.cut in self._ids for note in session.stage.notes for anchor in anchors_of(note))
        self.notes = QCheckBox("With the notes that hold on to it")
        self.notes.setVisible(held)
        self.form.addRow("", self.notes)

    def run(self) -> None:
        chosen = [self._offered[i].id for i in self.scenes.ticked()]
        if not chosen:
            raise Problem("Tick the scenes the cut is to be in.")
        session = self._session
        project = shared_cuts.put_into(session.project, self._ids, chosen, self.on.currentData(), self.notes.isChecked())
        names = ", ".join(cut.name for cut in session.stage.cuts if cut.id in self._ids)
        session.apply(project, f"Put {names} into {len(chosen)} scene{'s' * (len(chosen) != 1)}")


class BringDialog(_CutsDialog):
    """Cuts of a scene that are ticked on to the stage."""

    def __init__(self, host: Host, scenes: list[Scene]) -> None:
        super().__init__(host, "Cuts from another scene", "Bring", "They stand on the stage beside those it has.")
        self._offered = scenes
        self.scene = QComboBox()
        self.scene.addItems([scene.name for scene in scenes])
        self.form.addRow("Scene", self.scene)
        self.cuts = Ticks([], 0)
        self.form.addRow("Cuts", self.cuts)
        self.form.addRow("They are", self.on)
        self.scene.currentIndexChanged.connect(self._fill)
        self._fill()

    def _fill(self) -> None:
        cuts = self._offered[self.scene.currentIndex()].state.cuts
        names = [f"{cut.name}  ·  {cut.summary(units)}" for cut in cuts]
        # What is off there is mostly a line that is marked, and no more.
        self.cuts.set_names(names, {name for name, cut in zip(names, cuts) if cut.on})

    def run(self) -> None:
        scene = self._offered[self.scene.currentIndex()]
        chosen = [scene.state.cuts[i] for i in self.cuts.ticked()]
        if not chosen:
            raise Problem("Tick the cuts that are to be on the stage.")
        session = self._session
        project = shared_cuts.bring(session.project, scene.id, [cut.id for cut in chosen], self.on.currentData())
        session.apply(project, f"From {scene.name}: {', '.join(cut.name for cut in chosen)}")
        session.pick(cut=chosen[0].id)
