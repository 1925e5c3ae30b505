"""What was worked out once and may be asked for again: one place for all of it, bounded in bytes.

A result is kept under what it rests on, told by signs: the same parts, under the same terms, with curves
that are the same at its depths. So whatever an edit does not reach is found again, by odds, depth sheets,
targets and answers alike, and nobody has to know what was asked before. Results are never changed.
"""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar
from weakref import WeakValueDictionary

from golddice.core.game.models import LISTS, Game, Settings

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


def sign_of_game(game: Game) -> Sign:
    """All that there is in a game."""
    parts = tuple(part for name in LISTS.values() for part in getattr(game, name))
    return sign_of(parts, (game.model_dump_json(include=set(Settings.model_fields)),))


class Page(dict[str, Any]):
    """What was worked out about one part of a game, by what it is; more may be written on it later.

    `expected` bytes are what it counts as at first, until what is on it can be weighed; `held` those of the
    part, which would be gone without it once it was edited.
    """

    grows = True

    def __init__(self, expected: int, held: int) -> None:
        super().__init__()
        self._expected, self._held = expected, held
        self._weighed = (0, 0)

    @property
    def nbytes(self) -> int:
        many, size = self._weighed
        if len(self) != many:
            many, size = len(self), sum(map(weight, tuple(self.values())))
            self._weighed = (many, size)
        return self._held + max(size, self._expected)


class Told(dict[str, Any]):
    """Plain data, as screens are told it; it takes some three times what it would as text."""

    @property
    def nbytes(self) -> int:
        return 3 * len(json.dumps(self))


class Kept:
    """Results under keys, of which those asked for last are kept: so many bytes of them. Safe under
    threads: what two ask for at once may be worked out twice.

    An ordered dict of our own, the latest at its end: cachetools' takes twice as long, which a game
    of 500 tables asked from nothing shows.
    """

    def __init__(self, most_bytes: int) -> None:
        self._lock = threading.Lock()
        self._most = most_bytes
        self.clear()

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
            value, size, grows = found
            if grows and weight(value) != size:  # it has worked out more since it was weighed
                self._put(key, value)
            else:
                self._found.move_to_end(key)
            return value

    def _put(self, key: Hashable, value: object) -> None:
        self._drop(key)
        size = weight(value)
        if size < self._most / 2:
            self._found[key] = value, size, hasattr(value, "grows")
            self._bytes += size
            while self._bytes > self._most:
                self._drop(next(iter(self._found)))

    def _drop(self, key: Hashable) -> None:
        found = self._found.pop(key, None)
        if found is not None:
            self._bytes -= found[1]

    @property
    def bytes(self) -> int:
        return self._bytes

    def clear(self) -> None:
        with self._lock:
            self._found: OrderedDict[Hashable, tuple[Any, int, bool]] = OrderedDict()
            self._bytes = 0


def weight(value: object) -> int:
    """Roughly how many bytes a result takes: its arrays, and what says how many it takes."""
    own = getattr(value, "nbytes", None)
    if own is not None:
        return _ENTRY + int(own)
    held = value if isinstance(value, (tuple, list)) else getattr(value, "__dict__", {}).values()
    return _ENTRY + sum([getattr(one, "nbytes", 100) for one in held])


RESULTS = Kept(48 * 2**20)
