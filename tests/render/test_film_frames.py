"""Films as frames and files: what stands still is the picture of its scene, what was stopped goes on, and players read it."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from scipy.ndimage import binary_dilation

from anatome.cuts.dissection import Cutter
from anatome.filming.frames import FrameDrawer, FrameFolder, FrameSettings, draw_frames, told_of
from anatome.filming.on_paper import contact_print, flip_pages, paper_bytes
from anatome.films.timeline import Timeline
from anatome.formats.film import FilmSettings, write_film
from anatome.look.look import Look
from anatome.model.building import Building
from anatome.problems import Problem
from anatome.render.pictures import PictureMaker
from anatome.scenes.film import Film, Hold, LinesFirst, Rise, Travel
from anatome.scenes.project import ModelReference, Project, Scene, StageState
from anatome.scenes.scene_view import view_of
from anatome.view.camera import Camera, standard_view
from anatome.view.crop import PAPERS
from anatome.view.viewport import Frame
from helpers import box, made_of

SIZE, RATE = (160, 100), 10.0
SETTINGS = FrameSettings(SIZE, RATE, "paper", 2)


@pytest.fixture(scope="module")
def house() -> Building:
    walls = [
        (f"Wall {x} {y}", "IfcWall", "Brick", box(x, y, 0, x + wide, y + deep, 8))
        for x, y, wide, deep in ((0, 0, 9, 0.4), (0, 6, 9, 0.4), (0, 0, 0.4, 6))
    ]
    return made_of(*walls, ("Slab", "IfcSlab", "", box(0, 0, -0.3, 9, 6.4, 0)))


@pytest.fixture(scope="module")
def maker(house: Building) -> PictureMaker:
    return PictureMaker.standalone(house)


@pytest.fixture(scope="module")
def project(house: Building) -> Project:
    camera = standard_view("Axonometric, front left", house.bounds, SIZE[0] / SIZE[1])
    other = Camera(eye=(-14, -18, 9), target=(4, 3, 3))
    look = Look(shadows=0.0, ground=False)
    scenes = tuple(Scene(id=i, name=i.upper(), state=StageState(camera=c, look=look)) for i, c in (("a", camera), ("b", other)))
    shots = (
        Hold(scene="a", seconds=0.5),
        Travel(scene="b", seconds=0.6),
        Rise(scene="b", seconds=0.9),
        Hold(scene="b", seconds=0.2),
    )
    film = Film(id="f", name="Film", shots=shots)
    return Project(name="p", model=ModelReference(path="m"), stage=scenes[0].state, scenes=scenes, films=(film,))


@pytest.fixture(scope="module")
def timeline(house: Building, project: Project) -> Timeline:
    return Timeline(project.films[0], project, Cutter(house), SIZE[0] / SIZE[1])


@pytest.fixture(scope="module")
def drawer(timeline: Timeline, project: Project) -> FrameDrawer:
    return FrameDrawer(timeline, project, SETTINGS)


@pytest.fixture(scope="module")
def frames(timeline: Timeline, drawer: FrameDrawer, maker: PictureMaker) -> list[np.ndarray]:
    return [drawer.draw(maker, number) for number in range(timeline.frames(RATE))]


def test_first_and_last_frame_are_the_pictures_of_their_scenes(timeline, maker, project, frames) -> None:
    for scene, frame in zip(project.scenes, (frames[0], frames[-1]), strict=True):
        view = view_of(Cutter(maker.renderer.building), scene, scene.camera_for(SIZE[0] / SIZE[1]))
        assert np.array_equal(maker.picture(view, SIZE, "paper", 2), frame)
    assert len(frames) == 22 and np.array_equal(frames[1], frames[0]) and not np.array_equal(frames[8], frames[0])


def test_while_a_cut_travels_nothing_moves_far_from_it(timeline, maker, frames) -> None:
    """Seen from the side, what lies well under the cut is in both frames the same, grain and lines and all."""
    camera = Camera(eye=(4.5, -40, 4), target=(4.5, 0, 4), projection="parallel", field=12)
    state = StageState(camera=camera, look=Look(shadows=0.0, ground=False))
    own = Project(name="p", model=ModelReference(path="m"), stage=state, scenes=(Scene(id="a", name="A", state=state),))
    film = Timeline(Film(id="f", name="F", shots=(Rise(scene="a", seconds=4),)), own, timeline.cutter, SIZE[0] / SIZE[1])
    drawer = FrameDrawer(film, own, SETTINGS)
    one, other = (drawer.draw(maker, number).astype(int) for number in (24, 25))
    heights = [film.at(number / RATE).state.cuts[-1].plane.origin[2] for number in (24, 25)]
    rows = 4 + camera.height / 2 - (np.arange(SIZE[1]) + 0.5) / SIZE[1] * camera.height  # metres up at each row
    changed = (one != other).any(axis=(1, 2))
    assert changed.any() and rows[changed].min() > heights[0] - 1.8 and rows[changed].max() < heights[1] + 1.0


def test_a_film_that_was_stopped_is_taken_up_again_and_parts_make_the_whole(drawer, maker, project, frames, tmp_path) -> None:
    told, count = told_of(project.films[0], project, SETTINGS), len(frames)

    def draw(number: int) -> np.ndarray:
        return drawer.draw(maker, number)

    stopped = FrameFolder(tmp_path / "stopped", told, count)
    with pytest.raises(Problem, match="was stopped"):
        draw_frames(stopped, draw, range(count), lambda done, of: done < 7)
    assert stopped.missing() == list(range(7, count))
    again = FrameFolder(tmp_path / "stopped", told, count)
    drawn: list[int] = []
    draw_frames(again, lambda number: (drawn.append(number), draw(number))[1], range(count))
    assert drawn == list(range(7, count)) and all(np.array_equal(a, b) for a, b in zip(again.all(), frames, strict=True))
    for part in range(3):
        draw_frames(FrameFolder(tmp_path / "parts", told, count), draw, range(part, count, 3))
    names = [f"{number:04d}.png" for number in range(1, count + 1)]
    assert sorted(path.name for path in (tmp_path / "parts").iterdir()) == [*names, "film.json"]
    for name in names:
        assert (tmp_path / "parts" / name).read_bytes() == (tmp_path / "stopped" / name).read_bytes()
    # What is of another film, or of another state of the project, is not mixed with it.
    louder = project.model_copy(update={"scenes": tuple(s.model_copy(update={"name": "X"}) for s in project.scenes)})
    for other in (told_of(project.films[0], louder, SETTINGS), told_of(project.films[0], project, FrameSettings(SIZE, 5.0))):
        with pytest.raises(Problem, match="another film"):
            FrameFolder(tmp_path / "parts", other, count)
    (tmp_path / "others").mkdir()
    Image.new("RGB", (4, 4)).save(tmp_path / "others" / "0001.png")
    with pytest.raises(Problem, match="something else"):
        FrameFolder(tmp_path / "others", told, count)


@pytest.mark.parametrize("suffix", [".mp4", ".webm"])
def test_players_read_as_many_frames_of_the_size_and_rate_and_as_they_were(frames, tmp_path: Path, suffix: str) -> None:
    path = tmp_path / f"film{suffix}"
    write_film(path, frames, FilmSettings(SIZE, RATE, "best"))
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        assert (stream.width, stream.height) == SIZE and float(stream.average_rate) == RATE
        found = [frame.to_ndarray(format="rgb24").astype(float) for frame in container.decode(stream)]
    assert len(found) == len(frames)
    for number in (0, len(frames) - 1):
        # Colours have half the resolution in both directions (4:2:0), so only the mean of what is off is held.
        assert np.abs(found[number] - frames[number][..., :3]).mean() < 2.5


@pytest.mark.parametrize("suffix", [".gif", ".webp"])
def test_moving_pictures_for_the_web_have_every_frame(frames, tmp_path: Path, suffix: str) -> None:
    path = tmp_path / f"film{suffix}"
    write_film(path, frames, FilmSettings(SIZE, RATE))
    with Image.open(path) as image:
        assert image.size == SIZE and image.is_animated and image.info.get("loop") == 0
        shown = 0.0
        for number in range(image.n_frames):
            image.seek(number)
            image.load()
            shown += image.info["duration"]
        assert shown == pytest.approx(1000 * len(frames) / RATE)  # frames that are alike may be one, shown longer
        assert np.abs(np.asarray(image.convert("RGB"), float) - frames[-1][..., :3]).mean() < 4


def test_what_cannot_be_a_film_is_said_before_anything_is_drawn(frames, tmp_path: Path) -> None:
    for name, coded, why in (
        ("a.avi", FilmSettings(SIZE), "ends with .mp4"),
        ("a.mp4", FilmSettings((161, 100)), "even number"),
        ("a.gif", FilmSettings(SIZE, quality="huge"), "no quality"),
    ):
        with pytest.raises(Problem, match=why):
            write_film(tmp_path / name, frames, coded)
    assert not list(tmp_path.iterdir())


def test_linework_registers_with_the_picture_it_becomes(timeline, maker) -> None:
    """The edges of the finished picture lie under the lines that were drawn first, in a film of other proportions than the
    scene's."""
    state = timeline.at(2.1).scene.state
    scene = Scene(id="a", name="A", state=state, frame=Frame(width=900, height=900))
    own = Project(name="p", model=ModelReference(path="m"), stage=state, scenes=(scene,))
    size = 320, 180
    film = Timeline(Film(id="f", name="F", shots=(LinesFirst(scene="a", seconds=2),)), own, timeline.cutter, size[0] / size[1])
    drawer = FrameDrawer(film, own, FrameSettings(size, 20.0, "paper", 4))
    lined, done = (drawer.draw(maker, number)[..., :3].astype(int).max(axis=2) for number in (21, 39))
    inked = lined < lined.max() - 15
    edges = binary_dilation(np.hypot(*np.gradient(done.astype(float))) > 6, iterations=2)
    assert inked.sum() > 300 and edges[inked].mean() > 0.95 and edges.mean() < 0.5
    blank = drawer.draw(maker, 0)[..., :3]
    assert (blank == blank[0, 0]).all()


