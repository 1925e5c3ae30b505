"""News from every process and server on the database, handed to the pages that listen here."""

from __future__ import annotations

import asyncio
import json
import logging

import psycopg

from golddice.server.broadcast import CHANNEL, Broadcast

_AGAIN = 1.0  # seconds until the database is tried again
_log = logging.getLogger("golddice")


async def pass_on(url: str, broadcast: Broadcast) -> None:
    """Listen until cancelled. After the database was away the streams end: pages come back and look for what
    they did not hear."""
    was_there = False
    while True:
        try:
            async with await psycopg.AsyncConnection.connect(_plain(url), autocommit=True) as connection:
                await connection.execute(f"listen {CHANNEL}")
                if was_there:
                    broadcast.end_streams()
                was_there = True
                async for note in connection.notifies():
                    game, message = json.loads(note.payload)
                    broadcast.tell(game, message)
        except (psycopg.Error, OSError):
            _log.info("no news: the database is away")
        await asyncio.sleep(_AGAIN)


def _plain(url: str) -> str:
    """As the driver takes it, without the name of the driver."""
    return url.replace("postgresql+psycopg://", "postgresql://", 1)
