"""The page a client opens: tried in a real browser from a file, with mouse, touch, keys and a printer, and nothing is sent."""

from __future__ import annotations

import base64
import io
import json
import re
import shutil
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
import trimesh
from axe_core_python.selenium import Axe
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from selenium import webdriver
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from anatome.cuts.cut import SectionPlane
from anatome.cuts.dissection import Cutter
from anatome.cuts.exploding import Exploded, by_storeys
from anatome.cuts.plane import Plane
from anatome.filming.frames import FrameFolder, draw_frames
from anatome.look.look import Look, mixed, rgb
from anatome.look.shipped import shipped_looks
from anatome.model.building import Building
from anatome.notes.anchors import Anchor
from anatome.notes.note import Label
from anatome.page.contents import ClientPage, PageItem, usual_item
from anatome.page.fitting import STEPS, fitted, text_of
from anatome.page.html import contrast
from anatome.page.making import guessed_size, made_page
from anatome.page.pictures import PagePictures, Wanted
from anatome.page.strips import strip_of
from anatome.problems import Problem
from anatome.render.pictures import PictureMaker
from anatome.scenes.film import Film, Hold, Rise
from anatome.scenes.project import ModelReference, Project, Scene, StageState
from anatome.view.camera import Camera, standard_view
from anatome.view.viewport import Frame
from helpers import box, made_of

BROWSER, DRIVER = shutil.which("chromium"), shutil.which("chromedriver")
FRAME = Frame(width=480, height=320)


@pytest.fixture(scope="module")
def house() -> Building:
    walls = [
        (f"Wall {x} {y}", "IfcWall", "Brick", box(x, y, 0, x + wide, y + deep, 4))
        for x, y, wide, deep in ((0, 0, 9, 0.4), (0, 6, 9, 0.4), (0, 0, 0.4, 6), (8.6, 0, 0.4, 6), (4, 0, 0.3, 6))
    ]
    return made_of(
        *walls, ("Slab", "IfcSlab", "", box(0, 0, -0.3, 9, 6.4, 0)), ("Roof", "IfcRoof", "", box(-0.3, -0.3, 4, 9.3, 6.7, 4.3))
    )


@pytest.fixture(scope="module")
def project(house: Building) -> Project:
    camera = standard_view("Axonometric, front left", house.bounds, 1.5)
    look = Look(name="Plain", shadows=0.0, ground=False, paper=(1.0, 1.0, 1.0))
    cut = SectionPlane(id="a", name="Section A", mark="A", plane=Plane((0.0, 3.0, 0.0), (0.0, -1.0, 0.0)))
    label = Label(id="n", anchors=(Anchor(place=(2.0, 3.0, 2.0)),), at=(30.0, 30.0), text="Boats <lie> here & wait")
    plain = StageState(camera=camera, look=look)
    states = {
        "cut": plain.model_copy(update={"cuts": (cut,), "notes": (label,)}),
        "round": plain.model_copy(update={"camera": Camera(eye=(-14, -18, 9), target=(4, 3, 3))}),
        "flat": plain.model_copy(update={"camera": standard_view("Front", house.bounds, 1.5)}),
        "apart": plain.model_copy(
            update={"exploded": Exploded(groups=by_storeys(house, np.ones(len(house.elements), bool), 3.0)), "opening": 1.0}
        ),
    }
    scenes = tuple(Scene(id=i, name=f"Scene “{i}” & more", state=state, frame=FRAME) for i, state in states.items())
    film = Film(id="f", name="Grows", shots=(Rise(scene="cut", seconds=0.6), Hold(scene="cut", seconds=0.4)))
    return Project(name="A <house>", model=ModelReference(path="m"), stage=plain, scenes=scenes, films=(film,))


def a_page(project: Project, **more) -> ClientPage:
    other = shipped_looks()["Night blue"]
    items = (
        usual_item(project.scenes[0]).model_copy(update={"words": "Drag it.\nNow."}),
        PageItem(scene="round", shows="turn"),
        PageItem(scene="flat", shows="looks", look=other),
        PageItem(scene="cut", shows="model"),
    )
    return ClientPage(**{"title": "A <house>", "items": items, "films": ("f",), "width": 360, "frames": 7} | more)


