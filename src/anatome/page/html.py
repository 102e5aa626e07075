"""The page itself: one file with its pictures, styles and script in it, that asks nothing of a network."""

from __future__ import annotations

import base64
import hashlib
import io
import json
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from html import escape
from importlib.resources import files
from string import Template

from anatome.look.look import Rgb, hex_of, mixed, rgb
from anatome.notes.lettering import font_file
from anatome.page.fitting import text_of
from anatome.page.model import TurnedModel

ASSETS = files("anatome.page") / "assets"
ACCENT = rgb("#2F7F73")
LEAST_CONTRAST = 4.5
"""Of words on paper (WCAG 2.2, value from memory)."""
PLAIN = (rgb("#F6F4EE"), rgb("#22262B"))
"""Paper and ink where a look's own cannot be read."""
MOST_HIGH = 76
"""Hundredths of the height of the screen that a picture takes."""
ALWAYS = "".join(map(chr, range(32, 127))) + "°–—“”’…×·±²³äöüÄÖÜßéèêàçñ"
SAFE = str.maketrans({"<": "\\u003c", ">": "\\u003e", "&": "\\u0026"})


@dataclass(frozen=True)
class Figure:
    """A scene on the page: its ``picture`` (WebP) of so many pixels with an ``alt``, ``small`` for the contents; ``over`` it what
    is written; ``larger`` to look into. ``frames`` are what one drags through, that of the picture at ``home`` among them;
    ``other`` is the same in another look; a ``model`` takes
    the place of the picture when it is near."""

    name: str
    words: str
    alt: str
    picture: bytes
    small: bytes
    size: tuple[int, int]
    over: bytes | None = None
    written: str = ""
    larger: bytes | None = None
    frames: tuple[bytes, ...] = ()
    frame_words: tuple[str, ...] = ()
    home: int = 0
    along: tuple[float, float] = (1.0, 0.0)
    round: bool = False
    hint: str = ""
    other: bytes | None = None
    look_names: tuple[str, str] = ("", "")
    model: TurnedModel | None = None


@dataclass(frozen=True)
class MovingFigure:
    """A film on the page: an MP4 file of so many pixels."""

    name: str
    words: str
    film: bytes
    size: tuple[int, int]


@dataclass(frozen=True)
class PageText:
    """What the page is called and says, and its paper and ink."""

    title: str
    words: str = ""
    footer: str = ""
    colours: tuple[Rgb, Rgb] = field(default=PLAIN)


def page_html(text: PageText, figures: Iterable[Figure | MovingFigure]) -> str:
    """Return the page as one HTML file."""
    shown = list(figures)
    sections, data, contents = [], [], []
    for number, figure in enumerate(shown, 1):
        section, own = _film(number, figure) if isinstance(figure, MovingFigure) else _scene(number, figure)
        sections.append(section)
        data += own
        small = "" if isinstance(figure, MovingFigure) else f'<img src="{_webp(figure.small)}" alt="">'
        contents.append(f'<li><a href="#s{number}">{small}{escape(figure.name)}</a></li>')
    if any(isinstance(figure, Figure) and figure.larger for figure in shown):
        data.append(DIALOG)
    style = _style(text, shown)
    script = (ASSETS / "page.js").read_text(encoding="utf-8")
    if any(isinstance(figure, Figure) and figure.model is not None for figure in shown):
        licence, viewer = ((ASSETS / name).read_text(encoding="utf-8") for name in ("three.LICENSE", "model.js"))
        script = f"/*\n{licence}*/\n{viewer}\n{script}"
    index = f'<nav aria-label="Contents"><ol>\n{"".join(contents)}\n</ol></nav>' if len(shown) > 1 else ""
    return Template((ASSETS / "page.html").read_text(encoding="utf-8")).substitute(
        title=escape(text.title),
        words=f"<p>{escape(text.words)}</p>" if text.words else "",
        contents=index,
        sections="\n".join(sections),
        footer=escape(text.footer),
        data="\n".join(data),
        style=style,
        script=script,
        style_hash=_hash(style),
        script_hash=_hash(script),
    )


DIALOG = """<dialog aria-label="The picture, larger"><div class="look"><img alt=""></div><div class="bar">
<button type="button" class="nearer" aria-label="Nearer">+</button>
<button type="button" class="farther" aria-label="Farther">−</button>
<button type="button" class="close">Close</button></div></dialog>"""


def _scene(number: int, figure: Figure) -> tuple[str, list[str]]:
    wide, high = figure.size
    parts, data, more = [], [], []
    parts.append(
        f'<img class="frame-home" src="{_webp(figure.picture)}" width="{wide}" height="{high}" alt="{escape(figure.alt)}">'
    )
    attributes = {"shows": "picture"}
    if figure.frames:
        parts.append('<canvas role="img" hidden></canvas>')
        attributes = {
            "shows": "frames",
            "frames": f"frames-{number}",
            "words": json.dumps(figure.frame_words),
            "home": str(figure.home),
            "along": json.dumps(figure.along),
            "round": "yes" if figure.round else "no",
        }
        packed = ["" if frame == figure.home else text_of(content) for frame, content in enumerate(figure.frames)]
        data.append(_json(f"frames-{number}", packed))
        more.append(_range(figure.hint, len(figure.frames) - 1, figure.home))
        more.append('<button type="button" class="play" aria-pressed="false">Play</button>')
    elif figure.model is not None:
        parts.append('<canvas role="img" hidden></canvas>')
        own, more_of_it = _model(number, figure.model)
        attributes, data = own, [*data, _json(f"glb-{number}", text_of(figure.model.glb))]
        more += more_of_it
    elif figure.other is not None:
        parts.append(f'<img class="over other" src="{_webp(figure.other)}" alt="{escape(figure.look_names[1])}" hidden>')
        attributes = {"shows": "looks", "words": json.dumps(figure.look_names)}
        more.append(_range("Wipe from one look to the other", 100, 50))
    if figure.over is not None:
        parts.append(f'<img class="over" src="{_webp(figure.over)}" alt="{escape(figure.written)}">')
        more.append('<button type="button" class="notes" aria-pressed="true">Notes</button>')
    if figure.larger is not None:
        attributes["larger"] = f"larger-{number}"
        data.append(_json(f"larger-{number}", text_of(figure.larger)))
        more.append('<button type="button" class="enlarge">Look closer</button>')
    told = " ".join(f'data-{key}="{escape(value)}"' for key, value in attributes.items())
    bar = f'<div class="bar" hidden>{"".join(more)}</div>' if more else ""
    return (
        f'<section id="s{number}" aria-labelledby="h{number}"><h2 id="h{number}">{escape(figure.name)}</h2>{_words(figure.words)}'
        f'<figure {told}><div class="stage">{"".join(parts)}</div>{bar}</figure></section>'
    ), data


