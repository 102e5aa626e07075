"""What the cuts leave of the model, as a closed mesh."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QLabel, QWidget

from anatome.app.base.work import Progress
from anatome.app.document.session import Session
from anatome.app.send_out.dialog import Outcome, SendOut
from anatome.app.send_out.scene_choice import name_for
from anatome.cuts.solid import kept_part
from anatome.formats.meshes_out import mesh_bytes


class ModelDialog(SendOut):
    """GLB with a node for each part, or STL."""

    def __init__(self, parent: QWidget, session: Session, folder: Path) -> None:
        name = f"{name_for(session)} cut"
        super().__init__(parent, "Send out the model as cut", "Write model", folder, name, ".glb", "Models (*.glb *.stl)")
        self._session = session
        note = QLabel("What the cuts on the stage leave, closed where the model is. GLB, or STL by the file's ending.")
        note.setProperty("role", "soft")
        note.setWordWrap(True)
        self.form.addRow(note)
        self.form.addRow("File", self.file_row)

    def write(self, path: Path) -> None:
        building, cut_open = self._session.building, self._session.kept()
        assert building is not None

        def work(progress: Progress) -> Outcome:
            kept = kept_part(cut_open, progress)
            content = mesh_bytes(building, kept, path.suffix.lower())
            loose = sum(not k.closed for k in kept)
            note = f"; {loose} were not closed in the model either" if loose else ""
            return Outcome({path: content}, f"Wrote {len(kept)} parts to {path}{note}")

        self.work_on(work)
