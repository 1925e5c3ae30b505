"""Who else looks at a game, and where they are: told by each page every few seconds, kept nowhere."""

from __future__ import annotations

import threading
import time
from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from golddice.server.bench import Bench
from golddice.server.schemas.common import Token, Wire
from golddice.server.schemas.games import Who

AWAY = 3.5  # seconds without a word; pages say one every second and a half, so all know within 5
MOST = 100  # pages of one game
MOST_GAMES = 1_000
router = APIRouter(prefix="/api/games/{game_id}", tags=["presence"])
Place = Annotated[str, Field(max_length=200)]


class HereIn(Wire):
    """`sheet` is the address of what is looked at, `cell` what is under the keyboard, in words, `at` its
    address in a grid; `leaves`: goodbye."""

    page: Token
    who: Who = ""
    sheet: Place = ""
    cell: Place = ""
    at: Place = ""
    leaves: bool = False


class People:
    """By game and page, with when they were heard of last."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._here: dict[str, dict[str, tuple[float, HereIn]]] = {}

    def heard(self, game: str, here: HereIn) -> list[HereIn]:
        """All who are there now."""
        now = time.monotonic()
        with self._lock:
            for name, pages in list(self._here.items()):
                for page in [page for page, (at, _) in pages.items() if now - at > AWAY]:
                    del pages[page]
                if not pages:
                    del self._here[name]
            there = self._here.pop(game, {})
            there.pop(here.page, None)
            if not here.leaves and len(there) < MOST:
                there[here.page] = now, here
            if there and len(self._here) < MOST_GAMES:
                self._here[game] = there
            return [one for _, one in there.values()]


PEOPLE = People()


@router.post("/presence", status_code=204)
def here(game_id: str, asked: HereIn, bench: Bench) -> None:
    """Tell the pages of a game who is there. Nothing of it is kept; of a game that is gone nobody hears."""
    people = [one.model_dump(exclude={"leaves"}) for one in PEOPLE.heard(game_id, asked)]
    bench.broadcast.tell(game_id, {"type": "presence", "people": people})
