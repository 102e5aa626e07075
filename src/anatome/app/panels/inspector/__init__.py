"""The inspector: it speaks about one thing at a time, the picked cut, series or parts, or else the whole picture."""

from anatome.app.panels.inspector.inspector import Inspector

__all__ = ["Inspector"]