@pytest.fixture(scope="module")
def made(house: Building, project: Project, tmp_path_factory) -> tuple[Path, PagePictures, FrameFolder]:
    folder = tmp_path_factory.mktemp("page")
    pictures, maker = PagePictures(a_page(project), project, Cutter(house)), PictureMaker.standalone(house)
    # A part of the pictures on each of two machines.
    for part in range(2):
        frames = FrameFolder(folder / "pictures", pictures.told, len(pictures.wanted))
        draw_frames(frames, lambda number: pictures.draw(maker, number), range(part, len(pictures.wanted), 2))
    content, quality = made_page(pictures, frames)
    path = folder / "a page.html"
    path.write_text(content, encoding="utf-8")
    assert quality == ""
    return path, pictures, frames


@pytest.fixture(scope="module")
def browser(made) -> Iterator[webdriver.Chrome]:
    if BROWSER is None or DRIVER is None:
        pytest.skip("Chromium and its driver are not installed: apt-get install chromium chromium-driver")
    options = webdriver.ChromeOptions()
    options.binary_location = BROWSER
    quiet = (
        "headless=new",
        "no-sandbox",
        "enable-unsafe-swiftshader",
        "use-angle=swiftshader",
        "disable-quic",
        "no-first-run",
        "disable-background-networking",
    )
    for switch in (*quiet, "disable-component-update", "disable-sync", "window-size=1280,800"):
        options.add_argument(f"--{switch}")
    options.set_capability("goog:loggingPrefs", {"performance": "ALL", "browser": "ALL"})
    driver = webdriver.Chrome(options=options, service=Service(DRIVER))
    driver.get(made[0].as_uri())
    yield driver
    driver.quit()


def section(browser, number: int):
    found = browser.find_element(By.ID, f"s{number}")
    browser.execute_script("arguments[0].scrollIntoView({behavior: 'instant'})", found)
    return found


def until(ready, seconds: float = 10.0) -> None:
    end = time.monotonic() + seconds
    while not ready():
        assert time.monotonic() < end
        time.sleep(0.02)


def shown(browser, part) -> np.ndarray:
    """(h, w, 3) of an element as the browser draws it."""
    time.sleep(0.1)
    return np.asarray(Image.open(io.BytesIO(part.screenshot_as_png)).convert("RGB")).astype(int)


def test_the_page_says_what_it_is_and_asks_nothing_of_a_network(browser, made) -> None:
    text = made[0].read_text(encoding="utf-8")
    assert browser.title == "A <house>" and browser.find_element(By.TAG_NAME, "h1").text == "A <house>"
    headings = [part.text for part in browser.find_elements(By.TAG_NAME, "h2")]
    assert headings == ["Scene “cut” & more", "Scene “round” & more", "Scene “flat” & more", "Scene “cut” & more", "Grows"]
    assert (
        len(browser.find_elements(By.CSS_SELECTOR, "nav a")) == 5
        and section(browser, 1).find_element(By.TAG_NAME, "p").text == "Drag it.\nNow."
    )
    assert not re.search(r"""(?:src|href|url\()\s*=?\s*["']?(?:https?:)?//""", text) and "cookie" not in text
    sent = [json.loads(entry["message"])["message"] for entry in browser.get_log("performance")]
    asked = [e["params"]["request"]["url"] for e in sent if e["method"] == "Network.requestWillBeSent"]
    assert asked and all(url.startswith(("file:", "data:")) for url in asked)
    assert not [entry for entry in browser.get_log("browser") if entry["level"] == "SEVERE"]


