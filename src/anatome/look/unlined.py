"""A look without lines, for pictures over which a drawing of them lies."""

from __future__ import annotations

from anatome.look.look import Look


def unlined(look: Look) -> Look:
    """Return the look without edges, hidden lines and the lines of hatches; fills stay what they are."""
    rules = tuple(
        rule.model_copy(update={"lines": False if rule.lines else rule.lines, "hatch_colour": None}) for rule in look.rules
    )
    return look.model_copy(update={"edges": False, "hidden_lines": False, "hatch_ink": 0.0, "rules": rules})
