"""Games, changes to them, and their history, as they go over the wire."""

from __future__ import annotations

from datetime import datetime
from types import GenericAlias
from typing import Annotated, Any

from pydantic import BaseModel, Field, create_model

from golddice.core.game.models import KINDS, LISTS, Settings
from golddice.server.schemas.common import ShortText, Token, Wire

Who = Annotated[str, Field(max_length=60)]
Base = Annotated[int, Field(ge=1, le=2**31 - 1)]  # a revision


class GameSummary(BaseModel):
    id: str
    name: str
    revision: int
    updated_at: datetime
    copied_from: str | None = None
    copied_at: int | None = None


class Strip(BaseModel):
    """A tier, and how many items are of it."""

    name: str
    colour: str
    items: int


class NewGame(Wire):
    """`token` is its own id: sent again under it, no second one is made."""

    name: ShortText
    token: Token | None = None


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
    who: Who = ""
    label: Annotated[str, Field(min_length=1, max_length=200)]
    entries: Annotated[list[EntryIn], Field(min_length=1, max_length=50_000)]


class StepIn(Wire):
    """Of an undo or redo, which have a token and a page like a change."""

    token: Token | None = None
    page: Token | None = None
    who: Who = ""


class RemovalIn(Wire):
    base: Base
    token: Token | None = None
    page: Token | None = None
    who: Who = ""
    kind: str
    id: str
    also: Annotated[list[str], Field(max_length=500)] = []
    """Others of the kind that go with it, in the same step."""


class EntryOut(BaseModel):
    kind: str
    id: str
    body: dict[str, Any] | None
    position: float


class ChangeOut(BaseModel):
    """`in_order` : all else stands where it stood, so nobody need ask for the whole game to know where."""

    in_order: bool = False
    revision: int
    label: str
    entries: list[EntryOut]
    steps: Steps


class HistoryEntry(BaseModel):
    """`things` are (kind, id) of the first few that it touched, `count` how many; `page` tells who apart,
    `who` is the name that they chose."""

    revision: int
    at: datetime
    origin: str
    label: str
    page: str
    who: str
    things: list[tuple[str, str]]
    count: int
    mark: str | None = None


class MarkIn(Wire):
    name: ShortText


class BackIn(Wire):
    """Back to a revision, as a change of a page."""

    revision: Base
    token: Token | None = None
    page: Token | None = None
    who: Who = ""


class TargetMoved(BaseModel):
    id: str
    name: str
    was_met: bool
    met: bool
    before: float | None
    after: float | None


class FigureMoved(BaseModel):
    """A figure of a source where it moves furthest: `of` an item, a tier, or the value of an event."""

    source: str
    of: str
    id: str
    depth: int
    before: float
    after: float


class ComparedOut(BaseModel):
    first: int
    last: int
    moved: list[FigureMoved]
    targets: list[TargetMoved]


class UseOut(BaseModel):
    kind: str
    id: str
    path: str
