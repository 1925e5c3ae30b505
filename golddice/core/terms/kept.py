"""What was worked out once and may be asked for again: one place for all of it, bounded in bytes.

A result is kept under what it rests on, told by signs: the same parts, under the same terms, with curves
that are the same at its depths. So whatever an edit does not reach is found again, by odds, depth sheets,
targets and answers alike, and nobody has to know what was asked before. Results are never changed.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from dataclasses import is_dataclass
from operator import itemgetter
from typing import Any, TypeVar
from weakref import WeakValueDictionary

import numpy as np
from cachetools import LRUCache

Made = TypeVar("Made")
_ENTRY = 400  # what an entry weighs besides its arrays


class Sign:
    """Stands for all that something rests on: two that are the same are one object.

    It holds what it stands for, so that nothing else can come to have the same identity.
    """

    __slots__ = ("__weakref__", "holds")

    def __init__(self, holds: tuple[object, ...]) -> None:
        self.holds = holds


_signs: WeakValueDictionary[tuple[Hashable, ...], Sign] = WeakValueDictionary()
_sign_lock = threading.Lock()


def sign_of(same: tuple[object, ...], alike: tuple[Hashable, ...] = ()) -> Sign:
    """The sign of these very objects, with values that are equal to these."""
    key = (*map(id, same), None, *alike)
    with _sign_lock:
        found = _signs.get(key)
        if found is None:
            found = _signs[key] = Sign(same)
        return found


class Kept:
    """Results under keys, of which those asked for last are kept: so many bytes of them. Safe under
    threads: what two ask for at once may be worked out twice."""

    def __init__(self, most_bytes: int) -> None:
        self._lock = threading.Lock()
        self._found: LRUCache[Hashable, tuple[Any, int, bool]] = LRUCache(most_bytes, getsizeof=itemgetter(1))

    def get(self, key: Hashable, make: Callable[[], Made]) -> Made:
        """What is kept under a key, or else what `make` gives, which is kept then."""
        found: Made = self.peek(key)
        if found is None:
            found = make()
            with self._lock:
                self._put(key, found)
        return found

    def peek(self, key: Hashable) -> Any:
        """What is kept under a key, or None."""
        with self._lock:
            found = self._found.get(key)
            if found is None:
                return None
            value, _, grows = found
            if grows:  # it has perhaps worked out more since it was weighed
                self._put(key, value)
            return value

    def _put(self, key: Hashable, value: object) -> None:
        size = weight(value)
        if size < self._found.maxsize / 2:
            self._found[key] = value, size, hasattr(value, "grows")
        else:
            self._found.pop(key, None)

    @property
    def bytes(self) -> int:
        return int(self._found.currsize)

    def clear(self) -> None:
        with self._lock:
            self._found.clear()


def weight(value: object) -> int:
    """Roughly how many bytes a result takes."""
    if isinstance(value, np.ndarray):
        return _ENTRY + value.nbytes
    if isinstance(value, (tuple, list)):
        return _ENTRY + sum(map(_bytes, value)) + 100 * len(value)
    if is_dataclass(value):
        return _ENTRY + sum(map(_bytes, vars(value).values()))
    return _ENTRY + _bytes(value)


def _bytes(value: object) -> int:
    """Of an array, or of what says how many it takes."""
    if isinstance(value, np.ndarray):
        return value.nbytes
    own = getattr(value, "nbytes", 0)
    return own if isinstance(own, int) else 0


RESULTS = Kept(64 * 2**20)
