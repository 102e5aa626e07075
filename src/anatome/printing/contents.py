"""What the frames of a sheet show: the picture and the lines of a scene, at the size it has there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from anatome.cuts.dissection import Cutter
from anatome.linework.drawing import Drawing
from anatome.linework.of_scene import scale_of, under_lines, written_on
from anatome.linework.view_drawing import view_drawing
from anatome.look.hatches import Hatch
from anatome.look.look import Look, Rgb
from anatome.look.styles import resolve
from anatome.model.building import Building, Element
from anatome.notes.facts import Facts
from anatome.printing.kept_lines import KeptLines
from anatome.printing.wanted import FrameRequest, sections_of
from anatome.render.stills import lit
from anatome.scenes.look_edits import drawn_look
from anatome.scenes.opened import opened
from anatome.scenes.plans import key_plan
from anatome.scenes.project import Project
from anatome.scenes.scene_view import View, view_of
from anatome.scenes.sheet_frames import KEY_ASPECT, WHITE, picture_height, shown_in
from anatome.sheets.sheet import KeyPlanBlock, LegendBlock, LegendBy, SceneFrame, Sheet
from anatome.site.site import NO_SITE
from anatome.words import plain_type


def wanted(frame: SceneFrame, project: Project, ground: Rgb | None = None) -> FrameRequest | None:
    """Return what a frame shows on the ground of its sheet, or None if its scene is gone."""
    scene = project.scene(frame.scene)
    if scene is None:
        return None
    shown, height = shown_in(frame, scene, project, ground or WHITE), round(picture_height(frame, scene), 6)
    return FrameRequest(shown, height, frame.content, project.site, sections_of(shown, project))


def wanted_key(block: KeyPlanBlock, project: Project, sheet: Sheet, building: Building) -> FrameRequest | None:
    """Return what a key plan shows, or None where the model has no storeys."""
    scene = key_plan(project, building, block, sheet)
    if scene is None:
        return None
    # The whole of it in its place, whichever way it is longer; the site is not part of it.
    height = min(block.height, block.height * KEY_ASPECT / scene.aspect)
    return FrameRequest(scene, round(height, 6), "lines", NO_SITE, sections_of(scene, project))


def all_wanted(project: Project, sheet: Sheet, building: Building) -> dict[str, FrameRequest]:
    """Return what is to be drawn for a sheet, by the id of the block."""
    found = {}
    for block in sheet.blocks:
        what = None
        if isinstance(block, SceneFrame):
            what = wanted(block, project, sheet.ground)
        elif isinstance(block, KeyPlanBlock):
            what = wanted_key(block, project, sheet, building)
        if what is not None:
            found[block.id] = what
    return found


def lines_of(
    cutter: Cutter,
    what: FrameRequest,
    facts: Facts,
    progress: Callable[[float], bool] | None = None,
    kept: KeptLines | None = None,
) -> Drawing:
    """Its linework with its notes, from what is ``kept`` if it is there, else kept from now on. Raises Problem where there is
    nothing to draw, or it is cancelled."""
    view = view_of(cutter, what.scene, None, what.site, facts, what.height)
    found = None if kept is None else kept.find(what)
    if found is None:
        scale = scale_of(what.scene, what.height)
        found = view_drawing(
            view,
            what.scene.name,
            round(scale, 3),
            progress=progress,
            tones=what.has_tones,
            layers=what.scene.line_layers,
        )
        if kept is not None:
            kept.put(what, found)
    drawing = replace(found, title=what.scene.name)
    if what.has_picture:  # the picture has the fills
        drawing = drawing.lines_alone()
    return written_on(drawing, view)


def view_for(
    cutter: Cutter, what: FrameRequest, facts: Facts, dpi: float, progress: Callable[[float], bool] | None = None
) -> View:
    """Return the view its picture is drawn of; without lines and notes where lines lie over it."""
    view = view_of(cutter, what.scene, None, what.site, facts, what.height)
    return lit(under_lines(view) if what.has_lines else view, what.size(dpi), what.scene.state.still, progress)


# Legends ------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class LegendEntry:
    """What is filled and hatched alike: the material with the largest area, and the ``others``, the largest first."""

    name: str
    fill: Rgb
    hatch: Hatch | None
    others: tuple[str, ...] = ()


Legends = dict[LegendBy, tuple[LegendEntry, ...]]
"""What the legends on a sheet list, by what they say."""


def legends_of(cutter: Cutter, scenes: list[FrameRequest], sheet: Sheet) -> Legends:
    """Return what the legends on a sheet of some scenes list."""
    wanted = dict.fromkeys(block.says for block in sheet.blocks if isinstance(block, LegendBlock))
    return {says: legend_of(cutter, scenes, says) for says in wanted}


def _by(says: LegendBy, look: Look) -> LegendBy:
    """What a legend names in a look: where it says fills, what those are by; one fill for all is told by material."""
    if says != "fill":
        return says
    return look.fill_by if look.fill_by in ("type", "storey") else "material"


def _called(element: Element, building: Building, number: int, by: LegendBy) -> str:
    """What a part is called in a legend; nothing where it is left out."""
    if by == "type":
        return plain_type(element.type)
    if building.earth[number]:
        return element.material or "Ground"
    if by == "storey":
        return "" if element.storey is None else building.storeys[element.storey].name
    return element.material


def legend_of(cutter: Cutter, scenes: list[FrameRequest], says: LegendBy = "material") -> tuple[LegendEntry, ...]:
    """Return what the cuts of some scenes go through, each once, those that look alike together, the largest areas first: by
    material, type or storey, or by what the fills of each scene are by."""
    areas: dict[LegendEntry, float] = {}
    building = cutter.building
    for what in scenes:
        state = what.scene.state
        look = drawn_look(state, what.site, building)
        styles = resolve(look, building)
        for part in opened(cutter, state).parts:
            for face in part.cut_open.faces:
                for element, area in zip(face.poche.element.tolist(), face.poche.areas.tolist()):
                    named = building.elements[element]
                    name = _called(named, building, element, _by(says, look))
                    if not name:
                        continue
                    red, green, blue, _ = (styles.fill[element] / 255.0).tolist()
                    entry = LegendEntry(name, (red, green, blue), styles.hatch_of(element))
                    areas[entry] = areas.get(entry, 0.0) + area
    each: dict[str, LegendEntry] = {}
    for entry in sorted(areas, key=lambda e: -areas[e]):
        each.setdefault(entry.name, entry)
    alike: dict[tuple[Rgb, Hatch | None], list[LegendEntry]] = {}
    for entry in each.values():
        alike.setdefault((entry.fill, entry.hatch), []).append(entry)
    return tuple(replace(first, others=tuple(other.name for other in rest)) for first, *rest in alike.values())
