"""``anatome looks``: the looks there are; and finding one by its name or its file."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from anatome.look.files import read_look
from anatome.look.look import Look
from anatome.look.shipped import shipped_looks
from anatome.problems import Problem


def run(options: argparse.Namespace) -> int:
    """List them."""
    looks = shipped_looks()
    if options.json:
        print(json.dumps([look.model_dump(mode="json") for look in looks.values()], ensure_ascii=False, indent=1))
    else:
        print("\n".join(looks))
    return 0


def look_named(text: str) -> Look:
    """Return a shipped look by its name, in any case, or the one in a file. Raises Problem."""
    for name, look in shipped_looks().items():
        if name.lower() == text.lower():
            return look
    path = Path(text)
    if path.suffix.lower() == ".json" or path.exists():
        return read_look(path)
    raise Problem(f"There is no look “{text}”. Those there are: {', '.join(shipped_looks())}; or give a file of one.")
