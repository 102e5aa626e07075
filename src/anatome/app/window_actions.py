"""The table of the window's actions and the menus they stand in."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from anatome.app.actions import Entry
from anatome.view.camera import CORNERS, FACES

if TYPE_CHECKING:
    from anatome.app.window import MainWindow

# In the order of the work; Save scene stands in the header by itself.
MENUS: dict[str, list[str]] = {
    "open": ["open_model", "open_project", "demo", "", "save", "save_as", "embed", "close_project", ""],
    "cut": [
        "place",
        "",
        "square_on",
        "turn_round",
        "",
        "cut_on",
        "cut_poche",
        "cut_graphic",
        "",
        "delete_cut",
        "",
        "set_aside",
        "isolate",
        "bring_back",
    ],
    "frame": [
        "fit",
        "square_on",
        "projection",
        "",
        *(f"view {n}" for n in FACES),
        "",
        *(f"view {n}" for n in CORNERS),
        "",
        "scene_back",
        "scene_on",
        "return_to_scene",
        "replace_scene",
    ],
    "look": ["look_edges", "look_shade", "look_ground", "look_colours", "", "alone", "panels", "dark", "", "keys"],
    "send": ["send_picture", "send_drawing"],
}


def entries(w: MainWindow) -> list[Entry]:
    """Every action of the window ``w``."""
    return [*_files(w), *_cuts(w), *_frames(w), *_scenes(w), *_rest(w)]


def _nothing(*_: object) -> None:
    """A menu's own action does nothing; its menu opens."""


def _files(w: MainWindow) -> list[Entry]:
    return [
        Entry("open_menu", "Open", "Open, save, and what was open lately", _nothing, icon="folder-open", needs="nothing"),
        Entry("open_model", "Open a model…", "Open IFC, glTF, OBJ, STL or PLY", w.choose_model, "Ctrl+O", "buildings", "nothing"),
        Entry("open_project", "Open a project…", "Open an Anatome project", w.choose_project, "Ctrl+Shift+O", "files", "nothing"),
        Entry("demo", "Try the boathouse", "Open the demo building", w.open_demo, "", "house-line", "nothing"),
        Entry("save", "Save", "Save the project", w.save, "Ctrl+S", "floppy-disk"),
        Entry("save_as", "Save as…", "Save the project under another name", w.save_as, "Ctrl+Shift+S"),
        Entry(
            "embed",
            "Keep the model inside the project",
            "The project file then needs nothing beside it",
            w.set_embed,
            checkable=True,
        ),
        Entry("close_project", "Close the project", "Back to the ways in", w.close_project, "Ctrl+W"),
        Entry("undo", "Undo", "Take back the last step", w.session.undo, "Ctrl+Z", "arrow-u-up-left", "undo"),
        Entry("redo", "Redo", "Do it again", w.session.redo, "Ctrl+Shift+Z|Ctrl+Y", "arrow-u-up-right", "redo"),
    ]


def _cuts(w: MainWindow) -> list[Entry]:
    return [
        Entry("cut_menu", "Cut", "Place a section plane and work on it", _nothing, icon="knife"),
        Entry(
            "place",
            "Place a section plane",
            "Then click a face of the building; the cut runs parallel to it",
            w.set_placing,
            "Ctrl+K",
            "knife",
            checkable=True,
        ),
        Entry(
            "square_on",
            "Square on",
            "Put the camera face on to the cut, standing well back",
            w.square_on,
            "Ctrl+F",
            "target",
            "active",
        ),
        Entry("turn_round", "Turn round", "Let the cut look the other way", w.turn_round, "Ctrl+T", "arrows-clockwise", "cut"),
        Entry(
            "cut_on",
            "Cut on or off",
            "Let the picked cut cut or not",
            partial(_toggle, w, "on", "cut"),
            "Ctrl+Shift+K",
            "",
            "cut",
        ),
        Entry(
            "cut_poche",
            "Poché on or off",
            "Fill what is cut or not",
            partial(_toggle, w, "poche", "poché"),
            "Ctrl+Shift+F",
            "",
            "cut",
        ),
        Entry(
            "cut_graphic",
            "Plane shown or not",
            "Show the frame of the plane or not",
            partial(_toggle, w, "graphic", "plane"),
            "Ctrl+Shift+G",
            "",
            "cut",
        ),
        Entry("delete_cut", "Delete the cut", "The building stays as it is", w.delete_cut, "Del", "trash", "cut"),
        Entry("set_aside", "Set aside", "Hide the picked parts", w.set_aside, "Ctrl+H", "eye-slash", "elements"),
        Entry("isolate", "Only these", "Hide everything but the picked parts", w.isolate, "Ctrl+I", "selection-all", "elements"),
        Entry("bring_back", "Bring all back", "Show everything again", w.bring_back, "Ctrl+Shift+H", "eye", "hidden"),
    ]


