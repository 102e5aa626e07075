"""The table of the window's actions and the menus they stand in."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from anatome.app.actions import Entry
from anatome.view.camera import CORNERS, FACES

if TYPE_CHECKING:
    from anatome.app.cutting import Cutting
    from anatome.app.window import MainWindow

# In the order of the work; Save scene stands in the header by itself.
Menu = list[str | tuple[str, list[str]]]
MENUS: dict[str, Menu] = {
    "open": ["open_model", "open_project", "demo", "", "save", "save_as", "embed", "close_project", ""],
    "cut": [
        "place",
        ("Section plane", ["plane_line", "plane_storey", "plane_axis", "plane_along", "plane_points", "", "copy_cut"]),
        (
            "Section box",
            ["box_shown", "box_picked", "box_space", "box_storey", "", "box_plan", "box_from_plane", "", "match"],
        ),
        "stepped",
        "peel",
        "series",
        "",
        "square_on",
        "turn_round",
        "reach_pick",
        "measure",
        "",
        "cut_on",
        "cut_poche",
        "cut_graphic",
        "cut_locked",
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
    "look": ["look_edges", "look_shade", "look_ground", "look_colours", "", "alone", "panels", "dark", "", "find", "keys"],
    "send": ["send_picture", "send_drawing", "send_series", "send_model"],
}
TASKS = (
    *("place", "plane_line", "plane_axis", "plane_along", "plane_points", "box_plan", "match"),
    *("stepped", "peel", "reach_pick", "measure"),
)
"""Actions that begin something to be picked or drawn, and stay down until that is done."""


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
    c = w.cutting
    return [
        Entry("cut_menu", "Cut", "Place a cut and work on it", _nothing, icon="knife"),
        *_planes(c),
        *_boxes(c),
        Entry(
            "stepped",
            "Stepped section, drawn in the key plan",
            "Click the corners of its line, then the side to look at",
            _plain(c.stepped),
            "Ctrl+Shift+L",
            checkable=True,
        ),
        Entry(
            "peel",
            "Peel a roof or a wall",
            "Click a part; its layers are drawn back one by one",
            _plain(c.peel),
            "Ctrl+Shift+J",
            checkable=True,
        ),
        Entry("series", "Serial sections…", "Many parallel sections at once", c.series, "Ctrl+Shift+R"),
        Entry(
            "square_on",
            "Square on",
            "Put the camera face on to the cut, standing well back",
            c.square_on,
            "Ctrl+F",
            "target",
            "active",
        ),
        Entry("turn_round", "Turn round", "Let the cut look the other way", c.turn_round, "Ctrl+T", "arrows-clockwise", "cut"),
        Entry(
            "reach_pick",
            "Pick what the cut reaches",
            "Click parts on the stage to put them into the reach or take them out",
            _plain(c.reach_pick),
            "Ctrl+Shift+I",
            "",
            "cut",
            True,
        ),
        Entry(
            "measure",
            "Measure on the cut face",
            "Clear heights and widths, and distances between two points",
            _plain(c.measure),
            "Ctrl+U",
            "",
            "active",
            True,
        ),
        *(
            Entry(f"cut_{key}", text, tip, partial(_toggle, w, key, word), shortcut, "", "cut", True)
            for key, text, tip, word, shortcut in (
                ("on", "The cut cuts", "Let the picked cut cut or not", "cut", "Ctrl+Shift+K"),
                ("poche", "Its poché is filled", "Fill what is cut or not", "poché", "Ctrl+Shift+F"),
                ("graphic", "Its frame is shown", "Show the frame of the cut or not", "frame", "Ctrl+Shift+G"),
                ("locked", "It is locked", "A locked cut stays where it is", "lock", "Ctrl+L"),
            )
        ),
        Entry("delete_cut", "Delete the cut", "The building stays as it is", c.delete, "Del", "trash", "cut or series"),
        Entry("set_aside", "Set aside", "Hide the picked parts", w.set_aside, "Ctrl+H", "eye-slash", "elements"),
        Entry("isolate", "Only these", "Hide everything but the picked parts", w.isolate, "Ctrl+I", "selection-all", "elements"),
        Entry("bring_back", "Bring all back", "Show everything again", w.bring_back, "Ctrl+Shift+H", "eye", "hidden"),
    ]


def _planes(c: Cutting) -> list[Entry]:
    rows = (
        (
            "place",
            "Place a section plane",
            "Click a face of the building; the cut runs parallel to it",
            c.on_face,
            "Ctrl+K",
            True,
        ),
        (
            "plane_line",
            "Line in the key plan",
            "Click where it begins, where it ends, and the side to look at",
            c.line,
            "Ctrl+Shift+D",
            True,
        ),
        ("plane_storey", "At a storey…", "A level cut over the floor of a storey", c.at_storey, "Ctrl+Shift+Y", False),
        (
            "plane_axis",
            "Across an axis, through a point",
            "Click a point; Tab goes from X to Y to Z",
            c.across_axis,
            "Ctrl+Shift+X",
            True,
        ),
        (
            "plane_along",
            "Along a wall",
            "Click a wall: in its axis, with Shift in its face",
            c.along_part,
            "Ctrl+Shift+W",
            True,
        ),
        ("plane_points", "Through three points", "Click three points of the building", c.through_points, "Ctrl+Shift+T", True),
    )
    made = [
        Entry(name, text, tip, _plain(run), key, "knife" if name == "place" else "", "project", task)
        for name, text, tip, run, key, task in rows
    ]
    copy = Entry("copy_cut", "Parallel copy…", "The same cut further on", c.copy_cut, "Ctrl+D", "copy", "cut")
    return [*made, copy]


def _boxes(c: Cutting) -> list[Entry]:
    rows = (
        (
            "box_shown",
            "Round what is shown",
            "All that is shown but the ground",
            c.box_shown,
            "Ctrl+B",
            "project",
            False,
        ),
        (
            "box_picked",
            "Box round the picked parts",
            "Fits what you picked",
            c.box_picked,
            "Ctrl+Shift+B",
            "elements",
            False,
        ),
        ("box_space", "Round a room…", "Through its walls, its floor and what is over it", c.box_space, "", "project", False),
        ("box_storey", "Round a storey…", "From its floor to the next", c.box_storey, "", "project", False),
        ("box_plan", "Rectangle in the key plan", "Drag it from corner to corner", c.box_plan, "Ctrl+Shift+Q", "project", True),
        ("box_from_plane", "From the section plane…", "The slice behind the picked plane", c.box_from_plane, "", "cut", False),
        ("match", "Turn to match a wall", "Click a wall; the cut takes its direction", c.match, "Ctrl+Shift+A", "cut", True),
    )
    return [Entry(name, text, tip, _plain(run), key, "", needs, task) for name, text, tip, run, key, needs, task in rows]


def _toggle(w: MainWindow, key: str, word: str, *_: object) -> None:
    w.cutting.toggle(key, word)


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
            Entry(f"look_{key}", text, tip, partial(_switch, w, key), checkable=True)
            for key, text, tip in (
                ("edges", "Edges", "Lines at creases, borders and silhouettes"),
                ("shade", "Soft shade", "Darker where parts stand close to one another"),
                ("ground", "Soft ground", "The darkness under the building"),
                ("colours", "Colours of the model", "Off: white beyond the cut"),
            )
        ),
        Entry("alone", "The stage alone", "Nothing but the picture; Space or Esc brings the rest back", w.toggle_alone, "Space"),
        Entry("panels", "Fold the panels", "More room for the stage", w.toggle_panels, "F9"),
        Entry(
            "dark", "Dark", "The dark theme; the picture's own paper stays as it is", w.set_dark, needs="nothing", checkable=True
        ),
        Entry("find", "Find a command…", "Type a few letters of any command", w.find_command, "Ctrl+Shift+Space", "", "nothing"),
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
            "Drawing of a cut…",
            "SVG or DXF in real millimetres at a scale",
            w.send_drawing,
            "Ctrl+Shift+E",
            "file-svg",
            "active",
        ),
        Entry("send_series", "Serial sections…", "SVG, DXF or JSON, a layer for each", w.send_series, "", "stack", "series"),
        Entry("send_model", "Model as cut…", "GLB or STL of what the cuts leave, closed", w.send_model, "", "buildings"),
    ]


def _switch(w: MainWindow, key: str, *_: object) -> None:
    w.switch_look(key)
