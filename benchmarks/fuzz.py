"""``python -m benchmarks.fuzz [FILES] [SEED]``: damaged projects, cache entries and models; each must give a clear answer, soon.

A clear answer is a value or a :class:`Problem`. Every file has so many seconds and so much memory, in a process of its own.
"""

from __future__ import annotations

import json
import random
import resource
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

from anatome.problems import Problem

SECONDS = 20.0
MEMORY = 4_000_000_000
WILD = [float("nan"), float("inf"), -1e308, 1e308, 0, -1, 1e-320, 10**30, None, [], {}, True]
WILD += ["", "\x00", "\ud800", "x" * 5000, "../../etc"]


def damaged(rng: random.Random, content: bytes) -> bytes:
    """Bits flipped, pieces cut out, doubled, overwritten."""
    data = bytearray(content)
    for _ in range(rng.choice((1, 1, 2, 8))):
        at, size = rng.randrange(len(data)), rng.choice((1, 1, 4, 64, 4096))
        kind = rng.randrange(5)
        if kind == 0:
            data[at] ^= 1 << rng.randrange(8)
        elif kind == 1:
            del data[at : at + size]
        elif kind == 2:
            data[at : at + size] = bytes(rng.randrange(256) for _ in range(min(size, len(data) - at)))
        elif kind == 3:
            data[at:at] = data[at : at + size]
        else:
            del data[at:]
        if not data:
            data = bytearray(b"x")
    return bytes(data)


def wilder(rng: random.Random, value: object) -> object:
    """A JSON value with one of its parts replaced by something wild."""
    if isinstance(value, dict) and value and rng.random() < 0.85:
        key = rng.choice(sorted(value))
        return {**value, key: wilder(rng, value[key])}
    if isinstance(value, list) and value and rng.random() < 0.85:
        at = rng.randrange(len(value))
        return [*value[:at], wilder(rng, value[at]), *value[at + 1 :]]
    return rng.choice(WILD)


def wild_project(rng: random.Random, source: Path) -> bytes:
    """A project whose container is whole and whose values are not."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "wild.anatome"
        with zipfile.ZipFile(source) as old, zipfile.ZipFile(path, "w") as new:
            data = json.loads(old.read("project.json"))
            for _ in range(rng.choice((1, 1, 3))):
                data = wilder(rng, data)
            new.writestr("project.json", json.dumps(data).encode("utf-8", "surrogatepass"))
            for entry in old.infolist():
                if entry.filename.startswith("model/") and rng.random() < 0.9:
                    new.writestr(entry.filename, b"ISO-10303-21;")
        return path.read_bytes()


def answer(work: Callable[[], object]) -> str:
    """“value”, “problem”, or what went wrong."""
    began = time.monotonic()
    try:
        work()
        said = "value"
    except Problem as problem:
        said = "problem" if "Traceback" not in str(problem) and len(str(problem)) < 1500 else f"unclear: {problem}"
    except BaseException as error:
        return f"{type(error).__name__}: {error}"
    return said if time.monotonic() - began < SECONDS else f"{said}, but only after {time.monotonic() - began:.0f} s"


def run(files: int, seed: int, models: bool = True) -> dict[str, list[str]]:
    """Answers that are not clear, by the kind of file; empty lists when all is well."""
    from anatome.cuts.dissection import Cutter
    from anatome.demo.shipped import PROJECT, shipped
    from anatome.formats.opening import open_model
    from anatome.formats.store import load_building, save_building
    from anatome.scenes.opened import opened
    from anatome.scenes.storage import load_project

    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, resource.getrlimit(resource.RLIMIT_DATA)[1]))
    rng = random.Random(seed)
    unclear: dict[str, list[str]] = {"project": [], "values": [], "cache": [], "model": []}
    building = shipped()
    cutter = Cutter(building)
    with tempfile.TemporaryDirectory() as folder:
        whole = Path(folder) / "whole.building"
        save_building(building, whole)
        sources = {"project": PROJECT.read_bytes(), "cache": whole.read_bytes()}
        models_in = list((_small_models() if models else {}).items())
        for number in range(files):
            kind = rng.choice(("project", "values", "values", "cache", *(("model",) if models_in and number % 20 == 0 else ())))
            if kind == "model":
                suffix, content = rng.choice(models_in)
                path = Path(folder) / f"{number}{suffix}"
                path.write_bytes(damaged(rng, content))
                said = answer(lambda path=path: open_model(path))
            else:
                path = Path(folder) / f"{number}.anatome"
                path.write_bytes(wild_project(rng, PROJECT) if kind == "values" else damaged(rng, sources[kind]))
                if kind == "cache":
                    said = answer(lambda path=path: load_building(path))
                else:

                    def use(path: Path = path) -> None:
                        stage = load_project(path).project.stage
                        if rng.random() < 0.1:
                            opened(cutter, stage)

                    said = answer(use)
            if said not in ("value", "problem"):
                unclear[kind].append(f"file {number}: {said}"[:300])
            path.unlink(missing_ok=True)
    return unclear


def _small_models() -> dict[str, bytes]:
    import trimesh

    box = trimesh.creation.box((2, 2, 2))
    found = {suffix: box.export(file_type=suffix[1:]) for suffix in (".glb", ".stl", ".ply", ".obj")}
    return {suffix: made if isinstance(made, bytes) else made.encode() for suffix, made in found.items()}


def main() -> int:
    files = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    unclear = run(files, seed)
    for kind, found in unclear.items():
        print(f"{kind}: {len(found)} unclear answers")
        for line in found[:10]:
            print("  ", line)
    return int(any(unclear.values()))


if __name__ == "__main__":
    raise SystemExit(main())
