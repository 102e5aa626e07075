"""What stands round the boathouse in the demo project: neighbours from footprints, rowers, guests and trees."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from anatome.cuts.dissection import Cutter
from anatome.cuts.picking import pick
from anatome.formats.geojson import read_footprints
from anatome.model.building import Building
from anatome.site.bodies import with_site
from anatome.site.kinds import KINDS
from anatome.site.site import Figure, Neighbour, Site

BASE = -0.35
"""The bank round the neighbours, lowest."""
FIGURES = (
    # Kind, X, Y, a height over the floor it stands on, and whether it is mirrored.
    *(("rower", 17.6, 9.2, 2.0, False), ("walking", 2.4, 10.6, 2.0, False), ("standing", 1.6, 3.2, 2.0, True)),
    *(("walking", 22.0, 6.1, 2.0, True), ("talking", 22.7, 3.9, 5.0, False), ("standing", 22.9, 4.9, 5.0, True)),
    *(("standing", 21.2, 8.6, 5.0, False), ("child", 28.4, -1.6, 5.0, False), ("talking", 29.3, -1.9, 5.0, True)),
    *(("standing", 25.2, 17.5, 2.0, False), ("rower", 9.5, -3.2, 4.0, True), ("walking", -3.5, -2.6, 4.0, False)),
    *(("standing", 24.4, -17.0, 4.0, False), ("child", 25.3, -17.3, 4.0, True)),
    *(("broad tree", -9.0, 7.0, 9.0, False), ("wide tree", -8.5, 18.0, 9.0, False), ("young tree", -1.5, 24.5, 9.0, False)),
    *(("broad tree", 6.0, 31.0, 9.0, False), ("slender tree", 15.5, 34.0, 9.0, False), ("slender tree", 19.0, 35.0, 9.0, False)),
    *(("wide tree", 27.5, 33.0, 9.0, False), ("young tree", 37.5, 19.0, 9.0, False), ("broad tree", 39.5, 0.5, 9.0, False)),
    *(("shrub", -1.6, 8.0, 9.0, False), ("shrub", -1.8, 4.4, 9.0, True), ("young tree", -11.0, -3.0, 9.0, False)),
)


def demo_site(model: Building) -> Site:
    """The site of the demo project, its figures on the floors they stand on."""
    found = read_footprints(Path(__file__).with_name("neighbours.geojson"), "metres")
    blocks = tuple(_standing(block) for block in found.neighbours.blocks)
    site = Site(neighbours=found.neighbours.model_copy(update={"blocks": blocks}))
    whole = with_site(model, site)
    everything = Cutter(whole).dissect([], np.ones(len(whole.elements), bool))
    figures = []
    for number, (kind, x, y, above, mirrored) in enumerate(FIGURES):
        met = pick(everything, np.array([x, y, above]), np.array([0.0, 0.0, -1.0]))
        assert met is not None and met[0].normal[2] > 0.5, (kind, x, y)
        place = met[0].point
        on = whole.elements[met[0].element].id
        height = KINDS[kind].height * (1.0 + 0.03 * ((number * 7) % 5 - 2))
        figures.append(Figure(id=f"figure {number + 1}", kind=kind, place=place, height=height, mirrored=mirrored, on=on))
    return site.model_copy(update={"figures": tuple(figures)})


def _standing(block: Neighbour) -> Neighbour:
    """On the bank, which is not level; its foot reaches into it."""
    return block.model_copy(update={"base": BASE, "height": block.height - BASE})
