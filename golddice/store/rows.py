"""The rows of the database."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import BigInteger, Column, DateTime
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, SQLModel


def now() -> datetime:
    return datetime.now(UTC)


class GameRow(SQLModel, table=True):
    """A game: its name (for the list of games) and how many changes were made to it."""

    __tablename__ = "game"

    id: str = Field(primary_key=True)
    name: str
    revision: int = 0
    created_at: datetime = Field(default_factory=now, sa_column=Column(DateTime(timezone=True)))
    updated_at: datetime = Field(default_factory=now, sa_column=Column(DateTime(timezone=True)))
    deleted_at: datetime | None = Field(default=None, sa_column=Column(DateTime(timezone=True)))
    copied_from: str | None = None
    copied_at: int | None = None


class EntityRow(SQLModel, table=True):
    """One tier, item, table ... of a game. A removed one stays, without a body, for conflicts.

    `shape` is that in which the body was written: see `core.game.upgrades`.
    """

    __tablename__ = "entity"

    game: str = Field(primary_key=True, foreign_key="game.id", ondelete="CASCADE")
    kind: str = Field(primary_key=True)
    id: str = Field(primary_key=True)
    position: float
    revision: int
    shape: int = 1
    body: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))


class ChangeRow(SQLModel, table=True):
    """One change: what was there before and after, so that it can be undone and told.

    `origin` is edit, undo or redo. `entries` are {kind, id, before, after, position_before,
    position_after}; a missing body is null. `token` is the change's own id, given by whoever made it:
    the same again is answered as the first time. `page` is whose list of steps it is in; `undo` and `redo`
    are what came next in that list before this one did.
    """

    __tablename__ = "change"

    game: str = Field(primary_key=True, foreign_key="game.id", ondelete="CASCADE")
    revision: int = Field(primary_key=True)
    at: datetime = Field(default_factory=now, sa_column=Column(DateTime(timezone=True)))
    origin: str
    label: str
    token: str | None = None
    page: str = ""
    who: str = ""
    undo: int | None = None
    redo: int | None = None
    shape: int = 1
    entries: list[dict[str, Any]] = Field(sa_column=Column(JSONB, nullable=False))


class StepsRow(SQLModel, table=True):
    """Where a page stands among its own changes: the revisions of those that it would take back, or do
    again, next. The page without a name is of changes that are nobody's."""

    __tablename__ = "steps"

    game: str = Field(primary_key=True, foreign_key="game.id", ondelete="CASCADE")
    page: str = Field(primary_key=True)
    undo: int | None = None
    redo: int | None = None


class TrialRow(SQLModel, table=True):
    """A trial: what was asked, how far it is, what came of it.

    `status` is waiting, running, done, failed or cancelled (see `store.line`). `owner` is who plays it, whose
    lease ends at `lease_until` unless it is renewed; `progress` and `partial` are what is told meanwhile.
    """

    __tablename__ = "trial"

    id: str = Field(primary_key=True)
    game: str = Field(foreign_key="game.id", ondelete="CASCADE", index=True)
    number: int
    name: str
    note: str = ""
    pinned: bool = False
    beside: str | None = None
    revision: int
    kernel: int | None = None
    program: str | None = None
    spec: dict[str, Any] = Field(sa_column=Column(JSONB, nullable=False))
    status: str
    done: int = Field(default=0, sa_column=Column(BigInteger, nullable=False))
    seconds: float | None = None
    error: str | None = None
    result: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))
    created_at: datetime = Field(default_factory=now, sa_column=Column(DateTime(timezone=True)))
    deleted_at: datetime | None = Field(default=None, sa_column=Column(DateTime(timezone=True)))
    owner: str | None = None
    lease_until: datetime | None = Field(default=None, sa_column=Column(DateTime(timezone=True)))
    started_at: datetime | None = Field(default=None, sa_column=Column(DateTime(timezone=True)))
    progress: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))
    partial: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))


class TrialUnitRow(SQLModel, table=True):
    """What one range of a trial's players brought, as `core.trial.bytes_of` packs it."""

    __tablename__ = "trial_unit"

    trial: str = Field(primary_key=True, foreign_key="trial.id", ondelete="CASCADE")
    number: int = Field(primary_key=True)
    players: int
    data: bytes


class MarkRow(SQLModel, table=True):
    """A name that somebody gave to a revision."""

    __tablename__ = "mark"

    game: str = Field(primary_key=True, foreign_key="game.id", ondelete="CASCADE")
    revision: int = Field(primary_key=True)
    name: str


class HeldLogRow(SQLModel, table=True):
    """What a log of the running game was found to say, held against a revision."""

    __tablename__ = "held_log"

    id: str = Field(primary_key=True)
    game: str = Field(foreign_key="game.id", ondelete="CASCADE", index=True)
    name: str
    revision: int
    at: datetime = Field(default_factory=now, sa_column=Column(DateTime(timezone=True), nullable=False))
    result: dict[str, Any] = Field(sa_column=Column(JSONB, nullable=False))


class PictureRow(SQLModel, table=True):
    """A picture under the plan of a place, as PNG."""

    __tablename__ = "picture"

    game: str = Field(primary_key=True, foreign_key="game.id", ondelete="CASCADE")
    place: str = Field(primary_key=True)
    digest: str
    data: bytes


class MadeRow(SQLModel, table=True):
    """What was made under an id of its own (`token`): sent again under it, it is not made twice."""

    __tablename__ = "made"

    token: str = Field(primary_key=True)
    at: datetime = Field(default_factory=now, sa_column=Column(DateTime(timezone=True), nullable=False))
    id: str
