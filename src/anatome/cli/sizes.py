"""Reading sizes in pixels and papers as they are typed."""

from __future__ import annotations

import re

from anatome.problems import Problem
from anatome.view.crop import INCH_PAPERS, PAPERS


def parse_size(text: str | None, usual: tuple[int, int]) -> tuple[int, int]:
    """Pixels: 4000x2500, or 4000 in the usual proportions."""
    if text is None:
        return usual
    found = re.fullmatch(r"(\d{1,6})(?:\s*[x×]\s*(\d{1,6}))?", text)
    width = int(found.group(1)) if found else 0
    height = int(found.group(2) or round(width * usual[1] / usual[0])) if found else 0
    if width < 1 or height < 1:
        raise Problem(f"“{text}” is not a size. Give pixels, for example 4000x2500.")
    return width, height


def parse_part(text: str | None) -> tuple[int, int]:
    """Return “2/4” as two numbers, the first and only part of nothing. Raises Problem."""
    if text is None:
        return 1, 1
    part, _, of = text.partition("/")
    if not (part.isdigit() and of.isdigit()):
        raise Problem(f"“{text}” is not a part. Say for example --shard 1/4: the first of four machines.")
    return int(part), int(of)


def parse_paper(text: str) -> tuple[float, float]:
    """Return a paper by its name, mm across and up, lying. Raises Problem."""
    papers = {name.lower(): size for name, size in (PAPERS | INCH_PAPERS).items()}
    found = papers.get(text.strip().lower())
    if found is None:
        raise Problem(f"There is no paper “{text}”. Those there are: {', '.join(PAPERS | INCH_PAPERS)}.")
    return found
