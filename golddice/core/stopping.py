"""Work that nobody waits for any more ends: a sign that whoever works long looks at.

The sign is that of the question being answered. Who answers gives it with `stopped_by`; loops that may take
long call `go_on`, and the event kernel looks at its flag between events. The other way round, whoever works
long tells how far it is with `tell`, and who answers hears it with `heard_by`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

import numpy as np

from golddice.core.arrays import IntArray
from golddice.core.errors import GoldDiceError


class Cancelled(GoldDiceError):
    """The work was stopped before its end."""

    def __str__(self) -> str:
        return str(self.args[0]) if self.args else "nobody waits for the answer any more"


class Stop:
    """Can be given from any thread, once."""

    def __init__(self) -> None:
        self.flag: IntArray = np.zeros(1, dtype=np.int64)  # as the compiled kernel reads it

    def set(self) -> None:
        self.flag[0] = 1

    def is_set(self) -> bool:
        return bool(self.flag[0])


_NEVER = Stop()
_current: ContextVar[Stop] = ContextVar("stop", default=_NEVER)


@contextmanager
def stopped_by(stop: Stop) -> Iterator[None]:
    """What is worked out inside ends with Cancelled once the sign is given."""
    token = _current.set(stop)
    try:
        yield
    finally:
        _current.reset(token)


def current_stop() -> Stop:
    return _current.get()


def go_on() -> None:
    """Raise Cancelled where the sign is given. Costs a fraction of a microsecond."""
    if _current.get().flag[0]:
        raise Cancelled


Hearer = Callable[[dict[str, float]], None]
_hearer: ContextVar[Hearer | None] = ContextVar("hearer", default=None)


@contextmanager
def heard_by(hearer: Hearer) -> Iterator[None]:
    """What is worked out inside tells this one how far it is."""
    token = _hearer.set(hearer)
    try:
        yield
    finally:
        _hearer.reset(token)


def tell(**facts: float) -> None:
    """How far the work is, for whoever wants to hear it."""
    hearer = _hearer.get()
    if hearer is not None:
        hearer(facts)
