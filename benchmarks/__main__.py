"""``scripts/bench [--quick]``: prints the tables; --quick leaves out the largest models.

The towers alone: ``python -m benchmarks.large PARTS …``; damaged files: ``python -m benchmarks.fuzz FILES SEED``.
"""

from __future__ import annotations

import sys

from benchmarks import cutting, films, frames, large, linework, looks, opening, stills


def main() -> None:
    quick = "--quick" in sys.argv
    cutting.run(quick)
    frames.run()
    looks.run()
    films.run()
    stills.run()
    linework.run()
    opening.run()
    large.run(large.TOWERS[: 2 if quick else 4])


if __name__ == "__main__":
    main()
