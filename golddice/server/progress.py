"""How far long work is, passed on as news of the game to the page that waits for it."""

from __future__ import annotations

import time

from golddice.server.broadcast import News

_EVERY = 0.3  # seconds between news


class Progress:
    """Hears how far work is, and tells it now and then; `token` is the page's own word for the work."""

    def __init__(self, broadcast: News, game: str, kind: str, token: str | None) -> None:
        self._broadcast, self._game, self._kind, self._token = broadcast, game, kind, token
        self._last = 0.0

    def __call__(self, facts: dict[str, float]) -> None:
        now = time.monotonic()
        if self._token is not None and now - self._last >= _EVERY:
            self._last = now
            self._broadcast.tell(self._game, {"type": self._kind, "token": self._token, **facts})
