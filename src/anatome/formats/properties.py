"""Properties of elements as the model's file has them, looked up by a process of its own when they are asked for."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Iterable, Mapping
from pathlib import Path
from threading import Lock

from anatome.model.building import Building
from anatome.model.options import GLTF_SUFFIXES, IFC_SUFFIXES
from anatome.notes.facts import FIELD, Facts, SectionPlace
from anatome.notes.note import AnyNote, Label, Level
from anatome.problems import Problem

PropertySets = dict[str, dict[str, object]]
"""Values by name, by the name of their set."""


class PropertyReader:
    """Reads one model file; the file is opened with the first question. Questions may come from any thread."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._process: subprocess.Popen[str] | None = None
        self._known: dict[str, PropertySets] = {}
        self._lock = Lock()
        self._closed = False

    @property
    def can_have(self) -> bool:
        """Whether a file of this kind carries properties."""
        return self._path.suffix.lower() in IFC_SUFFIXES + GLTF_SUFFIXES

    def sets_of(self, element_id: str) -> PropertySets:
        """Return the property sets and quantities of an element; empty where it has none. Raises Problem."""
        if not self.can_have:
            return {}
        with self._lock:
            if element_id not in self._known:
                self._known[element_id] = self._ask(element_id)
            return self._known[element_id]

    def _ask(self, element_id: str) -> PropertySets:
        process = self._process or self._start()
        assert process.stdin is not None and process.stdout is not None
        try:
            process.stdin.write(element_id.replace("\n", "") + "\n")
            process.stdin.flush()
            answer = json.loads(process.stdout.readline())
        except (OSError, ValueError) as error:
            self._process = None
            raise Problem("The properties could not be read: reading the file broke off. Pick the part again.") from error
        return dict(answer)

    def _start(self) -> subprocess.Popen[str]:
        if self._closed:
            raise Problem("The model is closed.")
        if not self._path.exists():
            raise Problem(f"The properties cannot be read: “{self._path.name}” is no longer where it was opened.")
        process = subprocess.Popen(
            [sys.executable, "-m", "anatome.formats.property_worker", str(self._path)],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        self._process = process
        assert process.stdout is not None
        try:
            first = json.loads(process.stdout.readline())
        except ValueError:
            first = {}
        if "ready" not in first:
            self._process = None
            raise Problem(
                f"The properties cannot be read from “{self._path.name}”: {first.get('problem', 'it is no such file')}."
            )
        return process

    def close(self) -> None:
        """End the process; a question under way comes to nothing."""
        self._closed = True
        process, self._process = self._process, None
        if process is not None:
            process.kill()
            process.wait()


def facts_for(building: Building, path: Path | None, notes: Iterable[AnyNote], sections: Mapping[str, SectionPlace]) -> Facts:
    """Return what notes can say of a building, and where its ``sections`` are drawn, with the properties that some notes ask for,
    looked up now in the model's file."""
    asked = {
        anchor.on
        for note in notes
        if isinstance(note, Label | Level) and any("." in field for field in FIELD.findall(note.text))
        for anchor in note.anchors
    }
    if path is None or not asked:
        return Facts(building).with_sections(sections)
    reader = PropertyReader(path)
    found: dict[str, PropertySets] = {}
    try:
        for element_id in asked & building.index_of.keys():
            found[element_id] = reader.sets_of(element_id)
    except Problem:
        pass  # what could not be read is a dash
    finally:
        reader.close()
    return Facts(building, lambda element_id: found.get(element_id, {})).with_sections(sections)
