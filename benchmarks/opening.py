"""Opening the demo against the bare ifcopenshell iterator, and the first picture."""

from __future__ import annotations

import multiprocessing
import os
import tempfile
import time
from pathlib import Path

import ifcopenshell
import ifcopenshell.geom
import numpy as np

from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.formats.opening import open_model
from anatome.look.look import Look
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import View
from anatome.view.camera import standard_view
from tools.boathouse.building import build


def bare_iterator(path: Path, kernel: str) -> float:
    """Seconds to walk through all shapes and keep nothing."""
    began = time.perf_counter()
    model = ifcopenshell.open(str(path))
    settings = ifcopenshell.geom.settings()
    settings.set("use-world-coords", True)
    products = [p for p in model.by_type("IfcElement") if p.Representation and not p.is_a("IfcOpeningElement")]
    iterator = ifcopenshell.geom.iterator(settings, model, multiprocessing.cpu_count(), include=products, geometry_library=kernel)
    if iterator.initialize():
        while iterator.next():
            iterator.get()
    return time.perf_counter() - began


def run() -> None:
    """Print the figures."""
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        os.environ["ANATOME_CACHE"] = folder
        path = Path(folder) / "boathouse.ifc"
        began = time.perf_counter()
        build().write(str(path))
        print(f"\nGenerating the boathouse: {time.perf_counter() - began:.1f} s")
        plain, hybrid = bare_iterator(path, "opencascade"), bare_iterator(path, "hybrid-cgal-simple-opencascade")
        began = time.perf_counter()
        building = open_model(path)
        cold = time.perf_counter() - began
        began = time.perf_counter()
        open_model(path)
        warm = time.perf_counter() - began
    print(f"Bare iterator: plain kernel {plain:.1f} s, hybrid kernel {hybrid:.1f} s")
    print(f"Anatome, worker process and all: {cold:.1f} s = {cold / plain:.2f} × plain, {cold / hybrid:.2f} × hybrid")
    print(f"Anatome again, from the cache: {warm:.2f} s = {warm / plain:.3f} × plain")

    began = time.perf_counter()
    maker = PictureMaker.standalone(building)
    shown = np.ones(len(building.elements), bool)
    view = View(
        standard_view("Axonometric, front left", building.bounds, 1.6), ShownBuilding(Cutter(building).dissect([], shown)), Look()
    )
    maker.picture(view, (1280, 800), samples=1)
    first = time.perf_counter() - began
    began = time.perf_counter()
    for _ in range(5):
        maker.picture(view, (1280, 800), samples=1)
    later = (time.perf_counter() - began) / 5
    print(
        f"First picture at 1280 × 800, context, upload and all: {first:.2f} s; each later one {later * 1000:.0f} ms, "
        f"{first / later:.1f} times less ({maker.ctx.info['GL_RENDERER']})"
    )
