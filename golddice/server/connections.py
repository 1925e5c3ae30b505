"""Connections that begin a request and never end it are closed."""

from __future__ import annotations

import asyncio

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

HEAD_PATIENCE = 15.0  # seconds for the head of a request
# For the next one on the same connection: longer than whoever asks keeps an idle one at hand, or a request
# that is sent while it is being closed is lost.
IDLE_PATIENCE = 75


class Protocol(H11Protocol):
    """Waits so long for a whole head, from its first byte or from the connection's beginning."""

    _waiting: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._wait()

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        if self.conn.their_state is h11.IDLE:
            self._wait()
        else:
            self._wait_no_more()

    def connection_lost(self, exc: Exception | None) -> None:
        self._wait_no_more()
        super().connection_lost(exc)

    def _wait(self) -> None:
        if self._waiting is None:
            self._waiting = self.loop.call_later(HEAD_PATIENCE, self._give_up)

    def _wait_no_more(self) -> None:
        if self._waiting is not None:
            self._waiting.cancel()
            self._waiting = None

    def _give_up(self) -> None:
        self._waiting = None
        if self.conn.their_state is h11.IDLE and not self.transport.is_closing():
            self.transport.close()
