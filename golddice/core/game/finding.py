"""One of a game's list, by its id."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol, TypeVar

from golddice.core.errors import UnknownThing


class _Named(Protocol):
    @property
    def id(self) -> str: ...


T = TypeVar("T", bound=_Named)


def found_one(parts: Iterable[T], name: str | None) -> T | None:
    return next((one for one in parts if one.id == name), None)


def by_id(parts: Iterable[T], name: str) -> T:
    """Of a sound game, in which it is."""
    return next(one for one in parts if one.id == name)


def named(parts: Iterable[T], kind: str, name: str) -> T:
    """Raises UnknownThing."""
    one = found_one(parts, name)
    if one is None:
        raise UnknownThing(kind, name)
    return one
