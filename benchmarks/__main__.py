"""``scripts/bench [--quick]``: prints the tables; --quick leaves out the largest models."""

from __future__ import annotations

import sys

from benchmarks import cutting, frames, opening


def main() -> None:
    cutting.run("--quick" in sys.argv)
    frames.run()
    opening.run()


if __name__ == "__main__":
    main()
