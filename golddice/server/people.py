"""Who else looks at a game, and where they are: told by each page as it moves, kept nowhere."""

from __future__ import annotations

import threading
import time
from typing import Any

# Seconds without a word. A page says one where it is somewhere else, and every half minute; that it has gone
# is known by its connection, so this is for what a server that was killed has left.
AWAY = 90.0
MOST = 100  # pages of one game
MOST_GAMES = 1_000


class People:
    """By game and page, with when they were heard of last."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._here: dict[str, dict[str, tuple[float, dict[str, Any]]]] = {}

    def heard(self, game: str, here: dict[str, Any]) -> list[dict[str, Any]]:
        """All who are there now. Of `here`, `page` says who it is and `leaves` that it goes."""
        now = time.monotonic()
        with self._lock:
            for name, pages in list(self._here.items()):
                for page in [page for page, (at, _) in pages.items() if now - at > AWAY]:
                    del pages[page]
                if not pages:
                    del self._here[name]
            there = self._here.pop(game, {})
            there.pop(here["page"], None)
            if not here["leaves"] and len(there) < MOST:
                there[here["page"]] = now, {key: one for key, one in here.items() if key != "leaves"}
            if there and len(self._here) < MOST_GAMES:
                self._here[game] = there
            return [one for _, one in there.values()]
