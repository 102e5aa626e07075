"""Making the demo that is shipped: ``python -m tools.boathouse.making`` generates the model and the project with its scenes."""

from __future__ import annotations

import itertools
import lzma
import tempfile
from pathlib import Path

import numpy as np

from anatome.cuts.dissection import Cutter, shown_elements
from anatome.cuts.exploding import Exploded, by_storeys
from anatome.cuts.kinds.box import Box
from anatome.cuts.kinds.stepped_line import SteppedLine
from anatome.cuts.parting import Parting
from anatome.cuts.peel import build_up
from anatome.cuts.plane import Plane
from anatome.demo.shipped import FOLDER, MODEL, PROJECT
from anatome.formats.opening import open_model
from anatome.formats.pictures_out import png_bytes
from anatome.formats.store import save_building
from anatome.look.divide import Divide
from anatome.look.look import UNSAID_PAPER, Rule
from anatome.look.shipped import first_look, shipped_looks
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.notes.dressing import dress
from anatome.notes.facts import Facts
from anatome.notes.note import NorthPoint, SectionMark
from anatome.raytracing.still import USUAL_SAMPLES
from anatome.scenes import apart, edits, sheet_edits
from anatome.scenes.film import AnyShot, Card, Film, Hold, LookShot, Rise, Sweep, Travel
from anatome.scenes.marks import free_mark
from anatome.scenes.note_edits import replace_notes_of_scene
from anatome.scenes.noted import note_view
from anatome.scenes.opened import opened
from anatome.scenes.plans import plan_scene, plan_storeys
from anatome.scenes.project import ModelReference, Project, Scene, StageState
from anatome.scenes.shared_cuts import all_sections, bring, put_into
from anatome.scenes.storage import StoredProject, pack_model, save_project
from anatome.scenes.storey_scenes import next_storey
from anatome.scenes.variants import in_looks
from anatome.sheets.sheet import KeyPlanBlock, LegendBlock, SceneFrame, Sheet, Titles
from anatome.site.bodies import with_site
from anatome.site.site import Site
from anatome.view.camera import Camera, square_on, standard_view
from anatome.view.crop import PAPERS, Crop, at_scale
from anatome.view.framing import perspective_section
from anatome.view.projections import Corner, named
from anatome.view.viewport import Frame
from tools.boathouse.building import WING_ANGLE, build
from tools.boathouse.surroundings import demo_site

ASPECT = 1.5
PAPER = PAPERS["A3"]
FRAME = Frame(width=1500, height=1000)


def demo_project(building: Building, site: Site) -> Project:
    """The boathouse, joined with its site, with scenes of the same cut and of others."""
    bounds = building.subject_bounds(np.ones(len(building.elements), bool))
    first = standard_view("Axonometric, front left", bounds, ASPECT)
    model = ModelReference(path="boathouse.ifc", embedded=True)
    project = Project(name="Boathouse", model=model, site=site, stage=StageState(camera=first, look=first_look()))
    outside = Camera(eye=(-19.0, -27.0, 10.5), target=(13.0, 6.0, 3.0), field=33.0)
    project = edits.save_scene(edits.set_camera(project, outside), "outside", FRAME, "From the river")

    cut = Plane((14.0, 6.2, 3.0), (0.0, -1.0, 0.0))
    project = edits.add_plane(project, cut, "along")
    house = np.array([[-1.0, 0.0, -1.6], [31.0, 13.0, 10.2]])
    facing = square_on(cut, house, ASPECT, outside.model_copy(update={"field": 28.0}))
    project = edits.save_scene(edits.set_camera(project, facing), "long", FRAME, "Long section")
    corner = standard_view("Axonometric, front left", bounds, ASPECT).zoomed(1.15, bounds.mean(axis=0))
    project = edits.save_scene(edits.set_camera(project, corner), "cutaway", FRAME, "Axonometric cutaway")

    project = edits.delete_cut(project, "along")
    cut = Plane((24.4, 5.0, 3.0), (1.0, 0.0, 0.0))
    project = edits.add_plane(project, cut, "across")
    cross = np.array([[24.0, -6.0, -2.0], [24.0, 20.0, 10.4]])
    facing = square_on(cut, cross, ASPECT, outside.model_copy(update={"field": 30.0}))
    project = edits.save_scene(edits.set_camera(project, facing), "cross", FRAME, "Cross section, clubroom")

    project = edits.delete_cut(project, "across")
    project = edits.add_plane(project, Plane((15.0, 6.0, 1.2), (0.0, 0.0, 1.0)), "plan")
    above = standard_view("Axonometric, front right", np.array([[-1.0, -5.0, -1.0], [34.0, 27.0, 2.0]]), ASPECT)
    project = edits.save_scene(edits.set_camera(project, above), "ground", FRAME, "Ground floor from above")
    project = edits.delete_cut(project, "plan")

    project = _with_boxes(building, project)
    project = _with_steps(project, outside)
    project = _with_peel(building, project)
    project = _with_drawings(project, outside)
    project = _drawn_apart(building, project)
    project = _with_plan(building, project)
    project = _with_more(building, _with_looks(project))
    return edits.recall_scene(_with_films(_with_sheets(_dressed(building, project))), "long", ASPECT)


