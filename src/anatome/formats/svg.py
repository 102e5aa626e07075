"""Writing a drawing as SVG in real millimetres."""

from __future__ import annotations

import base64
from collections.abc import Iterable

from lxml import etree

from anatome.formats.svg_notes import add_notes
from anatome.linework.drawing import Area, Drawing, Ring
from anatome.look.look import Rgb
from anatome.words import printable

PICTURE, NOTES = "Picture", "Notes"
LINKS = "http://www.w3.org/1999/xlink"
SVG = "http://www.w3.org/2000/svg"
# The one widespread way to say that a group is a layer.
LAYERS = "http://www.inkscape.org/namespaces/inkscape"


def svg_bytes(drawing: Drawing) -> bytes:
    """The drawing as an SVG file: one group for each layer, one path for each element with its id in ``data-id``."""
    root = etree.Element(
        f"{{{SVG}}}svg",
        nsmap={None: SVG, "inkscape": LAYERS, "xlink": LINKS},
        attrib={
            "version": "1.1",
            "width": f"{drawing.width:.3f}mm",
            "height": f"{drawing.height:.3f}mm",
            "viewBox": f"0 0 {drawing.width:.3f} {drawing.height:.3f}",
        },
    )
    etree.SubElement(root, f"{{{SVG}}}title").text = printable(f"{drawing.title}, 1:{drawing.scale:g}")
    if drawing.paper is not None:
        whole = {"width": f"{drawing.width:.3f}", "height": f"{drawing.height:.3f}"}
        etree.SubElement(root, f"{{{SVG}}}rect", attrib={**whole, "fill": _colour(drawing.paper)})
    if drawing.picture is not None:
        data = "data:image/png;base64," + base64.b64encode(drawing.picture).decode()
        whole = {"width": f"{drawing.width:.3f}", "height": f"{drawing.height:.3f}", "preserveAspectRatio": "none"}
        group = etree.SubElement(root, f"{{{SVG}}}g", attrib=_layer(PICTURE, drawing.ink, 0.0))
        etree.SubElement(group, f"{{{SVG}}}image", attrib={**whole, f"{{{LINKS}}}href": data})
    for layer in drawing.layers:
        group = etree.SubElement(root, f"{{{SVG}}}g", attrib=_layer(layer.name, drawing.ink, drawing.line_width))
        for area in layer.areas:
            rings = (ring for polygon in area.polygons for ring in polygon)
            path = " ".join(f"{_moves(ring[:-1], drawing.height)} Z" for ring in rings)
            fill = _colour(area.fill) if area.fades is None else _fading(root, area, drawing.height)
            _path(group, area.element_id, area.name, path, fill)
        for line in layer.lines:
            _path(group, line.element_id, line.name, _moves(line.points, drawing.height), "none")
        for label in layer.labels:
            place = {"x": f"{label.at[0]:.3f}", "y": f"{drawing.height - label.at[1]:.3f}"}
            # A capital is about 0.7 of the type size high.
            style = {"font-family": "sans-serif", "font-size": f"{label.height / 0.7:.3f}", "stroke": "none"}
            made = etree.SubElement(group, f"{{{SVG}}}text", attrib={**place, **style, "fill": _colour(drawing.ink)})
            made.text = printable(label.text)
    for strokes in drawing.strokes:
        group = etree.SubElement(root, f"{{{SVG}}}g", attrib=_layer(strokes.name, strokes.ink, strokes.weight))
        if strokes.dashes is not None:
            group.set("stroke-dasharray", f"{strokes.dashes[0]:g} {strokes.dashes[1]:g}")
            group.set("stroke-linecap", "butt")
        d = " ".join(_moves(line, drawing.height) for line in strokes.lines)
        etree.SubElement(group, f"{{{SVG}}}path", attrib={"fill": "none", "d": d})
    if drawing.notes is not None:
        group = etree.SubElement(root, f"{{{SVG}}}g", attrib=_layer(NOTES, drawing.notes.ink, 0.18))
        add_notes(group, drawing.notes, (_colour(drawing.notes.ink), _colour(drawing.notes.paper)))
    return bytes(etree.tostring(root, xml_declaration=True, encoding="UTF-8", pretty_print=True))


def _fading(root: etree._Element, area: Area, height: float) -> str:
    """A gradient from nothing to the fill of an area, as a fill; areas that fade alike share one."""
    assert area.fades is not None
    low, high = area.fades
    name = f"fading-{_colour(area.fill)[1:]}-{low:.2f}-{high:.2f}"
    if root.find(f".//*[@id='{name}']") is None:
        line = {"x1": "0", "x2": "0", "y1": f"{height - low:.3f}", "y2": f"{height - high:.3f}"}
        made = etree.SubElement(root, f"{{{SVG}}}linearGradient", attrib={"id": name, "gradientUnits": "userSpaceOnUse", **line})
        for offset in ("0", "1"):
            etree.SubElement(
                made, f"{{{SVG}}}stop", attrib={"offset": offset, "stop-color": _colour(area.fill), "stop-opacity": offset}
            )
    return f"url(#{name})"


def _layer(name: str, ink: Rgb, weight: float) -> dict[str, str]:
    """A group that is a layer, its lines ``weight`` mm wide, or none."""
    return {
        "id": printable(name),
        f"{{{LAYERS}}}groupmode": "layer",
        f"{{{LAYERS}}}label": printable(name),
        "fill-rule": "evenodd",
        "stroke": _colour(ink) if weight else "none",
        "stroke-width": f"{weight:g}",
        "stroke-linejoin": "round",
        "stroke-linecap": "round",
    }


def _path(group: etree._Element, element_id: str, name: str, d: str, fill: str) -> None:
    made = etree.SubElement(group, f"{{{SVG}}}path", attrib={"data-id": printable(element_id), "fill": fill, "d": d})
    if name:
        etree.SubElement(made, f"{{{SVG}}}title").text = printable(name)


def _moves(points: Ring | Iterable[tuple[float, float]], height: float) -> str:
    """SVG measures y downwards from the upper edge. Six decimals keep areas to about a millionth."""
    return "M" + " L".join(f"{x:.6f},{height - y:.6f}" for x, y in points)


def _colour(rgb: Rgb) -> str:
    return "#" + "".join(f"{round(255 * c):02x}" for c in rgb)
