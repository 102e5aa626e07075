"""A look in which the graphics side draws nearly what linework is: lines and fills on paper."""

from __future__ import annotations

from anatome.look.look import Look


def quick_lines(look: Look) -> Look:
    """Return the look with its lines, fills and hatches, and nothing on surfaces: no colour, no light, no shade."""
    plain = {"surface": None, "pattern": None, "picture": None}
    rules = tuple(rule.model_copy(update=plain) for rule in look.rules)
    return look.model_copy(
        update={
            "surfaces": "paper",
            "edges": True,
            "tones": (1.0, 1.0, 1.0, 1.0),
            "patterns": False,
            "reflections": 0.0,
            "shade": False,
            "shadows": 0.0,
            "ground": False,
            "sky": None,
            "figures": "outlined",
            "rules": rules,
        }
    )
