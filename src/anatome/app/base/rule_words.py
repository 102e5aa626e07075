"""What a rule of a look says, in words; and for whom it may be said of the picked parts."""

from __future__ import annotations

from anatome.look.hatches import shipped_hatches, shipped_patterns
from anatome.look.look import Rule, hex_of
from anatome.model.building import WITHIN, Building
from anatome.model.selection import Selection
from anatome.words import plain_type


def who_words(who: Selection, building: Building) -> str:
    """“3 parts”, “Walls”, “Brick”, the name of a part."""
    found = [plain_type(t) for t in sorted(who.types)] + sorted(who.materials) + sorted(who.layers)
    found += [group.rpartition(WITHIN)[2] for group in sorted(who.groups)]
    found += [s.name for s in building.storeys if s.id in who.storeys]
    found += [f"All named “{word}”" for word in sorted(who.words)]
    if len(who.elements) == 1:
        index = building.index_of.get(next(iter(who.elements)))
        found.append("A part that is gone" if index is None else building.elements[index].name or "1 part")
    elif who.elements:
        found.append(f"{len(who.elements)} parts")
    return ", ".join(found) or "Nothing"


def rule_words(rule: Rule) -> str:
    """“cut #B4442F, hatched brick, seen through 60 %”."""
    found = []
    if rule.fill is not None:
        found.append(f"cut {hex_of(rule.fill)}")
    if rule.hatch is not None:
        hatch = shipped_hatches().get(rule.hatch)
        found.append(f"hatch {(hatch.words if hatch else rule.hatch).lower()}" if rule.hatch else "no hatch")
    if rule.hatch_scale is not None:
        found.append(f"hatch × {rule.hatch_scale:.3g}")
    if rule.hatch_unit is not None:
        found.append("hatch on paper" if rule.hatch_unit == "mm" else "hatch at real size")
    if rule.hatch_angle is not None:
        found.append(f"hatch turned {rule.hatch_angle:.3g}°")
    if rule.hatch_follows is not None:
        found.append(
            {"plane": "hatch as the cut lies", "paper": "hatch as the paper lies"}.get(rule.hatch_follows, "hatch along")
        )
    if rule.hatch_shift is not None:
        found.append("hatch moved")
    if rule.hatch_weight is not None:
        found.append(f"hatch {rule.hatch_weight:.2f} mm")
    if rule.hatch_colour is not None:
        found.append(f"hatch {hex_of(rule.hatch_colour)}")
    if rule.surface is not None:
        found.append(f"surface {hex_of(rule.surface)}")
    if rule.pattern is not None:
        pattern = shipped_patterns().get(rule.pattern)
        found.append((pattern.words if pattern else rule.pattern).lower() if rule.pattern else "no pattern")
    if rule.picture is not None:
        found.append(f"with “{rule.picture}”" if rule.picture else "no picture")
    if rule.lay_by is not None:
        found.append({"face": "laid by each face", "box": "laid by a box"}.get(rule.lay_by, "laid along the part"))
    if rule.lay_turn is not None:
        found.append(f"laid at {rule.lay_turn:.3g}°")
    if rule.lay_scale is not None:
        found.append(f"laid × {rule.lay_scale:.3g}")
    if rule.lay_shift is not None:
        found.append("laid elsewhere")
    if rule.clear is not None:
        found.append(f"transparency {rule.clear:.0%}" if rule.clear else "solid")
    if rule.lines is not None:
        found.append("with edges" if rule.lines else "without edges")
    if rule.line_weight is not None:
        found.append(f"edges {rule.line_weight:.2f} mm")
    if rule.line_colour is not None:
        found.append(f"edges {hex_of(rule.line_colour)}")
    return ", ".join(found) or "as the look"


def choices_of(building: Building, picked: frozenset[str]) -> list[tuple[str, Selection]]:
    """Return what the picked parts have in common: themselves, their type, material, layer, groups and storey."""
    elements = [building.elements[building.index_of[i]] for i in sorted(picked) if i in building.index_of]
    parts = "This part" if len(elements) == 1 else f"These {len(elements)} parts"
    found = [(parts, Selection(elements=picked))]
    for key, field in (("type", "types"), ("material", "materials"), ("layer", "layers")):
        values = {getattr(e, key) for e in elements}
        if len(values) == 1 and (value := values.pop()):
            words = plain_type(value) if key == "type" else value
            found.append((f"All of the {key} {words}", Selection(**{field: frozenset({value})})))
    common = set.intersection(*(set(e.groups) for e in elements)) if elements else set()
    for group in sorted(common, key=len, reverse=True):  # the innermost first
        found.append((f"All of the group {group.rpartition(WITHIN)[2]}", Selection(groups=frozenset({group}))))
    storeys = {e.storey for e in elements}
    if len(storeys) == 1 and (storey := storeys.pop()) is not None:
        found.append((f"All of {building.storeys[storey].name}", Selection(storeys=frozenset({building.storeys[storey].id}))))
    return found