LOOKS = {
    "outside": "Laid at real size",
    "cutaway": "White model",
    "plan": "White model",
    "ground": "Warm paper and ink",
    "corner": "Noon, hard light",
    "stepped": "Hatched by material",
    "peel": "Materials in colour",
    "sheet": "Hatched by material",
    "oblique": "Colour by use",
    "exploded": "Colour by storey",
}
"""Of scenes that have another look than the calm one."""
TWO_LOOKS = Divide(
    other=shipped_looks()["Ink lines only"],
    by="line",
    line=((17.2, 6.2, -3.0), (12.0, 6.2, 11.0)),
)
"""Of the scene that is half drawn."""


def _with_looks(project: Project) -> Project:
    """Every scene in its look."""
    looks = shipped_looks()
    scenes = []
    for scene in project.scenes:
        look = looks[LOOKS[scene.id]] if scene.id in LOOKS else first_look()
        # Blades are drawn by their colour; with edges they would be black.
        overrides = (Rule(who=Selection(layers=frozenset({"L-PLANTS"})), lines=False),)
        changes = {"look": look, "overrides": overrides}
        scenes.append(scene.model_copy(update={"state": scene.state.model_copy(update=changes)}))
    long = next(scene for scene in scenes if scene.id == "long")
    half = long.state.model_copy(update={"divide": TWO_LOOKS})
    scenes.append(long.model_copy(update={"id": "divided", "name": "Long section, half drawn", "state": half}))
    cross = next(scene for scene in scenes if scene.id == "cross")
    plain = {"notes": (), "cuts": cross.state.active_cuts}
    evening = cross.state.model_copy(update={**plain, "look": shipped_looks()["Evening"], "still": USUAL_SAMPLES})
    scenes.append(cross.model_copy(update={"id": "still", "name": "The clubroom in the evening", "state": evening}))
    return project.model_copy(update={"scenes": tuple(scenes)})


def _with_more(building: Building, project: Project) -> Project:
    """One scene in three looks, linked, and one for the next storey."""
    scenes, looks, numbers = {scene.id: scene for scene in project.scenes}, shipped_looks(), itertools.count(1)
    others = [looks["Materials in colour"], looks["Technical, black and white"]]
    project = in_looks(project, scenes["stepped"], others, lambda: f"variant{next(numbers)}")
    return next_storey(project, scenes["ground"], building, True, lambda: f"upper{next(numbers)}")[0]


ROOM_BESIDE = 1.22
"""How much more of it the dressed section shows than the plain one, for what is written beside it."""
LEGIBLE = 3.6
"""Mm of capitals on a stage in a window of 1280 × 800, where nothing is to cover anything."""


