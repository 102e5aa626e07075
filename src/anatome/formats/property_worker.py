"""The process that looks properties up: ``python -m anatome.formats.property_worker MODEL``.

Reads a GlobalId a line and answers each with a line of JSON: {set: {name: value}}, property sets and quantities as the file has
them, those of the element's type among them; or {"problem": …} once if the file cannot be read.
"""

from __future__ import annotations

import json
import sys

from anatome.formats.worker import end_with_parent


def plain(value: object) -> object:
    """Return a value as JSON can say it."""
    return value if isinstance(value, str | int | float | bool) or value is None else str(value)


def main() -> int:
    end_with_parent()
    try:
        import ifcopenshell
        import ifcopenshell.util.element as element

        model = ifcopenshell.open(sys.argv[1])
    except Exception as error:
        print(json.dumps({"problem": str(error)}), flush=True)
        return 1
    print(json.dumps({"ready": True}), flush=True)
    for line in sys.stdin:
        found: dict[str, dict[str, object]] = {}
        try:
            entity = model.by_guid(line.strip())
            for name, values in element.get_psets(entity).items():
                found[name] = {key: plain(value) for key, value in values.items() if key != "id"}
        except Exception:
            found = {}  # not in the file: a part that was given another id when the model was read
        print(json.dumps(found, ensure_ascii=True), flush=True)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
