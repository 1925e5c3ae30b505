"""The log of a game's changes, and the game as it was."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from sqlmodel import Session, col, select
from sqlmodel.sql.expression import SelectOfScalar

from golddice.core.game.upgrades import FromTomorrow, upgraded
from golddice.store.errors import FromLater
from golddice.store.rows import ChangeRow, EntityRow


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


def as_it_was(now: Sequence[EntityRow], since: Iterable[ChangeRow]) -> list[Stored]:
    """The entities before some changes, which are the latest ones, newest first; in order."""
    found = {(row.kind, row.id): Stored.of(row) for row in now}
    for change in since:
        for entry in change.entries:
            kind, name, position = entry["kind"], entry["id"], entry["position_before"]
            body = in_shape(kind, entry["before"], change.shape)
            found[kind, name] = Stored(kind, name, position or 0.0, body)
    return sorted(found.values(), key=lambda one: (one.position, one.id))


def log_of(session: Session, game_id: str, limit: int) -> list[ChangeRow]:
    """The latest changes, newest first."""
    return list(session.exec(_newest_first(game_id).limit(limit)).all())


def changes_after(session: Session, game_id: str, revision: int) -> list[ChangeRow]:
    """Every change since a revision, newest first."""
    return list(session.exec(_newest_first(game_id).where(ChangeRow.revision > revision)).all())


def _newest_first(game_id: str) -> SelectOfScalar[ChangeRow]:
    return select(ChangeRow).where(ChangeRow.game == game_id).order_by(col(ChangeRow.revision).desc())
