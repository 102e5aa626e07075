"""What a picture says of itself: its scene, scale, look, project and day, as words in the file (PNG) and as XMP (ISO 16684-1)."""

from __future__ import annotations

from dataclasses import dataclass
from xml.sax.saxutils import escape

from PIL.PngImagePlugin import PngInfo

from anatome.lengths import scale_words
from anatome.scenes.project import Scene
from anatome.words import printable

PROGRAM = "Anatome"


@dataclass(frozen=True)
class About:
    """The name of its ``scene``, the ``project``, its ``scale`` in words if it has one, the ``look``, the ``day`` (ISO 8601)."""

    scene: str
    project: str
    scale: str
    look: str
    day: str

    @property
    def title(self) -> str:
        """Its name."""
        return printable(self.scene)

    @property
    def said(self) -> str:
        """All of it in a line."""
        parts = (self.scene, self.scale, self.look, self.project, self.day)
        return printable(", ".join(part for part in parts if part))


def about(scene: Scene, project: str, day: str) -> About:
    """Return what a picture of a scene says of itself."""
    crop = scene.state.crop
    scale = scale_words(crop.scale) if crop is not None and crop.scale else ""
    return About(scene.name or project, project, scale, scene.state.look.name, day)


def png_words(told: About) -> PngInfo:
    """Return the words of a PNG, by the keywords its standard has, and the packet of XMP."""
    info = PngInfo()
    for keyword, text in (("Title", told.title), ("Description", told.said), ("Creation Time", told.day), ("Software", PROGRAM)):
        info.add_itxt(keyword, text)
    info.add_itxt("XML:com.adobe.xmp", xmp_packet(told).decode())
    return info


def xmp_packet(told: About) -> bytes:
    """Return it as XMP: title, description, day, program, and what it is of as keywords."""

    def alternative(text: str) -> str:
        return f'<rdf:Alt><rdf:li xml:lang="x-default">{escape(text)}</rdf:li></rdf:Alt>'

    words = (told.scene, told.scale, told.look, told.project)
    keywords = "".join(f"<rdf:li>{escape(printable(word))}</rdf:li>" for word in words if word)
    return (
        '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>'
        '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
        '<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:xmp="http://ns.adobe.com/xap/1.0/" '
        f'xmp:CreateDate="{escape(told.day)}" xmp:CreatorTool="{PROGRAM}">'
        f"<dc:title>{alternative(told.title)}</dc:title><dc:description>{alternative(told.said)}</dc:description>"
        f"<dc:subject><rdf:Bag>{keywords}</rdf:Bag></dc:subject></rdf:Description></rdf:RDF></x:xmpmeta>"
        '<?xpacket end="w"?>'
    ).encode()
