"""What a question is about."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True)
class View:
    """What is looked at: one event of a source, or one execution of a table."""

    kind: Literal["source", "table"]
    id: str
