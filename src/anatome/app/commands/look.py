"""What is drawn and how, and how the window itself looks."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from anatome.app.base import units
from anatome.app.base.ask import Ask
from anatome.app.base.entry import Entry, group
from anatome.app.base.work import in_words
from anatome.app.commands.asking import written_where_asked
from anatome.app.commands.host import Host
from anatome.app.dialogs.compare_looks import CompareLooks
from anatome.app.document.first_look import begin_with
from anatome.app.stage.divide_task import DrawDivide
from anatome.formats.hatch_files import KINDS, read_hatches
from anatome.look.files import SUFFIX, read_look, write_look
from anatome.look.shipped import shipped_looks
from anatome.problems import Problem
from anatome.raytracing.still import USUAL_SAMPLES
from anatome.scenes import edits, look_edits

KIND = f"Looks (*{SUFFIX})"
SWITCHES = (
    ("edges", "Edges", "Lines at creases, borders and silhouettes"),
    ("shade", "Soft shade", "Darker where parts stand close to one another"),
    ("ground", "Soft ground", "The darkness under the building"),
    ("earth_fades", "Earth fades out", "Off: earth that is cut ends in a line"),
)


class LookCommands:
    """Switches of the look, the theme and the panels."""

    def __init__(self, host: Host) -> None:
        self._host, self._session = host, host.session

    def entries(self) -> list[Entry]:
        return [*self._looks(), *self._keeping(), *self._window(), *self._finding()]

    def _looks(self) -> list[Entry]:
        return group(
            "The picture",
            "look",
            Entry(
                "looks",
                "Looks…",
                "Small pictures of the stage in every look: a click tries one on, a second one keeps it",
                self.show_looks,
                "Ctrl+Alt+D",
                "swatches",
                stage_menu=True,
            ),
            Entry(
                "compare_looks",
                "Compare looks…",
                "Up to four looks side by side; and the project's own looks renamed and dropped",
                self.compare_looks,
            ),
            Entry(
                "override",
                "Own look of what is picked",
                "Say how the picked parts look, or all like them: fill, hatch, surface, pattern, transparency, edges",
                self.override,
                needs="elements",
                stage_menu=True,
            ),
            Entry(
                "furniture_lines",
                "Lines of furniture",
                "The edges of furniture in this scene; off, what is cut of it keeps its outline",
                self.switch_furniture,
                ticked=lambda: look_edits.has_furniture_lines(self._session.stage.overrides),
                within="Lines",
            ),
            Entry(
                "divide",
                "Divide the picture by a line",
                "Two clicks draw it; to its right the picture has another look",
                self.divide,
                "Ctrl+Alt+Shift+D",
                stage_menu=True,
            ),
            Entry(
                "still",
                "Ray-traced still",
                "Light found by following rays, as soon as the picture stands; off: it is drawn",
                self.switch_still,
                "Ctrl+Alt+Y",
                stage_menu=True,
                ticked=lambda: self._session.stage.still > 0,
            ),
            Entry(
                "still_stop",
                "Stop the still, or go on",
                "What there is by now stays; going on makes it finer",
                self.stop_still,
                "Ctrl+Alt+Shift+Y",
            ),
            *(
                Entry(f"look_{key}", text, tip, partial(self.switch_look, key), ticked=partial(self._has, key))
                for key, text, tip in SWITCHES
            ),
        )

    def _keeping(self) -> list[Entry]:
        return group(
            "The picture",
            "look",
            Entry(
                "save_look",
                "Save the look to a file…",
                "A small file of JSON, for other projects",
                self.save_look,
            ),
            Entry(
                "look_for_all",
                "Change the look for all scenes that use it",
                "The look as it is on the stage, for every scene that has the look of its name",
                self.look_for_all,
            ),
            Entry(
                "keep_look",
                "Keep as a new look…",
                "The look of the stage under a name of its own, for this project's scenes",
                self.keep_look,
            ),
            Entry(
                "default_look",
                "Begin new projects with this look",
                "The look of the stage is what a new project has at first",
                self.begin_with,
            ),
            Entry("load_look", "Load a look…", "Put a look from a file on the stage", self.load_look),
            Entry(
                "load_hatches",
                "Hatches from a file…",
                "Hatches of your own for the look of the stage, in the form that docs/hatches.md describes",
                self.load_hatches,
            ),
            within="Keep and load",
        )

    def _window(self) -> list[Entry]:
        h = self._host
        return group(
            "The window",
            "look",
            Entry(
                "alone",
                "The stage alone",
                "Nothing but the picture; Space or Esc brings the rest back",
                h.toggle_alone,
                "Space",
                within="The window",
            ),
            Entry(
                "grow_plan", "Key plan in the middle", "It and the stage change places", h.grow_plan, "F6", within="The window"
            ),
            Entry(
                "grow_elevation",
                "Key elevation in the middle",
                "It and the stage change places",
                h.grow_elevation,
                "F7",
                within="The window",
            ),
            Entry(
                "flat_beside",
                "Section beside the stage",
                "The picked cut as a flat, square drawing that follows it; again: back among the key drawings",
                h.toggle_flat,
                "Ctrl+F7",
                within="The window",
                ticked=lambda: h.flat_is_beside,
            ),
            Entry("panels", "Fold the panels", "More room for the stage", h.toggle_panels, "F9", within="The window"),
            Entry(
                "settings",
                "Settings…",
                "Theme, units, what new cuts and projects begin with, what is kept, keys of your own",
                h.show_settings,
                "Ctrl+,",
                needs="nothing",
            ),
            Entry(
                "feet",
                "Feet and inches",
                "Lengths, areas and volumes in feet and inches; off: metric. Either may be typed at any time",
                lambda: h.spoken.set_feet(not units.UNITS.feet),
                needs="nothing",
                ticked=lambda: units.UNITS.feet,
            ),
            Entry(
                "dark",
                "Dark",
                "The dark theme; the picture's own paper stays as it is",
                lambda: h.set_dark(not h.is_dark),
                needs="nothing",
                ticked=lambda: h.is_dark,
            ),
        )

    def _finding(self) -> list[Entry]:
        h = self._host
        return group(
            "Finding one's way",
            "look",
            Entry(
                "find",
                "Find anything…",
                "Type a few letters of a command, a setting, a scene, a look or a part",
                h.find_command,
                "Ctrl+Shift+Space",
                "",
                "nothing",
            ),
            Entry("keys", "Keys…", "Every key in one list", h.show_keys, "F1", "keyboard", "nothing"),
        )

    def show_looks(self) -> None:
        """Show the looks in the foot, or the scenes again."""
        if self._host.look_round.active:
            self._host.look_round.end()
        else:
            self._host.look_round.begin()

    def divide(self) -> None:
        """Begin to draw the line, or stop."""
        stage_input = self._host.stage_input
        stage_input.begin(None if isinstance(stage_input.task, DrawDivide) else DrawDivide(self._session))

    def switch_still(self) -> None:
        """Have the stage ray-traced, or drawn again."""
        session = self._session
        on = not session.stage.still
        samples = USUAL_SAMPLES if on else 0
        session.apply(look_edits.set_still(session.project, samples), "A ray-traced still" if on else "Drawn again")

    def stop_still(self) -> None:
        """Stop looking for light, or go on with it."""
        tracing = self._host.stage.tracing
        if tracing.at_work:
            tracing.stop()
            self._session.said.emit(tracing.words())
        elif tracing.stopped:
            tracing.go_on()
            self._session.said.emit("The still goes on")
        else:
            self._session.said.emit("No still is under way.")

    def compare_looks(self) -> None:
        """Show looks side by side."""
        CompareLooks(self._host.widget, self._session, self._host.stage).open()

    def override(self) -> None:
        """Go to where it is said how the picked parts look."""
        self._host.show_own_look()

    def switch_furniture(self) -> None:
        """The edges of furniture, or none."""
        session = self._session
        on = not look_edits.has_furniture_lines(session.stage.overrides)
        stage = look_edits.show_furniture_lines(session.stage, on)
        session.apply(session.project.model_copy(update={"stage": stage}), f"{'Lines' if on else 'No lines'} of furniture")

    def look_for_all(self) -> None:
        """Give the look of the stage to all scenes that have the look it came from."""
        session = self._session
        name = look_edits.plain_name(session.stage.look)
        count = len(look_edits.users(session.project, name))
        scenes = "1 scene" if count == 1 else f"{count} scenes"
        session.apply(look_edits.change_for_all(session.project), f"“{name}” changed for {scenes}")

    def keep_look(self) -> None:
        """Ask for a name, and keep the look of the stage under it."""
        session = self._session

        def do(ask: Ask) -> None:
            name = ask.text("Name")
            session.apply(look_edits.keep_look(session.project, name, frozenset(shipped_looks())), f"Kept the look “{name}”")

        note = "It stands in the row of looks of this project. To take it to another one, save it to a file."
        ask = Ask(self._host.widget, "Keep as a new look", note, "Keep the look", do)
        ask.words("Name", look_edits.plain_name(session.stage.look) + " 2").open()

    def begin_with(self) -> None:
        """Have new projects begin with the look of the stage."""
        look = self._session.stage.look
        look = look.model_copy(update={"name": look_edits.plain_name(look)})
        try:
            begin_with(look)
        except Problem as problem:
            self._host.tell(str(problem), "The look could not be kept")
            return
        self._session.said.emit(f"New projects begin with “{look.name or 'this look'}”")

    def save_look(self) -> None:
        """Ask where, and write the look of the stage."""
        look = self._session.stage.look

        def write(path: Path) -> None:
            write_look(look.model_copy(update={"name": path.name.removesuffix(SUFFIX)}), path)

        failed = "The look could not be saved"
        path = written_where_asked(self._host, "Save the look", look.name or "Look", SUFFIX, KIND, write, failed)
        if path is not None:
            self._session.said.emit(f"Saved the look to {path}")

    def load_look(self) -> None:
        """Ask which, and put it on the stage."""
        name, _ = QFileDialog.getOpenFileName(self._host.widget, "Load a look", "", KIND)
        if name:
            self.take_look(Path(name))

    def take_look(self, path: Path) -> None:
        """Put the look in a file on the stage."""
        session = self._session
        try:
            look = read_look(path)
        except Problem as problem:
            self._host.tell(str(problem), "This look could not be loaded")
            return
        if session.is_open:
            session.apply(edits.set_look(session.project, look), f"Look: {look.name or path.stem}")

    def load_hatches(self) -> None:
        """Ask which, and give them to the look of the stage."""
        name, _ = QFileDialog.getOpenFileName(self._host.widget, "Hatches from a file", "", KINDS)
        if name:
            self.take_hatches(Path(name))

    def take_hatches(self, path: Path) -> None:
        """Give the hatches in a file to the look of the stage."""
        session = self._session
        try:
            hatches = read_hatches(path)
            project = look_edits.take_hatches(session.project, hatches)
        except (Problem, ValueError) as problem:
            self._host.tell(in_words(problem), "These hatches could not be taken")
            return
        words = ", ".join(f"“{hatch.words or hatch.name}”" for hatch in hatches)
        session.apply(project, f"The look has {words}: choose them under “Own look” of picked parts")

    def _has(self, key: str) -> bool:
        return bool(getattr(self._session.stage.look, key))

    def switch_look(self, key: str) -> None:
        look = self._session.stage.look
        changed = look.model_copy(update={key: not getattr(look, key)})
        self._session.apply(
            edits.set_look(self._session.project, changed), f"{key.capitalize()} {'on' if getattr(changed, key) else 'off'}"
        )
