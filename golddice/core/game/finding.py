"""One of a game's list, by its id."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol, TypeVar

from golddice.core.errors import UnknownThing


class _Named(Protocol):
    @property
    def id(self) -> str: ...


T = TypeVar("T", bound=_Named)


def named(parts: Iterable[T], kind: str, name: str) -> T:
    """Raises UnknownThing."""
    found = next((one for one in parts if one.id == name), None)
    if found is None:
        raise UnknownThing(kind, name)
    return found