@settings(max_examples=40, deadline=None)
@given(st.integers(2, 90), st.sampled_from(sorted(PAPERS.values())), st.sampled_from([(16, 9), (12, 12), (9, 16)]))
def test_contact_prints_and_cards_lie_on_their_paper_in_order(count: int, paper, size) -> None:
    pixels = np.full((size[1], size[0], 4), 255, np.uint8)
    page = contact_print("A film", [(f"{n} s", pixels) for n in range(count)], paper)
    flat = [(paper, part) for part in page.parts]
    cards = flip_pages("A film", [pixels] * count, paper[::-1])
    flat += [((sheet.width, sheet.height), part) for sheet in cards for part in sheet.parts]
    assert len(page.parts) == sum(len(sheet.parts) for sheet in cards) == count
    for (wide, high), part in flat:
        left, bottom, right, top = part.box
        assert 11.9 <= left < right <= wide - 11.9 and 11.9 <= bottom < top <= high - 11.9
        assert (right - left) / (top - bottom) == pytest.approx(size[0] / size[1])
    places = [(-round(part.box[3], 3), round(part.box[0], 3)) for part in page.parts]
    assert places == sorted(places) and len(set(places)) == count  # in rows, from the upper left
    numbers = [int(words.text) for sheet in cards for words in sheet.marks.notes[0].words]
    assert numbers == list(range(1, count + 1))
    assert paper_bytes("A film", [pixels] * count, 9.0, paper, False, ".pdf").startswith(b"%PDF")
