"""What all values kept in a project have in common."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

FARTHEST = 1e8
"""Metres from the origin beyond which nothing is built: larger coordinates are a fault in a file."""


class Value(BaseModel):
    """A frozen value. Numbers are finite; fields of a newer minor version are kept, so that saving does not lose them."""

    model_config = ConfigDict(frozen=True, extra="allow", allow_inf_nan=False)
