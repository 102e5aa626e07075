"""Which command is run, and what becomes of its errors. Bad input ends with status 2 and one line."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Callable
from contextlib import redirect_stdout

from anatome.cli.parser import command_parser, window_parser, with_numbers_joined
from anatome.cli.plain import Plain, plain
from anatome.problems import Problem

COMMANDS = (
    *("info", "check", "new", "relink", "section", "picture", "suggest"),
    *("export", "film", "page", "bcf", "scenes", "linework", "layers", "maquette", "sheets", "looks", "demo"),
)


def main(arguments: list[str] | None = None) -> int:
    """Run a command; returns the exit status."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    try:
        with redirect_stdout(Plain(sys.stdout)):
            if words and words[0] in (*COMMANDS, "-h", "--help", "--version"):
                status = _run(command_parser().parse_args(with_numbers_joined(words)))
            else:
                status = _window(window_parser().parse_args(words))
            sys.stdout.flush()  # what cannot be written out is told, and not found out when the program ends
        return status
    except Problem as problem:
        print(f"anatome: {plain(' '.join(str(problem).split()))}", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130
    except BrokenPipeError:
        _forget_output()
        return 0
    except OSError as error:
        _forget_output()
        print(f"anatome: What was found could not be written out: {error.strerror or error}.", file=sys.stderr)
        return 2


def _forget_output() -> None:
    """Of what waits to be written out; it would be tried once more at the end."""
    sys.stdout = open(os.devnull, "w")  # noqa: SIM115


def _run(options: argparse.Namespace) -> int:
    # Each command pulls in what it needs; the others wait for nothing.
    run: Callable[[argparse.Namespace], int] = _window
    if options.command == "info":
        from anatome.cli.info import run
    elif options.command == "check":
        from anatome.cli.check import run
    elif options.command == "new":
        from anatome.cli.new import run
    elif options.command == "relink":
        from anatome.cli.relink import run
    elif options.command == "section":
        from anatome.cli.section import run
    elif options.command == "picture":
        from anatome.cli.picture import run
    elif options.command == "suggest":
        from anatome.cli.suggest import run
    elif options.command == "export":
        from anatome.cli.export import run
    elif options.command == "film":
        from anatome.cli.film import run
    elif options.command == "scenes":
        from anatome.cli.scenes import run
    elif options.command == "bcf":
        from anatome.cli.bcf import run
    elif options.command == "page":
        from anatome.cli.page import run
    elif options.command == "linework":
        from anatome.cli.linework import run
    elif options.command == "layers":
        from anatome.cli.layers import run
    elif options.command == "maquette":
        from anatome.cli.maquette import run
    elif options.command == "sheets":
        from anatome.cli.sheets import run
    elif options.command == "looks":
        from anatome.cli.looks import run
    return run(options)


def _window(options: argparse.Namespace) -> int:
    from anatome.app.main import Start, run
    from anatome.cli.sizes import parse_size

    return run(
        Start(
            file=getattr(options, "file", None),
            demo=getattr(options, "command", "") == "demo",
            screenshot=options.screenshot,
            size=parse_size(options.size, (1280, 800)),
            scene=options.scene,
            dark=options.dark,
        )
    )
