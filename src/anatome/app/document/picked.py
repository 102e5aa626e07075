"""What is picked, as one value: a cut or serial sections, parts, a detail, a person or tree, notes, the crop, blocks of the open
sheet, a shot of the open film, or several scenes.
Of one kind at a time, so whoever asks what a key or a page is for asks here alone."""

from __future__ import annotations

from dataclasses import dataclass, replace

from anatome.scenes.project import Project


@dataclass(frozen=True)
class Picked:
    """Ids, ``notes``, ``blocks`` and ``scenes`` in the order they were picked; of serial sections perhaps one ``member``;
    ``at_cut`` says that a part was clicked on its cut face; a ``shot`` is a number, from 0."""

    cut: str | None = None
    member: int | None = None
    elements: frozenset[str] = frozenset()
    figure: str | None = None
    detail: str | None = None
    notes: tuple[str, ...] = ()
    crop: bool = False
    blocks: tuple[str, ...] = ()
    at_cut: bool = False
    shot: int | None = None
    scenes: tuple[str, ...] = ()

    def left_in(self, project: Project) -> Picked:
        """Return what of it is still there. Parts are always: a model that is read anew may bring them back."""
        stage = project.stage
        return replace(
            self,
            cut=self.cut if stage.cut(self.cut) is not None or stage.serial(self.cut) is not None else None,
            figure=self.figure if project.site.figure(self.figure) is not None else None,
            detail=self.detail if stage.detail(self.detail) is not None else None,
            notes=tuple(note for note in self.notes if stage.note(note) is not None),
            crop=self.crop and stage.crop is not None,
            blocks=tuple(block for block in self.blocks if any(sheet.block(block) is not None for sheet in project.sheets)),
            scenes=tuple(scene for scene in self.scenes if project.scene(scene) is not None),
        )


NOTHING = Picked()
