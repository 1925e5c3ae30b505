"""What was worked out once and may be asked for again: the one place for it, bounded in bytes.

A result is kept under a cache key of what it rests on: the same parts, under the same terms, with curves that
are the same at its depths. So whatever an edit does not reach is found again, by odds, depth sheets, targets
and answers alike, and nobody has to know what was asked before. No other module keeps anything between
questions (`make lint` looks); what lasts for one question lies in the objects that answer it.

Three things hold, so that an answer never depends on what was asked before:

- what is kept is never changed. An object that works out more as it is asked is not kept, only what it found;
- it is worked out once however many ask at the same time; the others wait;
- work that is cancelled or fails leaves nothing. That something is too large is a result like others.
"""

from __future__ import annotations

import threading
import weakref
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from typing import Any, Generic, TypeVar
from weakref import WeakValueDictionary

import numpy as np
from pydantic import BaseModel

from golddice.core.errors import TooLarge
from golddice.core.stopping import go_on

Made = TypeVar("Made")
Part = TypeVar("Part")
_ENTRY = 400  # bytes that an entry takes besides its arrays
_PLAIN = 64  # a number or short text in plain data
_LOOK = 0.02  # seconds after which one who waits looks whether they still have to


class CacheKey:
    """Stands for all that something rests on: two that are the same are one object.

    It holds what it stands for, so that nothing else can come to have the same identity.
    """

    __slots__ = ("__weakref__", "holds")

    def __init__(self, holds: tuple[object, ...]) -> None:
        self.holds = holds


_keys: WeakValueDictionary[tuple[Hashable, ...], CacheKey] = WeakValueDictionary()
_keys_lock = threading.Lock()


def cache_key(same: tuple[object, ...], alike: tuple[Hashable, ...] = ()) -> CacheKey:
    """The key of these very objects, with values that are equal to these."""
    key = (*map(id, same), None, *alike)
    with _keys_lock:
        found = _keys.get(key)
        if found is None:
            found = _keys[key] = CacheKey(same)
        return found


class Results:
    """Results under keys, of which those asked for last are kept: so many bytes of them.

    An ordered dict of our own, the latest at its end: cachetools' takes twice as long, which a game
    of 500 tables asked from nothing shows.
    """

    def __init__(self, most_bytes: int) -> None:
        self._lock = threading.Lock()
        self._most = most_bytes
        self._making: dict[Hashable, threading.Event | None] = {}
        self._found: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._bytes = 0

    def get(self, key: Hashable, make: Callable[[], Made], holds: int = 0) -> Made:
        """What is kept under a key, or else what `make` gives, which is kept then; TooLarge that it raises
        too. `holds` are bytes of what would be gone without it. Raises Cancelled."""
        while True:
            with self._lock:
                found = self._found.get(key)
                if found is not None:
                    self._found.move_to_end(key)
                    break
                if key not in self._making:
                    self._making[key] = None
                    break
                done = self._making[key]
                if done is None:
                    done = self._making[key] = threading.Event()
            while not done.wait(_LOOK):
                go_on()
        result: Made = _told(self._made(key, make, holds) if found is None else found[0])
        return result

    def _made(self, key: Hashable, make: Callable[[], object], holds: int) -> object:
        result, size = None, 0
        try:
            try:
                result = make()
            except TooLarge as error:
                result = _Beyond(error)
            size = _ENTRY + holds + bytes_of(result)
        finally:
            with self._lock:
                if result is not None:
                    self._put(key, result, size)
                done = self._making.pop(key)
            if done is not None:
                done.set()
        return result

    def peek(self, key: Hashable) -> Any:
        """What is kept under a key, or None. Raises TooLarge where that is what was found."""
        with self._lock:
            found = self._found.get(key)
            if found is None:
                return None
            self._found.move_to_end(key)
        return _told(found[0])

    def _put(self, key: Hashable, value: object, size: int) -> None:
        if size >= self._most / 4:  # it would push out too much else
            return
        self._found[key] = value, size
        self._bytes += size
        while self._bytes > self._most:
            _, (_, gone) = self._found.popitem(last=False)
            self._bytes -= gone

    @property
    def bytes(self) -> int:
        return self._bytes

    @property
    def kept(self) -> list[Any]:
        """All that is kept, for who looks whether it is as it was."""
        with self._lock:
            return [value for value, _ in self._found.values()]

    def clear(self) -> None:
        with self._lock:
            self._found.clear()
            self._bytes = 0


class _Beyond:
    """That something is too large to be worked out."""

    def __init__(self, error: TooLarge) -> None:
        self.args = error.args


def _told(result: Any) -> Any:
    if isinstance(result, _Beyond):
        raise TooLarge(*result.args)
    return result


def bytes_of(value: object) -> int:
    """Roughly how many bytes a result takes: its arrays, wherever in it they are, and plain data."""
    kind = type(value)
    if kind is np.ndarray:
        return int(value.nbytes)  # type: ignore[attr-defined]
    if kind in _SIMPLE or isinstance(value, BaseModel):  # parts of a game are others' too
        return _PLAIN
    if isinstance(value, dict):
        return _PLAIN * len(value) + _all_of(value.values())
    if isinstance(value, (tuple, list, set, frozenset)):
        return _all_of(value)
    own = getattr(value, "nbytes", None)
    return int(own) if own is not None else _all_of(getattr(value, "__dict__", {}).values())


def _all_of(values: Iterable[object]) -> int:
    total = _PLAIN
    for one in values:
        total += int(one.nbytes) if type(one) is np.ndarray else bytes_of(one)
    return total


_SIMPLE = frozenset({int, float, str, bool, bytes, type(None), CacheKey})


class OfPart(Generic[Part, Made]):
    """What is made of one part of a game alone, a table or a curve: worked out once for as long as the part
    lives, by its identity; parts are never changed."""

    def __init__(self, make: Callable[[Part], Made]) -> None:
        self._make = make
        self._found: dict[int, Made] = {}

    def __call__(self, part: Part) -> Made:
        found = self._found.get(id(part))
        if found is None:
            found = self._found.setdefault(id(part), self._make(part))
            weakref.finalize(part, self._found.pop, id(part), None).atexit = False
        return found


class Interned(Generic[Made]):
    """Things of which those that say the same are one object, for as long as anyone has it."""

    def __init__(self) -> None:
        self._found: WeakValueDictionary[Hashable, Made] = WeakValueDictionary()
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], Made]) -> Made:
        with self._lock:
            found = self._found.get(key)
        if found is None:
            made = make()
            with self._lock:  # another may have made it meanwhile
                found = self._found.setdefault(key, made)
        return found


RESULTS = Results(120 * 2**20)
