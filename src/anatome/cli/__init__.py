"""The command line: the same core without a window."""

from anatome.cli.commands import main

__all__ = ["main"]
