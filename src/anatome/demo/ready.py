"""The demo as it is shipped: the generated model, and a project with scenes, ready to open.

``python -m anatome.demo.ready`` makes both files again. They are a project (with the IFC file in it) and the model as
the cache keeps it, so that the first start need not wait for reading.
"""

from __future__ import annotations

import shutil
import tempfile
from importlib.resources import files
from pathlib import Path

import numpy as np

from anatome.cuts.dissection import Cutter
from anatome.cuts.plane import Plane
from anatome.formats.opening import cache_path, open_model
from anatome.formats.png import png_bytes
from anatome.formats.project_files import model_file
from anatome.formats.store import save_building
from anatome.look.look import subject_bounds
from anatome.model.building import Building
from anatome.scenes import edits
from anatome.scenes.project import ModelReference, Project, StageState
from anatome.scenes.storage import StoredProject, load_project, save_project
from anatome.view.camera import Camera, square_on, standard_view

FOLDER = Path(str(files("anatome.demo") / "data"))
PROJECT = FOLDER / "boathouse.anatome"
MODEL = FOLDER / "boathouse.npz"
ASPECT = 1.5


def prepare() -> Path:
    """Put the shipped model into the cache if it is not there; returns the shipped project."""
    with tempfile.TemporaryDirectory(prefix="anatome-") as folder:
        stored = load_project(PROJECT)
        target = cache_path(model_file(stored, PROJECT, Path(folder)), stored.project.model.options)
    if not target.exists():
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(MODEL, target)
    return PROJECT


def demo_project(building: Building) -> Project:
    """The boathouse with scenes of the same cut and of others."""
    bounds = subject_bounds(building, np.ones(len(building.elements), bool))
    first = standard_view("Axonometric, front left", bounds, ASPECT)
    project = Project(name="Boathouse", model=ModelReference(path="boathouse.ifc", embedded=True), stage=StageState(camera=first))
    outside = Camera(eye=(-19.0, -27.0, 10.5), target=(13.0, 6.0, 3.0), field=33.0)
    project = edits.save_scene(edits.set_camera(project, outside), "outside", ASPECT, "From the river")

    trees = [e.id for e in building.elements if e.name.startswith("Tree")]
    along = edits.add_plane(project, Plane((14.0, 6.2, 3.0), (0.0, -1.0, 0.0)), "along")
    along = edits.hide(along, _cut_by(building, along.stage.cuts[0].plane, trees))
    plane = along.stage.cuts[0].plane
    house = np.array([[-1.0, 0.0, -1.6], [31.0, 13.0, 10.2]])
    facing = square_on(plane, house, ASPECT, outside.model_copy(update={"field": 28.0}))
    project = edits.save_scene(edits.set_camera(along, facing), "long", ASPECT, "Long section")
    corner = standard_view("Axonometric, front left", bounds, ASPECT).zoomed(1.15, bounds.mean(axis=0))
    project = edits.save_scene(edits.set_camera(project, corner), "cutaway", ASPECT, "Axonometric cutaway")

    project = edits.show_all(edits.delete_cut(project, "along"))
    project = edits.add_plane(project, Plane((24.4, 5.0, 3.0), (1.0, 0.0, 0.0)), "across")
    cross = np.array([[24.0, -6.0, -2.0], [24.0, 20.0, 10.4]])
    facing = square_on(project.stage.cuts[0].plane, cross, ASPECT, outside.model_copy(update={"field": 30.0}))
    project = edits.save_scene(edits.set_camera(project, facing), "cross", ASPECT, "Cross section, clubroom")

    project = edits.hide(edits.delete_cut(project, "across"), trees)
    project = edits.add_plane(project, Plane((15.0, 6.0, 1.2), (0.0, 0.0, 1.0)), "plan")
    above = standard_view("Axonometric, front right", np.array([[-1.0, -5.0, -1.0], [34.0, 27.0, 2.0]]), ASPECT)
    project = edits.save_scene(edits.set_camera(project, above), "ground", ASPECT, "Ground floor from above")
    return edits.recall_scene(project, "long", ASPECT)


def _cut_by(building: Building, plane: Plane, ids: list[str]) -> list[str]:
    """Those of the elements that the plane runs through: half a tree looks wrong."""
    return [i for i in ids if np.ptp(np.sign(plane.distance(building.element_bounds[building.index_of[i]]))) > 0]


def make(folder: Path = FOLDER) -> None:
    """Generate the model and write both files."""
    from anatome.demo.boathouse import build
    from anatome.render.pictures import PictureMaker, view_of

    with tempfile.TemporaryDirectory(prefix="anatome-") as scratch:
        source = Path(scratch) / "boathouse.ifc"
        build().write(str(source))
        building = open_model(source)
        folder.mkdir(parents=True, exist_ok=True)
        save_building(building, folder / MODEL.name)
        project = demo_project(building)
        maker, cutter = PictureMaker.standalone(building), Cutter(building)
        thumbnails = {
            s.id: png_bytes(maker.picture(view_of(building, cutter, s.state), (360, round(360 / s.aspect)), "paper"))
            for s in project.scenes
        }
        save_project(folder / PROJECT.name, StoredProject(project, thumbnails, source.read_bytes()))


if __name__ == "__main__":
    make()