def _model(number: int, model: TurnedModel) -> tuple[dict[str, str], list[str]]:
    """(what the figure says of a model, its bar)."""
    said = {
        "camera": model.camera,
        "size": model.size,
        "aspect": model.aspect,
        "paper": model.paper,
        "normal": model.normal,
        "offsets": model.offsets,
        "home": model.home,
    }
    attributes = {"shows": "model", "glb": f"glb-{number}", "model": json.dumps(said), "words": json.dumps(model.words)}
    bar = [_range("Drag the cut through the building", len(model.words) - 1, model.home)] if model.words else []
    hint = "" if model.words else "<span>Drag to turn it, with two fingers or the wheel nearer</span>"
    return attributes, [*bar, hint, '<button type="button" class="back">As it was</button>']


def _film(number: int, figure: MovingFigure) -> tuple[str, list[str]]:
    wide, high = figure.size
    source = f"data:video/mp4;base64,{text_of(figure.film)}"
    return (
        f'<section id="s{number}" aria-labelledby="h{number}"><h2 id="h{number}">{escape(figure.name)}</h2>{_words(figure.words)}'
        f'<figure data-shows="film"><video controls playsinline preload="metadata" width="{wide}" height="{high}" '
        f'aria-label="Film: {escape(figure.name)}" src="{source}"></video></figure></section>'
    ), []


def _words(words: str) -> str:
    return f"<p>{escape(words)}</p>" if words else ""


def _range(label: str, last: int, value: int) -> str:
    return (
        f'<label><span>{escape(label)}</span><input type="range" min="0" max="{last}" step="1" value="{value}"></label>'
        "<output></output>"
    )


def _json(name: str, value: object) -> str:
    return f'<script type="application/json" id="{name}">{json.dumps(value).translate(SAFE)}</script>'


def _webp(content: bytes) -> str:
    return f"data:image/webp;base64,{text_of(content)}"


def _hash(content: str) -> str:
    return f"sha256-{base64.b64encode(hashlib.sha256(content.encode()).digest()).decode()}"


# Style --------------------------------------------------------------------------------------------------------


def _style(text: PageText, figures: Sequence[Figure | MovingFigure]) -> str:
    letters = ALWAYS + text.title + text.words + text.footer
    letters += "".join(f"{one.name}{one.words}" for one in figures)
    paper, ink = text.colours if contrast(*text.colours) >= 7.0 else PLAIN
    soft = next(c for s in (0.66, 0.74, 0.82, 0.9, 1.0) if contrast(paper, c := mixed(paper, ink, s)) >= LEAST_CONTRAST)
    accent = next(c for s in (0.0, 0.15, 0.3, 0.45, 0.6, 1.0) if contrast(paper, c := mixed(ACCENT, ink, s)) >= LEAST_CONTRAST)
    return Template((ASSETS / "page.css").read_text(encoding="utf-8")).substitute(
        font="\n".join(_face(letters, strong) for strong in (False, True)),
        widths="\n".join(_width(number, figure) for number, figure in enumerate(figures, 1)),
        paper=hex_of(paper),
        ink=hex_of(ink),
        soft=hex_of(soft),
        rule=hex_of(mixed(paper, ink, 0.18)),
        accent=hex_of(accent),
    )


def _width(number: int, figure: Figure | MovingFigure) -> str:
    """No picture is higher than a screen that has room for what is under it too."""
    return f"#s{number} figure {{ max-width: calc({MOST_HIGH}vh * {figure.size[0] / figure.size[1]:.4f}); }}"


def contrast(one: Rgb, other: Rgb) -> float:
    """Return the contrast of two colours, from 1 to 21 (WCAG 2.2, its formula from memory)."""
    low, high = sorted(map(_luminance, (one, other)))
    return (high + 0.05) / (low + 0.05)


def _luminance(colour: Rgb) -> float:
    red, green, blue = (c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in colour)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def _face(letters: str, strong: bool) -> str:
    """The shipped letters that are needed, as a rule of style."""
    from fontTools.subset import Options, Subsetter  # slow to load
    from fontTools.ttLib import TTFont

    options = Options(flavor="woff", notdef_outline=True, layout_features=["kern", "tnum", "liga"])
    font = TTFont(font_file(strong))
    subsetter = Subsetter(options)
    subsetter.populate(text=letters)
    subsetter.subset(font)
    font.flavor = "woff"
    held = io.BytesIO()
    font.save(held)
    source = f"data:font/woff;base64,{text_of(held.getvalue())}"
    return (
        f'@font-face {{ font-family: "Page Sans"; font-weight: {600 if strong else 400}; src: url("{source}") format("woff"); }}'
    )
