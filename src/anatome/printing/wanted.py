"""What is to be drawn for a frame of a sheet."""

from __future__ import annotations

from dataclasses import dataclass

from anatome.notes.facts import SectionPlace
from anatome.notes.note import SectionMark
from anatome.scenes.project import Project, Scene
from anatome.scenes.sheet_frames import section_places
from anatome.sheets.sheet import Content
from anatome.site.site import Site

MOST_PIXELS = 40_000_000
"""Of one picture on a sheet."""


def sections_of(scene: Scene, project: Project) -> tuple[tuple[str, SectionPlace], ...]:
    """Return where on sheets the sections are drawn whose marks a scene shows, by the ids of their cuts."""
    marked = {note.cut for note in scene.state.notes if isinstance(note, SectionMark)} if scene.state.notes_shown else set()
    return tuple(sorted((i, place) for i, place in section_places(project).items() if i in marked)) if marked else ()


@dataclass(frozen=True)
class FrameRequest:
    """A scene as a frame shows it, ``height`` mm high, with or without its ``notes``, as ``content``, with what stands round it;
    ``sections`` says where the sections it has marks of are drawn.

    Two are the same if what they show is.
    """

    scene: Scene
    height: float
    content: Content
    site: Site
    sections: tuple[tuple[str, SectionPlace], ...] = ()

    @property
    def has_lines(self) -> bool:
        return self.content != "picture"

    @property
    def has_picture(self) -> bool:
        return self.content in ("picture", "both")

    @property
    def has_tones(self) -> bool:
        """Whether its linework is made with flat tones; where they lie under a picture they dry darker at their edges."""
        return self.content == "tones" or (self.has_picture and self.scene.state.has_wash_edges)

    def size(self, dpi: float) -> tuple[int, int]:
        """Pixels of its picture at so many dots an inch."""
        high = max(self.height / 25.4 * dpi, 16.0)
        high = min(high, (MOST_PIXELS / self.scene.aspect) ** 0.5)
        return max(round(high * self.scene.aspect), 16), round(high)

    @property
    def paper(self) -> tuple[float, float]:
        """Mm of the whole picture."""
        return self.height * self.scene.aspect, self.height
