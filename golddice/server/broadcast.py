"""News for open pages: revisions and trials, one stream per page, from any thread."""

from __future__ import annotations

import asyncio
import json
import threading
from collections.abc import AsyncIterator
from typing import Any

_PATIENCE = 15.0
_ROOM = 256


class Broadcast:
    """Hands each message about a game to every page that listens to it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: dict[str, set[tuple[asyncio.AbstractEventLoop, asyncio.Queue[str]]]] = {}
        self._closed = False

    def tell(self, game: str, message: dict[str, Any]) -> None:
        """Send to all listeners; never waits. A page that does not read loses the oldest."""
        text = f"data: {json.dumps(message)}\n\n"
        with self._lock:
            listeners = list(self._listeners.get(game, ()))
        for loop, queue in listeners:
            loop.call_soon_threadsafe(_put, queue, text)

    def close(self) -> None:
        """End every stream, so that the server can stop."""
        self._closed = True
        with self._lock:
            every = [listener for held in self._listeners.values() for listener in held]
        for loop, queue in every:
            loop.call_soon_threadsafe(_put, queue, "")

    async def listen(self, game: str) -> AsyncIterator[str]:
        """Server-sent events; a comment now and then keeps the connection known to be alive."""
        listener = (asyncio.get_running_loop(), asyncio.Queue[str](_ROOM))
        with self._lock:
            self._listeners.setdefault(game, set()).add(listener)
        try:
            yield ": listening\n\n"
            while not self._closed:
                try:
                    yield await asyncio.wait_for(listener[1].get(), _PATIENCE)
                except TimeoutError:
                    yield ": still here\n\n"
        finally:
            with self._lock:
                held = self._listeners.get(game, set())
                held.discard(listener)
                if not held:
                    self._listeners.pop(game, None)


def _put(queue: asyncio.Queue[str], text: str) -> None:
    if queue.full():
        queue.get_nowait()
    queue.put_nowait(text)
