"""What looks make of pictures, measured on them: weights of lines, hatches, shadows, fading earth, paper."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
import trimesh
from scipy.ndimage import binary_erosion
from scipy.spatial import cKDTree

from anatome.cuts.cut import SectionPlane
from anatome.cuts.deep_earth import with_deep_earth
from anatome.cuts.dissection import Cutter
from anatome.cuts.pieces import ShownBuilding
from anatome.cuts.plane import Plane
from anatome.look.hatch_lines import hatch_lines, level_on_paper
from anatome.look.hatches import Family, Hatch, Tile
from anatome.look.look import Look, Rule, rgb
from anatome.look.shipped import shipped_looks
from anatome.look.styles import resolve
from anatome.model.building import Building
from anatome.model.selection import Selection
from anatome.render.pictures import PictureMaker
from anatome.scenes.scene_view import View
from anatome.site.site import Figure
from anatome.view.camera import Camera, standard_view
from anatome.view.viewport import Viewport
from helpers import box, close_to, made_of

DPI = 300.0
PLAIN = Look(surfaces="white", shade=False, ground=False, edges=False, paper=rgb("#FFFFFF"), ink=rgb("#000000"))


def cut_picture(building: Building, look: Look, metres: float, scale: float, samples: int = 16) -> np.ndarray:
    """(h, w, 3) square on to a cut at y = 0, so many metres square, at a scale and 300 dots per inch."""
    maker, cutter = PictureMaker.standalone(building), Cutter(building)
    cut = SectionPlane(id="a", name="A", mark="A", plane=Plane((0, 0, 0), (0, -1, 0)))
    opened = ShownBuilding(cutter.dissect([cut], np.ones(len(building.elements), bool)))
    distance = metres / 2 / np.tan(np.radians(10))
    camera = Camera(eye=(0, -distance, 0), target=(0, 0, 0), projection="parallel", field=20.0)
    paper = metres * 1000 / scale
    pixels = round(paper / 25.4 * DPI)
    return maker.picture(View(camera, opened, look, paper=paper), (pixels, pixels), "white", samples)[..., :3]


@pytest.mark.parametrize("weight", [0.25, 0.50, 1.00])
def test_cut_lines_are_as_wide_as_said(weight: float) -> None:
    """Ink across the outline of a wall at 300 dpi, within 0.02 mm of its weight; thin between materials, none within one."""
    building = made_of(
        ("a", "IfcWall", "Brick", box(-1, -1, -1, 0, 1, 1)),
        ("b", "IfcWall", "Concrete", box(0, -1, -1, 0.5, 1, 1)),
        ("c", "IfcWall", "Concrete", box(0.5, -1, -1, 1, 1, 1)),
    )
    look = PLAIN.model_copy(update={"poche": rgb("#FFFFFF"), "cut_weight": weight, "part_weight": 0.18})
    picture = cut_picture(building, look, 3.0, 50)
    row = 1.0 - picture[picture.shape[0] // 2 - 20 : picture.shape[0] // 2 + 20, :, 1].mean(axis=0) / 255.0
    middle, metre = len(row) / 2, len(row) / 3.0

    def ink(x: float) -> float:
        near = slice(round(middle + (x - 0.2) * metre), round(middle + (x + 0.2) * metre))
        return float(row[near].sum()) / DPI * 25.4

    assert ink(-1.0) == pytest.approx(weight, abs=0.02) and ink(1.0) == pytest.approx(weight, abs=0.02)
    assert ink(0.0) == pytest.approx(0.18, abs=0.02) and ink(0.5) == pytest.approx(0.0, abs=0.005)


@pytest.mark.parametrize(("name", "angle", "spacing"), [("diagonal", 45.0, 2.2), ("metal", 45.0, 0.7), ("boarding", 90.0, None)])
def test_hatches_lie_at_their_angle_and_spacing(name: str, angle: float, spacing: float | None) -> None:
    """The strongest wave of the picture's Fourier transform, against the definition; boards are 145 mm of the model wide."""
    building = made_of(("a", "IfcWall", "", box(-3, -1, -3, 3, 1, 3)))
    rule = Rule(who=Selection(types=frozenset({"IfcWall"})), hatch=name)
    look = PLAIN.model_copy(update={"poche": rgb("#FFFFFF"), "hatch": "over", "rules": (rule,), "hatch_ink": 1.0})
    scale = 20.0
    picture = 255.0 - cut_picture(building, look, 2.0, scale, 8)[..., 1]
    side = min(picture.shape) // 2 * 2
    window = np.hanning(side)
    wave = np.abs(np.fft.rfft2((picture[:side, :side] - picture.mean()) * window * window[:, None]))
    wave[:3, :3] = wave[-3:, :3] = 0.0
    # Thin lines have many overtones about as strong; the lowest of the strong waves is the spacing.
    rows, columns = np.nonzero(wave > 0.6 * wave.max())
    signed = np.where(rows > side // 2, rows - side, rows)
    lowest = int(np.argmin(np.hypot(signed, columns)))
    row, column = rows[lowest], columns[lowest]
    row = row - side if row > side // 2 else row
    across = np.array([column, -row]) / side  # cycles a pixel, y up
    found = 1.0 / np.linalg.norm(across) / DPI * 25.4
    wanted = 145.0 / scale if spacing is None else spacing
    cycles = side / DPI * 25.4 / wanted  # a transform tells waves apart by whole cycles in its window
    assert found == pytest.approx(wanted, rel=max(0.02, 0.9 / cycles))
    normal = np.degrees(np.arctan2(across[1], across[0])) % 180
    assert abs((normal - angle - 90 + 90) % 180 - 90) < 2.0


HATCHES = {
    "many families, dots": Hatch(
        name="own",
        families=(
            Family(angle=20, spacing=3.0, dashes=(0, 1.4, 3, 1.4), stagger=0.7, start=0.4),
            *(Family(angle=a, spacing=6.0, shift=0.8 * i) for i, a in enumerate((70, 95, 120, 150, 170))),
        ),
    ),
    "a tile": Hatch(
        name="own",
        tile=Tile(size=(6.0, 4.0), strokes=(((0, 1), (2, 3), (4, 3), (6, 1)), ((1, 0), (1, 0.7)))),
        turn=25,
        shift=(1.3, 0.4),
    ),
    "metres, turned": Hatch(name="own", unit="m", families=(Family(angle=0, spacing=0.075), Family(angle=90, spacing=0.15))),
    "too dense": Hatch(name="own", families=(Family(angle=45, spacing=0.17), Family(angle=-45, spacing=0.34))),
}


@pytest.mark.parametrize("aslant", [False, True])
@pytest.mark.parametrize("name", list(HATCHES))
def test_pictures_have_the_very_lines_of_a_hatch(name: str, aslant: bool) -> None:
    """Ink lies on its lines as linework has them, and nowhere else; turned and thinned out alike, and seen aslant with an angle
    that is the paper's."""
    building = made_of(("a", "IfcWall", "", box(-3, -1, -3, 3, 1, 3)))
    rule = Rule(
        who=Selection(types=frozenset({"IfcWall"})), hatch="own", hatch_angle=33.0, hatch_weight=0.25, hatch_follows="paper"
    )
    look = PLAIN.model_copy(
        update={"poche": rgb("#FFFFFF"), "hatch": "over", "rules": (rule,), "hatches": (HATCHES[name],), "hatch_ink": 1.0}
    )
    cutter, cut = Cutter(building), SectionPlane(id="a", name="A", mark="A", plane=Plane((0, 0, 0), (0, -1, 0)))
    opened = ShownBuilding(cutter.dissect([cut], np.ones(1, bool)))
    camera = Camera(eye=(-3.0, -8, 5.0) if aslant else (0, -8, 0), target=(0, 0, 0), projection="parallel", field=14.0)
    paper = 2 * 8 * np.tan(np.radians(7)) * 1000 / 20 * (float(np.linalg.norm(camera.eye)) / 8.0)
    pixels = round(paper / 25.4 * DPI)
    picture = PictureMaker.standalone(building).picture(View(camera, opened, look, paper=paper), (pixels, pixels), "white", 8)
    dark = 1.0 - picture[..., 1] / 255.0

    viewport, plane = Viewport.of(camera, paper, paper), cut.plane
    square = plane.raised(np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]))
    level = level_on_paper(viewport.pixels(square) * [1.0, -1.0])
    hatch = resolve(look, building).hatch_of(0)
    millimetre = viewport.metres_per_pixel(np.zeros(3))
    unit = 1.0 if hatch.unit == "m" else millimetre
    lines = hatch_lines(hatch, shapely.box(-1.2, -1.2, 1.2, 1.2), unit, plane.flat(building.centre), millimetre, level)
    ends = viewport.pixels(plane.raised(lines))
    shares = np.linspace(0.0, 1.0, 400)[:, None, None]
    on_lines = (ends[:, 0] + shares * (ends[:, 1] - ends[:, 0])).reshape(-1, 2)
    row, column = np.meshgrid(*(np.arange(0.3 * pixels, 0.7 * pixels, 2).astype(int),) * 2, indexing="ij")
    middles = (np.stack([column, row], axis=-1).reshape(-1, 2) + 0.5) * paper / pixels
    away = cKDTree(on_lines).query(middles)[0]
    shown = dark[row.ravel(), column.ravel()]
    assert shown[away < 0.05].mean() > 0.8 and shown[away > 0.26].mean() < 0.04
    assert (away < 0.05).sum() > 50 and (away > 0.26).sum() > 50


