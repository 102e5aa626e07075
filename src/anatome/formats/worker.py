"""The process that reads a model: ``python -m anatome.formats.worker MODEL RESULT OPTIONS``.

Prints one JSON object a line: {"share", "doing"} while it works, {"problem"} if it cannot.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

from anatome.formats.store import save_building
from anatome.model.building import Building
from anatome.model.options import IFC_SUFFIXES, OpenOptions
from anatome.problems import Problem


def read(path: Path, options: OpenOptions) -> Building:
    """Read with the reader that fits the suffix."""
    last = -1.0

    def progress(share: float, doing: str) -> None:
        nonlocal last
        if share - last >= 0.01 or share == 0.0:
            last = share
            print(json.dumps({"share": share, "doing": doing}), flush=True)

    # Each reader pulls in large libraries; only the one that is needed is loaded.
    if path.suffix.lower() in IFC_SUFFIXES:
        from anatome.formats.ifc import read_ifc

        return read_ifc(path, progress)
    from anatome.formats.mesh import read_mesh

    return read_mesh(path, options, progress)


def main() -> int:
    path, result, options = Path(sys.argv[1]), Path(sys.argv[2]), OpenOptions.model_validate_json(sys.argv[3])
    try:
        save_building(read(path, options), result)
    except Problem as problem:
        print(json.dumps({"problem": str(problem)}), flush=True)
        return 2
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
