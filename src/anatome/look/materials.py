"""A starting table from the names materials have in models, in several languages, to hatches; and from IFC classes.

Words are those of the trade in English, German, French, Italian, Spanish, Dutch, Swedish and Polish (common practice).
"""

from __future__ import annotations

from functools import lru_cache

WORDS: tuple[tuple[str, str], ...] = (
    # The first that a name holds is meant, so what is told of more closely comes first.
    *((word, "insulation rigid") for word in ("xps", "eps", "rigid insul", "hartschaum", "polystyr", "pir ", "foam glass")),
    *((word, "insulation soft") for word in ("insul", "dämm", "daemm", "isol", "aislan", "mineral wool", "wolle", "wool")),
    *(
        (word, "concrete")
        for word in ("concrete", "beton", "béton", "calcestruzzo", "hormig", "betong", "cement", "screed", "estrich")
    ),
    *(
        (word, "brick")
        for word in ("brick", "ziegel", "brique", "mattone", "ladrillo", "baksteen", "tegel", "masonry", "mauerwerk")
    ),
    *((word, "brick") for word in ("murverk", "cegł", "blockwork", "cmu", "clay")),
    *((word, "glass") for word in ("glass", "glas", "verre", "vetro", "vidrio", "szkło", "glazing")),
    *(
        (word, "timber along")
        for word in ("timber", "wood", "holz", "bois", "legno", "madera", "hout", "trä", "drewn", "plywood")
    ),
    *((word, "timber along") for word in ("oak", "larch", "pine", "spruce", "fir ", "cedar", "eiche", "lärche", "fichte", "osb")),
    *(
        (word, "metal")
        for word in ("steel", "stahl", "acier", "acciaio", "acero", "staal", "stål", "stal", "metal", "alumin", "zinc")
    ),
    *((word, "plaster") for word in ("plaster", "gyps", "gips", "putz", "plâtre", "intonaco", "yeso", "drywall", "board")),
    *((word, "stone") for word in ("stone", "stein", "pierre", "pietra", "piedra", "steen", "sten", "granit", "marble", "slate")),
    *((word, "gravel") for word in ("gravel", "kies", "gravier", "ghiaia", "grava", "grind", "ballast", "hardcore")),
    *((word, "sand") for word in ("sand", "sable", "sabbia", "arena", "zand")),
    *((word, "earth") for word in ("earth", "soil", "erde", "terre", "terra", "tierra", "grond", "jord", "ziemia", "topsoil")),
    *((word, "water") for word in ("water", "wasser", "eau ", "acqua", "agua", "vatten", "woda")),
    *((word, "brick") for word in ("tile", "dachziegel", "tuile", "tegola", "teja", "pan ")),
)
CLASSES = {
    **dict.fromkeys(("IfcFooting", "IfcPile", "IfcSlab", "IfcColumn", "IfcStair", "IfcStairFlight", "IfcRamp"), "concrete"),
    **dict.fromkeys(("IfcBeam", "IfcMember", "IfcDoor", "IfcWindow", "IfcFurniture", "IfcFurnishingElement"), "timber along"),
    **dict.fromkeys(("IfcGeographicElement", "IfcSite"), "earth"),
    **dict.fromkeys(("IfcPlate", "IfcRailing"), "metal"),
    **dict.fromkeys(("IfcCovering",), "plaster"),
}
OTHERWISE = "diagonal"


@lru_cache(maxsize=10_000)
def hatch_for(material: str, element_type: str) -> str:
    """Return the name of the hatch one would expect."""
    name = f"{material.lower()} "
    for word, hatch in WORDS:
        if material and word in name:
            return hatch
    return CLASSES.get(element_type, OTHERWISE)


LAID: tuple[tuple[tuple[str, ...], dict[str, str], str], ...] = (
    # Hatches that name a material, what it is laid as by IFC class, and otherwise.
    (("brick",), {"IfcRoof": "tiles", "IfcCovering": "tiles", "IfcSlab": "paving"}, "brickwork"),
    (("timber along",), {"IfcSlab": "floorboards", "IfcWall": "boards upright", "IfcWallStandardCase": "boards upright"}, ""),
    (("stone",), {"IfcRoof": "tiles", "IfcCovering": "tiles"}, "paving"),
    (("metal",), {"IfcRoof": "seams", "IfcCovering": "seams"}, ""),
)
BOARDED = ("IfcCovering", "IfcRoof")
"""What timber covers, it covers as boards."""


@lru_cache(maxsize=10_000)
def pattern_for(material: str, element_type: str) -> str:
    """Return the name of the pattern its surfaces would show when they are near, or nothing: most are plain."""
    if not material:
        return ""
    hatch = hatch_for(material, "")
    for names, by_class, otherwise in LAID:
        if hatch in names:
            if hatch == "timber along" and element_type in BOARDED:
                return "boards upright"
            return by_class.get(element_type, otherwise)
    return ""