def _dressed(building: Building, project: Project) -> Project:
    """The long section with what is usual written on it."""
    long = next(scene for scene in project.scenes if scene.id == "long")
    state = long.state.model_copy(
        update={"camera": long.state.camera.widened(ROOM_BESIDE), "look": shipped_looks()["White model"]}
    )
    shown, numbers = opened(Cutter(building), state), itertools.count(1)
    view = note_view(state, shown, Facts(building), FRAME, UNSAID_PAPER, project.site, LEGIBLE)
    found = dress(view, state.cuts[0], shown.cut_open.faces, lambda: f"note{next(numbers)}", ())
    state = state.model_copy(update={"notes": found.notes})
    scene = long.model_copy(update={"id": "dressed", "name": "Long section, dressed", "state": state})
    return project.model_copy(update={"scenes": (*project.scenes, scene)})


def _with_films(project: Project) -> Project:
    """The building as it grows, and a cut that goes through it and is looked at in three ways."""
    scenes = {scene.id: scene for scene in project.scenes}
    title, under = "{project}", "{organisation}"
    grows = (
        Card(heading=title, words=f"{under}\nHow it is built", seconds=2.5),
        Rise(scene="outside", seconds=9.0, resting=True),
        Hold(scene="outside", seconds=2.0),
        Travel(scene="exploded", seconds=4.0),
        Hold(scene="exploded", seconds=2.5),
    )
    first, *others = (scenes[i] for i in ("stepped", "variant1", "variant2"))
    looked_at: list[AnyShot] = [
        Card(heading=title, words=f"{under}\nOne cut, three ways to look at it", seconds=2.5),
        Sweep(scene="outside", seconds=7.0),
        Hold(scene=first.id, seconds=2.0, caption="{scene}"),
    ]
    for number, scene in enumerate(others):
        before = (first, *others)[number]
        looked_at += [
            LookShot(scene=before.id, look=scene.state.look, wiped=number == 0, seconds=3.0, caption="{scene}"),
            Hold(scene=scene.id, seconds=2.0, caption="{scene}"),
        ]
    films = (
        Film(id="grows", name="How it is built", shots=grows),
        Film(id="looked at", name="One cut in three looks", shots=tuple(looked_at)),
    )
    return project.model_copy(update={"films": films})


def _with_sheets(project: Project) -> Project:
    """The sections at one scale, and one cut in four looks."""
    numbers, looks = itertools.count(1), shipped_looks()

    def new_id() -> str:
        return f"block{next(numbers)}"

    scenes = {scene.id: scene for scene in project.scenes}
    project = sheet_edits.set_titles(project, Titles(organisation="River Rowing Club"))
    sections = Sheet(id="sections", name="Sections", number="A-02", paper=PAPERS["A1"])
    sections = sheet_edits.at_one_scale(sections, [scenes["dressed"], scenes["cross"]], new_id, project)
    sections = _numbered(sections)
    sections = sheet_edits.put_blocks(
        sections, [LegendBlock(id=new_id(), at=(32.0, 22.0), columns=3), KeyPlanBlock(id=new_id(), at=(560.0, 16.0), height=60.0)]
    )
    four = [scenes["long"].state.look, *(looks[name] for name in ("White model", "Hatched by material", "Night blue"))]
    cut = sheet_edits.in_looks(Sheet(id="looks", name="One cut in four looks", number="A-03"), scenes["long"], four, new_id)
    plan = Sheet(id="plan", name="Ground floor plan", number="A-01", paper=PAPERS["A2"])
    plan = _numbered(sheet_edits.at_one_scale(plan, [scenes["plan"]], new_id, project))
    for sheet in (plan, sections, cut):
        project = sheet_edits.put_sheet(project, sheet)
    return project


def _numbered(sheet: Sheet) -> Sheet:
    """With numbers before the names of its scenes."""
    blocks = (b.model_copy(update={"numbered": True}) if isinstance(b, SceneFrame) else b for b in sheet.blocks)
    return sheet.model_copy(update={"blocks": tuple(blocks)})


