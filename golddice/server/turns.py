"""Who works when: questions one after another, but nobody waits long for a long one.

Side by side questions all take several times as long: each of thousands of small steps would wait for the
interpreter's lock. So whoever has the turn has it alone, for a while; one that takes longer is joined by
the next, up to a few at once.
"""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Iterator
from contextlib import contextmanager

ALONE = 0.2  # seconds for which a question has the turn to itself
MOST = 4  # questions at once; half of them may be long and there is still room


class Turns:
    """Turns go to whoever has waited longest."""

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._waiting: deque[object] = deque()
        self._working: dict[object, float] = {}  # since when

    @contextmanager
    def mine(self) -> Iterator[None]:
        me = object()
        self._take(me)
        try:
            yield
        finally:
            with self._changed:
                del self._working[me]
                self._changed.notify_all()

    def step_aside(self) -> None:
        """Let those who wait go first; for whoever has the turn and works long."""
        with self._changed:
            if not self._waiting or len(self._working) != 1:
                return
            me, since = next(iter(self._working.items()))
            del self._working[me]
            self._changed.notify_all()
        self._take(me, since)

    def _take(self, me: object, since: float | None = None) -> None:
        with self._changed:
            self._waiting.append(me)
            while self._waiting[0] is not me or not self._is_room():
                self._changed.wait(self._until_room())
            self._waiting.popleft()
            self._working[me] = time.monotonic() if since is None else since
            self._changed.notify_all()

    def _is_room(self) -> bool:
        """Whether all who work have had their time alone, and they are not too many."""
        return len(self._working) < MOST and self._until_room() <= 0

    def _until_room(self) -> float:
        """Seconds until the youngest of those who work has had its time alone."""
        youngest = max(self._working.values(), default=-ALONE)
        left = youngest + ALONE - time.monotonic()
        # Where too many work already it is somebody's end that is waited for; they tell.
        return left if left > 0 else (1.0 if len(self._working) >= MOST else 0.0)