def test_the_cut_is_dragged_with_mouse_finger_and_keys(browser, made) -> None:
    part = section(browser, 1)
    stage, slider, said = (part.find_element(By.CSS_SELECTOR, css) for css in (".stage", "input", "output"))
    strip = made[1].strips[0]
    assert said.text == strip.words[strip.home] == "Section A at 3.00 m"
    before = shown(browser, stage)

    def at(number: int) -> None:
        until(lambda: part.find_element(By.TAG_NAME, "canvas").get_attribute("data-frame") == str(number))
        assert said.text == strip.words[number] == slider.get_attribute("aria-valuetext")

    wide, high = stage.size["width"], stage.size["height"]
    share = 2 / (len(strip.moments) - 1)
    along = round(share * strip.along[0] * wide), round(share * strip.along[1] * high)
    ActionChains(browser).move_to_element(stage).click_and_hold().move_by_offset(*along).release().perform()
    at(strip.home + 2)
    after = shown(browser, stage)
    assert (np.abs(after - before).max(axis=2) > 40).mean() > 0.02
    # What is shown is the frame that was drawn.
    drawn = made[2].read(strip.home + 2)[..., :3].astype(int)
    small = np.asarray(
        Image.fromarray(after.astype(np.uint8)).crop((1, 1, wide - 1, high - 1)).resize(drawn.shape[1::-1])
    ).astype(int)
    assert np.abs(small - drawn).mean() < 6
    slider.send_keys(Keys.ARROW_LEFT)
    at(strip.home + 1)
    # A finger goes the other way.
    spot = stage.rect
    x, y = (
        spot["x"] + wide / 2 - browser.execute_script("return scrollX"),
        spot["y"] + high / 2 - browser.execute_script("return scrollY"),
    )
    for kind, step in (("touchStart", 0.0), ("touchMove", 0.5), ("touchMove", 1.0), ("touchEnd", 0.0)):
        points = [] if kind == "touchEnd" else [{"x": x - step * along[0], "y": y - step * along[1]}]
        browser.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})
    at(strip.home - 1)
    slider.send_keys(Keys.END)
    at(len(strip.moments) - 1)
    part.find_element(By.CSS_SELECTOR, ".play").click()
    until(lambda: said.text == strip.words[0])


def test_notes_come_and_go_and_are_there_where_they_hold(browser, made) -> None:
    part = section(browser, 1)
    over, button, slider = (part.find_element(By.CSS_SELECTOR, css) for css in (".over", ".notes", "input"))
    home = made[1].strips[0].home
    browser.execute_script("arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input'))", slider, home)
    assert over.is_displayed() and over.get_attribute("alt") == "Written on it: Boats <lie> here & wait"
    slider.send_keys(Keys.ARROW_RIGHT)
    assert not over.is_displayed()
    slider.send_keys(Keys.ARROW_LEFT)
    button.click()
    assert not over.is_displayed() and button.get_attribute("aria-pressed") == "false"
    button.click()
    assert over.is_displayed()


def test_looks_are_wiped_pictures_looked_into_and_films_play(browser, made, project) -> None:
    part = section(browser, 3)
    stage = part.find_element(By.CSS_SELECTOR, ".stage")
    ActionChains(browser).move_to_element_with_offset(stage, -round(0.3 * stage.size["width"]), 0).click().perform()
    pixels = shown(browser, stage)
    night = made[2].read(made[1].wanted.index(Wanted(2, "other look")))[2, 324, :3].astype(int)
    wide = pixels.shape[1]
    assert np.abs(pixels[5, round(0.1 * wide)] - 255).max() < 6 and np.abs(pixels[5, round(0.9 * wide)] - night).max() < 8
    assert night.max() < 128
    assert part.find_element(By.TAG_NAME, "output").text == "Plain 20 %, Night blue 80 %"
    part.find_element(By.CSS_SELECTOR, ".enlarge").click()
    dialog = browser.find_element(By.TAG_NAME, "dialog")
    picture = dialog.find_element(By.TAG_NAME, "img")
    until(lambda: browser.execute_script("return arguments[0].naturalWidth", picture) == 720)

    def across() -> float:
        return browser.execute_script("return arguments[0].getBoundingClientRect().width", picture)

    until(lambda: across() > 721)  # it is fitted into the window
    size = across()
    dialog.send_keys("+")
    assert across() == pytest.approx(1.4 * size, rel=0.02)
    dialog.send_keys(Keys.ESCAPE)
    assert not dialog.is_displayed()
    film = section(browser, 5).find_element(By.TAG_NAME, "video")
    until(lambda: browser.execute_script("return arguments[0].readyState", film) >= 2)
    assert browser.execute_script("return arguments[0].duration", film) == pytest.approx(1.0, abs=0.06)