def _with_boxes(building: Building, project: Project) -> Project:
    """The wing in a box turned to match it, and the river corner of the house carved out."""
    box = Box((27.15, 19.3, 0.55), (7.9, 12.6, 4.1), WING_ANGLE - 90.0)
    wing = edits.add_box(project, box, "wing")
    view = standard_view("Axonometric, front left", np.stack([box.corners.min(axis=0), box.corners.max(axis=0)]), ASPECT)
    wing = edits.save_scene(edits.set_camera(wing, view), "wing", FRAME, "The wing by itself")
    project = edits.delete_cut(wing, "wing")
    project = edits.add_box(project, Box((24.5, 2.0, 6.5), (13.5, 8.5, 12.0)), "corner", carve=True)
    above = standard_view("Axonometric, front right", np.array([[3.0, -5.0, -1.0], [34.0, 14.0, 10.0]]), ASPECT)
    project = edits.save_scene(edits.set_camera(project, above), "corner", FRAME, "Corner carved out")
    return edits.delete_cut(project, "corner")


def _with_steps(project: Project, camera: Camera) -> Project:
    """A stepped section: through the boat hall, then back through the stair."""
    line = SteppedLine((0.0, -1.0, 0.0), (-3.2, -5.75), (19.5,))
    project = edits.add_stepped(project, line, "steps")
    house = np.array([[-1.0, 0.0, -1.6], [31.0, 13.0, 10.2]])
    facing = square_on(line.planes[0], house, ASPECT, camera.model_copy(update={"projection": "parallel", "field": 28.0}))
    project = edits.save_scene(edits.set_camera(project, facing), "stepped", FRAME, "Stepped section")
    return edits.delete_cut(project, "steps")


def _with_peel(building: Building, project: Project) -> Project:
    """The layers of the roof, drawn back one after the other."""
    tile = next(i for i, e in enumerate(building.elements) if e.layer == "A-ROOF-TILE")
    shown = shown_elements(building, project.stage.hidden)
    plane = Plane((9.0, 6.0, 8.0), (-1.0, 0.0, 0.0))
    project = edits.add_peel(project, build_up(building, tile, shown), plane, 2.2, "roof")
    view = standard_view("Axonometric, front left", np.array([[1.0, 0.0, 1.0], [29.0, 12.0, 10.0]]), ASPECT)
    project = edits.save_scene(edits.set_camera(project, view), "peel", FRAME, "Roof, peeled")
    return edits.delete_peel(project, "roof")


def _with_drawings(project: Project, camera: Camera) -> Project:
    """A plan oblique of the house cut lengthwise, and a perspective section across it, cropped to a sheet at 1:50."""
    project = bring(project, "long", ["along"])
    house = np.array([[-1.0, 6.2, -1.0], [31.0, 13.0, 10.2]])
    oblique = named("Plan oblique, 30° and 60°", (-1, -1)).camera(house.mean(axis=0), 1.0, 30.0).fitted(house, ASPECT)
    project = edits.save_scene(edits.set_camera(project, oblique), "oblique", FRAME, "Plan oblique")

    cut = Plane((24.4, 5.0, 3.0), (1.0, 0.0, 0.0))
    project = bring(edits.delete_cut(project, "along"), "cross", ["across"])
    gable = np.array([[24.4, -4.2, -1.2], [24.4, 15.0, 9.8]])
    section = perspective_section(cut, gable, ASPECT, camera)
    section, crop = at_scale(section, Crop(height=0.86).proportioned(PAPER[0] / PAPER[1]), cut, 50.0, PAPER[1])
    project = edits.set_camera(edits.set_crop(project, crop), section)
    project = edits.save_scene(project, "sheet", FRAME, "Perspective section, 1:50")
    return edits.delete_cut(edits.set_crop(project, None), "across")