def _toggle(w: MainWindow, key: str, word: str, *_: object) -> None:
    w.toggle_cut(key, word)


def _frames(w: MainWindow) -> list[Entry]:
    views = [*FACES, *CORNERS]
    return [
        Entry("frame_menu", "Frame", "Where the camera stands and how it draws", _nothing, icon="frame"),
        Entry("fit", "Fit", "Show all of the building, or of what is picked", w.fit, "Home", "arrows-out-simple"),
        Entry("projection", "Parallel projection", "Perspective or parallel", w.toggle_projection, "Ctrl+Shift+P"),
        *(
            Entry(f"view {name}", name, f"{name}, in parallel projection", partial(_look_from, w, name), f"Alt+{(i + 1) % 10}")
            for i, name in enumerate(views)
        ),
    ]


def _look_from(w: MainWindow, name: str, *_: object) -> None:
    w.look_from(name)


def _scenes(w: MainWindow) -> list[Entry]:
    return [
        Entry("save_scene", "Save scene", "Keep what the stage shows as a scene", w.save_scene, "Ctrl+M", "stack"),
        Entry(
            "replace_scene",
            "Replace the scene",
            "Let the current scene show what the stage shows now",
            _plain(w.replace_scene),
            "Ctrl+Shift+M",
            "arrows-clockwise",
            "changed",
        ),
        Entry(
            "return_to_scene",
            "Return to the scene",
            "Show the current scene as it was saved",
            w.return_to_scene,
            "Ctrl+0",
            "arrow-counter-clockwise",
            "changed",
        ),
        Entry("scene_on", "Next scene", "Recall the next scene", partial(_step, w, 1), "PgDown"),
        Entry("scene_back", "Previous scene", "Recall the scene before", partial(_step, w, -1), "PgUp"),
        *(Entry(f"scene {i}", f"Scene {i}", f"Recall scene {i}", partial(_recall, w, i - 1), f"Ctrl+{i}") for i in range(1, 10)),
    ]


def _plain(run: Callable[[], object]) -> Callable[..., object]:
    """Without the state that a triggered action hands over."""
    return lambda *_: run()


def _step(w: MainWindow, by: int, *_: object) -> None:
    w.step_scene(by)


def _recall(w: MainWindow, number: int, *_: object) -> None:
    w.recall_number(number)


def _rest(w: MainWindow) -> list[Entry]:
    return [
        Entry("look_menu", "Look", "What is drawn and how", _nothing, icon="swatches"),
        *(
            Entry(f"look_{key}", text, tip, partial(_switch, w, key))
            for key, text, tip in (
                ("edges", "Edges on or off", "Lines at creases, borders and silhouettes"),
                ("shade", "Soft shade on or off", "Darker where parts stand close to one another"),
                ("ground", "Soft ground on or off", "The darkness under the building"),
                ("colours", "Colours of the model on or off", "Off: white beyond the cut"),
            )
        ),
        Entry("alone", "The stage alone", "Nothing but the picture; Space or Esc brings the rest back", w.toggle_alone, "Space"),
        Entry("panels", "Fold the panels", "More room for the stage", w.toggle_panels, "F9"),
        Entry(
            "dark", "Dark", "The dark theme; the picture's own paper stays as it is", w.set_dark, needs="nothing", checkable=True
        ),
        Entry("keys", "Keys…", "Every key in one list", w.show_keys, "F1", "keyboard", "nothing"),
        Entry(
            "step_back",
            "Step back",
            "Give up what is under way, or let go of what is picked",
            w.step_back,
            "Esc",
            needs="nothing",
        ),
        Entry("send_menu", "Send out", "Pictures and drawings", _nothing, icon="export"),
        Entry("send_picture", "Picture…", "A PNG at any size, on white or on nothing", w.send_picture, "Ctrl+E", "image"),
        Entry(
            "send_drawing",
            "Drawing of the cut…",
            "An SVG in real millimetres at a scale",
            w.send_drawing,
            "Ctrl+Shift+E",
            "file-svg",
            "active",
        ),
    ]


def _switch(w: MainWindow, key: str, *_: object) -> None:
    w.switch_look(key)