def test_the_model_turns_and_its_cut_is_dragged(browser, made, house: Building) -> None:
    part = section(browser, 4)
    canvas, slider, said, back = (part.find_element(By.CSS_SELECTOR, css) for css in ("canvas", "input", "output", ".back"))
    until(lambda: canvas.get_attribute("data-drawn"))
    first = shown(browser, canvas)
    # It begins as the picture is: what is cut lies in the same place.
    drawn = made[2].read(made[1].wanted.index(Wanted(3, "picture")))[..., :3].max(axis=2)
    small = np.asarray(Image.fromarray(first.max(axis=2).astype(np.uint8)).resize(drawn.shape[::-1]))
    dark = (drawn < 90), (small < 90)
    assert (dark[0] & dark[1]).sum() > 0.75 * max(dark[0].sum(), dark[1].sum()) > 100
    canvas.send_keys(Keys.ARROW_LEFT)
    until(lambda: int(canvas.get_attribute("data-drawn")) > 1)
    turned = shown(browser, canvas)
    assert (np.abs(turned - first).max(axis=2) > 30).mean() > 0.03
    slider.send_keys(Keys.ARROW_RIGHT)
    assert said.text == made[1].model(3).words[made[1].model(3).home + 1] and said.text in canvas.get_attribute("aria-label")
    assert (np.abs(shown(browser, canvas) - turned).max(axis=2) > 30).mean() > 0.01
    back.click()
    assert (np.abs(shown(browser, canvas) - first).max(axis=2) > 12).mean() < 0.01


def test_a_model_that_is_turned_is_closed_at_every_place_of_its_cut(made, house: Building) -> None:
    """As trimesh reads it: the faces of each place have the area of the section there, and lie in its plane."""
    model = made[1].model(3)
    scene = trimesh.load(io.BytesIO(model.glb), file_type="glb")
    strip = strip_of(PageItem(scene="cut", shows="cut"), made[1].scenes[3], made[1]._setting(made[1].scenes[3]), 7)
    assert model.words == strip.words and model.home == strip.home and len(model.offsets) == 7
    cutter = Cutter(house)
    for number, (moment, offset) in enumerate(zip(strip.moments, model.offsets)):
        (cut,) = moment.state.active_cuts
        faces = [mesh for name, mesh in scene.geometry.items() if name.startswith(f"faces_{number}") and hasattr(mesh, "area")]
        wanted = sum(face.poche.areas.sum() for face in cutter.dissect([cut], np.ones(len(house.elements), bool)).faces)
        assert sum(mesh.area for mesh in faces) == pytest.approx(wanted, rel=1e-3, abs=1e-6)
        for mesh in faces:
            assert mesh.vertices @ np.array(model.normal) == pytest.approx(offset, abs=1e-3)
    surfaces = [mesh for name, mesh in scene.geometry.items() if name.startswith("surface")]
    bounds = np.concatenate([mesh.bounds for mesh in surfaces])
    low, high = house.bounds
    assert bounds.min(axis=0) == pytest.approx([low[0], low[2], -high[1]], abs=1e-3)
    assert bounds.max(axis=0) == pytest.approx([high[0], high[2], -low[1]], abs=1e-3)


def test_a_screen_reader_and_a_printer_get_all_of_it(browser, made) -> None:
    found = Axe().run(browser, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]})
    assert [(v["id"], [n["target"] for n in v["nodes"]]) for v in found["violations"]] == [] and len(found["passes"]) > 10
    browser.execute_cdp_cmd("Accessibility.enable", {})
    tree = browser.execute_cdp_cmd("Accessibility.getFullAXTree", {})["nodes"]
    named = {role: [] for role in ("slider", "button", "image", "link", "heading")}
    for node in tree:
        role = node.get("role", {}).get("value")
        if role in named and not node["ignored"]:
            named[role].append(node.get("name", {}).get("value", ""))
    assert all(all(names) and names for names in named.values()) and len(named["slider"]) >= 3
    assert any("cut by Section A" in name for name in named["image"]), named["image"]
    printed = base64.b64decode(browser.execute_cdp_cmd("Page.printToPDF", {"printBackground": True})["data"])
    import pypdfium2

    pages = pypdfium2.PdfDocument(printed)
    text = "".join(page.get_textpage().get_text_range() for page in pages)
    assert "Drag it." in text and "Play" not in text
    dark = sum(int((page.render(scale=1).to_numpy()[..., :3].max(axis=2) < 120).sum()) for page in pages)
    assert dark > 2000  # the pictures are there
    # On a phone nothing is wider than the screen.
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": 390, "height": 844, "deviceScaleFactor": 2, "mobile": True}
    )
    assert browser.execute_script("return document.documentElement.scrollWidth") <= 390
    browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})


