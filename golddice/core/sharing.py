"""Things that have something in common, put together."""

from __future__ import annotations

from collections.abc import Hashable, Iterable
from typing import TypeVar

Key = TypeVar("Key", bound=Hashable)
Part = TypeVar("Part")


def sharing(parts: Iterable[tuple[Iterable[Key], Part]]) -> list[tuple[list[Key], list[Part]]]:
    """Parts that have a key in common, by way of others too, with all their keys: the connected components.
    One without keys is alone."""
    found: list[tuple[dict[Key, None], list[Part]]] = []
    for keys, part in parts:
        mine = dict.fromkeys(keys)
        meets = [one for one in found if not mine.keys().isdisjoint(one[0])]
        found = [one for one in found if mine.keys().isdisjoint(one[0])]
        for others, _ in meets:
            mine |= others
        found.append((mine, [*(one for _, members in meets for one in members), part]))
    return [(list(keys), members) for keys, members in found]
