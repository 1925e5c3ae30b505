"""Each page says now and then where it is; who is there is news of the game."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter
from pydantic import Field

from golddice.server.bench import Bench
from golddice.server.schemas.common import Token, Wire
from golddice.server.schemas.games import Who

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


@router.post("/presence", status_code=204)
def here(game_id: str, asked: HereIn, bench: Bench) -> None:
    """Tell the pages of a game who is there. Nothing of it is kept; of a game that is gone nobody hears."""
    bench.broadcast.tell(game_id, {"type": "here", "who": asked.model_dump()})