def _with_plan(building: Building, project: Project) -> Project:
    """The ground floor as a plan, with marks where its sections are."""
    storey = next(s for s in plan_storeys(building) if s.name == "Ground floor")
    plan = plan_scene(project, building, storey, "plan", "floor", free_mark(project))
    sections = [cut for cut in all_sections(project) if cut.id in ("along", "across")]
    state = plan.state.model_copy(
        update={
            "cuts": (*plan.state.cuts, *(cut.model_copy(update={"on": False, "graphic": False}) for cut in sections)),
            "notes": (*(SectionMark(id=f"mark {cut.id}", cut=cut.id) for cut in sections), NorthPoint(id="north")),
        }
    )
    plan = plan.model_copy(update={"name": "Ground floor plan", "state": state})
    project = project.model_copy(update={"scenes": (*project.scenes, plan)})
    # The cross section says where the plan and the other section are found.
    lines = [cut for cut in all_sections(project) if cut.id in ("along", "floor")]
    project = put_into(project.with_stage(cuts=tuple(lines)), [cut.id for cut in lines], ["cross"], on=False).with_stage(cuts=())
    return replace_notes_of_scene(project, "cross", [SectionMark(id=f"mark {cut.id}", cut=cut.id) for cut in lines])


def _drawn_apart(building: Building, project: Project) -> Project:
    """The storeys over one another, and the house cut level and opened: into the floors from above, into the roof from below."""
    project = edits.hide(project, [e.id for e in building.elements if e.layer.startswith(("L-", "Site"))])
    shown = shown_elements(building, project.stage.hidden)
    exploded = Exploded(groups=by_storeys(building, shown, 4.2))
    project = _fitted(building, apart.set_exploded(project, exploded), "Isometric", (-1, -1))
    project = edits.save_scene(project, "exploded", FRAME, "Exploded axonometric")

    project = edits.add_plane(apart.set_exploded(project, None), Plane((15.0, 6.0, 4.95), (0.0, 0.0, 1.0)), "level")
    parting = Parting(way="sideways", distance=34.0, turned="mirrored")
    project = edits.change_cut(project, "level", parting=parting)
    project = _fitted(building, project, "Plan oblique, 45°", (-1, -1))
    project = edits.save_scene(project, "split", FRAME, "Split axonometric")
    return edits.show_all(edits.delete_cut(project, "level"))


def _fitted(building: Building, project: Project, drawn: str, corner: Corner) -> Project:
    """The stage in a projection, with all that is drawn apart in the picture."""
    state = project.stage
    corners = opened(Cutter(building), state).left_corners(building.subject(shown_elements(building, state.hidden)))
    return edits.set_camera(project, named(drawn, corner).camera(corners.mean(axis=0), 1.0, 30.0).fitted_round(corners, ASPECT))


def make(folder: Path = FOLDER) -> None:
    """Generate the model and write both files."""
    from anatome.render.pictures import PictureMaker
    from anatome.render.stills import lit
    from anatome.scenes.scene_view import view_of

    with tempfile.TemporaryDirectory(prefix="anatome-") as scratch:
        source = Path(scratch) / "boathouse.ifc"
        build().write(str(source))
        building = open_model(source)
        folder.mkdir(parents=True, exist_ok=True)
        plain = Path(scratch) / "plain"
        save_building(building, plain, derived=False)
        (folder / MODEL.name).write_bytes(lzma.compress(plain.read_bytes(), preset=9))
        site = demo_site(building)
        building = with_site(building, site)
        project = demo_project(building, site)
        maker, cutter = PictureMaker.standalone(building), Cutter(building)

        def small(scene: Scene) -> bytes:
            size = 360, round(360 / scene.aspect)
            view = lit(view_of(cutter, scene, site=project.site), size, min(scene.state.still, 16))
            return png_bytes(maker.picture(view, size, "paper"))

        thumbnails = {scene.id: small(scene) for scene in project.scenes}
        save_project(folder / PROJECT.name, StoredProject(project, thumbnails, pack_model(source)))


if __name__ == "__main__":
    make()
