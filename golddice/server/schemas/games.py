"""Games, changes to them, and their history, as they go over the wire."""

from __future__ import annotations

from datetime import datetime
from types import GenericAlias
from typing import Annotated, Any

from pydantic import BaseModel, Field, create_model

from golddice.core.game.models import KINDS, LISTS, Settings
from golddice.server.schemas.common import ShortText, Token, Wire

Base = Annotated[int, Field(ge=1, le=2**31 - 1)]  # a revision


class GameSummary(BaseModel):
    id: str
    name: str
    revision: int
    updated_at: datetime


class NewGame(Wire):
    name: ShortText


class Steps(BaseModel):
    """What undo and redo would do now."""

    undo: str | None
    redo: str | None


class _OpenGame(BaseModel):
    """A whole game as the client holds it."""

    id: str
    revision: int
    settings: Settings
    steps: Steps


# With a list for each kind of entity that there is.
GameBody = create_model(
    "GameBody",
    __base__=_OpenGame,
    __doc__=_OpenGame.__doc__,
    **{key: (GenericAlias(list, (KINDS[kind],)), ...) for kind, key in LISTS.items()},  # type: ignore[call-overload]
)


class EntryIn(Wire):
    """One entity's new body, null to remove it; `before` puts it in front of another."""

    kind: str
    id: str
    body: dict[str, Any] | None
    before: str | None = None


class Asked(Wire):
    """What every question about a game names: at which revision (without one: as it is now), and edits
    not made yet. So an answer is about what the page shows, whatever others do meanwhile."""

    revision: Base | None = None
    draft: Annotated[list[EntryIn], Field(max_length=5000)] = []


class ChangeIn(Wire):
    """`token` is the change's own id: the same again is answered as the first time, and done once. `page`
    is who makes it: each page undoes its own changes, and what no page made."""

    base: Base
    token: Token | None = None
    page: Token | None = None
    label: Annotated[str, Field(min_length=1, max_length=200)]
    entries: Annotated[list[EntryIn], Field(min_length=1, max_length=50_000)]


class StepIn(Wire):
    """Of an undo or redo, which have a token and a page like a change."""

    token: Token | None = None
    page: Token | None = None


class RemovalIn(Wire):
    base: Base
    token: Token | None = None
    page: Token | None = None
    kind: str
    id: str


class EntryOut(BaseModel):
    kind: str
    id: str
    body: dict[str, Any] | None
    position: float


class ChangeOut(BaseModel):
    revision: int
    label: str
    entries: list[EntryOut]
    steps: Steps


class HistoryEntry(BaseModel):
    revision: int
    at: datetime
    origin: str
    label: str


class UseOut(BaseModel):
    kind: str
    id: str
    path: str
