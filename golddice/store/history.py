"""The log of a game's changes, and the game as it was."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import text
from sqlmodel import Session

from golddice.core.game.upgrades import FromTomorrow, upgraded
from golddice.store.errors import FromLater
from golddice.store.rows import EntityRow


@dataclass(frozen=True)
class Stored:
    """One entity, its place among those of its kind, and its body in today's shape; None where it is
    removed."""

    kind: str
    id: str
    position: float
    body: dict[str, Any] | None

    @staticmethod
    def of(row: EntityRow) -> Stored:
        return Stored(row.kind, row.id, row.position, in_shape(row.kind, row.body, row.shape))


def in_shape(kind: str, body: dict[str, Any] | None, shape: int) -> dict[str, Any] | None:
    """A stored body in today's shape. Raises FromLater."""
    try:
        return upgraded(kind, body, shape)
    except FromTomorrow as error:
        raise FromLater(str(error)) from None


@dataclass(frozen=True)
class Logged:
    """A change as the log tells it, without bodies: `things` are (kind, id) of what it touched, the first
    few, and `count` how many."""

    revision: int
    at: datetime
    origin: str
    label: str
    page: str
    who: str
    things: list[tuple[str, str]]
    count: int


_LOG = text("""
select revision, at, origin, label, page, who, jsonb_array_length(entries) as many,
  (select jsonb_agg(jsonb_build_array(e -> 'kind', e -> 'id')) from
     (select e from jsonb_array_elements(entries) e limit 4) few) as things
from change where game = :game and revision < :before order by revision desc limit :limit
""")

# Of each entity the first change after a revision: what it had before that is what it was then.
_FIRST_AFTER = text("""
with earliest as (
  select distinct on (kind, id) kind, id, revision, place from (
    select e ->> 'kind' as kind, e ->> 'id' as id, revision, place
    from change, jsonb_array_elements(entries) with ordinality as each (e, place)
    where game = :game and revision > :revision) touched
  order by kind, id, revision)
select kind, id, (entries -> (place - 1)::int ->> 'position_before')::float as position,
  nullif(entries -> (place - 1)::int -> 'before', 'null'::jsonb) as body, shape
from earliest join change using (revision) where game = :game
""")


def log_of(session: Session, game_id: str, limit: int, before: int | None = None) -> list[Logged]:
    """The latest changes before a revision, newest first."""
    asked = {"game": game_id, "before": before or 2**31 - 1, "limit": limit}
    return [
        Logged(
            **{key: getattr(row, key) for key in ("revision", "at", "origin", "label", "page", "who")},
            things=[(kind, name) for kind, name in row.things or ()],
            count=row.many,
        )
        for row in session.connection().execute(_LOG, asked)
    ]


def past_of(session: Session, game_id: str, now: Sequence[EntityRow], revision: int) -> list[Stored]:
    """The entities as they were at a revision, in order; those that were not there yet without a body."""
    found = {(row.kind, row.id): Stored.of(row) for row in now}
    for row in session.connection().execute(_FIRST_AFTER, {"game": game_id, "revision": revision}):
        body = in_shape(row.kind, row.body, row.shape)
        found[row.kind, row.id] = Stored(row.kind, row.id, row.position or 0.0, body)
    return sorted(found.values(), key=lambda one: (one.position, one.id))
