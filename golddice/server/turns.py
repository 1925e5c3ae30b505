"""One at a time, in the order in which they came."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager


class Turns:
    """A lock that goes to whoever has waited longest.

    A plain lock goes to whoever asks first once it is free, and that is mostly the thread that has just
    let go of it: long work that steps aside now and then would let nobody by.
    """

    def __init__(self) -> None:
        self._guard = threading.Lock()
        self._waiting: deque[threading.Event] = deque()
        self._taken = False

    @contextmanager
    def mine(self) -> Iterator[None]:
        self._take()
        try:
            yield
        finally:
            self._give()

    def step_aside(self) -> None:
        """Let those who wait go first; for whoever has the turn and works long."""
        with self._guard:
            if not self._waiting:
                return
            called = threading.Event()
            self._waiting.append(called)
            self._waiting.popleft().set()
        called.wait()

    def _take(self) -> None:
        with self._guard:
            if not self._taken:
                self._taken = True
                return
            called = threading.Event()
            self._waiting.append(called)
        called.wait()

    def _give(self) -> None:
        """To the next in line, without letting anyone in between."""
        with self._guard:
            if self._waiting:
                self._waiting.popleft().set()
            else:
                self._taken = False