def test_frames_are_where_they_should_be(house: Building, project: Project) -> None:
    pictures = PagePictures(a_page(project, frames=11), project, Cutter(house))
    strip = pictures.strips[0]
    places = [moment.state.cut("a").plane.origin[1] for moment in strip.moments]
    # From before the roof's edge at −0.3 to just before the other at 6.7, evenly on both sides of where it stands.
    clear = 0.02 * 7.0
    assert len(places) == 11 and places[0] == pytest.approx(-0.3 - clear) and places[-1] == pytest.approx(6.7 - clear)
    assert (
        places[strip.home] == 3.0
        and np.ptp(np.diff(places[: strip.home + 1])) < 1e-9
        and np.ptp(np.diff(places[strip.home :])) < 1e-9
    )
    assert strip.moments[strip.home].scene is not None and strip.words[strip.home] == "Section A at 3.00 m"
    turned = pictures.strips[1]
    assert turned.round and turned.words[0] == "0° round" and len({m.state.camera.eye for m in turned.moments}) == 11
    apart = PagePictures(ClientPage(items=(PageItem(scene="apart", shows="apart"),), frames=5), project, Cutter(house)).strips[0]
    assert [m.state.opening for m in apart.moments] == [0.0, 0.25, 0.5, 0.75, 1.0] and apart.words[0] == "Together"
    assert [usual_item(scene).shows for scene in project.scenes] == ["cut", "turn", "picture", "apart"]
    for wrong, why in (
        (ClientPage(), "a scene or a film"),
        (ClientPage(items=(PageItem(scene="gone"),)), "scene of the page is gone"),
        (ClientPage(films=("gone",)), "film of the page is gone"),
        (ClientPage(items=(PageItem(scene="flat", shows="cut"),)), "no cut that can be dragged"),
        (ClientPage(items=(PageItem(scene="flat", shows="apart"),)), "Nothing is drawn apart"),
    ):
        with pytest.raises(Problem, match=why):
            PagePictures(wrong, project, Cutter(house))


def test_a_page_is_as_small_as_was_asked_for_or_says_what_to_leave_out(made, project: Project, house: Building) -> None:
    path, pictures, frames = made
    size = path.stat().st_size
    assert 0.5 < guessed_size(pictures) / size < 3.0
    smaller = PagePictures(a_page(project, most=(size - 15_000) / 1e6), project, Cutter(house))
    content, quality = made_page(smaller, frames)
    assert len(content.encode()) <= size - 15_000 and quality
    with pytest.raises(Problem, match="Allow more megabytes"):
        made_page(PagePictures(a_page(project, most=0.03), project, Cutter(house)), frames)


@settings(max_examples=15, deadline=None)
@given(st.integers(1, 20), st.floats(0.02, 1.5))
def test_pictures_are_packed_into_what_is_left(count: int, share: float) -> None:
    rng = np.random.default_rng(count)
    pictures = [np.dstack([rng.integers(0, 255, (24, 36, 3), np.uint8), np.full((24, 36), 255, np.uint8)]) for _ in range(count)]
    whole = sum(len(text_of(content)) for content in fitted([lambda p=p: p for p in pictures], 1e9).files)
    try:
        found = fitted([lambda p=p: p for p in pictures], share * whole)
    except Problem:
        assert share < 0.6
        return
    assert sum(len(text_of(content)) for content in found.files) <= share * whole and (found.quality, found.share) in STEPS
    assert share < 1.0 or (found.quality, found.share) == STEPS[0]


def test_contrast_is_that_of_the_standard() -> None:
    # WCAG 2.2, values from memory: black on white 21, #767676 on white is the palest grey that passes at 4.5.
    white, black = (1.0, 1.0, 1.0), (0.0, 0.0, 0.0)
    assert contrast(white, black) == pytest.approx(21.0) and contrast(white, white) == 1.0
    assert contrast(white, rgb("#767676")) >= 4.5 > contrast(white, rgb("#777777"))
    assert contrast(mixed(white, black, 0.5), white) < contrast(mixed(white, black, 0.6), white)
