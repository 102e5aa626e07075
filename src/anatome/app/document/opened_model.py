"""A state of the model, as it was opened, and where it is found."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

from anatome.formats.identity import Identity
from anatome.model.building import Building
from anatome.model.options import OpenOptions
from anatome.scenes.storage import PackedModel


@dataclass(frozen=True, eq=False)
class OpenedModel:
    """The ``building`` without what stands round it, opened with ``options``; the file it lies in, ``path``; the model as the
    project file had it, ``packed``; a copy of it as it was opened, ``kept``; and its ``identity``. ``building`` is the ``first``
    model and those besides it, which were ``read``, together."""

    building: Building
    first: Building
    options: OpenOptions
    path: Path | None = None
    packed: PackedModel | None = None
    kept: Path | None = None
    identity: Identity | None = None
    read: Mapping[str, Building] = field(default_factory=dict)

    @property
    def digest(self) -> str:
        """What tells this state from others; nothing where it is not known."""
        return "" if self.identity is None else self.identity.digest
