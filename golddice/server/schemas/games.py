"""Games, changes to them, and their history, as they go over the wire."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from pydantic import BaseModel, Field

from golddice.core.game.models import Curve, Flag, Item, Settings, Source, Table, Target, Tier
from golddice.server.schemas.common import ShortText, Wire


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


class GameBody(BaseModel):
    """A whole game as the client holds it."""

    id: str
    revision: int
    settings: Settings
    curves: list[Curve]
    tiers: list[Tier]
    flags: list[Flag]
    items: list[Item]
    tables: list[Table]
    sources: list[Source]
    targets: list[Target]
    steps: Steps


class EntryIn(Wire):
    """One entity's new body, null to remove it; `before` puts it in front of another."""

    kind: str
    id: str
    body: dict[str, Any] | None
    before: str | None = None


class Asked(Wire):
    """What every question about a game names: at which revision (without one: as it is now), and edits
    not made yet. So an answer is about what the page shows, whatever others do meanwhile."""

    revision: Annotated[int, Field(ge=1, le=2**31 - 1)] | None = None
    draft: list[EntryIn] = []


class ChangeIn(Wire):
    base: int
    label: Annotated[str, Field(min_length=1, max_length=200)]
    entries: Annotated[list[EntryIn], Field(min_length=1, max_length=5000)]


class RemovalIn(Wire):
    base: int
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
