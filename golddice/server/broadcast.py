"""News for open pages: revisions, trials, who is there. One stream a page, from any thread or process.

Whoever has news tells it: in the process that holds the streams by `Broadcast` itself, elsewhere by `Told`,
which sends it through the database, so that the pages of every server on it hear.
"""

from __future__ import annotations

import asyncio
import json
import logging
import threading
from collections.abc import AsyncIterator
from contextlib import suppress
from typing import Any, Protocol

from golddice.server.people import People
from golddice.store.database import Database
from golddice.store.errors import StoreError

CHANNEL = "golddice_news"
_PATIENCE = 15.0
_ROOM = 256
_LONGEST = 7_000  # bytes that the database passes on
_log = logging.getLogger("golddice")


class News(Protocol):
    def tell(self, game: str, message: dict[str, Any]) -> None: ...


class Broadcast:
    """Hands each message about a game to every page that listens to it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: dict[str, set[tuple[asyncio.AbstractEventLoop, asyncio.Queue[str]]]] = {}
        self._people = People()
        self._closed = False

    def tell(self, game: str, message: dict[str, Any]) -> None:
        """Send to all listeners; never waits. A page that does not read loses the oldest. That somebody is
        `here` is told as who is there now."""
        if message["type"] == "here":
            message = {"type": "presence", "people": self._people.heard(game, message["who"])}
        text = f"data: {json.dumps(message)}\n\n"
        with self._lock:
            listeners = list(self._listeners.get(game, ()))
        for loop, queue in listeners:
            loop.call_soon_threadsafe(_put, queue, text)

    def close(self) -> None:
        """End every stream, so that the server can stop."""
        self._closed = True
        self.end_streams()

    def end_streams(self) -> None:
        """Pages come back, and look for what they may not have heard."""
        with self._lock:
            every = [listener for held in self._listeners.values() for listener in held]
        for loop, queue in every:
            loop.call_soon_threadsafe(_put, queue, "")

    async def listen(self, game: str, page: str | None = None) -> AsyncIterator[str]:
        """Server-sent events; a comment now and then keeps the connection known to be alive. When it ends,
        whose `page` it was is gone."""
        listener = (asyncio.get_running_loop(), asyncio.Queue[str](_ROOM))
        with self._lock:
            self._listeners.setdefault(game, set()).add(listener)
        try:
            yield ": listening\n\n"
            while not self._closed:
                try:
                    text = await asyncio.wait_for(listener[1].get(), _PATIENCE)
                except TimeoutError:
                    text = ": still here\n\n"
                if not text:
                    return
                yield text
        finally:
            with self._lock:
                held = self._listeners.get(game, set())
                held.discard(listener)
                if not held:
                    self._listeners.pop(game, None)
            if page is not None:
                self.tell(game, {"type": "here", "who": {"page": page, "leaves": True}})


class Told:
    """News from a process without streams."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def tell(self, game: str, message: dict[str, Any]) -> None:
        """News that cannot be sent is lost: pages look for themselves when they come back to it."""
        text = json.dumps([game, message])
        if len(text) > _LONGEST:
            _log.warning("news of %s is too long to be told: %d bytes", message.get("type"), len(text))
            return
        with suppress(StoreError):
            self._database.notify(CHANNEL, text)

    def close(self) -> None:
        """There is nothing to end."""

    async def listen(self, game: str, page: str | None = None) -> AsyncIterator[str]:
        """No news come here; whoever holds the page's connection has them."""
        return
        yield


def _put(queue: asyncio.Queue[str], text: str) -> None:
    if queue.full():
        queue.get_nowait()
    queue.put_nowait(text)
