"""Everything the core can refuse.

GoldDiceError
 ├── GameError      the game is wrong; carries every problem with its place
 ├── QueryError     the game is fine, the question is not
 │    └── UnknownThing   no table, source, item ... of that name
 └── TooLarge       the answer would take more time or memory than is allowed
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong: its place as a JSON path, and what to do about it."""

    path: str
    message: str

    def __str__(self) -> str:
        return f"{self.path}: {self.message}" if self.path else self.message


class GoldDiceError(Exception):
    """The family's root."""


class GameError(GoldDiceError, ValueError):
    """A game that cannot be used. `problems` lists all that is wrong, never only the first."""

    def __init__(self, problems: Sequence[Problem]) -> None:
        super().__init__(problems)
        self.problems = list(problems)

    def __str__(self) -> str:
        return "\n".join(str(problem) for problem in self.problems)


class QueryError(GoldDiceError, ValueError):
    """A question that cannot be answered, though the game is sound."""


class UnknownThing(QueryError, LookupError):
    """A name that the game does not hold."""

    def __init__(self, kind: str, name: str) -> None:
        super().__init__(kind, name)
        self.kind, self.name = kind, name

    def __str__(self) -> str:
        return f"there is no {self.kind} with the id “{self.name}”"


class TooLarge(GoldDiceError):
    """A question whose answer would cost more than the limit it names."""
