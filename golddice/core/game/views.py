"""What can be looked at and rolled: a source, of which one event happens, or a table, which is executed
once. The same word serves a question's subject, what a line or drop leads to, and the key of both.
"""

from __future__ import annotations

from typing import Literal, NamedTuple

Rollable = Literal["source", "table"]


class View(NamedTuple):
    """One event of a source, or one execution of a table."""

    kind: Rollable
    id: str

    def __str__(self) -> str:
        return f"{self.kind} “{self.id}”"