def test_layers_are_hatched_along_themselves() -> None:
    """Boards that lie at a slant are hatched along their slant: hardly any ink changes along it, and much across."""
    slanted = box(-1.4, -1, -0.2, 1.4, 1, 0.2)
    slanted.apply_transform(trimesh.transformations.rotation_matrix(np.radians(-25), (0, 1, 0)))
    building = made_of(("a", "IfcBeam", "Oak", slanted))
    picture = cut_picture(
        building, PLAIN.model_copy(update={"poche": rgb("#FFFFFF"), "hatch": "over", "hatch_ink": 1.0}), 3.0, 20, 8
    )
    grey = picture[..., 1].astype(float)
    middle, metre = grey.shape[0] / 2, grey.shape[0] / 3.0

    def line(turn: float) -> np.ndarray:
        steps = np.arange(-0.12, 0.12, 0.5 / metre)
        x, y = steps * np.cos(np.radians(turn)), steps * np.sin(np.radians(turn))
        return grey[np.round(middle - y * metre).astype(int), np.round(middle + x * metre).astype(int)]

    assert line(25 + 90).std() > 4 * line(25).std()


@pytest.mark.parametrize("height", [20.0, 35.26, 60.0])
@pytest.mark.parametrize("projection", ["parallel", "perspective"])
def test_the_shadow_of_a_stick_is_as_long_as_trigonometry_says(height: float, projection: str) -> None:
    """A stick of height h under a sun a degrees high throws a shadow of h / tan a on level ground."""
    stick = 2.0
    building = made_of(
        ("ground", "IfcSlab", "", box(-9, -9, -0.3, 9, 9, 0.0)),
        ("stick", "IfcColumn", "", box(-0.06, -0.06, 0, 0.06, 0.06, stick)),
    )
    maker = PictureMaker.standalone(building)
    camera = Camera(eye=(0.0, 0.0, 40.0), target=(0, 0, 0), up=(0, 1, 0), projection=projection, field=26.0)  # type: ignore[arg-type]
    opened = ShownBuilding(Cutter(building).dissect([], np.ones(2, bool)))
    # The sun stands in the west, as said from north, so the shadow points to the right.
    sun = {"shadows": 0.6, "sun_with_view": False, "sun_turn": 270.0, "sun_height": height, "sun_size": 0.2}
    picture = maker.picture(View(camera, opened, PLAIN.model_copy(update=sun)), (900, 900), "white", 4)[..., 1].astype(float)
    metre = 900 / camera.height
    row = picture[449:452, :].mean(axis=0)
    lit = np.median(row[100:200])
    dark = np.flatnonzero((row < lit * 0.72) & (np.arange(900) > 450 + 0.1 * metre))
    assert len(dark) and (dark[-1] + 1 - 450) / metre == pytest.approx(stick / np.tan(np.radians(height)) + 0.06, abs=0.09)
    # And is as dark as said, and nothing is dark on the other side of it.
    assert row[dark[len(dark) // 2]] == pytest.approx(0.4 * lit, rel=0.04) and row[300:440].min() > 0.95 * lit


def test_people_and_trees_stand_on_their_shade() -> None:
    """Darkest at the foot and fainter outwards, without a sun too; looks without shade have none."""
    building = made_of(("ground", "IfcSlab", "", box(-9, -9, -0.3, 9, 9, 0.0)))
    opened = ShownBuilding(Cutter(building).dissect([], np.ones(1, bool)))
    camera = Camera(eye=(0.0, -20.0, 12.0), target=(0, 0, 0), projection="parallel", field=30.0)
    tree = Figure(id="t", kind="young tree", place=(0.0, 0.0, 0.0), height=4.5)

    def before_it(shade: bool, figures: tuple[Figure, ...] = (tree,)) -> np.ndarray:
        look = PLAIN.model_copy(update={"shade": shade, "shadows": 0.0})
        view = View(camera, opened, look, figures=figures)
        picture = PictureMaker.standalone(building).picture(view, (600, 600), "white", 4)[..., 1].astype(float)
        # Towards the eye from the foot, which is in the middle.
        return picture[304:370, 296:304].mean(axis=1)

    bare, shaded = before_it(True, ()), before_it(True)
    darker = bare - shaded
    assert darker[0] > 20 and (np.diff(darker) < 3).all() and abs(darker[-1]) < 1.5
    assert np.abs(before_it(False)[3:] - before_it(False, ())[3:]).max() < 1.0


@pytest.mark.parametrize("pixels", [90, 240, 900])
def test_open_ground_casts_no_shadow_on_itself_however_small_the_picture(pixels: int) -> None:
    """Seen at a slant, where surfaces are pushed back for the sake of lines; and a room without sun is not dark all over."""
    ground = made_of(("ground", "IfcSlab", "", box(-9, -9, -0.3, 9, 9, 0.0)))
    camera = standard_view("Axonometric, front left", np.array([[-9, -9, 0], [9, 9, 4.0]]), 1.0)
    sun = PLAIN.model_copy(update={"shadows": 0.5, "sun_height": 35.0})

    def picture(of: Building) -> np.ndarray:
        opened = ShownBuilding(Cutter(of).dissect([], np.ones(len(of.elements), bool)))
        made = PictureMaker.standalone(of).picture(View(camera, opened, sun), (pixels, pixels), "white", 4)
        return made[pixels // 2 - 3 : pixels // 2 + 3, pixels // 2 - 3 : pixels // 2 + 3, 1].astype(float)

    lit = picture(ground)
    assert lit.min() > 0.97 * lit.max() > 200
    # Under a roof that lets one look in, it keeps more than half of the light, though all of it lies in shade.
    roofed = made_of(
        ("ground", "IfcSlab", "", box(-9, -9, -0.3, 9, 9, 0.0)), ("tree", "IfcRoof", "", box(-60, -60, 30, 60, 60, 31))
    )
    hidden = ShownBuilding(Cutter(roofed).dissect([], np.array([True, False])))
    shaded = sun.model_copy(update={"unseen_shade": True})
    made = PictureMaker.standalone(roofed).picture(View(camera, hidden, shaded), (pixels, pixels), "white", 4)
    assert made[pixels // 2, pixels // 2, 1] == pytest.approx(0.8 * lit.mean(), rel=0.03)


def test_a_cut_face_is_never_in_shadow_and_earth_fades_into_any_paper(boathouse: Building) -> None:
    maker, cutter = PictureMaker.standalone(boathouse), Cutter(boathouse)
    cut = SectionPlane(id="a", name="A", mark="A", plane=Plane((14, 6.2137, 3), (0, -1, 0)))
    opened = ShownBuilding(cutter.dissect([cut], np.ones(len(boathouse.elements), bool)))
    camera = Camera(eye=(14, -60, 2), target=(14, 6.2, 2), projection="parallel", field=20.0)
    look = shipped_looks()["Calm section"]
    plain = maker.picture(View(camera, opened, look.model_copy(update={"shadows": 0.0})), (600, 400), "transparent", 4)
    shaded = maker.picture(View(camera, opened, look.model_copy(update={"shadows": 0.9})), (600, 400), "transparent", 4)
    poche = binary_erosion(close_to(plain, np.round(np.array(look.poche) * 255), 6))
    assert poche.sum() > 500 and np.array_equal(plain[poche], shaded[poche]) and (plain.astype(int) - shaded > 20).any()
    # From its surface down the earth gets clearer and clearer, whatever lies behind it, and there is no line where it ends.
    column = plain[:, 300, 3].astype(int)
    from_top = np.flatnonzero(column)[0]
    below = column[round(400 * 0.62) :]
    assert column[from_top] > 0 and below[0] == 255 and below[-1] == 0 and (np.diff(below) <= 2).all() and len(set(below)) > 20


@pytest.mark.parametrize("look", shipped_looks().values(), ids=list(shipped_looks()))
def test_every_look_reads_in_its_own_way(look: Look, boathouse: Building) -> None:
    """Lines stand out from the paper (WCAG 2: 3 to 1 for graphics), the cut from the paper or by its line, no two looks alike."""

    def luminance(colour) -> float:
        light = np.where(np.array(colour) <= 0.04045, np.array(colour) / 12.92, ((np.array(colour) + 0.055) / 1.055) ** 2.4)
        return float(light @ [0.2126, 0.7152, 0.0722])

    def contrast(one, other) -> float:
        a, b = sorted((luminance(one), luminance(other)))
        return (b + 0.05) / (a + 0.05)

    assert contrast(look.ink, look.paper) > 4.5
    assert contrast(look.poche, look.paper) > 3 or look.hatch != "none" or look.cut_weight >= 0.5
    assert [look == other for other in shipped_looks().values()].count(True) == 1


def test_earth_goes_down_to_the_frame_round_what_stands_in_it() -> None:
    """Half a metre of earth with a footing that is deeper: below both more earth, as wide, and the footing whole."""
    building = made_of(
        ("earth", "IfcGeographicElement", "Earth", box(-1, -1, -0.5, 1, 1, 0)),
        ("footing", "IfcFooting", "Concrete", box(-0.2, -1.2, -0.8, 0.2, 1.2, 0.4)),
    )
    plain = PLAIN.model_copy(update={"poche": rgb("#202020"), "poche_earth": rgb("#C08040")})
    cut = SectionPlane(id="a", name="A", mark="A", plane=Plane((0, 0, 0), (0, -1, 0)))
    face = Cutter(building).dissect([cut], np.ones(2, bool)).faces[0]
    deep = with_deep_earth(building, face.poche, 3.0)
    areas = {e.name: deep.areas[deep.element == i].sum() for i, e in enumerate(building.elements)}
    # 1.6 m beside the footing, down from the surface to 3 m below where earth ends; and as much below the footing.
    assert areas == pytest.approx({"earth": 1.6 * 3.5 + 0.4 * 3.0, "footing": 0.4 * 1.2})
    level = replace(face.poche, plane=Plane((0, 0, 0), (0, 0, 1)))
    assert with_deep_earth(building, level, 3.0) is level

    def column(look: Look, x: float) -> np.ndarray:
        """Downwards through a picture three metres square."""
        picture = cut_picture(building, look, 3.0, 20, 4)
        return picture[:, round((x + 1.5) / 3.0 * picture.shape[1])].astype(int)

    whole = plain.model_copy(update={"earth_to_frame": True})
    earth, dark = np.array([192, 128, 64]), np.array([32, 32, 32])
    assert (np.abs(column(plain, 0.6)[-20] - 255) < 12).all() and (np.abs(column(whole, 0.6)[-20] - earth) < 3).all()
    middle = column(whole, 0.0)
    assert (np.abs(middle[round(len(middle) * (1.5 + 0.7) / 3)] - dark) < 3).all() and (np.abs(middle[-20] - earth) < 3).all()
    assert (np.abs(column(whole, 1.2)[-20] - 255) < 12).all()  # beside it there is none
