"""Patterns for names: words with fields in braces."""

from __future__ import annotations

from collections.abc import Mapping
from string import Formatter

from anatome.problems import Problem


def check_pattern(pattern: str, fields: Mapping[str, str]) -> None:
    """Raise Problem for a pattern that has other ``fields`` than these, which say what each is filled with."""
    known = ", ".join(f"{{{field}}} ({words})" for field, words in fields.items())
    try:
        found = [(name, spec, conversion) for _, name, spec, conversion in Formatter().parse(pattern) if name is not None]
    except ValueError as error:
        raise Problem(f"“{pattern}” is no pattern for names: {error}. It may have {known}.") from None
    for name, spec, conversion in found:
        if name not in fields or spec or conversion:
            raise Problem(f"A pattern for names has no “{{{name}}}”. It may have {known}.")
