"""What was worked out once and may be asked for again: one place for all of it, bounded in bytes.

A result is kept under what it rests on, told by signs: the same parts, under the same terms, with curves
that are the same at its depths. So whatever an edit does not reach is found again, by odds, depth sheets,
targets and answers alike, and nobody has to know what was asked before. Results are never changed.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from dataclasses import fields, is_dataclass
from typing import Any, TypeVar
from weakref import WeakValueDictionary

import numpy as np
from cachetools import LRUCache

Made = TypeVar("Made")
_ENTRY = 400  # what an entry weighs besides its arrays
_MISSING: Any = object()


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
        self._found: LRUCache[Hashable, Any] = LRUCache(most_bytes, getsizeof=weight)

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
            found = self._found.get(key, _MISSING)
            if found is _MISSING:
                return None
            if hasattr(found, "grows"):  # it has perhaps worked out more since it was weighed
                self._put(key, found)
            return found

    def _put(self, key: Hashable, value: object) -> None:
        if weight(value) < self._found.maxsize / 4:
            self._found[key] = value
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
        return _ENTRY + sum(map(weight, value)) if len(value) <= 100 else _ENTRY + 100 * len(value)
    own = getattr(value, "nbytes", None)
    if isinstance(own, int):
        return _ENTRY + own
    if is_dataclass(value):
        arrays = (getattr(value, one.name) for one in fields(value))
        return _ENTRY + sum(one.nbytes for one in arrays if isinstance(one, np.ndarray))
    return _ENTRY


RESULTS = Kept(96 * 2**20)
