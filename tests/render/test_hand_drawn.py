"""Pictures in the manner of a hand have the lines of their linework, whatever they are sent out as."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import ezdxf
import numpy as np
import pypdfium2
import pytest
from scipy.ndimage import binary_dilation

from anatome.cuts.dissection import Cutter
from anatome.formats.drawings_out import writer_for
from anatome.formats.project_files import OpenedProject
from anatome.linework.view_drawing import view_drawing
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import View, view_of

HEIGHT = 930
PLAIN = shipped_looks()["Ink lines only"].model_copy(
    update={"manner": "freehand", "waver": 0.2, "crossing": 1.0, "figures": "clear", "recede": 0.0, "hatch": "none"}
)
"""Nothing but lines on white."""


def of(demo: OpenedProject, scene: str, look: Look) -> View:
    project = demo.stored.project
    found = next(s for s in project.scenes if s.name == scene)
    return replace(view_of(Cutter(demo.building), found, None, project.site), look=look, notes=None)


def inked(image: np.ndarray, least: int = 110) -> np.ndarray:
    return image[..., :3].max(axis=2) < 255 - least


def test_a_picture_and_a_pdf_have_the_same_strokes(demo: OpenedProject) -> None:
    """The PDF as another library draws it. Ruled, the picture has other strokes."""
    view = of(demo, "Long section", PLAIN)
    size = round(HEIGHT * view.frame.aspect), HEIGHT
    maker = PictureMaker.standalone(demo.building)
    picture = maker.picture(view, size, "white", 2)
    data = writer_for(Path("x.pdf"))(view_drawing(view, "Long section"))
    page = pypdfium2.PdfDocument(data)[0]
    drawn = page.render(scale=HEIGHT / page.get_height()).to_numpy()[:HEIGHT, : size[0]]
    pdf = np.pad(drawn, ((0, HEIGHT - drawn.shape[0]), (0, size[0] - drawn.shape[1]), (0, 0)), constant_values=255)

    def stray(one: np.ndarray, other: np.ndarray) -> float:
        """The share of the ink of one beside which there is none of the other, not even faint."""
        return float((inked(one) & ~binary_dilation(inked(other, 30), iterations=1)).sum() / inked(one).sum())

    assert inked(picture).sum() > 8_000
    assert stray(pdf, picture) < 0.001 and stray(picture, pdf) < 0.001
    ruled = maker.picture(replace(view, look=PLAIN.model_copy(update={"manner": "ruled", "crossing": 0})), size, "white", 2)
    assert stray(picture, ruled) > 0.005
    # On nothing it is the same picture.
    clear = maker.picture(view, size, "transparent", 2).astype(float)
    on_white = clear[..., :3] * clear[..., 3:] / 255 + 255 - clear[..., 3:]
    assert np.abs(on_white - maker.picture(view, size, "white", 2)[..., :3]).mean() < 0.5


def test_washes_are_darker_at_their_edges_in_pictures_and_files(demo: OpenedProject, tmp_path: Path) -> None:
    look = shipped_looks()["Washed axonometric"].model_copy(
        update={"manner": "ruled", "crossing": 0, "shadows": 0, "shade": False}
    )
    washed, flat = (
        of(demo, "The wing by itself", look),
        of(demo, "The wing by itself", look.model_copy(update={"wash_edge": 1e-4})),
    )
    size = round(HEIGHT * washed.frame.aspect), HEIGHT
    maker = PictureMaker.standalone(demo.building)
    darker = [255.0 - maker.picture(view, size, "white", 2)[..., :3].astype(float).mean(axis=2) for view in (washed, flat)]
    gone = darker[0] - darker[1]
    assert gone.min() > -40 and (gone > 6).mean() > 0.02  # lines of both stand where they stood, but for their own edges
    drawing = view_drawing(washed, "", tones=True)
    edges = [layer for layer in drawing.layers if layer.lies_over]
    assert edges and all(layer.name.endswith("edges of washes") for layer in edges)
    # The same areas in a file of areas, each as thin as it is.
    path = tmp_path / "x.dxf"
    path.write_bytes(writer_for(path)(drawing))
    hatches = ezdxf.readfile(path).modelspace().query("HATCH")
    thin = [h for h in hatches if h.dxf.layer.endswith("edges of washes")]
    assert len(thin) == sum(len(layer.areas) for layer in edges)
    said = sorted({round(area.strength, 2) for layer in edges for area in layer.areas})
    assert sorted({round(1 - h.transparency, 2) for h in thin}) == pytest.approx(said, abs=0.011)
