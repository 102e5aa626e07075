"""The house keeps its walls: no interface code in the core, and arrows run downward only."""

from __future__ import annotations

import ast
import subprocess
import sys
from functools import cache
from pathlib import Path

import networkx as nx
import pytest

SOURCE = Path(__file__).parents[2] / "src" / "anatome"
# Rooms from the ground up; a room may use those before it.
FLOORS = [
    ("model",),
    ("cuts",),
    ("view", "look"),
    ("site", "raytracing", "notes"),
    ("sheets",),
    ("scenes",),
    ("suggestions", "films"),
    ("linework", "render", "formats"),
    ("printing", "filming", "maquette"),
    ("page",),
    ("work",),
    ("demo",),
    ("app", "cli"),
]
LEVEL = {room: level for level, rooms in enumerate(FLOORS) for room in rooms}
# The same within the window; rooms of one floor do not know one another.
APP_FLOORS = [
    ("base",),
    ("document",),
    ("stage",),
    ("key_drawings", "sheets", "films", "trying", "dialogs", "presenting", "before_after"),
    ("send_out",),
    ("commands",),
    ("panels",),
    ("window",),
    ("main",),
]
APP_LEVEL = {room: level for level, rooms in enumerate(APP_FLOORS) for room in rooms}
INTERFACE = ("PySide6", "shiboken6", "moderngl", "OpenGL")


@cache
def nodes(path: Path) -> tuple[ast.AST, ...]:
    """All of a module, read once for all questions."""
    return tuple(ast.walk(ast.parse(path.read_text())))


@cache
def imports(path: Path) -> frozenset[str]:
    found = set()
    for node in nodes(path):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
            found |= {f"{node.module}.{alias.name}" for alias in node.names}  # where it is a module
    return frozenset(found)


@pytest.mark.parametrize("path", sorted(SOURCE.rglob("*.py")), ids=lambda p: str(p.relative_to(SOURCE)))
def test_arrows_run_downward(path: Path) -> None:
    parts = path.relative_to(SOURCE).parts
    room = parts[0]
    if room not in LEVEL:
        return  # problems.py and the like stand beside the rooms
    for name in imports(path):
        if room not in ("app", "render"):
            assert not name.startswith(INTERFACE), f"{path} is core and imports {name}"
        if name.startswith("anatome.") and name.split(".")[1] in LEVEL:
            assert LEVEL[name.split(".")[1]] <= LEVEL[room], f"{path} reaches up to {name}"
    if room in ("linework", "render", "formats"):
        beside = {"linework", "render", "formats"} - {room}
        allowed = {("formats", "linework"), ("render", "linework")}
        for name in imports(path):
            if name.startswith("anatome.") and name.split(".")[1] in beside:
                assert (room, name.split(".")[1]) in allowed, f"{path} reaches sideways to {name}"


@pytest.mark.parametrize("room", APP_LEVEL)
def test_arrows_run_downward_within_the_window(room: str) -> None:
    paths = sorted((SOURCE / "app" / room).rglob("*.py")) or [SOURCE / "app" / f"{room}.py"]
    for path in paths:
        for name in imports(path):
            other = name.split(".")[2] if name.startswith("anatome.app.") else room
            assert other == room or APP_LEVEL.get(other, 99) < APP_LEVEL[room], f"{path} reaches up to {name}"


def test_every_part_of_the_window_has_a_room() -> None:
    found = {path.name for path in (SOURCE / "app").iterdir() if path.name not in ("__pycache__", "assets")}
    assert found == {"__init__.py", "main.py", *APP_LEVEL} - {"main"}


def test_the_command_line_reaches_the_window_only_to_start_it() -> None:
    for path in (SOURCE / "cli").glob("*.py"):
        reached = {name for name in imports(path) if name.startswith("anatome.app")}
        only_starts = all(name == "anatome.app.main" or name.startswith("anatome.app.main.") for name in reached)
        assert only_starts and (not reached or path.name == "commands.py"), path


def test_no_modules_need_one_another_in_a_circle() -> None:
    """Not even for their types, and within rooms neither."""
    names = {path: "anatome." + ".".join(path.relative_to(SOURCE).with_suffix("").parts) for path in SOURCE.rglob("*.py")}
    known = set(names.values()) | {name.removesuffix(".__init__") for name in names.values()}
    graph = nx.DiGraph()
    for path, name in names.items():
        module = name.removesuffix(".__init__")
        for found in imports(path):
            if found in known:
                graph.add_edge(module, found)
    graph.remove_edges_from(nx.selfloop_edges(graph))
    assert list(nx.simple_cycles(graph)) == [] and graph.number_of_edges() > 400


def test_nobody_asks_which_kind_a_cut_is() -> None:
    """Outside cuts/: a cut answers for itself."""
    kinds, words = {"SectionPlane", "SectionBox", "SteppedSection", "SectionPrism"}, {"plane", "box", "stepped", "prism"}
    for path in SOURCE.rglob("*.py"):
        if path.relative_to(SOURCE).parts[0] == "cuts":
            continue
        for node in nodes(path):
            if isinstance(node, ast.Call) and getattr(node.func, "id", "") in ("isinstance", "issubclass"):
                asked = {name.id for name in ast.walk(node.args[1]) if isinstance(name, ast.Name)}
                assert not asked & kinds, f"{path} asks at line {node.lineno}"
            if isinstance(node, ast.Compare) and getattr(node.left, "attr", "") == "kind":
                asked = {value.value for value in ast.walk(node) if isinstance(value, ast.Constant)}
                assert not asked & words, f"{path} asks at line {node.lineno}"
            assert not (isinstance(node, ast.MatchClass) and getattr(node.cls, "id", "") in kinds), path


def test_cutting_needs_no_interface_at_run_time() -> None:
    code = "import sys, anatome.cli, anatome.linework.cut_drawing, anatome.formats.svg; "
    code += f"print([m for m in sys.modules if m.startswith({INTERFACE!r})])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
